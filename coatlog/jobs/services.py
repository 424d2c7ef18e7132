"""Making and changing a job: object, survey, stack, frozen facts."""

from __future__ import annotations

from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple
from uuid import UUID, uuid4

from django.db import transaction

from coatlog.core.area import area_of
from coatlog.core.codec import from_plain, to_plain
from coatlog.core.compare import Summary, summarise
from coatlog.core.errors import CoreError
from coatlog.core.run.bounds import MOST_PARTS
from coatlog.core.run.facts import (
    UNLOGGED,
    Face,
    Facts,
    Layer,
    Part,
    PartSystem,
    Patches,
    make_facts,
    of_system,
)
from coatlog.core.sheet import FINISHES, Sheet
from coatlog.core.stack.builder import Needs, Suggestion, suggest
from coatlog.core.stack.findings import survey_of
from coatlog.core.stack.local import beside
from coatlog.core.stack.preps import path_of
from coatlog.core.stack.rules import Finding, StackLayer, Survey, in_order, judge
from coatlog.core.stack.step_catalogue import Done, read_step, write_step
from coatlog.core.stack.step_sequence import with_steps
from coatlog.core.stack.surfaces import EXPOSURES, FEATURES, SUBSTRATES
from coatlog.errors import NotFound, NotPermitted, Refused, Stopped
from coatlog.shelf.services import latest_sheets, prices_of, sheets_by_id
from coatlog.shop.models import Member, Place, Shop
from coatlog.shop.services import kept_away

from .frozen_facts import facts_of, latest_facts
from .models import Asset, FactsDoc, Job

