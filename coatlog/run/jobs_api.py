"""Jobs as a whole: the list, making and changing one, what it takes."""

from __future__ import annotations

from uuid import UUID

from django.db.models import Q
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.aids import AidNeed, Lack, aids_of
from coatlog.core.film import dead_film_um
from coatlog.core.quantity import SheetNeed, needs_of
from coatlog.core.run.view import view
from coatlog.jobs.api import LayerIn, OverruleIn, PartIn, draft_layers, draft_overrules, draft_parts
from coatlog.jobs.frozen_facts import latest_facts, read_facts
from coatlog.jobs.models import FactsDoc
from coatlog.jobs.services import create_job, revise_job
from coatlog.shelf.services import latest_sheets, prices_of
from coatlog.shop import clock
from coatlog.shop.auth import member_of

from . import projection, services
from .models import JobProjection
from .summaries import JobHead, job_head

router = Router()
MAX_JOBS = 200


class StackIn(Schema):
    parts: list[PartIn] = Field(min_length=1, max_length=200)
    layers: list[LayerIn] = Field(min_length=1, max_length=20)
    overrules: list[OverruleIn] = Field(default_factory=list, max_length=20)
    choices: dict[str, str] = Field(default_factory=dict, max_length=24)


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
    aids: list[AidNeed]
    lacks: list[Lack]
    cost: float | None
    currency: str


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
    facts = {facts_id: f for (_, facts_id), f in read_facts(docs).items()}
    out = []
    for r in found:
        state = projection.state_from(r)
        out.append(job_head(r.job, r, state, view(state, now), facts.get(state.facts_id or "")))
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
                features=list(p.features),
                bare_mm=p.bare_mm,
                dark=p.dark,
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
    aids, lacks = aids_of(latest_facts(job), latest_sheets(member.shop, aids=True), prices)
    return QuantityPage(
        needs=list(needs),
        aids=list(aids),
        lacks=list(lacks),
        cost=sum(c for c in costs if c is not None) if all(c is not None for c in costs) else None,
        currency=member.shop.currency,
    )
