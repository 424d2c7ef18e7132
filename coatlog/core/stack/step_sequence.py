"""From survey, preparation and layers to the list of steps in working order, each with its reason."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..sheet import Sheet, pick_recoat
from .findings import StackLayer, Survey
from .preps import Prep
from .step_catalogue import CAUTIONS, STEPS, Done, StepKind
from .surfaces import FERROUS, SUBSTRATES

__all__ = [
    "SOLVENT_STEPS",
    "STEP_UP",
    "Work",
    "between",
    "first",
    "spot",
    "step_sequence",
    "usual_layer",
    "with_steps",
]

STEP_UP = 1.6  # common practice, no published source: how much finer the next grit may be
KEEP_DRY_S = 4 * 3600  # assumed: so long, and the dew of the night counts
UNDER_WATER = 0.5  # assumed: at least so much of the most film a barrier or an antifouling may have
_LOGGED = {x: x for x in ("wash", "degrease", "abrade", "wipe", "dry", "mask", "test_piece", "wipe off")}
_MIDDLE_GRITS = (12, 24, 36, 60, 80, 120, 180, 240, 320, 400, 500, 600, 800, 1000, 1200, 1500, 2000, 3000)


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """One line of the list: a step or a material's coats, what it is checked by, what may hurt, how long.

    `key`: its id in the list, which a tick names.  `position`: the layer it serves, -1 before the first.
    `kind`, `gate`, `must`, `if_failed`: see Step.  `log`: the word it goes on the log with.
    """

    key: str
    step: str
    name: str
    check: str
    tools: tuple[str, ...]
    cautions: tuple[str, ...]
    position: int
    takes_s: int
    grit: int | None = None
    sheet_id: str = ""
    if_failed: str = ""
    instead: str = ""
    log: str = ""
    must: bool = False
    kind: StepKind = "coat"
    gate: str = ""


def usual_layer(sheet: Sheet) -> StackLayer:
    """The coats and film [um] a sheet speaks of: its hints, enough film to peel, never above its total."""
    least, most = sheet.coats_range
    p = sheet.properties
    # Silent sheets: one coat of what is thin or filled, two of a finish.
    usual = len(sheet.hints) or (2 if p.gives and not p.acid and not p.fills else 1)
    coats = min(max(least, usual), most)
    film = sheet.film
    if film is None:
        return StackLayer(sheet=sheet, coats=coats)
    each = sheet.usual_um() or 0.0
    if p.barrier or p.antifouling != "none":
        coats = min(max(coats, math.ceil(UNDER_WATER * film.total_max_um / each)), most)
    peel = p.peel_film_um
    if peel is not None:
        coats = min(max(coats, math.ceil(peel / each)), most)
        each = max(each, min(peel / coats, film.dry_um_max))
    each = min(each, film.total_max_um / coats)
    return StackLayer(sheet=sheet, coats=coats, target_um=round(coats * each, 1))


def with_steps(survey: Survey, path: Sequence[Prep], layers: Sequence[StackLayer]) -> tuple[StackLayer, ...]:
    """The layers with the steps before each laid down, as a good foreman would; what was said stays."""
    whole = next((x.sheet for x in layers[1:] if x.patches_m2 is None), None)
    own = (
        first(survey, path, layers[0], whole or (layers[1].sheet if len(layers) > 1 else None)),
        *(between(a.sheet, b) for a, b in itertools.pairwise(layers)),
    )
    return tuple(
        said if said.before is not None else listed for said, listed in zip(layers, own, strict=True)
    )


def step_sequence(
    survey: Survey,
    path: Sequence[Prep],
    layers: Sequence[StackLayer],
    area_m2: float = 1.0,
    *,
    edge_m: float | None = None,
    mask_over_tacky: bool = False,
) -> tuple[Work, ...]:
    """Everything to do in working order, from the look at it to the clean gun.

    `area_m2`, `edge_m`: of the part, for times [m², m].  `mask_over_tacky`: leave masking where the layers
    have it, as lists had it once; otherwise nothing is masked on a layer that the next one wants tacky.
    """
    layers = layers if mask_over_tacky else _masked_in_time(layers)
    out: list[Work] = []
    instead = {_heart(p): p.instead for p in path if p.instead}

    def add(done: Done, position: int, patches_m2: float | None = None) -> None:
        step = STEPS[done.step]
        name = step.name if done.grit is None else f"{step.name}, P{done.grit}"
        name = name if patches_m2 is None else f"{name}, {ON_PATCHES}"
        out.append(
            Work(
                key=f"{position}/{done.step}/{len(out)}",
                step=done.step,
                name=name,
                check=step.check,
                tools=step.tools,
                cautions=tuple(CAUTIONS[c] for c in step.cautions),
                position=position,
                takes_s=step.takes_s(area_m2, edge_m) if patches_m2 is None else step.takes_s(patches_m2),
                grit=done.grit,
                if_failed=step.if_failed,
                log=_LOGGED.get(step.log, "other"),
                must=step.must,
                kind=step.kind,
                gate=step.gate,
                instead=instead.get(done.step, ""),
            )
        )

    for i, x in enumerate(layers):
        for done in x.before or ():
            add(done, -1 if i == 0 else i, _where(layers, i, done))
        if x.sheet.properties.two_pack:
            add(Done("look_hardener"), -1 if i == 0 else i)
        out.append(_coats(x, i, last=i == len(layers) - 1))
        for then in x.sheet.then:
            if then.step == "wipe off":
                add(Done("wipe_excess"), i)
    for name in _last(survey, layers):
        add(Done(name), len(layers) - 1)
    return tuple(out)


def _where(layers: Sequence[StackLayer], i: int, done: Done) -> float | None:
    """The patches [m2] a step before layer `i` is done on; None: all over the part.

    Before the first layer the whole part is looked at, cleaned and keyed for what covers it; only feathering
    is for the patches.  Between layers the step belongs to the patches where either side is one, but for
    what readies the part for a coat all over it.
    """
    if i == 0:
        return layers[0].patches_m2 if done.step == "feather" else None
    if layers[i].patches_m2 is not None:
        return layers[i].patches_m2
    below = layers[i - 1].patches_m2
    return below if below is not None and done.step == "level" else None


def _masked_in_time(layers: Sequence[StackLayer]) -> list[StackLayer]:
    """The layers with what would be masked and tried on a tacky one done before that one goes on."""
    out = list(layers)
    for i in range(len(out) - 1, 0, -1):
        recoat = pick_recoat(out[i - 1].sheet, out[i].sheet)
        if recoat is None or not all(w.tacky for w in recoat.windows):
            continue
        early = [d for d in out[i].before or () if STEPS[d.step].kind in ("mask", "try")]
        if not early:
            continue
        masks = any(STEPS[d.step].kind == "mask" for d in early)
        kept = [d for d in out[i - 1].before or () if not (masks and STEPS[d.step].kind == "mask")]
        out[i - 1] = replace(out[i - 1], before=(*kept, *early))
        out[i] = replace(out[i], before=tuple(d for d in out[i].before or () if d not in early))
    return out


def _heart(prep: Prep) -> str:
    """The step a preparation is named for."""
    return next((d.step for d in prep.steps if STEPS[d.step].kind == "strip"), prep.steps[-1].step)


def _coats(x: StackLayer, i: int, *, last: bool) -> Work:
    words = [h.character for h in x.sheet.hints if h.character][: x.coats]
    told = f": {', '.join(words)}" if words else ""
    told = told if x.patches_m2 is None else f", {ON_PATCHES}"
    return Work(
        key=f"{i}/coat",
        step="coat",
        name=f"{x.coats} {'coat' if x.coats == 1 else 'coats'} of {x.sheet.name}{told}",
        check="film, cover and edges as the sheet says",
        tools=(x.sheet.method_id.replace("_", " "),),
        cautions=(*x.sheet.hazards, *((CAUTIONS["keep_dry"],) if last and _minds_water(x.sheet) else ())),
        position=i,
        takes_s=0,
        sheet_id=x.sheet.id,
    )


def _minds_water(sheet: Sheet) -> bool:
    """Whether a sheet says how long no water may touch its last coat, and that is not over by the evening."""
    return any(s >= KEEP_DRY_S for _, s in sheet.points_for("water"))


def spot(survey: Survey, ground: str, sheet: Sheet) -> bool:
    """Whether a layer goes on bare or dented patches only, and sound paint lies round them."""
    return SUBSTRATES[ground].group == "paint" and sheet.role in ("pretreatment", "filler") and bool(
        survey.bare_mm or {"dents", "scratches"} & set(survey.features)
    )  # fmt: skip


def first(survey: Survey, path: Sequence[Prep], layer: StackLayer, above: Sheet | None = None) -> StackLayer:
    """The first layer with what is done before it: look, clean, strip, key, clean, mask, try.

    `above`: the layer over it; where the first is only spotted, the part is keyed for that one.
    """
    sheet = layer.sheet
    ground = path[-1].to if path else survey.substrate
    surface = SUBSTRATES[ground]
    steps: list[Done] = [Done("inspect")]
    if "ports" in survey.features:
        steps.append(Done("ports"))
    bonds = sheet.build == "bonded" or sheet.properties.family == "strip_primer"
    if bonds:
        steps += [Done("dry_fit"), Done("tape_out")]
    if "holes" in survey.features and surface.group in ("metal", "paint"):
        steps.append(Done("patch_hole"))
    key = sheet.properties.key_grit
    spotted = layer.patches_m2 is not None or spot(survey, ground, sheet)
    if spotted and above is not None and above.properties.key_grit:
        key = above.properties.key_grit
    wants = _middle(key)
    for prep in path:
        steps += [_keyed(d, wants) for d in prep.steps]
    if not path:
        steps += [Done(x) for x in _cleaning(ground, sheet)]
    keyed = any(d.step in _KEYS for d in steps)
    grits = [d.grit for d in steps if d.step in _KEYS and d.grit is not None]
    fits = not grits or not key or key[0] <= grits[-1] <= key[-1]
    prepared = bool(path) and keyed and fits and path[-1].steps[-1].step == "wipe"
    if key and not surface.profiled and not prepared:
        cleaned = any(d.step in ("degrease", "wipe") for d in steps)
        steps += [] if cleaned else [Done("degrease")]
        if surface.antifouling:
            # Its dust is a biocide: only wet, and rinsed off again.
            steps += [Done("wet_sand", wants), Done("dry"), Done("wipe")]
        else:
            # What was said to lie on patches is keyed there for itself, and the part for what covers it.
            own = _middle(sheet.properties.key_grit) if layer.patches_m2 is not None else None
            steps += [Done("feather", own)] if spotted else []
            steps += [*(Done("abrade", g) for g in _ladder(grits[-1:], wants)), Done("wipe")]
    elif layer.patches_m2 is not None and keyed and not any(d.step == "feather" for d in steps):
        # The way of preparing keys the part; the spots are feathered before it, with a grit of their own.
        at = max(i for i, d in enumerate(steps) if d.step in _KEYS)
        steps.insert(at, Done("feather", _middle(sheet.properties.key_grit)))
    elif path and not keyed and surface.group not in ("rubber", "fabric", "glass"):
        steps.append(Done("wipe"))
    if "clamping" in survey.features:
        steps.append(Done("bolts"))  # after the wash: tape does not hold on a wet wheel
    if "gear_masked" in survey.features:
        steps.append(Done("mask_gear"))
    steps += _masking(sheet)
    steel = surface.metal in FERROUS or surface.hull_metal == "steel"
    steel = steel or ("under_steel" in survey.features and surface.group == "paint")
    if steel and "immersion" in survey.must_survive:
        steps.append(Done("stripe"))
    if surface.id == "acrylic":
        steps = _without_solvent(steps)
    return replace(layer, before=tuple(steps))


#: what crazes acrylic and polycarbonate
SOLVENT_STEPS = ("degrease", "wipe", "wipe_alcohol", "wipe_acetone", "strip_wax", "dewax")


def _without_solvent(steps: Sequence[Done]) -> list[Done]:
    """The steps with soap, a wet towel and a dry one in the place of every wipe with solvent."""
    out: list[Done] = []
    for d in steps:
        if d.step not in SOLVENT_STEPS:
            out.append(d)
        elif not any(x.step == "abrade" for x in out):
            out += (
                [] if any(x.step == "suds" for x in out) else [Done("suds"), Done("rinse_towel"), Done("dry")]
            )
        else:
            out += [Done("rinse_towel"), Done("dry")]
    return out


ON_PATCHES = "on the patches"
_KEYS = ("abrade", "blast", "scuff", "wet_sand", "sweep_blast")
#: what leads to the state of a surface that no water may touch again
_NO_WATER = ("bare_filler", "polyester_primed", "zinc_primed")


def _cleaning(ground: str, sheet: Sheet) -> tuple[str, ...]:
    group = SUBSTRATES[ground].group
    if group == "wood":
        return ("moisture", "wipe")
    if SUBSTRATES[ground].profiled or ground in _NO_WATER:
        return ("wipe",)
    if SUBSTRATES[ground].rust:
        return ("wash", "loosen_rust", "dry", "degrease")
    if sheet.build == "bonded" or sheet.properties.family == "strip_primer":
        return ("wash", "dry", "wipe_alcohol")
    if group == "glass":
        return ("degrease", "polish_glass", "degrease")
    if group == "rubber":
        return ("suds", "rinse_towel", "dry")
    if ground == "leather":
        return ("leather_prep", "wipe_alcohol")
    if ground in ("woven_fabric", "aircraft_cloth"):
        return ("lint_roll", "clean_fabric", "lint_roll", "dry")
    if sheet.build in ("wipe_on", "soaks_in"):
        return ("wash", "dry", "wipe_alcohol")
    if ground == "vinyl" or ground == "interior_plastic":
        return ("suds", "degrease", "wipe_alcohol", "dry")
    if ground == "bare_aluminium" and sheet.properties.family == "conversion":
        return ("wash", "dry", "degrease", "deoxidise", "rinse_ph", "dry")
    return ("wash", "dry", "degrease")


def _masking(sheet: Sheet) -> list[Done]:
    p = sheet.properties
    if sheet.build == "bonded" or p.family == "strip_primer":
        return [Done("wipe_alcohol")]
    steps = []
    if sheet.method_id == "aerosol" and p.peelable:
        steps.append(Done("warm_can"))
    if p.peelable:
        steps.append(Done("mask_loose"))
    elif _liner(sheet):
        steps += [Done("mask_hard"), Done("test_piece")]
    elif sheet.build != "film":
        steps.append(Done("mask_trim"))
    else:
        steps.append(Done("mask"))
    return steps


def _liner(sheet: Sheet) -> bool:
    """A thick two-pack texture: its edge has to be cut, and its texture tried first."""
    return "texture" in sheet.properties.gives and sheet.properties.two_pack


def between(below: Sheet, layer: StackLayer) -> StackLayer:
    """The layer with what is done before it: level what is levelled; otherwise the window bonds it."""
    sheet = layer.sheet
    steps: list[Done] = []
    if below.properties.sanded:
        grit = _middle(sheet.properties.key_grit)
        # Filler is cut flat coarse, then its scratches are taken out step by step.
        grits = [80, *_ladder([80], grit)] if below.role == "filler" and grit != 80 else [grit]
        steps += [Done("wipe"), *(Done("level", g) for g in grits), Done("wipe")]
        if sheet.role in ("colour", "one_coat") and sheet.method_id in ("spray_gun", "aerosol"):
            steps.append(Done("tack"))
    if _liner(sheet) and not _liner(below):
        steps += [Done("mask_hard"), Done("test_piece")]
    return replace(layer, before=tuple(steps))


def _last(survey: Survey, layers: Sequence[StackLayer]) -> list[str]:
    top = layers[-1].sheet
    steps = []
    if any(d.step.startswith("mask") for x in layers for d in x.before or ()):
        steps.append("unmask")
    if top.properties.metal == "copper" and top.properties.antifouling == "hard" and top.properties.two_pack:
        steps.append("launch_sand")
    if top.build == "bonded":
        steps.append("burnish")
    steps += _tools(layers)
    if "clamping" in survey.features:
        steps.append("retorque")
    if "control_surface" in survey.features:
        steps.append("balance")
    if "ports" in survey.features:
        steps.append("ports_after")
    return steps


def _tools(layers: Sequence[StackLayer]) -> list[str]:
    """What is cleaned or put away at the end, by what the layers went on with, each once."""
    out: dict[str, None] = {}
    for x in layers:
        method, two_pack = x.sheet.method_id, x.sheet.properties.two_pack
        if x.sheet.build == "bonded":
            continue
        if method in ("spray_gun", "liner_gun"):
            out["clean_gun"] = None
        elif method == "aerosol":
            out["clear_can"] = None
        elif method == "spread":
            out["drop_spreader"] = None
        elif method in ("cloth", "trigger_bottle") or x.sheet.build != "film":
            out["close_bottle"] = None
        else:
            out["drop_brush" if two_pack else "clean_brush"] = None
    return list(out)


def _keyed(done: Done, wants: int | None) -> Done:
    return Done("abrade", wants) if done.step == "abrade" and done.grit is None else done


def _ladder(last: Sequence[int], wants: int | None) -> list[int | None]:
    """Grits from the last one used up to the one wanted, each at most STEP_UP of the one before."""
    if wants is None or not last or wants <= last[0]:
        return [wants]
    out: list[int | None] = []
    at = last[0]
    while at * STEP_UP < wants:
        at = max(g for g in _MIDDLE_GRITS if g <= at * STEP_UP)
        out.append(at)
    return [*out, wants]


def _middle(key: Sequence[int]) -> int | None:
    """A grit within the range: the finest one sold that is not finer than its middle."""
    if not key:
        return None
    inside = [g for g in _MIDDLE_GRITS if key[0] <= g <= key[-1]]
    return inside[len(inside) // 2] if inside else key[0]
