"""Weather files: the public TMY3 format, a plain CSV of our own, and what loggers write (see `logger_files`).

TMY3 (a public format for typical meteorological years): line 1 station, name, state, hours from
UTC, latitude, longitude, elevation; line 2 column names; then one line an hour, hour-ending, in
local *standard* time, with hour 24:00, years mixed month by month, -9900 for missing.
Plain CSV: a header with time_utc (ISO 8601 with Z) or time_local (local standard time all year,
whose hours from UTC are asked), air_degc or air_degf, rh_frac, and if known surface_degc or surface_degf,
wind_m_s, rain_mm.  Temperatures under °C that no air on earth has with that humidity are refused.
Below 0 °C a TMY3 file counts humidity over ice in some months and over water in others, as its months come
from different decades: the dew point column of each month tells.
Whether a time is the start or the end of its hour, and whether the hours happened or are a typical
year to lay onto this one, is asked: the file cannot say.

A file is taken whole or refused whole, naming line, column, what stands there and what was expected.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import itertools
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from coatlog.core.climate import dew_point_degc, frost_point_degc, saturation_kpa
from coatlog.errors import Refused

from .logger_files import is_logger_file, read_logger
from .weather_rows import HIGHEST_DEW_DEGC, MAX_ROWS, HourRow, Manner, WeatherFile, zone_of

__all__ = ["HourRow", "Manner", "WeatherFile", "read_weather"]

MISSING = -9900.0


def read_weather(data: bytes, file_name: str, *, year: int, manner: Manner) -> WeatherFile:
    """Read a weather file; `manner.lay` "this_year" lays it onto `year`.  Raises Refused."""
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
    if lines[0].lower().startswith(("time_utc", "time_local")):
        return _plain(lines, file_name, year, manner)
    if len(lines) > 1 and lines[1].startswith("Date (MM/DD/YYYY)"):
        if manner.lay == "history":
            raise Refused.field(
                "lay",
                "history",
                "this_year",
                f"{file_name} is a typical year: its months come from different years and never happened "
                "in a row. Lay it onto this year.",
            )
        return _tmy3(lines, file_name, year)
    if is_logger_file(lines):
        return read_logger(lines, file_name, manner)
    raise Refused.field(
        "file",
        lines[0][:80],
        "a TMY3 file, a CSV whose header starts with time_utc or time_local, or a logger's file",
        f"{file_name}: no format is recognised. Expected TMY3, a CSV with the header "
        "time_utc,air_degc,rh_frac (and surface_degc, wind_m_s, rain_mm if known), or a logger's file whose "
        "header names time, temperature and humidity.",
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


def _plain(lines: list[str], file_name: str, year: int, manner: Manner) -> WeatherFile:
    rows: list[HourRow] = []
    column = "time_utc" if lines[0].lower().startswith("time_utc") else "time_local"
    zone = _zone(column, manner, file_name)
    header = [name.strip() for name in lines[0].split(",")]
    air = "air_degf" if "air_degf" in header and "air_degc" not in header else "air_degc"
    surface = "surface_degf" if "surface_degf" in header else "surface_degc"
    for line in _table(lines, 0, (column, air, "rh_frac"), file_name):
        at = _instant(line, column, zone, year if manner.lay == "this_year" else None)
        if at is None:  # 29 February laid onto a year without one
            continue
        if manner.stamps == "end":
            at -= 3600
        if rows and at <= rows[-1].at:
            raise line.refuse(column, "a time after the line before")
        air_degc = _degc(line, air, -60, 60)
        rh_frac = line.number_in("rh_frac", 0.001, 1, "(a fraction, not percent)")
        if air_degc > 0 and float(dew_point_degc(air_degc, rh_frac)) > HIGHEST_DEW_DEGC:
            dew = float(dew_point_degc(air_degc, rh_frac))
            raise line.refuse(
                air,
                f"air in °C: with this humidity its dew point would be {dew:.0f} °C, and none above "
                f"{HIGHEST_DEW_DEGC:.0f} °C was ever measured. If these are °F, name the column air_degf",
            )
        rows.append(
            HourRow(
                at=at,
                air_degc=air_degc,
                rh_frac=rh_frac,
                surface_degc=_degc(line, surface, -60, 120) if line.cells.get(surface, "").strip() else None,
                wind_m_s=_optional(line, "wind_m_s", 0, 100, "m/s"),
                rain_mm=_optional(line, "rain_mm", 0, 500, "mm"),
            )
        )
    told = "Typical year laid onto " + str(year) if manner.lay == "this_year" else "Hours as they happened"
    told += f"; times are the {manner.stamps} of the hour"
    told += "." if column == "time_utc" else f", local standard time {manner.hours_from_utc:g} h from UTC."
    return WeatherFile(format="csv", rows=tuple(rows), notes=(told, *_gaps(rows)))


def _zone(column: str, manner: Manner, file_name: str) -> dt.timezone:
    return dt.UTC if column == "time_utc" else zone_of(manner, file_name)


def _optional(line: _Line, column: str, low: float, high: float, unit: str) -> float | None:
    return line.number_in(column, low, high, unit) if line.cells.get(column, "").strip() else None


def _degc(line: _Line, column: str, low: float, high: float) -> float:
    """A temperature [degC] from a column in °C, or in °F as its name says."""
    if not column.endswith("_degf"):
        return line.number_in(column, low, high, "°C")
    return round((line.number_in(column, 1.8 * low + 32, 1.8 * high + 32, "°F") - 32) / 1.8, 2)


def _instant(line: _Line, column: str, zone: dt.timezone, year: int | None) -> int | None:
    """The stated time [epoch s], laid onto `year` if given; None for a day that year lacks."""
    text = line.cells[column].strip()
    try:
        moment = dt.datetime.fromisoformat(text.replace("Z", "+00:00"))
        if (moment.tzinfo is None) is (column == "time_utc"):
            raise ValueError
    except ValueError:
        with_zone = "2026-03-01T09:00:00Z" if column == "time_utc" else "2026-03-01T09:00 without a zone"
        raise line.refuse(column, f"a time like {with_zone}") from None
    moment = moment.astimezone(zone) if moment.tzinfo else moment.replace(tzinfo=zone)
    if year is not None:
        try:
            moment = moment.replace(year=year)
        except ValueError:
            return None
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
    rows, iced = _over_water(rows, zone)
    offset = head.cells["hours from UTC"]
    notes = [f"Typical year laid onto {year}; hour-ending, standard time {offset} h from UTC."]
    if iced:
        notes.append(
            f"Below 0 °C humidity is over ice in {iced} months, by their dew points; here over water."
        )
    if filled:
        notes.append(f"{filled} hours had no value and carry the hour before.")
    return WeatherFile(format="tmy3", rows=tuple(rows), notes=tuple(notes))


def _over_water(rows: list[HourRow], zone: dt.timezone) -> tuple[list[HourRow], int]:
    """Humidity over water also below 0 °C; how many months had it over ice, as their dew points say.

    A month without dew points is taken as over ice, which the format asks for.
    """
    by_month: dict[int, list[int]] = {}
    for i, r in enumerate(rows):
        by_month.setdefault(dt.datetime.fromtimestamp(r.at, zone).month, []).append(i)
    out, iced = list(rows), 0
    for month in by_month.values():
        cold = [i for i in month if rows[i].air_degc < 0]
        told = [i for i in cold if rows[i].dew_point_degc is not None and not rows[i].month_seam]
        t = np.array([rows[i].air_degc for i in told])
        rh = np.array([rows[i].rh_frac for i in told])
        dew = np.array([rows[i].dew_point_degc for i in told], dtype=np.float64)
        ice_rh = np.minimum(1.0, rh * saturation_kpa(t, over_ice=True) / saturation_kpa(t))
        off_water = np.abs(dew_point_degc(t, rh) - dew).sum()
        off_ice = np.abs(frost_point_degc(t, ice_rh) - dew).sum()
        if off_water < off_ice:
            continue
        iced += bool(cold)
        for i in month:
            air, frac = rows[i].air_degc, rows[i].rh_frac
            if air < 0:
                frac = min(1.0, frac * float(saturation_kpa(air, over_ice=True) / saturation_kpa(air)))
            out[i] = replace(rows[i], rh_frac=frac, over_ice=True)
    return out, iced


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
    """Each gap with its place, the first three of them; nothing is invented for the hours missing."""
    gaps = [(a.at + 3600, b.at) for a, b in itertools.pairwise(rows) if b.at - a.at > 3600]
    told = [
        f"Gap of {(to - start) // 3600} h from {dt.datetime.fromtimestamp(start, dt.UTC):%Y-%m-%d %H:%M} UTC"
        for start, to in gaps[:3]
    ]
    if len(gaps) > 3:
        told.append(f"and {len(gaps) - 3} more gaps")
    return (", ".join(told) + "; left empty.",) if told else ()
