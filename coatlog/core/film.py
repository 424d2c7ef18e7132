"""Wet film, dry film, spreading rate and how much paint a job really takes.

Sources: ISO 3233 and ASTM D2697 (volume solids), ASTM D4414 and ISO 2808 (wet and dry film).
Dead volume of a blast profile: common practice, no published source.
"""

from __future__ import annotations

from dataclasses import dataclass

from .errors import require
from .why import Figure, Why, computed

__all__ = [
    "PracticalVolume",
    "dead_film_um",
    "dry_film",
    "dry_film_from_draw",
    "practical_volume",
    "spreading_rate",
    "wet_film",
]


def wet_film(dry_um: float, solids_frac: float, *, thinner_frac: float = 0.0) -> Figure:
    """Wet film that leaves `dry_um` once the volatiles have gone.

    Parameters
    ----------
    dry_um : float
        Dry film wanted, >= 0 [um]
    solids_frac : float
        Volume solids of the unthinned mix, in (0, 1] [-]
    thinner_frac : float
        Thinner per volume of mix, >= 0 [-]

    Returns
    -------
    Figure
        Wet film [um]

    Raises
    ------
    OutOfRange
        An input is outside the limits above.

    References
    ----------
    ISO 3233; ASTM D2697.
    """
    _check_solids(solids_frac, thinner_frac)
    require(dry_um >= 0, "dry_um", dry_um, "0 µm or more")
    value = dry_um * (1 + thinner_frac) / solids_frac
    why = computed("film.wet", dry_um=dry_um, solids_frac=solids_frac, thinner_frac=thinner_frac)
    return Figure(value=value, unit="um", why=why)


def dry_film(wet_um: float, solids_frac: float, *, thinner_frac: float = 0.0) -> Figure:
    """Dry film [um] left by a wet film [um]; the inverse of `wet_film`, same source.

    Raises OutOfRange for a film under 0 or solids that cannot be.
    """
    _check_solids(solids_frac, thinner_frac)
    require(wet_um >= 0, "wet_um", wet_um, "0 µm or more")
    value = wet_um * solids_frac / (1 + thinner_frac)
    why = computed("film.dry", wet_um=wet_um, solids_frac=solids_frac, thinner_frac=thinner_frac)
    return Figure(value=value, unit="um", why=why)


def dry_film_from_draw(volume_ml: float, area_m2: float, solids_frac: float, lands_frac: float) -> Figure:
    """Mean dry film [um] from the volume [ml] sprayed on an area [m2].

    `lands_frac` is the share of the paint that ends on the part, in (0, 1]; the volume is of mix
    as sprayed and `solids_frac` belongs to that same mix.  1 ml/m2 is 1 um.
    Raises OutOfRange.
    """
    _check_solids(solids_frac, 0.0)
    require(volume_ml >= 0, "volume_ml", volume_ml, "0 ml or more")
    require(area_m2 > 0, "area_m2", area_m2, "more than 0 m²")
    require(0 < lands_frac <= 1, "lands_frac", lands_frac, "above 0, at most 1")
    value = volume_ml * solids_frac * lands_frac / area_m2
    why = computed(
        "film.draw",
        volume_ml=volume_ml,
        area_m2=area_m2,
        solids_frac=solids_frac,
        lands_frac=lands_frac,
    )
    return Figure(value=value, unit="um", why=why)


def spreading_rate(dry_um: float, solids_frac: float) -> Figure:
    """Theoretical spreading rate [m2/l] at a dry film [um] > 0.  Raises OutOfRange."""
    _check_solids(solids_frac, 0.0)
    require(dry_um > 0, "dry_um", dry_um, "more than 0 µm")
    why = computed("film.spread", dry_um=dry_um, solids_frac=solids_frac)
    return Figure(value=1000.0 * solids_frac / dry_um, unit="m2_per_l", why=why)


def dead_film_um(profile_rz_um: float) -> float:
    """Film [um] that disappears in a blast profile of height Rz [um]: about two thirds of it.

    Common practice, no published source (30 -> 20, 60 -> 40, 105 -> 70 cm3/m2).  Raises OutOfRange.
    """
    require(0 <= profile_rz_um <= 300, "profile_rz_um", profile_rz_um, "0 to 300 µm")
    return profile_rz_um * 2 / 3


@dataclass(frozen=True, slots=True, kw_only=True)
class PracticalVolume:
    """Paint a job takes, with every loss named.  All volumes in ml of mix."""

    film_ml: float
    profile_ml: float
    overspray_ml: float
    left_over_ml: float
    fixed_ml: float
    total_ml: float
    why: Why


def practical_volume(
    area_m2: float,
    aim_um: float,
    solids_frac: float,
    *,
    lands_frac: float,
    left_over_frac: float = 0.0,
    dead_um: float = 0.0,
    fixed_ml: float = 0.0,
) -> PracticalVolume:
    """Volume of mix [ml] for a dry film [um] on an area [m2].

    V = A (aim + dead) / (solids * lands * (1 - left_over)) + fixed

    Parameters
    ----------
    area_m2, aim_um, dead_um : float
        Area, mean dry film aimed at, film lost in the profile, > 0, > 0, >= 0 [m2, um, um]
    solids_frac, lands_frac, left_over_frac : float
        Volume solids, share that lands, share of each mix left over, (0, 1], (0, 1], [0, 1) [-]
    fixed_ml : float
        Hose, pot and cup, >= 0 [ml]

    Raises
    ------
    OutOfRange
        An input is outside the limits above.
    """
    _check_solids(solids_frac, 0.0)
    require(area_m2 > 0, "area_m2", area_m2, "more than 0 m²")
    require(aim_um > 0, "aim_um", aim_um, "more than 0 µm")
    require(0 < lands_frac <= 1, "lands_frac", lands_frac, "above 0, at most 1")
    require(0 <= left_over_frac < 1, "left_over_frac", left_over_frac, "0 up to below 1")
    require(dead_um >= 0, "dead_um", dead_um, "0 µm or more")
    require(fixed_ml >= 0, "fixed_ml", fixed_ml, "0 ml or more")
    film_ml = area_m2 * aim_um / solids_frac
    profile_ml = area_m2 * dead_um / solids_frac
    on_part_ml = film_ml + profile_ml
    sprayed_ml = on_part_ml / lands_frac
    mixed_ml = sprayed_ml / (1 - left_over_frac)
    return PracticalVolume(
        film_ml=film_ml,
        profile_ml=profile_ml,
        overspray_ml=sprayed_ml - on_part_ml,
        left_over_ml=mixed_ml - sprayed_ml,
        fixed_ml=fixed_ml,
        total_ml=mixed_ml + fixed_ml,
        why=computed(
            "film.volume",
            area_m2=area_m2,
            aim_um=aim_um,
            solids_frac=solids_frac,
            lands_frac=lands_frac,
            left_over_frac=left_over_frac,
            dead_um=dead_um,
            fixed_ml=fixed_ml,
        ),
    )


def _check_solids(solids_frac: float, thinner_frac: float) -> None:
    require(0 < solids_frac <= 1, "solids_frac", solids_frac, "above 0, at most 1")
    require(0 <= thinner_frac <= 5, "thinner_frac", thinner_frac, "0 to 5 parts per part of mix")
