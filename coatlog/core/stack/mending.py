"""How a coat that went wrong is mended, by what it is and what it lies on: not everything can be sanded.

Common practice, no published source.
"""

from __future__ import annotations

from typing import Literal

from ..sheet import Sheet
from .surfaces import SUBSTRATES

__all__ = ["MENDS", "SANDS", "TAKEN_OFF", "Mend", "can_be_sanded", "mend_of"]

Mend = Literal["sand", "wet_sand", "peel", "strip", "clean", "wash", "wax", "lift", "anew", "cut", "soft"]
#: how a coat is taken off whose window has closed, where nothing opens that again
TAKEN_OFF: dict[Mend, str] = {
    "sand": "recoat window missed: sand it off and begin that coat anew",
    "wet_sand": "recoat window missed: sand it off wet and begin that coat anew",
    "peel": "recoat window missed: peel it off and begin anew",
    "strip": "recoat window missed: dissolve that strip with its prep and begin it anew",
    "clean": "recoat window missed: take it off with its cleaner or a polish and begin anew",
    "wash": "recoat window missed: wash it out, dry, begin anew",
    "wax": "recoat window missed: wipe it off with solvent and begin anew",
    "lift": "recoat window missed: lift it off and begin anew",
    "anew": "recoat window missed: wipe it off and put it on anew",
    "cut": "recoat window missed: cut it back to sound film and begin anew",
    "soft": "recoat window missed: wipe it down with its cleaner and begin anew",
}
#: every way
MENDS: tuple[Mend, ...] = tuple(TAKEN_OFF)
SANDS: tuple[Mend, ...] = ("sand", "wet_sand")
SOFT_GROUNDS = ("rubber", "fabric")
WIPED_AWAY = ("promoter", "conversion", "strip_primer")


def mend_of(sheet: Sheet, substrate: str) -> Mend:
    """How a coat of a material on a part of this surface is put right."""
    p = sheet.properties
    ground = SUBSTRATES.get(substrate)
    if p.peelable:
        return "peel"
    if sheet.build == "bonded":
        return "lift"
    if p.family in WIPED_AWAY:
        return "anew"
    if p.family == "boot":
        return "strip"
    if p.family == "wax":
        return "wax"
    if "silicone" in p.family or p.antifouling == "silicone":
        return "cut"
    if sheet.build == "wipe_on":
        return "clean"
    if sheet.build == "soaks_in":
        return "wash" if ground is not None and ground.group == "fabric" else "clean"
    if p.family.startswith("dope") or p.antifouling != "none":
        return "wet_sand"  # dry dope dust burns, that of antifouling is a biocide
    if p.family == "vinyl" or (ground is not None and ground.group in SOFT_GROUNDS):
        return "soft"
    return "sand"


def can_be_sanded(sheet: Sheet, substrate: str) -> bool:
    """Whether a coat of it may be abraded at all."""
    return mend_of(sheet, substrate) in SANDS
