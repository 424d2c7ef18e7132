"""Orders by simple rules, and how good a plan is by what was asked for."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from .layout import dispatched, legal, work_left_s
from .plan import Objective, Plan
from .problem import Problem

__all__ = ["cost", "idle_s", "lateness_s", "list_orders", "put_in", "rule_orders"]

_FAR = 2**40


def list_orders(p: Problem) -> tuple[tuple[str, ...], ...]:
    """A few orders: as one works, what closes first, what is due first, layer by layer, part by part."""
    return tuple(rule_orders(p))


def rule_orders(p: Problem, until: float | None = None) -> Iterator[tuple[str, ...]]:
    """The same one by one, each once: where there are very many tasks each takes its time.

    `until`: by the monotonic clock [s], when an order looked for task by task is finished by rank.
    """
    keys = tuple(p.tasks)
    before = p.before()
    depth: dict[str, int] = {}
    roots: dict[str, frozenset[str]] = {}
    for k in legal(keys, before):
        own = [b for b in before.get(k, ()) if b in depth]
        depth[k] = max((depth[b] + 1 for b in own), default=0)
        roots[k] = frozenset().union(*(roots[b] for b in own)) if own else frozenset((k,))
    left = work_left_s(p)

    ends = {k: min((c for _, c in t.windows if c is not None), default=_FAR) for k, t in p.tasks.items()}
    first_end = {k: min(ends[r] for r in roots[k]) for k in keys}

    def closes(k: str) -> int:
        return first_end[k]

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

    def as_one_works() -> Iterator[tuple[str, ...]]:
        def pressing(k: str) -> tuple[int, ...]:
            return closes(k), -left[k]

        yield dispatched(p, pressing, until=until)
        yield dispatched(p, pressing, closing=True, until=until)
        yield dispatched(p, pressing, urgent_s=3600, until=until)
        yield dispatched(p, pressing, urgent_s=7200, until=until)
        yield dispatched(p, pressing, urgent_s=3 * 3600, grain_s=900, until=until)
        yield dispatched(p, lambda k: (due(k), *pressing(k)), grain_s=300, until=until)
        yield dispatched(
            p, lambda k: (material[p.tasks[k].sheet_id or ""], -left[k]), grain_s=900, until=until
        )

    told: set[tuple[str, ...]] = set()
    sorted_ones = (by_layer, unmask_last, by_part, by_due, longest, by_material)
    for o in itertools.chain(as_one_works(), sorted_ones):
        order = legal(tuple(o), before)
        if order not in told:
            told.add(order)
            yield order


def put_in(known: Sequence[str], p: Problem) -> tuple[str, ...]:
    """An order of what is known, with the tasks nobody placed yet put in where they fit.

    Each goes before the first of those that wait for it; what nothing waits for goes last, in the
    problem's own order.
    """
    after: dict[str, list[str]] = {}
    for x in p.links:
        after.setdefault(x.a_key, []).append(x.b_key)
    placed = set(known)
    ahead: dict[str, list[str]] = {}
    loose: list[str] = []
    rank = {k: i for i, k in enumerate(known)}
    for key in reversed([k for k in p.tasks if k not in placed]):
        waits = [rank[b] for b in after.get(key, ()) if b in rank]
        if waits:
            first = known[min(waits)]
            ahead.setdefault(first, []).insert(0, key)
            rank[key] = min(waits)
        else:
            loose.insert(0, key)
    out = [k for key in known for k in (*ahead.get(key, ()), key)]
    return legal((*out, *loose), p.before())


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
