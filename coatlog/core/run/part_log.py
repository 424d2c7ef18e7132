"""One part as it was frozen, with what the log said of it: what the judging of a log stands on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..sheet import Sheet
from ..why import Why
from .accumulator import CoatRecord
from .facts import Part
from .recoat_windows import Opening
from .states import LogFinding, PartState
from .timeline import Reading, Series, Timeline

__all__ = ["PRACTICE", "PartLog", "Values", "of_coat"]

PRACTICE = Why(kind="practice", ref="common practice, no published source")
Values = dict[str, float | int | str]


@dataclass(frozen=True, slots=True)
class PartLog:
    """One part as it was frozen, and what the log said of it, for judging.

    `bay`: the air as if no heat had been on; `heat`: when it was on, and how warm [degC].
    `sheets`: of each coat, with its waits as they are for the film and the thinner it has.
    """

    part: Part
    state: PartState
    records: Sequence[CoatRecord]
    weather: Series
    hand: Sequence[Reading]
    sheets: Sequence[Sheet]
    openings: Sequence[tuple[tuple[Opening, ...], int | None]]
    steps: Sequence[tuple[int, str]]
    air: Timeline
    bay: Timeline
    heat: Sequence[tuple[int, int, float]]
    checks: Mapping[str, bool]
    unticked: Sequence[str]


def of_coat(
    log: PartLog, record: CoatRecord, code: str, severity: str, at: int, **more: object
) -> LogFinding:
    """A finding on a coat of the part."""
    return LogFinding(
        code=code,  # type: ignore[arg-type]
        severity=severity,  # type: ignore[arg-type]
        part_id=log.part.id,
        coat_id=record.coat_id,
        entry_id=record.starts[0][1] if record.starts else "",
        at=at,
        **more,  # type: ignore[arg-type]
    )
