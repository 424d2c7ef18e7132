"""What the log says went wrong: findings on coats, batches, steps, air and gates, each with its limit.

A finding is a code and values; the interface has the words.  It comes and goes with the entries it
rests on: struck, read again or mended.  Rules are common practice, no published source, unless the
limit is the sheet's own; the tolerances below are assumed.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import UTC, date, datetime

from ..sheet import Component, Sheet
from ..stack.surfaces import RUSTS, SUBSTRATES
from ..why import Why
from .accumulator import Accumulator, BatchRecord, CoatRecord
from .amounts import planned_dry_um
from .drawn import share_ml
from .facts import Facts, Layer, Part
from .judged_air import judge_air, judge_breathing, judge_first_night, judge_heat, judge_open_air
from .judged_preparation import judge_preparation
from .judged_use import judge_use
from .part_log import PRACTICE, Held, PartLog, Values, of_coat
from .recoat_windows import Opening, reach_min, sheet_pace
from .states import Batch, Film, LogFinding

__all__ = ["judge_batch", "judge_part", "ordered"]

RATIO_OFF, RATIO_RUINS = 0.05, 0.15  # assumed: share by which a hardener may be off, and does ruin
SHORT_ML = 0.15  # assumed: share by which a mix may fall short of what its coats take
OVERDRAWN = 0.05  # assumed
THIN, THICK = 0.8, 1.25  # of the nominal film: the 80 % rule of ISO 19840; the upper one is assumed
SLIP = 0.02  # assumed: share of a wait within which nobody reads a clock
CLOCK_S = 60  # assumed: nor so finely
POLISHES = ("polish", "denib")
NEARLY = 0.10  # assumed: so small a share of the wait short is a note
BARE_METAL_S = 4 * 3600
COLOURS = ("base", "tint", "can")
_RANK = {"ruins": 0, "risks": 1, "note": 2}


def ordered(found: Iterator[LogFinding]) -> tuple[LogFinding, ...]:
    """Worst first, unmet before met, then as they happened."""
    return tuple(
        sorted(
            found,
            key=lambda f: (f.met_at is not None, _RANK[f.severity], f.at, f.code, f.part_id, f.coat_id),
        )
    )


def judge_part(b: Accumulator, log: PartLog, batches: Mapping[str, Batch]) -> Iterator[LogFinding]:
    """Everything to be said of one part's coats, in no particular order."""
    facts = b.facts
    assert facts is not None
    passed = _passed_thumb(b, log.part)
    for i, (record, film) in enumerate(zip(log.records, log.state.films, strict=True)):
        known, sheet = b.known.get(record.facts_id, facts), log.sheets[i]
        layer = next(x for x in known.layers if x.id == record.layer_id)
        if i:
            yield from _recoat(log, i)
        else:
            yield from _bare_metal(log, record)
        yield from judge_preparation(log, i, sheet, layer)
        for f in (*_pots(log, record, batches), *judge_air(log, film, record, sheet)):
            yield _met_by_thumb(f, passed)
        yield from _film(log, i, film, record, sheet, layer)
        yield from judge_open_air(log, film, record, sheet, known.methods[layer.method_id].id)
        yield from judge_heat(log, film, record, sheet)
        first = all(r.layer_id != record.layer_id for r in log.records[:i])
        yield from judge_breathing(log, record, sheet, first=first)
        yield from judge_first_night(log, i, film, record, sheet)
        yield from _sanded_early(log, i, film, sheet)
        if first and facts.plans_steps:
            yield from _no_mix(log, record, sheet)
    yield from judge_use(b, log, facts)
    yield from _whole(log, facts)
    yield from _lots(log, batches)
    yield from _fewer(b, log)
    yield from _gates(b, log)


#: what a hard film by the thumb puts right: it cured after all
_BY_THUMB = ("pot.old", "can.expired", "air.cold", "mix.ratio", "mix.thinned")


