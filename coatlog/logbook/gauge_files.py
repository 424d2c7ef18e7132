"""Files of film gauges: CSV or text with one reading a line, in µm or mil.

A header names the column (thickness, reading, dft, µm, mil) and, where it can, the unit; a column named
part, batch, area or location says where each reading was taken.  Without a header the last number of a
line counts.  Decimal commas are read where the columns stand apart by semicolon or tab.
A file is taken whole or refused whole, naming line, what stands there and what was expected.
"""

from __future__ import annotations

import csv
import io
import re
from dataclasses import dataclass

from coatlog.errors import Refused

__all__ = ["GaugeFile", "GaugeGroup", "read_gauge_file"]

UM_PER_MIL = 25.4
MAX_READINGS = 2000
MOST_UM = 20_000.0
_THICKNESS = re.compile(r"thick|reading|value|dft|film|schicht|dicke|µm|μm|\bum\b|micron|\bmils?\b", re.I)
_WHERE = re.compile(r"^(part|batch|area|location|spot|teil|ort)\b", re.I)
_NUMBERED = re.compile(r"^(no|nr|n|#|index|number|reading no|time|date|zeit|datum)\.?$", re.I)
_MIL, _UM = re.compile(r"\bmils?\b", re.I), re.compile(r"µm|μm|\bum\b|micron", re.I)


@dataclass(frozen=True, slots=True, kw_only=True)
class GaugeGroup:
    """Readings that belong together [um], and where the file says they were taken; "" where it does not."""

    name: str
    um: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class GaugeFile:
    """All a file holds.  `unit`: what its numbers were read as; `unit_said`: the file said so."""

    unit: str
    unit_said: bool
    groups: tuple[GaugeGroup, ...]


def read_gauge_file(data: bytes, name: str, *, unit: str = "um") -> GaugeFile:
    """Readings of a gauge file; `unit`, um or mil, is for one that does not say.  Raises Refused."""
    text = _text(data)
    split = max(";\t,", key=lambda d: (sum(d in line for line in text.splitlines()), d != ","))
    rows = [(i, row) for i, row in enumerate(csv.reader(io.StringIO(text), delimiter=split), 1) if any(row)]
    if not rows:
        raise Refused.field("file", name, "readings, one a line", f"{name}: the file is empty.")
    head = next((k for k, (_, row) in enumerate(rows[:40]) if _column(row) is not None), None)
    column = None if head is None else _column(rows[head][1])
    where = None
    if head is not None:
        where = next(
            (i for i, cell in enumerate(rows[head][1]) if _WHERE.match(cell.strip()) and i != column), None
        )
    named = " ".join(" ".join(row) for _, row in rows[: (head or 0) + 1]) if head is not None else ""
    read_as = "mil" if _MIL.search(named) else "um" if _UM.search(named) else unit
    groups: dict[str, list[float]] = {}
    for line, row in rows[0 if head is None else head + 1 :]:
        value = _value(row, column, split != ",")
        if value is None:
            if head is None or not any(cell.strip() for cell in row) or _is_unit_row(row):
                continue
            if column is not None and column < len(row) and row[column].strip():
                raise Refused.field(
                    f"line {line}", row[column].strip(), "a reading",
                    f"{name}, line {line}: {row[column].strip()[:40]!r} stands there, expected a reading.",
                )  # fmt: skip
            continue
        um = value * (UM_PER_MIL if read_as == "mil" else 1.0)
        if not 0 <= um <= MOST_UM:
            told = f"{name}, line {line}: {value:g} stands there, expected 0 to {MOST_UM:g} µm."
            raise Refused.field(f"line {line}", value, f"0 to {MOST_UM:g} µm", told)
        spot = row[where].strip() if where is not None and where < len(row) else ""
        groups.setdefault(spot, []).append(round(um, 2))
    count = sum(len(v) for v in groups.values())
    if not 1 <= count <= MAX_READINGS:
        told = f"{name}: {count} readings found, expected 1 to {MAX_READINGS}, one a line."
        raise Refused.field("file", count, f"1 to {MAX_READINGS} readings", told)
    said = bool(_MIL.search(named) or _UM.search(named))
    made = tuple(GaugeGroup(name=k, um=tuple(v)) for k, v in groups.items())
    return GaugeFile(unit=read_as, unit_said=said, groups=made)


def _text(data: bytes) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", errors="replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _column(row: list[str]) -> int | None:
    """The column that holds the readings, by its name; None: this line names none."""
    if any(_number(cell, decimal_comma=False) is not None for cell in row):
        return None
    found = [
        i
        for i, cell in enumerate(row)
        if _THICKNESS.search(cell) and not _NUMBERED.match(cell.strip()) and not _WHERE.match(cell.strip())
    ]
    return found[-1] if found and (len(row) > 1 or len(row[0]) < 40) else None


def _is_unit_row(row: list[str]) -> bool:
    return all(
        not cell.strip() or _MIL.fullmatch(cell.strip()) or _UM.fullmatch(cell.strip()) for cell in row
    )


def _value(row: list[str], column: int | None, decimal_comma: bool) -> float | None:
    if column is not None:
        return _number(row[column], decimal_comma=decimal_comma) if column < len(row) else None
    numbers = [x for cell in row if (x := _number(cell, decimal_comma=decimal_comma)) is not None]
    return numbers[-1] if numbers else None


def _number(cell: str, *, decimal_comma: bool) -> float | None:
    text = re.sub(r"(µm|μm|um|mils?)$", "", cell.strip(), flags=re.I).strip()
    if decimal_comma:
        text = text.replace(",", ".")
    return float(text) if re.fullmatch(r"[-+]?\d+(\.\d+)?", text) else None
