"""Hourly weather files: the public TMY3 format, and a plain CSV of our own.

TMY3 (a public format for typical meteorological years): line 1 station, name, state, hours from
UTC, latitude, longitude, elevation; line 2 column names; then one line an hour, hour-ending, in
local *standard* time, with hour 24:00, years mixed month by month, -9900 for missing.
Plain CSV: a header with time_utc (ISO 8601 with Z), air_degc, rh_frac, and if known surface_degc,
wind_m_s; the time is the start of the hour.

A file is taken whole or refused whole, naming line, column, what stands there and what was expected.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import itertools
from collections.abc import Callable
from dataclasses import dataclass, field

from coatlog.core.climate import saturation_kpa
from coatlog.errors import Refused

__all__ = ["HourRow", "WeatherFile", "read_weather"]

MISSING = -9900.0
MAX_ROWS = 9000


@dataclass(frozen=True, slots=True, kw_only=True)
class HourRow:
    """One hour [epoch s of its start], air [degC], humidity [-], wind [m/s], dew point as given."""

    at: int
    air_degc: float
    rh_frac: float
    surface_degc: float | None = None
    wind_m_s: float | None = None
    dew_point_degc: float | None = None
    month_seam: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class WeatherFile:
    """A file read: its format, rows by time, and what the reader should tell."""

    format: str
    rows: tuple[HourRow, ...]
    notes: tuple[str, ...] = field(default=())


def read_weather(data: bytes, file_name: str, *, year: int) -> WeatherFile:
    """Read a weather file.  A typical year is laid onto `year`.  Raises Refused."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as bad:
        raise Refused.field(
            "file",
            f"byte {data[bad.start]:#04x} at position {bad.start}",
            "UTF-8 text",
            f"{file_name}: not a text file. Byte {bad.start} is not UTF-8. Save it as CSV (UTF-8).",
        ) from None
    lines = text.splitlines()
    if not any(line.strip() for line in lines):
        raise Refused.field(
            "file", "an empty file", "a header and one line an hour", f"{file_name} is empty."
        )
    if lines[0].lower().startswith("time_utc"):
        return _plain(lines, file_name)
    if len(lines) > 1 and lines[1].startswith("Date (MM/DD/YYYY)"):
        return _tmy3(lines, file_name, year)
    raise Refused.field(
        "file",
        lines[0][:80],
        "a TMY3 file, or a CSV whose header starts with time_utc",
        f"{file_name}: neither format is recognised. Expected TMY3, or a CSV with the header "
        "time_utc,air_degc,rh_frac (and surface_degc, wind_m_s if known).",
    )


class _Line:
    """One line of a file, whose cells refuse in words."""

    def __init__(self, file_name: str, number: int, cells: dict[str, str]) -> None:
        self.file_name, self.number, self.cells = file_name, number, cells

    def refuse(self, column: str, expected: str) -> Refused:
        given = self.cells.get(column)
        return Refused.field(
            f"line {self.number}, column {column}",
            given,
            expected,
            f"{self.file_name}, line {self.number}, column {column}: {given!r} stands there, "
            f"expected {expected}. Nothing was imported.",
        )

    def number_in(self, column: str, low: float, high: float, unit: str) -> float:
        expected = f"a number from {low:g} to {high:g} {unit}".strip()
        try:
            value = float(self.cells.get(column, ""))
        except ValueError:
            raise self.refuse(column, expected) from None
        if not low <= value <= high:
            raise self.refuse(column, expected)
        return value


def _table(lines: list[str], skip: int, needed: tuple[str, ...], file_name: str) -> list[_Line]:
    reader = csv.reader(io.StringIO("\n".join(lines[skip:])))
    header = next(reader, [])
    for name in needed:
        if name not in header:
            raise Refused.field(
                f"column {name}",
                ", ".join(header)[:200],
                f"a column {name}",
                f"{file_name}: column {name} is missing. Its header has: {', '.join(header)[:200]}.",
            )
    out = []
    for i, cells in enumerate(reader, skip + 2):
        if not cells:
            continue
        if len(cells) != len(header):
            raise Refused.field(
                f"line {i}",
                f"{len(cells)} columns",
                f"{len(header)} columns",
                f"{file_name}, line {i}: {len(cells)} columns, expected {len(header)}. Nothing was imported.",
            )
        out.append(_Line(file_name, i, dict(zip(header, cells, strict=True))))
        if len(out) > MAX_ROWS:
            raise Refused.field(
                "file",
                f"more than {MAX_ROWS} lines",
                "a year of hours at most",
                f"{file_name}: more than {MAX_ROWS} lines. Import a year at most at a time.",
            )
    if not out:
        raise Refused.field(
            "file", "no lines after the header", "one line an hour", f"{file_name}: no hours in it."
        )
    return out


def _plain(lines: list[str], file_name: str) -> WeatherFile:
    rows: list[HourRow] = []
    for line in _table(lines, 0, ("time_utc", "air_degc", "rh_frac"), file_name):
        at = _utc(line)
        if rows and at <= rows[-1].at:
            raise line.refuse("time_utc", "a time after the line before")
        rows.append(
            HourRow(
                at=at,
                air_degc=line.number_in("air_degc", -60, 60, "°C"),
                rh_frac=line.number_in("rh_frac", 0.001, 1, "(a fraction, not percent)"),
                surface_degc=_optional(line, "surface_degc", -60, 120, "°C"),
                wind_m_s=_optional(line, "wind_m_s", 0, 100, "m/s"),
            )
        )
    return WeatherFile(format="csv", rows=tuple(rows), notes=_gaps(rows))


