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

from .models import JobProjection
from .plan_queue import full
from .projection import project, state_from
from .reflow import reflow

__all__ = ["Posted", "post", "server_draft"]


#: entries that leave every task where it is
QUIET = ("note", "defect", "damage_found", "corrected", "archived", "inspected", "cleaned", "touched_up")


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
        # Words and pictures move nothing: who reads a plan that is old lays it out anew.
        # A plan of a full shop is in its rows before it is adopted.
        quiet = {*QUIET, "plan_adopted"} if full(shop, now) else QUIET
        if any(d.kind not in quiet for d in drafts):
            broken = reflow(shop, now, job_ids)

    held = {d.id: why for d in drafts if (why := _kept_back(member, d))}
    stored = store(member, [d for d in drafts if d.id not in held], sent_at=sent_at, now=now, after=after)
    told = {o.id: o for o in stored}
    outcomes = [told[d.id] if d.id in told else _refused(d, held[d.id]) for d in drafts]
    return Posted(outcomes, broken)


def _refused(draft: Draft, why: str) -> Outcome:
    return Outcome(id=draft.id, result="refused", why=why, field="body.reason")


def _kept_back(member: Member, draft: Draft) -> str:
    """Why a part may not go into use yet: something is wrong that ruins it, and no owner says why it may.

    Empty: it may, or it is another entry.
    """
    if draft.kind != "in_service" or draft.job_id is None:
        return ""
    if LogEntry.objects.filter(shop=member.shop, entry_id=draft.id).exists():
        return ""  # one that is sent again is answered as before
    row = JobProjection.objects.filter(job_id=draft.job_id, job__shop=member.shop).first()
    named = draft.body.get("part_ids") or ()
    if row is None or not isinstance(named, list | tuple):
        return ""
    bad = [
        f
        for f in state_from(row).findings
        if f.severity == "ruins" and f.met_at is None and f.part_id in named
    ]
    reason = draft.body.get("reason")
    given = isinstance(reason, str) and len(reason.strip()) >= 4
    if not bad or (given and member.is_owner):
        return ""
    return f"{len(bad)} findings of the log ruin it ({bad[0].code}). The owner's reason in words is needed."


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
