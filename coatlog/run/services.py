"""What is done to jobs as a whole: begun, changed, logged to, and found for Now."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from uuid import UUID

from django.db import transaction
from django.db.models import QuerySet

from coatlog.core.run.change import FactsChange, change_of
from coatlog.core.run.entries import Entry
from coatlog.core.run.facts import Facts
from coatlog.core.run.replay import replay
from coatlog.errors import NotFound, Refused
from coatlog.jobs.frozen_facts import read_facts
from coatlog.jobs.models import FactsDoc, Job
from coatlog.jobs.services import OverruleDraft, correct_job
from coatlog.logbook.services import Draft, Outcome
from coatlog.shop import clock
from coatlog.shop.lock import hold_planner, hold_shop
from coatlog.shop.models import Member, Place, Shop

from . import posting
from .apart import apart
from .models import JobProjection
from .plan_queue import ask, full, want_past
from .planning import mend, plan_shop
from .projection import full_replay, project
from .reflow import reflow

__all__ = [
    "adopt_facts",
    "change_job",
    "correct",
    "due_rows",
    "facts_of_rows",
    "heads",
    "job_of",
    "log_overrules",
    "post_entries",
    "preview_change",
    "refresh_place",
    "refresh_shop",
    "start_job",
]


MOST_PAST = 20  # jobs that are done, projected while one waits


def job_of(member: Member, job_id: UUID) -> Job:
    """A job of the member's shop.  Raises NotFound, also for another shop's."""
    job = (
        Job.objects.select_related("asset", "place", "shop").filter(shop_id=member.shop_id, pk=job_id).first()
    )
    if job is None:
        raise NotFound("No such job in this shop.")
    return job


def refresh_place(place: Place, *, now: int) -> int:
    """Project every job of a shop that stands in a place whose climate changed.  Inside a transaction."""
    return _project_anew(place.shop, Job.objects.filter(shop_id=place.shop_id, place=place), now, place)


def refresh_shop(shop: Shop, *, now: int) -> int:
    """Project every job of a shop whose usual air changed.  Inside a transaction."""
    return _project_anew(shop, Job.objects.filter(shop=shop), now, None)


def _project_anew(shop: Shop, jobs: QuerySet[Job], now: int, place: Place | None) -> int:
    """Live jobs now; those that are done too, where they are many by the worker.  How many live ones."""
    hold_shop(shop.pk)
    live = JobProjection.live_q(now, "projection__")
    rows = list(jobs.filter(live).select_related("shop", "place", "asset"))
    for job in rows:
        project(job, now=now)
    past = jobs.exclude(live).select_related("shop", "place", "asset")
    if past.count() > MOST_PAST:
        want_past(shop, None if place is None else place.pk)
    else:
        for job in past:
            project(job, now=now)
    reflow(shop, now)
    return len(rows)


def post_entries(member: Member, drafts: list[Draft], *, sent_at: int) -> list[Outcome]:
    """Store entries; where one breaks a window or a deadline, another order is looked for and adopted."""
    posted = posting.post(member, drafts, sent_at=sent_at)
    stored = {o.id for o in posted.outcomes if o.result == "stored"}
    job_id = next((d.job_id for d in drafts if d.id in stored and d.job_id is not None), None)
    if posted.broken and job_id is not None:
        job = job_of(member, job_id)
        apart("order", lambda: mend(member, job), None)
    return posted.outcomes


def start_job(
    member: Member,
    create: Callable[[], tuple[Job, Facts]],
    *,
    overrules: Iterable[OverruleDraft] = (),
) -> Job:
    """Create a job, adopt its facts, log what was overruled, plan it: all of it or nothing."""
    with transaction.atomic():
        is_full = _hold(member)
        job, facts = create()
        adopt_facts(member, job, facts)
        log_overrules(member, job, overrules)
        _plan(member, job, is_full)
    return job


def _hold(member: Member) -> bool:
    """Whether the shop is full; else the planner is held, as the plan is made while one waits."""
    if full(member.shop, clock.now()):
        return True
    hold_planner(member.shop_id)
    return False


def _plan(member: Member, job: Job, is_full: bool) -> None:
    if is_full:
        ask(member, job, "plan", {"reason": "asked for"}, clock.now())
    else:
        plan_shop(member, asked_for=job)


def change_job(
    member: Member, job: Job, revise: Callable[[], Facts], *, reason: str, overrules: Iterable[OverruleDraft]
) -> None:
    """Adopt a new version of a job's facts and plan anew: all of it or nothing."""
    with transaction.atomic():
        is_full = _hold(member)
        facts = revise()
        adopt_facts(member, job, facts, reason=reason or "parts or coating system changed")
        log_overrules(member, job, overrules)
        _, state = full_replay(job)
        if state.next:
            _plan(member, job, is_full)


