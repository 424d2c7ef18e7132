"""Reading a data sheet's text: what it may say, each with the line it was read from and its unit.

Nothing here is taken over by itself: a person looks at each line and says yes.  Sheets say the same things
in many words; what is not recognised is not proposed, and nothing is guessed between two readings.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from .label import LABEL_FIELDS

__all__ = ["Proposal", "read_text"]

MOST_LINES = 2000


class _Told(Protocol):
    """Makes the proposals of a value for a field; none where it cannot be."""

    def __call__(
        self, field: str, value: float, shown: str, at_degc: float | None = None
    ) -> list[Proposal]: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """A value that a line seems to give for a field of LABEL_FIELDS, in that field's unit.

    `shown`: the number and unit as the sheet has them.  `line`: from 1; `text`: the line itself.
    """

    field: str
    value: float | None = None
    parts: tuple[float, ...] = ()
    at_degc: float | None = None
    shown: str
    line: int
    text: str


_WORDS = tomllib.loads((Path(__file__).parent / "label_words.toml").read_text(encoding="utf-8"))
_N = r"(\d+(?:[.,]\d+)?)"
_TO: str = _WORDS["range"]
_UNITS_S = {
    "s": 1, "sec": 1, "second": 1, "min": 60, "minute": 60, "h": 3600, "hr": 3600, "hour": 3600,
    "d": 86400, "day": 86400, "week": 604800, "month": 2592000,
}  # fmt: skip
_TIME = r"(seconds?|secs?|minutes?|mins?|hours?|hrs?|h|days?|d|weeks?|months?)\b\.?"
_DURATION = re.compile(rf"{_N}\s*{_TIME}(?:\s*{_N}\s*(minutes?|mins?)\b)?", re.I)
_RANGE = re.compile(rf"{_N}(?:\s*{_TIME})?{_TO}{_N}\s*{_TIME}", re.I)
_TEMP = re.compile(r"(-?\d+(?:[.,]\d+)?)\s*°?\s*([CF])\b(?!\w)")
_TEMPS = re.compile(rf"(-?\d+(?:[.,]\d+)?)\s*°?\s*[CF]?{_TO}(-?\d+(?:[.,]\d+)?)\s*°?\s*([CF])\b")
_FILM = re.compile(rf"{_N}(?:{_TO}{_N})?\s*(µm|μm|um|microns?|mils?)\b", re.I)
_PERCENT = re.compile(rf"{_N}\s*%")
_RATIO = re.compile(rf"{_N}\s*(?::|to|parts?\b[^0-9]{{0,30}}?(?:to|:)?)\s*{_N}(?:\s*(?::|to)\s*{_N})?", re.I)
_DENSITY = re.compile(rf"{_N}\s*(kg/l|kg/dm3|kg/dm³|g/ml|g/cm3|g/cm³|g/cc|lbs?/(?:us\s*)?gal(?:lon)?)", re.I)
_SPREAD = re.compile(
    rf"{_N}\s*(m²/l|m2/l|m² per litre|sq\.?\s*ft\.?/gal|ft²/gal|square feet per gallon)", re.I
)
#: how sheets call what: the first that fits a line says what the line is about
_ABOUT: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (field, re.compile(words, re.I)) for field, words in _WORDS["about"].items()
)
_HIGHEST = re.compile(_WORDS["highest"], re.I)


def read_text(lines: Sequence[str]) -> tuple[Proposal, ...]:
    """What the lines of a data sheet seem to say, in their order; the same thing said twice stands once."""
    out: list[Proposal] = []
    about, since = "", 0
    for n, raw in enumerate(lines[:MOST_LINES], 1):
        text = " ".join(raw.split())
        if not text:
            continue
        for piece in _pieces(text):
            hit = next((f for f, words in _ABOUT if words.search(piece)), "")
            # A heading alone on its line: the value stands below it.
            if hit and not re.search(r"\d", piece):
                about, since = hit, n
                continue
            field = hit or (about if n - since == 1 else "")
            if field:
                out += [p for p in _read(field, piece, n, text) if not _said(p, out)]
    return tuple(out)


def _pieces(text: str) -> list[str]:
    """Sentences of a paragraph, each read by itself; numbers keep their points."""
    return [x for x in re.split(r"(?<=[a-zA-Z%)])[.;]\s+|\s{3,}|\t", text) if x.strip()]


def _said(p: Proposal, out: Sequence[Proposal]) -> bool:
    return any((q.field, q.value, q.parts, q.at_degc) == (p.field, p.value, p.parts, p.at_degc) for q in out)


def _read(about: str, piece: str, line: int, text: str) -> list[Proposal]:
    """Proposals of one piece that is about one thing; those outside what can be are left out."""

    def told(field: str, value: float, shown: str, at_degc: float | None = None) -> list[Proposal]:
        limits = LABEL_FIELDS[field]
        if not limits.least <= value <= limits.most:
            return []
        at = at_degc if limits.timed else None
        return [Proposal(field=field, value=round(value, 6), at_degc=at, shown=shown, line=line, text=text)]

    at_degc = _temp_of(piece)
    if about == "ratio":
        hit = _RATIO.search(piece)
        if hit is None:
            return []
        parts = tuple(_num(x) for x in hit.groups() if x)
        return [Proposal(field="ratio", parts=parts, shown=hit.group().strip(), line=line, text=text)]
    if about == "wet":
        return []  # what it dries to is what is kept
    if about in ("solids", "humidity"):
        percent = _PERCENT.search(piece)
        return told(about, _num(percent[1]) / 100, percent.group()) if percent else []
    if about == "density":
        density = _DENSITY.search(piece)
        if density:
            by = 0.119826 if density[2].lower().startswith("lb") else 1.0
            return told("density", _num(density[1]) * by, density.group())
        bare = re.search(r"gravity\D{0,12}" + _N, piece, re.I)
        return told("density", _num(bare[1]), bare[1]) if bare else []
    if about == "dry":
        film = _FILM.search(piece)
        if film is None:
            return []
        by = 25.4 if film[3].lower().startswith("mil") else 1.0
        low = told("dry_min", _num(film[1]) * by, film.group())
        return low + told("dry_max", _num(film[2] or film[1]) * by, film.group())
    if about == "coverage":
        spread = _SPREAD.search(piece)
        if spread is None:
            return []
        by = 0.09290304 / 3.785411784 if "gal" in spread[2].lower() else 1.0
        return told("coverage", _num(spread[1]) * by, spread.group())
    if about == "surface":
        return _surface(piece, told)
    if about == "coats":
        coats = re.search(rf"{_N}(?:{_TO}{_N})?", piece)
        return told("coats", _num(coats[2] or coats[1]), coats.group()) if coats else []
    if about == "recoat":
        return _recoat(piece, at_degc, told)
    time = _RANGE.search(piece) or _DURATION.search(piece)
    return told(about, _seconds(time, first=about == "pot"), time.group(), at_degc) if time else []


def _recoat(piece: str, at_degc: float | None, told: _Told) -> list[Proposal]:
    both = _RANGE.search(piece)
    if both is not None:
        unit = both[2] or both[4]
        low = told("recoat_from", _num(both[1]) * _unit_s(unit), both.group(), at_degc)
        return low + told("recoat_to", _num(both[3]) * _unit_s(both[4]), both.group(), at_degc)
    out: list[Proposal] = []
    for hit in _DURATION.finditer(piece):
        before = piece[: hit.start()].lower()
        most, least = before.rfind("max"), max(before.rfind("min"), before.rfind("after"))
        within = before.rfind("within")
        field = "recoat_to" if max(most, within) > least else "recoat_from"
        out += told(field, _seconds(hit), hit.group(), at_degc)
    return out


def _surface(piece: str, told: _Told) -> list[Proposal]:
    both = _TEMPS.search(piece)
    if both is not None:
        low = told("surface_min", _degc(both[1], both[3]), both.group())
        return low + told("surface_max", _degc(both[2], both[3]), both.group())
    one = _TEMP.search(piece)
    if one is None:
        return []
    field = "surface_max" if _HIGHEST.search(piece) else "surface_min"
    return told(field, _degc(one[1], one[2]), one.group())


def _num(text: str) -> float:
    return float(text.replace(",", "."))


def _unit_s(word: str) -> int:
    w = word.lower().rstrip(".")
    return _UNITS_S[w[:-1] if w.endswith("s") and len(w) > 1 else w]


def _seconds(hit: re.Match[str], *, first: bool = False) -> float:
    """Seconds of a duration; of a range its end, which is the safe one to wait, or its beginning."""
    if hit.re is _RANGE:
        return _num(hit[1]) * _unit_s(hit[2] or hit[4]) if first else _num(hit[3]) * _unit_s(hit[4])
    return _num(hit[1]) * _unit_s(hit[2]) + (_num(hit[3]) * 60 if hit[3] else 0.0)


def _degc(text: str, scale: str) -> float:
    value = _num(text)
    return round((value - 32) / 1.8, 1) if scale == "F" else value


def _temp_of(piece: str) -> float | None:
    """The temperature a value is given at; None where there is none or more than one."""
    found = [_degc(a, b) for a, b in _TEMP.findall(piece)]
    # "23 °C (73 °F)" is one temperature, said twice.
    return found[0] if found and max(found) - min(found) <= 1.0 else None
