"""`lay_out`: one order of what is still to do, laid out in time, exactly.

For a fixed order it answers the earliest times under minimum and maximum waits, which depend on
when they start because temperature does, with painters, guns, machines and bays shared, pots that
are mixed when needed and die, opening hours and outdoor weather, on a grid of seconds.  It is a
fixed point from below: a start is only ever pushed later, and only as far as it must; a task that
would miss its window pushes the one before it.  After a push the walk goes back to the task that
was pushed, not to the start: what lies before it cannot have changed.
"""

from __future__ import annotations

import bisect
import itertools
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace

from .placement import FAR, Walk, blocked_tasks, count_tasks
from .plan import Conflict, Plan, PlannedBatch
from .problem import Link, Problem, link_windows
from .walk_state import Mark, Push

__all__ = [
    "MAX_PASSES",
    "Laid",
    "bay_order",
    "blocked_tasks",
    "dispatched",
    "first_miss",
    "lay_out",
    "legal",
    "work_left_s",
]

MAX_PASSES = 300
HORIZON_S = 60 * 86400


class Laid:
    """An order laid out, from which others can be tried that begin alike."""

    def __init__(self, order: Sequence[str], p: Problem) -> None:
        # What stands before the task it waits for would not wait for it at all.
        self.p, self.order = p, legal(tuple(order), p.before())
        self.blocked = blocked_tasks(p)
        self.todo = [
            k for k in bay_order(self.order, p) if k not in self.blocked and p.tasks[k].began_at is None
        ]
        self.place_of = {k: i for i, k in enumerate(self.todo)}
        self.running = [k for k in order if p.tasks[k].began_at is not None]
        self.lower = dict.fromkeys(self.todo, p.now)
        self.cleans: set[str] = set()
        self.pushers: dict[str, str] = {}
        self.marks: list[Mark] = []
        self.walk = self._begun()
        self.guess = False

    def tried(self, order: Sequence[str], *, passes: int, by_at: int | None) -> Laid | None:
        """Another order, with what was pushed and cleaned here taken as pushed and cleaned there.

        Sooner found than by `lay_out`, but a task may stand later than it has to.  None: given up,
        as there.
        """
        other = Laid(order, self.p)
        other.lower |= {k: at for k, at in self.lower.items() if k in other.lower}
        other.pushers |= self.pushers
        other.cleans |= self.cleans
        other.guess = True
        pairs = zip(self.todo, other.todo, strict=False)
        same = next((i for i, (a, b) in enumerate(pairs) if a != b), 0)
        other.walk.follow(self.walk, self.marks[same])
        other.marks = self.marks[:same]
        return other if other.settle(passes, by_at) is None else None

    def settle(self, passes: int, by_at: int | None) -> Conflict | None:
        """Push what has to be pushed until all stands; or what cannot be met."""
        p, pushed = self.p, dict.fromkeys(self.todo, 0)
        last_at = {k: by_at - left for k, left in work_left_s(p).items()} if by_at is not None else {}
        missed: Push | None = None
        push: Push | None = None
        for _ in range(passes):
            push = None
            for key in self.todo[len(self.marks) :]:
                self.marks.append(self.walk.mark())
                push = self.walk.place(p.tasks[key])
                start_at = push.start_at if push is not None else self.walk.at[key].start_at
                if by_at is not None and start_at > last_at[key]:
                    return Conflict(keys=(key,), why="cannot finish by then in this order")
                if push is not None:
                    break
            if push is None:
                changed = self.walk.to_clean()
                if self.guess and not changed:
                    changed = set(self.walk.needless)
                if not changed:
                    return None
                self.cleans ^= changed
            else:
                if push.victim is None or push.victim in self.running or push.to > p.now + HORIZON_S:
                    # Pushed on until the known hours ended: the window is what cannot be met.
                    told = missed if push.victim is None and missed is not None else push
                    return Conflict(keys=told.keys, why=told.why)
                missed = missed or push
                pushed[push.victim] += 1
                if pushed[push.victim] > 2 * len(self.todo) + 20:  # round and round: none is late enough
                    return Conflict(keys=push.keys, why=push.why)
                changed = {push.victim}
                self.lower[push.victim] = max(self.lower[push.victim] + 1, push.to)
                self.pushers[push.victim] = push.keys[-1]
                if not self.guess:
                    changed |= self.cleans
                    self.cleans.clear()  # other times, other guns
            self._back(changed)
        last = missed or push
        return Conflict(keys=last.keys if last else (), why=last.why if last else "waiting times conflict")

    def plan(self, *, slack: bool = True) -> Plan:
        """The plan; how much each start may slip is left out without `slack`."""
        p, walk = self.p, self.walk
        slips = _slack(walk) if slack else {}
        placed = [walk.task(x, slips.get(k)) for k, x in walk.at.items()]
        tasks = tuple(sorted([*placed, *walk.extra], key=lambda t: (t.start_at, t.end_at, t.key)))
        conflicts = [Conflict(keys=(k,), why=why) for k, why in self.blocked.items() if why]
        return Plan(
            job_id=p.job_id,
            made_at=p.now,
            status="infeasible" if self.blocked else "feasible",
            tasks=tasks,
            batches=tuple(_stirred(b, p, walk) for b in walk.batches),
            order=self.order,
            finish_at=max((t.end_at for t in placed), default=None),
            bound_s=0,
            conflicts=tuple(conflicts),
            people=tuple(x.name for x in p.people),
        )

    def _begun(self) -> Walk:
        walk = Walk(self.p, self.lower, self.cleans, self.pushers)
        for key in self.running:
            walk.lock(self.p.tasks[key])
        return walk

    def _back(self, changed: Iterable[str]) -> None:
        """Stand before the first of the tasks that changed."""
        first = min(self.place_of.get(k, -1) for k in changed)
        if first < 0:  # a gun of a coat that is going on
            self.walk, self.marks = self._begun(), []
        else:
            self.walk.back_to(self.marks[first])
            del self.marks[first:]


