"""Jobs as a whole: the list, making and changing one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal
from uuid import UUID

from django.db.models import F, Q
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.codec import to_plain
from coatlog.core.run.as_left import as_left
from coatlog.core.run.change import FactsChange
from coatlog.core.run.facts import Facts, Layer, Part, of_system
from coatlog.core.run.view import view
from coatlog.demo.example import load_example
from coatlog.jobs.frozen_facts import latest_facts, read_facts
from coatlog.jobs.models import FactsDoc, Job
from coatlog.jobs.services import create_job, revise_job
from coatlog.run import projection, services
from coatlog.run.models import JobProjection
from coatlog.shop import clock
from coatlog.shop.models import Member

from .damage import damage_pins
from .drafts import (
    LayerIn,
    OverruleIn,
    PartIn,
    PatchesIn,
    SystemIn,
    draft_layers,
    draft_overrules,
    draft_parts,
    draft_systems,
)
from .guard import job_of, member_of, writer_of
from .paging import Paged, PageQuery, cut, paged
from .summaries import JobHead, job_head

router = Router()


class StackIn(Schema):
    """`layers`, `choices`: the first coating system; `systems`: those of parts that name another."""

    parts: list[PartIn] = Field(min_length=1, max_length=200)
    layers: list[LayerIn] = Field(min_length=1, max_length=20)
    overrules: list[OverruleIn] = Field(default_factory=list, max_length=20)
    choices: dict[str, str] = Field(default_factory=dict, max_length=24)
    systems: list[SystemIn] = Field(default_factory=list, max_length=20)


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


_ORDERS: dict[str, tuple[Any, ...]] = {
    "newest": (),
    "pressing": (F("latest_start_at").asc(nulls_last=True), F("next_due_at").asc(nulls_last=True)),
    "customer": ("job__customer", "job__asset__name"),
}


class JobsQuery(PageQuery):
    """`q`: every word must stand in object, number, code, customer or material.

    `state`: in progress, put into service, neither any more, or put away; the last only when asked for.
    `order`: newest first, by the next start that must not be missed, or by customer.
    """

    q: str = Field(default="", max_length=200)
    state: Literal["all", "live", "service", "done", "archived"] = "all"
    order: Literal["newest", "pressing", "customer"] = "newest"


class JobList(Paged):
    """One page of the jobs found, in the order asked for."""

    jobs: list[JobHead]


@router.get("/jobs", response=JobList, operation_id="list_jobs")
def list_jobs(request: HttpRequest, query: Query[JobsQuery]) -> JobList:
    member, now = member_of(request), clock.now()
    rows = JobProjection.objects.filter(job__shop_id=member.shop_id).select_related(
        "job__asset", "job__place"
    )
    for word in query.q.split()[:8]:
        rows = rows.filter(
            Q(job__title__icontains=word)
            | Q(job__customer__icontains=word)
            | Q(job__asset__name__icontains=word)
            | Q(job__asset__mark__icontains=word)
            | Q(job__asset__paint_code__icontains=word)
            | Q(materials__icontains=word)
        )
    live = JobProjection.live_q(now)
    serving = Q(state__service__contains=[{"ended_at": None}])
    away = Q(state__archived=True)
    rows = rows.filter(away) if query.state == "archived" else rows.exclude(away)
    if query.state not in ("all", "archived"):
        rows = rows.filter({"live": live, "service": serving & ~live, "done": ~live & ~serving}[query.state])
    shown = cut(rows.order_by(*_ORDERS[query.order], "-job__created_at", "job_id"), query)
    wanted = [r.state.get("facts_id") for r in shown]
    docs = FactsDoc.objects.filter(facts_id__in=wanted, job__shop_id=member.shop_id)
    facts = {facts_id: f for (_, facts_id), f in read_facts(docs).items()}
    out = []
    for r in shown:
        state = projection.state_from(r)
        out.append(job_head(r.job, r, state, view(state, now), facts.get(state.facts_id or "")))
    return JobList(jobs=out, **paged(shown))


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
            more=draft_systems(data.systems),
            now=clock.now(),
        ),
        overrules=overrules,
    )
    return JobCreated(id=job.pk)


@router.post("/jobs/example", response=JobCreated, operation_id="load_example")
def post_example(request: HttpRequest) -> JobCreated:
    """An invented job to look at; put away like any other, and counted in no record."""
    return JobCreated(id=load_example(writer_of(request, "load the example"), clock.now()).pk)


def _revised(member: Member, job: Job, data: ReviseIn) -> Facts:
    """The new version of a job's facts a change asks for: to be adopted, or only looked at."""
    return revise_job(
        member,
        job,
        parts=draft_parts(data.parts),
        layers=draft_layers(data.layers),
        overrules=draft_overrules(data.overrules),
        choices=data.choices,
        more=draft_systems(data.systems),
    )


