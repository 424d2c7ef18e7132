"""What can be finished before one must leave: over all live jobs, or one."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.plan.plan import Task
from coatlog.core.plan.stopping import MOST_SEARCHED, Leaving, PartLeft, finish_before, next_opening
from coatlog.core.run.facts import Facts
from coatlog.jobs.models import Job
from coatlog.run.apart import apart
from coatlog.run.plan_queue import full
from coatlog.run.reflow import standing_plan
from coatlog.run.shop_problem import Floor, floor_of
from coatlog.shop import clock
from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Shop

from .guard import job_of, member_of

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
    """`tasks` are what to do until leaving, in order; `fails_first` what is lost whatever is done.

    `failed`: it could not be worked out.
    """

    now_at: int
    leave_at: int
    back_at: int
    tasks: list[Task]
    parts: list[PartLeftOut]
    fails_first: str
    failed: bool = False


@router.get("/leave", response=LeavePage, operation_id="get_leave")
def get_leave(request: HttpRequest, q: Query[LeaveQuery]) -> LeavePage:
    member, now = member_of(request), clock.now()
    only = job_of(request, q.job_id) if q.job_id is not None else None
    hours = open_intervals(member.shop, now)
    leave_at = _leave_at(member.shop, hours, now, q.minutes)
    back_at = next_opening(hours, leave_at)
    # In a full shop what nobody has begun by then is left as it is.
    touched_by = leave_at if full(member.shop, now) else None
    floor = floor_of(member.shop, now, touched_by=touched_by)
    p = floor.problem(only=only)
    if p is None:
        return LeavePage(now_at=now, leave_at=leave_at, back_at=back_at, tasks=[], parts=[], fails_first="")
    owners = _owners(floor)
    plan = standing_plan(floor) if len(p.tasks) > MOST_SEARCHED else None

    def ask() -> Leaving:
        return finish_before(p, leave_at, back_at, lead_s=floor.lead_s(p), plan=plan)

    nothing = Leaving(leave_at=leave_at, back_at=back_at, tasks=(), parts=(), fails_first="")
    told, failed = apart("leave", ask, nothing)
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
        failed=failed,
    )


def _leave_at(shop: Shop, hours: Sequence[tuple[int, int]], now: int, minutes: int | None) -> int:
    if minutes is not None:
        return now + 60 * minutes
    return next((b for a, b in hours if a <= now < b), now + USUAL_S)


def _owners(floor: Floor) -> dict[str, tuple[Job, Facts]]:
    """Whose part is whose."""
    return {p.id: (s.job, s.facts) for s in floor.stands for p in s.facts.parts}
