"""One part as it was frozen, with what the log said of it: what the judging of a log stands on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..sheet import Sheet
from ..stack.step_sequence import Work
from ..why import Why
from .accumulator import CoatRecord, Deed
from .facts import Part
from .places import Stays
from .recoat_windows import Opening
from .states import LogFinding, PartState
from .timeline import Reading, Series, Timeline

__all__ = ["PRACTICE", "Held", "PartLog", "Values", "of_coat"]

PRACTICE = Why(kind="practice", ref="common practice, no published source")
Values = dict[str, float | int | str]


@dataclass(frozen=True, slots=True)
class Held:
    """What a coat was open to by what is fair to hold against a painter: see `recoat_windows.Edge`.

    `opens`, `last_close`: as for the plan, with the doubt of the air on the painter's side.  `real`: the
    same, warmer than the sheet's temperature a minimum shortens.  `tacky_at`: when it was no longer wet.
    """

    opens: tuple[Opening, ...]
    last_close: int | None
    real: tuple[Opening, ...]
    tacky_at: int | None
    done_at: int
    wet_in_wet: bool
    silent: bool


@dataclass(frozen=True, slots=True)
class PartLog:
    """One part as it was frozen, and what the log said of it, for judging.

    `bay`: the air as if no heat had been on; `heat`: when it was on, and how warm [degC].
    `sheets`: of each coat, with its waits as they are for the film and the thinner it has.

    `held`: for each coat that another covers.  `listed`: its step list, where steps are logged at all, and
    `all_works` in any case; `ground_id`: the surface its preparation leads to.
    `moves`: (when, place, entry).
    """

    part: Part
    state: PartState
    records: Sequence[CoatRecord]
    weather: Series
    hand: Sequence[Reading]
    sheets: Sequence[Sheet]
    held: Sequence[Held | None]
    steps: Sequence[tuple[int, str]]
    deeds: Sequence[Deed]
    listed: Sequence[Work]
    all_works: Sequence[Work]
    ground_id: str
    stays: Stays
    moves: Sequence[tuple[int, str, str]]
    outdoors: Sequence[str]
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
