"""The damage register of a job: what was there before any work."""

from __future__ import annotations

from collections import Counter
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


def damage_pins(job: Job, state: JobState) -> dict[str, int]:
    """How many damages are written down and stand, by part id."""
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    found = [e for e in ground_of(job).entries if e.kind == "damage_found" and e.id in stands]
    return dict(Counter(str(e.body["part_id"]) for e in found))


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