def _passed_thumb(b: Accumulator, part: Part) -> int | None:
    """When a gate of hardness was last tried on the part and passed."""
    checks = b.checks.get(part.id, {})
    return max(
        (at for gate in ("touch", "handle", "full") for at, ok in [checks.get(gate, (0, False))] if ok),
        default=None,
    )


def _met_by_thumb(f: LogFinding, passed: int | None) -> LogFinding:
    if f.code not in _BY_THUMB or f.severity == "ruins" or passed is None or passed < f.at:
        return f
    return replace(f, met_at=passed)


# Coats ----------------------------------------------------------------------------------------------


def _recoat(log: PartLog, i: int) -> Iterator[LogFinding]:
    """The coat on top, against the window of the one below: what holds whatever the air really was."""
    record, lower, held = log.records[i], log.state.films[i - 1], log.held[i - 1]
    if held is None:
        return
    start = record.started_at
    why = lower.spans[-1].why if lower.spans else PRACTICE
    inside = next((o for o in held.opens if _inside(o, start)), None)
    over = held.last_close is not None and held.last_close < start
    if inside is not None and not (over and inside.word == "open_sanded"):
        return
    if inside is not None and held.last_close is not None:
        # Sanded because its time was over; sanded as the list has it is no remedy, it is the work.
        if not _keyed_as_listed(log, i):
            values: Values = {"by_s": inside.from_at - held.last_close}
            at = inside.from_at
            yield of_coat(log, record, "coat.late", "ruins", start, values=values, why=why, met_at=at)
        return
    opens_at = min(
        (o.from_at for o in held.opens if o.from_at > start and o.word != "open_sanded"), default=None
    )
    if opens_at is None and over:
        keyed_to = [o.to_at for o in held.opens if o.word == "open_sanded" and o.to_at and o.to_at < start]
        by_s = start - max([held.last_close or 0, *keyed_to])
        grace_s = max(CLOCK_S, SLIP * ((held.last_close or start) - lower.started_at))
        if by_s > grace_s and not _keyed_as_listed(log, i):
            yield of_coat(log, record, "coat.late", "ruins", start, values={"by_s": by_s}, why=why)
        return
    yield from _too_soon(log, record, held, opens_at, why)


def _too_soon(
    log: PartLog, record: CoatRecord, held: Held, opens_at: int | None, why: Why
) -> Iterator[LogFinding]:
    """Before its window; `opens_at`: None where it never opens, or the sheet gives none."""
    start = record.started_at
    wet = not held.wet_in_wet and (held.tacky_at is None or start < held.tacky_at)
    until = opens_at
    if until is None:
        if not wet:
            return  # the sheet gives no window for this: there is nothing to hold it against
        until = held.tacky_at
    by_s = 0 if until is None else until - start
    wait_s = max(1, (until or start) - held.done_at)
    if until is not None and by_s <= max(CLOCK_S, SLIP * wait_s):
        return  # nobody reads a clock so finely
    values: Values = {"by_s": by_s, "wait_s": wait_s}
    if any(_inside(o, start) for o in held.real):
        # Early by the table alone: it was warmer than the table goes, and a minimum shortens in fact.
        yield of_coat(log, record, "coat.early", "note", start, values=values, why=why)
    elif wet:
        yield of_coat(log, record, "coat.on_wet", "ruins", start, values=values, why=why)
    else:
        severity = "note" if by_s <= NEARLY * wait_s else "risks"
        yield of_coat(log, record, "coat.early", severity, start, values=values, why=why)


def _inside(o: Opening, at: int) -> bool:
    return o.from_at <= at and (o.to_at is None or at <= o.to_at)


def _keyed_as_listed(log: PartLog, i: int) -> bool:
    """Whether the list has the film below keyed before this coat, and the log says that it was."""
    record, since = log.records[i], log.records[i - 1].started_at
    keys = {w.key for w in log.listed if w.kind == "abrade"}
    return any(d.held and d.check_id in keys and since <= d.at <= record.started_at for d in log.deeds)


