"""Projections, plans and what a job's page needs, all from the log."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterable
from uuid import UUID, uuid4

from django.db import connection, transaction

from coatlog.core import CORE_VERSION
from coatlog.core.codec import content_id, from_plain, to_plain
from coatlog.core.run.entries import Entry
from coatlog.core.run.facts import Facts
from coatlog.core.plan.plan import Plan, lay_out, list_orders
from coatlog.core.plan.problem import Problem, problem
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.timeline import Climate, Reading, Timeline
from coatlog.core.run.view import cured_at, next_due_at, view
from coatlog.errors import NotFound, NotPermitted, Refused
from coatlog.jobs.models import FactsDoc, Job
from coatlog.jobs.services import OverruleDraft, facts_of
from coatlog.logbook.climate import climate_of
from coatlog.logbook.models import LogEntry
from coatlog.logbook.services import Draft, Outcome, entries_of_job, store, to_core
from coatlog.shop import clock
from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Member, Place, Shop

from .models import JobProjection, PlanDoc

__all__ = [
    "Ground",
    "adopt_facts",
    "change_job",
    "current",
    "facts_shown_now",
    "full_replay",
    "ground_of",
    "heads",
    "job_of",
    "log_overrules",
    "plan_job",
    "plan_now",
    "post_entries",
    "problem_of",
    "project",
    "refresh_place",
    "reproject_stale",
    "start_job",
    "state_from",
    "timeline_of",
]


DAY_S = 86400


def job_of(member: Member, job_id: UUID) -> Job:
    """A job of the member's shop.  Raises NotFound, also for another shop's."""
    job = (
        Job.objects.select_related("asset", "place", "shop").filter(shop_id=member.shop_id, pk=job_id).first()
    )
    if job is None:
        raise NotFound("No such job in this shop.")
    return job


@dataclasses.dataclass(frozen=True, slots=True)
class Ground:
    """What a replay of one job stands on."""

    facts: dict[str, Facts]
    entries: list[Entry]
    climate: Climate


def ground_of(job: Job) -> Ground:
    """Facts, entries and climate of a job, without replaying them."""
    facts = facts_of(job)
    entries = [to_core(e) for e in entries_of_job(job)]
    places = {p.place_id for f in facts.values() for p in f.parts}
    # Nothing of a job looks at air from before its first entry.
    since = min([job.created_at, *(e.at_true for e in entries)]) - DAY_S
    return Ground(facts, entries, climate_of(job.shop, places, since=since))


def full_replay(job: Job) -> tuple[Ground, JobState]:
    """Replay a job from its log, from nothing."""
    ground = ground_of(job)
    plans: dict[str, object] = dict.fromkeys(
        PlanDoc.objects.filter(job=job).values_list("plan_id", flat=True)
    )
    return ground, replay(ground.facts, plans, ground.entries, ground.climate, job_id=str(job.pk))


def project(job: Job, *, now: int) -> JobProjection:
    """Replay a job and write its projection row.  Called in the entry's own transaction."""
    ground, state = full_replay(job)
    picked = view(state, now)
    plan = _reflow(job, ground, state, now)
    row, _ = JobProjection.objects.update_or_create(
        job=job,
        defaults={
            "state": to_plain(state),
            "plan": to_plain(plan) if plan else None,
            "through_seq": state.through_seq,
            "climate_id": ground.climate.id,
            "core_version": CORE_VERSION,
            "next_change_at": picked.next_change_at,
            "latest_start_at": picked.latest_start_at,
            "cured_at": cured_at(state),
            "next_due_at": next_due_at(state),
            "materials": _materials(ground, state),
        },
    )
    return row


def _materials(ground: Ground, state: JobState) -> str:
    """Names of what is on the job, for searching."""
    facts = ground.facts.get(state.facts_id or "")
    return ", ".join(sorted({s.name for s in facts.sheets.values()})) if facts else ""


