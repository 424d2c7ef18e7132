"""The shop's record: how long coats have held against what was claimed, and what came of them."""

from __future__ import annotations

import statistics
from dataclasses import dataclass
from uuid import UUID

from coatlog.core.run.facts import Facts
from coatlog.core.run.in_service import PartService
from coatlog.jobs.frozen_facts import read_facts
from coatlog.jobs.models import FactsDoc
from coatlog.shop.models import Shop

from . import projection
from .models import JobProjection

__all__ = ["MaterialLine", "RecordLine", "lived_s", "material_lines", "record_lines"]

FAILURES_WANTED = 5  # under this many failures a lasting time is a guess


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordLine:
    """One part through one service; `held_s` runs on while it is in use."""

    job_id: UUID
    title: str
    asset: str
    part: str
    material: str
    material_id: str
    in_service_at: int
    held_s: int
    claim_s: int | None
    claim_text: str
    ended_at: int | None
    ended_how: str
    ended_was: str
    rating: int | None
    next_due_at: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class MaterialLine:
    """A finish over all its services.  Taken off while sound is no failure."""

    material: str
    running: int
    failed: int
    sound: int
    longest_s: int
    claim_s: int | None
    said: str


def lived_s(shop: Shop, now: int) -> dict[str, int]:
    """How long finishes lasted here [s], by material id, where there is enough to say so.

    Enough is five failures (their median), or one that has held longer than was claimed.
    """
    out: dict[str, int] = {}
    lines = record_lines(shop, now)
    for key in {x.material_id for x in lines}:
        own = [x for x in lines if x.material_id == key]
        failed = [x.held_s for x in own if x.ended_was == "failed"]
        longest = max(own, key=lambda x: x.held_s)
        if len(failed) >= FAILURES_WANTED:
            out[key] = round(statistics.median(failed))
        elif not failed and longest.claim_s is not None and longest.held_s > longest.claim_s:
            out[key] = longest.held_s
    return out


def record_lines(shop: Shop, now: int) -> list[RecordLine]:
    rows = list(
        JobProjection.objects.filter(job__shop=shop, state__service__0__isnull=False)
        .select_related("job__asset")
        .order_by("-job__created_at")
    )
    wanted = [r.state["facts_id"] for r in rows]
    docs = read_facts(FactsDoc.objects.filter(job__shop=shop, facts_id__in=wanted))
    lines = []
    for row in rows:
        facts = docs[row.job_id, row.state["facts_id"]]
        for life in projection.state_from(row).service:
            lines.append(_line(row, life, facts, now))
    return lines


def _line(row: JobProjection, life: PartService, facts: Facts, now: int) -> RecordLine:
    top = facts.layers_of(life.part_id)[-1]
    sheet = facts.sheets[top.sheet_id]
    ratings = [i.rating for i in life.inspections if i.rating is not None]
    return RecordLine(
        job_id=row.job_id,
        title=row.job.title,
        asset=row.job.asset.name,
        part=facts.part(life.part_id).name,
        material=sheet.name,
        material_id=sheet.material_id,
        in_service_at=life.in_service_at,
        held_s=max(0, (life.ended_at or now) - life.in_service_at),
        claim_s=None if life.claim_until_at is None else life.claim_until_at - life.in_service_at,
        claim_text=life.claim_text,
        ended_at=life.ended_at,
        ended_how=life.ended_how,
        ended_was=life.ended_was,
        rating=ratings[-1] if ratings else None,
        next_due_at=min((d.due_at for d in life.due if d.due_at is not None), default=None),
    )


def material_lines(lines: list[RecordLine]) -> list[MaterialLine]:
    out = []
    for name in sorted({x.material for x in lines}):
        own = [x for x in lines if x.material == name]
        failed = [x for x in own if x.ended_was == "failed"]
        claims = [x.claim_s for x in own if x.claim_s]
        out.append(
            MaterialLine(
                material=name,
                running=sum(x.ended_at is None for x in own),
                failed=len(failed),
                sound=sum(x.ended_was == "sound" for x in own),
                longest_s=max(x.held_s for x in own),
                claim_s=min(claims) if claims else None,
                said=_said(len(failed)),
            )
        )
    return out


def _said(failures: int) -> str:
    if failures == 0:
        return "no failures yet"
    if failures < FAILURES_WANTED:
        return f"{failures} failed: too few to say how long it lasts"
    return f"{failures} failed"
