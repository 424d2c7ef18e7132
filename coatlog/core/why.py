"""Where a number comes from: one Why beside every number that is shown."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

__all__ = ["FORMULAS", "Figure", "Formula", "Why", "computed"]

WhyKind = Literal["sheet", "standard", "practice", "computed", "measured", "simulated", "assumed"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Why:
    """Origin of a number: kind of source, its name, and for a computed one formula and inputs."""

    kind: WhyKind
    ref: str = ""
    formula_id: str | None = None
    inputs: dict[str, float | int | str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """A number with its unit and its Why."""

    value: float
    unit: str
    why: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class Formula:
    """How a formula is shown to the user."""

    text: str
    source: str


FORMULAS: dict[str, Formula] = {
    "film.wet": Formula(text="wet = dry × (1 + thinner) / solids", source="ISO 3233, ASTM D2697"),
    "film.dry": Formula(text="dry = wet × solids / (1 + thinner)", source="ISO 3233, ASTM D2697"),
    "film.draw": Formula(text="dry = volume × solids × share that lands / area", source="from definitions"),
    "film.volume": Formula(
        text="volume = area × (aim + dead film) / (solids × lands × (1 − left over)) + fixed",
        source="from definitions; dead volume of a profile is common practice",
    ),
    "film.aim": Formula(
        text="smallest mean with P(all at least 80 % and fewer than 20 % under nominal) at least 0.9",
        source="acceptance rule of ISO 19840, normal scatter",
    ),
    "area.shape": Formula(
        text="exact for the shape; a hull: waterline × (beam + draught) × fullness",
        source="from definitions; the hull rule is common practice",
    ),
    "mix.voc": Formula(
        text="g of VOC over the volume the law counts",
        source="US: material, or coating less water; EU 2004/42/EC: ready to use",
    ),
    "service.due": Formula(
        text="due = last done + interval, first = in service + start", source="from definitions"
    ),
    "film.spread": Formula(text="m² per l = 10 × solids % / dry µm", source="from definitions"),
    "mix.solids": Formula(text="solids = Σ(volume × solids) / Σ volume", source="from definitions"),
    "mix.pot": Formula(
        text="ln(pot life) along 1/T between sheet points; one point: halves per +10 °C",
        source="Arrhenius; halving is common practice",
    ),
    "climate.dew": Formula(
        text="dew point: saturation pressure equals that of the air", source="ASHRAE psychrometrics"
    ),
    "climate.margin": Formula(
        text="margin = surface − dew point − uncertainty", source="ISO 8502-4, ISO 12944-7"
    ),
    "drying.integral": Formula(
        text="done when the sum of time / sheet time at that temperature reaches 1",
        source="equivalent age, after ASTM C1074",
    ),
    "drying.thick": Formula(
        text="time × (film / its sheet's film)², two-pack in step; × solvent as poured / its sheet's",
        source="half-time of a film on metal 0.197 h²/D: Crank, The Mathematics of Diffusion",
    ),
    "plan.lay_out": Formula(
        text="earliest start with every wait, painter, gun, bay, pot and opening hour held", source="derived"
    ),
    "plan.lead": Formula(text="latest start = closes − (mix + set-up + spray)", source="from definitions"),
}


def computed(formula_id: str, **inputs: float | int | str) -> Why:
    """A Why of kind computed; the formula must be one of FORMULAS."""
    return Why(kind="computed", ref=FORMULAS[formula_id].source, formula_id=formula_id, inputs=inputs)
