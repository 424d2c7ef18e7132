"""What is done in what order before a coat.  Silent where the steps are not laid down yet."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from ..findings import Hit, Stack, rule
from ..step_catalogue import AT_FIRST, STATES, STEPS, Done, after
from ..step_sequence import STEP_UP

CLEANING = ("degrease", "wipe", "wipe_alcohol", "wipe_acetone", "strip_wax", "dewax", "rinse_towel")
KEYING = ("abrade", "level", "scuff", "blast", "steel_grit", "wet_sand", "sweep_blast")
DRY_SANDING = ("abrade", "level", "scuff", "feather")


def _places(steps: tuple[Done, ...], names: tuple[str, ...]) -> list[int]:
    return [i for i, d in enumerate(steps) if d.step in names]


@rule(
    "key.missing",
    "stop",
    overrule="sheet",
    why="It needs a sanded surface to adhere.",
    instead="Abrade it dull all over with the grit its sheet wants.",
)
def no_key(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        sheet = s.layers[i].sheet
        # A film inside its window bonds by itself; what lies under the first coat does not.
        if i == 0 and sheet.properties.key_grit and not s.ground.profiled and not _places(steps, KEYING):
            yield Hit(i, f"{sheet.name} on a surface that is not sanded.")
        if i and s.layers[i - 1].sheet.properties.sanded and not _places(steps, KEYING):
            yield Hit(i, f"{sheet.name} on {s.layers[i - 1].sheet.name} that was not sanded.")


@rule(
    "degrease.before",
    "stop",
    why="Sanding before degreasing drives contamination in: fish-eyes.",
    instead="Degrease first with two cloths, wiped dry before it flashes, then abrade.",
)
def degrease_before_abrading(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        keyed, cleaned = _places(steps, KEYING), _places(steps, CLEANING)
        if i == 0 and keyed and (not cleaned or cleaned[0] > keyed[0]):
            yield Hit(i, f"Abrading before degreasing, under {s.layers[i].sheet.name}.")


@rule(
    "degrease.after",
    "stop",
    why="Dust and finger grease lie in the fresh scratches.",
    instead="Wipe again after abrading, with two clean cloths.",
)
def degrease_after_abrading(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        keyed, cleaned = _places(steps, KEYING), _places(steps, CLEANING)
        if keyed and (not cleaned or cleaned[-1] < keyed[-1]):
            yield Hit(i, f"No wipe after abrading, under {s.layers[i].sheet.name}.")


@rule(
    "order.needs",
    "stop",
    why="Do the missing step first; defects will show through.",
    instead="Do what is missing first.",
)
def step_without_what_it_needs(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        # A film inside its window is clean; what was found is not.
        state = AT_FIRST if i == 0 else AT_FIRST | {"degreased", "dustless"}
        for done in steps:
            step = STEPS[done.step]
            missing = [STATES[x] for x in step.needs if x not in state]
            if missing:
                yield Hit(i, f"{step.name.capitalize()} before it is {' and '.join(missing)}.")
            state = after(state, done)
        left = [STATES[x] for x in ("degreased", "dustless", "dry", "neutral") if x not in state]
        if left and steps:
            yield Hit(i, f"{s.layers[i].sheet.name} before it is {' and '.join(left)}.")


@rule("grit.coarse", "warn", instead="Go over it with a finer grit.")
def too_coarse(s: Stack) -> Iterator[Hit]:
    for i, last, (low, _) in _last_grits(s):
        if last < low:
            yield Hit(
                i, f"P{last} under {s.layers[i].sheet.name}.", f"Over P{low} its scratches show through."
            )


@rule("grit.fine", "warn", instead="Use a coarser grit, or its key is too shallow.")
def too_fine(s: Stack) -> Iterator[Hit]:
    for i, last, (_, high) in _last_grits(s):
        if last > high:
            yield Hit(i, f"P{last} under {s.layers[i].sheet.name}.", f"Finer than P{high} leaves no key.")


def _grits(steps: Sequence[Done]) -> list[int]:
    """The grits a part is gone over with, in order; a spot is feathered with one of its own."""
    return [d.grit for d in steps if d.grit is not None and d.step != "feather"]


def _last_grits(s: Stack) -> Iterator[tuple[int, int, tuple[int, int]]]:
    for i, steps in s.steps():
        # What was sanded before it was blasted is gone: the profile is the key.
        blasted = _places(steps, ("blast", "steel_grit", "sweep_blast"))
        grits = _grits(steps[(blasted or [-1])[-1] + 1 :])
        wanted = s.layers[i].sheet.properties.key_grit
        # A spot has a key of its own, feathered; the grit that is told is that of the part round it.
        spotted = bool(_places(steps, ("feather",))) and (
            s.layers[i].patches_m2 is not None or s.layers[i].sheet.role in ("pretreatment", "filler")
        )
        if grits and wanted and not spotted:
            yield i, grits[-1], (wanted[0], wanted[-1])


@rule(
    "grit.steps",
    "advise",
    why="Grit step too large: coarse scratches remain.",
    instead="Put a grit in between: each at most 1.6 times the last.",
)
def grit_jumps(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        for a, b in itertools.pairwise(_grits(steps)):
            if b > a * STEP_UP:
                yield Hit(i, f"P{a} then P{b}.")


@rule(
    "acid.rinsed",
    "stop",
    why="Acid left behind stops the cure of a two-pack epoxy and lets rust back.",
    instead="Rinse until test paper says pH 6 to 8, dry, then coat at once.",
)
def gel_not_rinsed(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        gels = _places(steps, ("rust_gel",))
        if gels and not any(j > gels[-1] for j in _places(steps, ("rinse_ph",))):
            yield Hit(i, f"Rust gel not rinsed, under {s.layers[i].sheet.name}.")


@rule(
    "acid.metal",
    "stop",
    overrule="never",
    why="Acid eats aluminium; springs, high-strength bolts and hard steel it makes brittle: they break.",
    instead="Take rust off there by hand or by mineral grit.",
)
def gel_where_it_harms(s: Stack) -> Iterator[Hit]:
    light = s.ground.metal in ("aluminium", "magnesium", "zinc")
    for i, steps in s.steps():
        if _places(steps, ("rust_gel",)) and (light or "hard_bolts" in s.survey.features):
            yield Hit(i, "Rust gel on light metal, springs or high-strength steel.")


@rule(
    "steel.on_light",
    "stop",
    why="Steel left in aluminium or stainless rusts there and starts pits.",
    instead="Use mineral grit, and pads or brushes without steel.",
)
def steel_on_light_metal(s: Stack) -> Iterator[Hit]:
    light = s.ground.metal in ("aluminium", "stainless", "magnesium")
    for i, steps in s.steps():
        for j in _places(steps, ("steel_grit", "wire_brush")):
            if light:
                yield Hit(i, f"{STEPS[steps[j].step].name} on {s.ground.name}.")


@rule(
    "blast.thin",
    "warn",
    why="Blasting stretches one face of thin sheet: it warps.",
    instead="Gel or sand it, or blast with soft grit at low pressure and a wide angle.",
)
def blasting_thin_sheet(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        if "thin_sheet" in s.survey.features and _places(steps, ("blast", "steel_grit")):
            yield Hit(i, "Blasting thin sheet.")


@rule(
    "acetone.bond",
    "stop",
    overrule="never",
    why="Acetone attacks the adhesive of a bonded strip.",
    instead="Alcohol wipe, at least twice, lint-free towels turned every metre.",
)
def acetone_under_bond(s: Stack) -> Iterator[Hit]:
    bonded = any(x.sheet.build == "bonded" for x in s.layers)
    for i, steps in s.steps():
        if bonded and _places(steps, ("wipe_acetone",)):
            yield Hit(i, "Acetone under a bonded strip.")


@rule(
    "peelable.dry",
    "stop",
    why="The film draws back from water left in a crevice and leaves a bare spot.",
    instead="Dry crevices with a folded towel, blow or warm them out.",
)
def crevices_dry(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        wet = _places(steps, ("wash", "suds", "rinse_towel"))
        if (
            s.layers[i].sheet.properties.peelable
            and wet
            and not any(j > wet[-1] for j in _places(steps, ("dry",)))
        ):
            yield Hit(i, f"{s.layers[i].sheet.name} after washing, not dried.")


@rule(
    "dust.antifouling",
    "stop",
    overrule="never",
    why="Its dust is a biocide: it poisons whoever breathes it and the water it falls in.",
    instead="Wet sand or strip; wash-down captured, harbour rules hold.",
)
def antifouling_sanded_dry(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        if i == 0 and s.ground.antifouling and _places(steps, DRY_SANDING):
            yield Hit(i, f"Dry sanding {s.ground.name}.")
