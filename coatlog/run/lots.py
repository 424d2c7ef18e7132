"""Cans by their lots: what was last poured of each component, and every job a lot went into."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

from coatlog.core.run.entries import CanBody
from coatlog.logbook.models import LogEntry
from coatlog.shelf.models import SheetDoc
from coatlog.shop.models import Shop

__all__ = ["CanInUse", "LotLine", "LotUse", "cans_in_use", "traced"]


@dataclass(frozen=True, slots=True, kw_only=True)
class CanInUse:
    """The can of a component that was poured from last, as its label said."""

    role: str
    lot: str
    expires_on: str
    opened_on: str
    poured_at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LotUse:
    """A job a lot went into, and when it was first poured there."""

    job_id: UUID
    title: str
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LotLine:
    """One lot of one component of a material, and the jobs it is in."""

    role: str
    lot: str
    expires_on: str
    jobs: tuple[LotUse, ...]


def cans_in_use(shop: Shop, material_id: str) -> tuple[CanInUse, ...]:
    """The can of each component, remembered from the last pour of it in any job of the shop."""
    last: dict[str, CanInUse] = {}
    for e in _standing(shop, material_id):
        can: dict[str, str] = e.body["can"]
        last[e.body["component"]] = CanInUse(
            role=e.body["component"],
            lot=can.get("lot", ""),
            expires_on=can.get("expires_on", ""),
            opened_on=can.get("opened_on", ""),
            poured_at=e.at_true,
        )
    return tuple(last[k] for k in sorted(last))


def traced(shop: Shop, material_id: str) -> tuple[LotLine, ...]:
    """Every lot of a material that was poured, the latest first, with the jobs it went into."""
    lines: dict[tuple[str, str], tuple[str, dict[UUID, LotUse]]] = {}
    for e in _standing(shop, material_id):
        can = CanBody(**e.body["can"])
        if not can.lot or e.job is None:
            continue
        _, jobs = lines.setdefault((e.body["component"], can.lot), (can.expires_on, {}))
        jobs.setdefault(e.job.pk, LotUse(job_id=e.job.pk, title=e.job.title, at=e.at_true))
    out = [
        LotLine(role=role, lot=lot, expires_on=expires_on, jobs=tuple(jobs.values()))
        for (role, lot), (expires_on, jobs) in lines.items()
    ]
    return tuple(sorted(out, key=lambda x: -max(j.at for j in x.jobs)))


def _standing(shop: Shop, material_id: str) -> Iterable[LogEntry]:
    """Pours of a material that name a can and were not voided, as they happened."""
    sheets = SheetDoc.objects.filter(shop=shop, material_id=material_id).values_list("sheet_id", flat=True)
    pours = (
        LogEntry.objects.filter(shop=shop, kind="pour", body__sheet_id__in=list(sheets))
        .exclude(body__can=None)
        .filter(body__has_key="can")
        .select_related("job")
        .order_by("at_true", "seq")
    )
    struck = set(LogEntry.objects.filter(shop=shop, kind="strike").values_list("target_id", flat=True))
    return [e for e in pours if e.entry_id not in struck]
