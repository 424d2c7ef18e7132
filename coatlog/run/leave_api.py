"""What can be finished before one must leave: over all live jobs, or one."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.run.facts import Facts
from coatlog.core.plan.leave import PartLeft, finish_before, next_opening
from coatlog.core.plan.plan import Task
from coatlog.core.plan.problem import Problem, merge
from coatlog.jobs.models import Job
from coatlog.shop import clock
from coatlog.shop.auth import member_of
from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Shop

from . import services

router = Router()
USUAL_S = 3600  # where the shop is closed and nobody says how long


class LeaveQuery(Schema):
    """`minutes` one has; without it, until the shop closes."""

    minutes: int | None = Field(default=None, ge=1, le=2880)
    job_id: UUID | None = None


class PartLeftOut(Schema):
    """A part as it is left, and the job it belongs to."""

    job_id: UUID
    title: str
    part: str
    left: PartLeft


class LeavePage(Schema):
    """`tasks` are what to do until leaving, in order; `fails_first` what is lost whatever is done."""

    now_at: int
    leave_at: int
    back_at: int
    tasks: list[Task]
    parts: list[PartLeftOut]
    fails_first: str


@router.get("/leave", response=LeavePage, operation_id="get_leave")
def get_leave(request: HttpRequest, q: Query[LeaveQuery]) -> LeavePage:
    member, now = member_of(request), clock.now()
    if q.job_id is not None:
        jobs = [services.job_of(member, q.job_id)]
    else:
        jobs = [r.job for r in services.heads(member, now) if r.is_live(now)]
    hours = open_intervals(member.shop, now)
    leave_at = _leave_at(member.shop, hours, now, q.minutes)
    back_at = next_opening(hours, leave_at)
    problems, owners, lead_s = _gather(jobs, now)
    if not problems:
        return LeavePage(now_at=now, leave_at=leave_at, back_at=back_at, tasks=[], parts=[], fails_first="")
    told = finish_before(merge(problems), leave_at, back_at, lead_s=lead_s)
    parts = [
        PartLeftOut(
            job_id=owners[x.part_id][0].pk,
            title=owners[x.part_id][0].title,
            part=owners[x.part_id][1].part(x.part_id).name,
            left=x,
        )
        for x in told.parts
    ]
    parts.sort(key=lambda x: (x.left.safe, x.left.closes_at or 2**60))
    return LeavePage(
        now_at=now,
        leave_at=leave_at,
        back_at=back_at,
        tasks=list(told.tasks),
        parts=parts,
        fails_first=told.fails_first,
    )


def _leave_at(shop: Shop, hours: Sequence[tuple[int, int]], now: int, minutes: int | None) -> int:
    if minutes is not None:
        return now + 60 * minutes
    return next((b for a, b in hours if a <= now < b), now + USUAL_S)


def _gather(jobs: list[Job], now: int) -> tuple[list[Problem], dict[str, tuple[Job, Facts]], dict[str, int]]:
    """Problems of the jobs, whose part is whose, and how long before its coat each task begins."""
    problems: list[Problem] = []
    owners: dict[str, tuple[Job, Facts]] = {}
    lead_s: dict[str, int] = {}
    for job in jobs:
        ground, state = services.full_replay(job)
        p = services.problem_of(job, ground, state, now)
        if p is None or not p.tasks:
            continue
        facts = ground.facts[state.facts_id or ""]
        problems.append(p)
        for key, task in p.tasks.items():
            owners[task.part_id] = (job, facts)
            if task.kind == "coat":
                lead_s[key] = facts.lead_s(facts.layer(key.split("/")[1]))
    return problems, owners, lead_s