def current(job: Job, *, now: int) -> JobProjection:
    """The projection; made anew when the core is newer than it or there is none."""
    row = JobProjection.objects.filter(job=job).first()
    if row is None or row.core_version != CORE_VERSION:
        with transaction.atomic():
            return project(job, now=now)
    return row


def reproject_stale(*, now: int) -> int:
    """Project anew every job whose row an older core wrote; how many."""
    rows = JobProjection.objects.exclude(core_version=CORE_VERSION).values_list("job_id", flat=True)
    jobs = list(Job.objects.filter(pk__in=list(rows)).select_related("shop", "place", "asset"))
    for job in jobs:
        with transaction.atomic():
            project(job, now=now)
    return len(jobs)


def refresh_place(place: Place, *, now: int) -> int:
    """Project every live job of a shop that stands in a place whose climate grew."""
    jobs = Job.objects.filter(shop_id=place.shop_id, place=place).select_related("shop", "place", "asset")
    live = list(jobs.filter(JobProjection.live_q(now, "projection__")))
    for job in live:
        project(job, now=now)
    return len(live)


def post_entries(member: Member, drafts: list[Draft], *, sent_at: int) -> list[Outcome]:
    """Store entries and bring the jobs they concern up to date, in one transaction a group."""
    now = clock.now()

    def after(shop: Shop, job_ids: set[UUID]) -> None:
        for job in Job.objects.filter(pk__in=job_ids, shop=shop).select_related("shop", "place", "asset"):
            project(job, now=now)

    return store(member, drafts, sent_at=sent_at, now=now, after=after)


def start_job(
    member: Member,
    create: Callable[[], tuple[Job, Facts]],
    *,
    overrules: Iterable[OverruleDraft] = (),
) -> Job:
    """Create a job, adopt its facts, log what was overruled, plan it: all of it or nothing."""
    with transaction.atomic():
        job, facts = create()
        adopt_facts(member, job, facts)
        log_overrules(member, job, overrules)
        plan_job(member, job)
    return job


def change_job(
    member: Member, job: Job, revise: Callable[[], Facts], *, reason: str, overrules: Iterable[OverruleDraft]
) -> None:
    """Adopt a new version of a job's facts and plan anew: all of it or nothing."""
    with transaction.atomic():
        facts = revise()
        adopt_facts(member, job, facts, reason=reason or "survey or stack changed")
        log_overrules(member, job, overrules)
        _, state = full_replay(job)
        if state.next:
            plan_job(member, job)


def log_overrules(member: Member, job: Job, overrules: Iterable[OverruleDraft]) -> None:
    """One entry for every stop the owner set aside."""
    now = clock.now()
    for o in overrules:
        body: dict[str, object] = {"rule_id": o.rule_id, "subject": "stack", "reason": o.reason}
        (outcome,) = post_entries(member, [_server_draft(job, "overruled", body, now)], sent_at=now)
        if outcome.result != "stored":
            raise Refused(outcome.why)


def _server_draft(job: Job, kind: str, body: dict[str, object], now: int) -> Draft:
    n = LogEntry.objects.filter(shop_id=job.shop_id, device_id="server").count() + 1
    return Draft(
        id=uuid4(),
        job_id=job.pk,
        kind=kind,
        v=1,
        at=now,
        at_from="typed",
        device_id="server",
        n=n,
        group_id=None,
        body=body,
    )


def adopt_facts(member: Member, job: Job, facts: Facts, *, reason: str = "job created") -> None:
    """Adopt facts by an entry."""
    now = clock.now()
    draft = _server_draft(job, "facts_adopted", {"facts_id": facts.id, "reason": reason[:200]}, now)
    (outcome,) = post_entries(member, [draft], sent_at=now)
    if outcome.result != "stored":
        raise Refused(outcome.why)