def lay_out(
    order: Sequence[str],
    p: Problem,
    *,
    passes: int = MAX_PASSES,
    by_at: int | None = None,
    slack: bool = True,
) -> Plan:
    """Earliest times of the tasks in this order.

    Without `slack` how much each start may slip is not looked for, which is a third of the work.

    With fewer `passes` an order that needs many pushes is given up sooner, as if it could not be met.
    So is one in which a task stands too late for all to be finished by `by_at`: starts are only
    pushed later, save by what another pot or gun may win back.

    Raises KeyError when the order names a task the problem has not.  An order that cannot be met
    answers status infeasible and names the wait in conflict.
    """
    laid = Laid(order, p)
    conflict = laid.settle(passes, by_at)
    if conflict is None:
        return laid.plan(slack=slack)
    return Plan(
        job_id=p.job_id,
        made_at=p.now,
        status="infeasible",
        tasks=(),
        batches=(),
        order=tuple(order),
        finish_at=None,
        bound_s=0,
        conflicts=(conflict,),
    )


def legal(order: tuple[str, ...], before: Mapping[str, Sequence[str]]) -> tuple[str, ...]:
    """The order with every task after those it waits for."""
    out: dict[str, None] = {}
    known = set(order)
    for first in order:
        # Down to what waits for nothing, then up again: a task is put when all before it are.
        stack, under = [first], {first}
        while stack:
            k = stack[-1]
            waits = next(
                (b for b in before.get(k, ()) if b in known and b not in out and b not in under), None
            )
            if waits is None:
                out.setdefault(k)
                under.discard(stack.pop())
            else:
                stack.append(waits)
                under.add(waits)
    return tuple(out)


