"""Files of climate loggers, as their programs write them: every few minutes air, humidity, maybe the surface.

No two write alike, so what is what is read off the header by its words and units: lines before it are
skipped, columns may be parted by comma, semicolon or tab, decimals by point or comma, humidity be in percent
or a fraction, temperatures in °C, or in °F where the header says so.  A date whose day and month could be
either way round is refused with a question, never guessed.
"""

from __future__ import annotations

import csv
import datetime as dt
import itertools
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from coatlog.core.climate import dew_point_degc
from coatlog.errors import Refused

from .weather_rows import HIGHEST_DEW_DEGC, MAX_ROWS, HourRow, Manner, WeatherFile, zone_of

__all__ = ["is_logger_file", "read_logger"]

HEADER_WITHIN = 60  # lines a logger writes of itself first
HOTTEST_DEGC = 60.0  # of air a spray shop meets; an oven's is no climate
#: Longest step between two lines that is one recording [s].
LONGEST_STEP_S = 3600
#: What a column is, by the words for it; the first that fits, and none twice.
WORDS = {
    "dew": r"dew|taupunkt",
    "surface": r"surface|substrate|object|oberfl|objekt|steel",
    "rh": r"humid|feucht|%\s*rh|rel\.?\s*h|\brh\b",
    "air": r"temp|\bair\b|\bluft|°\s*[cf]\b|celsius",
    "time": r"date|time|datum|zeit|stamp",
    "wind": r"wind",
}
FORMS = ("%Y-%m-%d %H:%M:%S", "%Y-%m-%d %H:%M", "%Y/%m/%d %H:%M:%S", "%Y/%m/%d %H:%M")
DAY_FIRST = ("%d.%m.%Y %H:%M:%S", "%d.%m.%Y %H:%M", "%d.%m.%y %H:%M:%S", "%d.%m.%y %H:%M")
#: With a slash or a dash either may stand first: 03/04/2026.
EITHER = re.compile(
    r"^(\d{1,2})[/-](\d{1,2})[/-](\d{4}|\d{2})[ T](\d{1,2}:\d{2}(?::\d{2})?)(?: ?([AP]M))?$", re.I
)


@dataclass(frozen=True, slots=True)
class _Layout:
    """Where the header stands [line from 1], what parts the cells, and which column is what."""

    line: int
    part: str
    names: tuple[str, ...]
    at: dict[str, list[int]]

    def name(self, what: str) -> str:
        return self.names[self.at[what][0]]


def is_logger_file(lines: Sequence[str]) -> bool:
    """Whether a header is there that names a time, the air and its humidity."""
    return _layout(lines) is not None


def _layout(lines: Sequence[str]) -> _Layout | None:
    for number, line in enumerate(lines[:HEADER_WITHIN], 1):
        for part in (";", "\t", ","):
            names = tuple(c.strip() for c in next(csv.reader([line], delimiter=part), []))
            if len(names) < 3:
                continue
            at: dict[str, list[int]] = {}
            for i, name in enumerate(names):
                what = next((k for k, words in WORDS.items() if re.search(words, name, re.I)), None)
                if what and (what not in at or what == "time"):  # day and hour may stand apart
                    at.setdefault(what, []).append(i)
            if {"time", "air", "rh"} <= at.keys():
                return _Layout(number, part, names, at)
    return None


