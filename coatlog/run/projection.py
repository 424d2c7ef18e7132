"""One row a job: its state as last replayed from the log, written in the entry's own transaction."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from typing import Any

from django.db import transaction

from coatlog.core import CORE_VERSION
from coatlog.core.codec import from_stored, to_plain
from coatlog.core.run.entries import Entry
from coatlog.core.run.facts import Facts, as_decided, as_placed
from coatlog.core.run.heat import heat_spans
from coatlog.core.run.places import air_through
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.timeline import Climate, Reading, Timeline
from coatlog.core.run.view import cured_at, next_due_at, view
from coatlog.jobs.frozen_facts import facts_of
from coatlog.jobs.models import Job
from coatlog.logbook.readings import climate_of
from coatlog.logbook.services import entries_of_job, to_core

from .models import JobProjection, PlanDoc

__all__ = [
    "Ground",
    "current",
    "facts_now",
    "full_replay",
    "ground_of",
    "project",
    "reproject_stale",
    "state_from",
    "timeline_of",
]

DAY_S = 86400
MOVES = ("moved", "coat_started")  # entries that say where a part is


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
    places |= {e.body["place_id"] for e in entries if e.kind in MOVES and e.body.get("place_id")}
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
    """Replay a job and write its projection row; its plan is the shop's, see reflow."""
    row, _ = JobProjection.objects.update_or_create(job=job, defaults=_fields(job, now))
    return row


def _fields(job: Job, now: int) -> dict[str, Any]:
    """What a projection row says of a job at `now`."""
    ground, state = full_replay(job)
    picked = view(state, now)
    # Nothing of a job that has ended is planned on.
    stopped: dict[str, Any] = {} if state.ended is None else {"plan": None, "tasks_left": 0}
    return {
        **stopped,
        "state": to_plain(state),
        "through_seq": state.through_seq,
        "climate_id": ground.climate.id,
        "core_version": CORE_VERSION,
        "next_change_at": picked.next_change_at,
        "latest_start_at": picked.latest_start_at,
        "cured_at": cured_at(state),
        "next_due_at": next_due_at(state),
        "materials": _materials(ground, state),
    }


def _materials(ground: Ground, state: JobState) -> str:
    """Names of what is on the job, for searching."""
    facts = ground.facts.get(state.facts_id or "")
    return ", ".join(sorted({s.name for s in facts.sheets.values()})) if facts else ""


def current(job: Job, *, now: int) -> JobProjection:
    """The projection, for reading: where an older core wrote it or none did, as it would be, not stored."""
    row = JobProjection.objects.filter(job=job).first()
    if row is not None and row.core_version == CORE_VERSION:
        return row
    return JobProjection(job=job, **{"plan": None if row is None else row.plan, **_fields(job, now)})


def reproject_stale(*, now: int) -> Iterator[tuple[int, int]]:
    """Project anew every job whose row is missing or an older core wrote: (done, of how many) after each."""
    fresh = JobProjection.objects.filter(core_version=CORE_VERSION).values("job_id")
    jobs = Job.objects.exclude(pk__in=fresh).select_related("shop", "place", "asset").order_by("pk")
    stale = list(jobs)
    for i, job in enumerate(stale, 1):
        with transaction.atomic():
            project(job, now=now)
        yield i, len(stale)


def state_from(row: JobProjection) -> JobState:
    """A projection row as the core's JobState."""
    return from_stored(JobState, row.state)


def facts_now(ground: Ground, state: JobState) -> Facts | None:
    """The facts a job stands on, with the coats as they were decided on it; None: it adopted none yet."""
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        return None
    return as_placed(as_decided(facts, state.coats), {p.part_id: p.place_id for p in state.parts})


def timeline_of(ground: Ground, state: JobState, part_id: str) -> Timeline:
    """The climate a part has had, hand readings included, for plans and figures."""
    facts = ground.facts[state.facts_id or next(iter(ground.facts))]
    told = next((p.stays for p in state.parts if p.part_id == part_id), ())
    stays = tuple((x.from_at, x.place_id) for x in told) or ((0, facts.part(part_id).place_id),)
    applied = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    hand = [
        (e.body["place_id"], Reading(
            at=e.at_true,
            air_degc=e.body["air_degc"],
            surface_degc=e.body.get("surface_degc"),
            rh_frac=e.body["rh_frac"],
            source="hand",
            part_id=e.body.get("part_id"),
        ))
        for e in ground.entries
        if e.kind == "climate_read" and e.id in applied
    ]  # fmt: skip

    def air_of(place: str) -> Timeline:
        return Timeline(ground.climate, place, part_id, [r for at, r in hand if at == place])

    air = air_through(stays, air_of)
    lit = [
        (e.at_true, e.body.get("surface_degc") if e.body["on"] else None)
        for e in sorted(ground.entries, key=lambda e: e.order())
        if e.kind == "heat_set" and e.id in applied and part_id in e.body["part_ids"]
    ]
    for from_at, until_at, degc in heat_spans(lit):
        air = air.heated(from_at, degc, until_at)
    return air