def first_miss(order: Sequence[str], p: Problem) -> str | None:
    """The first task of an order that misses its window when nothing before it is moved; None: none."""
    blocked = blocked_tasks(p)
    walk = Walk(p, dict.fromkeys(p.tasks, p.now), set(), {}, foresees=True)
    for key in order:
        if p.tasks[key].began_at is not None:
            walk.lock(p.tasks[key])
    for key in bay_order(order, p):
        if key in blocked or p.tasks[key].began_at is not None:
            continue
        if walk.place(p.tasks[key]) is not None:
            return key
    return None


def dispatched(
    p: Problem,
    rank: Callable[[str], tuple[int, ...]],
    *,
    grain_s: int = 1,
    urgent_s: int = 0,
    closing: bool = False,
    until: float | None = None,
) -> tuple[str, ...]:
    """An order made as one works: always the task that can begin first, of several the lowest rank.

    What has less than `urgent_s` of opening hours left of its window goes before all else: what ends
    tomorrow morning is urgent tonight.  Starts within the same
    `grain_s` count as the same, and of those what needs no gun changed and no mix comes first; with
    `closing` what closes first, by ten minutes.
    `until`: by the monotonic clock [s], when looking ends; what is left then stands by rank alone.
    """
    blocked = blocked_tasks(p)
    walk = Walk(p, dict.fromkeys(p.tasks, p.now), set(), {}, foresees=True)
    open_by = _open_time(p.hours)
    before: dict[str, int] = dict.fromkeys(p.tasks, 0)
    after: dict[str, list[str]] = {}
    for x in p.links:
        before[x.b_key] += 1
        after.setdefault(x.a_key, []).append(x.b_key)
    ready = {k for k, n in before.items() if n == 0 and k not in blocked}
    out: list[str] = []

    def done(key: str) -> None:
        out.append(key)
        ready.discard(key)
        for k in after.get(key, ()):
            before[k] -= 1
            if before[k] == 0 and k not in blocked:
                ready.add(k)

    for key in [k for k in p.tasks if p.tasks[k].began_at is not None]:
        walk.lock(p.tasks[key])
        done(key)
    while ready and (until is None or time.monotonic() < until):
        best: tuple[tuple[int, ...], str] | None = None
        for k in sorted(ready):
            start, front_s, ends = walk.could_start(p.tasks[k])
            urgent = urgent_s > 0 and ends < FAR and open_by(ends) - open_by(start) < urgent_s
            mark = (0 if urgent else 1, ends if urgent else start // grain_s, ends // 600 if closing else 0,
                    front_s if grain_s > 1 else 0, *rank(k), start)  # fmt: skip
            if best is None or mark < best[0]:
                best = (mark, k)
        assert best is not None
        if walk.place(p.tasks[best[1]]) is not None:
            walk.put_anyway(p.tasks[best[1]])
        done(best[1])
    placed = {*out, *blocked}
    left = sorted((k for k in p.tasks if k not in placed), key=rank)
    return (*out, *left, *(k for k in p.tasks if k in blocked))


def _open_time(hours: Sequence[tuple[int, int]]) -> Callable[[int], int]:
    """How long the shop has been open by an instant, counted from some other [s]."""
    if not hours:
        return lambda at: at
    starts = [a for a, _ in hours]
    before = [0, *itertools.accumulate(b - a for a, b in hours)]

    def by(at: int) -> int:
        i = bisect.bisect_right(starts, at) - 1
        return 0 if i < 0 else before[i] + min(at, hours[i][1]) - starts[i]

    return by


