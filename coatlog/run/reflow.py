"""The plan laid out anew: what is left of the adopted plans, from now, for the whole shop."""

from __future__ import annotations

import dataclasses
import time
from collections import Counter
from collections.abc import Collection, Mapping
from functools import partial
from uuid import UUID

from django.db import transaction

from coatlog.core.codec import from_stored, to_plain
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import cost, list_orders
from coatlog.core.plan.plan import SIDE_KINDS, Conflict, Plan, Task, slice_of
from coatlog.core.plan.problem import Problem, ToDo
from coatlog.core.plan.solver import solve, stood
from coatlog.jobs.models import Job
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Shop

from . import plan_queue
from .apart import apart
from .models import JobProjection, ShopPlan
from .shop_problem import Floor, floor_of

__all__ = [
    "FULL_S",
    "any_late",
    "is_small",
    "keep",
    "laid_from_now",
    "lay_out_full",
    "plans_as_of",
    "reflow",
    "standing_plan",
    "with_lateness",
]

STALE_S = 60
FEW_TASKS = 60
SMALL_MOST_S = 1.5  # [s] for the same with few: what cannot be met keeps no tap waiting longer
MOST_S = 1.0  # [s] for other orders where the standing one cannot be met, with many tasks
FULL_S = 8.0  # [s] for the same by the worker, where nobody waits at a button
MOST_SHOPS = 32
LATE_FROM_S = 60


def reflow(shop: Shop, now: int, touched: Collection[UUID] = ()) -> bool:
    """What is left of the adopted plans, laid out from now; whether something in it cannot be met.

    In a full shop the plans of the jobs touched are carried forward, and the worker lays out the shop.
    """
    if plan_queue.full(shop, now):
        _carry_forward(shop, now, touched)
        plan_queue.want_plan(shop, now)
        return False
    floor = floor_of(shop, now)
    nothing: tuple[Problem | None, Plan | None] = (None, None)
    (p, plan), failed = apart("plan", lambda: _planned(floor), nothing)
    if failed:
        return False  # what was told is on the log; the rows keep the plan they had
    if p is None or plan is None:
        rows = JobProjection.objects.filter(pk__in=[s.row.pk for s in floor.stands])
        rows.update(plan=None, tasks_left=0)
        return False
    _write(floor, p, plan)
    return bool(plan.conflicts)


def _planned(floor: Floor) -> tuple[Problem | None, Plan | None]:
    p = floor.problem()
    return p, None if p is None else laid_from_now(floor, p)


def _carry_forward(shop: Shop, now: int, touched: Collection[UUID]) -> None:
    """Out of the plans of these jobs what is done; in them what goes on.  The rest stays as planned last."""
    for job in Job.objects.filter(pk__in=touched).select_related("projection"):
        row = getattr(job, "projection", None)
        if row is None or row.plan is None:
            continue
        floor = floor_of(shop, now, only=job)
        p, failed = apart("plan", partial(floor.problem, only=job), None)
        if failed:
            continue
        own = {} if p is None else p.tasks
        plan = from_stored(Plan, row.plan)
        tasks = tuple(
            _as_it_stands(t, own, now) for t in plan.tasks if t.key in own or _still_ahead(t, own, now)
        )
        row.plan = to_plain(dataclasses.replace(plan, tasks=tasks)) if tasks else None
        row.tasks_left = len(own)
        row.save(update_fields=["plan", "tasks_left"])


def _still_ahead(task: Task, own: Mapping[str, ToDo], now: int) -> bool:
    """Mixing, setting up and cleaning stand for coats of the job that are still to come."""
    return bool(own) and task.kind in SIDE_KINDS and task.start_at > now


def _as_it_stands(task: Task, own: Mapping[str, ToDo], now: int) -> Task:
    began_at = own[task.key].began_at if task.key in own else None
    if began_at is None:
        return task
    ends_at = max(now, began_at + own[task.key].duration_s)
    return dataclasses.replace(task, start_at=began_at, end_at=ends_at, locked=True)


def lay_out_full(shop: Shop, now: int) -> None:
    """Lay out a full shop's plan outside of any lock, and write what still holds.

    A job whose log or air has moved on meanwhile keeps the plan it carried forward: another plan is wanted
    for it already.
    """
    upto = plan_queue.begun(shop.pk)
    floor = floor_of(shop, now)
    p = floor.problem()
    plan = None if p is None else laid_from_now(floor, p, FULL_S)
    with transaction.atomic():
        hold_shop(shop.pk)
        keep(floor, p, plan)
        if plan is not None and plan.finish_at is not None:
            # What was looked for, as the order that stood could not be met, is not looked for again.
            ShopPlan.objects.filter(shop=shop).update(order=list(plan.order))
        plan_queue.answered(shop.pk, upto, now)


def keep(floor: Floor, p: Problem | None, plan: Plan | None) -> None:
    """Write a plan made outside the lock into the rows it still holds for.  Inside the shop's lock."""
    left = _tasks_left(p)
    rows = JobProjection.objects.in_bulk([s.job.pk for s in floor.stands])
    for s in floor.stands:
        row = rows.get(s.job.pk)
        if row is None or (row.through_seq, row.climate_id) != (s.row.through_seq, s.row.climate_id):
            continue
        share = None if p is None or plan is None else _share(floor, p, plan, str(s.job.pk))
        row.plan = None if share is None else to_plain(share)
        row.tasks_left = left.get(str(s.job.pk), 0)
        row.save(update_fields=["plan", "tasks_left"])


