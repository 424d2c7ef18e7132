"""What the worker does: lay out full shops, answer what was asked of the planner."""

from __future__ import annotations

from uuid import UUID

from django.db import transaction
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from coatlog.errors import AppError
from coatlog.jobs.models import Job
from coatlog.shop import clock
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Shop

from . import answers, plan_queue, reflow
from .models import JobProjection, PlanAsk
from .projection import project

__all__ = ["answer_ask", "each_minute", "plan_the_shop", "project_past"]

AGAIN = RetryStrategy(max_attempts=4, exponential_wait=2)


@app.task(name="coatlog.run.tasks.plan_the_shop", retry=AGAIN)
def plan_the_shop(shop_id: str) -> None:
    """What is left of the adopted plans, laid out from now; rows whose log has moved on meanwhile wait."""
    reflow.lay_out_full(Shop.objects.get(pk=shop_id), clock.now())


@app.task(name="coatlog.run.tasks.answer_ask", retry=AGAIN)
def answer_ask(ask_id: str) -> None:
    """Answer what somebody asked, unless they have asked something else since."""
    ask = (
        PlanAsk.objects.select_related(
            "job__shop", "job__asset", "job__place", "member__shop", "member__user"
        )
        .filter(pk=UUID(ask_id), done_at__isnull=True)
        .first()
    )
    if ask is None:
        return
    ask.began_at = clock.now()
    ask.save(update_fields=["began_at"])
    try:
        # The answer and what it adopts stand together: a worker that is killed leaves neither.
        with transaction.atomic():
            ask.answer = answers.answer(ask.member, ask.job, ask.kind, ask.asked)  # type: ignore[arg-type]
            ask.done_at = clock.now()
            ask.save(update_fields=["answer", "done_at"])
    except AppError as refusal:
        ask.answer, ask.refusal, ask.done_at = None, str(refusal), clock.now()
        ask.save(update_fields=["answer", "refusal", "done_at"])


@app.task(name="coatlog.run.tasks.project_past", retry=AGAIN)
def project_past(shop_id: str, place_id: str) -> None:
    """Jobs that are done, whose air has changed behind them: each by itself, so that nobody waits for all."""
    now = clock.now()
    jobs = Job.objects.filter(shop_id=shop_id).exclude(JobProjection.live_q(now, "projection__"))
    if place_id:
        jobs = jobs.filter(place_id=place_id)
    for job in jobs.select_related("shop", "place", "asset"):
        with transaction.atomic():
            hold_shop(job.shop_id)
            project(job, now=now)


@app.periodic(cron="* * * * *")
@app.task(name="coatlog.run.tasks.each_minute", queueing_lock="each_minute", pass_context=False)
def each_minute(timestamp: int) -> None:
    """Plans of full shops grow old while nobody taps: those with a task that should have begun are wanted."""
    now = clock.now()
    live = JobProjection.objects.filter(JobProjection.live_q(now), plan__isnull=False)
    for shop in Shop.objects.filter(pk__in=live.values("job__shop_id")):
        if plan_queue.full(shop, now) and reflow.any_late(shop, now):
            with transaction.atomic():
                plan_queue.want_plan(hold_shop(shop.pk), now)