__all__ = [
    "LayerDraft",
    "OverruleDraft",
    "PartDraft",
    "SystemDraft",
    "candidate",
    "correct_job",
    "create_job",
    "judge_stack",
    "place_of",
    "revise_job",
    "suggest_stacks",
    "surveys_of",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartDraft:
    """A part as the survey says it.  Its area is typed, or comes from a shape and its measures.

    `faces_assumed`: the faces are shares somebody assumed, and are scaled to the area.

    `system`: which of the job's coating systems it gets, the first counted 0.

    `as_set`: `count` parts of their own ("Wheel 1" to "Wheel 4") that one tap can start together.
    """

    name: str
    substrate: str
    area_m2: float | None = None
    condition: str = ""
    count: int = 1
    as_set: bool = False
    id: str | None = None
    shape: str = ""
    measures: Mapping[str, float] = field(default_factory=dict)
    faces: tuple[Face, ...] = ()
    must_survive: tuple[str, ...] = ()
    damage: str = ""
    set_name: str = ""
    shape_text: str = ""
    place_id: str = ""
    features: tuple[str, ...] = ()
    bare_mm: float | None = None
    hole_mm: float | None = None
    there_um: float | None = None
    patch_n: int | None = None
    edge_m: float | None = None
    dark: bool = False
    faces_assumed: bool = False
    system: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class LayerDraft:
    """A layer as it was chosen.  `patches`: what it goes on of each part; None: all over.

    `coats_on`: other numbers of coats, by a part's place in the survey, each coat as thick as the others.
    """

    sheet_id: str
    coats: int
    target_um: float | None = None
    steps: tuple[Done, ...] | None = None
    patches: Patches | None = None
    coats_on: Mapping[int, int] = field(default_factory=dict)

    def as_on(self, coats: int) -> LayerDraft:
        """The layer with another number of coats, each as thick as it was."""
        um = self.target_um
        return replace(self, coats=coats, target_um=None if um is None else um * coats / self.coats)


@dataclass(frozen=True, slots=True, kw_only=True)
class SystemDraft:
    """One coating system of a job: its layers and what was chosen for it."""

    layers: Sequence[LayerDraft]
    choices: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class OverruleDraft:
    """A stop the owner sets aside, with the reason that goes on the log."""

    rule_id: str
    reason: str


def judge_stack(
    shop: Shop,
    parts: Sequence[PartDraft],
    layers: Sequence[LayerDraft],
    prep: str = "",
    place: Place | None = None,
    craft: str = "",
) -> tuple[Finding, ...]:
    """What the rules say of a stack on each of the parts, prepared as `prep` says where that leads on.

    Raises Refused, NotFound.
    """
    _check_survey(parts)
    sheets = _sheets(shop, layers)
    found: dict[tuple[str, int, str], Finding] = {}
    for these in (tuple(layers), *_as_on(layers)):
        stack = [
            StackLayer(
                sheet=sheets[x.sheet_id],
                coats=x.coats,
                target_um=x.target_um,
                before=x.steps,
                patches_m2=None if x.patches is None else x.patches.area_m2,
            )
            for x in these
        ]
        # Beside the patches the first whole layer lies on the part itself: it is judged there too.
        whole = [x for x in stack if x.patches_m2 is None]
        if not whole:
            raise Refused.field("layers", len(layers), "a layer all over the part, or a job of its own")
        for survey in surveys_of(shop, parts, place, craft):
            for where, laid in ((survey, stack), (beside(survey), whole))[: 1 + (len(whole) < len(stack))]:
                for f in judge(*_prepared(where, prep, laid)):
                    found.setdefault((f.rule_id, f.position, f.what), f)
    return in_order(found.values())


def _as_on(layers: Sequence[LayerDraft]) -> list[tuple[LayerDraft, ...]]:
    """The layers as they are on each part that has another number of coats."""
    parts = sorted({i for x in layers for i in x.coats_on})
    return [tuple(x.as_on(x.coats_on.get(i, x.coats)) for x in layers) for i in parts]


def surveys_of(
    shop: Shop, parts: Sequence[PartDraft | Part], place: Place | None = None, craft: str = ""
) -> tuple[Survey, ...]:
    """What is known of the parts, each different one once.

    `place`: where they are coated; `craft`: what they are part of, as an asset has it.
    """
    outdoors = place is not None and place.outdoors
    names, others = kept_away(shop)
    said = [
        survey_of(
            p,
            shop.has,
            hasnt=shop.hasnt,
            outdoors=outdoors,
            craft=craft,
            kept_away=names,
            nobody_left=bool(names) and not others,
        )
        for p in parts
    ]
    return tuple(dict.fromkeys(said))


def _prepared(survey: Survey, prep: str, stack: Sequence[StackLayer]) -> tuple[Survey, Sequence[StackLayer]]:
    """The surface after its preparation, and the layers with the steps the job's own list has, or those said.

    Without a preparation, or where it does not lead on from here, the list is that of the surface as found.
    """
    path = (path_of(survey.substrate, prep, survey.features) if prep else None) or ()
    if not stack:
        return survey, stack
    at = survey.prepared_to(path[-1].to) if path else survey
    return at, with_steps(survey, path, stack)


def suggest_stacks(
    shop: Shop,
    parts: Sequence[PartDraft],
    wanted: Sequence[str],
    record: Mapping[str, int],
    *,
    place: Place | None = None,
    craft: str = "",
    needs: Needs | None = None,
) -> Suggestion:
    """The best few stacks the shelf holds for these parts.  `record`: see builder.  Raises Refused."""
    _check_survey(parts)
    for word in wanted:
        if word not in FINISHES:
            raise Refused.field("wanted", word, "of " + ", ".join(FINISHES))
    if not wanted:
        raise Refused.field("wanted", [], "what the finish is to be: at least one of " + ", ".join(FINISHES))
    first, *others = surveys_of(shop, parts, place, craft)
    return suggest(
        first,
        latest_sheets(shop),
        wanted,
        also=others,
        record=record,
        prices=prices_of(shop),
        needs=needs,
    )


def candidate(shop: Shop, parts: Sequence[PartDraft], layers: Sequence[LayerDraft]) -> Summary:
    """What a stack comes to on these parts: film, litres, cost, time, claim.  Raises Refused."""
    sheets = _sheets(shop, layers)
    made = _parts([replace(p, system=0) for p in parts], "")
    facts = _freeze("draft", 1, made, [SystemDraft(layers=layers)], sheets, None)
    survives = {x for p in parts for x in p.must_survive}
    return summarise(facts, prices_of(shop), immersed="immersion" in survives)


def place_of(shop: Shop, place_id: UUID | None) -> Place | None:
    """A place of the shop by its id, None where none is said.  Raises NotFound."""
    if place_id is None:
        return None
    place = Place.objects.filter(shop=shop, pk=place_id).first()
    if place is None:
        raise NotFound("No such place in this shop.")
    return place


def _check_places(shop: Shop, parts: Sequence[PartDraft]) -> None:
    """Where parts stand that stand elsewhere than their job.  Raises Refused."""
    known = {str(pk) for pk in Place.objects.filter(shop=shop).values_list("pk", flat=True)}
    for i, p in enumerate(parts):
        if p.place_id and p.place_id not in known:
            raise Refused.field(f"parts[{i}].place_id", p.place_id, "a place of this shop")


def _check_survey(parts: Sequence[PartDraft]) -> None:
    for i, p in enumerate(parts):
        if p.substrate not in SUBSTRATES:
            raise Refused.field(f"parts[{i}].substrate", p.substrate, "one of " + ", ".join(SUBSTRATES))
        for x in p.must_survive:
            if x not in EXPOSURES:
                raise Refused.field(f"parts[{i}].must_survive", x, "one of " + ", ".join(EXPOSURES))
        for x in p.features:
            if x not in FEATURES:
                raise Refused.field(f"parts[{i}].features", x, "one of " + ", ".join(FEATURES))
        if p.bare_mm is not None and not 0 <= p.bare_mm <= 5000:
            raise Refused.field(f"parts[{i}].bare_mm", p.bare_mm, "0 to 5000 mm")
        if p.there_um is not None and not 0 < p.there_um <= 20_000:
            raise Refused.field(f"parts[{i}].there_um", p.there_um, "above 0, up to 20 000 µm, or nothing")
        if p.patch_n is not None and not 1 <= p.patch_n <= 10_000:
            raise Refused.field(f"parts[{i}].patch_n", p.patch_n, "1 to 10 000 places, or nothing")
        if p.edge_m is not None and not 0 <= p.edge_m <= 1000:
            raise Refused.field(f"parts[{i}].edge_m", p.edge_m, "0 to 1000 m, or nothing")
        if p.hole_mm is not None and not 0 <= p.hole_mm <= 5000:
            raise Refused.field(f"parts[{i}].hole_mm", p.hole_mm, "0 to 5000 mm")


def _sheets(shop: Shop, layers: Sequence[LayerDraft]) -> dict[str, Sheet]:
    sheets = sheets_by_id(shop, (x.sheet_id for x in layers))
    for x in layers:
        if x.sheet_id not in sheets:
            raise NotFound("One of these materials is not among this shop's materials.")
        if sheets[x.sheet_id].aid is not None:
            raise Refused.field("layers", sheets[x.sheet_id].name, "a material that stays on the part")
    return sheets


@transaction.atomic
def create_job(
    member: Member,
    *,
    title: str,
    asset_name: str,
    asset_kind: str,
    place_id: UUID,
    parts: Sequence[PartDraft],
    layers: Sequence[LayerDraft],
    now: int,
    mark: str = "",
    paint_code: str = "",
    customer: str = "",
    overrules: Sequence[OverruleDraft] = (),
    choices: Mapping[str, str] | None = None,
    more: Sequence[SystemDraft] = (),
) -> tuple[Job, Facts]:
    """Create a job with its first facts.  The caller adopts them, and any overruling, by entries.

    `layers`, `choices`: the first coating system; `more`: those of parts that have another.

    Raises Refused (a field), Stopped (a rule), NotFound, NotPermitted.
    """
    if not member.may_write:
        raise NotPermitted("A viewer can look, not start a job.")
    shop = member.shop
    place = place_of(shop, place_id)
    if place is None:
        raise NotFound("No such place in this shop.")
    if place.retired:
        raise Refused.field("place_id", place.name, "a bay or location that is still in use")
    for name, text in (("title", title), ("asset", asset_name)):
        if not text.strip() or len(text) > 120:
            raise Refused.field(name, text, "1 to 120 letters")
    for name, text in (("mark", mark), ("paint_code", paint_code), ("customer", customer)):
        if len(text) > 60:
            raise Refused.field(name, text, "60 letters at most")
    parts = [replace(p, id=None) for p in parts]  # a part is of one job
    _check_places(shop, parts)
    choices = {**(choices or {}), **({} if shop.logs_steps else {"steps_log": UNLOGGED})}
    systems = [SystemDraft(layers=layers, choices=choices), *more]
    _check_stops(member, parts, systems, overrules, place, asset_kind)
    asset, _ = Asset.objects.get_or_create(
        shop=shop,
        name=asset_name.strip(),
        kind=asset_kind,
        mark=mark.strip(),
        defaults={"paint_code": paint_code.strip()},
    )
    if paint_code.strip() and asset.paint_code != paint_code.strip():
        asset.paint_code = paint_code.strip()
        asset.save(update_fields=["paint_code"])
    job = Job.objects.create(
        shop=shop,
        asset=asset,
        place=place,
        title=title.strip(),
        customer=customer.strip(),
        created_at=now,
    )
    facts = _freeze(
        str(job.pk),
        1,
        _parts(parts, str(place.pk)),
        systems,
        _sheets(shop, [x for s in systems for x in s.layers]),
        None,
        overrules=tuple(o.rule_id for o in overrules),
    )
    FactsDoc.objects.create(job=job, facts_id=facts.id, version=1, doc=to_plain(facts))
    return job, facts


@transaction.atomic
def revise_job(
    member: Member,
    job: Job,
    *,
    parts: Sequence[PartDraft],
    layers: Sequence[LayerDraft],
    overrules: Sequence[OverruleDraft] = (),
    choices: Mapping[str, str] | None = None,
    more: Sequence[SystemDraft] = (),
) -> Facts:
    """A new version of a job's facts: parts left out are retired, never deleted.

    A layer keeps its id while its material stays in its place, so coats on it stay on it.
    Raises as `create_job`.
    """
    if not member.may_write:
        raise NotPermitted("A viewer can look, not change a job.")
    before = latest_facts(job)
    _check_places(member.shop, parts)
    settled = _settled(before, job)
    kept_word = {k: v for k, v in before.choices.items() if k == "steps_log"}
    systems = [SystemDraft(layers=layers, choices={**(choices or {}), **kept_word}), *more]
    _check_stops(member, parts, systems, overrules, job.place, job.asset.kind, settled)
    kept = {p.id for p in before.parts}
    for i, p in enumerate(parts):
        if p.id is not None and p.id not in kept:
            raise Refused.field(f"parts[{i}].id", p.id, "a part of this job, or none for a new one")
    made = _parts(parts, str(job.place_id))
    named = {m.part.id for m in made}
    gone = tuple(_retired(p) for p in before.parts if p.id not in named)
    versions = facts_of(job).values()
    taken: dict[str, set[str]] = {}
    for f in versions:
        for part in f.parts:
            taken.setdefault(part.id, set()).update(w.key for w in f.steps_of(part.id))
    version = len(versions) + 1
    facts = _freeze(
        str(job.pk),
        version,
        made,
        systems,
        _sheets(member.shop, [x for s in systems for x in s.layers]),
        before,
        gone=gone,
        overrules=tuple(o.rule_id for o in overrules),
        taken=taken,
    )
    FactsDoc.objects.get_or_create(
        job=job, facts_id=facts.id, defaults={"version": version, "doc": to_plain(facts)}
    )
    return facts


def _settled(facts: Facts, job: Job) -> frozenset[tuple[str, str]]:
    """Stops of a job as it stands: rules that came after it was made stop no change of something else."""
    out = set()
    for part in facts.parts:
        if part.retired:
            continue
        prep = facts.choices_of(part.id).get("prep", "")
        stack = [
            StackLayer(
                sheet=facts.sheets[x.sheet_id],
                coats=x.coats,
                target_um=x.target_um,
                before=tuple(read_step(word) for word in x.steps) if x.steps else None,
                patches_m2=None if x.patches is None else x.patches.area_m2,
            )
            for x in facts.layers_of(part.id)
        ]
        for survey in surveys_of(job.shop, [part], job.place, job.asset.kind):
            at, laid = _prepared(survey, prep, stack)
            out |= {(f.rule_id, f.what) for f in judge(at, laid) if f.severity == "stop"}
    return frozenset(out)


#: words about a job that can be put right: what the log calls them, and the most letters
CORRECTABLE = {"title": 120, "asset": 120, "mark": 60, "paint_code": 60, "customer": 60}


@transaction.atomic
def correct_job(member: Member, job: Job, words: Mapping[str, str]) -> list[tuple[str, str, str]]:
    """Put words about a job right: (what, was, now) of each that changed.

    Those of the vehicle, boat or aircraft change for every job on it.  The caller logs them.
    Raises Refused, NotPermitted.
    """
    if not member.may_write:
        raise NotPermitted("A viewer can look, not change a job.")
    asset, changed = job.asset, []
    for what, text in words.items():
        most = CORRECTABLE.get(what)
        if most is None:
            raise Refused.field(what, text, "one of " + ", ".join(CORRECTABLE))
        new = text.strip()
        if len(new) > most or (what in ("title", "asset") and not new):
            raise Refused.field(what, text, f"1 to {most} letters")
        row: Job | Asset = job if what in ("title", "customer") else asset
        name = "name" if what == "asset" else what
        was = getattr(row, name)
        if was != new:
            setattr(row, name, new)
            changed.append((what, was, new))
    job.save(update_fields=["title", "customer"])
    asset.save(update_fields=["name", "mark", "paint_code"])
    return changed


def _retired(part: Part) -> Part:
    return from_plain(Part, {**to_plain(part), "retired": True})


def _check_stops(
    member: Member,
    parts: Sequence[PartDraft],
    systems: Sequence[SystemDraft],
    overrules: Sequence[OverruleDraft],
    place: Place,
    craft: str,
    settled: frozenset[tuple[str, str]] = frozenset(),
) -> None:
    """`settled`: stops, by rule and words, that the job as it stands already has, and was made with."""
    if not parts:
        raise Refused.field("parts", 0, "at least one part")
    for i, p in enumerate(parts):
        if not 0 <= p.system < len(systems):
            raise Refused.field(f"parts[{i}].system", p.system, f"one of the {len(systems)} coating systems")
    for k, system in enumerate(systems):
        if not system.layers:
            raise Refused.field("layers", 0, "at least one layer" + (f" in system {k + 1}" if k else ""))
        if not any(p.system == k for p in parts):
            raise Refused.field("parts", 0, f"at least one part with system {k + 1}")
        odd = next((x for x in system.choices if k and not of_system(x)), None)
        if odd is not None:
            raise Refused.field(f"systems[{k - 1}].choices", odd, "what is chosen for a coating system")
    if overrules and not member.is_owner:
        raise NotPermitted("Only the owner can override a stop.")
    reasons = {o.rule_id: o.reason.strip() for o in overrules}
    stops = []
    found: dict[tuple[str, int, str], Finding] = {}
    for k, system in enumerate(systems):
        own, prep = [p for p in parts if p.system == k], system.choices.get("prep", "")
        for f in judge_stack(member.shop, own, system.layers, prep, place, craft):
            found.setdefault((f.rule_id, f.position, f.what), f)
    for f in in_order(found.values()):
        if f.severity != "stop" or (f.overrule != "never" and (f.rule_id, f.what) in settled):
            continue
        if f.rule_id in reasons and f.overrule != "never":
            if len(reasons[f.rule_id]) < 4:
                raise Refused.field("overrules", reasons[f.rule_id], "the reason in words")
            continue
        stops.append(f)
    if stops:
        raise Stopped(stops[0].what + " " + stops[0].why, errors=[to_plain(f) for f in stops])


class _Made(NamedTuple):
    """A part as facts hold it, which of the systems it gets, and its place in the survey."""

    part: Part
    system: int
    at: int


def _parts(drafts: Sequence[PartDraft], place_id: str) -> tuple[_Made, ...]:
    """Parts as facts hold them, each with its system.  Raises Refused naming the part and the field."""
    _check_survey(drafts)
    out: list[_Made] = []
    for i, p in enumerate(drafts):
        if not p.name.strip():
            raise Refused.field(f"parts[{i}].name", p.name, "a name")
        if p.id and p.id in {m.part.id for m in out}:
            raise Refused.field(f"parts[{i}].id", p.id, "each part once")
        area_m2, shape = _area(i, p)
        split = p.as_set and p.count > 1
        names = [f"{p.name.strip()} {k + 1}" for k in range(p.count)] if split else [p.name.strip()]
        if len(out) + len(names) > MOST_PARTS:
            expected = (
                f"at most {MOST_PARTS} parts in all: count those alike as one part, or open a second job"
            )
            raise Refused.field(f"parts[{i}].count", p.count, expected)
        for k, name in enumerate(names):
            part = Part(
                id=p.id if p.id and k == 0 else str(uuid4()),
                name=name[:60],
                count=1 if split else p.count,
                area_m2=area_m2,
                substrate=p.substrate,
                condition=p.condition.strip()[:120],
                place_id=p.place_id or place_id,
                faces=_faces(p, area_m2),
                must_survive=tuple(x for x in EXPOSURES if x in p.must_survive),
                damage=p.damage.strip()[:400],
                set_name=p.name.strip()[:60] if split else p.set_name[:60],
                shape=shape,
                features=tuple(x for x in FEATURES if x in p.features),
                bare_mm=p.bare_mm,
                hole_mm=p.hole_mm,
                there_um=p.there_um,
                patch_n=p.patch_n,
                edge_m=p.edge_m,
                dark=p.dark,
            )
            out.append(_Made(part, p.system, i))
    return tuple(out)


def _faces(p: PartDraft, area_m2: float) -> tuple[Face, ...]:
    """The faces as measured, or assumed ones scaled to the area of the part."""
    total = sum(f.area_m2 for f in p.faces)
    if not p.faces_assumed or total <= 0:
        return p.faces
    return tuple(replace(f, area_m2=round(f.area_m2 * area_m2 / total, 4)) for f in p.faces)


def _area(i: int, p: PartDraft) -> tuple[float, str]:
    if not p.shape:
        if p.area_m2 is None:
            raise Refused.field(f"parts[{i}].area_m2", None, "an area in m², or a shape and its measures")
        return p.area_m2, p.shape_text
    try:
        figure = area_of(p.shape, p.measures)
    except CoreError as refusal:
        raise Refused.field(f"parts[{i}].{refusal.field}", refusal.given, refusal.expected) from None
    measures = ", ".join(f"{k.removesuffix('_m')} {v:g}" for k, v in p.measures.items())
    return round(figure.value, 4), f"{p.shape}: {measures}"


def _freeze(
    job_id: str,
    version: int,
    parts: tuple[_Made, ...],
    systems: Sequence[SystemDraft],
    sheets: dict[str, Sheet],
    before: Facts | None,
    *,
    gone: tuple[Part, ...] = (),
    overrules: tuple[str, ...] = (),
    taken: Mapping[str, Container[str]] | None = None,
) -> Facts:
    made: list[Layer] = []
    for part, system, at in parts:
        ids = _layer_ids(before, part.id)
        for k, chosen in enumerate(systems[system].layers):
            x = chosen.as_on(chosen.coats_on.get(at, chosen.coats))
            sheet, target = sheets[x.sheet_id], x.target_um
            if sheet.film is None or target is None:
                target = sheet.usual_um(x.coats)
            same = ids.get(x.sheet_id, [])
            made.append(
                Layer(
                    id=same.pop(0) if same else str(uuid4()),
                    part_id=part.id,
                    position=k,
                    sheet_id=x.sheet_id,
                    target_um=target,
                    tol_um=round(0.1 * (target or 0.0), 1),
                    coats=x.coats,
                    method_id=sheet.method_id,
                    steps=tuple(write_step(d) for d in x.steps or ()),
                    patches=x.patches,
                )
            )
    retired = {p.id for p in gone}
    kept = [x for x in before.layers if x.part_id in retired] if before else []
    used = {**sheets, **({x.sheet_id: before.sheets[x.sheet_id] for x in kept} if before else {})}
    try:
        return make_facts(
            job_id=job_id,
            version=version,
            parts=tuple(m.part for m in parts) + gone,
            layers=tuple(made + kept),
            sheets=used,
            choices=dict(systems[0].choices),
            systems=tuple(
                PartSystem(part_ids=tuple(m.part.id for m in parts if m.system == k), choices=dict(x.choices))
                for k, x in enumerate(systems)
                if k
            ),
            overrules=overrules,
            before=before,
            taken=taken,
        )
    except CoreError as refusal:
        raise Refused.field(refusal.field, refusal.given, refusal.expected) from None


def _layer_ids(before: Facts | None, part_id: str) -> dict[str, list[str]]:
    """Layer ids a part had, by sheet, from the substrate up."""
    out: dict[str, list[str]] = {}
    if before is not None and any(p.id == part_id for p in before.parts):
        for x in before.layers_of(part_id):
            out.setdefault(x.sheet_id, []).append(x.id)
    return out
