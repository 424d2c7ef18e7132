"""What is asked of the planner outside a request: it stands in the database until the worker has answered.

A shop with little to do is planned while one waits, in tenths of a second.  In a full one that would be
seconds, with the shop's log held: there the entry is stored, the job's own plan is carried forward, and
the worker lays out the rest.  The newest asking wins, and a shop has one plan at a time.
"""

from __future__ import annotations

from typing import Any, Literal
from uuid import UUID

from django.db import transaction
from django.db.models import F, Sum
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from coatlog.jobs.models import Job
from coatlog.shop.models import Member, Shop

from .models import JobProjection, PlanAsk, PlanWork

__all__ = [
    "INLINE_TASKS",
    "AskKind",
    "answered",
    "ask",
    "begun",
    "full",
    "let_go",
    "waits_since",
    "want_past",
    "want_plan",
]

INLINE_TASKS = 160  # laid out in about a tenth of a second
KEPT_S = 86400
BEFORE_PLANS = 10  # priority: somebody waits for an answer

AskKind = Literal["plan", "what_if", "ways", "move"]


def full(shop: Shop, now: int) -> bool:
    """Whether there is more to do in a shop than is laid out while somebody waits.  One query."""
    rows = JobProjection.objects.filter(JobProjection.live_q(now), job__shop=shop)
    return (rows.aggregate(n=Sum("tasks_left"))["n"] or 0) > INLINE_TASKS


def want_plan(shop: Shop, now: int) -> None:
    """Have the shop's plan laid out anew.  Inside a transaction that holds the shop."""
    work, _ = PlanWork.objects.get_or_create(shop=shop)
    if work.wanted == work.done:
        work.since_at = now
    work.wanted += 1
    work.save(update_fields=["wanted", "since_at"])
    _defer("plan_the_shop", shop.pk, once=True, shop_id=str(shop.pk))


def want_past(shop: Shop, place_id: UUID | None) -> None:
    """Have the jobs that are done projected anew, in one place or all.  Inside a transaction."""
    _defer("project_past", shop.pk, once=False, shop_id=str(shop.pk), place_id=str(place_id or ""))


def begun(shop_id: UUID) -> int:
    """How much was asked for up to here: what a plan begun now answers."""
    return PlanWork.objects.filter(shop_id=shop_id).values_list("wanted", flat=True).first() or 0


def answered(shop_id: UUID, upto: int, now: int) -> None:
    """A plan that was begun when `upto` was asked for is written."""
    PlanWork.objects.filter(shop_id=shop_id, done__lt=upto).update(done=upto, done_at=now, since_at=now)


def waits_since(shop: Shop) -> int | None:
    """Since when a plan is waited for; None: the one that stands is the newest."""
    return PlanWork.objects.filter(shop=shop, wanted__gt=F("done")).values_list("since_at", flat=True).first()


def ask(member: Member, job: Job, kind: AskKind, asked: dict[str, Any], now: int) -> PlanAsk:
    """Something of one's own is asked; what the same person asked before of the same job is forgotten."""
    with transaction.atomic():
        waiting = PlanAsk.objects.filter(job=job, member=member, kind=kind, began_at__isnull=True)
        if kind != "plan":  # what is to stand is never dropped
            waiting.delete()
        PlanAsk.objects.filter(job__shop=member.shop, asked_at__lt=now - KEPT_S).delete()
        made = PlanAsk.objects.create(job=job, member=member, kind=kind, asked=asked, asked_at=now)
        _defer("answer_ask", member.shop_id, once=False, ask_id=str(made.pk))
    return made


def let_go(member: Member, ask_id: UUID) -> None:
    """Nobody waits for an answer any more: what was only a question is not asked; what is to stand stays."""
    waiting = PlanAsk.objects.filter(pk=ask_id, member=member, began_at__isnull=True)
    waiting.filter(kind__in=("what_if", "ways")).delete()


def _defer(task: str, shop: UUID, *, once: bool, **words: str) -> None:
    lock = f"plan {shop}"
    wanted = app.configure_task(
        f"coatlog.run.tasks.{task}",
        lock=lock,
        queueing_lock=lock if once else None,
        priority=0 if once else BEFORE_PLANS,
    )
    try:
        with transaction.atomic():
            wanted.defer(**words)
    except AlreadyEnqueued:
        return  # one that has not begun will see what is new
