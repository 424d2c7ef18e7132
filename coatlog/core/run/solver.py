"""Orders from CP-SAT, laid out exactly; the best laid-out order is the plan.

The model is the small one: start times, one cumulative resource for the painters, waits taken at
the temperature of the best list rule's plan, which is also the hint.  Pots and opening hours are
left to `lay_out`.  What the model proposes is kept only when, laid out, it beats the list rules.
"""

from __future__ import annotations

import dataclasses

from ortools.sat.python import cp_model

from .plan import Plan, lay_out, list_orders
from .problem import Problem
from .ripening import reach_max, reach_min

__all__ = ["solve"]

HORIZON_S = 20 * 86400


def solve(p: Problem, *, seed: int = 1, limit_s: float = 2.0) -> Plan:
    """Best plan found within a time limit [s]; with none, the best of the list rules.

    status: optimal when it meets the model's lower bound (which takes the waits at the temperatures
    of the hinted plan), feasible otherwise, infeasible with the conflict named when no order of the
    list rules can be laid out.
    """
    plans = [lay_out(order, p) for order in list_orders(p)]
    if not p.tasks:
        return plans[0]
    best = min(plans, key=_cost)
    if best.finish_at is None or all(t.locked for t in best.tasks) or limit_s <= 0:
        return best
    if len({t.part_id for t in p.tasks.values()}) == 1 and best.status != "infeasible":
        # One part is one chain: it has one order, and laid out it is as early as it can be.
        return dataclasses.replace(best, status="optimal", bound_s=best.finish_at - p.now)
    proposed = _propose(p, best, seed, limit_s)
    if proposed is None:
        return best
    order, bound_s = proposed
    again = lay_out(order, p)
    better = min((best, again), key=_cost)
    finish = (better.finish_at or p.now) - p.now
    status = "optimal" if finish <= bound_s else "feasible"
    if better.status == "infeasible":  # a blocked part stays named, however well the rest is laid out
        status = "infeasible"
    return dataclasses.replace(better, status=status, bound_s=min(bound_s, finish))  # type: ignore[arg-type]


def _cost(plan: Plan) -> tuple[int, int]:
    if plan.finish_at is None:
        return (2**60, 0)
    return (plan.finish_at, sum(t.end_at for t in plan.tasks))


def _propose(p: Problem, hint: Plan, seed: int, limit_s: float) -> tuple[tuple[str, ...], int] | None:
    model = cp_model.CpModel()
    at = {t.key: t for t in hint.tasks}
    start, interval = {}, []
    for key, task in at.items():
        t = p.tasks[key]
        if task.locked:
            left = task.end_at - p.now
            interval.append(model.new_fixed_size_interval_var(0, left, key))
            continue
        start[key] = model.new_int_var(0, HORIZON_S, key)
        interval.append(model.new_fixed_size_interval_var(start[key], t.duration_s, key))
        model.add_hint(start[key], at[key].start_at - p.now)
        chosen = next((w for w in t.windows if w[1] is None or at[key].start_at <= w[1]), None)
        if chosen is not None:
            model.add(start[key] >= max(0, chosen[0] - p.now))
            if chosen[1] is not None:
                model.add(start[key] <= chosen[1] - p.now)
    model.add_cumulative(interval, [1] * len(interval), p.painters)
    for link in p.links:
        if link.b_key not in start:
            continue
        a, air = at[link.a_key], p.airs[p.tasks[link.b_key].part_id]
        for opens, closes in link.windows:
            first = a.end_at if opens is None else reach_min(air, opens, a.end_at)
            last = None if closes is None else reach_max(air, closes, a.start_at)
            b_start = at[link.b_key].start_at
            if first is None or b_start < first or (last is not None and b_start > last):
                continue
            began = start.get(link.a_key, a.start_at - p.now)
            model.add(start[link.b_key] >= began + (first - a.start_at))
            if last is not None:
                model.add(start[link.b_key] <= began + (last - a.start_at))
            break
    end = model.new_int_var(0, 2 * HORIZON_S, "finish")
    for key, begin in start.items():
        model.add(end >= begin + p.tasks[key].duration_s)
    # Finish first, then the sum of starts: one second of finish outweighs any sum.
    weight = len(start) * HORIZON_S + 1
    model.minimize(end * weight + sum(start.values()))
    solver = cp_model.CpSolver()
    solver.parameters.random_seed = seed
    solver.parameters.max_time_in_seconds = limit_s
    solver.parameters.num_workers = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    placed = sorted(start, key=lambda k: (solver.value(start[k]), k))
    order = (*(k for k in p.tasks if k not in start), *placed)
    return order, int(solver.best_objective_bound // weight)
