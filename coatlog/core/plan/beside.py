"""A full shop: job after job put in where people, guns, machines and bays are free beside those before it.

An order made task by task keeps no window once there are many jobs, and where somebody takes a job and
stays with it they stand idle while it dries.  Here each job is laid out by itself, exactly, in what the
others leave free, as a foreman fills a week: what is going on and what closes first before the rest.
"""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from ..run.recoat_windows import reach_min
from .layout import blocked_tasks, lay_out
from .placement import Walk
from .plan import Binding, Conflict, Plan, Task
from .problem import Bay, Problem
from .rights import Person

__all__ = ["MANY_JOBS", "job_keys", "one_by_one"]

MANY_JOBS = 8
MOST_ALONE = 6
FEW_PASSES = 60
LEND_S = 1200  # a gun nobody wants for twenty minutes is cleaned out for the next job
STEP_S = 1800  # so much later a job is begun where it finds no place; twice as much each time
LATEST_S = 60 * 86400
_FAR = 2**40
BEGUN_LATER = "so that all its coats keep their windows beside the other jobs"

Span = tuple[int, int]
Orders = Callable[[Problem], Iterable[tuple[str, ...]]]


@dataclass(frozen=True, slots=True)
class Hold:
    """Something held for a job: from, to [epoch s], and for which task."""

    from_at: int
    to_at: int
    job_id: str
    key: str


class Taken:
    """What the jobs that have their place hold: hands, guns and machines, bays."""

    def __init__(self, p: Problem) -> None:
        self.p = p
        self.hands: list[list[Hold]] = [[] for _ in range(max(1, len(p.people) or p.painters))]
        self.units: dict[str, list[Hold]] = {}
        self.stays: dict[str, dict[str, int]] = {place: dict(bay.drying) for place, bay in p.bays.items()}
        self.labels: dict[str, str] = {}
        self.wet: dict[str, list[tuple[Span, str]]] = {}
        self.dusty: dict[str, list[tuple[Span, str]]] = {}
        self.going = _going(p)
        for key, (by, end) in self.going.items():
            t = p.tasks[key]
            hold = Hold(t.began_at or p.now, end, t.job_id, key)
            for i in by:
                self.hands[i].append(hold)
            if t.gun:
                self._held(t.gun, replace(hold, to_at=end + t.clean_s))

    def _held(self, name: str, hold: Hold) -> None:
        self.units.setdefault(name, []).append(hold)

    def left_for(self, one: Problem) -> Problem:
        """A job's own problem in what the others leave free."""
        job = one.job_id
        open_at = one.hours or ((one.now, _FAR),)
        people = one.people or tuple(Person(name=str(i), hours=open_at) for i in range(len(self.hands)))
        left = tuple(
            replace(x, hours=without(x.hours, [(h.from_at, h.to_at) for h in held if h.job_id != job]))
            for x, held in zip(people, self.hands, strict=True)
        )
        free = {}
        for name, held in self.units.items():
            spans = [(h.from_at, h.to_at) for h in held if h.job_id != job]
            if spans:
                free[name] = without(((one.now, _FAR),), overlaps(spans, one.units.get(name, 1)))
        bays = {place: self._room(bay, place, job) for place, bay in self.p.bays.items()}
        at_it = {key: by for key, (by, _) in self.going.items()}
        return replace(
            one, people=left, free=free, bays=bays, at_it=at_it, lend_s=LEND_S,
            wet=_of_others(one.wet, self.wet, job), dusty=_of_others(one.dusty, self.dusty, job),
        )  # fmt: skip

    def _room(self, bay: Bay, place: str, job: str) -> Bay:
        own = (job,) if job in bay.inside else ()
        others = tuple((who, until) for who, until in self.stays[place].items() if who != job)
        return replace(bay, inside=own, drying=others)

    def take(self, one: Problem, plan: Plan) -> Plan:
        """Hold what a job's plan holds; the plan, with what it waits for said as others see it."""
        tasks = tuple(self._told(t, one) for t in plan.tasks)
        for t in tasks:
            self.labels[t.key] = t.label
            own = one.tasks.get(t.key)
            if own is None or own.hands:
                hold = Hold(t.start_at, t.end_at, one.job_id, t.key)
                for i in () if t.key in self.going else (t.painter, *t.others):
                    self.hands[i].append(hold)
                for name in own.uses if own is not None else ():
                    self._held(name, hold)
            if own is not None and own.dusts and own.place_id not in one.weather:
                self.dusty.setdefault(own.place_id, []).append(((t.start_at, t.end_at), one.job_id))
            span = one.wet_span(own, t.start_at, t.end_at) if own is not None else None
            if own is not None and span is not None:
                self.wet.setdefault(own.place_id, []).append((span, one.job_id))
            if own is not None and own.place_id in self.stays:
                air = one.airs.get(t.part_id)
                dry = reach_min(air, own.leaves, t.end_at) if own.leaves is not None and air else t.end_at
                stays = self.stays[own.place_id]
                stays[one.job_id] = max(stays.get(one.job_id, 0), t.end_at if dry is None else dry)
        for name in {t.gun for t in one.tasks.values() if t.gun}:
            for a, b, key in loaded(tasks, one, name):
                self._held(name, Hold(a, b, one.job_id, key))
        return replace(plan, tasks=tasks)

    def _told(self, t: Task, one: Problem) -> Task:
        """A task as it stands in the plan of all: by whom, and which job's task it waits for."""
        if t.binding == "held" and t.key not in self.p.held:
            return replace(t, binding="later", binds=replace(t.binds, ref=BEGUN_LATER))
        own = one.tasks.get(t.key)
        held: Iterable[Hold] = ()
        if own is not None and t.binding == "away":
            held = [h for i in (t.painter, *t.others) for h in self.hands[i]]
        elif own is not None and t.binding in ("gun", "machine") and t.waits_key is None:
            held = [h for name in (own.gun, *own.uses) for h in self.units.get(name, ())]
        before = [h for h in held if h.job_id != one.job_id and h.to_at <= t.start_at]
        if not before:
            return t
        last = max(before, key=lambda h: (h.to_at, h.key))
        label = self.labels.get(last.key) or self.p.tasks[last.key].label
        told = {
            "away": f"painter on {label}",
            "gun": f"gun busy: {label}",
            "machine": f"machine busy: {label}",
        }
        binding: Binding = "painter" if t.binding == "away" else t.binding
        return replace(t, binding=binding, waits_key=last.key, binds=replace(t.binds, ref=told[t.binding]))


