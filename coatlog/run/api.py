"""Jobs in work: now, a job's page, its log, its mix, its plan."""

from __future__ import annotations

import dataclasses
from typing import Any
from uuid import UUID

from django.db.models import Q
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.codec import from_plain, to_plain
from coatlog.core.film import dead_film_um
from coatlog.core.quantity import SheetNeed, needs_of
from coatlog.core.run.facts import Facts
from coatlog.core.run.plan import Plan
from coatlog.core.run.states import Clock, JobState
from coatlog.core.run.view import View, view
from coatlog.core.why import FORMULAS
from coatlog.errors import Refused
from coatlog.jobs.api import LayerIn, OverruleIn, PartIn, draft_layers, draft_overrules, draft_parts
from coatlog.jobs.models import FactsDoc, Job
from coatlog.jobs.services import create_job, latest_facts, revise_job
from coatlog.logbook.models import LogEntry
from coatlog.logbook.services import Draft
from coatlog.shelf.services import prices_of
from coatlog.shop import clock
from coatlog.shop.auth import member_of
from coatlog.shop.models import Member

from . import services
from .models import DUE_AHEAD_S, JobProjection
from .pages import AirNow, MixPage, RibbonPoint, air_now, mix_page, ribbon

router = Router()
MAX_ENTRIES = 200
MAX_JOBS = 200


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


class LastCoat(Schema):
    """The newest coat of a job, in words."""

    label: str
    at: int


class JobHead(Schema):
    id: UUID
    title: str
    asset: str
    asset_kind: str
    mark: str
    paint_code: str
    customer: str
    place: str
    parts: int
    live: bool
    in_service: bool
    urgent_state: str | None
    latest_start_at: int | None
    next_due_at: int | None
    last_coat: LastCoat | None
    ended: str


class StackIn(Schema):
    parts: list[PartIn] = Field(min_length=1, max_length=200)
    layers: list[LayerIn] = Field(min_length=1, max_length=20)
    overrules: list[OverruleIn] = Field(default_factory=list, max_length=20)
    choices: dict[str, str] = Field(default_factory=dict, max_length=10)


class JobIn(StackIn):
    title: str
    asset: str
    asset_kind: str = Field(default="road", pattern="^(road|vessel|aircraft)$")
    mark: str = ""
    paint_code: str = ""
    customer: str = ""
    place_id: UUID


class ReviseIn(StackIn):
    reason: str = Field(default="", max_length=200)


class JobCreated(Schema):
    id: UUID


class QuantityQuery(Schema):
    """`inspected`: aim so that nine inspections in ten pass.  `profile_um`: height of a blast profile."""

    inspected: bool = False
    profile_um: float = Field(default=0, ge=0, le=300)


class QuantityPage(Schema):
    needs: list[SheetNeed]
    cost: float | None
    currency: str


class FormulaOut(Schema):
    id: str
    text: str
    source: str


