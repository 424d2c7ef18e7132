"""Orders by simple rules, and how good a plan is by what was asked for."""

from __future__ import annotations

from collections.abc import Mapping

from .layout import dispatched, work_left_s
from .plan import Objective, Plan
from .problem import Problem

__all__ = ["cost", "idle_s", "lateness_s", "list_orders"]

_FAR = 2**40


def list_orders(p: Problem) -> tuple[tuple[str, ...], ...]:
    """A few orders: as one works, what closes first, what is due first, layer by layer, part by part."""
    keys = tuple(p.tasks)
    before = {x.b_key: x.a_key for x in p.links}
    depth: dict[str, int] = {}
    for k in keys:
        d, at = 0, k
        while at in before and d < len(keys):
            at, d = before[at], d + 1
        depth[k] = d
    left = work_left_s(p)

    def closes(k: str) -> int:
        while k in before:
            k = before[k]
        ends = [c for _, c in p.tasks[k].windows if c is not None]
        return min(ends, default=_FAR)

    def due(k: str) -> int:
        return p.due.get(p.tasks[k].job_id, _FAR)

    material: dict[str, int] = {}
    for k in keys:
        material.setdefault(p.tasks[k].sheet_id or "", depth[k])
    by_layer = sorted(keys, key=lambda k: (depth[k], closes(k)))
    by_part = sorted(keys, key=lambda k: (closes(k), due(k), p.tasks[k].part_id, depth[k]))
    by_due = sorted(keys, key=lambda k: (due(k), depth[k], closes(k)))
    unmask_last = sorted(keys, key=lambda k: (p.tasks[k].kind == "unmask", depth[k], closes(k)))
    longest = sorted(keys, key=lambda k: (depth[k], closes(k), -left[k]))
    by_material = sorted(keys, key=lambda k: (depth[k] + material[p.tasks[k].sheet_id or ""], closes(k)))
    as_one_works = [
        dispatched(p, lambda k: (closes(k), -left[k])),
        dispatched(p, lambda k: (closes(k), -left[k]), urgent_s=3600),
        dispatched(p, lambda k: (closes(k), -left[k]), urgent_s=7200),
        dispatched(p, lambda k: (closes(k), -left[k]), urgent_s=3 * 3600, grain_s=900),
        dispatched(p, lambda k: (due(k), closes(k), -left[k]), grain_s=300),
        dispatched(p, lambda k: (material[p.tasks[k].sheet_id or ""], -left[k]), grain_s=900),
    ]
    orders = (*as_one_works, by_layer, unmask_last, by_part, by_due, longest, by_material)
    return tuple(dict.fromkeys(legal(tuple(o), before) for o in orders))


def legal(order: tuple[str, ...], before: Mapping[str, str]) -> tuple[str, ...]:
    """The order with every task after the one it waits for."""
    out: dict[str, None] = {}
    known = set(order)

    def put(k: str) -> None:
        chain = []
        while k not in out:
            chain.append(k)
            if k not in before or before[k] not in known or before[k] in chain:
                break
            k = before[k]
        for x in reversed(chain):
            out.setdefault(x)

    for k in order:
        put(k)
    return tuple(out)


def lateness_s(plan: Plan, p: Problem) -> int:
    """How much later than due the jobs are, added up [s]."""
    ends: dict[str, int] = {}
    for t in plan.tasks:
        ends[t.job_id] = max(ends.get(t.job_id, 0), t.end_at)
    return sum(max(0, end - p.due[j]) for j, end in ends.items() if j in p.due)


def idle_s(plan: Plan) -> int:
    """How long painters stand between their first and their last task [s]."""
    out = 0
    for painter in {t.painter for t in plan.tasks}:
        mine = sorted((t.start_at, t.end_at) for t in plan.tasks if t.painter == painter)
        at = mine[0][0]
        for start, end in mine:
            out += max(0, start - at)
            at = max(at, end)
    return out


def cost(plan: Plan, p: Problem, objective: Objective = "finish") -> tuple[int, ...]:
    """Smaller is better: what cannot be planned first, then what was asked for, then the finish.

    A deadline that is missed weighs more than any objective.
    """
    planned = {t.key for t in plan.tasks}
    missing = sum(k not in planned for k in p.tasks)
    finish = plan.finish_at if plan.finish_at is not None else _FAR
    late = lateness_s(plan, p)
    ends = sum(t.end_at for t in plan.tasks if t.key in p.tasks)
    if objective == "mixes":
        mixed = sum(p.pots[b.sheet_id].pace is not None for b in plan.batches)
        return missing, late, mixed, finish, ends
    if objective == "waiting":
        return missing, late, idle_s(plan), finish, ends
    return missing, late, finish, ends
