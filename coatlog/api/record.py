"""The shop's record, a page at a time."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.errors import NotFound
from coatlog.run.record import (
    Comparison,
    Group,
    MaterialLine,
    RecordLine,
    compared,
    groups_of,
    material_lines,
    record_lines,
)
from coatlog.shop import clock

from .guard import member_of
from .paging import Paged, PageQuery, cut, paged

router = Router()


class RecordPage(Paged):
    """`lines` of the page asked for; materials count all of them; `groups` can be held against each other."""

    now_at: int
    materials: list[MaterialLine]
    groups: list[Group]
    lines: list[RecordLine]


@router.get("/record", response=RecordPage, operation_id="get_record")
def get_record(request: HttpRequest, q: Query[PageQuery]) -> RecordPage:
    member, now = member_of(request), clock.now()
    lines = record_lines(member.shop, now)
    lines.sort(key=lambda x: (x.ended_at is not None, -(x.held_s / x.claim_s if x.claim_s else 0)))
    shown = cut(lines, q)
    return RecordPage(
        now_at=now,
        materials=material_lines(lines),
        groups=groups_of(lines),
        lines=list(shown),
        **paged(shown),
    )


class CompareQuery(Schema):
    """Keys of groups; without `other` the one is told alone, without any nothing is."""

    one: str = Field(default="", max_length=200)
    other: str = Field(default="", max_length=200)


@router.get("/record/compare", response=Comparison, operation_id="compare_lives")
def get_comparison(request: HttpRequest, q: Query[CompareQuery]) -> Comparison:
    """How long a group of finishes lasts, or whether two last differently."""
    lines = record_lines(member_of(request).shop, clock.now())
    told = compared(lines, [k for k in (q.one, q.other) if k])
    if told is None:
        raise NotFound("Nothing in service goes by that name.")
    return told
