"""view(state, now) -> View: picks from a JobState what holds at an instant.  Computes nothing new."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .states import Batch, Clock, Film, GateTime, JobState, NextTask, PartState, Span

__all__ = ["PartView", "View", "cured_at", "current_span", "next_due_at", "view"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartView:
    """What a part is doing now.  state None: nothing on it yet."""

    part_id: str
    state: str | None
    word: str
    since_at: int | None
    until_at: int | None
    next_state: str | None
    dry_um: float
    next_task: NextTask | None
    next_gate: GateTime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class View:
    """What holds at `now` [epoch s]: the most pressing first, and when something changes next."""

    now: int
    parts: tuple[PartView, ...]
    running: tuple[str, ...]
    clocks: tuple[Clock, ...]
    pots: tuple[Batch, ...]
    next: tuple[NextTask, ...]
    urgent_state: str | None
    latest_start_at: int | None
    next_change_at: int | None
    live: bool


SOON_S = 20 * 60  # assumed: no longer than it takes to wash a part, and wet films stand beside it
_URGENCY = ("closing", "over_age", "wet", "open", "flash", "curing", "cured")


def current_span(film: Film, now: int) -> tuple[Span, Span | None]:
    """The span of a film that holds at `now`, and the one after it."""
    for i, span in enumerate(film.spans):
        if span.to_at is None or now < span.to_at:
            after = film.spans[i + 1] if i + 1 < len(film.spans) else None
            return span, after
    return film.spans[-1], None


def cured_at(state: JobState) -> int | None:
    """When the last part of a job is through, or it was closed or put away; None: not foreseen."""
    if state.ended is not None:
        return state.ended.at
    if state.archived:
        return 0
    ends: list[int] = []
    ended = {x.part_id: x.ended_at for x in state.service if x.ended_at is not None}
    for part in state.parts:
        if not part.films and part.part_id in ended:
            ends.append(ended[part.part_id])
            continue
        last = part.films[-1].spans[-1] if part.films else None
        if last is None or last.state != "cured":
            return None
        ends.append(last.from_at)
    return max(ends) if ends else None


def next_due_at(state: JobState) -> int | None:
    """When the first thing in service is due; None: nothing is, or the job is put away.

    What is only usual for such a finish stands with its job: no shop calls back every car it has painted.
    """
    if state.archived:
        return None
    asked = [d for x in state.service for d in x.due if not d.usual]
    return min((d.due_at for d in asked if d.due_at is not None), default=None)


def view(state: JobState, now: int) -> View:
    """Pick what holds at `now` [epoch s]."""
    parts = tuple(_part(state, p, now) for p in state.parts)
    soon = any(
        t.kind == "coat" and t.opens_at is not None and now < t.opens_at <= now + SOON_S for t in state.next
    )
    tasks = tuple(sorted(state.next, key=lambda t: _rank(t, parts, now, soon)))
    clocks = tuple(
        sorted(
            (c for c in state.clocks if c.closes_at is None or c.closes_at > now or c.kind == "window"),
            key=lambda c: (c.latest_start_at is None, c.latest_start_at or c.opens_at or 0),
        )
    )
    running = tuple(p.films[-1].coat_id for p in state.parts if p.films and p.films[-1].done_at is None)
    states = [p.state for p in parts if p.state]
    waits = [t.latest_start_at for t in tasks if t.latest_start_at is not None]
    changes = [p.until_at for p in parts if p.until_at is not None and p.until_at > now]
    return View(
        now=now,
        parts=parts,
        running=running,
        clocks=clocks,
        pots=tuple(b for b in state.batches if b.use_by_at and b.closed_at is None and b.mixed),
        next=tasks,
        urgent_state=min(states, key=_URGENCY.index) if states else None,
        latest_start_at=min(waits) if waits else None,
        next_change_at=min(changes) if changes else None,
        live=(until := cured_at(state)) is None or until > now,
    )


def _part(state: JobState, part: PartState, now: int) -> PartView:
    task = next((t for t in state.next if t.part_id == part.part_id), None)
    gates = sorted(
        (g for g in part.gates if g.late_at is None or g.late_at > now),
        key=lambda g: (g.late_at is None, g.late_at or 0),
    )
    span: Span | None = None
    after: Span | None = None
    if part.films:
        span, after = current_span(part.films[-1], now)
    return PartView(
        part_id=part.part_id,
        state=span.state if span else None,
        word=span.word if span else "bare",
        since_at=span.from_at if span else None,
        until_at=span.to_at if span else None,
        next_state=after.state if after else None,
        dry_um=round(sum(f.dry_um.likely for f in part.films if f.dry_um), 1),
        next_task=task,
        next_gate=gates[0] if gates else None,
    )


def _rank(task: NextTask, parts: Sequence[PartView], now: int, soon: bool) -> tuple[int, int, int]:
    """May start now first, by latest start; then by when it opens; then as the parts were entered.

    `soon`: a coat opens within minutes: nobody is sent to wash another part meanwhile, with the pot running.

    What is wiped off in time can be saved: it goes before what nobody wiped off while that helped.
    """
    opens = task.opens_at if task.opens_at is not None else now
    index = next(i for i, p in enumerate(parts) if p.part_id == task.part_id)
    may = opens <= now and (task.kind != "coat" or parts[index].state not in ("wet", "flash"))
    lost = task.kind == "then" and task.closes_at is not None and task.closes_at <= now
    if soon and task.before and task.latest_start_at is None:
        return (2, 0, index)
    late = task.latest_start_at if task.latest_start_at is not None else 2**40
    return (0 if may else 1, 2**39 if lost else late if may else opens, index)