#: steps that leave metal bright
BRIGHT = ("abrade", "blast", "steel_grit", "scuff", "wet_sand", "wire_brush", "rinse_ph", "deoxidise")


def _bare_metal(log: PartLog, record: CoatRecord) -> Iterator[LogFinding]:
    ground = SUBSTRATES.get(log.ground_id)
    if ground is None or ground.metal not in RUSTS or ground.rust:
        return
    steps = {w.key: w.step for w in log.listed}
    bright = [
        d.at
        for d in log.deeds
        if d.held
        and d.at <= record.started_at
        and (steps.get(d.check_id or "") in BRIGHT or d.word == "abrade")
    ]
    over_s = record.started_at - max(bright) - BARE_METAL_S if bright else 0
    if over_s > SLIP * BARE_METAL_S:
        values: Values = {"by_s": over_s, "limit_s": BARE_METAL_S}
        yield of_coat(log, record, "metal.bare", "risks", record.started_at, values=values, why=PRACTICE)


def _pots(log: PartLog, record: CoatRecord, batches: Mapping[str, Batch]) -> Iterator[LogFinding]:
    start = record.started_at
    for batch_id in sorted(record.batch_ids | {d[1] for d in record.draws}):
        batch = batches.get(batch_id)
        if batch is None:
            continue
        if batch.sheet_id and batch.sheet_id != record.sheet_id:
            yield of_coat(log, record, "coat.wrong_material", "ruins", start, batch_id=batch_id, why=PRACTICE)
        why = Why(kind="sheet", ref="pot life")
        sheet = next((x for x in log.sheets if x.id == record.sheet_id), None)
        stands_s = sheet.induction_s if sheet is not None and batch.hardener_in_at is not None else 0
        ready_at = (batch.hardener_in_at or 0) + stands_s
        if stands_s and start < ready_at - max(CLOCK_S, SLIP * stands_s):
            yield of_coat(
                log, record, "mix.induction", "risks", start, batch_id=batch_id,
                values={"by_s": ready_at - start, "limit_s": stands_s},
                why=Why(kind="sheet", ref="induction"),
            )  # fmt: skip
        if batch.gels_at is not None and start > batch.gels_at:
            values: Values = {"by_s": start - batch.gels_at}
            yield of_coat(
                log, record, "pot.gelled", "ruins", start, batch_id=batch_id, values=values, why=why
            )
        elif batch.use_by_at is not None and start > batch.use_by_at:
            values = {"by_s": start - batch.use_by_at}
            yield of_coat(log, record, "pot.old", "risks", start, batch_id=batch_id, values=values, why=why)


def _no_mix(log: PartLog, record: CoatRecord, sheet: Sheet) -> Iterator[LogFinding]:
    """A coat of what is mixed in a cup, and no mix on the log for it: said once a layer."""
    in_cups = sheet.properties.two_pack and any(c.role == "hardener" for c in sheet.components)
    own = [r for r in log.records if r.layer_id == record.layer_id]
    if in_cups and not any(r.batch_ids or r.draws for r in own):
        yield of_coat(log, record, "mix.unlogged", "note", record.started_at, why=PRACTICE)


