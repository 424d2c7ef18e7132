"""The shop's record, a page at a time."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Query, Router

from coatlog.run.record import MaterialLine, RecordLine, material_lines, record_lines
from coatlog.shop import clock

from .guard import member_of
from .paging import Paged, PageQuery, cut, paged

router = Router()


class RecordPage(Paged):
    """`lines` of the page asked for; materials count all of them."""

    now_at: int
    materials: list[MaterialLine]
    lines: list[RecordLine]


@router.get("/record", response=RecordPage, operation_id="get_record")
def get_record(request: HttpRequest, q: Query[PageQuery]) -> RecordPage:
    member, now = member_of(request), clock.now()
    lines = record_lines(member.shop, now)
    lines.sort(key=lambda x: (x.ended_at is not None, -(x.held_s / x.claim_s if x.claim_s else 0)))
    shown = cut(lines, q)
    return RecordPage(now_at=now, materials=material_lines(lines), lines=list(shown), **paged(shown))