class JobPage(Schema):
    """A job as its pages show it.  Valid until the next entry or reading: the states carry times."""

    now_at: int
    seq: int
    head: JobHead
    facts: Facts
    state: JobState
    view: View
    plan: Plan | None
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
    for row in services.heads(member, now):
        state = services.state_from(row)
        if state.facts_id not in facts:
            continue
        due += _due(row, state, facts[state.facts_id], now)
        if not row.is_live(now):
            continue
        plan = from_plain(Plan, row.plan) if row.plan else None
        if plan is not None and any(t.start_at < now for t in plan.tasks if not t.locked):
            plan = services.plan_now(row.job, row, state, services.ground_of(row.job), now)
        picked = view(state, now)
        lines.append(
            NowLine(
                head=_head(row.job, row, state, picked, to_plain(facts[state.facts_id])),
                view=picked,
                facts=facts[state.facts_id],
                state=state,
                plan=plan,
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


@router.get("/jobs", response=list[JobHead], operation_id="list_jobs")
def list_jobs(request: HttpRequest, q: str = "") -> list[JobHead]:
    """Jobs, newest first.  `q`: every word must stand in object, number, code, customer or material."""
    member, now = member_of(request), clock.now()
    rows = JobProjection.objects.filter(job__shop_id=member.shop_id).select_related(
        "job__asset", "job__place"
    )
    for word in q[:200].split()[:8]:
        rows = rows.filter(
            Q(job__title__icontains=word)
            | Q(job__customer__icontains=word)
            | Q(job__asset__name__icontains=word)
            | Q(job__asset__mark__icontains=word)
            | Q(job__asset__paint_code__icontains=word)
            | Q(materials__icontains=word)
        )
    found = list(rows.order_by("-job__created_at", "job_id")[:MAX_JOBS])
    wanted = [r.state.get("facts_id") for r in found]
    docs = FactsDoc.objects.filter(facts_id__in=wanted, job__shop_id=member.shop_id)
    facts = {d.facts_id: d.doc for d in docs}
    out = []
    for r in found:
        state = services.state_from(r)
        out.append(_head(r.job, r, state, view(state, now), facts.get(state.facts_id or "", {})))
    return out


@router.post("/jobs", response=JobCreated, operation_id="create_job")
def post_job(request: HttpRequest, data: JobIn) -> JobCreated:
    member = member_of(request)
    overrules = draft_overrules(data.overrules)
    job = services.start_job(
        member,
        lambda: create_job(
            member,
            title=data.title,
            asset_name=data.asset,
            asset_kind=data.asset_kind,
            mark=data.mark,
            paint_code=data.paint_code,
            customer=data.customer,
            place_id=data.place_id,
            parts=draft_parts(data.parts),
            layers=draft_layers(data.layers),
            overrules=overrules,
            choices=data.choices,
            now=clock.now(),
        ),
        overrules=overrules,
    )
    return JobCreated(id=job.pk)


@router.put("/jobs/{job_id}/stack", response=JobCreated, operation_id="revise_job")
def put_stack(request: HttpRequest, job_id: UUID, data: ReviseIn) -> JobCreated:
    """Survey and stack of a job, changed: a new version of its facts, adopted by an entry."""
    member = member_of(request)
    job = services.job_of(member, job_id)
    overrules = draft_overrules(data.overrules)
    services.change_job(
        member,
        job,
        lambda: revise_job(
            member,
            job,
            parts=draft_parts(data.parts),
            layers=draft_layers(data.layers),
            overrules=overrules,
            choices=data.choices,
        ),
        reason=data.reason,
        overrules=overrules,
    )
    return JobCreated(id=job.pk)


@router.get("/jobs/{job_id}/draft", response=JobIn, operation_id="get_draft")
def get_draft(request: HttpRequest, job_id: UUID) -> JobIn:
    """A job as it would be entered, to copy it or to change it.  Retired parts are left out."""
    job = services.job_of(member_of(request), job_id)
    facts = latest_facts(job)
    parts = [p for p in facts.parts if not p.retired]
    return JobIn(
        title=job.title,
        asset=job.asset.name,
        asset_kind=job.asset.kind,
        mark=job.asset.mark,
        paint_code=job.asset.paint_code,
        customer=job.customer,
        place_id=job.place_id,
        parts=[
            PartIn(
                id=p.id,
                name=p.name,
                area_m2=p.area_m2,
                substrate=p.substrate,
                condition=p.condition,
                count=p.count,
                faces=list(p.faces),
                must_survive=list(p.must_survive),
                damage=p.damage,
                set_name=p.set_name,
                shape_text=p.shape,
            )
            for p in parts
        ],
        layers=[
            LayerIn(sheet_id=x.sheet_id, coats=x.coats, target_um=x.target_um)
            for x in facts.layers_of(parts[0].id)
        ],
        choices=facts.choices,
    )


@router.get("/jobs/{job_id}/quantity", response=QuantityPage, operation_id="get_quantity")
def get_quantity(request: HttpRequest, job_id: UUID, q: Query[QuantityQuery]) -> QuantityPage:
    """What the job takes in all, by material, with every loss named."""
    member = member_of(request)
    job = services.job_of(member, job_id)
    dead_um = dead_film_um(q.profile_um)
    prices = prices_of(member.shop)
    needs = needs_of(latest_facts(job), prices, inspected=q.inspected, dead_um=dead_um)
    costs = [n.purchase.cost if n.purchase else None for n in needs]
    return QuantityPage(
        needs=list(needs),
        cost=sum(c for c in costs if c is not None) if all(c is not None for c in costs) else None,
        currency=member.shop.currency,
    )


@router.get("/jobs/{job_id}", response=JobPage, operation_id="get_job")
def get_job(request: HttpRequest, job_id: UUID, response: HttpResponse) -> JobPage | HttpResponse:
    member, now = member_of(request), clock.now()
    job = services.job_of(member, job_id)
    row = services.current(job, now=now)
    # Between entries only the clock moves; the states carry their times, the plan is laid out anew.
    turned = int(row.next_change_at is not None and now >= row.next_change_at)
    tag = f'W/"{row.through_seq}-{row.climate_id[:12]}-{now // 60}-{turned}"'
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers={"ETag": tag})
    response["ETag"] = tag
    return _job_page(member, job, row, now)


def _job_page(member: Member, job: Job, row: JobProjection, now: int) -> JobPage:
    state = services.state_from(row)
    ground = services.ground_of(job)
    facts = ground.facts[state.facts_id or next(iter(ground.facts))]
    picked = view(state, now)
    part_id = picked.next[0].part_id if picked.next else facts.parts[0].id
    air = services.timeline_of(ground, state, part_id)
    sheet = None
    if picked.next and picked.next[0].layer_id:
        sheet = facts.sheets[facts.layer(picked.next[0].layer_id).sheet_id]
    plan = services.plan_now(job, row, state, ground, now)
    until = max((t.end_at for t in plan.tasks), default=now) if plan else now
    return JobPage(
        now_at=now,
        seq=row.through_seq,
        head=_head(job, row, state, picked, to_plain(facts)),
        facts=facts,
        state=state,
        view=picked,
        plan=plan,
        air=air_now(air, str(job.place_id), sheet, now),
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


def _head(job: Job, row: JobProjection, state: JobState, picked: View, facts: dict[str, Any]) -> JobHead:
    return JobHead(
        id=job.pk,
        title=job.title,
        asset=job.asset.name,
        asset_kind=job.asset.kind,
        mark=job.asset.mark,
        paint_code=job.asset.paint_code,
        customer=job.customer,
        place=job.place.name,
        parts=len(picked.parts),
        live=row.is_live(picked.now),
        in_service=any(x.ended_at is None for x in state.service),
        urgent_state=picked.urgent_state,
        latest_start_at=picked.latest_start_at,
        next_due_at=row.next_due_at,
        last_coat=_last_coat(state, facts),
        ended=_ended(state),
    )


def _ended(state: JobState) -> str:
    """How the last service of a job ended, in words; empty while anything is on it."""
    if (
        not state.service
        or any(p.films for p in state.parts)
        or any(x.ended_at is None for x in state.service)
    ):
        return ""
    last = max(state.service, key=lambda x: x.ended_at or 0)
    months = round(((last.ended_at or 0) - last.in_service_at) / (30.4375 * 86400))
    was = {"failed": ", it had failed", "sound": ", still sound"}.get(last.ended_was, "")
    return f"{last.ended_how} after {months} months{was}"


def _last_coat(state: JobState, facts: dict[str, Any]) -> LastCoat | None:
    """The coat that was started last, and on what."""
    films = [(f, p.part_id) for p in state.parts for f in p.films]
    if not films or not facts:
        return None
    film, part_id = max(films, key=lambda x: (x[0].started_at, x[0].coat_id))
    name = facts["sheets"].get(film.sheet_id, {}).get("name", "coat")
    part = next((p["name"] for p in facts["parts"] if p["id"] == part_id), "part")
    layer = next((x for x in facts["layers"] if x["id"] == film.layer_id), None)
    of = f" of {layer['coats']}" if layer else ""
    return LastCoat(label=f"{name} {film.n}{of}, {part}", at=film.started_at)


class MixQuery(Schema):
    sheet_id: str
    total_ml: float | None = Field(default=None, gt=0, le=100000)
    tint_frac: float | None = Field(default=None, ge=0, le=0.5)


@router.get("/jobs/{job_id}/mix", response=MixPage, operation_id="get_mix")
def get_mix(request: HttpRequest, job_id: UUID, q: Query[MixQuery]) -> MixPage:
    member, now = member_of(request), clock.now()
    job = services.job_of(member, job_id)
    row = services.current(job, now=now)
    state = services.state_from(row)
    ground = services.ground_of(job)
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        raise Refused("This job has no facts yet.")
    air = services.timeline_of(ground, state, facts.parts[0].id)
    plan = services.plan_now(job, row, state, ground, now)
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


@router.post("/jobs/{job_id}/plan", response=Plan, operation_id="plan_job")
def post_plan(request: HttpRequest, job_id: UUID) -> Plan:
    member = member_of(request)
    return services.plan_job(member, services.job_of(member, job_id))


@router.get("/formulas", response=list[FormulaOut], operation_id="list_formulas")
def list_formulas(request: HttpRequest) -> list[FormulaOut]:
    return [FormulaOut(id=k, text=f.text, source=f.source) for k, f in FORMULAS.items()]
