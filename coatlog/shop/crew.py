"""Who the plan counts on: what each may do, when they are there, when they are away."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field

from django.db import transaction

from coatlog.core.plan.rights import RIGHTS, Person
from coatlog.errors import NotFound, NotPermitted, Refused

from .hours import open_intervals, presence
from .models import Absence, Crew, Member, Shop

__all__ = ["Away", "CrewDraft", "people_of", "set_crew"]

AHEAD_S = 400 * 86400
MOST_ABSENCES = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Away:
    """When somebody is away [epoch s], and why."""

    from_at: int
    to_at: int
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class CrewDraft:
    """What somebody does in the plan; not `in_plan`: they are not counted on."""

    in_plan: bool
    may: list[str] = field(default_factory=list)
    days: list[int] = field(default_factory=list)
    starts: dt.time | None = None
    ends: dt.time | None = None
    away: list[Away] = field(default_factory=list)


@transaction.atomic
def set_crew(owner: Member, username: str, draft: CrewDraft, now: int) -> Member:
    """Say what somebody may do and when they are there.  Raises NotPermitted, NotFound, Refused."""
    if not owner.is_owner:
        raise NotPermitted("Only the owner may change the shop.")
    other = Member.objects.filter(shop=owner.shop, user__username=username).select_related("user").first()
    if other is None:
        raise NotFound("No such person in this shop.")
    Crew.objects.filter(member=other).delete()
    if not draft.in_plan:
        return other
    _check(draft, now)
    if not other.may_write:
        raise Refused.field("in_plan", True, "a painter or an owner; a viewer only looks")
    crew = Crew.objects.create(
        member=other,
        may=[r for r in RIGHTS if r in draft.may],
        days=sorted(set(draft.days)),
        starts=draft.starts,
        ends=draft.ends,
    )
    rows = [Absence(crew=crew, from_at=a.from_at, to_at=a.to_at, why=a.why.strip()) for a in draft.away]
    Absence.objects.bulk_create(rows)
    return other


def _check(draft: CrewDraft, now: int) -> None:
    for right in draft.may:
        if right not in RIGHTS:
            raise Refused.field("may", right, "of " + ", ".join(RIGHTS))
    if any(not 0 <= d <= 6 for d in draft.days):
        raise Refused.field("days", str(draft.days), "weekdays from 0 (Monday) to 6")
    if draft.starts is not None and draft.ends is not None and draft.ends <= draft.starts:
        raise Refused.field("ends", str(draft.ends), f"a time after {draft.starts:%H:%M}")
    if len(draft.away) > MOST_ABSENCES:
        raise Refused.field("away", len(draft.away), f"up to {MOST_ABSENCES} absences")
    for a in draft.away:
        if not 0 <= a.from_at < a.to_at <= now + AHEAD_S:
            raise Refused.field("away", a.to_at, "an end after its start, within the next 400 days")
        if len(a.why) > 80:
            raise Refused.field("why", a.why, "up to 80 letters")


def people_of(shop: Shop, now: int, *, days: int) -> tuple[Person, ...]:
    """Who the plan counts on, in the order they came to the shop; empty: nobody is named."""
    rows = Crew.objects.filter(member__shop=shop).select_related("member__user").prefetch_related("absences")
    hours = open_intervals(shop, now, days=days)
    out = []
    for crew in rows.order_by("member_id"):
        if not crew.member.may_write:
            continue
        may = frozenset(crew.may) - ({"isocyanate"} if crew.member.sensitised else frozenset())
        away = [(a.from_at, a.to_at) for a in crew.absences.all()]
        there = presence(shop, crew, hours, away)
        out.append(Person(name=crew.member.user.get_username(), may=may, hours=there))
    return tuple(out)
