"""How the trade usually goes from a ground to a wish, read from `usual.toml`."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from ..codec import from_plain
from ..sheet import Sheet
from .findings import Survey

__all__ = ["WAYS", "Way", "usual_rank"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """On these `grounds`, as prepared, for at least this `wish`: families from the ground up, best first.

    `when`: features and exposures that must all be named, "bare" for bare patches; `unless`: words of the
    wish, features and exposures that bar it.
    """

    grounds: tuple[str, ...]
    wish: tuple[str, ...]
    ways: tuple[tuple[str, ...], ...]
    when: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()


@lru_cache(maxsize=1)
def _read() -> tuple[Way, ...]:
    text = (Path(__file__).parent / "usual.toml").read_text(encoding="utf-8")
    return tuple(from_plain(Way, row) for row in tomllib.loads(text)["way"])


WAYS = _read()


def usual_rank(survey: Survey, sheets: Sequence[Sheet], wanted: Sequence[str]) -> int | None:
    """Which of the usual ways this is, 0 the most usual; None: none of them.  `survey`: as prepared."""
    families = tuple(s.properties.family for s in sheets)
    said = {*survey.features, *survey.must_survive} | ({"bare"} if survey.bare_mm else set())
    ranks = [
        row.ways.index(families)
        for row in WAYS
        if survey.substrate in row.grounds
        and set(row.wish) <= set(wanted)
        and set(row.when) <= said
        and not set(row.unless) & {*wanted, *said}
        and families in row.ways
    ]
    return min(ranks, default=None)
