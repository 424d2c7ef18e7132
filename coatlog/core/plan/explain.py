"""What changed between two plans, and why: the task, what it waits for now, the minutes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from .plan import SIDE_KINDS, Plan, Task

__all__ = ["Change", "changes"]

LEAST_S = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One task moved by so much [s], later or earlier; `text` says it with its reason."""

    key: str
    label: str
    moved_s: int
    waits_key: str | None
    text: str


def changes(before: Plan, after: Plan, labels: Mapping[str, str] | None = None) -> tuple[Change, ...]:
    """Tasks of both plans that moved by a minute or more, the first of them in time first.

    `labels` name tasks that are in neither plan any more, as they were done.
    """
    was = {t.key: t for t in before.tasks if t.kind not in SIDE_KINDS}
    now = {t.key: t for t in after.tasks}
    names = {**{t.key: t.label for t in before.tasks}, **(labels or {})}
    out = []
    for t in after.tasks:
        if t.kind in SIDE_KINDS or t.locked or t.key not in was:
            continue
        moved = t.start_at - was[t.key].start_at
        if abs(moved) >= LEAST_S:
            out.append(
                Change(
                    key=t.key,
                    label=t.label,
                    moved_s=moved,
                    waits_key=t.waits_key,
                    text=_text(t, moved, was, now, names),
                )
            )
    return tuple(out)


def _text(
    t: Task, moved: int, was: Mapping[str, Task], now: Mapping[str, Task], names: Mapping[str, str]
) -> str:
    way = "later" if moved > 0 else "earlier"
    text = f"{t.label}: {round(abs(moved) / 60)} min {way}, {t.binds.ref}"
    root = _root(t, moved, was, now)
    if root is not None:
        text += ", itself" if root.key == t.waits_key else f", because of {root.label}, itself"
        if root.locked:
            text += " still in progress"
        elif root.key in was:
            by = root.start_at - was[root.key].start_at
            text += f" {round(abs(by) / 60)} min {'later' if by > 0 else 'earlier'}, {root.binds.ref}"
    return text + "."


def _root(t: Task, moved: int, was: Mapping[str, Task], now: Mapping[str, Task]) -> Task | None:
    """The task at the beginning of the chain of waits that moved the same way; None: this one."""
    at, root, seen = t, None, {t.key}
    while at.waits_key is not None and at.waits_key not in seen:
        nxt = now.get(at.waits_key)
        if nxt is None:
            break
        if nxt.kind in SIDE_KINDS and nxt.waits_key is not None and nxt.waits_key in now:
            nxt = now[nxt.waits_key]
        if nxt.key in seen:
            break
        seen.add(nxt.key)
        if nxt.locked:
            return nxt
        by = nxt.start_at - was[nxt.key].start_at if nxt.key in was else 0
        if by * moved <= 0 or abs(by) < LEAST_S:
            break
        at = root = nxt
    return root
