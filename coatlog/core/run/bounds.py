"""Facts from outside: what a job can be, asked before anything plans with it."""

from __future__ import annotations

from coatlog.core.errors import CoreError, Underspecified, require
from coatlog.core.sheet import MOST_COATS, check_sheet

from .facts import Facts, Part

__all__ = ["MOST_PARTS", "check_facts"]

MOST_PARTS = 200  # of a job as it is made
MOST_TAKEN = 400  # of one taken in: there was a time without a limit
MOST_LAYERS = 4000
MOST_UM = 20_000


def check_facts(facts: Facts) -> None:
    """Refuse facts that no shop could work to, or that name what they do not hold.

    Raises Underspecified or OutOfRange naming the field.
    """
    require(1 <= len(facts.parts) <= MOST_TAKEN, "parts", len(facts.parts), f"1 to {MOST_TAKEN} parts")
    require(len(facts.layers) <= MOST_LAYERS, "layers", len(facts.layers), f"at most {MOST_LAYERS}")
    for name in ("parts", "layers"):
        ids = [x.id for x in getattr(facts, name)]
        require(len(ids) == len(set(ids)), name, len(ids), "each id once")
    for i, part in enumerate(facts.parts):
        _check_part(part, f"parts[{i}]")
    _check_sheets(facts)
    _check_layers(facts)
    parts = {p.id for p in facts.parts}
    lists = [s.part_ids for s in facts.steps] + [s.part_ids for s in facts.systems]
    for part_id in (p for part_ids in lists for p in part_ids):
        if part_id not in parts:
            raise Underspecified("steps.part_ids", part_id[:40], "parts of these facts")


def _check_part(part: Part, at: str) -> None:
    require(1 <= len(part.name.strip()) <= 80, f"{at}.name", part.name[:40], "1 to 80 letters")
    require(0 < part.area_m2 <= 10_000, f"{at}.area_m2", part.area_m2, "above 0, up to 10 000 m²")
    require(1 <= part.count <= 1000, f"{at}.count", part.count, "1 to 1000")
    for face in part.faces:
        require(0 <= face.area_m2 <= 10_000, f"{at}.faces", face.area_m2, "0 to 10 000 m²")


def _check_sheets(facts: Facts) -> None:
    for key, sheet in facts.sheets.items():
        if key != sheet.id:
            raise Underspecified(f"sheets.{key[:8]}", sheet.id, "the sheet of this id")
        try:
            check_sheet(sheet)
        except CoreError as refusal:
            where = f"sheets.{sheet.material_id[:40]}.{refusal.field}"
            raise Underspecified(where, refusal.given, refusal.expected) from None
    for i, join in enumerate(facts.joins):
        if join.lower not in facts.sheets or join.upper not in facts.sheets:
            raise Underspecified(f"joins[{i}]", join.lower[:8], "two sheets of these facts")
    for key, m in facts.methods.items():
        fits = m.rate_m2_per_min > 0 and 0 < m.lands_frac <= 1 and min(m.setup_s, m.mix_s, m.clean_s) >= 0
        require(fits, f"methods.{key[:40]}", m.rate_m2_per_min, "m² a minute and a share that lands, above 0")


def _check_layers(facts: Facts) -> None:
    parts = {p.id for p in facts.parts}
    for i, x in enumerate(facts.layers):
        at = f"layers[{i}]"
        for name, known in (("part_id", parts), ("sheet_id", facts.sheets), ("method_id", facts.methods)):
            if getattr(x, name) not in known:
                raise Underspecified(f"{at}.{name}", getattr(x, name)[:40], "one of these facts")
        require(1 <= x.coats <= MOST_COATS, f"{at}.coats", x.coats, f"1 to {MOST_COATS} coats")
        um = x.target_um
        require(um is None or 0 < um <= MOST_UM, f"{at}.target_um", um, f"above 0, up to {MOST_UM} µm")
        if x.patches is not None:
            fits = x.patches.n >= 1 and 0 < x.patches.area_m2 <= 10_000
            require(fits, f"{at}.patches", x.patches.area_m2, "at least one patch, above 0 m²")
