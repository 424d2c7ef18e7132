"""The plan: what is still to do, and one order of it laid out in time.

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

from ..drying import Pace
from ..mix import pot_points
from ..why import Why
from .facts import Facts
from .parts import sheet_solids_frac
from .ripening import reach_max, reach_min, sheet_pace
from .states import JobState
from .timeline import Timeline

__all__ = ["Link", "Plan", "PlannedBatch", "Problem", "Task", "ToDo", "lay_out", "list_orders", "problem"]

UNMASK_S = 300
MAX_PASSES = 400
Interval = tuple[int, int | None]


@dataclass(frozen=True, slots=True)
class Link:
    """The wait of one task for another: windows of (minimum, maximum) pace, from end and from start."""

    a_key: str
    b_key: str
    windows: tuple[tuple[Pace | None, Pace | None], ...]
    gate: str
    sheet_id: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ToDo:
    """A task of the problem.  `windows` are absolute intervals for its start, empty: any time."""

    key: str
    kind: Literal["coat", "unmask"]
    part_id: str
    label: str
    duration_s: int
    sheet_id: str | None = None
    volume_ml: float = 0.0
    windows: tuple[Interval, ...] = ()
    blocked: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Pot:
    """How a sheet is mixed: time to mix, and the pace at which the pot dies (None: never)."""

    mix_s: int
    pace: Pace | None
    use_frac: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    job_id: str
    now: int
    tasks: dict[str, ToDo]
    links: tuple[Link, ...]
    airs: Mapping[str, Timeline] = field(hash=False)
    painters: int
    hours: tuple[tuple[int, int], ...]
    pots: dict[str, Pot]
    alive: dict[str, tuple[str, float, int]]
    names: dict[str, str]


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


def problem(
    facts: Facts,
    state: JobState,
    airs: Mapping[str, Timeline],
    *,
    now: int,
    hours: Sequence[tuple[int, int]],
    painters: int = 1,
) -> Problem:
    """What is still to do on a job, with its waits.  `hours` are opening intervals, UTC seconds."""
    tasks: dict[str, ToDo] = {}
    links: list[Link] = []
    for part in state.parts:
        layers = facts.layers_of(part.part_id)
        name = facts.part(part.part_id).name
        counts: dict[str, int] = {}
        for f in part.films:
            counts[f.layer_id] = counts.get(f.layer_id, 0) + 1
        before: tuple[str, str] | None = None
        running = bool(part.films) and part.films[-1].done_at is None
        first = True
        for layer in layers:
            sheet = facts.sheets[layer.sheet_id]
            for n in range(counts.get(layer.id, 0) + 1, layer.coats + 1):
                key = f"{part.part_id}/{layer.id}/{n}"
                per_coat = (layer.target_um / layer.coats) if layer.target_um else sheet.film.dry_um_min
                area = facts.part(part.part_id).area_m2 * facts.part(part.part_id).count
                volume = (
                    area * per_coat / sheet_solids_frac(sheet) / facts.methods[layer.method_id].lands_frac
                )
                windows, blocked = _first_windows(part.part_id, state, now, running) if first else ((), None)
                tasks[key] = ToDo(
                    key=key,
                    kind="coat",
                    part_id=part.part_id,
                    label=f"{name}, {sheet.name.lower()} {n} of {layer.coats}",
                    duration_s=facts.coat_s(layer),
                    sheet_id=sheet.id,
                    volume_ml=volume,
                    windows=windows,
                    blocked=blocked,
                )
                if before is not None:
                    links.append(_recoat_link(facts, before, key, sheet.id))
                before, first = (key, sheet.id), False
        _add_unmask(facts, state, part.part_id, name, before, tasks, links)
    pots = {}
    for sheet_id, sheet in facts.sheets.items():
        method = facts.methods.get(sheet.method_id) or next(iter(facts.methods.values()))
        pace = sheet_pace(sheet, pot_points(sheet.pot), "max") if sheet.pot else None
        pots[sheet_id] = Pot(mix_s=method.mix_s if sheet.pot else 0, pace=pace, use_frac=sheet.use_frac)
    alive = {
        b.sheet_id: (b.batch_id, b.left_ml, b.use_by_at)
        for b in state.batches
        if b.mixed and b.closed_at is None and b.use_by_at is not None and b.use_by_at > now
    }
    names = {s.id: s.name for s in facts.sheets.values()}
    return Problem(
        job_id=state.job_id,
        now=now,
        tasks=tasks,
        links=tuple(links),
        airs=airs,
        painters=painters,
        hours=tuple(hours),
        pots=pots,
        alive=alive,
        names=names,
    )


def _first_windows(
    part_id: str, state: JobState, now: int, running: bool
) -> tuple[tuple[Interval, ...], str | None]:
    """Intervals for the first task of a part, from what lies on it; a reason when it is over age."""
    part = next(p for p in state.parts if p.part_id == part_id)
    if not part.films or running:
        return (), None
    spans = [s for s in part.films[-1].spans if s.state in ("open", "closing")]
    windows: list[Interval] = []
    for s in spans:
        if windows and windows[-1][1] == s.from_at:
            windows[-1] = (windows[-1][0], s.to_at)
        else:
            windows.append((s.from_at, s.to_at))
    ahead = tuple(w for w in windows if w[1] is None or w[1] > now)
    if ahead:
        return ahead, None
    return (), "abrade and wipe first: its window has closed"


def _recoat_link(facts: Facts, before: tuple[str, str], key: str, sheet_id: str) -> Link:
    lower = facts.sheets[before[1]]
    recoat = facts.join(lower.id, sheet_id)
    windows = []
    for w in recoat.windows if recoat else ():
        opens = None if w.from_s == 0 else sheet_pace(lower, ((w.at_degc, w.from_s),), "min")
        closes = None if w.to_s is None else sheet_pace(lower, ((w.at_degc, w.to_s),), "max")
        windows.append((opens, closes))
    return Link(before[0], key, tuple(windows) or ((None, None),), "recoat", lower.id)


def _add_unmask(
    facts: Facts,
    state: JobState,
    part_id: str,
    name: str,
    before: tuple[str, str] | None,
    tasks: dict[str, ToDo],
    links: list[Link],
) -> None:
    part = next(p for p in state.parts if p.part_id == part_id)
    layers = facts.layers_of(part_id)
    if not layers or part.unmasked_at is not None:
        return
    top = facts.sheets[layers[-1].sheet_id]
    opens, closes = top.points_for("unmask_from"), top.points_for("unmask_to")
    if not opens:
        return
    key = f"{part_id}/unmask/1"
    gate = next((g for g in part.gates if g.name == "unmask_from"), None)
    windows: tuple[Interval, ...] = ()
    if before is None and gate is not None and gate.late_at is not None:
        # Past its end the tape still has to come off: the film is cut first, it does not stop.
        windows = ((gate.late_at, None),)
    tasks[key] = ToDo(
        key=key,
        kind="unmask",
        part_id=part_id,
        label=f"{name}, tape off",
        duration_s=UNMASK_S,
        windows=windows,
    )
    if before is not None:
        to = sheet_pace(top, closes, "max") if closes else None
        links.append(Link(before[0], key, ((sheet_pace(top, opens, "min"), to),), "unmask", top.id))


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
    lower = dict.fromkeys(order, p.now)
    links = {x.b_key: x for x in p.links}
    for _ in range(MAX_PASSES):
        walk = _Pass(free_at=[p.now] * p.painters)
        for sheet_id, (_, left, use_by) in p.alive.items():
            walk.live[sheet_id] = (-1, left, use_by)
        push = None
        for key in order:
            push = _place(walk, p.tasks[key], links.get(key), lower, p)
            if push is not None:
                break
        if push is None:
            return _finish(order, walk, p)
        victim, to, why = push
        if victim is None or to > p.now + 400 * 86400:
            return _infeasible(order, walk, p, why)
        lower[victim] = max(lower[victim] + 1, to)
    return _infeasible(order, walk, p, "the waits push each other past one another")


_Push = tuple[str | None, int, str]


def _place(walk: _Pass, t: ToDo, link: Link | None, lower: Mapping[str, int], p: Problem) -> _Push | None:
    """Put one task; or say which earlier task must move, to when, and why."""
    if t.blocked is not None:
        return None, 0, f"{t.label}: {t.blocked}"
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
    before, air = walk.tasks[link.a_key], p.airs[t.part_id]
    out: list[Interval] = []
    for opens, closes in link.windows:
        at = before.end_at if opens is None else reach_min(air, opens, before.end_at)
        end = None if closes is None else reach_max(air, closes, before.start_at)
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


def _finish(order: Sequence[str], walk: _Pass, p: Problem) -> Plan:
    tasks = tuple(sorted(walk.tasks.values(), key=lambda t: (t.start_at, t.key)))
    finish = max((t.end_at for t in tasks), default=None)
    return Plan(
        job_id=p.job_id,
        made_at=p.now,
        status="feasible",
        tasks=tasks,
        batches=tuple(walk.batches),
        order=tuple(order),
        finish_at=finish,
        bound_s=_bound_s(p),
    )


def _infeasible(order: Sequence[str], walk: _Pass, p: Problem, why: str) -> Plan:
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
    """No plan is shorter than all spraying shared among the painters."""
    return math.ceil(sum(t.duration_s for t in p.tasks.values()) / max(1, p.painters))


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
