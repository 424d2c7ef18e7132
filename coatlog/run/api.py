"""Jobs in work: now, a job's page, its log, its mix, its plan."""

from __future__ import annotations

import dataclasses
from typing import Any
from uuid import UUID
from zlib import crc32

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.plan.explain import Change, changes
from coatlog.core.plan.plan import Plan
from coatlog.core.plan.stopping import StopPoint, stop_points
from coatlog.core.run.facts import Facts
from coatlog.core.run.states import Clock, JobState
from coatlog.core.run.view import View, view
from coatlog.core.why import FORMULAS
from coatlog.errors import Refused
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.logbook.services import Draft
from coatlog.shop import clock
from coatlog.shop.auth import member_of
from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Member

from . import projection, services
from .models import DUE_AHEAD_S, JobProjection
from .pages import AirNow, MixPage, RibbonPoint, air_now, mix_page, ribbon
from .reflow import plans_as_of
from .shop_problem import floor_of
from .summaries import JobHead, job_head

router = Router()
MAX_ENTRIES = 200
SKEW_S = 5  # a device's clock may be so far ahead, and a reading just taken on it counts


class EntryIn(Schema):
    """One entry as a device sends it.  `body` is checked by its kind."""

    id: UUID
    job_id: UUID | None = None
    kind: str = Field(max_length=40)
    v: int = 1
    at: int = Field(ge=0, le=2**40)
    at_from: str = Field(default="tap", pattern="^(tap|typed|import)$")
    device_id: str = Field(min_length=1, max_length=64)
    n: int = Field(ge=0, le=2**53)
    group_id: UUID | None = None
    body: dict[str, Any]


class EntriesIn(Schema):
    sent_at: int = Field(ge=0, le=2**40)
    entries: list[EntryIn] = Field(min_length=1, max_length=MAX_ENTRIES)


class OutcomeOut(Schema):
    id: UUID
    result: str
    why: str = ""
    field: str = ""
    seq: int | None = None
    stored: dict[str, Any] | None = None


class LogLine(Schema):
    id: UUID
    seq: int
    kind: str
    at: int
    actor: str
    outcome: str
    reason: str
    body: dict[str, Any]


class FormulaOut(Schema):
    id: str
    text: str
    source: str


class OpenHours(Schema):
    from_at: int
    to_at: int


class JobPage(Schema):
    """A job as its pages show it.  Valid until the next entry or reading: the states carry times.

    `changes`: what moved against the plan as adopted at `planned_at`; `stops`: where one may stop.
    """

    now_at: int
    seq: int
    head: JobHead
    facts: Facts
    state: JobState
    view: View
    plan: Plan | None
    planned_at: int | None
    changes: list[Change]
    stops: list[StopPoint]
    hours: list[OpenHours]
    due_at: int | None
    ready_at: int | None
    slot_at: int | None
    parts_from: dict[str, int]
    air: AirNow
    ribbon: list[RibbonPoint]
    log: list[LogLine]
    may_write: bool


class NowLine(Schema):
    head: JobHead
    view: View
    facts: Facts
    state: JobState
    plan: Plan | None


class DueLine(Schema):
    """Something due in service; the same thing on several parts is one line."""

    job_id: UUID
    asset: str
    part: str
    parts: int
    what: str
    due_at: int


class NowPage(Schema):
    now_at: int
    due: list[DueLine]
    lines: list[NowLine]
    clocks: list[Clock]


@router.post("/entries", response=list[OutcomeOut], operation_id="post_entries")
def post_entries(request: HttpRequest, data: EntriesIn) -> list[OutcomeOut]:
    drafts = [Draft(**e.dict()) for e in data.entries]
    outcomes = services.post_entries(member_of(request), drafts, sent_at=data.sent_at)
    return [OutcomeOut(**dataclasses.asdict(o)) for o in outcomes]


@router.get("/now", response=NowPage, operation_id="get_now")
def get_now(request: HttpRequest) -> NowPage:
    member, now = member_of(request), clock.now()
    lines = []
    due: list[DueLine] = []
    facts = services.facts_shown_now(member, now)
    rows = list(services.heads(member, now))
    plans = plans_as_of(member.shop, rows, now)
    for row in rows:
        state = projection.state_from(row)
        if state.facts_id not in facts:
            continue
        due += _due(row, state, facts[state.facts_id], now)
        if not row.is_live(now):
            continue
        picked = view(state, now)
        lines.append(
            NowLine(
                head=job_head(row.job, row, state, picked, facts[state.facts_id]),
                view=picked,
                facts=facts[state.facts_id],
                state=state,
                plan=plans[row.job_id],
            )
        )
    lines.sort(key=lambda x: (x.view.latest_start_at is None, x.view.latest_start_at or 0))
    clocks = sorted(
        (c for x in lines for c in x.view.clocks),
        key=lambda c: (c.latest_start_at is None, c.latest_start_at or c.opens_at or 0),
    )
    due.sort(key=lambda d: (d.due_at, d.asset, d.what))
    return NowPage(now_at=now, due=due, lines=lines, clocks=clocks)


