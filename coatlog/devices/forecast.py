"""The forecast feed: one Protocol, and a simulated one for shops without a service."""

from __future__ import annotations

import math
import zlib
from dataclasses import dataclass
from typing import Protocol

__all__ = ["ForecastFeed", "ForecastHour", "SimulatedForecast"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastHour:
    """One hour ahead: start [epoch s], air [degC], humidity over water [-], mean wind at 10 m, rain."""

    at: int
    air_degc: float
    rh_frac: float
    wind_m_s: float
    rain_mm: float


class ForecastFeed(Protocol):
    """Anything that foretells the hours at a place."""

    def read(self, place_id: str, now: int) -> tuple[ForecastHour, ...]:
        """Hours from the current one on.  Raises OSError when the feed does not answer."""
        ...


class SimulatedForecast:
    """An estuary: a day that warms and dries, and a front with rain and wind about every third day.

    Invented, the same answer for the same instant, and labelled simulated wherever it is shown.
    """

    HOURS = 96

    def read(self, place_id: str, now: int) -> tuple[ForecastHour, ...]:
        first = now // 3600 * 3600
        return tuple(self._hour(first + 3600 * i) for i in range(self.HOURS))

    def _hour(self, at: int) -> ForecastHour:
        day = math.sin(2 * math.pi * (at % 86400 - 32400) / 86400)
        front = max(0.0, math.sin(2 * math.pi * at / (3.1 * 86400)) - 0.55) / 0.45
        noise = zlib.crc32(str(at // 3600).encode()) / 2**32 - 0.5
        air = 16.5 + 4.5 * day - 2.5 * front + 0.6 * noise
        rh = min(0.98, max(0.35, 0.62 - 0.17 * day + 0.26 * front + 0.03 * noise))
        return ForecastHour(
            at=at,
            air_degc=round(air, 1),
            rh_frac=round(rh, 3),
            wind_m_s=round(max(0.5, 3.2 + 1.2 * day + 5.0 * front + noise), 1),
            rain_mm=round(max(0.0, 1.8 * front + noise), 1) if front > 0.2 else 0.0,
        )
