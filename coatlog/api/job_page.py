"""A job as its pages show it."""

from __future__ import annotations

from typing import Any
from uuid import UUID
from zlib import crc32

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from coatlog.core.plan.explain import Change, changes
from coatlog.core.plan.plan import Plan
from coatlog.core.plan.stopping import StopPoint, stop_points
from coatlog.core.run.facts import Facts
from coatlog.core.run.states import JobState
from coatlog.core.run.view import View, view
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.run import projection
from coatlog.run.air_now import AirNow, RibbonPoint, air_now, ribbon
from coatlog.run.apart import Panels
from coatlog.run.doing import Doing, doing
from coatlog.run.mix_page import PotTimes, pot_times
from coatlog.run.models import JobProjection
from coatlog.run.part_works import PartWork, part_works
from coatlog.run.plan_queue import waits_since
from coatlog.run.reflow import plans_as_of
from coatlog.run.shop_problem import Floor, floor_of
from coatlog.shop import clock
from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Member

from .guard import job_of, member_of
from .summaries import JobHead, job_head, without_lists

router = Router()
SKEW_S = 5  # a device's clock may be so far ahead, and a reading just taken on it counts


class LogLine(Schema):
    id: UUID
    seq: int
    kind: str
    at: int
    actor: str
    outcome: str
    reason: str
    body: dict[str, Any]


class OpenHours(Schema):
    from_at: int
    to_at: int


class JobPage(Schema):
    """A job as its pages show it.  Valid until the next entry or reading: the states carry times.

    `facts` come without their step lists, as `works` has those with their checks.

    `planning_since`: since when the planner of a full shop works on a newer plan than this one.

    `pots`: how long a mix made now lives, by sheet.

    `changes`: what moved against the plan as adopted at `planned_at`; `stops`: where one may stop.

    `failed`: panels that could not be worked out and are empty; the log and what it says stand.
    """

    now_at: int
    seq: int
    head: JobHead
    facts: Facts
    works: list[PartWork]
    state: JobState
    view: View
    plan: Plan | None
    planned_at: int | None
    planning_since: int | None
    changes: list[Change]
    stops: list[StopPoint]
    hours: list[OpenHours]
    due_at: int | None
    ready_at: int | None
    slot_at: int | None
    slot_for: str
    parts_from: dict[str, int]
    pots: dict[str, PotTimes]
    air: AirNow
    ribbon: list[RibbonPoint]
    log: list[LogLine]
    doing: list[Doing]
    may_write: bool
    failed: list[str]


@router.get("/jobs/{job_id}", response=JobPage, operation_id="get_job")
def get_job(request: HttpRequest, job_id: UUID, response: HttpResponse) -> JobPage | HttpResponse:
    member, now = member_of(request), clock.now()
    job = job_of(request, job_id)
    row = projection.current(job, now=now)
    # Between entries only the clock moves; the states carry their times, the plan is laid out anew.
    turned = int(row.next_change_at is not None and now >= row.next_change_at)
    planned = [(row.plan or {}).get(k) for k in ("made_at", "finish_at")]
    waits = waits_since(job.shop)
    dates = f"{waits}-{planned}-{job.due_at}-{job.ready_at}-{job.slot_at}-{job.slot_for}-{job.parts_from}"
    tag = f'W/"{row.through_seq}-{row.climate_id[:12]}-{now // 60}-{turned}-{crc32(dates.encode()):08x}"'
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers={"ETag": tag})
    response["ETag"] = tag
    return _job_page(member, job, row, now, waits)


def _job_page(member: Member, job: Job, row: JobProjection, now: int, waits: int | None) -> JobPage:
    state = projection.state_from(row)
    ground = projection.ground_of(job)
    facts = projection.facts_now(ground, state) or next(iter(ground.facts.values()))
    picked = view(state, now)
    part_id = picked.next[0].part_id if picked.next else facts.parts[0].id
    air = projection.timeline_of(ground, state, part_id)
    sheet = None
    if picked.next and picked.next[0].layer_id:
        sheet = facts.sheets[facts.layer(picked.next[0].layer_id).sheet_id]
    panels = Panels()
    plan = panels.get("plan", lambda: plans_as_of(job.shop, [row], now)[job.pk], None)
    floor = floor_of(job.shop, now, only=job)
    adopted = floor.adopted.get(str(job.pk))
    hours = open_intervals(job.shop, now)
    until = max((t.end_at for t in plan.tasks), default=now) if plan else now
    return JobPage(
        now_at=now,
        seq=row.through_seq,
        head=job_head(job, row, state, picked, facts),
        facts=without_lists(facts),
        works=part_works(facts, state),
        state=state,
        view=picked,
        plan=plan,
        planned_at=adopted.made_at if adopted else None,
        planning_since=waits,
        changes=panels.get("plan", lambda: list(changes(adopted, plan)) if adopted and plan else [], []),
        stops=panels.get("stops", lambda: _stops(floor, job, plan, hours), []),
        hours=[OpenHours(from_at=a, to_at=b) for a, b in hours[:5]],
        due_at=job.due_at,
        ready_at=job.ready_at,
        slot_at=job.slot_at,
        slot_for=job.slot_for,
        parts_from=job.parts_from,
        pots=panels.get("pots", lambda: pot_times(facts, air.at(now).air_degc), {}),
        air=air_now(air, str(job.place_id), sheet, now + SKEW_S),
        ribbon=list(ribbon(air, now - 4 * 3600, max(now + 8 * 3600, min(until, now + 36 * 3600)))),
        log=_log(job, state),
        doing=list(doing([(job.pk, state)]).get(job.pk, ())),
        may_write=member.may_write,
        failed=panels.failed,
    )


def _stops(floor: Floor, job: Job, plan: Plan | None, hours: tuple[tuple[int, int], ...]) -> list[StopPoint]:
    p = floor.problem(only=job)
    return list(stop_points(p, plan, hours, lead_s=floor.lead_s(p))) if p and plan else []


def _log(job: Job, state: JobState) -> list[LogLine]:
    ledger = {x.entry_id: x for x in state.ledger}
    newest = LogEntry.objects.filter(job=job).select_related("actor").order_by("-seq")[:60]
    # What was written down later stands where it happened.
    rows = sorted(newest, key=lambda e: (e.at_true, e.seq), reverse=True)
    out = []
    for e in rows:
        line = ledger.get(str(e.entry_id))
        out.append(
            LogLine(
                id=e.entry_id,
                seq=e.seq,
                kind=e.kind,
                at=e.at_true,
                actor=e.told_by,
                outcome=line.outcome if line else "applied",
                reason=line.reason if line else "",
                body=e.body,
            )
        )
    return out
