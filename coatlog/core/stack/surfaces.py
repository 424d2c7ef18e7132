"""What is coated and what it must survive: the two things a survey says that rules read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["BARE_METALS", "EXPOSURES", "SUBSTRATES", "Substrate"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Substrate:
    """A surface as it is found, by what it does to a coating.

    `metal` is the bare metal in contact with the first coat.  `attacked_by` is the weakest solvent
    that lifts or crazes it.  `drawn` is the texture its figure wears.
    """

    id: str
    name: str
    group: Literal["metal", "paint", "plastic", "fabric", "glass", "rubber", "wood"]
    metal: Literal["", "steel", "aluminium", "zinc", "chrome"] = ""
    porous: bool = False
    fresh: bool = False
    loose: bool = False
    low_energy: bool = False
    flexible: bool = False
    crazes: bool = False
    lifts: bool = False
    conducts: bool = False
    repels: bool = False
    antifouling: Literal["", "hard", "unknown"] = ""
    hull_metal: Literal["", "steel", "aluminium"] = ""


SUBSTRATES: dict[str, Substrate] = {
    s.id: s
    for s in (
        Substrate(id="bare_steel", name="bare steel", group="metal", metal="steel", conducts=True),
        Substrate(id="rusty_steel", name="rusty steel", group="metal", metal="steel", conducts=True),
        Substrate(id="galvanised", name="galvanised steel", group="metal", metal="zinc", conducts=True),
        Substrate(
            id="bare_aluminium", name="bare aluminium", group="metal", metal="aluminium", conducts=True
        ),
        Substrate(id="plated_chrome", name="plated chrome", group="metal", metal="chrome", conducts=True),
        Substrate(id="sound_paint", name="sound old paint, keyed", group="paint"),
        Substrate(id="glossy_paint", name="sound old paint, left glossy", group="paint"),
        Substrate(id="fresh_paint", name="paint younger than 30 days", group="paint", fresh=True),
        Substrate(id="loose_paint", name="loose or chalked paint", group="paint", loose=True),
        Substrate(id="soft_paint", name="old single-pack that thinner lifts", group="paint", lifts=True),
        Substrate(id="wheel_clear", name="clear-coated alloy wheel, sound", group="paint"),
        Substrate(id="glass_fibre", name="glass-fibre laminate", group="plastic"),
        Substrate(id="gelcoat", name="gelcoat, dewaxed and keyed", group="plastic"),
        Substrate(id="carbon_fibre", name="carbon-fibre laminate", group="plastic", conducts=True),
        Substrate(
            id="raw_polyolefin",
            name="raw polypropylene or TPO",
            group="plastic",
            low_energy=True,
            flexible=True,
        ),
        Substrate(id="textured_plastic", name="raw textured plastic", group="plastic", porous=True),
        Substrate(id="abs_plastic", name="ABS plastic", group="plastic", crazes=True),
        Substrate(id="acrylic", name="acrylic or polycarbonate", group="plastic", crazes=True),
        Substrate(id="vinyl", name="vinyl", group="fabric", flexible=True),
        Substrate(id="leather", name="leather", group="fabric", flexible=True, porous=True),
        Substrate(id="woven_fabric", name="woven fabric", group="fabric", flexible=True, porous=True),
        Substrate(id="glass", name="glass", group="glass"),
        Substrate(id="black_rubber", name="black rubber boot", group="rubber", flexible=True),
        Substrate(id="other_rubber", name="other boot or rubber", group="rubber", flexible=True),
        Substrate(id="wood", name="bare wood", group="wood", porous=True),
        Substrate(id="epoxy_on_steel", name="old epoxy on steel, keyed", group="paint", hull_metal="steel"),
        Substrate(
            id="old_hard_antifouling", name="old antifouling, hard, keyed", group="paint", antifouling="hard"
        ),
        Substrate(
            id="old_antifouling", name="old antifouling, kind unknown", group="paint", antifouling="unknown"
        ),
        Substrate(id="waxed", name="waxed, dressed or coated to repel", group="paint", repels=True),
    )
}
BARE_METALS = tuple(s.id for s in SUBSTRATES.values() if s.metal)

#: what a part must survive, as the survey asks it
EXPOSURES: dict[str, str] = {
    "sun": "sun",
    "rain": "rain and spray",
    "immersion": "lying in water",
    "stones": "stone chips",
    "feet": "feet or loads",
    "fuel": "fuel splash",
    "heat": "heat above 90 °C",
    "stretch": "stretching",
}
