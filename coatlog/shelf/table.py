"""Sheets as a table: a row for each, a column for each field by its path, "film.dry_um_max" for one."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Sequence
from typing import Any

from coatlog.core.codec import to_plain
from coatlog.core.sheet import Sheet
from coatlog.errors import Refused

__all__ = ["read_table", "write_table"]

MAX_ROWS = 500
FORMULA = tuple("=+-@\t\r")
NONE = "none"
#: fields whose text stays text, also where it looks like a number
_TEXT = frozenset(
    (
        "material_id",
        "name",
        "kind",
        "grade",
        "law",
        "method_id",
        "text",
        "what",
        "key",
        "step",
        "next",
        "family",
        "resin",
        "unit",
    )
)
_STEP = re.compile(r"([a-z][a-z0-9_]*)(?:\[(\d+)\])?$")


def write_table(sheets: Sequence[Sheet]) -> str:
    """All sheets as CSV, columns in the order fields stand in a sheet; ids and sources are left out."""
    rows = [dict(_cells("", _plain(s))) for s in sheets]
    columns: dict[str, None] = {}
    for row in rows:
        columns.update(dict.fromkeys(row))
    out = io.StringIO()
    writer = csv.DictWriter(out, list(columns), lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def read_table(text: str, file_name: str) -> list[dict[str, Any]]:
    """Documents of sheets from CSV.  Raises Refused naming row, column and what was expected."""
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), strict=True)
    columns = reader.fieldnames or []
    for column in columns:
        if not all(_STEP.match(step) for step in column.split(".")):
            raise Refused.field(
                f"column {column[:60]}", column[:60], "a field of a sheet, film.dry_um_max for one"
            )
    if "material_id" not in columns:
        raise Refused.field("column material_id", "", f"a column material_id in {file_name}")
    docs = []
    try:
        for n, row in enumerate(reader, 2):
            if n > MAX_ROWS + 1:
                raise Refused.field("rows", n - 1, f"{MAX_ROWS} rows at most")
            if None in row or None in row.values():
                raise Refused.field(f"row {n}", len(row), f"{len(columns)} cells, one for each column")
            docs.append(_document(row))
    except csv.Error as bad:
        raise Refused.field(f"row {reader.line_num}", str(bad), "cells that are quoted whole") from None
    if not docs:
        raise Refused.field("rows", 0, "at least one row below the columns")
    return docs


def _plain(sheet: Sheet) -> dict[str, Any]:
    doc: dict[str, Any] = to_plain(sheet)
    for left_out in ("id", "why"):
        doc.pop(left_out, None)
    return doc


def _cells(path: str, value: Any) -> Iterator[tuple[str, str]]:
    """(column, cell) of everything below a value; lists of words are one cell."""
    if isinstance(value, dict):
        for k, v in value.items():
            yield from _cells(f"{path}.{k}" if path else k, v)
    elif isinstance(value, list | tuple):
        if value and isinstance(value[0], dict):
            for i, v in enumerate(value):
                yield from _cells(f"{path}[{i}]", v)
        elif value or path.endswith("fix"):
            # No way to open a window again is not the same as the usual way: it has a word of its own.
            yield path, " | ".join(_word(v) for v in value) or NONE
    elif value is not None:
        yield path, _word(value)


def _word(value: Any) -> str:
    """A cell; a table program must not take a name for a formula, a number below zero stays one."""
    if isinstance(value, str) and value[:1] in FORMULA:
        return f"'{value}"
    return str(value).lower() if isinstance(value, bool) else str(value)


_LISTS = {
    "air_kpa",
    "distance_mm",
    "hazards",
    "serves",
    "never_on",
    "rated_for",
    "made_for",
    "goes_on",
    "over",
    "used_on",
    "first_for",
    "colours",
    "gives",
    "needs_below",
    "fix",
    "key_grit",
}


def _document(row: dict[str, str]) -> dict[str, Any]:
    doc: dict[str, Any] = {}
    for column, cell in row.items():
        if not cell.strip():
            continue
        steps = column.split(".")
        name = steps[-1]
        if name in _LISTS and cell.strip() == NONE:
            value: Any = []
        elif name in _LISTS:
            value = [_read(name, x.strip()) for x in cell.split("|")]
        else:
            value = _read(name, cell.strip())
        _put(doc, steps, value)
    if doc.get("build") == "aid":
        # An aid has none of these, and a table knows no empty list.
        doc = {"components": [], "points": [], "recoat": [], **doc}
    return doc


def _read(name: str, cell: str) -> Any:
    if cell[:1] == "'" and cell[1:2] in FORMULA:
        return cell[1:]
    if name in _TEXT or name in _LISTS - {"air_kpa", "distance_mm", "key_grit"}:
        return cell
    if cell in ("true", "false"):
        return cell == "true"
    try:
        return int(cell)
    except ValueError:
        pass
    try:
        return float(cell)
    except ValueError:
        return cell


def _put(doc: dict[str, Any], steps: Sequence[str], value: Any) -> None:
    at: Any = doc
    for i, step in enumerate(steps):
        if not isinstance(at, dict):
            raise _two_things(steps[:i])
        found = _STEP.match(step)
        assert found is not None
        name, index = found.group(1), found.group(2)
        last = i == len(steps) - 1
        if index is None:
            if last:
                at[name] = value
            else:
                at = at.setdefault(name, {})
            continue
        rows = at.setdefault(name, [])
        if not isinstance(rows, list):
            raise _two_things(steps[: i + 1])
        while len(rows) <= min(int(index), 99):
            rows.append({})
        at = rows[min(int(index), 99)]


def _two_things(steps: Sequence[str]) -> Refused:
    column = ".".join(steps)[:60]
    return Refused.field(f"column {column}", column, "a value, or fields below it, not both")