def _due(row: JobProjection, state: JobState, facts: Facts, now: int) -> list[DueLine]:
    """What is due in service on one job within a week; the same thing on several parts is one line."""
    lines: dict[tuple[str, int], DueLine] = {}
    for life in state.service:
        for d in life.due:
            if d.due_at is None or d.due_at > now + DUE_AHEAD_S:
                continue
            line = lines.setdefault(
                (d.key, d.due_at),
                DueLine(
                    job_id=row.job_id,
                    asset=row.job.asset.name,
                    part=facts.part(life.part_id).name,
                    parts=0,
                    what=d.what,
                    due_at=d.due_at,
                ),
            )
            line.parts += 1
    return list(lines.values())


@router.get("/jobs/{job_id}", response=JobPage, operation_id="get_job")
def get_job(request: HttpRequest, job_id: UUID, response: HttpResponse) -> JobPage | HttpResponse:
    member, now = member_of(request), clock.now()
    job = services.job_of(member, job_id)
    row = projection.current(job, now=now)
    # Between entries only the clock moves; the states carry their times, the plan is laid out anew.
    turned = int(row.next_change_at is not None and now >= row.next_change_at)
    planned = [(row.plan or {}).get(k) for k in ("made_at", "finish_at")]
    dates = f"{planned}-{job.due_at}-{job.ready_at}-{job.slot_at}-{job.parts_from}"
    tag = f'W/"{row.through_seq}-{row.climate_id[:12]}-{now // 60}-{turned}-{crc32(dates.encode()):08x}"'
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers={"ETag": tag})
    response["ETag"] = tag
    return _job_page(member, job, row, now)


def _job_page(member: Member, job: Job, row: JobProjection, now: int) -> JobPage:
    state = projection.state_from(row)
    ground = projection.ground_of(job)
    facts = ground.facts[state.facts_id or next(iter(ground.facts))]
    picked = view(state, now)
    part_id = picked.next[0].part_id if picked.next else facts.parts[0].id
    air = projection.timeline_of(ground, state, part_id)
    sheet = None
    if picked.next and picked.next[0].layer_id:
        sheet = facts.sheets[facts.layer(picked.next[0].layer_id).sheet_id]
    plan = plans_as_of(job.shop, [row], now)[job.pk]
    floor = floor_of(job.shop, now)
    p = floor.problem(only=job)
    adopted = floor.adopted.get(str(job.pk))
    hours = open_intervals(job.shop, now)
    until = max((t.end_at for t in plan.tasks), default=now) if plan else now
    return JobPage(
        now_at=now,
        seq=row.through_seq,
        head=job_head(job, row, state, picked, facts),
        facts=facts,
        state=state,
        view=picked,
        plan=plan,
        planned_at=adopted.made_at if adopted else None,
        changes=list(changes(adopted, plan)) if adopted and plan else [],
        stops=list(stop_points(p, plan, hours, lead_s=floor.lead_s(p))) if p and plan else [],
        hours=[OpenHours(from_at=a, to_at=b) for a, b in hours[:5]],
        due_at=job.due_at,
        ready_at=job.ready_at,
        slot_at=job.slot_at,
        parts_from=job.parts_from,
        air=air_now(air, str(job.place_id), sheet, now + SKEW_S),
        ribbon=list(ribbon(air, now - 4 * 3600, max(now + 8 * 3600, min(until, now + 36 * 3600)))),
        log=_log(job, state),
        may_write=member.may_write,
    )


def _log(job: Job, state: JobState) -> list[LogLine]:
    ledger = {x.entry_id: x for x in state.ledger}
    rows = LogEntry.objects.filter(job=job).select_related("actor").order_by("-seq")[:60]
    out = []
    for e in rows:
        line = ledger.get(str(e.entry_id))
        out.append(
            LogLine(
                id=e.entry_id,
                seq=e.seq,
                kind=e.kind,
                at=e.at_true,
                actor=e.actor.get_username(),
                outcome=line.outcome if line else "applied",
                reason=line.reason if line else "",
                body=e.body,
            )
        )
    return out


class MixQuery(Schema):
    sheet_id: str
    total_ml: float | None = Field(default=None, gt=0, le=100000)
    tint_frac: float | None = Field(default=None, ge=0, le=0.5)


@router.get("/jobs/{job_id}/mix", response=MixPage, operation_id="get_mix")
def get_mix(request: HttpRequest, job_id: UUID, q: Query[MixQuery]) -> MixPage:
    member, now = member_of(request), clock.now()
    job = services.job_of(member, job_id)
    row = projection.current(job, now=now)
    state = projection.state_from(row)
    ground = projection.ground_of(job)
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        raise Refused("This job has no facts yet.")
    air = projection.timeline_of(ground, state, facts.parts[0].id)
    plan = plans_as_of(job.shop, [row], now)[job.pk]
    return mix_page(
        facts,
        state,
        plan,
        air,
        sheet_id=q.sheet_id,
        total_ml=q.total_ml,
        tint_frac=q.tint_frac,
        now=now,
        voc_limit_g_per_l=member.shop.voc_limit_g_per_l,
        voc_less_water=member.shop.voc_less_water,
    )


@router.get("/formulas", response=list[FormulaOut], operation_id="list_formulas")
def list_formulas(request: HttpRequest) -> list[FormulaOut]:
    return [FormulaOut(id=k, text=f.text, source=f.source) for k, f in FORMULAS.items()]
