"""Freezing a batch: what was poured, what is left of it, and how long it lives."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping, Sequence

from ..mix import mixed_solids, pot_points
from ..sheet import Sheet
from ..why import computed
from .accumulator import Accumulator, BatchRecord, CoatRecord
from .amounts import coat_ml
from .facts import Facts
from .recoat_windows import reach_max, sheet_pace
from .states import Batch, Clock, PouredPart
from .timeline import Timeline

__all__ = ["freeze_batch", "pot_clock"]


def freeze_batch(b: Accumulator, record: BatchRecord, air: Timeline) -> Batch:
    """A batch from what was said of it: poured, drawn, left [ml], and its life in this air, or warmer."""
    sheet = next((f.sheets[record.sheet_id] for f in b.known.values() if record.sheet_id in f.sheets), None)
    poured = _poured(record, _densities(sheet))
    total_ml, hardener_at = _in_cup(record, poured, _densities(sheet))
    warm = record.mixed.mix_degc if record.mixed is not None else None
    if warm is not None and hardener_at is not None:
        air = air.heated(hardener_at, warm)  # a cold mix warms up to its air; a warm one is held to be warm
    use_by_at, gels_at = _life(sheet, air, hardener_at)
    coats = _coats_from(b, record.batch_id)
    told_ml = _left_told_ml(record, poured, total_ml)
    left_ml = max(0.0, total_ml - _drawn_ml(b.facts, coats, record.batch_id)) if told_ml is None else told_ml
    return Batch(
        batch_id=record.batch_id,
        sheet_id=record.sheet_id,
        poured=poured,
        mixed=record.mixed is not None,
        total_ml=round(total_ml, 1),
        left_ml=round(left_ml, 1),
        left_told=told_ml is not None,
        solids_frac=_solids_frac(record, poured, sheet),
        hardener_in_at=hardener_at,
        use_by_at=use_by_at,
        gels_at=gels_at,
        closed_at=record.closed_at,
        coat_ids=tuple(sorted(c.coat_id for c in coats)),
    )


def _densities(sheet: Sheet | None) -> dict[str, float]:
    """Density of each component [g/ml]; nothing for a material that is not known."""
    return {c.role: c.density_g_per_ml for c in sheet.components} if sheet else {}


def _poured(record: BatchRecord, density: Mapping[str, float]) -> tuple[PouredPart, ...]:
    """What is in the cup, pour by pour: the scale shows all of it, so each pour is what it rose by."""
    out = []
    scale_before = 0.0
    for role, ml, scale_g, at, entry_id, can in sorted(record.pours, key=lambda p: (p.at, p.entry_id)):
        rho = density.get(role, 1.0)
        own_g = max(0.0, scale_g - scale_before) if scale_g is not None else (ml or 0.0) * rho
        own_ml = ml if ml is not None else own_g / rho
        scale_before += own_g
        ml, g = round(own_ml, 2), round(own_g, 2)
        out.append(PouredPart(role=role, ml=ml, g=g, at=at, entry_id=entry_id, can=can))
    return tuple(out)


def _left_told_ml(record: BatchRecord, poured: Sequence[PouredPart], total_ml: float) -> float | None:
    """What was left when it was closed [ml], never more than was in it; None: nobody looked."""
    if record.left_ml is not None:
        return min(record.left_ml, total_ml) if total_ml > 0 else record.left_ml
    poured_ml, poured_g = sum(p.ml for p in poured), sum(p.g for p in poured)
    if record.left_g is None or poured_g <= 0:
        return None
    return min(record.left_g * poured_ml / poured_g, total_ml)


def _solids_frac(record: BatchRecord, poured: Sequence[PouredPart], sheet: Sheet | None) -> float | None:
    """Volume solids of the mix as it was really poured, thinner and all; None: not known."""
    if sheet is None:
        return None
    solids: dict[str, float] = {c.role: c.solids_frac for c in sheet.components}
    density = _densities(sheet)
    rows: list[tuple[str, float]] = [(p.role, p.ml) for p in poured]
    if not rows and record.mixed is not None:
        rows = [
            (p.role, p.ml if p.ml is not None else (p.g or 0.0) / density.get(p.role, 1.0))
            for p in record.mixed.parts
        ]
    total = sum(ml for _, ml in rows)
    if total <= 0 or any(role not in solids for role, _ in rows):
        return None
    mixed = mixed_solids([ml for _, ml in rows], [solids[role] for role, _ in rows]).value
    return round(mixed, 6) or None


def _in_cup(
    record: BatchRecord, poured: Sequence[PouredPart], density: Mapping[str, float]
) -> tuple[float, int | None]:
    """How much there is in all [ml], and since when the hardener is in it; a mix that is stated wins."""
    total_ml = sum(p.ml for p in poured)
    hardener_at = next((p.at for p in poured if p.role == "hardener"), None)
    if record.mixed is None:
        return total_ml, hardener_at
    stated = [
        p.ml if p.ml is not None else (p.g or 0.0) / density.get(p.role, 1.0) for p in record.mixed.parts
    ]
    said_at = record.mixed.hardener_in_at
    if said_at is None and hardener_at is None and any(p.role == "hardener" for p in record.mixed.parts):
        said_at = record.mixed_at  # nobody said when: at the latest when it was called mixed
    return sum(stated) or total_ml, hardener_at if said_at is None else said_at


def _life(sheet: Sheet | None, air: Timeline, hardener_at: int | None) -> tuple[int | None, int | None]:
    """Until when it is good, and when it gels; None: it has no hardener in it, or no end."""
    if sheet is None or hardener_at is None or not sheet.pot:
        return None, None
    # A pot in the cold lives long, but it does not stop ageing.
    pace = dataclasses.replace(sheet_pace(sheet, pot_points(sheet.pot), "max"), stops_below_degc=-273.0)
    return reach_max(air, pace, hardener_at, sheet.use_frac), reach_max(air, pace, hardener_at)


def _coats_from(b: Accumulator, batch_id: str) -> list[CoatRecord]:
    """The coats that name a batch, or draw from it."""
    return [c for c in b.coats.values() if batch_id in c.batch_ids or any(d[1] == batch_id for d in c.draws)]


def _drawn_ml(facts: Facts | None, coats: Sequence[CoatRecord], batch_id: str) -> float:
    """What went out of the cup [ml]: as said, once for coats that shared a draw; else as planned."""
    said = {(d[0], d[2]) for c in coats for d in c.draws if d[1] == batch_id}
    unsaid = (_unsaid_draw_ml(facts, c) for c in coats if not c.draws and c.dones)
    return sum(ml for _, ml in said) + sum(unsaid)


def _unsaid_draw_ml(facts: Facts | None, record: CoatRecord) -> float:
    """What a coat takes by plan when nobody said how much was drawn."""
    if facts is None or len(record.batch_ids) != 1:
        return 0.0
    layer = next((x for x in facts.layers if x.id == record.layer_id), None)
    if layer is None:
        return 0.0
    return coat_ml(facts, layer).value


def pot_clock(facts: Facts, batch: Batch) -> Clock | None:
    """Until when a batch is good; None: it does not die, or is closed."""
    if batch.use_by_at is None or batch.closed_at is not None:
        return None
    sheet = facts.sheets.get(batch.sheet_id)
    return Clock(
        kind="pot",
        subject=batch.batch_id,
        label=f"Pot: {sheet.name if sheet else 'batch'}",
        opens_at=batch.hardener_in_at,
        closes_at=batch.use_by_at,
        latest_start_at=batch.use_by_at,
        why=computed("mix.pot", use_frac=sheet.use_frac if sheet else 1.0),
    )
