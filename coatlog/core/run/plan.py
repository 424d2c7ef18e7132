"""The plan: one order of what is still to do, laid out in time.

`lay_out` is exact for a fixed order: the earliest times under minimum and maximum waits, which
depend on when they start because temperature does, one or more painters, opening hours, and pots
that are mixed when needed and die.  It is a fixed point from below: a start is only ever pushed
later, a task pushed past its window pushes the task before it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from ..why import Why
from .problem import Interval, Link, Problem, ToDo
from .ripening import reach_max, reach_min
from .timeline import Timeline

__all__ = ["Plan", "PlannedBatch", "Task", "lay_out", "link_windows", "list_orders"]

MAX_PASSES = 400


@dataclass(frozen=True, slots=True, kw_only=True)
class Task:
    key: str
    job_id: str
    kind: str
    label: str
    part_id: str
    painter: int
    start_at: int
    end_at: int
    opens_at: int | None
    closes_at: int | None
    binds: Why
    slack_s: int | None
    locked: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedBatch:
    key: str
    sheet_id: str
    total_ml: float
    mix_at: int
    use_by_at: int | None
    draws: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A laid-out plan.  status in words of the solver; `conflict` says what cannot be met and why."""

    id: str = ""
    job_id: str
    made_at: int
    status: Literal["optimal", "feasible", "infeasible", "timed_out"]
    tasks: tuple[Task, ...]
    batches: tuple[PlannedBatch, ...]
    order: tuple[str, ...]
    finish_at: int | None
    bound_s: int
    conflict: str = ""


@dataclass(slots=True)
class _Pass:
    """One walk along the order with the current lower bounds."""

    free_at: list[int]
    start: dict[str, int] = field(default_factory=dict)
    tasks: dict[str, Task] = field(default_factory=dict)
    batches: list[PlannedBatch] = field(default_factory=list)
    live: dict[str, tuple[int, float, int | None]] = field(default_factory=dict)


def lay_out(order: Sequence[str], p: Problem) -> Plan:
    """Earliest times of the tasks in this order.

    Raises KeyError when the order names a task the problem has not.  An order that cannot be met
    answers status infeasible and names the wait in conflict.
    """
    blocked = _blocked(p)
    todo = [k for k in order if k not in blocked and p.tasks[k].began_at is None]
    running = [k for k in order if p.tasks[k].began_at is not None]
    lower = dict.fromkeys(todo, p.now)
    links = {x.b_key: x for x in p.links}
    for _ in range(MAX_PASSES):
        walk = _Pass(free_at=[p.now] * p.painters)
        for sheet_id, (_, left, use_by) in p.alive.items():
            walk.live[sheet_id] = (-1, left, use_by)
        for key in running:
            _lock(walk, p.tasks[key], p)
        push = None
        for key in todo:
            push = _place(walk, p.tasks[key], links.get(key), lower, p)
            if push is not None:
                break
        if push is None:
            return _finish(order, walk, p, blocked)
        victim, to, why = push
        if victim is None or victim in running or to > p.now + 400 * 86400:
            return _infeasible(order, p, why)
        lower[victim] = max(lower[victim] + 1, to)
    return _infeasible(order, p, "the waits push each other past one another")


def _blocked(p: Problem) -> dict[str, str]:
    """Tasks that cannot be planned, and all that come after them: key -> reason, or nothing."""
    out = {k: f"{t.label}: {t.blocked}" for k, t in p.tasks.items() if t.blocked is not None}
    for link in p.links:  # links run from the substrate up, so one walk reaches every follower
        if link.a_key in out:
            out[link.b_key] = ""
    return out


def _lock(walk: _Pass, t: ToDo, p: Problem) -> None:
    """A coat that is going on: it holds a painter until its likely end."""
    began = t.began_at if t.began_at is not None else p.now
    end = max(began + t.duration_s, p.now)
    painter = min(range(len(walk.free_at)), key=lambda i: (walk.free_at[i], i))
    walk.free_at[painter] = max(walk.free_at[painter], end)
    walk.start[t.key] = began
    walk.tasks[t.key] = Task(
        key=t.key,
        job_id=p.job_id,
        kind=t.kind,
        label=t.label,
        part_id=t.part_id,
        painter=painter,
        start_at=began,
        end_at=end,
        opens_at=None,
        closes_at=None,
        binds=Why(kind="measured", ref="going on"),
        slack_s=None,
        locked=True,
    )


