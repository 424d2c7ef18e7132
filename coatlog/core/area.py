"""Areas from a tape measure: the shapes a refinisher meets, each with its source.

Lengths in m, areas in m².  Exact where the shape is; the hull rule is a quick rule and says so.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from .errors import Underspecified, require
from .why import Figure, computed

__all__ = ["SHAPES", "Measure", "Shape", "Taken", "area_of", "doubts"]


#: How a measure is taken: a rim is sized in inches everywhere, a part with a tape, a hull in whole lengths.
Taken = Literal["rim", "tape", "length", "number"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Measure:
    """What is measured [m, or a plain number], its default, and between what it usually is (assumed)."""

    name: str
    words: str
    usual: float | None = None
    taken: Taken = "tape"
    least: float = 0.0
    most: float = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """A shape with the measures it asks for."""

    id: str
    name: str
    asks: tuple[Measure, ...]
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


def _disc(m: Mapping[str, float]) -> float:
    """The face of a wheel as a full disc: spoke sides make up for the holes (assumed)."""
    return math.pi * m["diameter_m"] ** 2 / 4


def _barrel(m: Mapping[str, float]) -> float:
    """The inside of a rim, rolled out."""
    return math.pi * m["diameter_m"] * m["width_m"]


def _strip(m: Mapping[str, float]) -> float:
    return m["length_m"] * m["width_m"]


STROKE_HEIGHTS = 2.8  # assumed: the strokes of a letter laid end to end, in heights; an E with arms of 0.6


def _letters(m: Mapping[str, float]) -> float:
    """Faces and both sides of raised letters, by the length of their strokes."""
    stroke_m = STROKE_HEIGHTS * m["height_m"] * m["letters"]
    return stroke_m * (m["stroke_m"] + 2 * m["depth_m"])


def _section(m: Mapping[str, float]) -> float:
    """A stretch of hull between two frames: the mean of both girths times the length."""
    return (m["girth_fore_m"] + m["girth_aft_m"]) / 2 * m["length_m"]


def _seat(m: Mapping[str, float]) -> float:
    """Cushion and back with their side panels."""
    run = m["depth_m"] + m["height_m"]
    return m["width_m"] * run + 2 * run * m["thick_m"]


def _hull(m: Mapping[str, float]) -> float:
    """Quick rule for a hull under water: waterline × (beam + draught) × fullness."""
    return m["waterline_m"] * (m["beam_m"] + m["draught_m"]) * m["fullness"]


def _number(name: str, words: str, usual: float, most: float) -> Measure:
    return Measure(name=name, words=words, usual=usual, taken="number", most=most)


SHAPES: dict[str, Shape] = {
    s.id: s
    for s in (
        Shape(
            id="panel",
            name="flat or curved panel",
            asks=(
                Measure(name="length_m", words="length"),
                Measure(name="width_m", words="width (straight line)"),
                Measure(name="rise_m", words="crown height", usual=0.0, most=2.0),
            ),
            area=_panel,
        ),
        Shape(
            id="cylinder",
            name="tube or cylinder",
            asks=(
                Measure(name="diameter_m", words="diameter", most=5.0),
                Measure(name="length_m", words="length", most=30.0),
                _number("ends", "ends", 0.0, 2.0),
            ),
            area=_cylinder,
        ),
        Shape(
            id="box",
            name="open box (floor and sides)",
            asks=(
                Measure(name="length_m", words="length"),
                Measure(name="width_m", words="width"),
                Measure(name="height_m", words="height", most=5.0),
                _number("lids", "lids", 0.0, 1.0),
            ),
            area=_box,
        ),
        Shape(
            id="wheel",
            name="wheel",
            asks=(
                Measure(name="diameter_m", words="rim diameter", taken="rim", least=0.2, most=0.75),
                Measure(name="width_m", words="rim width", usual=0.2032, taken="rim", least=0.05, most=0.4),
                _number("barrels", "include barrels (1 = yes)", 0.0, 1.0),
            ),
            area=_wheel,
        ),
        Shape(
            id="wheel_face",
            name="wheel, face alone",
            asks=(Measure(name="diameter_m", words="rim diameter", taken="rim", least=0.2, most=0.75),),
            area=_disc,
        ),
        Shape(
            id="wheel_barrel",
            name="wheel, barrel alone",
            asks=(
                Measure(name="diameter_m", words="rim diameter", taken="rim", least=0.2, most=0.75),
                Measure(name="width_m", words="rim width", usual=0.2032, taken="rim", least=0.05, most=0.4),
            ),
            area=_barrel,
        ),
        Shape(
            id="strip",
            name="strip (keel, sill, waterline)",
            asks=(
                Measure(name="length_m", words="length", most=80.0),
                Measure(name="width_m", words="width", most=1.0),
            ),
            area=_strip,
        ),
        Shape(
            id="letters",
            name="raised letters",
            asks=(
                _number("letters", "how many letters", 6.0, 40.0),
                Measure(name="height_m", words="height of a letter", most=0.5),
                Measure(name="stroke_m", words="width of its strokes", most=0.1),
                Measure(name="depth_m", words="height of its sides", usual=0.003, most=0.05),
            ),
            area=_letters,
        ),
        Shape(
            id="section",
            name="hull section, between two frames",
            asks=(
                Measure(name="girth_fore_m", words="girth at the fore end", taken="length", most=40.0),
                Measure(name="girth_aft_m", words="girth at the aft end", taken="length", most=40.0),
                Measure(name="length_m", words="length of the section", taken="length", most=30.0),
            ),
            area=_section,
        ),
        Shape(
            id="seat",
            name="seat (cushion, back and side panels)",
            asks=(
                Measure(name="width_m", words="width", most=2.0),
                Measure(name="depth_m", words="depth of the cushion", most=1.0),
                Measure(name="height_m", words="height of the back", most=1.2),
                Measure(name="thick_m", words="thickness of the cushions", usual=0.12, most=0.4),
            ),
            area=_seat,
        ),
        Shape(
            id="hull",
            name="underwater hull (estimate)",
            asks=(
                Measure(name="waterline_m", words="waterline length", taken="length", least=1.5, most=80.0),
                Measure(name="beam_m", words="beam", taken="length", least=0.4, most=20.0),
                Measure(name="draught_m", words="draught", taken="length", least=0.05, most=8.0),
                _number("fullness", "hull form: 1 full, 0.75 medium, 0.5 light", 0.75, 1.0),
            ),
            area=_hull,
        ),
    )
}


def _given(shape_id: str, measures: Mapping[str, float]) -> tuple[Shape, dict[str, float]]:
    if shape_id not in SHAPES:
        raise Underspecified("shape", shape_id, "one of " + ", ".join(SHAPES))
    shape = SHAPES[shape_id]
    given: dict[str, float] = {}
    for m in shape.asks:
        value = measures.get(m.name, m.usual)
        if value is None:
            raise Underspecified(m.name, None, f"the {m.words} in m")
        low_ok = value >= 0 if m.usual is not None else value > 0
        limit = 40 if m.name == "letters" else 4 if m.taken == "number" else 1000
        require(low_ok and value <= limit, m.name, value, f"{m.words}: above 0, up to {limit:g}")
        given[m.name] = float(value)
    return shape, given


def area_of(shape_id: str, measures: Mapping[str, float]) -> Figure:
    """Area of one piece of a shape [m2].

    Raises Underspecified (no such shape, a measure missing), OutOfRange (a length that cannot be).
    """
    shape, given = _given(shape_id, measures)
    value = shape.area(given)
    require(0 < value <= 10_000, "area_m2", value, "above 0, up to 10 000 m²")
    return Figure(value=value, unit="m2", why=computed("area.shape", shape=shape.name, **given))


def doubts(shape_id: str, measures: Mapping[str, float]) -> tuple[str, ...]:
    """What is measured and hardly can be so: a rim of 18 feet.  Said, not refused.  Raises as `area_of`."""
    shape, given = _given(shape_id, measures)
    return tuple(
        f"A {m.words} of {_told(given[m.name], m)} is unusual: {_told(m.least, m)} to {_told(m.most, m)} is. "
        "Look at the unit."
        for m in shape.asks
        if not m.least <= given[m.name] <= m.most
    )


def _told(value: float, m: Measure) -> str:
    """In both systems, as people say it."""
    if m.taken == "number":
        return f"{value:g}"
    if m.taken == "rim":
        return f"{value / 0.0254:.3g} in"
    return f"{value:.3g} m ({value / 0.3048:.3g} ft)"