def timeline_of(ground: Ground, state: JobState, part_id: str) -> Timeline:
    """The climate a part has had, hand readings included, for plans and figures."""
    facts = ground.facts[state.facts_id or next(iter(ground.facts))]
    part = facts.part(part_id)
    applied = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    hand = [
        Reading(
            at=e.at_true,
            air_degc=e.body["air_degc"],
            surface_degc=e.body.get("surface_degc"),
            rh_frac=e.body["rh_frac"],
            source="hand",
            part_id=e.body.get("part_id"),
        )
        for e in ground.entries
        if e.kind == "climate_read" and e.id in applied and e.body["place_id"] == part.place_id
    ]
    return Timeline(ground.climate, part.place_id, part_id, hand)


def problem_of(job: Job, ground: Ground, state: JobState, now: int) -> Problem | None:
    """What is still to do on a job; None where it has no facts."""
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        return None
    airs = {p.id: timeline_of(ground, state, p.id) for p in facts.parts if not p.retired}
    return problem(
        facts, state, airs, now=now, hours=open_intervals(job.shop, now), painters=job.shop.painters
    )


def plan_now(job: Job, row: JobProjection, state: JobState, ground: Ground, now: int) -> Plan | None:
    """The projection's plan; laid out anew when its first task should have begun already."""
    plan = from_plain(Plan, row.plan) if row.plan else None
    if plan is None or min((t.start_at for t in plan.tasks if not t.locked), default=now) >= now:
        return plan
    return _reflow(job, ground, state, now)


def _reflow(job: Job, ground: Ground, state: JobState, now: int) -> Plan | None:
    """What is left of the adopted plan, laid out from now; where it says nothing, the best list rule."""
    p = problem_of(job, ground, state, now)
    if p is None or not p.tasks:
        return None
    adopted = PlanDoc.objects.filter(job=job, plan_id=state.plan_id).first()
    order = tuple(k for k in (adopted.doc["order"] if adopted else ()) if k in p.tasks)
    missing = tuple(k for k in p.tasks if k not in order)
    if adopted is None or missing:
        plans = [lay_out(o, p) for o in list_orders(p)]
        return min(plans, key=lambda plan: plan.finish_at or 2**60)
    return dataclasses.replace(lay_out(order, p), id=adopted.plan_id)


def plan_job(member: Member, job: Job, *, limit_s: float = 2.0) -> Plan:
    """Solve the job's plan, store it as a version and adopt it by an entry.  One solve a shop."""
    if not member.may_write:
        raise NotPermitted("A viewer may look, not plan.")
    now = clock.now()
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [f"solve {job.shop_id}"])
        ground, state = full_replay(job)
        p = problem_of(job, ground, state, now)
        if p is None or not p.tasks:
            raise Refused("Nothing is left to plan on this job.")
        # Imported here: the solver's library takes most of a second to load and only this needs it.
        from coatlog.core.plan.solver import solve

        plan = solve(p, limit_s=limit_s)
        plan = dataclasses.replace(plan, id=content_id(plan))
        PlanDoc.objects.get_or_create(
            job=job,
            plan_id=plan.id,
            defaults={"doc": to_plain(plan), "log_seq": state.through_seq, "made_at": now},
        )
        body: dict[str, object] = {"plan_id": plan.id, "reason": "asked for", "changed": []}
        post_entries(member, [_server_draft(job, "plan_adopted", body, now)], sent_at=now)
    return plan


def state_from(row: JobProjection) -> JobState:
    """A projection row as the core's JobState."""
    return from_plain(JobState, row.state)


def facts_shown_now(member: Member, now: int) -> dict[str, Facts]:
    """Facts of all jobs Now speaks of, by id, in one query."""
    docs = FactsDoc.objects.filter(
        JobProjection.shown_now_q(now, "job__projection__"), job__shop_id=member.shop_id
    )
    return {d.facts_id: from_plain(Facts, d.doc) for d in docs}


def heads(member: Member, now: int) -> Iterable[JobProjection]:
    """Projections Now speaks of, latest safe start first, in one query."""
    return (
        JobProjection.objects.filter(JobProjection.shown_now_q(now), job__shop_id=member.shop_id)
        .select_related("job__asset", "job__place", "job__shop")
        .order_by("latest_start_at", "job_id")
    )
