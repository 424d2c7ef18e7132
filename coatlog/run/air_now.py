"""The air at the work: read now, and along a stretch of time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from coatlog.core.climate import (
    Limits,
    Verdict,
    coating_gate,
    condensation_point_degc,
    dew_margin,
    dew_point,
)
from coatlog.core.run.timeline import Timeline
from coatlog.core.sheet import Sheet
from coatlog.core.why import Figure

__all__ = ["OTHER_U_K", "PROBE_U_K", "AirNow", "RibbonPoint", "air_now", "ribbon"]

PROBE_U_K, OTHER_U_K = 0.5, 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class AirNow:
    """Air at the work, its dew point and margin, and every reason not to coat in it.

    `least_margin_k`: the least margin that what goes on next is coated with.
    """

    place_id: str
    source: str
    read_at: int | None
    air_degc: float
    surface_degc: float
    rh_frac: float
    dew_point: Figure
    margin: Figure
    uncertainty_k: float
    least_margin_k: float
    stops: tuple[Verdict, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RibbonPoint:
    at: int
    margin_k: float
    assumed: bool


def air_now(air: Timeline, place_id: str, sheet: Sheet | None, now: int) -> AirNow:
    """The climate at a place now, judged by the limits of the sheet that goes on next."""
    a = air.at(now)
    u = PROBE_U_K if a.source in ("probe", "hand", "surface") else OTHER_U_K
    limits = sheet.limits if sheet else Limits()
    stops = coating_gate(
        limits, surface_degc=a.surface_degc, air_degc=a.air_degc, rh_frac=a.rh_frac, uncertainty_k=u
    )
    return AirNow(
        place_id=place_id,
        source=a.source,
        read_at=a.read_at,
        air_degc=a.air_degc,
        surface_degc=a.surface_degc,
        rh_frac=a.rh_frac,
        dew_point=dew_point(a.air_degc, a.rh_frac),
        margin=dew_margin(a.surface_degc, a.air_degc, a.rh_frac),
        uncertainty_k=u,
        least_margin_k=limits.dew_margin_k,
        stops=stops,
    )


def ribbon(air: Timeline, from_at: int, to_at: int, *, points: int = 60) -> tuple[RibbonPoint, ...]:
    """Surface above dew point along a stretch of time [K]."""
    at = np.arange(from_at, to_at + 1, max(60, (to_at - from_at) // points))
    seen = air.sample(at)
    margins = seen.surface_degc - condensation_point_degc(seen.air_degc, seen.rh_frac)
    return tuple(
        RibbonPoint(at=int(t), margin_k=round(float(m), 2), assumed=bool(guess))
        for t, m, guess in zip(at, margins, seen.guessed, strict=True)
    )