_Push = tuple[str | None, int, str]


def _place(walk: _Pass, t: ToDo, link: Link | None, lower: Mapping[str, int], p: Problem) -> _Push | None:
    """Put one task; or say which earlier task must move, to when, and why."""
    painter = min(range(len(walk.free_at)), key=lambda i: (walk.free_at[i], i))
    windows = _windows(walk, t, link, p)
    for opens, closes in windows:
        start, binds = _earliest(walk, t, painter, max(lower[t.key], opens), opens, p)
        if start is None:
            return None, 0, f"{t.label}: no opening hours long enough"
        if closes is not None and start > closes:
            continue
        _book(walk, t, painter, start, opens, closes, binds, p)
        return None
    missed = max((c for _, c in windows if c is not None), default=p.now)
    wait = f"{t.label} misses its window, which closes {_ago(missed, p.now)}"
    if link is None or link.a_key not in walk.start:
        return None, 0, wait
    start, _ = _earliest(walk, t, painter, lower[t.key], p.now, p)
    late_by = 60 if start is None else max(60, start - missed)
    return link.a_key, walk.start[link.a_key] + late_by, wait


def _ago(at: int, now: int) -> str:
    minutes = round((at - now) / 60)
    return f"in {minutes} min" if minutes >= 0 else f"{-minutes} min ago"


def _windows(walk: _Pass, t: ToDo, link: Link | None, p: Problem) -> tuple[Interval, ...]:
    if link is None:
        return t.windows or ((p.now, None),)
    before = walk.tasks[link.a_key]
    return link_windows(link, p.airs[t.part_id], before.start_at, before.end_at)


def link_windows(link: Link, air: Timeline, start_at: int, end_at: int) -> tuple[Interval, ...]:
    """When the task a link leads to may start, once the one before ran from `start_at` to `end_at`."""
    out: list[Interval] = []
    for opens, closes in link.windows:
        at = end_at if opens is None else reach_min(air, opens, end_at)
        end = None if closes is None else reach_max(air, closes, start_at)
        if at is not None and (end is None or end > at):
            out.append((at, end))
    return tuple(out)


def _earliest(
    walk: _Pass, t: ToDo, painter: int, from_at: int, opens: int, p: Problem
) -> tuple[int | None, Why]:
    """Earliest start with the painter free, the mix made before it, and the shop open throughout."""
    mix_s = _mix_s(walk, t, max(from_at, walk.free_at[painter]), p)
    start = max(from_at, walk.free_at[painter] + mix_s)
    binds = Why(kind="computed", ref="now")
    if walk.free_at[painter] + mix_s >= from_at and walk.free_at[painter] > p.now:
        binds = Why(kind="computed", ref="painter busy")
    elif from_at == opens and opens > p.now:
        binds = Why(kind="computed", ref="waits for the coat before")
    if mix_s and binds.ref != "waits for the coat before":
        binds = Why(kind="computed", ref=f"{binds.ref}, then mixing {mix_s // 60} min")
    if not p.hours:
        return start, binds
    for open_at, close_at in p.hours:
        moved = max(start, open_at + mix_s)
        if moved + t.duration_s <= close_at:
            if moved > start:
                binds = Why(kind="computed", ref="shop closed")
            return moved, binds
    return None, binds


def _mix_s(walk: _Pass, t: ToDo, at: int, p: Problem) -> int:
    if t.sheet_id is None:
        return 0
    live = walk.live.get(t.sheet_id)
    if live is not None and live[1] >= t.volume_ml and (live[2] is None or at + t.duration_s <= live[2]):
        return 0
    return p.pots[t.sheet_id].mix_s


