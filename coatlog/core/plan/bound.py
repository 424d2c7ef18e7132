"""What no plan can beat: the longest part alone, all the work shared out, every machine's own work."""

from __future__ import annotations

import math
from dataclasses import replace

from .layout import blocked_tasks, lay_out
from .problem import Problem, ToDo

__all__ = ["is_plain", "lower_bound_s"]


def is_plain(p: Problem) -> bool:
    """Whether whole seconds say it all: no pots, guns, bays, hours, weather, nor waits that vary."""
    fixed = all(edge is None or isinstance(edge, int) for x in p.links for w in x.windows for edge in w)
    bare = all(not t.gun and t.sheet_id is None and t.dry_s == 0 for t in p.tasks.values())
    return fixed and bare and not (p.bays or p.hours or p.weather or p.held)


def lower_bound_s(p: Problem) -> int:
    """Time from now before which no plan can be finished [s], whatever its order."""
    blocked = blocked_tasks(p)
    keys = [k for k in p.tasks if k not in blocked]
    if not keys:
        return 0
    ends = [_chain_end(p, chain) for chain in _chains(p, keys)]
    todo = [p.tasks[k] for k in keys if p.tasks[k].began_at is None]
    around_s = _around_s(p, todo)
    guns = {t.gun for t in todo if t.gun}
    # What is cleaned after the last coat of all holds nothing up: one clean a gun.
    after_s = sum(max((t.clean_s for t in todo if t.gun == g), default=0) * p.units.get(g, 1) for g in guns)
    work_s = sum(t.duration_s * t.hands for t in todo) + max(0, sum(around_s.values()) - after_s)
    ends.append(_open_for(p, work_s, len(p.people) or p.painters))
    for gun in guns:
        own = [t for t in todo if t.gun == gun]
        used_s = sum(t.duration_s for t in own) + sum(
            n * (t.setup_s + t.clean_s) for t, n in _batches(p, own).values()
        )
        units = p.units.get(gun, 1)
        ends.append(_open_for(p, used_s - units * max(t.clean_s for t in own), units))
    for name in {m for t in todo for m in t.uses}:
        work = sum(t.duration_s for t in todo if name in t.uses)
        ends.append(_open_for(p, work, p.units.get(name, 1)))
    return max(0, max(ends) - p.now)


def _prepared_s(p: Problem, t: ToDo) -> int:
    """Mixing and set-up no first coat of a material can do without [s]."""
    if t.sheet_id is None or (t.job_id, t.sheet_id) in p.alive:
        return 0
    running = any(x.began_at is not None and x.sheet_id == t.sheet_id for x in p.tasks.values())
    return p.pots[t.sheet_id].mix_s + (0 if running else t.setup_s)


def _batches(p: Problem, todo: list[ToDo]) -> dict[tuple[str, str], tuple[ToDo, int]]:
    """Of each job and material a coat of it, and how many pots have to be mixed for it at the least.

    A gun is set up for a pot and cleaned out after it, whoever sprays.
    """
    own: dict[tuple[str, str], list[ToDo]] = {}
    for t in todo:
        if t.sheet_id is not None:
            own.setdefault((t.job_id, t.sheet_id), []).append(t)
    out: dict[tuple[str, str], tuple[ToDo, int]] = {}
    for key, coats in own.items():
        if any(x.began_at is not None and (x.job_id, x.sheet_id) == key for x in p.tasks.values()):
            continue  # a gun holds it already
        most_ml = p.pots[key[1]].most_ml
        left_ml = sum(t.volume_ml for t in coats) - (p.alive[key][1] if key in p.alive else 0.0)
        n = 0 if key in p.alive else 1
        if most_ml:
            n = max(n, math.ceil(left_ml / most_ml - 1e-9))
        out[key] = coats[0], n
    return out


def _around_s(p: Problem, todo: list[ToDo]) -> dict[tuple[str, str], int]:
    """Mixing, setting up and cleaning that no order does without, by job and material [s]."""
    return {
        key: n * (p.pots[key[1]].mix_s + t.setup_s + t.clean_s) for key, (t, n) in _batches(p, todo).items()
    }


def _chains(p: Problem, keys: list[str]) -> list[list[str]]:
    """Tasks that hang together by their waits, in the order given."""
    group = {k: k for k in keys}

    def root(k: str) -> str:
        while group[k] != k:
            k = group[k]
        return k

    for x in p.links:
        if x.a_key in group and x.b_key in group:
            group[root(x.b_key)] = root(x.a_key)
    out: dict[str, list[str]] = {}
    for k in keys:
        out.setdefault(root(k), []).append(k)
    return list(out.values())


def _chain_end(p: Problem, chain: list[str]) -> int:
    """Earliest end of one part alone: nothing shared, nothing mixed, as many painters as tasks."""
    alone = {
        k: replace(p.tasks[k], sheet_id=None, gun="", setup_s=0, uses=(), hands=0, clean_s=0) for k in chain
    }
    links = tuple(x for x in p.links if x.a_key in alone and x.b_key in alone)
    # Somebody has to mix a material before its first coat, on this part or another.
    held = {k: max(p.held.get(k, 0), p.now + _prepared_s(p, p.tasks[k])) for k in chain}
    bare = replace(p, tasks=alone, links=links, bays={}, pots={}, alive={}, held=held)
    plan = lay_out(tuple(chain), bare)
    return p.now if plan.finish_at is None else plan.finish_at


def _open_for(p: Problem, work_s: int, workers: int) -> int:
    """When so much work [s], shared by so many, can be done in the opening hours."""
    left = -(-work_s // max(1, workers))
    if not p.hours:
        return p.now + left
    for a, b in p.hours:
        a = max(a, p.now)
        if left <= b - a:
            return a + left
        left -= max(0, b - a)
    return p.now
