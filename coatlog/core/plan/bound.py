"""What no plan can beat: the longest part alone, all the work shared out, every machine's own work.

A gun is set up for a pot and cleaned before the pot dies in it: how often that must be at the least follows
from how much spraying goes into one pot's life, at the coolest times there are.
"""

from __future__ import annotations

import bisect
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

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
    batches = _batches(p, todo)
    guns = {t.gun for t in todo if t.gun}
    # What is cleaned after the last coat of all holds nothing up: one clean a gun, and no more than one each.
    after_s = {g: max((t.clean_s for t in todo if t.gun == g), default=0) for g in guns}
    least_s = sum(n * (p.pots[key[1]].mix_s + t.setup_s + t.clean_s) for key, (t, n) in batches.items())
    mixing_s = sum(n * p.pots[key[1]].mix_s for key, (_, n) in batches.items())
    people = len(p.people) or p.painters
    last_s = sorted((s for g, s in after_s.items() for _ in range(p.units.get(g, 1))), reverse=True)
    work_s = sum(t.duration_s * t.hands for t in todo) - sum(last_s[:people])
    sprayed = _sprayed(p, todo, batches)
    ends.append(_by(p, work_s, people, least_s, sprayed, mixing_s))
    for gun in guns:
        own = [t for t in todo if t.gun == gun]
        units = p.units.get(gun, 1)
        work_s = sum(t.duration_s for t in own) - units * after_s[gun]
        least_s = sum(n * (t.setup_s + t.clean_s) for t, n in batches.values() if t.gun == gun)
        ends.append(_by(p, work_s, units, least_s, [x for x in sprayed if x.gun == gun], 0))
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


@dataclass(frozen=True, slots=True)
class _Sprayed:
    """Coats of one material out of one kind of gun: how long together [s], how long its pots stand at the
    least while a gun is set up for their first coats [s], what a set-up and a cleaning take [s], and from
    when on how much of a pot's life goes by in a second at the least.
    """

    gun: str
    takes_s: int
    stands_s: int
    change_s: int
    times: Sequence[int]
    rates: Sequence[float]


def _sprayed(
    p: Problem, todo: list[ToDo], batches: dict[tuple[str, str], tuple[ToDo, int]]
) -> list[_Sprayed]:
    """Only what is mixed with a life and no longer than it: what is longer is mixed as it goes."""
    going = {(x.job_id, x.sheet_id) for x in p.tasks.values() if x.began_at is not None}
    own: dict[tuple[str, str], list[ToDo]] = {}
    for t in todo:
        if t.sheet_id is not None and t.gun and t.mixes == 1 and (t.job_id, t.sheet_id) not in going:
            own.setdefault((t.job_id, t.sheet_id), []).append(t)
    out = []
    for (job_id, sheet_id), coats in own.items():
        pot = p.pots[sheet_id]
        airs = {id(p.airs[t.part_id]): p.airs[t.part_id].of_air() for t in coats}
        if pot.pace is None:
            continue
        times, rates = _least([x.rates(pot.pace, +1) for x in airs.values()], pot.use_frac)
        most = max(max(x.rates(pot.pace, +1)[1]) for x in airs.values()) / pot.use_frac
        takes_s = sum(t.duration_s for t in coats if t.duration_s * most <= 1.0)
        first, pots = batches[job_id, sheet_id]
        change_s = first.setup_s + first.clean_s
        out.append(_Sprayed(first.gun, takes_s, pots * first.setup_s, change_s, times, rates))
    return out


def _least(
    of_airs: Sequence[tuple[Sequence[int], Sequence[float]]], use_frac: float
) -> tuple[list[int], list[float]]:
    """The slowest of several airs at any time, as a part of what a pot is used for."""
    times = sorted({at for edges, _ in of_airs for at in edges})
    rates = [
        min(rate[max(0, bisect.bisect_right(edges, at) - 1)] for edges, rate in of_airs) / use_frac
        for at in times
    ]
    return times, rates


def _changes_s(p: Problem, sprayed: Sequence[_Sprayed], at_once: int, by_at: int) -> float:
    """Setting up and cleaning that these coats need at the least, done by an instant by so many at once [s].

    Each set-up serves one pot, and of a pot's life no more than all goes by in the coats of one gun.  They
    are taken to be done at the times when the least goes by.
    """
    if by_at <= p.now:
        return 0.0
    edges = sorted({p.now, by_at, *(at for x in sprayed for at in x.times if p.now < at < by_at)})
    spans = []
    for a, b in itertools.pairwise(edges):
        lasts = b - a if not p.hours else sum(max(0, min(b, d) - max(a, c)) for c, d in p.hours)
        spans.append(
            (lasts * at_once, [x.rates[max(0, bisect.bisect_right(x.times, a) - 1)] for x in sprayed])
        )

    def least(weights: Sequence[int]) -> float:
        """Lives that go by at the least, each as it weighs."""
        each = [[w * r for w, r in zip(weights, rates, strict=True)] for _, rates in spans]
        own_least = map(min, zip(*each, strict=True))
        out: float = sum(x.stands_s * cost for x, cost in zip(sprayed, own_least, strict=True))
        left = sum(x.takes_s for x in sprayed)
        for cost, lasts in sorted((min(own), lasts) for own, (lasts, _) in zip(each, spans, strict=True)):
            out += cost * min(left, lasts)
            left -= min(left, lasts)
        return out

    changes = math.ceil(least([1] * len(sprayed)) - 1e-9)  # a gun is not set up half a time
    return max(least([x.change_s for x in sprayed]), changes * min(x.change_s for x in sprayed))


def _by(
    p: Problem, work_s: int, at_once: int, least_s: int, sprayed: Sequence[_Sprayed], besides_s: int
) -> int:
    """When so much work [s] can be done by so many, with what guns and pots need besides.

    `least_s`: of that, counted by volume; `besides_s`: what has to be mixed beside setting up and cleaning.
    """
    low = _open_for(p, work_s + least_s, at_once)

    def done_by(by_at: int) -> int:
        if not sprayed:
            return low
        return max(
            low, _open_for(p, math.ceil(work_s + besides_s + _changes_s(p, sprayed, at_once, by_at)), at_once)
        )

    # The more time there is, the cooler some of it: the first instant by which there is time enough.
    high = done_by(low)
    while high - low > 1:
        mid = (low + high) // 2
        low, high = (low, mid) if done_by(mid) <= mid else (mid, high)
    return high


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
