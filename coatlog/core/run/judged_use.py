"""What became of a part: layers left out, put to use unfinished, carried off before it could be."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from ..sheet import Sheet
from .accumulator import Accumulator
from .facts import Facts
from .part_log import PRACTICE, PartLog, Values, of_coat
from .recoat_windows import reach_min, sheet_pace
from .states import LogFinding

__all__ = ["judge_use"]

CARRIED_S = 60  # assumed: nobody reads a clock so finely


def judge_use(b: Accumulator, log: PartLog, facts: Facts) -> Iterator[LogFinding]:
    """Everything of it, in no particular order."""
    yield from _left_out(log, facts)
    yield from _unfinished(b, log, facts)
    yield from _carried(log)


def _left_out(log: PartLog, facts: Facts) -> Iterator[LogFinding]:
    """A layer that has no coat yet as one over it is begun."""
    layers = facts.layers_of(log.part.id)
    told: set[str] = set()
    for i, record in enumerate(log.records):
        at = next((x.position for x in layers if x.id == record.layer_id), None)
        if at is None or record.layer_id in told:
            continue
        told.add(record.layer_id)
        there = {r.layer_id for r in log.records[:i]}
        missing = [facts.sheets[x.sheet_id].name for x in layers if x.position < at and x.id not in there]
        if missing:
            values: Values = {"names": ", ".join(missing)}
            yield of_coat(
                log, record, "layer.skipped", "risks", record.started_at, values=values, why=PRACTICE
            )


def _unfinished(b: Accumulator, log: PartLog, facts: Facts) -> Iterator[LogFinding]:
    """Put into service, or the job closed, with less on it than its system has."""
    ends = [(life.in_at, "use") for life in b.service.get(log.part.id, ())]
    if b.ended is not None and b.ended.how == "closed" and not ends:
        ends.append((b.ended.at, "closed"))
    if not ends:
        return
    missing_now = _missing(b, log, facts, None)
    for at, how in ends[-1:]:
        missing = _missing(b, log, facts, at)
        if not missing:
            continue
        last = max((r for r in log.records if r.started_at <= at), key=lambda r: r.started_at, default=None)
        top = None if last is None else log.sheets[log.records.index(last)]
        severity = (
            "ruins" if top is not None and never_ends(top) else "risks" if last or how == "use" else "note"
        )
        met = None if missing_now else max(r.done_at or r.started_at for r in log.records)
        yield LogFinding(
            code="system.unfinished",
            severity=severity,  # type: ignore[arg-type]
            part_id=log.part.id,
            coat_id="" if last is None else last.coat_id,
            at=at,
            values={"names": missing, "how": how},
            why=PRACTICE,
            met_at=met,
        )


def never_ends(sheet: Sheet) -> bool:
    """Whether nothing may end with it: it wants another coat over it."""
    purpose = sheet.purpose
    return sheet.properties.needs_cover or (purpose is not None and purpose.role == "colour")


def _missing(b: Accumulator, log: PartLog, facts: Facts, at: int | None) -> str:
    """Coats the system has and the part has not, up to an instant, as "2 × Clear coat"; "": none."""
    on = Counter(r.layer_id for r in log.records if at is None or r.started_at <= at)
    then = -1 if at is None else at
    for gone in b.coats.values():
        there = gone.part_id == log.part.id and gone.starts and gone.started_at <= then
        if there and gone.removed_at is not None and gone.removed_at > then:
            on[gone.layer_id] += 1  # it was on then, and came off later
    left = [(x.coats - on[x.id], facts.sheets[x.sheet_id].name) for x in facts.layers_of(log.part.id)]
    return ", ".join(f"{n} × {name}" for n, name in left if n > 0)


def _carried(log: PartLog) -> Iterator[LogFinding]:
    """Carried to another place before it could be handled, or out of doors before water does it no harm."""
    for at, place, _ in log.moves:
        i = max((k for k, r in enumerate(log.records) if r.started_at <= at), default=None)
        if i is None:
            continue
        record, sheet, done_at = log.records[i], log.sheets[i], log.state.films[i].done_at
        out = place in log.outdoors
        gates = ("water", "handle", "touch") if out else ("handle", "touch")
        gate = next((g for g in gates if sheet.points_for(g)), None)
        if gate is None or done_at is None:
            continue
        ready = reach_min(log.air, sheet_pace(sheet, sheet.points_for(gate), "min"), done_at, edge="fair")
        if ready is None or at < ready - CARRIED_S:
            values: Values = {"by_s": 0 if ready is None else ready - at, "gate": gate, "out": int(out)}
            severity = "risks" if out or _wet(log, sheet, done_at, at) else "note"
            yield of_coat(log, record, "moved.early", severity, at, values=values, why=PRACTICE)
            return


def _wet(log: PartLog, sheet: Sheet, done_at: int, at: int) -> bool:
    points = sheet.points_for("touch")
    touch = reach_min(log.air, sheet_pace(sheet, points, "min"), done_at, edge="fair") if points else done_at
    return touch is None or at < touch
