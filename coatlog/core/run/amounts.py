"""How much of a material one coat of a layer is, for films and for what builds none."""

from __future__ import annotations

from ..film import wet_film
from ..mix import cup_for_total
from ..sheet import Sheet
from ..why import Figure, Why
from .facts import Facts, Layer

__all__ = ["coat_ml", "planned_dry_um", "planned_wet", "sheet_solids_frac"]


def sheet_solids_frac(sheet: Sheet) -> float:
    """Volume solids of the sheet's mix as it is sprayed, thinner included [-]."""
    return cup_for_total(sheet.components, 1000.0).solids_frac


def planned_dry_um(layer: Layer, sheet: Sheet) -> float | None:
    """Dry film one coat is planned to leave [um]; None where the material builds none."""
    if sheet.film is not None and layer.target_um is not None:
        return layer.target_um / layer.coats
    return sheet.usual_um()


def planned_wet(layer: Layer, sheet: Sheet, poured_solids_frac: float | None = None) -> Figure | None:
    """Wet film of one planned coat [um]; None where the material builds none.

    `poured_solids_frac`: of the mix it is sprayed with, where that is known; else the sheet's own.
    """
    dry_um = planned_dry_um(layer, sheet)
    return None if dry_um is None else wet_film(dry_um, poured_solids_frac or sheet_solids_frac(sheet))


def coat_ml(facts: Facts, layer: Layer) -> Figure:
    """Mix that goes out of the cup for one coat of a layer [ml].

    A film: area × wet film / share that lands.  Without a film: area / the sheet's coverage, which
    already counts what is lost in the cloth.
    """
    sheet, area_m2 = facts.sheets[layer.sheet_id], facts.area_m2(layer)
    wet = planned_wet(layer, sheet)
    if wet is not None:
        return Figure(
            value=area_m2 * wet.value / facts.methods[layer.method_id].lands_frac, unit="ml", why=wet.why
        )
    assert sheet.coverage is not None
    why = Why(kind="sheet", ref=f"{sheet.name}: {sheet.coverage.m2_per_l:g} m² per litre")
    return Figure(value=1000 * area_m2 / sheet.coverage.m2_per_l, unit="ml", why=why)
