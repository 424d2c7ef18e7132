"""The frozen facts of a job: parts, layers, the sheets they use and how they join."""

from __future__ import annotations

import itertools
import math
from collections.abc import Container, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from ..codec import LATER, content_id, from_plain, to_plain
from ..errors import Underspecified, require
from ..sheet import Recoat, Sheet, pick_recoat
from ..stack.findings import StackLayer, survey_of
from ..stack.frozen_steps import same_ids, steps_for
from ..stack.step_catalogue import read_step
from ..stack.step_sequence import Work
from .spray_pattern import angles

__all__ = [
    "METHODS",
    "PLANNED",
    "UNLOGGED",
    "Face",
    "Facing",
    "Facts",
    "Join",
    "Layer",
    "Method",
    "Part",
    "PartSteps",
    "PartSystem",
    "Patches",
    "as_decided",
    "as_placed",
    "make_facts",
    "of_system",
    "step_lists",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Method:
    """A way of putting paint on.  Speeds and shares are assumed until a shop measures its own.

    `clean_s`: time to clean it out [s]; 0 for what is thrown away or needs none.
    """

    id: str
    name: str
    rate_m2_per_min: float
    setup_s: int
    mix_s: int
    lands_frac: float
    fixed_ml: float
    spread_cv: float
    clean_s: int = 0


def _method(
    id: str,
    name: str,
    m2_per_min: float,
    setup_s: int,
    mix_s: int,
    lands: float,
    fixed_ml: float,
    cv: float,
    clean_s: int = 0,
) -> Method:
    return Method(
        id=id,
        name=name,
        rate_m2_per_min=m2_per_min,
        setup_s=setup_s,
        mix_s=mix_s,
        lands_frac=lands,
        fixed_ml=fixed_ml,
        spread_cv=cv,
        clean_s=clean_s,
    )


METHODS: dict[str, Method] = {
    m.id: m
    for m in (
        _method("spray_gun", "gravity-feed gun", 0.5, 120, 300, 0.65, 60, 0.15, 300),
        _method("liner_gun", "liner gun", 0.25, 180, 300, 0.9, 50, 0.2, 480),
        _method("aerosol", "aerosol", 0.3, 60, 60, 0.5, 0, 0.25),
        _method("spread", "spreader", 0.05, 60, 120, 0.95, 0, 0.3),
        _method("roller", "roller", 0.6, 120, 420, 0.95, 120, 0.2),
        _method("brush", "brush", 0.15, 60, 180, 0.95, 20, 0.3),
        _method("applicator", "applicator pad", 0.35, 60, 60, 0.9, 10, 0.25),
        _method("cloth", "cloth on applicator block", 0.25, 60, 0, 1.0, 0, 0.3),
        _method("trigger_bottle", "trigger bottle", 0.4, 30, 30, 0.8, 0, 0.3),
    )
}
Facing = Literal["up", "side", "down", "inside"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Face:
    """A face of a part and the way it looks."""

    facing: Facing
    area_m2: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A thing to be coated.  Never deleted, only retired.

    `edge_m`: the edge there is to mask on one of it [m]; None: that of a square of its area.

    `patch_n`: how many places on it are bare or damaged; None: nobody counted.

    `there_um`: sound dry film that lies on it already, by the gauge [um]; None: nobody measured.

    Parts of one `set_name` (four wheels) may be started and ended by one tap.
    """

    id: str
    name: str
    count: int = 1
    area_m2: float
    substrate: str
    condition: str
    place_id: str
    retired: bool = False
    faces: tuple[Face, ...] = ()
    must_survive: tuple[str, ...] = ()
    damage: str = ""
    set_name: str = ""
    shape: str = ""
    features: tuple[str, ...] = ()
    bare_mm: float | None = None
    dark: bool = False
    hole_mm: float | None = field(default=None, metadata=LATER)
    there_um: float | None = field(default=None, metadata=LATER)
    patch_n: int | None = field(default=None, metadata=LATER)
    edge_m: float | None = field(default=None, metadata=LATER)


@dataclass(frozen=True, slots=True, kw_only=True)
class Patches:
    """Where a layer goes that does not cover its part: how many patches, and their area in all [m2].

    `along_m`: each is a strip so long (a leading edge, a waterline), `across_mm` wide.
    """

    n: int
    area_m2: float
    across_mm: float | None = None
    along_m: float | None = field(default=None, metadata=LATER)


@dataclass(frozen=True, slots=True, kw_only=True)
class Layer:
    """One material on one part: how many coats and how much dry film in all [um].

    `patches`: it goes on these alone; None: all over the part.

    `steps`: what is done before it, "abrade:P80" for one, where somebody said; else as the list has it.
    """

    id: str
    part_id: str
    position: int
    sheet_id: str
    target_um: float | None
    tol_um: float
    coats: int
    method_id: str
    steps: tuple[str, ...] = field(default=(), metadata=LATER)
    patches: Patches | None = field(default=None, metadata=LATER)


@dataclass(frozen=True, slots=True, kw_only=True)
class Join:
    """The recoat entry picked for a pair of sheets."""

    lower: str
    upper: str
    recoat: Recoat


@dataclass(frozen=True, slots=True, kw_only=True)
class PartSteps:
    """The step list of parts that are worked alike, in working order."""

    part_ids: tuple[str, ...]
    works: tuple[Work, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartSystem:
    """Parts with a coating system of their own, and what was chosen for it; the others share the job's."""

    part_ids: tuple[str, ...]
    choices: dict[str, str] = field(default_factory=dict)


#: choices that belong to a coating system; the others are the job's
OF_SYSTEM = ("prep", "wanted", "rejected", "rejected_why")


def of_system(key: str) -> bool:
    """Whether a choice is made for a coating system, or for the job as a whole."""
    return key in OF_SYSTEM or key.startswith("way.")


#: What a job's choice `steps` says where its steps are planned like its coats.
PLANNED = "planned"
#: What a job's choice `steps_log` says where the shop keeps no log of its steps.
UNLOGGED = "none"


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What a job is.  `id` is the hash of all the rest.

    `steps`: the step lists, frozen with the job.  Facts from before there were any carry none; what
    stands for them is kept beside them, see `step_lists`.
    """

    id: str = ""
    job_id: str
    version: int
    parts: tuple[Part, ...]
    layers: tuple[Layer, ...]
    sheets: dict[str, Sheet]
    joins: tuple[Join, ...]
    methods: dict[str, Method]
    choices: dict[str, str] = field(default_factory=dict)
    overrules: tuple[str, ...] = ()
    steps: tuple[PartSteps, ...] = field(default=(), metadata=LATER)
    systems: tuple[PartSystem, ...] = field(default=(), metadata=LATER)

    def choices_of(self, part_id: str) -> dict[str, str]:
        """What was chosen for a part: for the job, and for the coating system it has."""
        own = next((s for s in self.systems if part_id in s.part_ids), None)
        if own is None:
            return self.choices
        return {k: v for k, v in self.choices.items() if not of_system(k)} | own.choices

    @property
    def plans_steps(self) -> bool:
        """Whether the plan holds the steps of this job, or its coats alone."""
        return self.choices.get("steps") == PLANNED

    @property
    def logs_steps(self) -> bool:
        """Whether the shop ticks its steps; one that does not is not told of each that is missing."""
        return self.choices.get("steps_log") != UNLOGGED

    def steps_of(self, part_id: str) -> tuple[Work, ...]:
        """The step list of a part in working order."""
        return next((s.works for s in self.steps if part_id in s.part_ids), ())

    def part(self, part_id: str) -> Part:
        """A part by its id.  Raises StopIteration for one the job never had."""
        return next(p for p in self.parts if p.id == part_id)

    def layer(self, layer_id: str) -> Layer:
        """A layer by its id.  Raises StopIteration for one these facts have not."""
        return next(x for x in self.layers if x.id == layer_id)

    def layers_of(self, part_id: str) -> tuple[Layer, ...]:
        """Layers of a part from the substrate up."""
        return tuple(sorted((x for x in self.layers if x.part_id == part_id), key=lambda x: x.position))

    def join(self, lower: str, upper: str) -> Recoat | None:
        """What the lower sheet says of the upper over it, by their ids; None: it says nothing."""
        return next((j.recoat for j in self.joins if (j.lower, j.upper) == (lower, upper)), None)

    def area_m2(self, layer: Layer) -> float:
        """How much of its part a layer covers [m2]."""
        if layer.patches is not None:
            return layer.patches.area_m2
        part = self.part(layer.part_id)
        return part.area_m2 * part.count

    def coat_s(self, layer: Layer) -> int:
        """Time [s] one coat of a layer takes, at the method's speed, over and over from each angle."""
        part, method = self.part(layer.part_id), self.methods[layer.method_id]
        times = angles(part.shape, layer.method_id)
        return max(60, round(60 * times * self.area_m2(layer) / method.rate_m2_per_min))

    def lead_s(self, layer: Layer) -> int:
        """Time [s] from deciding to coat until the coat is on: mix, set-up, spray."""
        m = self.methods[layer.method_id]
        return m.mix_s + m.setup_s + self.coat_s(layer)


def make_facts(
    *,
    job_id: str,
    version: int,
    parts: tuple[Part, ...],
    layers: tuple[Layer, ...],
    sheets: dict[str, Sheet],
    choices: dict[str, str] | None = None,
    systems: tuple[PartSystem, ...] = (),
    overrules: tuple[str, ...] = (),
    before: Facts | None = None,
    taken: Mapping[str, Container[str]] | None = None,
) -> Facts:
    """Freeze a job's facts, with joins picked from the sheets and the step list of each part.

    Parameters
    ----------
    before : Facts
        The version these facts take the place of: a step that stays keeps its id.
    taken : mapping
        By part, the ids steps had in any version: none of them is given to another step.

    Raises OutOfRange or Underspecified naming the part or layer.
    """
    for p in parts:
        require(0 < p.area_m2 <= 10_000, f"parts.{p.name}.area_m2", p.area_m2, "above 0, up to 10 000 m²")
        require(1 <= p.count <= 1000, f"parts.{p.name}.count", p.count, "1 to 1000")
        faces_m2 = sum(f.area_m2 for f in p.faces)
        require(
            not p.faces or abs(faces_m2 - p.area_m2) <= 0.01 * p.area_m2,
            f"parts.{p.name}.faces",
            round(faces_m2, 3),
            f"faces that add up to the part, {p.area_m2:g} m²",
        )
    known = {p.id for p in parts}
    joins: dict[tuple[str, str], Join] = {}
    for x in layers:
        if x.part_id not in known or x.sheet_id not in sheets or x.method_id not in METHODS:
            raise Underspecified(f"layers.{x.id}", x.sheet_id, "a part, data sheet and method of this job")
        require(1 <= x.coats <= 40, f"layers.{x.id}.coats", x.coats, "1 to 40 coats")
        if x.patches is not None:
            whole_m2 = next(p.area_m2 * p.count for p in parts if p.id == x.part_id)
            expected = f"above 0, at most the part, {whole_m2:g} m²"
            require(0 < x.patches.area_m2 <= whole_m2, f"layers.{x.id}.patches", x.patches.area_m2, expected)
            require(1 <= x.patches.n <= 10_000, f"layers.{x.id}.patches.n", x.patches.n, "1 to 10 000")
    for p in parts:
        stack = sorted((x for x in layers if x.part_id == p.id), key=lambda x: x.position)
        order = [x.sheet_id for x in stack for _ in range(min(x.coats, 2))]
        whole = [x.sheet_id for x in stack if x.patches is None]
        for lower, upper in (*itertools.pairwise(order), *itertools.pairwise(whole)):
            recoat = pick_recoat(sheets[lower], sheets[upper])
            if recoat is not None:
                joins[lower, upper] = Join(lower=lower, upper=upper, recoat=recoat)
    facts = Facts(
        job_id=job_id,
        version=version,
        parts=parts,
        layers=layers,
        sheets=sheets,
        joins=tuple(joins[k] for k in sorted(joins)),
        methods={x.method_id: METHODS[x.method_id] for x in layers},
        choices=choices or {},
        systems=systems,
        overrules=overrules,
    )
    facts = replace(facts, steps=step_lists(facts, before, taken or {}))
    # Through the codec first: a whole number given for a fraction must not change the hash.
    plain: dict[str, Any] = to_plain(from_plain(Facts, to_plain(facts)))
    plain.pop("id")
    return from_plain(Facts, {**plain, "id": content_id(plain)})


def as_decided(facts: Facts, coats: Mapping[str, int]) -> Facts:
    """Facts with the number of coats as it was decided on the job, by layer; each coat as thick as planned.

    The id stays: they are the same facts, with what the log says of them.
    """
    if not any(x.id in coats and coats[x.id] != x.coats for x in facts.layers):
        return facts

    def layer(x: Layer) -> Layer:
        n = coats.get(x.id, x.coats)
        return replace(x, coats=n, target_um=None if x.target_um is None else x.target_um * n / x.coats)

    known = {(j.lower, j.upper) for j in facts.joins}
    more = {
        x.sheet_id: recoat
        for x in facts.layers
        if coats.get(x.id, 1) > 1 and (x.sheet_id, x.sheet_id) not in known
        if (recoat := pick_recoat(facts.sheets[x.sheet_id], facts.sheets[x.sheet_id])) is not None
    }
    joins = tuple(Join(lower=k, upper=k, recoat=r) for k, r in sorted(more.items(), key=lambda kr: kr[0]))
    return replace(facts, layers=tuple(layer(x) for x in facts.layers), joins=facts.joins + joins)


def as_placed(facts: Facts, places: Mapping[str, str]) -> Facts:
    """Facts with each part where it is now, by part id.  The id stays: see `as_decided`."""
    if all(places.get(p.id, p.place_id) == p.place_id for p in facts.parts):
        return facts
    parts = tuple(replace(p, place_id=places.get(p.id, p.place_id)) for p in facts.parts)
    return replace(facts, parts=parts)


def step_lists(
    facts: Facts,
    before: Facts | None = None,
    taken: Mapping[str, Container[str]] | None = None,
    *,
    by_place: bool = False,
) -> tuple[PartSteps, ...]:
    """The step lists of facts as they would be frozen today; a retired part keeps the one it had.

    `by_place`: for facts from before lists were frozen.  Their ticks name a step by its place in the
    list, so that place becomes its id.
    """
    by_works: dict[tuple[Work, ...], list[str]] = {}
    for part in facts.parts:
        was = before.steps_of(part.id) if before is not None else ()
        works = was
        if not part.retired:
            works = _listed(facts, part, mask_over_tacky=by_place)
            if not by_place:
                ids = [x.id for x in facts.layers_of(part.id)]
                had = before is not None and any(p.id == part.id for p in before.parts)
                ids_before = [x.id for x in before.layers_of(part.id)] if had and before else []
                works = same_ids(works, ids, was, ids_before, (taken or {}).get(part.id, ()))
        if works:
            by_works.setdefault(works, []).append(part.id)
    return tuple(PartSteps(part_ids=tuple(ids), works=works) for works, ids in by_works.items())


def _listed(facts: Facts, part: Part, *, mask_over_tacky: bool) -> tuple[Work, ...]:
    layers = [
        StackLayer(
            sheet=facts.sheets[x.sheet_id],
            coats=x.coats,
            target_um=x.target_um,
            before=tuple(read_step(word) for word in x.steps) if x.steps else None,
            patches_m2=None if x.patches is None else x.patches.area_m2,
        )
        for x in facts.layers_of(part.id)
    ]
    area_m2 = part.area_m2 * part.count
    choices = facts.choices_of(part.id)
    edge_m = part.count * (4 * math.sqrt(part.area_m2) if part.edge_m is None else part.edge_m)
    return steps_for(
        survey_of(part), layers, choices, area_m2, edge_m=edge_m, mask_over_tacky=mask_over_tacky
    )