def _film(
    log: PartLog, i: int, film: Film, record: CoatRecord, sheet: Sheet, layer: Layer
) -> Iterator[LogFinding]:
    """Film by the gauge, the comb or what was drawn, against what was meant and what the sheet allows."""
    planned = planned_dry_um(layer, sheet)
    if sheet.film is None or planned is None:
        return
    why = Why(kind="sheet", ref=sheet.name)
    values: Values
    if film.n > sheet.film.coats_max:
        values = {"n": film.n, "limit": sheet.film.coats_max}
        yield of_coat(log, record, "film.coats", "risks", film.started_at, values=values, why=why)
    if film.dry_um is None or film.dry_from == "plan" or film.done_at is None:
        return
    um = film.dry_um.likely
    values = {"um": um, "nominal_um": round(planned, 1), "by": film.dry_from}
    if um < THIN * planned:
        rule = Why(kind="standard", ref="ISO 19840: no reading under 80 % of nominal")
        more = [f for f in log.state.films[i + 1 :] if f.layer_id == layer.id and f.n > layer.coats]
        met = next((f.done_at for f in more if f.done_at is not None), None)  # one coat more than planned
        at = film.started_at
        yield of_coat(log, record, "film.thin", "risks", at, values=values, why=rule, met_at=met)
    most = max(THICK * sheet.film.dry_um_max, THICK * planned)
    if um > most:
        values = {**values, "limit_um": sheet.film.dry_um_max}
        yield of_coat(log, record, "film.thick", "risks", film.started_at, values=values, why=why)


def _sanded_early(log: PartLog, i: int, film: Film, sheet: Sheet) -> Iterator[LogFinding]:
    """Sanded or polished before the film was hard enough for it."""
    points = sheet.points_for("sand")
    if film.done_at is None or not points:
        return
    until = log.records[i + 1].started_at if i + 1 < len(log.records) else None
    ready = reach_min(log.air, sheet_pace(sheet, points, "min"), film.done_at, edge="fair")
    steps = {w.key: w.step for w in log.all_works}
    for d in log.deeds:
        step = steps.get(d.check_id or "", "")
        works = d.word == "abrade" or step in POLISHES
        if not works or not (d.at > film.done_at and (until is None or d.at <= until)):
            continue
        by_s = 0 if ready is None else ready - d.at
        if ready is None or by_s > max(CLOCK_S, SLIP * (ready - film.done_at)):
            code = "polished.early" if step in POLISHES else "sanded.early"
            yield of_coat(
                log, log.records[i], code, "risks", d.at, values={"by_s": by_s},
                why=Why(kind="sheet", ref=sheet.name),
            )  # fmt: skip
            return


# The part -------------------------------------------------------------------------------------------


def _whole(log: PartLog, facts: Facts) -> Iterator[LogFinding]:
    """What hangs on the part as a whole: checks, and the film of each material in all."""
    if not log.records:
        return
    first = log.records[0]
    if log.unticked:
        values: Values = {"names": ", ".join(log.unticked)}
        yield of_coat(log, first, "steps.unticked", "risks", first.started_at, values=values, why=PRACTICE)
    totals: dict[str, float] = {}
    for film in log.state.films:
        if film.dry_um is not None and film.dry_from != "plan":
            totals[film.sheet_id] = totals.get(film.sheet_id, 0.0) + film.dry_um.likely
    for sheet_id, um in totals.items():
        sheet = facts.sheets.get(sheet_id)
        if sheet is not None and sheet.film is not None and um > THICK * sheet.film.total_max_um:
            last = next(r for r in reversed(log.records) if r.sheet_id == sheet_id)
            values = {"um": round(um, 1), "limit_um": sheet.film.total_max_um}
            why = Why(kind="sheet", ref=sheet.name)
            yield of_coat(log, last, "film.total", "risks", last.started_at, values=values, why=why)


def _fewer(b: Accumulator, log: PartLog) -> Iterator[LogFinding]:
    """Coats left out by a word on the job: it may cover, and still be less film than the system has."""
    for record in {r.layer_id: r for r in log.records}.values():
        n = b.coats_set.get(record.layer_id)
        layer = next((x for f in b.known.values() for x in f.layers if x.id == record.layer_id), None)
        if n is not None and layer is not None and n < layer.coats:
            values: Values = {"n": n, "planned": layer.coats}
            yield of_coat(log, record, "coats.fewer", "note", record.started_at, values=values, why=PRACTICE)


