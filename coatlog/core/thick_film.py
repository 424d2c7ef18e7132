"""What a film that is thicker, or was thinned more, than its sheet speaks of does to drying.

A sheet's times hold for the film it names and for its own mix.  More paint, or more thinner in it,
makes the least waits longer; nothing here ever makes one shorter, nor a latest time later.
"""

from __future__ import annotations

from dataclasses import replace

from .errors import require
from .sheet import GatePoint, Recoat, Sheet, Window

__all__ = ["FILM_POWER", "film_factor", "recoat_at", "sheet_at", "solvent_factor"]

#: How the time grows with film thickness.  Where something has to travel through the film, solvent or
#: water out or moisture in, with its square (Crank, The Mathematics of Diffusion: half-time 0.197 h²/D
#: for a film on metal); a two-pack cures by itself and only has its solvent to lose: in step (assumed).
FILM_POWER = {"solvent": 2.0, "water": 2.0, "moisture": 2.0, "chemical": 1.0}
NOTHING = 0.02  # a share nobody reads off a cup
_LATEST = ("unmask_to", "immerse_to")
_FLASH = ("tacky", "touch")


def film_factor(dry_um: float, at_um: float, law: str) -> float:
    """How many times longer a film [um] takes than the one its sheet gives the time for; 1 or more.

    Raises OutOfRange for a film that is not above 0.  Source: see FILM_POWER.
    """
    require(at_um > 0, "at_um", at_um, "a film above 0 µm")
    require(dry_um > 0, "dry_um", dry_um, "a film above 0 µm")
    ratio = dry_um / at_um
    return 1.0 if ratio <= 1 + NOTHING else float(ratio ** FILM_POWER[law])


def solvent_factor(poured_solids_frac: float, sheet_solids_frac: float) -> float:
    """How many times more there is to evaporate from the same dry film as it was really poured; 1 or more.

    What evaporates is (1 - s) / s for each dry film, and leaves at the pace the surface lets it.
    Raises OutOfRange for solids outside 0 to 1.  Source: follows from the definition of volume solids.
    """
    for name, value in (("poured_solids_frac", poured_solids_frac), ("sheet_solids_frac", sheet_solids_frac)):
        require(0 < value <= 1, name, value, "above 0, at most 1")
    usual = (1 - sheet_solids_frac) / sheet_solids_frac
    poured = (1 - poured_solids_frac) / poured_solids_frac
    if usual < NOTHING or poured <= usual * (1 + NOTHING):
        return 1.0
    return poured / usual


def sheet_at(sheet: Sheet, dry_um: float | None, solvent_x: float = 1.0) -> Sheet:
    """The sheet with its least times for this dry film [um] and `solvent_x` times its usual solvent.

    Its latest times stay: a thick film may stay open longer, but nobody says so.
    """
    if solvent_x <= 1.0 and not _names_film(sheet):
        return sheet
    points = tuple(_gate_at(p, sheet.law, dry_um, solvent_x) for p in sheet.points)
    recoat = tuple(_recoat_at(r, sheet.law, dry_um, solvent_x) for r in sheet.recoat)
    return replace(sheet, points=points, recoat=recoat)


def recoat_at(
    recoat: Recoat | None, sheet: Sheet, dry_um: float | None, solvent_x: float = 1.0
) -> Recoat | None:
    """A recoat entry of the sheet for this dry film [um] and `solvent_x` times its usual solvent."""
    return None if recoat is None else _recoat_at(recoat, sheet.law, dry_um, solvent_x)


def _names_film(sheet: Sheet) -> bool:
    return any(p.at_um for p in sheet.points) or any(w.at_um for r in sheet.recoat for w in r.windows)


def _gate_at(p: GatePoint, law: str, dry_um: float | None, solvent_x: float) -> GatePoint:
    if p.gate in _LATEST:
        return p
    flashes = law != "chemical" or p.gate in _FLASH
    factor = _film(p.at_um, dry_um, law) * (solvent_x if flashes else 1.0)
    return p if factor == 1.0 else replace(p, s=round(p.s * factor))


def _recoat_at(recoat: Recoat, law: str, dry_um: float | None, solvent_x: float) -> Recoat:
    windows = tuple(_window_at(w, law, dry_um, solvent_x) for w in recoat.windows)
    return recoat if windows == recoat.windows else replace(recoat, windows=windows)


def _window_at(w: Window, law: str, dry_um: float | None, solvent_x: float) -> Window:
    factor = _film(w.at_um, dry_um, law) * solvent_x
    return w if factor == 1.0 else replace(w, from_s=round(w.from_s * factor))


def _film(at_um: float | None, dry_um: float | None, law: str) -> float:
    return film_factor(dry_um, at_um, law) if at_um and dry_um else 1.0
