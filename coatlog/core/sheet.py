"""What a material is: a data sheet as an immutable document named by the hash of its content."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from .climate import Limits
from .codec import content_id, from_plain, to_plain
from .errors import Underspecified, require
from .why import Why

__all__ = [
    "Component",
    "FilmRange",
    "GatePoint",
    "PotPoint",
    "Properties",
    "Recoat",
    "Sheet",
    "Window",
    "make_sheet",
    "sheet_id",
]

Gate = Literal[
    "tacky",
    "touch",
    "sand",
    "unmask_from",
    "unmask_to",
    "handle",
    "water",
    "wash",
    "use",
    "immerse_from",
    "immerse_to",
    "full",
]
Role = Literal["base", "hardener", "tint", "thinner", "filler", "can"]
Law = Literal["solvent", "water", "moisture", "chemical"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """One thing that goes into the cup, in pouring order.

    of = ratio: `parts` is its number in the mixing ratio; base or mix: `parts` is a fraction of
    the base alone, or of base and hardener together.
    """

    role: Role
    name: str
    parts: float
    by: Literal["volume", "mass"] = "volume"
    of: Literal["ratio", "base", "mix"] = "ratio"
    density_g_per_ml: float
    solids_frac: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmRange:
    """Dry film a coat may have [um], and how much in all."""

    dry_um_min: float
    dry_um_max: float
    total_max_um: float
    coats_max: int


@dataclass(frozen=True, slots=True, kw_only=True)
class GatePoint:
    """Time [s] after the coat is done until a gate, at a temperature [degC]."""

    gate: Gate
    at_degc: float
    s: int
    at_um: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A time in which the next coat may go on: from the end of this one, to from its start."""

    from_s: int
    to_s: int | None = None
    at_degc: float
    tacky: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Recoat:
    """Windows for one following material: `same`, `family:X` or `any`; steps that reopen it."""

    next: str
    windows: tuple[Window, ...]
    fix: tuple[str, ...] = ("abrade", "wipe")
    key_valid_s: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PotPoint:
    """Pot life [s] at a mix temperature [degC]."""

    at_degc: float
    s: int
    mass_g: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Properties:
    """What the stack rules read.  Never the name of a material."""

    family: str
    resin: str
    rated_for: tuple[str, ...] = ()
    acid: bool = False
    peelable: bool = False
    two_pack: bool = False
    needs_air_fed_mask: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A material's data sheet.  See the parts above for units."""

    id: str = ""
    material_id: str
    name: str
    kind: str
    grade: Literal["sheet", "typical"]
    build: Literal["film", "soaks_in", "wipe_on", "bonded"] = "film"
    components: tuple[Component, ...]
    film: FilmRange
    points: tuple[GatePoint, ...]
    recoat: tuple[Recoat, ...]
    pot: tuple[PotPoint, ...] = ()
    use_frac: float = 0.75
    induction_s: int = 0
    stir_every_s: int | None = None
    ea_j_per_mol: float | None = None
    law: Law
    stops_below_degc: float = 5.0
    limits: Limits = Limits()
    properties: Properties
    hazards: tuple[str, ...] = ()
    method_id: str = "spray_gun"
    texture: Literal["plain", "speckle", "fine"] = "plain"
    why: dict[str, Why] = field(default_factory=dict)

    def points_for(self, gate: str) -> tuple[tuple[float, int], ...]:
        """(temperature degC, seconds) pairs of a gate, coldest first."""
        return tuple(sorted((p.at_degc, p.s) for p in self.points if p.gate == gate))


def sheet_id(sheet: Sheet) -> str:
    """Hash of everything but the id itself."""
    plain = to_plain(sheet)
    plain.pop("id")
    return content_id(plain)


def make_sheet(data: dict[str, Any]) -> Sheet:
    """Validate a plain document into a Sheet with its id.

    Raises Underspecified (shape) or OutOfRange (a number that cannot be), naming the field.
    """
    sheet = from_plain(Sheet, {**data, "id": ""})
    _validate(sheet)
    plain = to_plain(sheet)
    plain["id"] = sheet_id(sheet)
    return from_plain(Sheet, plain)


def _validate(sheet: Sheet) -> None:
    for i, c in enumerate(sheet.components):
        at = f"components[{i}]"
        require(c.parts > 0, f"{at}.parts", c.parts, "more than 0")
        require(0.4 <= c.density_g_per_ml <= 8, f"{at}.density_g_per_ml", c.density_g_per_ml, "0.4 to 8 g/ml")
        require(0 <= c.solids_frac <= 1, f"{at}.solids_frac", c.solids_frac, "0 to 1")
    if not any(c.role in ("base", "can", "filler") for c in sheet.components):
        raise Underspecified("components", [c.role for c in sheet.components], "a base, a filler or a can")
    f = sheet.film
    require(
        0 < f.dry_um_min <= f.dry_um_max <= f.total_max_um,
        "film",
        [f.dry_um_min, f.dry_um_max, f.total_max_um],
        "0 < min <= max <= total, µm",
    )
    for i, p in enumerate(sheet.points):
        require(p.s > 0, f"points[{i}].s", p.s, "more than 0 s")
        require(-10 <= p.at_degc <= 200, f"points[{i}].at_degc", p.at_degc, "-10 to 200 °C")
    if not sheet.points_for("full"):
        raise Underspecified("points", None, "a point for gate full")
    for i, r in enumerate(sheet.recoat):
        if not r.windows:
            raise Underspecified(f"recoat[{i}].windows", [], "at least one window")
        last = -1
        for j, w in enumerate(r.windows):
            at = f"recoat[{i}].windows[{j}]"
            require(w.from_s >= 0 and w.from_s > last, f"{at}.from_s", w.from_s, "after the window before it")
            require(
                w.to_s is None or w.to_s > w.from_s, f"{at}.to_s", w.to_s, f"more than from_s ({w.from_s} s)"
            )
            if w.to_s is None and j + 1 < len(r.windows):
                raise Underspecified(f"{at}.to_s", None, "an end, as another window follows")
            last = w.to_s or 0
    if sheet.properties.two_pack and not sheet.pot:
        raise Underspecified("pot", [], "a pot life, as the material is two-pack")
