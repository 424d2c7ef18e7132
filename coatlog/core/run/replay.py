"""replay(facts, plans, entries, climate) -> JobState: the one reading of the log.

Total: no multiset of entries makes it raise.  Entries are put in order, struck ones set aside, the
rest folded into a private builder, which is frozen once.  `now` plays no part; `view` picks.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from .. import CORE_VERSION
from ..care_plans import answered_by_look
from ..errors import CoreError
from ..why import Why
from .accumulator import Accumulator, Deed, PourRecord
from .entries import (
    BODIES,
    Archived,
    BatchClosed,
    BatchMixed,
    Cleaned,
    ClimateRead,
    CoatDone,
    CoatPaused,
    CoatRemoved,
    CoatsSet,
    CoatStarted,
    Defect,
    Entry,
    FactsAdopted,
    FilmRead,
    GateChecked,
    HeatSet,
    InService,
    Inspected,
    JobEnded,
    JobReopened,
    Moved,
    PlanAdopted,
    PourBody,
    StepDone,
    TouchedUp,
    Unmasked,
    read_body,
    read_grit,
)
from .facts import Facts
from .in_service import LOOK, Cleaning, Inspection, ServiceRecord
from .log_order import clock_jumps, in_order, live_ids
from .parts import freeze_job
from .states import Ended, Flag, JobState, LedgerLine, LogFinding
from .timeline import Climate, Reading

__all__ = ["replay"]


def replay(
    facts: Mapping[str, Facts],
    plans: Mapping[str, object],
    entries: Iterable[Entry],
    climate: Climate,
    *,
    job_id: str = "",
) -> JobState:
    """State of a job from its log.

    Parameters
    ----------
    facts, plans : mapping
        Every version the log may name, by id.
    entries : iterable of Entry
        The job's own and those of the batches it draws from, in any order, with repeats.
    climate : Climate
        Readings of the places, temperatures in degC.

    Returns
    -------
    JobState
        All instants are UTC epoch seconds.  Never raises on entries.
    """
    ordered = in_order(entries)
    standing, ring = live_ids(ordered)
    live = [e for e in ordered if e.id in standing]
    jumps = clock_jumps(live)
    # Facts first: an entry may be older than the version of the facts that explains it.
    adopted = [e for e in live if e.kind == "facts_adopted"]
    builder = Accumulator(job_id=job_id, known=facts)
    ledger: dict[str, LedgerLine] = {}
    for e in adopted + [e for e in live if e.kind != "facts_adopted"]:
        ledger[e.id] = _apply(builder, e, jumps.get(e.id), plans)
    for e in ordered:
        if e.id in ring:
            ledger[e.id] = LedgerLine(entry_id=e.id, outcome="flagged", reason="entries void each other")
        elif e.id not in standing:
            ledger[e.id] = LedgerLine(entry_id=e.id, outcome="struck")
    for e in live:
        if e.id in jumps:
            by_s = jumps[e.id] - e.at_true
            builder.found.append(
                LogFinding(
                    code="log.clock",
                    severity="note",
                    entry_id=e.id,
                    at=e.at_true,
                    values={"by_s": by_s},
                    why=Why(kind="computed", ref="the device's own counter"),
                )
            )
    frozen = freeze_job(builder, climate, now_ref=max((e.at_true for e in live), default=0))
    return JobState(
        job_id=job_id,
        core_version=CORE_VERSION,
        through_seq=max((e.seq for e in ordered), default=0),
        facts_id=builder.facts.id if builder.facts else None,
        plan_id=builder.plan_id,
        climate_id=climate.id,
        coats=builder.coats_set,
        archived=builder.archived,
        ledger=tuple(ledger[e.id] for e in ordered),
        **frozen,
    )


@dataclass(frozen=True, slots=True)
class Told:
    """An entry as a handler meets it: `late_at` is its time, or the later one its device had read before."""

    entry: Entry
    late_at: int
    plans: Mapping[str, object]


def _apply(b: Accumulator, e: Entry, jumped_from: int | None, plans: Mapping[str, object]) -> LedgerLine:
    if e.kind not in BODIES:
        return LedgerLine(entry_id=e.id, outcome="unknown_kind")
    try:
        body = read_body(e.kind, e.body)
    except CoreError as refusal:
        return LedgerLine(entry_id=e.id, outcome="flagged", reason=f"malformed: {refusal.field}")
    late_at = e.at_true if jumped_from is None else jumped_from
    reason = _HANDLERS[e.kind](b, Told(e, late_at, plans), body)
    if reason is None:
        return LedgerLine(entry_id=e.id, outcome="applied")
    b.flags.append(Flag(code=e.kind, text=reason, entry_id=e.id))
    return LedgerLine(entry_id=e.id, outcome="flagged", reason=reason)


def _facts_adopted(b: Accumulator, told: Told, body: FactsAdopted) -> str | None:
    if body.facts_id not in b.known:
        return "unknown version of the coating system"
    b.facts = b.known[body.facts_id]
    for part in b.facts.parts:
        # The first version says where a part was from the beginning, a later one from when it was adopted.
        at = told.entry.at_true if part.id in b.places else 0
        b.stands(part.id, at, part.place_id)
    return None


def _plan_adopted(b: Accumulator, told: Told, body: PlanAdopted) -> str | None:
    if body.plan_id not in told.plans:
        return "this plan is not known here"
    b.plan_id = body.plan_id
    return None


def _step_done(b: Accumulator, told: Told, body: StepDone) -> str | None:
    b.steps.append((told.entry.at_true, body.step, body.part_ids))
    b.deeds.append(_deed(told, body, held=True))
    if body.check_id is not None:
        b.step_checks.append((body.check_id, True, body.part_ids))
    return None


def _deed(told: Told, body: StepDone, *, held: bool) -> Deed:
    return Deed(told.entry.at_true, body.part_ids, body.step, body.check_id, read_grit(body.grit), held)


def _step_failed(b: Accumulator, told: Told, body: StepDone) -> str | None:
    """A check that does not hold: the step is as if it had not been done, and is to be done again."""
    b.deeds.append(_deed(told, body, held=False))
    for part_id in body.part_ids:
        b.failed[part_id, body.step] = len(b.steps)
    if body.check_id is not None:
        b.step_checks.append((body.check_id, False, body.part_ids))
    return None


def _pour(b: Accumulator, told: Told, body: PourBody) -> str | None:
    record = b.batch(body.batch_id, body.sheet_id)
    e = told.entry
    record.pours.append(PourRecord(body.component, body.ml, body.scale_g, e.at_true, e.id, body.can))
    return None


def _batch_mixed(b: Accumulator, told: Told, body: BatchMixed) -> str | None:
    record = b.batch(body.batch_id, body.sheet_id)
    if record.mixed is not None:
        return "this batch was already mixed"
    record.mixed, record.mixed_at = body, told.entry.at_true
    return None


def _batch_closed(b: Accumulator, told: Told, body: BatchClosed) -> str | None:
    record = b.batch(body.batch_id, "")
    record.closed_at, record.left_ml, record.left_g = told.entry.at_true, body.left_ml, body.left_g
    return None


def _coat_started(b: Accumulator, told: Told, body: CoatStarted) -> str | None:
    for ref in body.coats:
        layer = b.layer(body.facts_id, ref.layer_id)
        if layer is None or layer.part_id != ref.part_id:
            return "no such part and layer in this job"
        record = b.coat(ref.coat_id)
        record.part_id, record.layer_id, record.sheet_id = ref.part_id, layer.id, layer.sheet_id
        record.facts_id = body.facts_id if body.facts_id in b.known else (b.facts.id if b.facts else "")
        record.n = ref.n
        record.starts.append((told.entry.at_true, told.entry.id))
        record.batch_ids |= set(body.batch_ids)
        record.masks.append((body.breathing, body.sensitised))
        if body.place_id:
            b.stands(ref.part_id, told.entry.at_true, body.place_id)
    return None


def _moved(b: Accumulator, told: Told, body: Moved) -> str | None:
    for part_id in body.part_ids:
        b.stands(part_id, told.entry.at_true, body.place_id)
        b.moves.append((told.entry.at_true, part_id, body.place_id, told.entry.id))
    return None


def _coat_paused(b: Accumulator, told: Told, body: CoatPaused) -> str | None:
    b.coat(body.coat_id).pauses.append((told.entry.order(), told.entry.kind == "coat_paused"))
    return None


def _coat_done(b: Accumulator, told: Told, body: CoatDone) -> str | None:
    for coat_id in body.coat_ids:
        record = b.coat(coat_id)
        record.dones.append((told.entry.at_true, told.late_at, told.entry.id))
        # One draw for four wheels: shared by area when the coats are frozen.
        record.draws += [(body.coat_ids, d.batch_id, d.ml) for d in body.draws]
    return None


def _coat_removed(b: Accumulator, told: Told, body: CoatRemoved) -> str | None:
    for coat_id in body.coat_ids:
        b.coat(coat_id).removed_at = told.entry.at_true
    for part_id in {b.coat(c).part_id for c in body.coat_ids}:
        life = b.life(part_id)
        if life is not None and not b.has_coats(part_id):
            life.ended = (told.entry.at_true, body.how, body.was)
    return None


def _coats_set(b: Accumulator, told: Told, body: CoatsSet) -> str | None:
    layer = b.layer("", body.layer_id)
    if layer is None or layer.part_id != body.part_id:
        return "no such part and layer in this job"
    b.coats_set[body.layer_id] = body.coats
    return None


def _heat_set(b: Accumulator, told: Told, body: HeatSet) -> str | None:
    for part_id in body.part_ids:
        b.heat.setdefault(part_id, []).append((told.entry.at_true, body.surface_degc if body.on else None))
    return None


def _archived(b: Accumulator, told: Told, body: Archived) -> str | None:
    b.archived = body.archived
    return None


def _in_service(b: Accumulator, told: Told, body: InService) -> str | None:
    fresh = [p for p in dict.fromkeys(body.part_ids) if b.life(p) is None]
    for part_id in fresh:
        record = ServiceRecord(told.entry.at_true, body.claim.life_s, body.claim.text, [], [], [])
        b.service.setdefault(part_id, []).append(record)
    return None if fresh else "already in service"


def _in_use(b: Accumulator, body: Inspected | Cleaned | TouchedUp) -> list[ServiceRecord]:
    return [life for p in dict.fromkeys(body.part_ids) if (life := b.life(p)) is not None]


def _inspected(b: Accumulator, told: Told, body: Inspected) -> str | None:
    lives = _in_use(b, body)
    rating = body.ratings[0].value if body.ratings else None
    for life in lives:
        life.inspections.append(
            Inspection(
                at=told.entry.at_true,
                rating=rating,
                note=body.note,
                entry_id=told.entry.id,
                photo_ids=body.photo_ids,
            )
        )
        if body.care_key:
            life.done.append((told.entry.at_true, body.care_key))
        if not body.care_key or answered_by_look(body.care_key):
            life.done.append((told.entry.at_true, LOOK))
    return None if lives else "not in service"


def _cleaned(b: Accumulator, told: Told, body: Cleaned) -> str | None:
    lives = _in_use(b, body)
    for life in lives:
        key = body.care_key or ""
        life.cleanings.append(
            Cleaning(at=told.entry.at_true, how=body.how, care_key=key, entry_id=told.entry.id)
        )
        if key:
            life.done.append((told.entry.at_true, key))
    return None if lives else "not in service"


def _touched_up(b: Accumulator, told: Told, body: TouchedUp) -> str | None:
    lives = _in_use(b, body)
    for life in lives:
        life.touched.append(told.entry.at_true)
    return None if lives else "not in service"


def _film_read(b: Accumulator, told: Told, body: FilmRead) -> str | None:
    if body.what == "dry_total":
        if not body.um:
            return "a gauge reading without a value"
        b.totals.setdefault(body.part_id, []).append((told.entry.at_true, body.um))
        return None
    if body.low_um is None or body.high_um is None or body.coat_id is None:
        return "A wet film reading needs the coat, the last wet tooth and the first dry tooth."
    b.coat(body.coat_id).combs.append((body.low_um, body.high_um))
    return None


def _climate_read(b: Accumulator, told: Told, body: ClimateRead) -> str | None:
    reading = Reading(
        at=told.entry.at_true,
        air_degc=body.air_degc,
        surface_degc=body.surface_degc,
        rh_frac=body.rh_frac,
        source="hand",
        part_id=body.part_id,
        wind_m_s=body.wind_m_s,
    )
    b.hand.append((body.place_id, reading))
    return None


def _gate_checked(b: Accumulator, told: Told, body: GateChecked) -> str | None:
    b.checks.setdefault(body.part_id, {})[body.gate] = (told.entry.at_true, body.passed)
    return None


def _unmasked(b: Accumulator, told: Told, body: Unmasked) -> str | None:
    for part_id in body.part_ids:
        b.unmasked[part_id] = told.entry.at_true
    if body.result == "clean":
        return None
    for part_id in body.part_ids:
        b.found.append(
            LogFinding(
                code="edge.ragged" if body.result == "ragged" else "edge.lifted",
                severity="note" if body.result == "ragged" else "risks",
                part_id=part_id,
                entry_id=told.entry.id,
                at=told.entry.at_true,
                values={"cut": body.cut},
                why=Why(kind="measured", ref="looked at when the tape came off"),
            )
        )
    return None


def _defect(b: Accumulator, told: Told, body: Defect) -> str | None:
    b.flags.append(Flag(code="defect", text=body.type, entry_id=told.entry.id, part_id=body.part_id))
    return None


def _job_ended(b: Accumulator, told: Told, body: JobEnded) -> str | None:
    b.ended = Ended(at=told.entry.at_true, how=body.how, reason=body.reason)
    return None


def _job_reopened(b: Accumulator, told: Told, body: JobReopened) -> str | None:
    if b.ended is None:
        return "the job was not closed"
    b.ended = None
    return None


def _noted(b: Accumulator, told: Told, body: object) -> str | None:
    return None


_HANDLERS: dict[str, Callable[[Accumulator, Told, Any], str | None]] = {
    "facts_adopted": _facts_adopted,
    "plan_adopted": _plan_adopted,
    "step_done": _step_done,
    "step_failed": _step_failed,
    "pour": _pour,
    "batch_mixed": _batch_mixed,
    "batch_closed": _batch_closed,
    "coat_started": _coat_started,
    "moved": _moved,
    "coat_paused": _coat_paused,
    "coat_resumed": _coat_paused,
    "coat_done": _coat_done,
    "coat_removed": _coat_removed,
    "coats_set": _coats_set,
    "heat_set": _heat_set,
    "archived": _archived,
    "film_read": _film_read,
    "climate_read": _climate_read,
    "gate_checked": _gate_checked,
    "unmasked": _unmasked,
    "defect": _defect,
    "note": _noted,
    "damage_found": _noted,
    "in_service": _in_service,
    "inspected": _inspected,
    "cleaned": _cleaned,
    "touched_up": _touched_up,
    "overruled": _noted,
    "job_ended": _job_ended,
    "job_reopened": _job_reopened,
    "corrected": _noted,
    "strike": _noted,
}
