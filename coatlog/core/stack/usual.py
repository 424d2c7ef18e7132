"""How the trade usually goes from a ground to a wish, read from `usual.toml`."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from ..codec import from_plain
from .findings import StackLayer, Survey

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


def usual_rank(survey: Survey, layers: Sequence[StackLayer], wanted: Sequence[str]) -> int | None:
    """Which of the usual ways this is, 0 the most usual; None: none of them.  `survey`: as prepared.

    Damage goes before everything else.  Where the trade has no way of its own for it, round the damaged
    places the part goes its usual way: what lies on those alone is not counted.
    """
    rows = [
        row
        for row in WAYS
        if survey.substrate in row.grounds
        and set(row.wish) <= set(wanted)
        and set(row.when) <= _said(survey)
        and not set(row.unless) & {*wanted, *_said(survey)}
    ]
    mends = [row for row in rows if {"bare", "dents", "scratches", "holes"} & set(row.when)]
    rows = mends or rows
    families = [
        tuple(x.sheet.properties.family for x in layers if x.patches_m2 is None or not skips)
        for skips in ((False,) if mends else (False, True))
    ]
    return min((row.ways.index(f) for f in families for row in rows if f in row.ways), default=None)


def _said(survey: Survey) -> set[str]:
    return {*survey.features, *survey.must_survive} | ({"bare"} if survey.bare_mm else set())
