"""Freezing a batch: what was poured, what is left of it, and how long it lives."""

from __future__ import annotations

import dataclasses

from ..mix import pot_points
from ..why import computed
from .accumulator import Accumulator, BatchRecord, CoatRecord
from .amounts import coat_ml
from .facts import Facts
from .recoat_windows import reach_max, sheet_pace
from .states import Batch, Clock, PouredPart
from .timeline import Timeline

__all__ = ["freeze_batch", "pot_clock"]


def freeze_batch(b: Accumulator, record: BatchRecord, air: Timeline) -> Batch:
    facts = b.facts
    sheet = next((f.sheets[record.sheet_id] for f in b.known.values() if record.sheet_id in f.sheets), None)
    density: dict[str, float] = {c.role: c.density_g_per_ml for c in sheet.components} if sheet else {}
    poured = []
    scale_before = 0.0
    for role, ml, scale_g, at, entry_id in sorted(record.pours, key=lambda p: (p[3], p[4])):
        rho = density.get(role, 1.0)
        own_g = max(0.0, scale_g - scale_before) if scale_g is not None else (ml or 0.0) * rho
        own_ml = ml if ml is not None else own_g / rho
        scale_before += own_g
        poured.append(PouredPart(role=role, ml=round(own_ml, 2), g=round(own_g, 2), at=at, entry_id=entry_id))
    total = sum(p.ml for p in poured)
    hardener_at = next((p.at for p in poured if p.role == "hardener"), None)
    if record.mixed is not None:
        stated = [
            p.ml if p.ml is not None else (p.g or 0.0) / density.get(p.role, 1.0) for p in record.mixed.parts
        ]
        total = sum(stated) or total
        if record.mixed.hardener_in_at is not None:
            hardener_at = record.mixed.hardener_in_at
    use_by = gels = None
    if sheet is not None and hardener_at is not None and sheet.pot:
        pace = dataclasses.replace(sheet_pace(sheet, pot_points(sheet.pot), "max"), stops_below_degc=-273.0)
        use_by = reach_max(air, pace, hardener_at, sheet.use_frac)
        gels = reach_max(air, pace, hardener_at)
    coats = [
        c
        for c in b.coats.values()
        if record.batch_id in c.batch_ids or any(d[1] == record.batch_id for d in c.draws)
    ]
    counted = {(d[0], d[2]) for c in coats for d in c.draws if d[1] == record.batch_id}
    drawn = sum(ml for _, ml in counted) + sum(
        _unsaid_draw_ml(facts, c) for c in coats if not c.draws and c.dones
    )
    left = record.left_ml if record.left_ml is not None else max(0.0, total - drawn)
    return Batch(
        batch_id=record.batch_id,
        sheet_id=record.sheet_id,
        poured=tuple(poured),
        mixed=record.mixed is not None,
        total_ml=round(total, 1),
        left_ml=round(left, 1),
        hardener_in_at=hardener_at,
        use_by_at=use_by,
        gels_at=gels,
        closed_at=record.closed_at,
        coat_ids=tuple(sorted(c.coat_id for c in coats)),
    )


def _unsaid_draw_ml(facts: Facts | None, record: CoatRecord) -> float:
    """What a coat takes by plan when nobody said how much was drawn."""
    if facts is None or len(record.batch_ids) != 1:
        return 0.0
    layer = next((x for x in facts.layers if x.id == record.layer_id), None)
    if layer is None:
        return 0.0
    return coat_ml(facts, layer).value


def pot_clock(facts: Facts, batch: Batch) -> Clock | None:
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
