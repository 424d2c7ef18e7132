"""Areas from a tape measure: the shapes a refinisher meets, each with its source.

Lengths in m, areas in m².  Exact where the shape is; the hull rule is a quick rule and says so.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from .errors import Underspecified, require
from .why import Figure, computed

__all__ = ["SHAPES", "Shape", "area_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """A shape with the measures it asks for: (name, what to measure, default or None)."""

    id: str
    name: str
    asks: tuple[tuple[str, str, float | None], ...]
    area: Callable[[Mapping[str, float]], float]


def _panel(m: Mapping[str, float]) -> float:
    """A panel curved across: the arc over a chord with its rise, times the length."""
    chord, rise = m["width_m"], m["rise_m"]
    require(rise <= chord / 2, "rise_m", rise, f"at most half the width, {chord / 2:g} m")
    if rise == 0:
        return chord * m["length_m"]
    radius = (chord * chord / 4 + rise * rise) / (2 * rise)
    return 2 * radius * math.asin(chord / (2 * radius)) * m["length_m"]


def _cylinder(m: Mapping[str, float]) -> float:
    d = m["diameter_m"]
    return math.pi * d * m["length_m"] + m["ends"] * math.pi * d * d / 4


def _box(m: Mapping[str, float]) -> float:
    """Outside of a box standing open: floor and four sides, the lid only when there is one."""
    a, b, h = m["length_m"], m["width_m"], m["height_m"]
    return a * b * (1 + m["lids"]) + 2 * h * (a + b)


def _wheel(m: Mapping[str, float]) -> float:
    """Face as a full disc (spoke sides make up for the holes, assumed), barrel when it is off the car."""
    d = m["diameter_m"]
    return math.pi * d * d / 4 + m["barrels"] * math.pi * d * m["width_m"]


def _hull(m: Mapping[str, float]) -> float:
    """Quick rule for a hull under water: waterline × (beam + draught) × fullness."""
    return m["waterline_m"] * (m["beam_m"] + m["draught_m"]) * m["fullness"]


SHAPES: dict[str, Shape] = {
    s.id: s
    for s in (
        Shape(
            id="panel",
            name="panel, flat or curved across",
            asks=(
                ("length_m", "length", None),
                ("width_m", "width, straight across", None),
                ("rise_m", "rise in the middle", 0.0),
            ),
            area=_panel,
        ),
        Shape(
            id="cylinder",
            name="tube or cylinder",
            asks=(("diameter_m", "diameter", None), ("length_m", "length", None), ("ends", "ends", 0.0)),
            area=_cylinder,
        ),
        Shape(
            id="box",
            name="box, floor and sides",
            asks=(
                ("length_m", "length", None),
                ("width_m", "width", None),
                ("height_m", "height", None),
                ("lids", "lids", 0.0),
            ),
            area=_box,
        ),
        Shape(
            id="wheel",
            name="wheel",
            asks=(
                ("diameter_m", "rim diameter", None),
                ("width_m", "rim width", 0.2),
                ("barrels", "barrels too (1 when off the car)", 0.0),
            ),
            area=_wheel,
        ),
        Shape(
            id="hull",
            name="hull under water, quick rule",
            asks=(
                ("waterline_m", "waterline length", None),
                ("beam_m", "beam", None),
                ("draught_m", "draught", None),
                ("fullness", "1 full, 0.75 medium, 0.5 light", 0.75),
            ),
            area=_hull,
        ),
    )
}


def area_of(shape_id: str, measures: Mapping[str, float]) -> Figure:
    """Area of one piece of a shape [m2].

    Raises Underspecified (no such shape, a measure missing), OutOfRange (a length that cannot be).
    """
    if shape_id not in SHAPES:
        raise Underspecified("shape", shape_id, "one of " + ", ".join(SHAPES))
    shape = SHAPES[shape_id]
    given: dict[str, float] = {}
    for name, words, default in shape.asks:
        value = measures.get(name, default)
        if value is None:
            raise Underspecified(name, None, f"the {words} in m")
        low_ok = value >= 0 if default is not None else value > 0
        limit = 1000 if name.endswith("_m") else 4
        require(low_ok and value <= limit, name, value, f"{words}: above 0, up to {limit:g}")
        given[name] = float(value)
    value = shape.area(given)
    require(0 < value <= 10_000, "area_m2", value, "above 0, up to 10 000 m²")
    return Figure(value=value, unit="m2", why=computed("area.shape", shape=shape.name, **given))
