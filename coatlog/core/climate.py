"""Moist air: saturation pressure, dew and frost point, and whether now is a time to coat.

Source of the saturation pressures: ASHRAE Handbook of Fundamentals, psychrometrics chapter
(the Hyland and Wexler equations), over ice and over water; coefficients from memory, checked
against two reference libraries in the tests.

Relative humidity here always means *over water*, also below 0 °C: that is what probes and
forecasts report.  The 3 K rule: ISO 8502-4, ISO 12944-7.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from .errors import require
from .why import Figure, Why, computed

__all__ = [
    "Limits",
    "Verdict",
    "coating_gate",
    "condensation_point_degc",
    "dew_margin",
    "dew_point",
    "dew_point_degc",
    "frost_point_degc",
    "saturation_kpa",
    "shown",
]

Array = npt.NDArray[np.float64]
_WATER = (-5.8002206e3, 1.3914993, -4.8640239e-2, 4.1764768e-5, -1.4452093e-8, 6.5459673)
_ICE = (-5.6745359e3, 6.3925247, -9.677843e-3, 6.2215701e-7, 2.0747825e-9, -9.484024e-13, 4.1635019)
LOWEST_DEGC, HIGHEST_DEGC = -60.0, 100.0


def saturation_kpa(temperature_degc: npt.ArrayLike, *, over_ice: bool = False) -> Array:
    """Saturation pressure [kPa] of water vapour over water, or over ice, at -60 to 100 °C.

    Over water below 0 °C the water equation is carried on, as humidity probes do.
    Raises OutOfRange.  Source: ASHRAE (Hyland and Wexler).
    """
    t = np.asarray(temperature_degc, dtype=np.float64)
    ok = bool(np.all((t >= LOWEST_DEGC) & (t <= HIGHEST_DEGC)))
    require(ok, "temperature_degc", temperature_degc, "-60 to 100 °C")
    return _saturation(t, over_ice)


def _saturation(t_degc: Array, over_ice: bool) -> Array:
    k = t_degc + 273.15
    if over_ice:
        a, b, *powers, log_factor = _ICE
    else:
        a, b, *powers, log_factor = _WATER
    series = sum(p * k**i for i, p in enumerate(powers, 1))
    ln_pa = a / k + b + series + log_factor * np.log(k)
    return np.asarray(np.exp(ln_pa) / 1000)


def dew_point_degc(air_degc: npt.ArrayLike, rh_frac: npt.ArrayLike) -> Array:
    """Dew point over water [°C] of air at -40 to 60 °C, humidity in (0, 1].  Raises OutOfRange."""
    return _point(air_degc, rh_frac, over_ice=False)


def frost_point_degc(air_degc: npt.ArrayLike, rh_frac: npt.ArrayLike) -> Array:
    """Frost point over ice [°C] for humidity given over water.  Means something below 0 °C only."""
    return _point(air_degc, rh_frac, over_ice=True)


def condensation_point_degc(air_degc: npt.ArrayLike, rh_frac: npt.ArrayLike) -> Array:
    """Surface temperature [°C] at which moisture appears: dew point, below 0 °C frost point."""
    dew = dew_point_degc(air_degc, rh_frac)
    return np.where(dew >= 0, dew, np.minimum(frost_point_degc(air_degc, rh_frac), 0.0))


def _point(air_degc: npt.ArrayLike, rh_frac: npt.ArrayLike, *, over_ice: bool) -> Array:
    air = np.asarray(air_degc, dtype=np.float64)
    rh = np.asarray(rh_frac, dtype=np.float64)
    require(bool(np.all((air >= -40) & (air <= 60))), "air_degc", air_degc, "-40 to 60 °C")
    require(bool(np.all((rh > 0) & (rh <= 1))), "rh_frac", rh_frac, "above 0, at most 1")
    ln_kpa = np.log(rh * _saturation(air, False))
    air, ln_kpa = np.broadcast_arrays(air, ln_kpa)
    # ln p is smooth and nearly straight in 1/T: a bracketed bisection to 1e-4 K needs 20 halvings.
    low, high = np.full(air.shape, -95.0), np.array(air, dtype=np.float64) + 1e-6
    if over_ice:
        high = np.maximum(high, 1.0)
    for _ in range(24):
        middle = (low + high) / 2
        below = np.log(_saturation(middle, over_ice)) < ln_kpa
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    return np.asarray((low + high) / 2)


def dew_point(air_degc: float, rh_frac: float) -> Figure:
    """Dew point (below 0 °C frost point) [°C] with its Why.  Limits as `dew_point_degc`."""
    value = float(condensation_point_degc(air_degc, rh_frac))
    return Figure(
        value=value,
        unit="degc",
        why=computed("climate.dew", air_degc=air_degc, rh_frac=rh_frac),
    )


def dew_margin(surface_degc: float, air_degc: float, rh_frac: float, *, uncertainty_k: float = 0.0) -> Figure:
    """How far the surface is above the dew point, less the probes' uncertainty [K].

    A difference: 3 K is 5.4 °F, never 37.4.  Raises OutOfRange.
    """
    require(-40 <= surface_degc <= 120, "surface_degc", surface_degc, "-40 to 120 °C")
    require(uncertainty_k >= 0, "uncertainty_k", uncertainty_k, "0 K or more")
    dew = float(condensation_point_degc(air_degc, rh_frac))
    why = computed(
        "climate.margin",
        surface_degc=surface_degc,
        dew_point_degc=round(dew, 2),
        uncertainty_k=uncertainty_k,
    )
    return Figure(value=surface_degc - dew - uncertainty_k, unit="k", why=why)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """Limits of a sheet for coating.  The values here are those that hold where it is silent."""

    surface_min_degc: float = 10.0
    surface_max_degc: float = 35.0
    rh_max_frac: float = 0.85
    dew_margin_k: float = 3.0
    dry_after_s: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """One reason for or against: what, why, what to do instead.

    `values`: the numbers in it by name with their unit, so that a reader is told them in units and words
    of their own.
    """

    rule_id: str
    severity: str
    what: str
    why: str
    instead: str
    source: Why
    values: dict[str, float] = field(default_factory=dict)


def coating_gate(
    limits: Limits,
    *,
    surface_degc: float,
    air_degc: float,
    rh_frac: float,
    uncertainty_k: float = 0.5,
) -> tuple[Verdict, ...]:
    """The reasons not to coat now; empty means go.

    Go only if surface - dew point - uncertainty >= the sheet's margin (3 K), humidity and surface
    temperature are inside the sheet's limits, and the surface is above 0 °C.
    Raises OutOfRange on readings no probe gives.
    """
    margin = dew_margin(surface_degc, air_degc, rh_frac, uncertainty_k=uncertainty_k)
    out = []
    if surface_degc <= 0:
        out.append(
            _stop(
                "climate.frozen",
                f"Surface is {surface_degc:.1f} °C.",
                "Invisible ice prevents adhesion.",
                "Warm the part above 0 °C and dry it.",
                Why(kind="practice", ref="common practice"),
                surface_degc=surface_degc,
            )
        )
    if margin.value < limits.dew_margin_k:
        sure, least = shown(margin.value, limits.dew_margin_k, "°C", digits=1)
        out.append(
            _stop(
                "climate.dew",
                f"Surface is {margin.value + uncertainty_k:.1f} °C above dew point, ± {uncertainty_k:.1f}: "
                f"surely {sure}.",
                f"Below {least} moisture can condense under the film.",
                "Warm the part or dry the air, then measure again.",
                margin.why,
                margin_k=margin.value + uncertainty_k,
                uncertainty_k=uncertainty_k,
                least_k=limits.dew_margin_k,
            )
        )
    if rh_frac > limits.rh_max_frac:
        humidity, most = shown(100 * rh_frac, 100 * limits.rh_max_frac, "%")
        out.append(
            _stop(
                "climate.rh",
                f"Humidity is {humidity}.",
                f"The data sheet's limit is {most}.",
                "Wait or dry the air.",
                Why(kind="sheet", ref="limits"),
                rh_frac=rh_frac,
                most_frac=limits.rh_max_frac,
            )
        )
    if not limits.surface_min_degc <= surface_degc <= limits.surface_max_degc:
        cold = surface_degc < limits.surface_min_degc
        edge = limits.surface_min_degc if cold else limits.surface_max_degc
        surface, _ = shown(surface_degc, edge, "°C", digits=1)
        out.append(
            _stop(
                "climate.temperature",
                f"Surface is {surface}.",
                f"The data sheet's range is {limits.surface_min_degc:g} to {limits.surface_max_degc:g} °C.",
                "Warm the part first." if cold else "Move the part somewhere cooler.",
                Why(kind="sheet", ref="limits"),
                surface_degc=surface_degc,
                least_degc=limits.surface_min_degc,
                most_degc=limits.surface_max_degc,
            )
        )
    return tuple(out)


def shown(value: float, limit: float, unit: str, *, digits: int = 0) -> tuple[str, str]:
    """A value and the limit it is held against, as told: with as many digits as it takes to tell them apart.

    What is over a limit never reads as the limit itself.
    """
    while digits < 6 and round(value, digits) == round(limit, digits) and value != limit:
        digits += 1
    return f"{value:.{digits}f} {unit}", f"{round(limit, digits):g} {unit}"


def _stop(rule_id: str, what: str, why: str, instead: str, source: Why, **values: float) -> Verdict:
    return Verdict(
        rule_id=rule_id, severity="stop", what=what, why=why, instead=instead, source=source, values=values
    )
