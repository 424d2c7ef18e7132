"""Parts, layers and overruled stops as they are sent, for judging, suggesting and making jobs."""

from __future__ import annotations

from uuid import UUID

from ninja import Schema
from pydantic import Field

from coatlog.core.run.facts import Face, Patches
from coatlog.core.stack.step_catalogue import STEPS, Done, read_step
from coatlog.errors import Refused
from coatlog.jobs import services

__all__ = [
    "LayerIn",
    "OverruleIn",
    "PartIn",
    "SystemIn",
    "draft_layers",
    "draft_overrules",
    "draft_parts",
    "draft_systems",
]


class PatchesIn(Schema):
    """Where a layer goes that does not cover its part: how many, and how much in all or how large across.

    `along_m`: strips so long each, `across_mm` wide.
    """

    n: int = Field(default=1, ge=1, le=10000)
    area_m2: float | None = Field(default=None, gt=0, le=10000)
    across_mm: float | None = Field(default=None, gt=0, le=5000)
    along_m: float | None = Field(default=None, gt=0, le=1000)


class LayerIn(Schema):
    """A layer.  `steps`: what is done before it, "abrade:P80" for one; without them, as the list has it.

    `patches`: it goes on these alone.  `coats_on`: parts that get another number of coats of it, by their
    place in the list of parts.
    """

    sheet_id: str
    coats: int = Field(ge=1, le=40)
    target_um: float | None = Field(default=None, gt=0, le=20000)
    steps: list[str] | None = Field(default=None, max_length=60)
    patches: PatchesIn | None = None
    coats_on: dict[int, int] = Field(default_factory=dict, max_length=200)


class PartIn(Schema):
    """A part; its area is typed or comes from `shape` and `measures` [m].

    `faces_assumed`: nobody measured the faces, so they follow the area.  `system`: which of the coating
    systems of the job it gets, 0 for the first.  `place_id`: where it stands, if not where the job does.
    """

    id: str | None = None
    name: str = Field(min_length=1, max_length=60)
    area_m2: float | None = Field(default=None, gt=0, le=10000)
    substrate: str
    condition: str = Field(default="", max_length=120)
    count: int = Field(default=1, ge=1, le=1000)
    as_set: bool = False
    shape: str = ""
    measures: dict[str, float] = Field(default_factory=dict, max_length=8)
    faces: list[Face] = Field(default_factory=list, max_length=12)
    must_survive: list[str] = Field(default_factory=list, max_length=12)
    damage: str = Field(default="", max_length=400)
    set_name: str = Field(default="", max_length=60)
    shape_text: str = Field(default="", max_length=200)
    features: list[str] = Field(default_factory=list, max_length=24)
    bare_mm: float | None = Field(default=None, ge=0, le=5000)
    hole_mm: float | None = Field(default=None, ge=0, le=5000)
    there_um: float | None = Field(default=None, gt=0, le=20000)
    patch_n: int | None = Field(default=None, ge=1, le=10000)
    edge_m: float | None = Field(default=None, ge=0, le=1000)
    dark: bool = False
    faces_assumed: bool = False
    system: int = Field(default=0, ge=0, le=20)
    place_id: UUID | None = None


class SystemIn(Schema):
    """A coating system besides the first: its layers, and what was chosen for it."""

    layers: list[LayerIn] = Field(min_length=1, max_length=20)
    choices: dict[str, str] = Field(default_factory=dict, max_length=24)


class OverruleIn(Schema):
    rule_id: str
    reason: str = Field(max_length=400)


def draft_systems(systems: list[SystemIn]) -> list[services.SystemDraft]:
    return [services.SystemDraft(layers=draft_layers(s.layers), choices=s.choices) for s in systems]


def draft_layers(layers: list[LayerIn]) -> list[services.LayerDraft]:
    return [
        services.LayerDraft(
            sheet_id=x.sheet_id,
            coats=x.coats,
            target_um=x.target_um,
            steps=None if x.steps is None else tuple(_step(i, word) for word in x.steps),
            patches=None if x.patches is None else _patches(i, x.patches),
            coats_on=_coats_on(i, x.coats_on),
        )
        for i, x in enumerate(layers)
    ]


def _patches(i: int, p: PatchesIn) -> Patches:
    """Patches with their area: as it was measured, else squares as wide as they are.  Raises Refused."""
    if p.area_m2 is None and p.across_mm is None and p.along_m is None:
        raise Refused.field(f"layers[{i}].patches", None, "how large they are across, or their area in all")
    across_m = (p.across_mm or 0.0) / 1000
    if p.along_m is not None and p.across_mm is None:
        raise Refused.field(f"layers[{i}].patches.across_mm", None, "how wide the strip is")
    if p.along_m is not None:
        area_m2 = p.n * p.along_m * across_m
    else:
        area_m2 = p.area_m2 if p.area_m2 is not None else p.n * across_m**2
    return Patches(n=p.n, area_m2=round(area_m2, 6), across_mm=p.across_mm, along_m=p.along_m)


def _coats_on(i: int, coats_on: dict[int, int]) -> dict[int, int]:
    for part, n in coats_on.items():
        if not 1 <= n <= 40:
            raise Refused.field(f"layers[{i}].coats_on[{part}]", n, "1 to 40 coats")
    return coats_on


def _step(i: int, word: str) -> Done:
    """A step as it is sent.  Raises Refused naming the layer."""
    name, _, grit = word.partition(":P")
    if name not in STEPS or (grit and not (grit.isdecimal() and 12 <= int(grit) <= 3000)):
        raise Refused.field(
            f"layers[{i}].steps", word[:40], "one of " + ", ".join(STEPS) + ", a grit as :P80"
        )
    return read_step(word)


def draft_parts(parts: list[PartIn]) -> list[services.PartDraft]:
    return [
        services.PartDraft(
            **{
                **p.dict(exclude={"faces", "must_survive", "features"}),
                "features": tuple(p.features),
                "place_id": str(p.place_id or ""),
                "faces": tuple(p.faces),
                "must_survive": tuple(p.must_survive),
            }
        )
        for p in parts
    ]


def draft_overrules(rows: list[OverruleIn]) -> list[services.OverruleDraft]:
    return [services.OverruleDraft(rule_id=o.rule_id, reason=o.reason) for o in rows]
