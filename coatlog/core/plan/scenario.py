"""What if: a problem with another start, warm or moving air, other painters, hardener or thinner."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from ..drying import Pace
from .plan import Wishes
from .problem import Edge, Link, Problem
from .rights import Person

Spell = tuple[int, int]

__all__ = ["AIRFLOW_FACTOR", "HARDENER_FACTOR", "THINNER_FACTOR", "crew_for", "wished"]

#: Time to dry and life of the pot against the sheet's own hardener (assumed).
HARDENER_FACTOR = {"sheet": 1.0, "fast": 0.75, "slow": 1.3}
#: Time until a thinned coat takes the next one, against the sheet's own thinner (assumed).
THINNER_FACTOR = {"sheet": 1.0, "fast": 0.8, "slow": 1.3}
#: The same of what dries of water, in air that moves twice as fast: mass transfer over a plate goes with the
#: root of the speed in laminar flow, with more in a turbulent one (Incropera and DeWitt, ch. 7; from memory).
AIRFLOW_FACTOR = 0.7


def wished(p: Problem, w: Wishes) -> Problem:
    """The problem with the wishes applied; `keyed` ones are the builder's, as they add steps."""
    hours, people = p.hours, p.people
    if w.stay_s:
        people = tuple(_stays(x, {b for _, b in hours}, w.stay_s) for x in people)
        hours = tuple((a, b + w.stay_s) for a, b in hours)
    if w.leave_at is not None:
        hours = tuple((a, min(b, w.leave_at) if a <= w.leave_at else b) for a, b in hours)
        hours = tuple((a, b) for a, b in hours if b > a)
        if not p.hours:
            hours = ((p.now, w.leave_at), (w.leave_at + 43200, w.leave_at + 60 * 86400))
    held = {k: at for k, at in {**p.held, **w.held}.items() if k in p.tasks}
    if w.start_at is not None and w.start_at > p.now:
        for k, t in p.tasks.items():
            if t.began_at is None:
                held[k] = max(held.get(k, 0), w.start_at)
    airs = p.airs
    if w.warm_degc is not None:
        outdoors = {t.part_id for t in p.tasks.values() if t.place_id in p.weather}
        airs = {k: a if k in outdoors else a.heated(p.now, w.warm_degc) for k, a in airs.items()}
    if w.leave_at is not None or not p.hours:
        people = tuple(replace(x, hours=_within(x.hours, hours)) for x in people)
    painters = p.painters if w.painters is None or people else w.painters
    out = replace(p, hours=hours, held=held, airs=airs, painters=painters, people=people)
    if w.hardener != "sheet":
        out = _hardened(out, HARDENER_FACTOR[w.hardener])
    if w.thinner != "sheet":
        out = _opening(out, THINNER_FACTOR[w.thinner], lambda x, _: x.sheet_id in p.thinned)
    if w.airflow:
        # A solvent film would skin over; a place outdoors has the air it has.
        out = _opening(out, AIRFLOW_FACTOR, lambda x, pace: pace.law == "water" and _indoors(p, x))
    return out


def _indoors(p: Problem, x: Link) -> bool:
    return p.tasks[x.a_key].place_id not in p.weather


def crew_for(people: tuple[Person, ...], w: Wishes, hours: tuple[Spell, ...]) -> tuple[Person, ...]:
    """The people there would be: the first so many, or others beside them who may do anything.

    Asked before a problem is built, as they decide how many work side by side.
    """
    if not people or w.painters is None:
        return people
    more = (Person(name=f"helper {i + 1}", hours=hours) for i in range(w.painters - len(people)))
    return (*people[: w.painters], *more)


def _stays(person: Person, closings: set[int], stay_s: int) -> Person:
    """Who is there until the shop closes stays longer with it."""
    hours = tuple((a, b + stay_s if b in closings else b) for a, b in person.hours)
    return replace(person, hours=hours)


def _within(spans: Sequence[Spell], hours: Sequence[Spell]) -> tuple[Spell, ...]:
    both = ((max(a, c), min(b, d)) for a, b in spans for c, d in hours)
    return tuple(sorted((a, b) for a, b in both if a < b))


def _hardened(p: Problem, factor: float) -> Problem:
    """Two-pack materials mixed from now on dry, and die in the pot, so much faster or slower."""
    packs = {k for k, pot in p.pots.items() if pot.pace is not None}

    def edge(x: Edge) -> Edge:
        return _scaled(x, factor) if isinstance(x, Pace) else x

    def link(x: Link) -> Link:
        running = p.tasks[x.a_key].began_at is not None
        if x.sheet_id not in packs or running:
            return x
        return replace(x, windows=tuple((edge(a), edge(b)) for a, b in x.windows))

    tasks = {
        k: replace(t, leaves=_scaled(t.leaves, factor)) if t.sheet_id in packs and t.leaves else t
        for k, t in p.tasks.items()
    }
    pots = {k: replace(pot, pace=_scaled(pot.pace, factor)) if pot.pace else pot for k, pot in p.pots.items()}
    return replace(p, tasks=tasks, links=tuple(link(x) for x in p.links), pots=pots)


def _opening(p: Problem, factor: float, meant: Callable[[Link, Pace], bool]) -> Problem:
    """Waits of what is not yet on that open so much sooner or later; what closes comes no later for it."""

    def edge(x: Link, pace: Edge, by: float) -> Edge:
        return _scaled(pace, by) if isinstance(pace, Pace) and meant(x, pace) else pace

    def link(x: Link) -> Link:
        if p.tasks[x.a_key].began_at is not None:
            return x
        ends = min(1.0, factor)
        return replace(x, windows=tuple((edge(x, a, factor), edge(x, b, ends)) for a, b in x.windows))

    return replace(p, links=tuple(link(x) for x in p.links))


def _scaled(pace: Pace, factor: float) -> Pace:
    return replace(pace, points=tuple((degc, max(1, round(s * factor))) for degc, s in pace.points))
