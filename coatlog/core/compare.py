"""What a candidate stack comes to, so that two can be laid side by side."""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from dataclasses import dataclass

from .quantity import needs_of
from .run.facts import Facts
from .sheet import Sheet

__all__ = ["Summary", "summarise"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Summary:
    """Film [um], litres as ml, cost, and time [s] at the sheets' own temperatures.

    `shortest_s`: from the first coat to when the gate `ready_gate` is reached if every coat goes on
    as soon as it may.  `claim_s`: what the finish is said to last, None where nobody says.
    """

    film_um: float
    coats: int
    total_ml: float
    cost: float | None
    shortest_s: int | None
    ready_gate: str
    claim_s: int | None
    air_fed: bool
    tacky_joins: int


def summarise(facts: Facts, prices: Mapping[str, Mapping[str, float]], *, immersed: bool = False) -> Summary:
    """Sum up a draft: the first part stands for the times, all parts for the amounts."""
    needs = needs_of(facts, prices)
    layers = facts.layers_of(facts.parts[0].id)
    sheets = [facts.sheets[x.sheet_id] for x in layers for _ in range(x.coats)]
    gate, gate_s = _ready(sheets[-1], immersed)
    waits: int | None = 0
    tacky = 0
    for lower, upper in itertools.pairwise(sheets):
        recoat = facts.join(lower.id, upper.id)
        if recoat is None:
            waits = None
            break
        waits = (waits or 0) + recoat.windows[0].from_s
        tacky += recoat.windows[0].tacky and lower.id != upper.id
    spray_s = sum(facts.coat_s(x) * x.coats for x in layers)
    costs = [n.purchase.cost if n.purchase else None for n in needs]
    return Summary(
        film_um=sum(x.target_um or 0.0 for x in layers),
        coats=len(sheets),
        total_ml=sum(n.total_ml for n in needs),
        cost=sum(c for c in costs if c is not None) if all(c is not None for c in costs) else None,
        shortest_s=None if waits is None else waits + spray_s + gate_s,
        ready_gate=gate,
        claim_s=sheets[-1].claim.life_s if sheets[-1].claim else None,
        air_fed=any(s.properties.needs_air_fed_mask for s in sheets),
        tacky_joins=tacky,
    )


def _ready(sheet: Sheet, immersed: bool) -> tuple[str, int]:
    """The gate that ends the work: immersion or full cure in water, else use, handling, full cure."""
    for gate in ("immerse_from", "full") if immersed else ("use", "handle", "full"):
        points = sheet.points_for(gate)
        if points:
            return gate, min(s for _, s in points)
    return "full", 0
