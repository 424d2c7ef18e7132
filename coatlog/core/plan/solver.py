"""Orders from list rules, CP-SAT and small changes, laid out exactly; the best laid-out one is the plan.

The CP-SAT model is the small one: start times, one cumulative resource for the painters, one for
every gun and machine, waits and preparation taken from the best list rule's plan, which is also
the hint.  Pots, bays, opening hours and weather are left to `lay_out`, which judges.
"""

from __future__ import annotations

import itertools
import random
import time
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from .beside import MANY_JOBS, job_keys, one_by_one
from .bound import is_plain, lower_bound_s
from .layout import MAX_PASSES, Laid, dispatched, first_miss, lay_out, legal, work_left_s
from .orders import cost, lateness_s, list_orders, rule_orders
from .plan import SIDE_KINDS, Conflict, Objective, Plan, Task
from .problem import Problem, link_windows

__all__ = ["as_late", "solve", "stood"]

HORIZON_S = 20 * 86400
CP_SHARE = 0.1
OTHERS_SHARE = 0.6
MOST_FOR_CP = 100
MOST_DROPS = 12
MOST_FORWARD = 40
MOST_CLOCKS = 4
PRESSING_S = 4 * 3600  # assumed: what closes later than this presses nobody yet
FEW_PASSES = 25
SPARE_S = 1800  # what pots and guns taken otherwise might win back
MOST_STALE = 300  # so many changes in a row that were tried before: the small problem is looked through


def solve(
    p: Problem,
    *,
    objective: Objective = "finish",
    seed: int = 1,
    limit_s: float = 2.0,
    known: Sequence[str] | None = None,
    most_s: float | None = None,
) -> Plan:
    """Best plan found within a time limit [s]; with none, the best of the list rules.

    Parameters
    ----------
    known : an order that stands already: it is tried before all others.
    most_s : when to stop the list rules too [s]; the best of those looked at by then is answered.

    status: optimal when the finish meets a bound no plan can beat, feasible otherwise, infeasible
    with the conflicts named where something cannot be planned; what does not stand on it still is.
    `bound_s` is that bound, from now.
    """
    if not p.tasks:
        return lay_out((), p)
    if _is_full(p):
        return _full(p, objective, known, limit_s if most_s is None else most_s, seed)
    rules_until = None if most_s is None else time.monotonic() + most_s
    given, best = p, _best_rule(p, objective, known, rules_until)
    if _many_jobs(p):  # few tasks in many jobs: filled as a full shop is, if that is better
        best = min((best, one_by_one(p, rule_orders)), key=lambda plan: cost(plan, given, objective))
    conflicts: list[Conflict] = []
    while best.finish_at is None and best.conflicts and len(conflicts) < MOST_DROPS:
        conflict = best.conflicts[-1]
        late = p.tasks.get(conflict.keys[-1]) if conflict.keys else None
        if late is None or late.blocked is not None:
            break
        # What misses its window is left out with all that stands on it; what comes before it is planned.
        conflicts.append(conflict)
        p = replace(p, tasks={**p.tasks, late.key: replace(late, blocked="")})
        best = _best_rule(p, objective, known, rules_until)
    if best.finish_at is None or all(t.locked for t in best.tasks):
        return _judged(best, given, p, conflicts, 0, objective)
    bound_s = best.finish_at - p.now if _one_order(p) else lower_bound_s(p)
    if rules_until is not None and time.monotonic() >= rules_until:
        return _judged(best, given, p, conflicts, bound_s, objective)
    best = _clocks_first(p, best, objective)
    until = time.monotonic() + limit_s
    if rules_until is not None:
        until = min(until, rules_until)
    if limit_s > 0 and not _settled(best, p, objective, bound_s):
        best, proven_s = _proposed(p, best, objective, seed, limit_s * _cp_share(p))
        bound_s = max(bound_s, proven_s)
        if not _settled(best, p, objective, bound_s):
            stop_at = min(until, time.monotonic() + limit_s * OTHERS_SHARE)
            best = _as_others_would(p, best, objective, seed, stop_at)
            best = _clocks_first(p, _changed(p, best, objective, seed, until), objective)
        if objective == "waiting":
            best = min((best, as_late(p, best)), key=lambda plan: cost(plan, p, objective))
    return _judged(best, given, p, conflicts, bound_s, objective)


