"""The plan asked for: solve, what if, move, dates, ways out, calendar."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from coatlog.core.plan.explain import Change, changes
from coatlog.core.plan.placement import spelled
from coatlog.core.plan.plan import Conflict, Plan, Wishes, slice_of
from coatlog.core.plan.remedies import WayOut
from coatlog.core.plan.slots import SlotFor
from coatlog.errors import Refused
from coatlog.run import planning
from coatlog.run.calendar import plan_calendar
from coatlog.run.models import JobProjection
from coatlog.run.reflow import plans_as_of, reflow
from coatlog.run.shop_problem import floor_of
from coatlog.shop import clock
from coatlog.shop.lock import hold_shop

from .guard import job_of, member_of, writer_of

router = Router()
AHEAD_S = 400 * 86400


class WishesIn(Schema):
    """What is asked of a plan.  Left out: as it was asked for last, or nothing special."""

    objective: Literal["finish", "mixes", "due", "waiting"] = "finish"
    start_at: int | None = Field(default=None, ge=0, le=2**40)
    leave_at: int | None = Field(default=None, ge=0, le=2**40)
    painters: int | None = Field(default=None, ge=1, le=20)
    warm_degc: float | None = Field(default=None, ge=5, le=60)
    hardener: Literal["sheet", "fast", "slow"] = "sheet"
    keep_moved: bool = True
    keyed: list[str] = Field(default_factory=list, max_length=40)
    stay_s: int = Field(default=0, ge=0, le=12 * 3600)
    backwards: bool = False


class PlanIn(Schema):
    wishes: WishesIn | None = None


class PlanAnswer(Schema):
    """The job's share of the plan just made.  `gap_s`: the most by which some plan could be shorter."""

    plan: Plan
    status: str
    gap_s: int
    shop_finish_at: int | None


class WhatIfOut(Schema):
    """The job's plan as it is and as it would be; finishes of the whole shop beside it."""

    now: Plan | None
    then: Plan | None
    changes: list[Change]
    shop_finish_now: int | None
    shop_finish_then: int | None
    mixes_now: int
    mixes_then: int
    conflicts: list[Conflict]


class MoveIn(Schema):
    task_key: str = Field(max_length=200)
    start_at: int = Field(ge=0, le=2**40)


class DatesIn(Schema):
    """When a job must be done, when its parts are there, when it is launched or handed over, and what for.

    `parts_from`: parts that are there later than the others, by part id.
    """

    due_at: int | None = Field(default=None, ge=0, le=2**40)
    ready_at: int | None = Field(default=None, ge=0, le=2**40)
    slot_at: int | None = Field(default=None, ge=0, le=2**40)
    slot_for: SlotFor = ""
    parts_from: dict[str, int] = Field(default_factory=dict, max_length=400)


def _wishes(data: WishesIn, held: dict[str, int]) -> Wishes:
    return Wishes(
        objective=data.objective,
        start_at=data.start_at,
        leave_at=data.leave_at,
        painters=data.painters,
        warm_degc=data.warm_degc,
        hardener=data.hardener,
        held=held if data.keep_moved else {},
        keyed=tuple(data.keyed),
        stay_s=data.stay_s,
        backwards=data.backwards,
    )


@router.post("/jobs/{job_id}/plan", response=PlanAnswer, operation_id="plan_job")
def post_plan(request: HttpRequest, job_id: UUID, data: PlanIn) -> PlanAnswer:
    """Plan the shop anew and answer this job's share; with wishes, adopt a plan that keeps to them."""
    member = writer_of(request, "plan")
    job = job_of(request, job_id)
    wishes = None
    if data.wishes is not None:
        wishes = _wishes(data.wishes, floor_of(member.shop, clock.now()).wishes.held)
    made = planning.plan_shop(member, wishes, asked_for=job)
    takes_s = (made.finish_at or made.made_at) - made.made_at
    return PlanAnswer(
        plan=_share_now(member.shop_id, job_id),
        status=made.status,
        gap_s=max(0, takes_s - made.bound_s),
        shop_finish_at=made.finish_at,
    )


def _share_now(shop_id: UUID, job_id: UUID) -> Plan:
    row = JobProjection.objects.select_related("job__shop").get(job_id=job_id, job__shop_id=shop_id)
    plan = plans_as_of(row.job.shop, [row], clock.now())[job_id]
    if plan is None:
        raise Refused("Nothing is left to plan on this job.")
    return plan


