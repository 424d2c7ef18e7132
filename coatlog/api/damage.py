"""The damage register of a job: what was there before any work."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.core.codec import from_plain
from coatlog.core.run.entries import DamageFound
from coatlog.core.run.states import JobState
from coatlog.jobs.frozen_facts import latest_facts
from coatlog.jobs.models import Job
from coatlog.run.projection import current, ground_of, state_from
from coatlog.shop import clock

from .guard import job_of

router = Router()


class DamageOut(Schema):
    """Damage found before any work: a note, and a pin on a picture where there is one."""

    entry_id: str
    at: int
    part_id: str
    part: str
    text: str
    photo_id: str | None
    across_frac: float | None
    down_frac: float | None
    before_work: bool


def damage_pins(job: Job, state: JobState, *, since_done: bool = False) -> dict[str, list[str]]:
    """The damages that are written down and stand, in words, by part id.

    `since_done`: those found after the last coat of their part, which no coat of this job has mended.
    """
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    done = {p.part_id: max((f.started_at for f in p.films), default=0) for p in state.parts}
    out: dict[str, list[str]] = {}
    for e in ground_of(job).entries:
        if e.kind != "damage_found" or e.id not in stands:
            continue
        part_id = str(e.body["part_id"])
        if not since_done or e.at_true > done.get(part_id, 0):
            out.setdefault(part_id, []).append(str(e.body["text"]))
    return out


@router.get("/jobs/{job_id}/damage", response=list[DamageOut], operation_id="get_damage")
def get_damage(request: HttpRequest, job_id: UUID) -> list[DamageOut]:
    """The damage register.  `before_work`: it was written down before the first coat."""
    job = job_of(request, job_id)
    state = state_from(current(job, now=clock.now()))
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    names = {p.id: p.name for p in latest_facts(job).parts}
    first = min((f.started_at for p in state.parts for f in p.films), default=None)
    out = []
    for e in ground_of(job).entries:
        if e.kind != "damage_found" or e.id not in stands:
            continue
        found = from_plain(DamageFound, e.body)
        out.append(
            DamageOut(
                entry_id=e.id,
                at=e.at_true,
                part_id=found.part_id,
                part=names.get(found.part_id, "part"),
                text=found.text,
                photo_id=found.photo_id,
                across_frac=found.across_frac,
                down_frac=found.down_frac,
                before_work=first is None or e.at_true < first,
            )
        )
    return out