def stood(order: Sequence[str], p: Problem) -> Plan:
    """The plan of an order that stands: where there are many jobs, each job's own beside the others."""
    return one_by_one(p, rule_orders, known=order) if _is_full(p) else lay_out(order, p)


def _is_full(p: Problem) -> bool:
    return _many_jobs(p) and len(p.tasks) > MOST_FOR_CP


def _many_jobs(p: Problem) -> bool:
    return len({t.job_id for t in p.tasks.values()}) > MANY_JOBS


def _full(p: Problem, objective: Objective, known: Sequence[str] | None, within_s: float, seed: int) -> Plan:
    """The best plan of many jobs: as they stand, then what ends first before, then the longest first."""
    until = time.monotonic() + within_s
    best = one_by_one(p, rule_orders, known=known or (), until=until)
    left = work_left_s(p)
    long_first = sorted(own := job_keys(p), key=lambda job: -max(left[k] for k in own[job]))
    for jobs in ((), long_first):
        if time.monotonic() >= until:
            break
        trial = one_by_one(p, rule_orders, jobs=jobs, until=until)
        best = min((best, trial), key=lambda plan: cost(plan, p, objective))
    rng = random.Random(seed)
    while time.monotonic() < until and best.finish_at is not None:
        trial = one_by_one(p, rule_orders, known=best.order, jobs=_one_sooner(best, rng), until=until)
        best = min((best, trial), key=lambda plan: cost(plan, p, objective))
    if objective == "waiting" and best.finish_at is not None:
        best = min((best, as_late(p, best)), key=lambda plan: cost(plan, p, objective))
    bound_s = 0 if best.finish_at is None else lower_bound_s(p)
    return _judged(best, p, p, (), bound_s, objective)


