"""The record of a job, to be printed and handed over."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.logbook.services import entries_of_job
from coatlog.run.dossier import (
    CheckLine,
    CoatLine,
    FilmLine,
    MixLine,
    SaidLine,
    check_lines,
    coat_lines,
    film_lines,
    mix_lines,
    said_line,
)
from coatlog.run.projection import current, ground_of, state_from
from coatlog.shop import clock

from .guard import job_of

router = Router()


class DossierOut(Schema):
    checks: list[CheckLine]
    coats: list[CoatLine]
    mixes: list[MixLine]
    films: list[FilmLine]
    said: list[SaidLine]
    entries: int
    through_seq: int


@router.get("/jobs/{job_id}/dossier", response=DossierOut, operation_id="get_dossier")
def get_dossier(request: HttpRequest, job_id: UUID) -> DossierOut:
    """Everything that stands on the log, in the order of the work."""
    job = job_of(request, job_id)
    state = state_from(current(job, now=clock.now()))
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    rows = [e for e in entries_of_job(job) if str(e.entry_id) in stands]
    ground = ground_of(job)
    return DossierOut(
        checks=check_lines(job, rows),
        coats=coat_lines(ground, state, rows),
        mixes=mix_lines(ground, state),
        films=film_lines(ground, state, rows),
        said=[s for e in rows if (s := said_line(e)) is not None],
        entries=len(rows),
        through_seq=state.through_seq,
    )