def _lots(log: PartLog, batches: Mapping[str, Batch]) -> Iterator[LogFinding]:
    """Colour out of cans of two lots on one part: two lots are never quite one shade, unless boxed."""
    for sheet in {x.id: x for x in log.sheets}.values():
        if "colour" not in sheet.properties.gives:
            continue
        lots: dict[str, dict[str, CoatRecord]] = {}
        for record in log.records:
            for batch_id in sorted(record.batch_ids if record.sheet_id == sheet.id else ()):
                for p in batches[batch_id].poured if batch_id in batches else ():
                    if p.role in COLOURS and p.can is not None and p.can.lot:
                        lots.setdefault(p.role, {}).setdefault(p.can.lot, record)
        for role, cans in lots.items():
            if len(cans) > 1:
                last = max(cans.values(), key=lambda r: r.started_at)
                values: Values = {"lots": ", ".join(sorted(cans)), "role": role}
                at = last.started_at
                yield of_coat(log, last, "can.lots_differ", "note", at, values=values, why=PRACTICE)


def _gates(b: Accumulator, log: PartLog) -> Iterator[LogFinding]:
    """Unmasked, and put into use, before the part was ready for it, or too late."""
    if not log.records:
        return
    last = log.records[-1]
    gates = {g.name: g for g in log.state.gates}
    tape, off = gates.get("unmask_from"), log.state.unmasked_at
    if tape is not None and off is not None and last.done_at is not None and off > last.done_at:
        early_at = tape.early_at if tape.early_at is not None else tape.likely_at
        if early_at is not None and tape.likely_at is not None and off < early_at - CLOCK_S:
            yield of_coat(
                log, last, "unmasked.early", "risks", off, values={"by_s": tape.likely_at - off}, why=tape.why
            )
        elif tape.closes_at is not None and off > tape.closes_at + max(
            CLOCK_S, SLIP * (tape.closes_at - last.done_at)
        ):
            yield of_coat(
                log, last, "unmasked.late", "risks", off, values={"by_s": off - tape.closes_at}, why=tape.why
            )
    wet = "immersion" in log.part.must_survive
    names = ("immerse_from",) if wet else ("use", "handle")
    for life in b.service.get(log.part.id, ()):
        gate = next((gates[n] for n in names if n in gates), None)
        if gate is None or life.in_at < last.started_at:
            continue
        if gate.likely_at is None or life.in_at < (gate.early_at or gate.likely_at) - CLOCK_S:
            by_s = 0 if gate.likely_at is None else gate.likely_at - life.in_at
            severity = "ruins" if wet else "risks"
            yield of_coat(
                log,
                last,
                "service.early",
                severity,
                life.in_at,
                values={"by_s": by_s, "gate": gate.name},
                why=gate.why,
            )


# Batches --------------------------------------------------------------------------------------------