def _one_sooner(best: Plan, rng: random.Random) -> list[str]:
    """The jobs in the order they are begun, one of those done last put in a few places sooner."""
    ends = {t.job_id: t.end_at for t in sorted(best.tasks, key=lambda t: t.end_at)}
    jobs = list(dict.fromkeys(t.job_id for t in best.tasks))
    late = sorted(jobs, key=lambda job: -ends[job])[: max(3, len(jobs) // 4)]
    job = rng.choice(late)
    i = jobs.index(job)
    jobs.insert(max(0, i - rng.randint(1, max(1, len(jobs) // 2))), jobs.pop(i))
    return jobs


def _judged(
    best: Plan, given: Problem, p: Problem, conflicts: Sequence[Conflict], bound_s: int, objective: Objective
) -> Plan:
    """The plan with its status and its conflicts, those of parts left out among them."""
    if best.finish_at is None:
        return replace(best, conflicts=(*conflicts, *best.conflicts))
    finish_s = best.finish_at - p.now
    status = best.status
    if status == "feasible" and finish_s <= bound_s and objective in ("finish", "due"):
        status = "optimal"
    if conflicts:
        status = "infeasible"
    order = (*best.order, *(k for k in given.tasks if k not in p.tasks))
    return replace(
        best,
        status=status,
        order=order,
        conflicts=(*conflicts, *best.conflicts),
        bound_s=min(bound_s, finish_s),
    )


def _cp_share(p: Problem) -> float:
    """How much of the time CP-SAT gets: where there are very many tasks, small changes find more in it."""
    if is_plain(p):
        return 0.9
    return CP_SHARE if len(p.tasks) <= MOST_FOR_CP else 0.0


def _one_order(p: Problem) -> bool:
    """Whether the waits leave only one order, so that it is laid out as early as it can be."""
    firsts = set(p.tasks) - {x.b_key for x in p.links}
    return len(firsts) == 1 and len({x.a_key for x in p.links}) == len(p.tasks) - 1


def _best_rule(
    p: Problem, objective: Objective, known: Sequence[str] | None = None, until: float | None = None
) -> Plan:
    """The best of the list rules, each also with what would miss its window brought forward.

    `until`: by the monotonic clock [s]; what is known, or the first rule, is laid out all the same.
    """
    if until is not None:
        return _first_rules(p, objective, known, until)
    orders = list_orders(p)
    if known is not None:
        orders = (tuple(k for k in known if k in p.tasks), *orders)
    trials = dict.fromkeys(x for o in orders for x in (o, _brought_forward(o, p)))
    best: Plan | None = None
    # A list rule given up too soon might have been the best: it is laid out until it cannot be.
    for order, passes in (*((o, FEW_PASSES) for o in trials), *((o, MAX_PASSES) for o in orders)):
        if best is not None and order == best.order and best.finish_at is not None:
            continue
        to_beat = None if best is None else _to_beat(best, p, objective)
        by_at = None if to_beat is None else to_beat + SPARE_S
        plan = lay_out(order, p, passes=passes, by_at=by_at)
        if best is None or cost(plan, p, objective) < cost(best, p, objective):
            best = plan
    assert best is not None
    return _put_off(p, best, objective)


def _first_rules(p: Problem, objective: Objective, known: Sequence[str] | None, until: float) -> Plan:
    """The best of as many orders as there is time for."""
    best: Plan | None = None
    own = () if known is None else (tuple(k for k in known if k in p.tasks),)
    for order in itertools.chain(own, rule_orders(p, until)):
        to_beat = None if best is None else _to_beat(best, p, objective)
        few = max(FEW_PASSES, len(p.tasks) // 15)
        plan = lay_out(order, p, passes=MAX_PASSES if best is None else few, by_at=to_beat)
        if best is None or cost(plan, p, objective) < cost(best, p, objective):
            best = plan
        if time.monotonic() >= until:
            break
    assert best is not None
    return best


def _to_beat(best: Plan, p: Problem, objective: Objective) -> int | None:
    """When a plan must be finished not to be worse; None: it may be better in another way."""
    if best.finish_at is None or objective not in ("finish", "due") or lateness_s(best, p) > 0:
        return None
    return best.finish_at


def _brought_forward(order: tuple[str, ...], p: Problem) -> tuple[str, ...]:
    """The order with each task that would miss its window a few places further up, until none does.

    To push the task before it later helps little where all others stand behind that one.
    """
    before = p.before()
    out = list(order)
    for _ in range(MOST_FORWARD):
        late = first_miss(out, p)
        if late is None:
            break
        i = out.index(late)
        first = max((out.index(b) + 1 for b in before.get(late, ()) if b in out), default=0)
        to = max(first, i - 4)
        if to == i:
            break
        out.insert(to, out.pop(i))
    return tuple(out)


def _put_off(p: Problem, best: Plan, objective: Objective) -> Plan:
    """Parts that a window sends to another day go last, so that they do not hold up the others."""
    for _ in range(len({t.part_id for t in p.tasks.values()})):
        opening = next(((a, b) for a, b in p.hours if b > p.now), None)
        late = [
            t for t in best.tasks if t.binding == "later" and opening is not None and t.start_at > opening[1]
        ]
        if not late:
            return best
        part = min(late, key=lambda t: t.start_at).part_id
        order = [k for k in best.order if p.tasks[k].part_id != part]
        if len(order) == len(best.order) or best.order[len(order) :] == tuple(
            k for k in best.order if p.tasks[k].part_id == part
        ):
            return best
        trial = lay_out((*order, *(k for k in best.order if p.tasks[k].part_id == part)), p)
        if cost(trial, p, objective) >= cost(best, p, objective):
            return best
        best = trial
    return best


def _clocks_first(p: Problem, best: Plan, objective: Objective) -> Plan:
    """A coat whose window runs begins before work that nothing presses, if the finish is no later for it."""
    if objective not in ("finish", "due"):
        return best
    starts = {t.key: t.start_at for t in best.tasks}
    before = p.before()
    running = [
        (min(c for _, c in t.windows if c is not None), k)
        for k, t in p.tasks.items()
        if t.kind == "coat"
        and t.began_at is None
        and k not in before
        and any(c is not None and c <= p.now + PRESSING_S for _, c in t.windows)
    ]
    first: tuple[str, ...] = ()  # those brought forward already, what closes first before the others
    for _, key in sorted(running)[:MOST_CLOCKS]:
        if key not in starts:
            continue
        order = (*first, key, *(k for k in best.order if k != key and k not in first))
        trial = lay_out(legal(order, before), p, passes=FEW_PASSES, by_at=best.finish_at)
        sooner = {t.key: t.start_at for t in trial.tasks}.get(key)
        if sooner is None or cost(trial, p, objective)[:3] > cost(best, p, objective)[:3]:
            continue
        first = (*first, key)
        if sooner < starts[key]:
            best, starts = trial, {t.key: t.start_at for t in trial.tasks}
    return best


def _settled(plan: Plan, p: Problem, objective: Objective, bound_s: int) -> bool:
    """Whether nothing better can be looked for: finish asked for, met, and nothing late."""
    finish = (plan.finish_at or p.now) - p.now
    return objective in ("finish", "due") and finish <= bound_s and cost(plan, p)[1] == 0


def _as_others_would(p: Problem, best: Plan, objective: Objective, seed: int, stop_at: float) -> Plan:
    """The best of many orders made as one works, each with ideas of its own about what presses.

    A change of the order here and there does not lead from one way through the day to another.
    """
    rng = random.Random(seed)
    left = work_left_s(p)
    while time.monotonic() < stop_at:
        whim_s = rng.choice((0, 600, 1800, 3600))
        of_part = {t.part_id: rng.random() * whim_s for t in p.tasks.values()}
        ranks = {
            k: (round(of_part[t.part_id] + rng.random() * whim_s) - left[k],) for k, t in p.tasks.items()
        }
        order = dispatched(
            p,
            ranks.__getitem__,
            urgent_s=rng.choice((0, 0, 1800, 3600, 5400, 7200)),
            grain_s=rng.choice((1, 1, 300, 900)),
            closing=rng.random() < 0.4,
            until=stop_at,
        )
        trial = lay_out(order, p, passes=FEW_PASSES, by_at=_to_beat(best, p, objective), slack=False)
        best = min((best, trial), key=lambda plan: cost(plan, p, objective))
    return best


def _changed(p: Problem, best: Plan, objective: Objective, seed: int, until: float) -> Plan:
    """Small changes of the order as long as they help; what holds up the finish is changed most."""
    rng = random.Random(seed)
    before = p.before()
    at = best  # what is changed: as good as the best, often another
    order = [t.key for t in best.tasks if t.key in p.tasks]
    order += [k for k in best.order if k not in order]
    if len(order) < 2:
        return best
    base = Laid(best.order, p)
    if base.settle(MAX_PASSES, None) is not None:
        return best
    better = [best]
    now_cost = cost(best, p, objective)
    seen, stale = {tuple(order)}, 0
    while time.monotonic() < until and stale < MOST_STALE:
        placed = legal(tuple(_change(order, at, p, rng)), before)
        if placed in seen:
            stale += 1
            continue
        seen.add(placed)
        stale = 0
        to_beat = _to_beat(better[-1], p, objective)
        by_at = None if to_beat is None else to_beat + SPARE_S
        trial = base.tried(placed, passes=FEW_PASSES, by_at=by_at)
        if trial is None:
            continue
        plan = trial.plan(slack=False)
        its_cost = cost(plan, p, objective)
        if its_cost <= now_cost:
            if its_cost < now_cost:
                # Laid out anew it may stand earlier still.
                anew = Laid(placed, p)
                if anew.settle(FEW_PASSES, None) is None:
                    again = anew.plan(slack=False)
                    if cost(again, p, objective) <= its_cost:
                        plan, trial, its_cost = again, anew, cost(again, p, objective)
                better.append(plan)
                now_cost = its_cost
            order, at, base = list(placed), plan, trial
    # Laid out anew each stands as early as it can; one that then needs too many pushes is passed over.
    for plan in reversed(better[1:]):
        again = lay_out(plan.order, p)
        if cost(again, p, objective) < cost(best, p, objective):
            return again
    return best


def _change(order: Sequence[str], at: Plan, p: Problem, rng: random.Random) -> list[str]:
    """The order with one change: a task that holds up the finish goes before the one it waits for;
    or any task a few places on; or the rest of a part is put off, to hold up the others no longer.
    """
    out = list(order)
    chance = rng.random()
    held_up = _held_up(at, p) if chance < 0.6 else []
    if held_up:
        key, waits = rng.choice(held_up)
        out.remove(key)
        out.insert(max(0, out.index(waits) - rng.choice((0, 0, 1, 2, 4))), key)
    elif chance < 0.95:
        i = rng.randrange(len(out))
        key = out.pop(i)
        out.insert(max(0, min(len(out), i + rng.choice((-1, 1)) * rng.randint(1, 6))), key)
    else:
        i = rng.randrange(len(out))
        part = p.tasks[out[i]].part_id
        rest = [k for k in out[i:] if p.tasks[k].part_id == part]
        out = [k for k in out if k not in set(rest)] + rest
    return out


def _held_up(at: Plan, p: Problem) -> list[tuple[str, str]]:
    """Tasks the finish waits for that themselves wait for a painter, gun or machine, and for which task."""
    tasks = {t.key: t for t in at.tasks}
    key: str | None = max((t for t in at.tasks if t.key in p.tasks), key=lambda t: t.end_at).key
    out: list[tuple[str, str]] = []
    known: set[str] = set()
    while key is not None and key in tasks and key not in known:
        known.add(key)
        t = tasks[key]
        waits = t.waits_key
        if t.binding in ("painter", "gun", "machine") and waits is not None:
            owner = waits if waits in p.tasks else tasks[waits].waits_key if waits in tasks else None
            if owner in p.tasks and t.key in p.tasks and owner != t.key:
                out.append((t.key, owner))
            key = owner
        else:
            key = waits
    return out


def as_late(p: Problem, plan: Plan) -> Plan:
    """The same order begun as late as deadlines allow; where a job has none, as the plan's end does.

    Waits that vary with the air may leave a little to gain; a plan that would not hold is not taken.
    """
    finish = plan.finish_at if plan.finish_at is not None else p.now
    jobs = {t.job_id for t in plan.tasks}
    due = {j: p.due.get(j, finish) for j in jobs}
    tight = lay_out(plan.order, replace(p, due=due))
    held = {
        t.key: t.start_at + t.slack_s
        for t in tight.tasks
        if t.slack_s is not None and t.slack_s > 0 and t.kind not in SIDE_KINDS
    }
    later = lay_out(plan.order, replace(p, held={**held, **p.held}))
    ends = {j: max((t.end_at for t in later.tasks if t.job_id == j), default=0) for j in jobs}
    if later.finish_at is None or any(ends[j] > max(due[j], finish) for j in jobs):
        return plan
    return later


def _proposed(p: Problem, hint: Plan, objective: Objective, seed: int, limit_s: float) -> tuple[Plan, int]:
    """The better of the hint and what CP-SAT proposes, laid out; and the bound it proves [s].

    The bound counts only where whole seconds say it all; elsewhere the model's waits are those of
    the hinted plan, and it proves nothing.
    """
    found = _propose(p, hint, objective, seed, limit_s) if limit_s > 0 else None
    if found is None:
        return hint, 0
    order, proven_s = found
    again = lay_out(order, p, passes=FEW_PASSES, by_at=_to_beat(hint, p, objective))
    better = min((hint, again), key=lambda plan: cost(plan, p, objective))
    return better, proven_s if is_plain(p) and not p.due else 0


def _propose(
    p: Problem, hint: Plan, objective: Objective, seed: int, limit_s: float
) -> tuple[tuple[str, ...], int] | None:
    # Imported here: the library takes most of a second to load, and a plan by list rules has no need of it.
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    at = {t.key: t for t in hint.tasks}
    front: dict[str, int] = {}
    back: dict[str, int] = {}
    for side in hint.tasks:
        if side.kind in SIDE_KINDS and side.waits_key is not None:
            where = back if side.start_at >= at[side.waits_key].start_at else front
            where[side.waits_key] = where.get(side.waits_key, 0) + side.end_at - side.start_at
    start: dict[str, Any] = {}
    hands: list[tuple[Any, int]] = []
    shared: dict[str, list[Any]] = {}
    for key, t in p.tasks.items():
        if key not in at:
            continue
        if at[key].locked:
            left = model.new_fixed_size_interval_var(0, max(0, at[key].end_at - p.now), key)
            hands.append((left, max(1, t.hands)))
            if t.gun:
                shared.setdefault(t.gun, []).append(left)
            continue
        lead, tail = front.get(key, 0), back.get(key, 0)
        start[key] = model.new_int_var(lead, HORIZON_S, key)
        model.add_hint(start[key], at[key].start_at - p.now)
        span = model.new_fixed_size_interval_var(start[key] - lead, lead + t.duration_s + tail, key)
        if t.hands:
            hands.append((span, t.hands))
        for name in (*((t.gun,) if t.gun else ()), *t.uses):
            shared.setdefault(name, []).append(span)
        chosen = next((w for w in t.windows if w[1] is None or at[key].start_at <= w[1]), None)
        if chosen is not None:
            model.add(start[key] >= max(0, chosen[0] - p.now))
            if chosen[1] is not None:
                model.add(start[key] <= chosen[1] - p.now)
        if key in p.held:
            model.add(start[key] >= p.held[key] - p.now)
    _add_sharing(model, p, start, hands, shared)
    _add_waits(model, p, at, start)
    end = model.new_int_var(0, 2 * HORIZON_S, "finish")
    for key, begin in start.items():
        model.add(end >= begin + p.tasks[key].duration_s)
    goal = _goal(model, p, start, end, objective)
    # What was asked for first, then the sum of starts: one second of it outweighs any sum.
    weight = len(start) * HORIZON_S + 1
    model.minimize(goal * weight + sum(start.values()))
    solver = cp_model.CpSolver()
    solver.parameters.random_seed = seed
    solver.parameters.max_time_in_seconds = limit_s
    solver.parameters.num_workers = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None
    placed = sorted(start, key=lambda k: (solver.value(start[k]), k))
    order = (*(k for k in p.tasks if k not in start), *placed)
    proven = int(solver.best_objective_bound // weight) if objective == "finish" else 0
    return legal(order, p.before()), proven


def _add_sharing(
    model: Any, p: Problem, start: dict[str, Any], hands: list[tuple[Any, int]], shared: dict[str, list[Any]]
) -> None:
    """Painters, who are away while the shop is closed; guns and machines; weather outdoors."""
    closed = [
        model.new_fixed_size_interval_var(a - p.now, b - a, f"closed {a}")
        for a, b in _gaps(p.hours, p.now, p.now + HORIZON_S)
    ]
    painters = max(1, p.painters)
    # A closed shop is as if all painters were busy.
    busy = [(x, min(n, painters)) for x, n in hands] + [(x, painters) for x in closed]
    model.add_cumulative([x for x, _ in busy], [n for _, n in busy], painters)
    for place, fit in p.weather.items():
        bad = _gaps(fit, p.now, p.now + HORIZON_S)
        holes = [model.new_fixed_size_interval_var(a - p.now, b - a, f"{place} {a}") for a, b in bad]
        for key, t in p.tasks.items():
            if holes and key in start and t.place_id == place and t.kind == "coat":
                own = model.new_fixed_size_interval_var(start[key], t.duration_s + t.dry_s, f"{key} dry")
                model.add_no_overlap([own, *holes])
    for name, spans in shared.items():
        count = p.units.get(name, 1)
        if count == 1:
            model.add_no_overlap(spans)
        elif count < len(spans):
            model.add_cumulative(spans, [1] * len(spans), count)


def _add_waits(model: Any, p: Problem, at: dict[str, Task], start: dict[str, Any]) -> None:
    """Waits as they are in the hinted plan, in whole seconds."""
    for link in p.links:
        if link.b_key not in start or link.a_key not in at:
            continue
        a, b = at[link.a_key], at[link.b_key]
        own = link_windows(link, p.air_of(link), a.start_at, a.end_at, p.tasks[link.b_key].duration_s)
        window = next((w for w in own if w[0] <= b.start_at and (w[1] is None or b.start_at <= w[1])), None)
        if window is None:
            continue
        began = start.get(link.a_key, a.start_at - p.now)
        model.add(start[link.b_key] >= began + (window[0] - a.start_at))
        if window[1] is not None:
            model.add(start[link.b_key] <= began + (window[1] - a.start_at))


def _gaps(spans: Sequence[tuple[int, int]], from_at: int, to_at: int) -> list[tuple[int, int]]:
    """What lies between intervals, from and to two instants; nothing where there are none at all."""
    out, at = [], from_at
    for a, b in spans:
        if a >= to_at:
            break
        if a > at:
            out.append((at, a))
        at = max(at, b)
    if spans and at < to_at:
        out.append((at, to_at))
    return out


def _goal(model, p: Problem, start, end, objective: Objective):  # type: ignore[no-untyped-def]
    """The expression to make small, in seconds."""
    late = []
    for job, due in p.due.items():
        own = [k for k in start if p.tasks[k].job_id == job]
        if own:
            over = model.new_int_var(0, 2 * HORIZON_S, f"late {job}")
            for k in own:
                model.add(over >= start[k] + p.tasks[k].duration_s - (due - p.now))
            late.append(over)
    goal = end
    if objective == "waiting":
        first = model.new_int_var(0, HORIZON_S, "first")
        for k in start:
            model.add(first <= start[k])
        goal = end - first
    return goal + 50 * sum(late) if late else goal
