"""How much of a mix each coat took: as said, or what is gone from a cup somebody looked into."""

from __future__ import annotations

from collections.abc import Mapping

from .accumulator import Accumulator, CoatRecord
from .amounts import coat_ml
from .facts import Facts
from .states import Batch

__all__ = ["area_m2", "drawn_ml", "poured_solids_frac", "share_ml"]


def drawn_ml(b: Accumulator, record: CoatRecord, batches: Mapping[str, Batch]) -> float | None:
    """Mix that went out of the cup for a coat [ml]; None: nobody said, and nobody looked.

    A draw that is said is shared by area among the coats of that tap, and all draws of a mix together are
    never more than was mixed.  Else what is gone from the cups of the coat is shared among the coats that
    name them, as their areas and methods ask for; what stays in hose and gun counts as sprayed.
    """
    if record.draws:
        return sum(
            ml * _of_tap(b, record, coat_ids) * _possible(b, batches.get(batch_id))
            for coat_ids, batch_id, ml in record.draws
        )
    looked_into = [batches.get(x) for x in sorted(record.batch_ids)]
    if not looked_into or any(x is None or not x.left_told for x in looked_into):
        return None
    return sum(_gone_ml(b, record, x) for x in looked_into if x is not None)


def _of_tap(b: Accumulator, record: CoatRecord, coat_ids: tuple[str, ...]) -> float:
    """The share of one coat in what was drawn for several."""
    areas = [area_m2(b.facts, b.coats.get(c)) for c in coat_ids]
    own = area_m2(b.facts, record)
    return own / sum(areas) if sum(areas) > 0 else 1 / len(coat_ids)


def _said_ml(b: Accumulator, batch_id: str) -> float:
    """All that was said to be drawn from a mix, once for coats that shared a draw [ml]."""
    said = {(ids, ml) for c in b.coats.values() for ids, of, ml in c.draws if of == batch_id}
    return sum(ml for _, ml in said)


def _possible(b: Accumulator, batch: Batch | None) -> float:
    if batch is None or batch.total_ml <= 0:
        return 1.0
    said = _said_ml(b, batch.batch_id)
    return min(1.0, batch.total_ml / said) if said > 0 else 1.0


def _gone_ml(b: Accumulator, record: CoatRecord, batch: Batch) -> float:
    gone = max(0.0, batch.total_ml - batch.left_ml - _said_ml(b, batch.batch_id))
    others = [
        c for c in b.coats.values() if batch.batch_id in c.batch_ids and c.dones and not c.draws and c.starts
    ]
    whole = sum(share_ml(b.facts, c) for c in others)
    own = share_ml(b.facts, record)
    return gone * own / whole if whole > 0 and own > 0 else 0.0


def share_ml(facts: Facts | None, record: CoatRecord) -> float:
    """What a coat takes by plan, its share where it was drawn from several mixes [ml]."""
    layer = next((x for x in facts.layers if x.id == record.layer_id), None) if facts else None
    if facts is None or layer is None or not record.batch_ids:
        return 0.0
    return coat_ml(facts, layer).value / len(record.batch_ids)


def area_m2(facts: Facts | None, record: CoatRecord | None) -> float:
    """Area of the part a coat is on [m2]; 0 for one that is not known."""
    if record is None or facts is None:
        return 0.0
    layer = next((x for x in facts.layers if x.id == record.layer_id), None)
    if layer is not None:
        return facts.area_m2(layer)
    return sum(p.area_m2 * p.count for p in facts.parts if p.id == record.part_id)


def poured_solids_frac(record: CoatRecord, batches: Mapping[str, Batch]) -> float | None:
    """Volume solids of what a coat was sprayed with, as poured; None: nothing was poured for it."""
    named = (batches.get(x) for x in sorted(record.batch_ids | {d[1] for d in record.draws}))
    known = [
        (x.total_ml, x.solids_frac)
        for x in named
        if x is not None and x.sheet_id == record.sheet_id and x.solids_frac and x.total_ml > 0
    ]
    total = sum(ml for ml, _ in known)
    return sum(ml * solids for ml, solids in known) / total if total > 0 else None
