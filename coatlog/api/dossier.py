"""The record of a job, to be printed and handed over."""

from __future__ import annotations

from uuid import UUID

import segno
from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.jobs.frozen_facts import latest_facts
from coatlog.logbook.services import entries_of_job
from coatlog.run.dossier import (
    BeforeAfter,
    CareLine,
    CheckLine,
    CoatLine,
    FilmLine,
    MixLine,
    SaidLine,
    before_after,
    care_lines,
    check_lines,
    coat_lines,
    film_lines,
    hash_of,
    mix_lines,
    said_line,
)
from coatlog.run.projection import current, ground_of, state_from
from coatlog.shop import clock
from coatlog.shop.pairing import reached_by

from .guard import job_of

router = Router()


class DossierOut(Schema):
    """`steps_logged`: the shop ticks its steps.

    `log_sha256`: of the whole log up to `through_seq`, struck entries too: the same log, the same hash."""

    checks: list[CheckLine]
    coats: list[CoatLine]
    mixes: list[MixLine]
    films: list[FilmLine]
    said: list[SaidLine]
    pictures: list[BeforeAfter]
    care: list[CareLine]
    steps_logged: bool
    entries: int
    through_seq: int
    log_sha256: str


class JobCode(Schema):
    """Where this job is, as a code for a camera, row by row, 1 is dark."""

    address: str
    rows: list[str]


@router.get("/jobs/{job_id}/dossier", response=DossierOut, operation_id="get_dossier")
def get_dossier(request: HttpRequest, job_id: UUID) -> DossierOut:
    """Everything that stands on the log, in the order of the work."""
    job = job_of(request, job_id)
    state = state_from(current(job, now=clock.now()))
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    log = list(entries_of_job(job))
    rows = [e for e in log if str(e.entry_id) in stands]
    ground = ground_of(job)
    facts = latest_facts(job)
    return DossierOut(
        checks=check_lines(job, rows),
        coats=coat_lines(ground, state, rows),
        mixes=mix_lines(ground, state),
        films=film_lines(ground, state, rows),
        said=[s for e in rows if (s := said_line(e)) is not None],
        pictures=before_after(facts, state, rows),
        care=care_lines(facts),
        steps_logged=facts.logs_steps,
        entries=len(rows),
        through_seq=state.through_seq,
        log_sha256=hash_of(log),
    )


@router.get("/jobs/{job_id}/code", response=JobCode, operation_id="get_job_code")
def get_job_code(request: HttpRequest, job_id: UUID) -> JobCode:
    """The address of a job for a label or a sheet; refused where no phone reaches this server."""
    job = job_of(request, job_id)
    address = f"{reached_by(request)}#/jobs/{job.pk}/run"
    drawn = segno.make(address, error="m", micro=False).matrix
    return JobCode(address=address, rows=["".join("1" if x else "0" for x in row) for row in drawn])
