"""The plan asked for: solve, what if, move, dates, ways out, calendar."""

from __future__ import annotations

from typing import Any, Literal
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from pydantic import Field

from coatlog.core.codec import from_plain, from_stored, to_plain
from coatlog.core.plan.placement import spelled
from coatlog.core.plan.plan import Speed, Wishes
from coatlog.core.plan.remedies import WayOut
from coatlog.core.plan.slots import SlotFor
from coatlog.errors import NotFound, Refused
from coatlog.jobs.models import Job
from coatlog.run import answers, planning
from coatlog.run.answers import PlanAnswer, WhatIfAnswer
from coatlog.run.calendar import plan_calendar
from coatlog.run.models import PlanAsk, ShopPlan
from coatlog.run.plan_queue import AskKind, ask, full, let_go
from coatlog.run.reflow import reflow
from coatlog.run.shop_problem import floor_of
from coatlog.shop import clock
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Member

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
    hardener: Speed = "sheet"
    thinner: Speed = "sheet"
    airflow: bool = False
    keep_moved: bool = True
    keyed: list[str] = Field(default_factory=list, max_length=40)
    stay_s: int = Field(default=0, ge=0, le=12 * 3600)
    backwards: bool = False


class PlanIn(Schema):
    wishes: WishesIn | None = None


class Asked(Schema):
    """What is asked of the planner of a full shop, and what became of it.  `since_at`: when it was asked."""

    ask_id: UUID
    state: Literal["waiting", "working", "answered", "refused"]
    since_at: int
    refusal: str
    plan: PlanAnswer | None
    what_if: WhatIfAnswer | None
    ways: list[WayOut] | None


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
        thinner=data.thinner,
        airflow=data.airflow,
        held=held if data.keep_moved else {},
        keyed=tuple(data.keyed),
        stay_s=data.stay_s,
        backwards=data.backwards,
    )


@router.post("/jobs/{job_id}/plan", response={200: PlanAnswer, 202: Asked}, operation_id="plan_job")
def post_plan(request: HttpRequest, job_id: UUID, data: PlanIn) -> Status[Any]:
    """Plan the shop anew and answer this job's share; with wishes, adopt a plan that keeps to them.

    A full shop is planned by the worker: 202 says what to ask for, at /plan-asks.
    """
    member = writer_of(request, "plan")
    job = job_of(request, job_id)
    wishes = None if data.wishes is None else _wishes(data.wishes, _held(member))
    if full(member.shop, clock.now()):
        return _later(member, job, "plan", {"wishes": None if wishes is None else to_plain(wishes)})
    return Status(200, answers.planned(member, job, wishes))


@router.post("/jobs/{job_id}/what-if", response={200: WhatIfAnswer, 202: Asked}, operation_id="what_if")
def post_what_if(request: HttpRequest, job_id: UUID, data: WishesIn) -> Status[Any]:
    """What a plan with these wishes would be; nothing is stored."""
    member = member_of(request)
    job = job_of(request, job_id)
    wishes = _wishes(data, _held(member))
    if full(member.shop, clock.now()):
        return _later(member, job, "what_if", {"wishes": to_plain(wishes)})
    return Status(200, answers.what_if(member, job, wishes))


@router.post("/jobs/{job_id}/ways", response={200: list[WayOut], 202: Asked}, operation_id="ways_out")
def post_ways(request: HttpRequest, job_id: UUID) -> Status[Any]:
    """Ways out of what the plan cannot meet, the cheapest first; none where it meets everything."""
    member = member_of(request)
    job = job_of(request, job_id)
    if full(member.shop, clock.now()):
        return _later(member, job, "ways", {})
    return Status(200, list(answers.ways(member, job)))


@router.post("/jobs/{job_id}/move", response={200: PlanAnswer, 202: Asked}, operation_id="move_task")
def post_move(request: HttpRequest, job_id: UUID, data: MoveIn) -> Status[Any]:
    """Put a planned task at another time; refused with the reason where that cannot be."""
    member = writer_of(request, "plan")
    job = job_of(request, job_id)
    if full(member.shop, clock.now()):
        return _later(member, job, "move", {"task_key": data.task_key, "start_at": data.start_at})
    return Status(200, answers.moved(member, job, data.task_key, data.start_at))


def _held(member: Member) -> dict[str, int]:
    """What was moved by hand in the plan that stands."""
    row = ShopPlan.objects.filter(shop_id=member.shop_id).first()
    if row is not None:
        return from_plain(Wishes, row.wishes).held
    return floor_of(member.shop, clock.now()).wishes.held


def _later(member: Member, job: Job, kind: AskKind, asked: dict[str, Any]) -> Status[Any]:
    return Status(202, _told(ask(member, job, kind, asked, clock.now())))


@router.get("/plan-asks/{ask_id}", response=Asked, operation_id="get_plan_ask")
def get_ask(request: HttpRequest, ask_id: UUID) -> Asked:
    """What became of something asked of the planner; its answer once there is one.  One's own only."""
    row = PlanAsk.objects.filter(pk=ask_id, member=member_of(request)).first()
    if row is None:
        raise NotFound("Not asked by you, or asked for anew since.")
    return _told(row)


@router.delete("/plan-asks/{ask_id}", response={204: None}, operation_id="drop_plan_ask")
def delete_ask(request: HttpRequest, ask_id: UUID) -> Status[None]:
    """Nobody waits for the answer any more: a question that is not begun is dropped.  One's own only."""
    let_go(member_of(request), ask_id)
    return Status(204, None)


def _told(row: PlanAsk) -> Asked:
    state = "working" if row.began_at else "waiting"
    if row.done_at:
        state = "refused" if row.refusal else "answered"
    got = row.answer
    return Asked(
        ask_id=row.pk,
        state=state,  # type: ignore[arg-type]
        since_at=row.asked_at,
        refusal=row.refusal,
        plan=from_stored(PlanAnswer, got) if got is not None and row.kind in ("plan", "move") else None,
        what_if=from_stored(WhatIfAnswer, got) if got is not None and row.kind == "what_if" else None,
        ways=[from_stored(WayOut, w) for w in got] if got is not None and row.kind == "ways" else None,
    )


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
        reflow(member.shop, now, [job_id])
    planning.follow_dates(member, job)
    return data


@router.get("/jobs/{job_id}/plan.ics", operation_id="plan_calendar")
def get_calendar(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job's plan as iCalendar."""
    job = job_of(request, job_id)
    body = plan_calendar(job, answers.share_now(job), clock.now())
    out = HttpResponse(body, content_type="text/calendar; charset=utf-8")
    out["Content-Disposition"] = f'attachment; filename="plan-{str(job_id)[:8]}.ics"'
    return out
