"""One mix of a job: what goes into the cup."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.errors import Refused
from coatlog.run import projection
from coatlog.run.lots import cans_in_use
from coatlog.run.mix_page import MixPage, mix_page
from coatlog.run.reflow import plans_as_of
from coatlog.shop import clock

from .guard import job_of, member_of

router = Router()


class MixQuery(Schema):
    sheet_id: str
    total_ml: float | None = Field(default=None, gt=0, le=100000)
    tint_frac: float | None = Field(default=None, ge=0, le=0.5)


@router.get("/jobs/{job_id}/mix", response=MixPage, operation_id="get_mix")
def get_mix(request: HttpRequest, job_id: UUID, q: Query[MixQuery]) -> MixPage:
    member, now = member_of(request), clock.now()
    job = job_of(request, job_id)
    row = projection.current(job, now=now)
    state = projection.state_from(row)
    ground = projection.ground_of(job)
    facts = projection.facts_now(ground, state)
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
        cans=cans_in_use(member.shop, sheet.material_id) if (sheet := facts.sheets.get(q.sheet_id)) else (),
    )
