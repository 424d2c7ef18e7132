"""Who does what now: the coats that are going on, and who began them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

from coatlog.core.run.states import JobState
from coatlog.logbook.models import LogEntry

__all__ = ["Doing", "doing"]

#: A coat lasts minutes: what began it is among the newest of its kind.
NEWEST = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Doing:
    """A coat going on.  `by`: who sprays it, as they are called; `since_at`: epoch s."""

    coat_id: str
    part_id: str
    by: str
    since_at: int


def doing(states: Iterable[tuple[UUID, JobState]]) -> dict[UUID, tuple[Doing, ...]]:
    """By job, for those where a coat is going on; one question for all of them."""
    running = {
        job_id: [
            (p.films[-1].coat_id, p.part_id, p.films[-1].started_at)
            for p in state.parts
            if p.films and p.films[-1].done_at is None
        ]
        for job_id, state in states
    }
    running = {job_id: coats for job_id, coats in running.items() if coats}
    if not running:
        return {}
    told = LogEntry.objects.filter(job_id__in=running, kind="coat_started").select_related("actor")
    by: dict[str, str] = {}
    for entry in told.order_by("-seq")[:NEWEST]:
        for coat in entry.body.get("coats", []):
            by[str(coat.get("coat_id"))] = entry.body.get("painter") or entry.told_by
    return {
        job_id: tuple(
            Doing(coat_id=coat_id, part_id=part_id, by=by[coat_id], since_at=since_at)
            for coat_id, part_id, since_at in coats
            if coat_id in by
        )
        for job_id, coats in running.items()
    }
