"""The shop's record: how long coats have held against what was claimed, and what came of them."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from coatlog.core.run.facts import Facts
from coatlog.core.run.in_service import PartService
from coatlog.core.survival import Lasting, Life, lasting
from coatlog.jobs.frozen_facts import read_facts
from coatlog.jobs.models import FactsDoc
from coatlog.shop.models import Shop

from . import projection
from .models import JobProjection

__all__ = ["MaterialLine", "RecordLine", "lived_s", "material_lines", "record_lines"]


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
    """A finish over all its services.  Taken off while sound is no failure.

    `median_s`: the time half of them last [s], between `low_s` and `high_s` by 95 %; None: too few failures,
    or more than half still hold.
    """

    material: str
    running: int
    failed: int
    sound: int
    longest_s: int
    claim_s: int | None
    median_s: int | None
    low_s: int | None
    high_s: int | None
    said: str


def lived_s(shop: Shop, now: int) -> dict[str, int]:
    """How long finishes lasted here [s], by material id, where there is enough to say so.

    Enough is five failures: the time half of them last, what is still sound counted in, or what is
    sure of it while more than half hold; or none, and one that has held longer than was claimed.
    """
    out: dict[str, int] = {}
    for key, own in _by_material(record_lines(shop, now)).items():
        told = _lasting(own)
        longest = max(own, key=lambda x: x.held_s)
        if not told.few:
            out[key] = told.safe_s
        elif not told.failures and longest.claim_s is not None and longest.held_s > longest.claim_s:
            out[key] = longest.held_s
    return out


def _by_material(lines: list[RecordLine]) -> dict[str, list[RecordLine]]:
    out: dict[str, list[RecordLine]] = {}
    for x in lines:
        out.setdefault(x.material_id, []).append(x)
    return out


def _lasting(own: list[RecordLine]) -> Lasting:
    """Taken off while sound is no failure: it has held at least so long."""
    return lasting(Life(x.held_s, x.ended_was == "failed") for x in own)


def record_lines(shop: Shop, now: int) -> list[RecordLine]:
    rows = list(
        JobProjection.objects.filter(job__shop=shop, job__example=False, state__service__0__isnull=False)
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
    """Each finish by its material, as its sheet is named now."""
    out = []
    for own in _by_material(lines).values():
        told = _lasting(own)
        claims = [x.claim_s for x in own if x.claim_s]
        newest = max(own, key=lambda x: x.in_service_at)
        out.append(
            MaterialLine(
                material=newest.material,
                running=sum(x.ended_at is None for x in own),
                failed=told.failures,
                sound=sum(x.ended_was == "sound" for x in own),
                longest_s=told.at_least_s,
                claim_s=min(claims) if claims else None,
                median_s=None if told.few else told.median_s,
                low_s=None if told.few else told.low_s,
                high_s=None if told.few else told.high_s,
                said=_said(told),
            )
        )
    return sorted(out, key=lambda x: x.material)


def _said(told: Lasting) -> str:
    if told.failures == 0:
        return "no failures yet"
    if told.few:
        return f"{told.failures} failed: too few to say how long it lasts"
    return f"{told.failures} of {told.counted} failed"
