"""Parts in service: how long they have held against what was claimed, and what is due.

A due date counts from being put into service, then from the last time the same thing was done.  A look at
the whole part, at a haul-out for one, answers every check that is a look and is due, or nearly.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..care_plans import EARLY_FRAC, answered_by_look, care_of
from ..sheet import Care, Sheet
from ..why import Why, computed

__all__ = [
    "LOOK",
    "RATINGS",
    "Cleaning",
    "Due",
    "Inspection",
    "PartService",
    "ServiceRecord",
    "freeze_service",
]

#: how a coat looks at a check-up; common practice, no published source
RATINGS: dict[int, str] = {
    5: "as new",
    4: "slight wear",
    3: "worn but intact",
    2: "small failures",
    1: "failing",
    0: "failed",
}


#: what was done where it was a look at the whole part
LOOK = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Due:
    """Something to do in service, when it is due and when it was last done.

    `usual`: its sheet says nothing, and this is what such a finish usually asks for.
    """

    key: str
    kind: str
    what: str
    sheet_id: str
    due_at: int | None
    last_at: int | None
    why: Why
    usual: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspection:
    """A look at a part in service: when [epoch s], how it was rated (see RATINGS), what was seen."""

    at: int
    rating: int | None
    note: str
    entry_id: str
    photo_ids: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Cleaning:
    """A part washed, brushed or wiped: when [epoch s], how, and which care it was; "" where none."""

    at: int
    how: str
    care_key: str
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
    cleanings: tuple[Cleaning, ...] = ()


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
    cleanings: list[Cleaning] = field(default_factory=list)


def freeze_service(part_id: str, r: ServiceRecord, sheets: Sequence[Sheet]) -> PartService:
    """Dates of one part, its layers from the surface up: every care its materials name, once or again.

    Of a finish whose sheet names none it is what such a finish usually asks for.
    """
    due = [_due(r, sheet, care) for sheet in sheets[:-1] for care in sheet.care]
    for finish in sheets[-1:]:
        cares, usual = care_of(finish)
        due += [_due(r, finish, care, usual) for care in cares]
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
        cleanings=tuple(sorted(r.cleanings, key=lambda c: (c.at, c.entry_id))),
        due=tuple(sorted(due, key=lambda d: (d.due_at is None, d.due_at or 0, d.key))),
    )


def _due(r: ServiceRecord, sheet: Sheet, care: Care, usual: bool = False) -> Due:
    first = r.in_at + care.after_s
    due_at: int | None = first
    last_at: int | None = None
    for at, key in sorted(r.done):
        early_s = EARLY_FRAC * (care.after_s if last_at is None else care.every_s or 0)
        looked = key == LOOK and answered_by_look(care.key) and due_at is not None and at >= due_at - early_s
        if key == care.key or looked:
            last_at = at
            due_at = None if care.every_s is None else max(first, at + care.every_s)
    inputs: Mapping[str, int] = {"after_s": care.after_s, "every_s": care.every_s or 0}
    return Due(
        key=care.key,
        kind=care.kind,
        what=care.what,
        sheet_id=sheet.id,
        due_at=None if r.ended else due_at,
        last_at=last_at,
        why=computed("service.due", **inputs),
        usual=usual,
    )