def _optional(line: _Line, column: str, low: float, high: float, unit: str) -> float | None:
    return line.number_in(column, low, high, unit) if line.cells.get(column, "").strip() else None


def _utc(line: _Line) -> int:
    text = line.cells["time_utc"].strip()
    try:
        moment = dt.datetime.fromisoformat(text.replace("Z", "+00:00"))
        if moment.tzinfo is None:
            raise ValueError
    except ValueError:
        raise line.refuse("time_utc", "a time like 2026-03-01T09:00:00Z") from None
    return int(moment.timestamp())


def _tmy3(lines: list[str], file_name: str, year: int) -> WeatherFile:
    station = next(csv.reader([lines[0]]))
    head = _Line(file_name, 1, {"hours from UTC": station[3] if len(station) > 3 else ""})
    zone = dt.timezone(dt.timedelta(hours=head.number_in("hours from UTC", -14, 14, "h")))
    needed = ("Date (MM/DD/YYYY)", "Time (HH:MM)", "Dry-bulb (C)", "RHum (%)")
    rows: list[HourRow] = []
    filled = 0
    for line in _table(lines, 1, needed, file_name):
        start = _hour_start(line, year, zone)
        if start is None:  # 29 February of a typical year laid onto a year without one
            continue
        if rows and start <= rows[-1].at:
            raise line.refuse("Time (HH:MM)", "an hour after the line before")
        if rows and start - rows[-1].at > 3600 and not _is_leap_gap(rows[-1].at, start, zone):
            raise line.refuse("Time (HH:MM)", "the hour after the line before; an hour is missing")
        air = line.number_in("Dry-bulb (C)", -9900, 60, "°C")
        rh = line.number_in("RHum (%)", -9900, 100, "%")
        if air <= MISSING or rh <= MISSING or rh <= 0:
            filled += 1
            if not rows:
                raise line.refuse("Dry-bulb (C)", "a value in the first hour")
            air, rh = rows[-1].air_degc, rows[-1].rh_frac * 100
        if air < 0:  # the format counts humidity over ice there, everything here over water
            rh *= float(saturation_kpa(air, over_ice=True) / saturation_kpa(air))
        dew = _optional(line, "Dew-point (C)", -9900, 60, "°C")
        wind = _optional(line, "Wspd (m/s)", -9900, 100, "m/s")
        rows.append(
            HourRow(
                at=start,
                air_degc=air,
                rh_frac=rh / 100,
                wind_m_s=None if wind is None or wind <= MISSING else wind,
                dew_point_degc=None if dew is None or dew <= MISSING else dew,
                month_seam=_near_seam(start, zone),
            )
        )
    offset = head.cells["hours from UTC"]
    notes = [f"Typical year laid onto {year}; hour-ending, standard time {offset} h from UTC."]
    if filled:
        notes.append(f"{filled} hours had no value and carry the hour before.")
    return WeatherFile(format="tmy3", rows=tuple(rows), notes=tuple(notes))


def _hour_start(line: _Line, year: int, zone: dt.timezone) -> int | None:
    """Start of the hour that ends at the stated time; 24:00 is midnight at the day's end."""
    day_text, hour_text = line.cells["Date (MM/DD/YYYY)"], line.cells["Time (HH:MM)"]
    try:
        month, day, _ = (int(p) for p in day_text.split("/"))
        dt.date(2024, month, day)
    except ValueError:
        raise line.refuse("Date (MM/DD/YYYY)", "a date as MM/DD/YYYY") from None
    try:
        hour, minute = (int(p) for p in hour_text.split(":"))
        if not (1 <= hour <= 24 and minute == 0):
            raise ValueError
    except ValueError:
        raise line.refuse("Time (HH:MM)", "a full hour from 01:00 to 24:00") from None
    try:
        midnight = dt.datetime(year, month, day, tzinfo=zone)
    except ValueError:
        return None
    return int(midnight.timestamp()) + (hour - 1) * 3600


def _is_leap_gap(before: int, after: int, zone: dt.timezone) -> bool:
    first, second = (dt.datetime.fromtimestamp(t, zone) for t in (before, after))
    return (first.month, second.month) == (2, 3) and after - before == 25 * 3600


def _near_seam(at: int, zone: dt.timezone) -> bool:
    """Within 8 h of a month's join, where a typical year is smoothed from one year to another."""
    probe: Callable[[int], int] = lambda t: dt.datetime.fromtimestamp(t, zone).month  # noqa: E731
    return probe(at - 8 * 3600) != probe(at + 9 * 3600 - 1)


def _gaps(rows: list[HourRow]) -> tuple[str, ...]:
    gaps = sum(1 for a, b in itertools.pairwise(rows) if b.at - a.at > 3600)
    return (f"{gaps} gaps of more than an hour; nothing is invented for them.",) if gaps else ()
