"""The air of each place and each part of a job, made once."""

from __future__ import annotations

from .accumulator import Accumulator
from .facts import Facts, Part
from .heat import heat_spans
from .places import Stays, air_through, place_at, stays_of
from .timeline import Climate, Timeline

__all__ = ["Airs", "where_it_stands"]


def where_it_stands(b: Accumulator, facts: Facts, batch_id: str) -> str:
    """The place of a mix: where the first coat out of it went on; before any, that of the first part."""
    places = {p.id: stays_of(b.places.get(p.id, ()), p.place_id) for p in facts.parts}
    coats = [c for c in b.coats.values() if batch_id in c.batch_ids and c.starts and c.part_id in places]
    first = min(coats, key=lambda c: (c.started_at, c.coat_id), default=None)
    return place_at(places[first.part_id], first.started_at) if first else facts.parts[0].place_id


class Airs:
    """One timeline a place, and one of its own for a part whose surface was measured."""

    def __init__(self, b: Accumulator, climate: Climate, now_ref: int) -> None:
        self._b, self._climate, self._now_ref = b, climate, now_ref
        self._made: dict[tuple[str, str | None], Timeline] = {}

    def stays(self, part: Part) -> Stays:
        """Where a part was, in time."""
        return stays_of(self._b.places.get(part.id, ()), part.place_id)

    def of_place(self, place_id: str) -> Timeline:
        """The air of a place, as nobody's part."""
        return self._get(place_id, None)

    def of_part(self, part: Part) -> Timeline:
        """The air of a part, its own surface where that was read, and warm while heat is on."""
        air = self.unheated(part)
        for from_at, until_at, degc in heat_spans(self._b.heat.get(part.id, ())):
            air = air.heated(from_at, degc, until_at)
        return air

    def unheated(self, part: Part) -> Timeline:
        """The same as if no lamp had been lit."""
        measured = {p for p, r in self._b.hand if r.part_id == part.id}
        return air_through(
            self.stays(part), lambda place: self._get(place, part.id if place in measured else None)
        )

    def _get(self, place_id: str, part_id: str | None) -> Timeline:
        key = (place_id, part_id)
        if key not in self._made:
            hand = [r for p, r in self._b.hand if p == place_id]
            self._made[key] = Timeline(self._climate, place_id, part_id, hand)
        return self._made[key]