def bay_order(order: Sequence[str], p: Problem) -> tuple[str, ...]:
    """The order with the tasks put back whose object finds no room in its bay yet."""
    if not any(p.bays.values()):
        return tuple(order)
    left, blocked = count_tasks(p, order), blocked_tasks(p)
    inside = {place: {*bay.inside, *(who for who, _ in bay.drying)} for place, bay in p.bays.items()}
    busy = {place: set(bay.inside) & {j for q, j in left if q == place} for place, bay in p.bays.items()}
    before = p.before()
    waiting, out = list(order), []
    while waiting:
        held: set[str] = set()
        for i, key in enumerate(waiting):
            t = p.tasks[key]
            bay = None if key in blocked else p.bays.get(t.place_id)  # what is not done needs no room
            room = bay is None or t.job_id in inside[t.place_id] or len(busy[t.place_id]) < bay.holds
            if not room or any(b in held for b in before.get(key, ())):
                held.add(key)
                continue
            waiting.pop(i)
            out.append(key)
            if bay is not None:
                inside[t.place_id].add(t.job_id)
                left[t.place_id, t.job_id] -= 1
                busy[t.place_id].add(t.job_id)
                if left[t.place_id, t.job_id] <= 0:
                    busy[t.place_id].discard(t.job_id)
            break
        else:
            return (*out, *waiting)
    return tuple(out)


def work_left_s(p: Problem) -> dict[str, int]:
    """Time that a task and those that wait for it take at the least, from its start [s]."""
    after: dict[str, list[str]] = {}
    for x in p.links:
        after.setdefault(x.a_key, []).append(x.b_key)
    out: dict[str, int] = {}
    for k in reversed(tuple(p.tasks)):
        out[k] = p.tasks[k].duration_s + max((out.get(b, 0) for b in after.get(k, ())), default=0)
    return out


def _stirred(b: PlannedBatch, p: Problem, walk: Walk) -> PlannedBatch:
    """When the pot is stirred anew: every so often, from the mix until its last coat is on."""
    every = p.pots[b.sheet_id].stir_every_s
    if not every:
        return b
    last = max(walk.at[k].end_at for k in b.draws)
    first = b.mix_at + p.pots[b.sheet_id].mix_s
    return replace(b, stir_at=tuple(range(first + every, last, every)))


def _slack(walk: Walk) -> dict[str, int]:
    """How much later each task may begin with all windows, hours, weather and deadlines still met.

    What follows a task, on it and with its painter, gun and machines, moves with it.
    """
    p = walk.p
    after: dict[str, list[Link]] = {}
    for x in p.links:
        after.setdefault(x.a_key, []).append(x)
    latest: dict[str, int] = {}
    hand_next: dict[int, int] = {}
    unit_next: dict[str, int] = {}
    out: dict[str, int] = {}
    for done in reversed(walk.at.values()):
        t, slot, start = done.todo, done.slot, done.start_at
        if slot is None:
            continue
        takes_s = done.end_at - start
        ends = [x for x in (done.closes_at, slot.open_until, slot.calm_until) if x is not None]
        if t.job_id in p.due:
            ends.append(p.due[t.job_id] - takes_s)
        after_s = t.clean_s if t.key in walk.cleans else 0
        if slot.hand is not None and slot.hand in hand_next:
            ends.append(hand_next[slot.hand] - takes_s - after_s)
        units = [u for u in (slot.gun, *slot.machines) if u is not None]
        ends += [unit_next[u.name] - takes_s for u in units if u.name in unit_next]
        for link in after.get(t.key, ()):
            if link.b_key in latest:
                ends.append(_latest_before(walk, link, start, takes_s, latest[link.b_key]))
        last = min(ends, default=FAR)
        latest[t.key] = last
        if last < FAR // 2:
            out[t.key] = last - start
        if slot.hand is not None:
            hand_next[slot.hand] = last - slot.front_s
        for u in units:
            unit_next[u.name] = last - slot.front_s
    return out


def _latest_before(walk: Walk, link: Link, start: int, takes_s: int, by_at: int) -> int:
    """The latest start after which the task a link leads to may still begin by `by_at`."""
    if by_at >= FAR // 2:
        return FAR
    air = walk.p.air_of(link)

    def holds(at: int) -> bool:
        own = link_windows(link, air, at, at + takes_s, walk.p.tasks[link.b_key].duration_s)
        return any(a <= by_at for a, _ in own)

    low, high = start, by_at
    if not holds(low):
        return start
    while high - low > 1:
        mid = (low + high) // 2
        low, high = (mid, high) if holds(mid) else (low, mid)
    return low
