"""Entries in: stored, their jobs brought up to date and the shop's plan laid out anew, all or nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID, uuid4

from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.logbook.services import Draft, Outcome, store
from coatlog.shop import clock
from coatlog.shop.models import Member, Shop

from .projection import project
from .reflow import reflow

__all__ = ["Posted", "post", "server_draft"]


@dataclass(frozen=True, slots=True)
class Posted:
    """What became of each entry; `broken`: something in the plan cannot be met any more."""

    outcomes: list[Outcome]
    broken: bool


def post(member: Member, drafts: Sequence[Draft], *, sent_at: int) -> Posted:
    """Store entries, project the jobs they concern and lay out the plan, in one transaction."""
    now = clock.now()
    broken = False

    def after(shop: Shop, job_ids: set[UUID]) -> None:
        nonlocal broken
        for job in Job.objects.filter(pk__in=job_ids, shop=shop).select_related("shop", "place", "asset"):
            project(job, now=now)
        broken = reflow(shop, now)

    outcomes = store(member, drafts, sent_at=sent_at, now=now, after=after)
    return Posted(outcomes, broken)


def server_draft(
    job: Job, kind: str, body: dict[str, object], now: int, *, more: int = 0, group_id: UUID | None = None
) -> Draft:
    """An entry the server itself writes; `more` counts those drafted before it and not yet stored."""
    n = LogEntry.objects.filter(shop_id=job.shop_id, device_id="server").count() + 1 + more
    return Draft(
        id=uuid4(),
        job_id=job.pk,
        kind=kind,
        v=1,
        at=now,
        at_from="typed",
        device_id="server",
        n=n,
        group_id=group_id,
        body=body,
    )
