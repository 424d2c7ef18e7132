"""Parts in service: how long they have held against what was claimed, and what is due.

A due date counts from being put into service, then from the last time the same thing was done.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..sheet import Sheet
from ..why import Why, computed

__all__ = ["RATINGS", "Due", "Inspection", "PartService", "ServiceRecord", "freeze_service"]

#: how a coat looks at a check-up; common practice, no published source
RATINGS: dict[int, str] = {
    5: "as new",
    4: "slight wear",
    3: "worn but intact",
    2: "small failures",
    1: "failing",
    0: "failed",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """Something to do in service, when it is due and when it was last done."""

    key: str
    kind: str
    what: str
    sheet_id: str
    due_at: int | None
    last_at: int | None
    why: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspection:
    """A look at a part in service: when [epoch s], how it was rated (see RATINGS), what was seen."""

    at: int
    rating: int | None
    note: str
    entry_id: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PartService:
    """A part in use.  `claim_until_at` None: nobody claimed anything."""

    part_id: str
    in_service_at: int
    claim_text: str
    claim_until_at: int | None
    ended_at: int | None
    ended_how: str
    ended_was: str
    touched_up_at: tuple[int, ...]
    inspections: tuple[Inspection, ...]
    due: tuple[Due, ...]


@dataclass(slots=True)
class ServiceRecord:
    """What the log said of one part in service, before dates are computed."""

    in_at: int
    claim_s: int | None
    claim_text: str
    done: list[tuple[int, str]]
    inspections: list[Inspection]
    touched: list[int]
    ended: tuple[int, str, str] | None = None


def freeze_service(part_id: str, r: ServiceRecord, sheets: Sequence[Sheet]) -> PartService:
    """Dates of one part: every care its materials name, once or again and again."""
    last: dict[str, int] = {}
    for at, key in r.done:
        last[key] = max(at, last.get(key, at))
    due = [_due(r, sheet, care, last.get(care.key)) for sheet in sheets for care in sheet.care]
    claims = [s.claim for s in sheets if s.claim is not None]
    claim_s = r.claim_s if r.claim_s is not None else min((c.life_s for c in claims), default=None)
    text = r.claim_text or next((c.text for c in claims if c.life_s == claim_s), "")
    return PartService(
        part_id=part_id,
        in_service_at=r.in_at,
        claim_text=text,
        claim_until_at=None if claim_s is None else r.in_at + claim_s,
        ended_at=r.ended[0] if r.ended else None,
        ended_how=r.ended[1] if r.ended else "",
        ended_was=r.ended[2] if r.ended else "",
        touched_up_at=tuple(sorted(r.touched)),
        inspections=tuple(sorted(r.inspections, key=lambda i: (i.at, i.entry_id))),
        due=tuple(sorted(due, key=lambda d: (d.due_at is None, d.due_at or 0, d.key))),
    )


def _due(r: ServiceRecord, sheet: Sheet, care: Any, last_at: int | None) -> Due:
    first = r.in_at + care.after_s
    if last_at is None:
        due_at: int | None = first
    elif care.every_s is None:
        due_at = None
    else:
        due_at = max(first, last_at + care.every_s)
    inputs: Mapping[str, int] = {"after_s": care.after_s, "every_s": care.every_s or 0}
    return Due(
        key=care.key,
        kind=care.kind,
        what=care.what,
        sheet_id=sheet.id,
        due_at=None if r.ended else due_at,
        last_at=last_at,
        why=computed("service.due", **inputs),
    )