@router.put("/jobs/{job_id}/stack", response=JobCreated, operation_id="revise_job")
def put_stack(request: HttpRequest, job_id: UUID, data: ReviseIn) -> JobCreated:
    """Survey and stack of a job, changed: a new version of its facts, adopted by an entry."""
    member = member_of(request)
    job = job_of(request, job_id)
    overrules = draft_overrules(data.overrules)
    services.change_job(
        member,
        job,
        lambda: _revised(member, job, data),
        reason=data.reason,
        overrules=overrules,
    )
    return JobCreated(id=job.pk)


class DraftOut(JobIn):
    """`pins`: how many damages are written down so far, by part id; for a repair those since it was done."""

    pins: dict[str, int] = Field(default_factory=dict)


class PreviewOut(Schema):
    """What each part keeps and loses, and the findings that come and go."""

    change: FactsChange


@router.post("/jobs/{job_id}/stack/preview", response=PreviewOut, operation_id="preview_change")
def preview_stack(request: HttpRequest, job_id: UUID, data: ReviseIn) -> PreviewOut:
    """What a change of survey and stack would do to what is on the log already; nothing is kept."""
    member = member_of(request)
    job = job_of(request, job_id)
    change = services.preview_change(
        member,
        job,
        lambda: _revised(member, job, data),
    )
    return PreviewOut(change=change)


class WordsIn(Schema):
    """Words about a job to put right; those left out stay."""

    title: str | None = None
    asset: str | None = None
    mark: str | None = None
    paint_code: str | None = None
    customer: str | None = None


@router.put("/jobs/{job_id}/words", response=JobCreated, operation_id="correct_job")
def put_words(request: HttpRequest, job_id: UUID, data: WordsIn) -> JobCreated:
    """Title, object, number, code and customer put right; the log keeps what stood there."""
    job = job_of(request, job_id)
    services.correct(member_of(request), job, {k: v for k, v in data.dict().items() if v is not None})
    return JobCreated(id=job.pk)


@router.get("/jobs/{job_id}/draft", response=DraftOut, operation_id="get_draft")
def get_draft(request: HttpRequest, job_id: UUID, repair: bool = False) -> DraftOut:
    """A job as it would be entered, to copy it or to change it.  Retired parts are left out.

    `repair`: as a job on what this one left: its parts with its film on them, its finish to go on again.
    """
    job = job_of(request, job_id)
    facts, now = latest_facts(job), clock.now()
    state = projection.state_from(projection.current(job, now=now))
    if repair:
        facts = as_left(facts, state, now)
    pins = damage_pins(job, state, since_done=repair)
    parts = [p for p in facts.parts if not p.retired]
    first = parts[0].id

    def system_of(part_id: str) -> int | None:
        return next((k for k, s in enumerate(facts.systems) if part_id in s.part_ids), None)

    elsewhere = {p.part_id: UUID(p.place_id) for p in state.parts if p.place_id != str(job.place_id)}
    # In the order of their parts; the job's own system is the one of None.
    order = list(dict.fromkeys(system_of(p.id) for p in parts))
    return DraftOut(
        pins={k: len(v) for k, v in pins.items()},
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
                features=list(p.features),
                bare_mm=p.bare_mm,
                hole_mm=p.hole_mm,
                there_um=p.there_um,
                patch_n=len(pins.get(p.id, ())) or None if repair else p.patch_n,
                edge_m=p.edge_m,
                dark=p.dark,
                damage="; ".join(pins.get(p.id, ()))[:400] if repair else p.damage,
                set_name=p.set_name,
                shape_text=p.shape,
                system=order.index(system_of(p.id)),
                place_id=elsewhere.get(p.id),
            )
            for p in parts
        ],
        layers=_layers(facts, parts, first),
        choices=facts.choices_of(first),
        systems=[
            SystemIn(
                layers=_layers(facts, parts, leads),
                choices={k: v for k, v in facts.choices_of(leads).items() if of_system(k)},
            )
            for leads in (next(p.id for p in parts if system_of(p.id) == n) for n in order[1:])
        ],
    )


def _layers(facts: Facts, parts: Sequence[Part], leads: str) -> list[LayerIn]:
    """The layers of a coating system as its first part has them, with other numbers of coats of others."""

    def other_coats(x: Layer) -> dict[int, int]:
        here = next((s.part_ids for s in facts.systems if leads in s.part_ids), None)
        elsewhere = {i for s in facts.systems for i in s.part_ids}
        out = {}
        for k, p in enumerate(parts):
            if p.id in here if here is not None else p.id not in elsewhere:
                same = next((y for y in facts.layers_of(p.id) if y.position == x.position), x)
                if same.coats != x.coats:
                    out[k] = same.coats
        return out

    return [
        LayerIn(
            sheet_id=x.sheet_id,
            coats=x.coats,
            target_um=x.target_um,
            steps=list(x.steps) or None,
            patches=None if x.patches is None else PatchesIn(**to_plain(x.patches)),
            coats_on=other_coats(x),
        )
        for x in facts.layers_of(leads)
    ]
