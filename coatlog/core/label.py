"""The can's own sheet from what its label says: the rest stays typical for the kind, and says so."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from .codec import to_plain
from .errors import OutOfRange, Underspecified, require
from .sheet import Gate, GatePoint, PotPoint, Recoat, Sheet, Window, make_sheet
from .why import Why

__all__ = ["LABEL_FIELDS", "LabelField", "Told", "labelled"]


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelField:
    """Something labels say: between what it can be, in `unit`; `timed`: it holds at a temperature."""

    unit: str
    least: float
    most: float
    timed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """A value of a label in the unit of its field, or the parts of a ratio; `at_degc`: where it was given."""

    value: float | None = None
    parts: tuple[float, ...] = ()
    at_degc: float | None = None


YEAR_S = 365 * 86400
LABEL_FIELDS: dict[str, LabelField] = {
    "ratio": LabelField(unit="parts", least=0.001, most=1000),
    "solids": LabelField(unit="frac", least=0.01, most=1),
    "density": LabelField(unit="g_per_ml", least=0.4, most=9.5),
    "dry_min": LabelField(unit="um", least=1, most=20_000),
    "dry_max": LabelField(unit="um", least=1, most=20_000),
    "coats": LabelField(unit="coats", least=1, most=40),
    "coverage": LabelField(unit="m2_per_l", least=0.1, most=200),
    "pot": LabelField(unit="s", least=10, most=YEAR_S, timed=True),
    "recoat_from": LabelField(unit="s", least=0, most=YEAR_S, timed=True),
    "recoat_to": LabelField(unit="s", least=60, most=YEAR_S, timed=True),
    "touch": LabelField(unit="s", least=10, most=YEAR_S, timed=True),
    "handle": LabelField(unit="s", least=10, most=YEAR_S, timed=True),
    "full": LabelField(unit="s", least=60, most=YEAR_S, timed=True),
    "surface_min": LabelField(unit="degc", least=-20, most=60),
    "surface_max": LabelField(unit="degc", least=0, most=120),
    "humidity": LabelField(unit="frac", least=0.1, most=1),
}
#: parts of a sheet whose source is told one by one
_SOURCED = ("components", "film", "coverage", "pot", "recoat", "limits")
_PURPOSE = ("goes_on", "over", "used_on", "withstands", "temp_max_degc")
GATES: tuple[Gate, ...] = ("touch", "handle", "full")


def labelled(like: Sheet, *, name: str, material_id: str, says: Mapping[str, Told]) -> Sheet:
    """A sheet of its own like the typical one, with what its label says in its place.

    Each part of it says where it comes from: the label, or what is typical for the kind.  A time the label
    gives without a temperature is taken at that of the typical sheet.
    Raises Underspecified, OutOfRange naming the field.
    """
    if like.aid is not None:
        raise Underspecified("like", like.name, "a material that stays on the part")
    for key, told in says.items():
        _check(key, told)
    sheet = replace(like, name=name, material_id=material_id, grade="sheet")
    touched: set[str] = set()
    for part, change in (
        ("components", _components),
        ("film", _film),
        ("coverage", _coverage),
        ("pot", _pot),
        ("recoat", _recoat),
        ("limits", _limits),
    ):
        changed = change(sheet, says)
        if changed is not sheet:
            touched.add(part)
            sheet = changed
    said = {gate for gate in GATES if gate in says}
    sheet = replace(sheet, points=tuple(p for p in sheet.points if p.gate not in said))
    sheet = replace(sheet, points=sheet.points + tuple(_point(like, g, says[g]) for g in GATES if g in said))
    label = Why(kind="sheet", ref=f"{name}: label")
    why = {part: label if part in touched else like.source_of(part) for part in _SOURCED}
    why |= {f"points.{p.gate}": label if p.gate in said else like.source_of("points") for p in sheet.points}
    why |= {f"purpose.{x}": like.source_of(f"purpose.{x}") for x in _PURPOSE}
    return make_sheet({**to_plain(replace(sheet, why=why)), "id": ""})


def _check(key: str, told: Told) -> None:
    field = LABEL_FIELDS.get(key)
    if field is None:
        raise Underspecified("says", key[:40], "of " + ", ".join(LABEL_FIELDS))
    values = told.parts if key == "ratio" else (told.value,)
    if not values or any(v is None for v in values):
        raise Underspecified(f"says.{key}", None, "a number")
    for v in values:
        ok = v is not None and field.least <= v <= field.most
        require(ok, f"says.{key}", v, f"{field.least:g} to {field.most:g} {field.unit}")
    require(
        told.at_degc is None or -10 <= told.at_degc <= 100,
        f"says.{key}.at_degc",
        told.at_degc,
        "-10 to 100 °C",
    )


def _s(told: Told) -> int:
    return round(told.value or 0.0)


def _at(told: Told, usual: float) -> float:
    return usual if told.at_degc is None else told.at_degc


def _components(sheet: Sheet, says: Mapping[str, Told]) -> Sheet:
    """The ratio as it is told; solids and density of the mix scaled so that the mix has what is told."""
    if not _any(says, "ratio", "solids", "density"):
        return sheet
    parts = list(sheet.components)
    if "ratio" in says:
        counted = [i for i, c in enumerate(parts) if c.of == "ratio"]
        told = says["ratio"].parts
        expected = f"{len(counted)} parts: " + ", ".join(parts[i].name for i in counted)
        require(len(told) == len(counted), "says.ratio", list(told), expected)
        for i, n in zip(counted, told, strict=True):
            parts[i] = replace(parts[i], parts=n)
    mixed = [c for c in parts if c.of == "ratio"]
    volume = sum(c.parts for c in mixed)
    if "solids" in says:
        wanted = says["solids"].value or 0.0
        have = sum(c.parts * c.solids_frac for c in mixed) / volume
        most = wanted / have * max(c.solids_frac for c in mixed) if have else 2.0
        if have and most <= 1:
            parts = [replace(c, solids_frac=_r(c.solids_frac * wanted / have)) for c in parts]
        else:  # more solids than can be told apart by component
            parts = [replace(c, solids_frac=wanted) if c.of == "ratio" else c for c in parts]
        parts = [replace(c, water_frac=min(c.water_frac, _r(1 - c.solids_frac))) for c in parts]
    if "density" in says:
        have = sum(c.parts * c.density_g_per_ml for c in mixed) / volume
        by = (says["density"].value or 0.0) / have
        parts = [replace(c, density_g_per_ml=_r(c.density_g_per_ml * by)) for c in parts]
    return replace(sheet, components=tuple(parts))


def _r(x: float) -> float:
    return round(x, 6)


def _any(says: Mapping[str, Told], *keys: str) -> bool:
    return any(k in says for k in keys)


def _film(sheet: Sheet, says: Mapping[str, Told]) -> Sheet:
    if sheet.film is None or not _any(says, "dry_min", "dry_max", "coats"):
        return sheet
    low = says["dry_min"].value if "dry_min" in says else None
    high = says["dry_max"].value if "dry_max" in says else None
    low = low if low is not None else min(sheet.film.dry_um_min, high or sheet.film.dry_um_min)
    high = high if high is not None else max(sheet.film.dry_um_max, low)
    require(low <= high, "says.dry_min", low, f"at most the highest film, {high:g} µm")
    coats = round(says["coats"].value or 1) if "coats" in says else sheet.film.coats_max
    total = max(coats * high, high)
    return replace(
        sheet, film=replace(sheet.film, dry_um_min=low, dry_um_max=high, coats_max=coats, total_max_um=total)
    )


def _coverage(sheet: Sheet, says: Mapping[str, Told]) -> Sheet:
    if sheet.coverage is None or "coverage" not in says:
        return sheet
    return replace(sheet, coverage=replace(sheet.coverage, m2_per_l=says["coverage"].value or 1.0))


def _pot(sheet: Sheet, says: Mapping[str, Told]) -> Sheet:
    if "pot" not in says:
        return sheet
    usual = sheet.pot[0].at_degc if sheet.pot else 20.0
    return replace(sheet, pot=(PotPoint(at_degc=_at(says["pot"], usual), s=_s(says["pot"])),))


def _recoat(sheet: Sheet, says: Mapping[str, Told]) -> Sheet:
    """The window with itself as it is told; others keep theirs, no earlier and no later than that."""
    if not _any(says, "recoat_from", "recoat_to"):
        return sheet
    first = next((r for r in sheet.recoat if r.next == "same"), None)
    usual = first.windows[0] if first else Window(from_s=0, to_s=None, at_degc=20.0)
    at = next((says[k].at_degc for k in ("recoat_from", "recoat_to") if k in says and says[k].at_degc), None)
    from_s = _s(says["recoat_from"]) if "recoat_from" in says else usual.from_s
    to_s = _s(says["recoat_to"]) if "recoat_to" in says else usual.to_s
    if to_s is not None and to_s <= from_s:
        raise OutOfRange("says.recoat_to", to_s, f"later than the earliest, {from_s} s")
    window = replace(usual, from_s=from_s, to_s=to_s, at_degc=usual.at_degc if at is None else at)
    others = tuple(r for r in sheet.recoat if r.next != "same")
    same = replace(first, windows=(window,)) if first else Recoat(next="same", windows=(window,))
    return replace(sheet, recoat=(same, *others))


def _limits(sheet: Sheet, says: Mapping[str, Told]) -> Sheet:
    if not _any(says, "surface_min", "surface_max", "humidity"):
        return sheet
    x = sheet.limits
    return replace(
        sheet,
        limits=replace(
            x,
            surface_min_degc=_value(says, "surface_min", x.surface_min_degc),
            surface_max_degc=_value(says, "surface_max", x.surface_max_degc),
            rh_max_frac=_value(says, "humidity", x.rh_max_frac),
        ),
    )


def _value(says: Mapping[str, Told], key: str, usual: float) -> float:
    value = says[key].value if key in says else None
    return usual if value is None else value


def _point(like: Sheet, gate: Gate, told: Told) -> GatePoint:
    """The time the label gives for a gate, for what was typical; without a temperature at the usual one."""
    usual = min((p for p in like.points if p.gate == gate), key=lambda p: abs(p.at_degc - 20), default=None)
    at_degc = told.at_degc if told.at_degc is not None else usual.at_degc if usual else 20.0
    return GatePoint(gate=gate, at_degc=at_degc, s=_s(told), at_um=usual.at_um if usual else None)