def _of_others(
    first: Mapping[str, tuple[Span, ...]], taken: Mapping[str, list[tuple[Span, str]]], job: str
) -> dict[str, tuple[Span, ...]]:
    """Spans by place, with those that other jobs put there."""
    return {
        place: (*first.get(place, ()), *(span for span, whose in taken.get(place, ()) if whose != job))
        for place in (*first, *(x for x in taken if x not in first))
    }


def one_by_one(
    p: Problem,
    orders: Orders,
    *,
    known: Sequence[str] = (),
    jobs: Sequence[str] = (),
    until: float | None = None,
) -> Plan:
    """The plan of all jobs, each laid out in what those before it leave free.

    Parameters
    ----------
    orders : orders to look through for a job whose own is not known, or is not met.
    known : an order of all that stands already: the order of the jobs, and that of each job's tasks.
    jobs : in which order they are put in instead, after what is going on; those not named last.
    until : by the monotonic clock [s], when looking for other orders of a job ends.

    What cannot be met of a job even by itself is a conflict, and left out with all that stands on it.
    """
    taken = Taken(p)
    shares: list[Plan] = []
    alike: dict[tuple[object, ...], tuple[tuple[int, ...], int]] = {}
    rank = {k: i for i, k in enumerate(known)}
    for keys in _ranked(p, rank, {job: i for i, job in enumerate(jobs)}):
        one = only(p, keys)
        shape = _shape(one)
        own, since = tuple(sorted(keys, key=lambda k: rank.get(k, _FAR))) if rank else (), p.now
        if shape in alike:
            places, since = alike[shape]
            own = own or tuple(keys[i] for i in places)
        plan, since = _placed(taken, one, own, orders, since, until)
        alike[shape] = tuple(keys.index(k) for k in plan.order), since
        shares.append(taken.take(one, plan))
    return _merged(p, shares)


