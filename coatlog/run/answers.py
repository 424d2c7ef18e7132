"""What the planner answers one who asked, for one job: the same at once or later by the worker."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from coatlog.core.codec import from_plain, to_plain
from coatlog.core.plan.explain import Change, changes
from coatlog.core.plan.plan import Conflict, Plan, Wishes, slice_of
from coatlog.core.plan.remedies import WayOut
from coatlog.errors import Refused
from coatlog.jobs.models import Job
from coatlog.shop import clock
from coatlog.shop.models import Member

from . import planning
from .models import JobProjection
from .plan_queue import AskKind
from .reflow import plans_as_of
from .shop_problem import floor_of

__all__ = ["PlanAnswer", "WhatIfAnswer", "answer", "moved", "planned", "share_now", "ways", "what_if"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanAnswer:
    """The job's share of the plan just made.  `gap_s`: the most by which some plan could be shorter."""

    plan: Plan
    status: str
    gap_s: int
    shop_finish_at: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIfAnswer:
    """The job's plan as it is and as it would be; finishes of the whole shop beside it."""

    now: Plan | None
    then: Plan | None
    changes: tuple[Change, ...]
    shop_finish_now: int | None
    shop_finish_then: int | None
    mixes_now: int
    mixes_then: int
    conflicts: tuple[Conflict, ...]


def share_now(job: Job) -> Plan:
    """The job's share of the shop's plan as of now.  Raises Refused when nothing is left to plan."""
    row = JobProjection.objects.select_related("job__shop").get(job=job)
    plan = plans_as_of(row.job.shop, [row], clock.now())[job.pk]
    if plan is None:
        raise Refused("Nothing is left to plan on this job.")
    return plan


def planned(member: Member, job: Job, wishes: Wishes | None, reason: str = "asked for") -> PlanAnswer:
    """Plan the shop anew and adopt this job's share; with wishes, a plan that keeps to them."""
    return _answer(planning.plan_shop(member, wishes, asked_for=job, reason=reason), job)


def moved(member: Member, job: Job, key: str, at: int) -> PlanAnswer:
    """Put a planned task at another time.  Raises Refused with the reason where that cannot be."""
    return _answer(planning.move_task(member, job, key, at), job)


def _answer(made: Plan, job: Job) -> PlanAnswer:
    takes_s = (made.finish_at or made.made_at) - made.made_at
    gap_s = max(0, takes_s - made.bound_s)
    return PlanAnswer(plan=share_now(job), status=made.status, gap_s=gap_s, shop_finish_at=made.finish_at)


def what_if(member: Member, job: Job, wishes: Wishes) -> WhatIfAnswer:
    """What a plan with these wishes would be; nothing is stored."""
    told = planning.what_if(member, wishes)
    p = floor_of(member.shop, clock.now(), only=job).problem(only=job)
    keys = {*(p.tasks if p else ()), *(t.key for t in told.then.tasks if t.job_id == str(job.pk))}
    then, was = slice_of(told.then, str(job.pk), keys), slice_of(told.now, str(job.pk), keys)
    return WhatIfAnswer(
        now=was,
        then=then,
        changes=tuple(changes(was, then)),
        shop_finish_now=told.now.finish_at,
        shop_finish_then=told.then.finish_at,
        mixes_now=told.mixes_now,
        mixes_then=told.mixes_then,
        conflicts=told.then.conflicts,
    )


def ways(member: Member, job: Job) -> tuple[WayOut, ...]:
    """Ways out of what the plan cannot meet, the cheapest first; none where it meets everything."""
    return planning.ways_for(member, job)


def answer(member: Member, job: Job, kind: AskKind, asked: dict[str, Any]) -> Any:
    """What was asked later, by the worker: the answer as plain data."""
    if kind == "move":
        return to_plain(moved(member, job, asked["task_key"], asked["start_at"]))
    if kind == "ways":
        return [to_plain(w) for w in ways(member, job)]
    wishes = None if asked.get("wishes") is None else from_plain(Wishes, asked["wishes"])
    if kind == "what_if":
        return to_plain(what_if(member, job, wishes or Wishes()))
    return to_plain(planned(member, job, wishes, asked.get("reason", "asked for")))
