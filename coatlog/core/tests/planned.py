"""A second opinion on plans: every constraint of a problem looked at anew, in words."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

from coatlog.core.plan.mixes import LEAST_POT_S
from coatlog.core.plan.plan import SIDE_KINDS, Plan, Task
from coatlog.core.plan.problem import Link, Problem
from coatlog.core.run.recoat_windows import reach_max, reach_min


def orders(p: Problem) -> Iterator[tuple[str, ...]]:
    """Every order in which each task comes after those it waits for."""
    before: dict[str, set[str]] = {k: set() for k in p.tasks}
    for x in p.links:
        before[x.b_key].add(x.a_key)

    def go(done: tuple[str, ...]) -> Iterator[tuple[str, ...]]:
        if len(done) == len(p.tasks):
            yield done
        for k in p.tasks:
            if k not in done and before[k] <= set(done):
                yield from go((*done, k))

    return go(())


def broken(plan: Plan, p: Problem) -> list[str]:
    """Every constraint a plan breaks."""
    at = {t.key: t for t in plan.tasks}
    out = [f"{x.b_key} without {x.a_key}" for x in p.links if x.b_key in at and x.a_key not in at]
    out = [x for x in out if not at[x.split(" without ")[0]].locked]
    held = [x for x in p.links if x.b_key in at and x.a_key in at]
    out += [f"{x.a_key} -> {x.b_key}" for x in held if not _link_holds(x, at, p)]
    out += _dust(plan, p)
    out += _overlaps(plan, p) + _guns(plan, p) + _bays(plan, p)
    out += _batches(plan, p, at) + _people(plan, p)
    for t in plan.tasks:
        if (
            p.hours
            and not t.locked
            and t.kind != "slot"
            and not any(o <= t.start_at and _until(t, p) <= c for o, c in p.hours)
        ):
            out.append(f"{t.key} outside hours")
        if t.kind in SIDE_KINDS:
            continue
        todo = p.tasks[t.key]
        windows = todo.windows or ((p.now, None),)
        if not t.locked and not any(a <= t.start_at and (b is None or t.start_at <= b) for a, b in windows):
            out.append(f"{t.key} outside its window")
        if t.start_at < p.held.get(t.key, 0):
            out.append(f"{t.key} before it was put")
        calm = p.weather.get(todo.place_id)
        if (
            calm is not None
            and todo.kind == "coat"
            and not any(a <= t.start_at and t.end_at + todo.dry_s <= b for a, b in calm)
        ):
            out.append(f"{t.key} in bad weather")
    return out


def _dust(plan: Plan, p: Problem) -> list[str]:
    """Nobody makes dust where a film of the same air still takes it: to touch, and half a day at most."""
    films: list[tuple[str, str, int, int]] = []
    for t in plan.tasks:
        own = p.tasks.get(t.key)
        if own is None or own.kind != "coat" or own.settles is None or own.place_id in p.weather:
            continue
        dry = reach_min(p.airs[t.part_id], own.settles, t.end_at)
        most = t.end_at + 12 * 3600
        films.append((t.key, own.place_id, t.start_at, most if dry is None else min(dry, most)))
    films += [("lies there", place, a, b) for place, spans in p.wet.items() for a, b in spans]
    return [
        f"{t.key} dusts {film}"
        for t in plan.tasks
        if t.key in p.tasks and p.tasks[t.key].dusts and not t.locked
        for film, place, a, b in films
        if place == p.tasks[t.key].place_id and t.start_at < b and a < t.end_at
    ]


def _until(t: Task, p: Problem) -> int:
    """Until when somebody has to be there: what goes on by itself is only begun."""
    return t.start_at if t.key in p.tasks and p.tasks[t.key].by_itself else t.end_at


def _link_holds(x: Link, at: dict[str, Task], p: Problem) -> bool:
    """Both local intervals: the shortest against the minimum, the longest against the maximum."""
    a, b = at[x.a_key], at[x.b_key]
    air = p.airs.get(a.part_id)
    # Long surfaces: half an hour is a patch, and each patch waits for itself where both go the same way.
    same_way = x.gate == "recoat" and not x.turned
    head_s = max(0, min(a.end_at - a.start_at, b.end_at - b.start_at) - 1800) if same_way else 0
    for opens, closes in x.windows:
        first: int | None = a.end_at
        if opens is not None:
            ripe = a.end_at - head_s
            first = ripe + opens if isinstance(opens, int) else reach_min(air, opens, ripe)
            first = None if first is None else max(first, a.end_at)
        last = None
        if closes is not None:
            last = a.start_at + closes if isinstance(closes, int) else reach_max(air, closes, a.start_at)
        oldest = b.end_at if x.turned else b.start_at
        if first is not None and b.start_at >= first and (last is None or oldest <= last):
            return True
    return False


def _overlaps(plan: Plan, p: Problem) -> list[str]:
    """Nobody does two things at once; nor does a machine."""
    hands = [t for t in plan.tasks if t.kind in SIDE_KINDS or p.tasks[t.key].hands]
    many = len(p.people) or p.painters
    out = [f"painter {t.painter} of {many}" for t in hands if t.painter >= many]
    for painter in range(many):
        out += _clashes([t for t in hands if painter in (t.painter, *t.others)])
    for t in plan.tasks:
        wanted = 1 if t.key not in p.tasks else p.tasks[t.key].hands
        if not t.locked and wanted > 1 and len({t.painter, *t.others}) != wanted:
            out.append(f"{t.key} wants {wanted} people")
    for name in {m for t in p.tasks.values() for m in t.uses}:
        mine = [t for t in plan.tasks if t.key in p.tasks and name in p.tasks[t.key].uses]
        if p.units.get(name, 1) == 1:
            out += [f"{name}: {x}" for x in _clashes(mine)]
    return out


def _people(plan: Plan, p: Problem) -> list[str]:
    """Who does something may do it, and is there from its beginning to its end."""
    out = []
    for t in plan.tasks if p.people else ():
        own = p.tasks.get(t.key)
        if t.locked or (own is not None and not own.hands):
            continue
        needs = own.needs if own is not None else p.tasks[t.waits_key or ""].needs - {"coat", "structure"}
        for i in (t.painter, *t.others):
            who = p.people[i]
            if not needs <= who.may:
                out.append(f"{who.name} may not {t.key}")
            if not any(a <= t.start_at and _until(t, p) <= b for a, b in who.hours):
                out.append(f"{who.name} is away at {t.key}")
    return out


def _clashes(tasks: list[Task]) -> list[str]:
    mine = sorted(tasks, key=lambda t: (t.start_at, t.end_at))
    return [f"{a.key} overlaps {b.key}" for a, b in itertools.pairwise(mine) if b.start_at < a.end_at]


def _guns(plan: Plan, p: Problem) -> list[str]:
    """Where there is one gun: between two materials in it stands a clean, and after the last coat."""
    out = []
    for gun in {t.gun for t in p.tasks.values() if t.gun}:
        coats = sorted((t for t in plan.tasks if t.key in p.tasks and p.tasks[t.key].gun == gun),
                       key=lambda t: t.start_at)  # fmt: skip
        units = p.units.get(gun, 1)
        if units > 1:
            out += [
                f"{gun}: more than {units} at {t.key}"
                for t in coats
                if sum(x.start_at <= t.start_at < x.end_at for x in coats) > units
            ]
            continue
        out += _clashes(coats)
        cleans = [t for t in plan.tasks if t.kind == "clean" and p.tasks[t.key.rsplit("/", 1)[0]].gun == gun]
        for a, b in itertools.pairwise(coats):
            same = (p.tasks[a.key].job_id, p.tasks[a.key].sheet_id) == (
                p.tasks[b.key].job_id,
                p.tasks[b.key].sheet_id,
            )
            cleaned = any(a.end_at <= c.start_at and c.end_at <= b.start_at for c in cleans)
            if not same and not cleaned:
                out.append(f"{gun} not cleaned between {a.key} and {b.key}")
        if coats and not any(c.start_at >= coats[-1].end_at for c in cleans):
            out.append(f"{gun} left dirty after {coats[-1].key}")
    return out


def _bays(plan: Plan, p: Problem) -> list[str]:
    """No more objects in a bay than it holds, each there until dry enough to move."""
    out = []
    for place, bay in p.bays.items():
        stays: dict[str, list[int]] = {}
        for t in plan.tasks:
            todo = p.tasks.get(t.key)
            if todo is None or todo.place_id != place:
                continue
            end = t.end_at
            if todo.leaves is not None:
                end = reach_min(p.airs[t.part_id], todo.leaves, end) or end
            low, high = stays.get(t.job_id, [t.start_at, end])
            stays[t.job_id] = [min(low, t.start_at), max(high, end)]
        for who in bay.inside:
            if who in stays:
                stays[who][0] = p.now
        stays |= {who: [p.now, until] for who, until in bay.drying}
        for low, _ in stays.values():
            if sum(a <= low < b for a, b in stays.values()) > bay.holds:
                out.append(f"{bay.name} too full")
    return out


def _batches(plan: Plan, p: Problem, at: dict[str, Task]) -> list[str]:
    """Every coat is mixed for once, after its pot has stood and before it dies."""
    out = []
    for b in plan.batches:
        pot = p.pots[b.sheet_id]
        for key in b.draws:
            first = b is next(x for x in plan.batches if key in x.draws)
            if first and at[key].start_at < b.mix_at + pot.mix_s + pot.induction_s:
                out.append(f"{key} before its pot was ready")
            todo = p.tasks[key]
            share = b.total_ml / todo.volume_ml if todo.mixes > 1 else 1.0
            ends = at[key].end_at if share == 1 else b.mix_at + pot.mix_s + share * todo.duration_s
            used_up = math.floor(ends)
            ready_at = b.mix_at + pot.mix_s
            if b.use_by_at is None or b.use_by_at - ready_at < LEAST_POT_S:
                continue  # mixed little by little, as it is spread
            if used_up > b.use_by_at:
                out.append(f"{key} after its pot died")
        ml = sum(p.tasks[k].volume_ml for k in b.draws)
        if len(b.draws) == 1 and p.tasks[b.draws[0]].mixes > 1:
            own = [x.total_ml for x in plan.batches if x.draws == b.draws]
            ml -= sum(own) - b.total_ml
        if abs(ml - b.total_ml) > 1e-6 or (pot.most_ml is not None and ml > pot.most_ml + 1e-6):
            out.append(f"{b.key} holds {b.total_ml} for {ml}")
    drawn = [k for b in plan.batches for k in b.draws]
    for key in set(drawn):
        if drawn.count(key) != p.tasks[key].mixes:
            out.append(f"{key} from {drawn.count(key)} batches")
    return out