def _placed(
    taken: Taken, one: Problem, own: tuple[str, ...], orders: Orders, since: int, until: float | None
) -> tuple[Plan, int]:
    """One job in what is free, begun as soon as it keeps its windows there; and since when it was tried."""
    conflicts: list[Conflict] = []
    while True:
        room = taken.left_for(one)
        if own:
            plan, at = _begun_later(room, own, since)
            if _met(plan, room):
                return replace(plan, conflicts=(*conflicts, *plan.conflicts)), at
        missed: Conflict | None = None
        for order in itertools.islice(orders(replace(one, painters=1)), MOST_ALONE):
            alone = lay_out(order, one, passes=FEW_PASSES)
            if _met(alone, one):
                plan, at = _begun_later(room, order, since)
                if _met(plan, room):
                    return replace(plan, conflicts=(*conflicts, *plan.conflicts)), at
                missed = missed or plan.conflicts[-1]
            missed = missed or alone.conflicts[-1]
            if until is not None and time.monotonic() >= until:
                break
        assert missed is not None
        late = one.tasks.get(missed.keys[-1]) if missed.keys else None
        conflicts.append(missed)
        if late is None or late.blocked is not None:
            nothing = lay_out((), replace(one, tasks={}, links=()))
            return replace(nothing, conflicts=tuple(conflicts), order=tuple(one.tasks)), since
        # What misses its window is left out with all that stands on it; what comes before it is planned.
        one = replace(one, tasks={**one.tasks, late.key: replace(late, blocked="")})
        own = ()


def _met(plan: Plan, one: Problem) -> bool:
    return plan.finish_at is not None or len(blocked_tasks(one)) == len(one.tasks)


def _begun_later(room: Problem, order: tuple[str, ...], since: int) -> tuple[Plan, int]:
    """The order begun now, or later by more and more until it is met; then as much sooner as it still is."""
    plan, failed, step = _from(room, order, since), since, STEP_S
    if _met(plan, room):
        return plan, since
    at = since
    while at < room.now + LATEST_S:
        failed, at = at, at + step
        step *= 2
        plan = _from(room, order, at)
        if plan.finish_at is not None:
            break
    while plan.finish_at is not None and at - failed > STEP_S:
        mid = (at + failed) // 2
        sooner = _from(room, order, mid)
        if sooner.finish_at is not None:
            plan, at = sooner, mid
        else:
            failed = mid
    return plan, at


def _from(room: Problem, order: tuple[str, ...], at: int) -> Plan:
    held = {k: max(at, room.held.get(k, 0)) for k in order} if at > room.now else room.held
    return lay_out(order, replace(room, held=held), passes=FEW_PASSES)


def job_keys(p: Problem) -> dict[str, list[str]]:
    """The tasks of each job."""
    out: dict[str, list[str]] = {}
    for k, t in p.tasks.items():
        out.setdefault(t.job_id, []).append(k)
    return out


def only(p: Problem, keys: Iterable[str]) -> Problem:
    """The problem of one job, as if there were no others."""
    known = set(keys)
    links = tuple(x for x in p.links if x.a_key in known and x.b_key in known)
    tasks = {k: t for k, t in p.tasks.items() if k in known}
    job = next(iter(tasks.values())).job_id
    alive = {k: x for k, x in p.alive.items() if k[0] == job}
    return replace(p, job_id=job, tasks=tasks, links=links, alive=alive, bays={})