def any_late(shop: Shop, now: int) -> bool:
    """Whether a task of some live job should have begun by now."""
    rows = JobProjection.objects.filter(JobProjection.live_q(now), job__shop=shop, plan__isnull=False)
    return any(_stale(from_stored(Plan, r.plan), now) for r in rows)


def laid_from_now(floor: Floor, p: Problem, most_s: float = MOST_S) -> Plan:
    """The standing order with the wishes of its plan, laid out from now: one order, whatever the shop holds.

    Other orders are tried only where there are few tasks; for one that cannot be met there is `most_s` [s].
    """
    order, news = floor.order(p)
    goal = floor.wishes.objective
    until = time.monotonic() + (SMALL_MOST_S if is_small(p) else most_s)
    best = stood(order, p)
    for other in list_orders(p) if news and is_small(p) else ():
        if time.monotonic() > until:
            break
        best = min((best, lay_out(other, p)), key=lambda plan: cost(plan, p, goal))
    if best.finish_at is None:
        # A part whose window cannot be met is left out and named; the rest is laid out.
        best = solve(p, objective=goal, limit_s=0, known=order, most_s=max(0.1, until - time.monotonic()))
    return with_lateness(dataclasses.replace(best, wishes=floor.wishes), p, floor)


def is_small(p: Problem) -> bool:
    """Whether all list rules are laid out sooner than anybody waits for."""
    return len(p.tasks) <= FEW_TASKS


def with_lateness(plan: Plan, p: Problem, floor: Floor) -> Plan:
    """Deadlines that are missed are conflicts too: they name the last task, and by how much."""
    told = []
    for s in floor.stands:
        job = str(s.job.pk)
        own = [t for t in plan.tasks if t.job_id == job and t.kind not in SIDE_KINDS]
        if job not in p.due or not own:
            continue
        last = max(own, key=lambda t: t.end_at)
        over = last.end_at - p.due[job]
        if over >= LATE_FROM_S:
            why = f"{last.label} is done {round(over / 60)} min after the deadline"
            told.append(Conflict(keys=(last.key,), why=why))
    return dataclasses.replace(plan, conflicts=(*plan.conflicts, *told)) if told else plan


def _write(floor: Floor, p: Problem, plan: Plan) -> None:
    """Each job's share of the plan into its row."""
    rows, left = [], _tasks_left(p)
    for s in floor.stands:
        share = _share(floor, p, plan, str(s.job.pk))
        s.row.plan = None if share is None else to_plain(share)
        s.row.tasks_left = left.get(str(s.job.pk), 0)
        rows.append(s.row)
    JobProjection.objects.bulk_update(rows, ["plan", "tasks_left"])


def _tasks_left(p: Problem | None) -> Mapping[str, int]:
    """How many tasks each job still has."""
    return Counter(t.job_id for t in p.tasks.values()) if p is not None else {}


def _share(floor: Floor, p: Problem, plan: Plan, job_id: str) -> Plan | None:
    keys = {k for k, t in p.tasks.items() if t.job_id == job_id}
    if not keys:
        return None
    adopted = floor.adopted.get(job_id)
    return dataclasses.replace(slice_of(plan, job_id, keys), id=adopted.id if adopted else "")


def plans_as_of(shop: Shop, rows: list[JobProjection], now: int) -> dict[UUID, Plan | None]:
    """The rows' plans; laid out anew for this answer alone, when a task should have begun already.

    Nothing is stored: reading changes nothing.  Within a minute, and until the next entry, the same
    answer holds for all who ask.  Of a full shop the plan as it stands is told: pages lay out none.
    """
    plans = {r.job_id: from_stored(Plan, r.plan) if r.plan else None for r in rows}
    if any(p is not None and _stale(p, now) for p in plans.values()) and not plan_queue.full(shop, now):
        fresh = _laid_out_again(shop, now)
        plans = {job: fresh.get(job, plan) for job, plan in plans.items()}
    return plans


def standing_plan(floor: Floor) -> Plan | None:
    """The plan that stands for all jobs of a floor, put together from their shares; None without one."""
    told = plans_as_of(floor.shop, [s.row for s in floor.stands], floor.now).values()
    shares = [p for p in told if p is not None]
    if not shares:
        return None
    tasks = sorted((t for p in shares for t in p.tasks), key=lambda t: (t.start_at, t.end_at, t.key))
    return dataclasses.replace(shares[0], job_id="", tasks=tuple(tasks))


_again: dict[UUID, tuple[tuple[int, ...], dict[UUID, Plan | None]]] = {}


def _laid_out_again(shop: Shop, now: int) -> dict[UUID, Plan | None]:
    """The shares of all live jobs laid out from now, kept in memory for a minute."""
    seq = Shop.objects.values_list("entry_seq", flat=True).get(pk=shop.pk)
    made = ShopPlan.objects.filter(shop=shop).values_list("made_at", flat=True).first()
    key = (seq, now // STALE_S, made or 0)
    if shop.pk not in _again or _again[shop.pk][0] != key:
        floor = floor_of(shop, now)
        p, plan = _planned(floor)
        shares = {
            s.job.pk: None if p is None or plan is None else _share(floor, p, plan, str(s.job.pk))
            for s in floor.stands
        }
        while len(_again) >= MOST_SHOPS:
            _again.pop(next(iter(_again)))
        _again[shop.pk] = (key, shares)
    return _again[shop.pk][1]


def _stale(plan: Plan, now: int) -> bool:
    late_now = any(t.start_at < now for t in plan.tasks if not t.locked)
    return late_now and plan.made_at <= now - STALE_S
