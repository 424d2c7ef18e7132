"""A long surface in sections, each coated in its turn: what the plan would be, before the survey is cut.

Sections meet at a line that is there (waterline, chine, frame, seam) or is taped; each keeps the wet edge
within itself, as the whole would.
"""

from __future__ import annotations

import math
from collections.abc import Container
from dataclasses import replace

from .layout import legal
from .problem import Link, Problem, ToDo

__all__ = ["in_sections", "too_long"]


def too_long(p: Problem, parts: Container[str]) -> dict[str, int]:
    """Which of these parts have a coat that fits no day, and into how many sections it has to be cut."""
    longest_s = max((b - a for a, b in p.hours), default=0)
    out: dict[str, int] = {}
    for t in p.tasks.values():
        mix_s = p.pots[t.sheet_id].mix_s if t.sheet_id in p.pots else 0
        if longest_s <= mix_s or t.kind != "coat" or t.began_at is not None or t.part_id not in parts:
            continue
        if t.duration_s + mix_s > longest_s:
            out[t.part_id] = max(out.get(t.part_id, 0), math.ceil(t.duration_s / (longest_s - mix_s)))
    return out


def in_sections(p: Problem, part_id: str, n: int) -> Problem:
    """The problem with all that is done on a part done on each section of it, as on a part of its own.

    What waits for the whole waits for all of them.
    """
    keys: dict[str, tuple[str, ...]] = {}
    tasks: dict[str, ToDo] = {}
    for k, t in p.tasks.items():
        whole = t.part_id != part_id or t.kind not in ("coat", "step", "unmask") or t.began_at is not None
        keys[k] = (k,) if whole else tuple(_part(k, i) for i in range(n))
    for i in range(n):  # section after section, as part after part
        for k, t in p.tasks.items():
            if len(keys[k]) == 1:
                tasks.setdefault(k, t)
                continue
            tasks[keys[k][i]] = replace(
                t,
                key=keys[k][i],
                part_id=_part(part_id, i),
                label=f"{t.label}, section {i + 1} of {n}",
                duration_s=math.ceil(t.duration_s / n) if t.hands else t.duration_s,
                volume_ml=t.volume_ml / n,
                mixes=math.ceil(t.mixes / n),
                mix_ml=min(t.mix_ml, t.volume_ml / n),
            )
    links = tuple(y for x in p.links for y in _by_section(x, keys))
    airs = dict(p.airs) | {_part(part_id, i): p.airs[part_id] for i in range(n) if part_id in p.airs}
    return replace(p, tasks=_after_what_they_wait_for(tasks, links), links=links, airs=airs)


def _part(whole_id: str, i: int) -> str:
    return whole_id if i == 0 else f"{whole_id}#{i + 1}"


def _after_what_they_wait_for(tasks: dict[str, ToDo], links: tuple[Link, ...]) -> dict[str, ToDo]:
    before: dict[str, list[str]] = {}
    for x in links:
        before.setdefault(x.b_key, []).append(x.a_key)
    return {k: tasks[k] for k in legal(tuple(tasks), before)}


def _by_section(x: Link, keys: dict[str, tuple[str, ...]]) -> list[Link]:
    first, then = keys[x.a_key], keys[x.b_key]
    if len(first) == len(then):
        return [replace(x, a_key=a, b_key=b) for a, b in zip(first, then, strict=True)]
    return [replace(x, a_key=a, b_key=b) for a in first for b in then]
