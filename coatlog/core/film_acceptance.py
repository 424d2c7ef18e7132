"""Whether a dry film that was measured is thick enough: readings of a part against its nominal film."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from .errors import require
from .stack.surfaces import Substrate

__all__ = [
    "SPOT_LEVELS",
    "Beneath",
    "FilmInspection",
    "Shortfall",
    "SpotInspection",
    "SpotShortfall",
    "SpotVerdict",
    "beneath",
    "inspect_film",
    "inspect_spots",
    "readings_wanted",
    "spots_wanted",
]

#: which part of the rule a film fails
Shortfall = Literal["too_few", "mean_low", "reading_low", "many_under", "over_most"]

#: what makes a gauge read more, or less, than was put on
Beneath = Literal["", "old_film", "plating", "soft"]

_WANTED = ((1.0, 5), (3.0, 10), (10.0, 15), (30.0, 20), (100.0, 30))
LOWEST_FRAC = 0.8
UNDER_FRAC = 0.2
_SKINNED = ("painted_plastic", "gelcoat", "new_gelcoat")
THIN_UM, MOST_THIN, MOST_THICK = 60.0, 3.0, 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmInspection:
    """Readings of one part after correction [um], and what of the rule they fail; nothing fails: accepted.

    `low_at`: which of the readings, counted from 1, are under 80 % of nominal.
    """

    n: int
    wanted: int
    mean_um: float
    sd_um: float | None
    lowest_um: float
    highest_um: float
    nominal_um: float
    most_um: float
    under_nominal: int
    correction_um: float
    fails: tuple[Shortfall, ...]
    low_at: tuple[int, ...] = ()


#: how far a spot may stray: share of the least film, share of the most; None: no bound.  Level 3 is usual
SPOT_LEVELS: dict[int, tuple[float, float | None]] = {
    1: (1.0, 1.0),
    2: (1.0, 1.2),
    3: (0.8, 1.2),
    4: (0.8, 1.5),
    5: (0.8, None),
}
#: which part of the rule the spots fail
SpotShortfall = Literal["too_few_spots", "lot_low", "lot_high", "spot_low", "spot_high"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotVerdict:
    """What of the rule fails at one level; nothing: accepted."""

    level: int
    fails: tuple[SpotShortfall, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotInspection:
    """Spots of one part after correction [um], with a verdict for each level.

    `low_at`: which of the spots, counted from 1, are under 80 % of the least film.
    """

    spots: int
    wanted: int
    least_um: float
    most_um: float
    lowest_um: float
    highest_um: float
    low_at: tuple[int, ...]
    verdicts: tuple[SpotVerdict, ...]


def readings_wanted(area_m2: float) -> int:
    """How many readings an area [m2] asks for.

    5 up to 1 m2, 10 to 3, 15 to 10, 20 to 30, 30 to 100, then 10 more for each 100 m2.

    Raises OutOfRange for an area that is not above 0.
    Source: ISO 19840, from memory.
    """
    require(0 < area_m2 <= 1e6, "area_m2", area_m2, "an area above 0 m²")
    for most, n in _WANTED:
        if area_m2 <= most:
            return n
    return 30 + 10 * -int(-(area_m2 - 100.0) // 100.0)


def beneath(surface: Substrate, *, bared: bool) -> Beneath:
    """What of a surface the gauge reads along with the new film, so that nothing can be said of it.

    `bared`: it was stripped or blasted, and somebody ticked it.  Paint, gelcoat and plating add to each
    reading; cloth and rubber give way under the probe.
    Source: common practice, no published source.
    """
    if surface.metal in ("zinc", "chrome"):
        return "plating"
    if surface.group in ("fabric", "rubber"):
        return "soft"
    painted = surface.group == "paint" or surface.coat or surface.id in _SKINNED
    return "old_film" if painted and not bared else ""


def inspect_film(
    readings_um: Sequence[float], nominal_um: float, *, area_m2: float, correction_um: float = 0.0
) -> FilmInspection:
    """Judge the dry film of a part.

    `readings_um`: as the gauge gave them [um]; `nominal_um`: what the system was to build; `correction_um`:
    taken off each reading for a blast profile (25 where it is not known).  Mean at least nominal, each
    reading at least 80 % of it, fewer than 20 % of them under it, none above three times nominal (twice
    where that is above 60 um).

    Raises OutOfRange without readings, or for a nominal film that is not above 0.
    Source: ISO 19840, maximum from ISO 12944-5; both from memory, and made for steelwork.
    """
    require(len(readings_um) > 0, "readings_um", len(readings_um), "one reading or more")
    require(nominal_um > 0, "nominal_um", nominal_um, "a film above 0 µm")
    um = [x - correction_um for x in readings_um]
    wanted, mean = readings_wanted(area_m2), statistics.fmean(um)
    under = sum(x < nominal_um for x in um)
    most = nominal_um * (MOST_THIN if nominal_um <= THIN_UM else MOST_THICK)
    tried: tuple[tuple[Shortfall, bool], ...] = (
        ("too_few", len(um) < wanted),
        ("mean_low", mean < nominal_um),
        ("reading_low", min(um) < LOWEST_FRAC * nominal_um),
        ("many_under", under >= UNDER_FRAC * len(um)),
        ("over_most", max(um) > most),
    )
    return FilmInspection(
        n=len(um),
        wanted=wanted,
        mean_um=mean,
        sd_um=statistics.stdev(um) if len(um) > 1 else None,
        lowest_um=min(um),
        highest_um=max(um),
        nominal_um=nominal_um,
        most_um=most,
        under_nominal=under,
        correction_um=correction_um,
        fails=tuple(code for code, broken in tried if broken),
        low_at=tuple(i for i, x in enumerate(um, 1) if x < LOWEST_FRAC * nominal_um),
    )


def spots_wanted(area_m2: float) -> int:
    """How many spots an area [m2] asks for: 5 for each 10 m2 measured.

    All of it up to 30 m2, three lots of 10 m2 up to 100 m2, then one lot more for each 100 m2.
    Raises OutOfRange for an area that is not above 0.
    Source: SSPC-PA 2 (its 100, 300 and 1000 ft2 rounded), from memory.
    """
    require(0 < area_m2 <= 1e6, "area_m2", area_m2, "an area above 0 m²")
    if area_m2 <= 30:
        return 5 * math.ceil(area_m2 / 10)
    return 5 * (3 + max(0, math.ceil(area_m2 / 100) - 1))


def inspect_spots(
    readings_um: Sequence[float],
    least_um: float,
    most_um: float,
    *,
    area_m2: float,
    correction_um: float = 0.0,
) -> SpotInspection:
    """Judge a dry film by spots: three readings one after another are one spot, five spots one lot of 10 m2.

    `least_um`, `most_um`: the film that is specified [um].  The mean of each lot lies between them; each
    spot may stray from them as far as the level allows.  A spot of fewer than three readings does not count.

    Raises OutOfRange without three readings, or for films that are not above 0 and in order.
    Source: SSPC-PA 2, from memory; made for steelwork.
    """
    require(len(readings_um) >= 3, "readings_um", len(readings_um), "three readings or more")
    require(0 < least_um <= most_um, "least_um", [least_um, most_um], "a least and a most film, above 0 µm")
    um = [x - correction_um for x in readings_um]
    spots = [statistics.fmean(um[i : i + 3]) for i in range(0, len(um) - 2, 3)]
    lots = [statistics.fmean(spots[i : i + 5]) for i in range(0, len(spots), 5)]
    wanted = spots_wanted(area_m2)
    verdicts = []
    for level, (low, high) in SPOT_LEVELS.items():
        tried: tuple[tuple[SpotShortfall, bool], ...] = (
            ("too_few_spots", len(spots) < wanted),
            ("lot_low", min(lots) < least_um),
            ("lot_high", max(lots) > most_um),
            ("spot_low", min(spots) < low * least_um),
            ("spot_high", high is not None and max(spots) > high * most_um),
        )
        verdicts.append(SpotVerdict(level=level, fails=tuple(code for code, broken in tried if broken)))
    return SpotInspection(
        spots=len(spots),
        wanted=wanted,
        least_um=least_um,
        most_um=most_um,
        lowest_um=min(spots),
        highest_um=max(spots),
        low_at=tuple(i for i, x in enumerate(spots, 1) if x < LOWEST_FRAC * least_um),
        verdicts=tuple(verdicts),
    )
