"""The log before it means anything: duplicates, order, strikes and clocks that run backwards."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..codec import canonical
from .entries import Entry

__all__ = ["clock_jumps", "in_order", "live_ids"]


def in_order(entries: Iterable[Entry]) -> list[Entry]:
    """Each id once, in the log's order.  Of two bodies under one id the smaller text is kept."""
    by_id: dict[str, Entry] = {}
    for e in entries:
        seen = by_id.get(e.id)
        if seen is None or (seen != e and canonical(e) < canonical(seen)):
            by_id[e.id] = e
    return sorted(by_id.values(), key=Entry.order)


def live_ids(entries: Sequence[Entry]) -> tuple[set[str], set[str]]:
    """(ids that stand, ids of strikes caught in a ring).

    An entry is struck when any standing strike targets it.  Strikes nobody targets stand; from
    them the answer spreads.  What is left over strikes itself in a ring and has no effect.
    """
    by_id = {e.id: e for e in entries}
    strikers: dict[str, list[str]] = {}
    for e in entries:
        target = e.body.get("target_id") if e.kind == "strike" else None
        if isinstance(target, str):
            strikers.setdefault(target, []).append(e.id)
    waiting = {i: len(strikers.get(i, ())) for i in by_id}
    struck: set[str] = set()
    ready = [i for i, count in waiting.items() if count == 0]
    settled: set[str] = set(ready)
    while ready:
        at = ready.pop()
        e = by_id[at]
        target = e.body.get("target_id") if e.kind == "strike" else None
        if not isinstance(target, str) or target not in by_id or target in settled:
            continue
        waiting[target] -= 1
        if at not in struck:
            struck.add(target)
        if at not in struck or waiting[target] == 0:
            settled.add(target)
            ready.append(target)
    ring = {i for i in by_id if i not in settled and by_id[i].kind == "strike"}
    return {i for i in by_id if i not in struck and i not in ring}, ring


def clock_jumps(entries: Sequence[Entry]) -> dict[str, int]:
    """For taps whose time runs against their device's counter: the latest time read before them."""
    latest: dict[str, int] = {}
    out: dict[str, int] = {}
    for e in sorted(entries, key=lambda e: (e.device_id, e.n, e.at_true, e.id)):
        if e.at_from != "tap":
            continue
        before = latest.get(e.device_id)
        if before is not None and e.at_true < before:
            out[e.id] = before
        latest[e.device_id] = max(e.at_true, before if before is not None else e.at_true)
    return out
