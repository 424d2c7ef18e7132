"""What a job leaves: its parts as the next job finds them, with the film that lies on them."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

from ..sheet import Sheet
from ..stack.surfaces import SUBSTRATES
from .facts import Facts, Layer, Part
from .states import Film, JobState

__all__ = ["as_left"]

FRESH_S = 30 * 86400  # younger paint is asked for as such in the survey
FINISHES = ("colour", "clear", "one_coat", "antifouling", "peelable", "treatment")
_METAL = {"steel": "epoxy_on_steel", "iron": "epoxy_on_steel", "aluminium": "epoxy_on_aluminium"}
_OLD = {"hard": "old_hard_antifouling", "eroding": "old_eroding_antifouling", "silicone": "old_foul_release"}


def as_left(facts: Facts, state: JobState, now: int) -> Facts:
    """Facts of a repair to what a job left, `now` [epoch s]: same parts, its finish alone, nothing done yet.

    A part without any coat is found as it was.  The old film is what was measured, else what was planned.
    """
    films = {p.part_id: [f for f in p.films if f.done_at is not None] for p in state.parts}
    parts = tuple(_found(facts, p, films.get(p.id, []), now) for p in facts.parts)
    layers = tuple(x for x in facts.layers if facts.sheets[x.sheet_id].role in FINISHES and x.patches is None)
    kept = {x.part_id for x in layers}
    # Where nothing of it is a finish, all of it may go on again.
    rest = tuple(x for x in facts.layers if x.part_id not in kept)
    again = tuple(replace(x, steps=()) for x in layers + rest)
    choices = {k: v for k, v in facts.choices.items() if k in ("wanted", "steps")}
    return replace(facts, parts=parts, layers=_numbered(again), choices=choices, systems=facts.systems)


def _numbered(layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    out: list[Layer] = []
    for x in sorted(layers, key=lambda x: (x.part_id, x.position)):
        out.append(replace(x, position=sum(y.part_id == x.part_id for y in out)))
    return tuple(out)


def _found(facts: Facts, part: Part, films: list[Film], now: int) -> Part:
    if not films:
        return part
    local = {x.id for x in facts.layers if x.patches is not None}
    um = sum(f.dry_um.likely for f in films if f.dry_um and f.layer_id not in local)
    top, done_at = facts.sheets[films[-1].sheet_id], films[-1].done_at or now
    substrate = _surface(part, top, now - done_at)
    measured = all(f.dry_from == "gauge" for f in films if f.dry_um)
    day = dt.datetime.fromtimestamp(done_at, dt.UTC).date().isoformat()
    return replace(
        part,
        substrate=substrate,
        condition=f"{top.name} of {day}"[:120],
        features=tuple(x for x in part.features if x not in ("dents", "scratches", "holes", "faded")),
        bare_mm=None,
        hole_mm=None,
        patch_n=None,
        damage="",
        there_um=round(um + (part.there_um or 0.0), 1) if um > 0 and measured else None,
    )


def _surface(part: Part, top: Sheet, age_s: int) -> str:
    """The surface a finished part is to the next painter, in words of the survey."""
    p, ground = top.properties, SUBSTRATES[part.substrate]
    if p.antifouling != "none":
        return _OLD[p.antifouling]
    if top.build != "film" or p.repels:
        return "waxed" if ground.group in ("paint", "metal") else part.substrate
    if p.peelable:
        return part.substrate  # it is peeled off first
    if ground.group == "fabric":
        return "doped_fabric" if part.substrate in ("aircraft_cloth", "doped_fabric") else part.substrate
    if p.resin == "epoxy" and top.role not in FINISHES:
        return _METAL.get(ground.metal or ground.hull_metal, "cured_epoxy")
    if ground.group == "wood":
        return "varnished_wood"
    if ground.group == "plastic" and part.substrate not in ("gelcoat", "glass_fibre", "carbon_fibre"):
        return "painted_plastic"
    return "fresh_paint" if age_s < FRESH_S else "glossy_paint" if "gloss" in p.gives else "sound_paint"