def read_logger(lines: Sequence[str], file_name: str, manner: Manner) -> WeatherFile:
    """Read a logger's file whole, or refuse it whole.  Times are the logger's own clock.  Raises Refused."""
    layout = _layout(lines)
    assert layout is not None
    if manner.lay != "history":
        raise Refused.field("lay", manner.lay, "history", f"{file_name} was measured: it is no typical year.")
    zone = zone_of(manner, file_name)
    table = [
        (number, [c.strip() for c in cells])
        for number, line in enumerate(lines[layout.line :], layout.line + 1)
        if line.strip() and (cells := next(csv.reader([line], delimiter=layout.part), []))
    ]
    if not table:
        raise Refused.field(
            "file", "no lines after the header", "readings", f"{file_name}: no readings in it."
        )
    if len(table) > MAX_ROWS * 6:
        told = f"{file_name}: more than {MAX_ROWS * 6} lines. Import a part of it at a time."
        raise Refused.field("file", f"{len(table)} lines", f"at most {MAX_ROWS * 6}", told)
    read = _Cells(file_name, layout)
    instant = read.clock([c for _, c in table], zone)
    rows: list[HourRow] = []
    for number, cells in table:
        if len(cells) < len(layout.names):
            raise read.refused(number, "line", layout.part.join(cells)[:80], f"{len(layout.names)} columns")
        at = instant(number, cells)
        if rows and at == rows[-1].at:
            continue  # an hour set back, or a line written twice: the first counts
        if rows and at < rows[-1].at:
            raise read.refused(number, layout.name("time"), read.time(cells), "a time after the line before")
        air = read.degc("air", number, cells)
        rh = read.fraction(number, cells)
        if air > HOTTEST_DEGC or (air > 0 and float(dew_point_degc(air, rh)) > HIGHEST_DEW_DEGC):
            raise read.refused(
                number,
                layout.name("air"),
                str(air),
                "°C: no such air was ever measured. Name °F in the header",
            )
        surface = read.degc("surface", number, cells) if "surface" in layout.at else None
        wind = read.number("wind", number, cells, 0, 100) if "wind" in layout.at else None
        rows.append(HourRow(at=at, air_degc=air, rh_frac=rh, surface_degc=surface, wind_m_s=wind))
    steps = sorted(b.at - a.at for a, b in itertools.pairwise(rows))
    every = steps[len(steps) // 2] if steps else 0
    gaps = [s for s in steps if s > max(3 * every, LONGEST_STEP_S)]
    columns = ", ".join(
        f"{what}: {layout.name(what)}" for what in ("time", "air", "rh", "surface") if what in layout.at
    )
    notes = [f"A logger's file, a reading every {round(every / 60)} min. {columns}."]
    if gaps:
        notes.append(f"{len(gaps)} gaps, the longest {max(gaps) // 3600} h; left empty.")
    return WeatherFile(format="logger", rows=tuple(rows), notes=tuple(notes))


@dataclass(frozen=True, slots=True)
class _Cells:
    """The cells of a line by what they are, refusing in words."""

    file_name: str
    layout: _Layout

    def refused(self, number: int, column: str, given: str, expected: str) -> Refused:
        told = (
            f"{self.file_name}, line {number}, column {column}: {given!r} stands there, expected {expected}. "
            "Nothing was imported."
        )
        return Refused.field(f"line {number}, column {column}", given, expected, told)

    def number(self, what: str, number: int, cells: list[str], low: float, high: float) -> float:
        text = cells[self.layout.at[what][0]]
        plain = text.removesuffix("%").strip()
        if self.layout.part != ",":
            plain = plain.replace(",", ".")
        try:
            value = float(plain)
        except ValueError:
            value = float("nan")
        if not low <= value <= high:
            raise self.refused(number, self.layout.name(what), text, f"a number from {low:g} to {high:g}")
        return value

    def degc(self, what: str, number: int, cells: list[str]) -> float:
        if re.search(r"°\s*f\b|\bdegf\b|fahrenheit|\(f\)", self.layout.name(what), re.I):
            return round((self.number(what, number, cells, -40, 248) - 32) / 1.8, 2)
        return self.number(what, number, cells, -40, 120)

    def fraction(self, number: int, cells: list[str]) -> float:
        """Humidity [-]: percent where the header says so or any value is over 1."""
        value = self.number("rh", number, cells, 0.001, 100)
        whole = "%" in self.layout.name("rh") or value > 1
        return round(value / 100, 4) if whole else value

    def time(self, cells: list[str]) -> str:
        return " ".join(cells[i] for i in self.layout.at["time"] if i < len(cells))

    def clock(self, table: list[list[str]], zone: dt.tzinfo) -> Callable[[int, list[str]], int]:
        """How the times of this file are read, all of them the same way."""
        month_first = self._month_first([self.time(c) for c in table])

        def instant(number: int, cells: list[str]) -> int:
            text = self.time(cells)
            moment = _moment(text, month_first)
            if moment is None:
                raise self.refused(
                    number, self.layout.name("time"), text, "a date and a time, as 2026-03-01 09:10"
                )
            return int((moment if moment.tzinfo else moment.replace(tzinfo=zone)).timestamp())

        return instant

    def _month_first(self, times: list[str]) -> bool:
        """Whether 03/04 is the fourth of March, as a day over 12 somewhere in the file shows."""
        pairs = [(int(m[1]), int(m[2])) for t in times if (m := EITHER.match(t))]
        if not pairs:
            return False
        day_first, month_first = any(a > 12 for a, _ in pairs), any(b > 12 for _, b in pairs)
        # Readings of one stay go on from day to day: the number that changes is the day.
        if day_first == month_first:
            moves = {a for a, _ in pairs}, {b for _, b in pairs}
            if (len(moves[0]) > 1) is not (len(moves[1]) > 1):
                return len(moves[1]) > 1
            expected = "a day over 12 somewhere, or dates as 2026-03-01"
            told = (
                f"{self.file_name}: {times[0]!r} may be day and month or month and day. Export it with dates "
                "as 2026-03-01, or a stretch that goes past the twelfth."
            )
            raise Refused.field(f"column {self.layout.name('time')}", times[0], expected, told)
        return month_first


def _moment(text: str, month_first: bool) -> dt.datetime | None:
    """A time as the logger's clock shows it, without a zone unless it names one."""
    if m := EITHER.match(text):
        a, b, year = int(m[1]), int(m[2]), int(m[3])
        month, day = (a, b) if month_first else (b, a)
        hour, minute, second = (*(int(x) for x in m[4].split(":")), 0)[:3]
        if m[5]:
            hour = hour % 12 + (12 if m[5].upper() == "PM" else 0)
        try:
            return dt.datetime(year + 2000 * (year < 100), month, day, hour, minute, second)  # noqa: DTZ001
        except ValueError:
            return None
    try:
        return dt.datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        pass
    for form in (*FORMS, *DAY_FIRST):
        try:
            return dt.datetime.strptime(text, form)  # noqa: DTZ007
        except ValueError:
            continue
    return None
