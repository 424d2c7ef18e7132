"""What a weather file comes to, whatever it looked like."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass, field
from typing import Literal

from coatlog.errors import Refused

__all__ = ["HIGHEST_DEW_DEGC", "MAX_ROWS", "HourRow", "Manner", "WeatherFile", "zone_of"]

HIGHEST_DEW_DEGC = 35.0  # the highest dew point on record, about 35 °C; value from memory
MAX_ROWS = 9000


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """What a file cannot say of itself.  `hours_from_utc` is for local standard time."""

    lay: Literal["history", "this_year"]
    stamps: Literal["start", "end"] = "start"
    hours_from_utc: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class HourRow:
    """One hour [epoch s of its start], air [degC], humidity over water [-], wind [m/s], dew point as given.

    `over_ice`: below 0 °C the file counted humidity and dew point over ice.
    """

    at: int
    air_degc: float
    rh_frac: float
    surface_degc: float | None = None
    wind_m_s: float | None = None
    rain_mm: float | None = None
    dew_point_degc: float | None = None
    over_ice: bool = False
    month_seam: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class WeatherFile:
    """A file read: its format, rows by time, and what the reader should tell."""

    format: str
    rows: tuple[HourRow, ...]
    notes: tuple[str, ...] = field(default=())


def zone_of(manner: Manner, file_name: str) -> dt.timezone:
    """The zone of a file's own clock, as it was asked.  Raises Refused."""
    hours = manner.hours_from_utc
    if hours is None or not -14 <= hours <= 14:
        raise Refused.field(
            "hours_from_utc",
            hours,
            "hours from UTC, -14 to 14",
            f"{file_name} has local times. Say how many hours its standard time is from UTC (-14 to 14).",
        )
    return dt.timezone(dt.timedelta(hours=hours))