def _ranked(p: Problem, rank: dict[str, int], jobs: dict[str, int]) -> list[list[str]]:
    """The jobs' tasks: what is going on or stands in a bay first, then as told, or what ends first."""
    inside = {who for bay in p.bays.values() for who in bay.inside}

    def mark(keys: list[str]) -> tuple[bool, int, int, int, int]:
        job = p.tasks[keys[0]].job_id
        there = job in inside or any(p.tasks[k].began_at is not None for k in keys)
        ends = min((c for k in keys for _, c in p.tasks[k].windows if c is not None), default=_FAR)
        stood = min((rank.get(k, _FAR) for k in keys), default=_FAR) if rank else 0
        return not there, jobs.get(job, len(jobs)), stood, ends, p.due.get(job, _FAR)

    return sorted(job_keys(p).values(), key=mark)


def _shape(one: Problem) -> tuple[object, ...]:
    """What two jobs have alike for which the same order is good."""
    return tuple(
        (t.kind, t.sheet_id, t.duration_s, t.gun, t.hands, t.windows, t.began_at, t.blocked, t.needs)
        for t in one.tasks.values()
    )


def _going(p: Problem) -> dict[str, tuple[tuple[int, ...], int]]:
    """Who is at each coat that is going on, and until when."""
    walk = Walk(p, {}, set(), {})
    out: dict[str, tuple[tuple[int, ...], int]] = {}
    for key, t in p.tasks.items():
        if t.began_at is None:
            continue
        walk.lock(t)
        by = tuple(i for i, hand in enumerate(walk.hands) if hand.last == key)
        out[key] = by or (walk.at[key].hand,), walk.at[key].end_at
    return out


def loaded(tasks: Sequence[Task], p: Problem, gun: str) -> list[tuple[int, int, str]]:
    """From its set-up until it is cleaned out a gun is one job's: what it holds is wanted again."""
    own = {k for k, t in p.tasks.items() if t.gun == gun}
    out: list[tuple[int, int, str]] = []
    since: int | None = None
    last, key = 0, ""
    for t in sorted(tasks, key=lambda t: (t.start_at, t.end_at)):
        if t.key not in own and (t.kind not in ("setup", "clean") or t.waits_key not in own):
            continue
        since, last, key = t.start_at if since is None else since, max(last, t.end_at), t.waits_key or t.key
        if t.kind == "clean":
            out.append((since, t.end_at, key))
            since = None
    return out if since is None else [*out, (since, last, key)]


def _merged(p: Problem, shares: Sequence[Plan]) -> Plan:
    tasks = sorted((t for s in shares for t in s.tasks), key=lambda t: (t.start_at, t.end_at, t.key))
    at = {t.key: i for i, t in enumerate(tasks)}
    conflicts = tuple(c for s in shares for c in s.conflicts)
    return Plan(
        job_id="",
        made_at=p.now,
        status="infeasible" if conflicts else "feasible",
        tasks=tuple(tasks),
        batches=tuple(b for s in shares for b in s.batches),
        order=tuple(sorted(p.tasks, key=lambda k: at.get(k, _FAR))),
        finish_at=max((s.finish_at for s in shares if s.finish_at is not None), default=None),
        bound_s=0,
        conflicts=conflicts,
        people=tuple(x.name for x in p.people),
    )


def without(spans: Sequence[Span], busy: Iterable[Span]) -> tuple[Span, ...]:
    """Intervals with others taken out of them."""
    taken = sorted(busy)
    out: list[Span] = []
    for a, b in spans:
        for x, y in taken:
            if y <= a:
                continue
            if x >= b:
                break
            if x > a:
                out.append((a, x))
            a = max(a, y)
        if a < b:
            out.append((a, b))
    return tuple(out)


def overlaps(spans: Sequence[Span], most: int) -> list[Span]:
    """When so many of them lie on one another."""
    edges = sorted([(a, 1) for a, _ in spans] + [(b, -1) for _, b in spans])
    out: list[Span] = []
    n, since = 0, 0
    for at, step in edges:
        before, n = n, n + step
        if before < most <= n:
            since = at
        elif before >= most > n and at > since:
            out.append((since, at))
    return out
