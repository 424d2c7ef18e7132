"""What goes with the object when it leaves: checks and who ticked them, coats and their air, what was said.

Everything is read from the log; what was struck is left out.
"""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.core.climate import dew_margin
from coatlog.core.run.facts import Facts
from coatlog.core.run.states import Film, JobState
from coatlog.core.run.step_list import job_work
from coatlog.jobs.frozen_facts import latest_facts
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.logbook.services import entries_of_job
from coatlog.shop import clock
from coatlog.shop.auth import member_of

from . import services
from .projection import Ground, current, ground_of, state_from, timeline_of

router = Router()


class CheckLine(Schema):
    """A step of the list as it was last looked at; `held` None: nobody did."""

    part: str
    step: str
    check: str
    held: bool | None
    at: int | None
    who: str


class CoatLine(Schema):
    """A coat with its dry film [um] and the air when it was begun [degC, fraction, K above dew point]."""

    part: str
    material: str
    n: int
    started_at: int
    done_at: int | None
    who: str
    dry_low_um: float | None
    dry_likely_um: float | None
    dry_high_um: float | None
    dry_from: str
    air_degc: float
    surface_degc: float
    rh_frac: float
    margin_k: float
    air_from: str


class SaidLine(Schema):
    """What somebody said: a stop overruled, a defect, a note, tape off."""

    kind: str
    text: str
    at: int
    who: str


class DossierOut(Schema):
    checks: list[CheckLine]
    coats: list[CoatLine]
    said: list[SaidLine]
    entries: int
    through_seq: int


@router.get("/jobs/{job_id}/dossier", response=DossierOut, operation_id="get_dossier")
def get_dossier(request: HttpRequest, job_id: UUID) -> DossierOut:
    """The record of a job, to be printed and handed over."""
    job = services.job_of(member_of(request), job_id)
    state = state_from(current(job, now=clock.now()))
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    rows = [e for e in entries_of_job(job) if str(e.entry_id) in stands]
    return DossierOut(
        checks=_checks(job, rows),
        coats=_coats(ground_of(job), state, rows),
        said=[s for e in rows if (s := _said(e)) is not None],
        entries=len(rows),
        through_seq=state.through_seq,
    )


def _who(e: LogEntry) -> str:
    return e.signed_as or e.actor.get_username()


def _checks(job: Job, rows: list[LogEntry]) -> list[CheckLine]:
    facts = latest_facts(job)
    looked: dict[tuple[str, str], LogEntry] = {}
    for e in rows:
        if e.kind in ("step_done", "step_failed") and e.body.get("check_id"):
            for part_id in e.body["part_ids"]:
                looked[part_id, e.body["check_id"]] = e
    out = []
    for part_id, works in job_work(facts).items():
        for w in works:
            if w.step == "coat":
                continue
            seen = looked.get((part_id, w.key))
            out.append(
                CheckLine(
                    part=facts.part(part_id).name,
                    step=w.name,
                    check=w.check,
                    held=None if seen is None else seen.kind == "step_done",
                    at=None if seen is None else seen.at_true,
                    who="" if seen is None else _who(seen),
                )
            )
    return out


def _coats(ground: Ground, state: JobState, rows: list[LogEntry]) -> list[CoatLine]:
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        return []
    began = {c["coat_id"]: e for e in rows if e.kind == "coat_started" for c in e.body["coats"]}
    films = [(p.part_id, f) for p in state.parts for f in p.films]
    films.sort(key=lambda x: x[1].started_at)
    return [_coat(ground, facts, state, part_id, f, began.get(f.coat_id)) for part_id, f in films]


def _coat(
    ground: Ground, facts: Facts, state: JobState, part_id: str, film: Film, began: LogEntry | None
) -> CoatLine:
    air = timeline_of(ground, state, part_id).at(film.started_at)
    sheets = {k: s for f in ground.facts.values() for k, s in f.sheets.items()}
    return CoatLine(
        part=facts.part(part_id).name,
        material=sheets[film.sheet_id].name,
        n=film.n,
        started_at=film.started_at,
        done_at=film.done_at,
        who="" if began is None else _who(began),
        dry_low_um=film.dry_um.low if film.dry_um else None,
        dry_likely_um=film.dry_um.likely if film.dry_um else None,
        dry_high_um=film.dry_um.high if film.dry_um else None,
        dry_from=film.dry_from,
        air_degc=air.air_degc,
        surface_degc=air.surface_degc,
        rh_frac=air.rh_frac,
        margin_k=dew_margin(air.surface_degc, air.air_degc, air.rh_frac).value,
        air_from=air.source,
    )


def _said(e: LogEntry) -> SaidLine | None:
    body = e.body
    match e.kind:
        case "overruled":
            text = f"{body['rule_id'].replace('.', ' ').replace('_', ' ')}: {body['reason']}"
        case "defect":
            text = body["type"]
        case "note":
            text = body["text"]
        case "unmasked":
            text = f"tape came off {body['result']}"
        case _:
            return None
    return SaidLine(kind=e.kind, text=text, at=e.at_true, who=_who(e))
