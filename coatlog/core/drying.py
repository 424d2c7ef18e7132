"""How fast a film ripens at a temperature, and when a gate is reached as temperature changes.

A gate is a time on the sheet at one or more temperatures.  At changing temperature it is reached
when the sum of time / (sheet time at that temperature) is 1: equivalent age, after ASTM C1074
(Freiesleben Hansen and Pedersen).  Between sheet points ln(time) runs straight in 1/T; with one
point the activation energy of the sheet, or of the law, carries it.  Evaporation of water follows
the pressure difference between film and air instead.

More than 10 K outside the points a maximum gate takes the faster of the carried-on curve and its value
at the limit, a minimum gate in the cold the slower.  In warmth a stated minimum is shortened no further
than to the warmest temperature the sheet says anything of.  Below its lowest nothing ripens.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from .climate import saturation_kpa
from .errors import Underspecified, require

__all__ = ["DEFAULT_EA_J_PER_MOL", "Pace", "equivalent_age_rate", "evaporation_ratio", "pace_per_s"]

Array = npt.NDArray[np.float64]
GAS_J_PER_MOL_K = 8.314462618
REACH_K = 10.0
#: Where a sheet is silent (assumed): 50 for a chemical cure, 38 for a solvent's heat of evaporation.
DEFAULT_EA_J_PER_MOL = {"chemical": 50_000.0, "moisture": 50_000.0, "solvent": 38_000.0, "water": 44_000.0}


def equivalent_age_rate(degc: npt.ArrayLike, *, ea_j_per_mol: float, reference_degc: float) -> Array:
    """Speed of a reaction relative to the reference temperature [-] (Arrhenius, ASTM C1074).

    Raises OutOfRange for an activation energy outside 0 to 200 000 J/mol.
    """
    require(0 <= ea_j_per_mol <= 200_000, "ea_j_per_mol", ea_j_per_mol, "0 to 200 000 J/mol")
    t = np.asarray(degc, dtype=np.float64) + 273.15
    return np.asarray(np.exp(-ea_j_per_mol / GAS_J_PER_MOL_K * (1 / t - 1 / (reference_degc + 273.15))))


def evaporation_ratio(
    surface_degc: float,
    air_degc: float,
    rh_frac: float,
    *,
    reference_degc: float,
    reference_rh_frac: float = 0.5,
) -> float:
    """Speed at which water leaves a film, relative to the reference air [-], never below 0.

    rate ~ p_sat(surface) - rh p_sat(air), from the mass transfer law; same air speed.
    """
    drive = float(saturation_kpa(surface_degc)) - rh_frac * float(saturation_kpa(air_degc))
    reference = (1 - reference_rh_frac) * float(saturation_kpa(reference_degc))
    return max(0.0, drive / reference)


@dataclass(frozen=True, slots=True)
class Pace:
    """What sets the speed towards one gate; hashable, so that sums over time can be kept.

    points : (degC, s) pairs of the sheet, coldest first; edge `min` or `max` bound.
    stated_to_degc : the warmest the sheet speaks of, at this gate or another.
    """

    points: tuple[tuple[float, int], ...]
    law: Literal["solvent", "water", "moisture", "chemical"]
    ea_j_per_mol: float
    stops_below_degc: float
    edge: Literal["min", "max"]
    stated_to_degc: float | None = None


def pace_per_s(pace: Pace, degc: npt.ArrayLike, rh_frac: npt.ArrayLike = 0.5) -> Array:
    """Share of the gate gained per second [1/s] at temperatures [degC] and humidities [-].

    Raises Underspecified when the gate has no points.
    """
    if not pace.points:
        raise Underspecified("points", [], "at least one sheet point")
    t = np.asarray(degc, dtype=np.float64)
    low, high = pace.points[0][0] - REACH_K, pace.points[-1][0] + REACH_K
    if pace.edge == "min":
        high = max(pace.points[-1][0], pace.stated_to_degc or 0.0)
    free = _curve(pace, t)
    held = _curve(pace, np.clip(t, low, high))
    rate = np.minimum(free, held) if pace.edge == "min" else np.maximum(free, held)
    if pace.law == "water":
        rate = rate * _humidity_factor(t, np.asarray(rh_frac, dtype=np.float64))
    return np.where(t < pace.stops_below_degc, 0.0, rate)


def _curve(pace: Pace, t: Array) -> Array:
    if len(pace.points) == 1:
        ref, s = pace.points[0]
        return equivalent_age_rate(t, ea_j_per_mol=pace.ea_j_per_mol, reference_degc=ref) / s
    x = np.array([1 / (p + 273.15) for p, _ in reversed(pace.points)])
    y = np.array([np.log(s) for _, s in reversed(pace.points)])
    at = 1 / (t + 273.15)
    k = np.clip(np.searchsorted(x, at), 1, len(x) - 1)
    slope = (y[k] - y[k - 1]) / (x[k] - x[k - 1])
    return np.asarray(np.exp(-(y[k - 1] + slope * (at - x[k - 1]))))


def _humidity_factor(t: Array, rh: Array) -> Array:
    """Evaporation of water at this humidity against 50 %, surface at air temperature."""
    return np.maximum(0.0, (1 - rh) / 0.5)
