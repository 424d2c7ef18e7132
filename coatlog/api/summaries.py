"""A job's headline as lists and pages show it."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from ninja import Schema

from coatlog.core.run.facts import Facts
from coatlog.core.run.states import JobState
from coatlog.core.run.view import View
from coatlog.jobs.models import Job
from coatlog.run.models import JobProjection

__all__ = ["JobHead", "LastCoat", "job_head", "without_lists"]


class LastCoat(Schema):
    """The newest coat of a job, in words."""

    label: str
    at: int


class JobHead(Schema):
    id: UUID
    title: str
    asset: str
    asset_kind: str
    mark: str
    paint_code: str
    customer: str
    place: str
    parts: int
    live: bool
    in_service: bool
    urgent_state: str | None
    latest_start_at: int | None
    next_due_at: int | None
    last_coat: LastCoat | None
    ended: str
    example: bool


def job_head(job: Job, row: JobProjection, state: JobState, picked: View, facts: Facts | None) -> JobHead:
    return JobHead(
        id=job.pk,
        title=job.title,
        asset=job.asset.name,
        asset_kind=job.asset.kind,
        mark=job.asset.mark,
        paint_code=job.asset.paint_code,
        customer=job.customer,
        place=job.place.name,
        parts=len(picked.parts),
        live=row.is_live(picked.now),
        in_service=any(x.ended_at is None for x in state.service),
        urgent_state=picked.urgent_state,
        latest_start_at=picked.latest_start_at,
        next_due_at=row.next_due_at,
        last_coat=_last_coat(state, facts),
        ended=_ended(state),
        example=job.example,
    )


def without_lists(facts: Facts) -> Facts:
    """Facts as most pages need them: the step lists are long, and asked for by themselves."""
    return replace(facts, steps=())


def _ended(state: JobState) -> str:
    """How the last service of a job ended, in words; empty while anything is on it."""
    if (
        not state.service
        or any(p.films for p in state.parts)
        or any(x.ended_at is None for x in state.service)
    ):
        return ""
    last = max(state.service, key=lambda x: x.ended_at or 0)
    months = round(((last.ended_at or 0) - last.in_service_at) / (30.4375 * 86400))
    was = {"failed": ", failed", "sound": ", still sound"}.get(last.ended_was, "")
    return f"{last.ended_how} after {months} months{was}"


def _last_coat(state: JobState, facts: Facts | None) -> LastCoat | None:
    """The coat that was started last, and on what."""
    films = [(f, p.part_id) for p in state.parts for f in p.films]
    if not films or facts is None:
        return None
    film, part_id = max(films, key=lambda x: (x[0].started_at, x[0].coat_id))
    name = facts.sheets[film.sheet_id].name if film.sheet_id in facts.sheets else "coat"
    part = next((p.name for p in facts.parts if p.id == part_id), "part")
    layer = next((x for x in facts.layers if x.id == film.layer_id), None)
    of = f" of {layer.coats}" if layer else ""
    return LastCoat(label=f"{name} {film.n}{of}, {part}", at=film.started_at)