def judge_batch(b: Accumulator, record: BatchRecord, batch: Batch) -> Iterator[LogFinding]:
    """A mix against its sheet: ratio, thinner, and whether it can have made the films put down to it."""
    facts = b.facts
    sheet = next((f.sheets[record.sheet_id] for f in b.known.values() if record.sheet_id in f.sheets), None)
    if facts is None or sheet is None or not (record.mixed is not None or batch.coat_ids):
        return
    at = record.mixed_at or min((p.at for p in record.pours), default=0)
    coats = [c for c in b.coats.values() if c.coat_id in batch.coat_ids and c.starts and c.removed_at is None]
    part_id = coats[0].part_id if coats else ""
    part = next((p for p in facts.parts if p.id == part_id), None)
    passed = None if part is None else _passed_thumb(b, part)

    def found(code: str, severity: str, why: Why, **values: float | int | str) -> LogFinding:
        made = LogFinding(
            code=code, severity=severity, part_id=part_id, batch_id=batch.batch_id,  # type: ignore[arg-type]
            at=at, values=values, why=why, until_at=batch.gels_at,
        )  # fmt: skip
        return _met_by_thumb(made, passed)

    why = Why(kind="sheet", ref=sheet.name)
    got = _amounts(record, batch, sheet)
    want: dict[str, Component] = {c.role: c for c in sheet.components if c.of == "ratio"}
    base = next((r for r in ("base", "can", "filler") if r in want), "")
    if "hardener" in want and got.get(base):
        asked = want["hardener"].parts / want[base].parts
        share = got.get("hardener", 0.0) / got[base]
        off = share / asked - 1
        if abs(off) > RATIO_OFF:
            severity = "ruins" if abs(off) > RATIO_RUINS else "risks"
            yield found(
                "mix.ratio", severity, why, wanted=round(asked, 4), got=round(share, 4), off=round(off, 3)
            )
    for c in sheet.components:
        if c.role in ("base", "can", "hardener") or c.role == base or not got.get(base):
            continue
        whole = got[base] + (got.get("hardener", 0.0) if c.of == "mix" else 0.0)
        share, asked = got.get(c.role, 0.0) / whole, c.parts
        if c.of == "ratio":
            asked = c.parts / want[base].parts
        if share > asked * (1 + RATIO_RUINS):
            yield found("mix.thinned", "risks", why, role=c.role, got=round(share, 3), limit=round(asked, 3))
        elif c.of == "ratio" and share < asked * (1 - RATIO_RUINS):
            severity = "risks" if share < asked / 2 else "note"
            yield found("mix.short", severity, why, role=c.role, got=round(share, 3), limit=round(asked, 3))
    for p in batch.poured:
        if p.can is not None and p.can.of and p.can.of != batch.sheet_id:
            severity = "ruins" if p.role == "hardener" else "risks"
            yield found("pour.wrong_product", severity, PRACTICE, role=p.role, product=p.can.product)
        if p.can is not None and (days := _days_expired(p.can.expires_on, p.at)) > 0:
            severity = "risks" if p.role in ("hardener", "can") else "note"
            yield found("can.expired", severity, why, role=p.role, lot=p.can.lot, days=days)
    if batch.total_ml <= 0:
        return
    draws = {(d[0], d[2]) for c in coats for d in c.draws if d[1] == batch.batch_id}
    drawn = sum(ml for _, ml in draws)
    if drawn > batch.total_ml * (1 + OVERDRAWN):
        yield found("mix.overdrawn", "note", PRACTICE, drawn_ml=round(drawn), mixed_ml=round(batch.total_ml))
    need = drawn + sum(share_ml(facts, c) for c in coats if not c.draws and c.dones)
    if not drawn and not batch.left_told and need > batch.total_ml * (1 + SHORT_ML):
        share = batch.total_ml / need
        yield found(
            "film.volume", "risks", Why(kind="computed", ref="volume mixed against volume the coats take"),
            mixed_ml=round(batch.total_ml), needed_ml=round(need), share=round(share, 2),
        )  # fmt: skip


def _days_expired(expires_on: str, at: int) -> int:
    """Whole days since the last day a can was good [d], by the calendar of UTC; 0: none, or not said."""
    if not expires_on:
        return 0
    poured_on = datetime.fromtimestamp(at, UTC).date()
    return max(0, (poured_on - date.fromisoformat(expires_on)).days)


def _amounts(record: BatchRecord, batch: Batch, sheet: Sheet) -> dict[str, float]:
    """How much of each component went in, in the measure its ratio is in; a mix that is stated wins."""
    by = {c.role: (c.by, c.density_g_per_ml) for c in sheet.components}
    rows: list[tuple[str, float | None, float | None]] = [(p.role, p.ml, p.g) for p in batch.poured]
    if record.mixed is not None and any(p.ml is not None or p.g is not None for p in record.mixed.parts):
        rows = [(p.role, p.ml, p.g) for p in record.mixed.parts]
    out: dict[str, float] = {}
    for role, ml, g in rows:
        if role not in by:
            continue
        measure, rho = by[role]
        if measure == "volume":
            value = ml if ml is not None else (g or 0.0) / rho
        else:
            value = g if g is not None else (ml or 0.0) * rho
        out[role] = out.get(role, 0.0) + value
    return out
