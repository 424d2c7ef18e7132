"""The plan laid out anew: what is left of the adopted plans, from now, for the whole shop."""

from __future__ import annotations

import dataclasses
from uuid import UUID

from django.db import transaction

from coatlog.core.codec import from_plain, to_plain
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import cost, legal, list_orders
from coatlog.core.plan.plan import SIDE_KINDS, Conflict, Plan, slice_of
from coatlog.core.plan.problem import Problem
from coatlog.core.plan.solver import solve
from coatlog.shop.models import Shop

from .models import JobProjection
from .shop_problem import Floor, floor_of

__all__ = ["fresh_plans", "laid_from_now", "reflow", "with_lateness"]

STALE_S = 60
LATE_FROM_S = 60


def reflow(shop: Shop, now: int) -> bool:
    """What is left of the adopted plans, laid out from now; whether something in it cannot be met."""
    floor = floor_of(shop, now)
    p = floor.problem()
    if p is None:
        JobProjection.objects.filter(pk__in=[s.row.pk for s in floor.stands]).update(plan=None)
        return False
    plan = laid_from_now(floor, p)
    _write(floor, p, plan)
    return bool(plan.conflicts)


def laid_from_now(floor: Floor, p: Problem) -> Plan:
    """The adopted order with the wishes of its plan; what none of them knows at its best place."""
    known, missing = floor.order(p)
    before = {x.b_key: x.a_key for x in p.links}
    trials = [legal((*known, *missing), before)]
    if missing:
        trials += list_orders(p)
    plans = [lay_out(o, p) for o in trials]
    best = min(plans, key=lambda plan: cost(plan, p, floor.wishes.objective))
    if best.finish_at is None:
        # A part whose window cannot be met is left out and named; the rest is laid out.
        best = solve(p, objective=floor.wishes.objective, limit_s=0)
    return with_lateness(dataclasses.replace(best, wishes=floor.wishes), p, floor)


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
            why = f"{last.label} is done {round(over / 60)} min after the job must be"
            told.append(Conflict(keys=(last.key,), why=why))
    return dataclasses.replace(plan, conflicts=(*plan.conflicts, *told)) if told else plan


def _write(floor: Floor, p: Problem, plan: Plan) -> None:
    """Each job's share of the plan into its row."""
    rows = []
    for s in floor.stands:
        share = _share(floor, p, plan, str(s.job.pk))
        s.row.plan = None if share is None else to_plain(share)
        rows.append(s.row)
    JobProjection.objects.bulk_update(rows, ["plan"])


def _share(floor: Floor, p: Problem, plan: Plan, job_id: str) -> Plan | None:
    keys = {k for k, t in p.tasks.items() if t.job_id == job_id}
    if not keys:
        return None
    adopted = floor.adopted.get(job_id)
    return dataclasses.replace(slice_of(plan, job_id, keys), id=adopted.id if adopted else "")


def fresh_plans(shop: Shop, rows: list[JobProjection], now: int) -> dict[UUID, Plan | None]:
    """The rows' plans; laid out anew, once a minute at most, when a task should have begun already."""
    plans = {r.job_id: from_plain(Plan, r.plan) if r.plan else None for r in rows}
    if any(p is not None and _stale(p, now) for p in plans.values()):
        with transaction.atomic():
            reflow(shop, now)
        again = JobProjection.objects.filter(pk__in=[r.pk for r in rows]).values_list("job_id", "plan")
        plans = {job: from_plain(Plan, doc) if doc else None for job, doc in again}
    return plans


def _stale(plan: Plan, now: int) -> bool:
    late_now = any(t.start_at < now for t in plan.tasks if not t.locked)
    return late_now and plan.made_at <= now - STALE_S