def _book(
    walk: _Pass, t: ToDo, painter: int, start: int, opens: int, closes: int | None, binds: Why, p: Problem
) -> None:
    end = start + t.duration_s
    if t.sheet_id is not None:
        _draw(walk, t, start, p)
    walk.free_at[painter] = end
    walk.start[t.key] = start
    walk.tasks[t.key] = Task(
        key=t.key,
        job_id=p.job_id,
        kind=t.kind,
        label=t.label,
        part_id=t.part_id,
        painter=painter,
        start_at=start,
        end_at=end,
        opens_at=opens,
        closes_at=closes,
        binds=binds,
        slack_s=None if closes is None else closes - start,
    )


def _draw(walk: _Pass, t: ToDo, start: int, p: Problem) -> None:
    assert t.sheet_id is not None
    pot = p.pots[t.sheet_id]
    if _mix_s(walk, t, start, p) == 0 and t.sheet_id in walk.live:
        k, left, use_by = walk.live[t.sheet_id]
        walk.live[t.sheet_id] = (k, left - t.volume_ml, use_by)
        if k >= 0:
            b = walk.batches[k]
            walk.batches[k] = PlannedBatch(
                key=b.key,
                sheet_id=b.sheet_id,
                total_ml=b.total_ml + t.volume_ml,
                mix_at=b.mix_at,
                use_by_at=b.use_by_at,
                draws=(*b.draws, t.key),
            )
        return
    use_by = None
    if pot.pace is not None:
        use_by = reach_max(p.airs[t.part_id], pot.pace, start, pot.use_frac)
    walk.live[t.sheet_id] = (len(walk.batches), math.inf, use_by)
    walk.batches.append(
        PlannedBatch(
            key=f"{p.names[t.sheet_id]} {chr(65 + sum(b.sheet_id == t.sheet_id for b in walk.batches))}",
            sheet_id=t.sheet_id,
            total_ml=t.volume_ml,
            mix_at=start - pot.mix_s,
            use_by_at=use_by,
            draws=(t.key,),
        )
    )


def _finish(order: Sequence[str], walk: _Pass, p: Problem, blocked: Mapping[str, str]) -> Plan:
    tasks = tuple(sorted(walk.tasks.values(), key=lambda t: (t.start_at, t.key)))
    return Plan(
        job_id=p.job_id,
        made_at=p.now,
        status="infeasible" if blocked else "feasible",
        tasks=tasks,
        batches=tuple(walk.batches),
        order=tuple(order),
        finish_at=max((t.end_at for t in tasks), default=None),
        bound_s=_bound_s(p),
        conflict="; ".join(why for why in blocked.values() if why),
    )


def _infeasible(order: Sequence[str], p: Problem, why: str) -> Plan:
    return Plan(
        job_id=p.job_id,
        made_at=p.now,
        status="infeasible",
        tasks=(),
        batches=(),
        order=tuple(order),
        finish_at=None,
        bound_s=_bound_s(p),
        conflict=why,
    )


def _bound_s(p: Problem) -> int:
    """No plan is shorter than all that can be planned, shared among the painters."""
    blocked = _blocked(p)
    work = sum(t.duration_s for k, t in p.tasks.items() if k not in blocked and t.began_at is None)
    return math.ceil(work / max(1, p.painters))


def list_orders(p: Problem) -> tuple[tuple[str, ...], ...]:
    """A few orders by simple rules: what closes first, layer by layer, part by part."""
    keys = tuple(p.tasks)
    depth = {}
    links = {x.b_key: x.a_key for x in p.links}
    for k in keys:
        d, at = 0, k
        while at in links:
            at, d = links[at], d + 1
        depth[k] = d

    def closes(k: str) -> int:
        while k in links:
            k = links[k]
        ends = [c for _, c in p.tasks[k].windows if c is not None]
        return min(ends, default=2**40)

    by_layer = tuple(sorted(keys, key=lambda k: (depth[k], closes(k))))
    by_part = tuple(sorted(keys, key=lambda k: (closes(k), p.tasks[k].part_id, depth[k])))
    unmask_last = tuple(sorted(keys, key=lambda k: (p.tasks[k].kind == "unmask", depth[k], closes(k))))
    return tuple(dict.fromkeys((by_layer, unmask_last, by_part)))