def preview_change(member: Member, job: Job, revise: Callable[[], Facts]) -> FactsChange:
    """What a new version of a job's facts would do to what is on its log.  Nothing of it is kept."""
    now = clock.now()
    with transaction.atomic():
        ground, was = full_replay(job)
        before = ground.facts[was.facts_id or next(iter(ground.facts))]
        after = revise()
        transaction.set_rollback(True)
    adopted = Entry(
        id="preview",
        job_id=str(job.pk),
        kind="facts_adopted",
        at=now,
        at_true=max([now, *(e.at_true for e in ground.entries)]),
        device_id="~",  # after whatever was written down in the same second
        n=1,
        seq=was.through_seq + 1,
        body={"facts_id": after.id},
    )
    facts, entries = {**ground.facts, after.id: after}, [*ground.entries, adopted]
    becomes = replay(facts, {}, entries, ground.climate, job_id=str(job.pk))
    return change_of(before, was, after, becomes)


def correct(member: Member, job: Job, words: Mapping[str, str]) -> None:
    """Put words about a job right and log what stood there before: all of it or nothing."""
    now = clock.now()
    with transaction.atomic():
        hold_shop(member.shop_id)
        for what, was, new in correct_job(member, job, words):
            body: dict[str, object] = {"what": what, "was": was, "now": new}
            draft = posting.server_draft(job, "corrected", body, now)
            (outcome,) = posting.post(member, [draft], sent_at=now).outcomes
            if outcome.result != "stored":
                raise Refused(outcome.why)


def log_overrules(member: Member, job: Job, overrules: Iterable[OverruleDraft]) -> None:
    """One entry for every stop the owner set aside."""
    now = clock.now()
    for o in overrules:
        body: dict[str, object] = {"rule_id": o.rule_id, "subject": "stack", "reason": o.reason}
        (outcome,) = posting.post(
            member, [posting.server_draft(job, "overruled", body, now)], sent_at=now
        ).outcomes
        if outcome.result != "stored":
            raise Refused(outcome.why)


def adopt_facts(member: Member, job: Job, facts: Facts, *, reason: str = "job created") -> None:
    """Adopt facts by an entry."""
    now = clock.now()
    draft = posting.server_draft(job, "facts_adopted", {"facts_id": facts.id, "reason": reason[:200]}, now)
    (outcome,) = posting.post(member, [draft], sent_at=now).outcomes
    if outcome.result != "stored":
        raise Refused(outcome.why)


def facts_of_rows(rows: Sequence[JobProjection]) -> dict[str, Facts]:
    """Facts of the jobs of these rows, by id, in one query."""
    docs = FactsDoc.objects.filter(job__in=[r.job_id for r in rows])
    return {facts_id: f for (_, facts_id), f in read_facts(docs).items()}


def heads(member: Member, now: int) -> list[JobProjection]:
    """Rows of the live jobs, latest safe start first, in one query."""
    rows = _rows_of(member).filter(JobProjection.live_q(now))
    return list(rows.order_by("latest_start_at", "job_id"))


def due_rows(member: Member, now: int, most: int) -> tuple[list[JobProjection], int]:
    """Rows of jobs that are done, with something due in service soon, first due first, and how many."""
    rows = _rows_of(member).filter(JobProjection.due_q(now)).exclude(JobProjection.live_q(now))
    return list(rows.order_by("next_due_at", "job_id")[:most]), rows.count()


def _rows_of(member: Member) -> QuerySet[JobProjection]:
    rows = JobProjection.objects.filter(job__shop_id=member.shop_id)
    return rows.select_related("job__asset", "job__place", "job__shop")