@router.post("/jobs/{job_id}/what-if", response=WhatIfOut, operation_id="what_if")
def post_what_if(request: HttpRequest, job_id: UUID, data: WishesIn) -> WhatIfOut:
    """What a plan with these wishes would be; nothing is stored."""
    member, now = member_of(request), clock.now()
    job = job_of(request, job_id)
    floor = floor_of(member.shop, now)
    told = planning.what_if(member, _wishes(data, floor.wishes.held))
    p = floor.problem(only=job)
    keys = {*(p.tasks if p else ()), *(t.key for t in told.then.tasks if t.job_id == str(job_id))}
    then, was = slice_of(told.then, str(job_id), keys), slice_of(told.now, str(job_id), keys)
    return WhatIfOut(
        now=was,
        then=then,
        changes=list(changes(was, then)),
        shop_finish_now=told.now.finish_at,
        shop_finish_then=told.then.finish_at,
        mixes_now=told.mixes_now,
        mixes_then=told.mixes_then,
        conflicts=list(told.then.conflicts),
    )


@router.get("/jobs/{job_id}/ways", response=list[WayOut], operation_id="ways_out")
def get_ways(request: HttpRequest, job_id: UUID) -> list[WayOut]:
    """Ways out of what the plan cannot meet, the cheapest first; none where it meets everything."""
    member = member_of(request)
    return list(planning.ways_for(member, job_of(request, job_id)))


@router.post("/jobs/{job_id}/move", response=Plan, operation_id="move_task")
def post_move(request: HttpRequest, job_id: UUID, data: MoveIn) -> Plan:
    """Put a planned task at another time; refused with the reason where that cannot be."""
    member = writer_of(request, "plan")
    job = job_of(request, job_id)
    planning.move_task(member, job, data.task_key, data.start_at)
    return _share_now(member.shop_id, job_id)


@router.post("/jobs/{job_id}/dates", response=DatesIn, operation_id="set_dates")
def post_dates(request: HttpRequest, job_id: UUID, data: DatesIn) -> DatesIn:
    """Set a job's dates and lay the plan out anew."""
    member, now = writer_of(request, "plan"), clock.now()
    job = job_of(request, job_id)
    for name in ("due_at", "ready_at", "slot_at"):
        at = getattr(data, name)
        if at is not None and at > now + AHEAD_S:
            raise Refused.field(name, at, "a time within the next 400 days")
    if data.due_at and data.ready_at and data.due_at <= data.ready_at:
        raise Refused.field("due_at", data.due_at, "later than the parts are there")
    stands = [s for s in floor_of(member.shop, now).stands if s.job.pk == job_id]
    known = {p.part_id for s in stands for p in s.state.parts}
    for part, at in data.parts_from.items():
        if part not in known:
            raise Refused.field("parts_from", part, "a part of this job")
        if not 0 <= at <= now + AHEAD_S:
            raise Refused.field("parts_from", at, "a time within the next 400 days")
    if data.slot_at is not None:
        earliest = planning.earliest_slot(member, job, data.slot_for, data.ready_at, data.parts_from)
        if earliest is not None and data.slot_at < earliest:
            later = spelled(earliest - data.slot_at)
            told = f"Not ready by then: {later} later at the earliest, by the plan as it stands."
            raise Refused.field("slot_at", data.slot_at, f"{earliest} or later", told)
    with transaction.atomic():
        hold_shop(member.shop_id)
        job.due_at, job.ready_at, job.slot_at = data.due_at, data.ready_at, data.slot_at
        job.slot_for, job.parts_from = data.slot_for, data.parts_from
        job.save(update_fields=["due_at", "ready_at", "slot_at", "slot_for", "parts_from"])
        reflow(member.shop, now)
    planning.follow_dates(member, job)
    return data


@router.get("/jobs/{job_id}/plan.ics", operation_id="plan_calendar")
def get_calendar(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job's plan as iCalendar."""
    member = member_of(request)
    job = job_of(request, job_id)
    body = plan_calendar(job, _share_now(member.shop_id, job_id), clock.now())
    out = HttpResponse(body, content_type="text/calendar; charset=utf-8")
    out["Content-Disposition"] = f'attachment; filename="plan-{str(job_id)[:8]}.ics"'
    return out
