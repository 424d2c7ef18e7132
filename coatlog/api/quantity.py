"""What a job takes in all: paint with every loss named, and what its steps use up."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.aids import AidNeed, Lack, aids_of
from coatlog.core.film import dead_film_um
from coatlog.core.quantity import SheetNeed, needs_of
from coatlog.jobs.frozen_facts import latest_facts
from coatlog.shelf.services import latest_sheets, prices_of

from .guard import job_of, member_of

router = Router()


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


@router.get("/jobs/{job_id}/quantity", response=QuantityPage, operation_id="get_quantity")
def get_quantity(request: HttpRequest, job_id: UUID, q: Query[QuantityQuery]) -> QuantityPage:
    """What the job takes in all, by material, with every loss named."""
    member = member_of(request)
    job = job_of(request, job_id)
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
