"""What is coated, what it must survive and what sits behind it: all that a survey says and rules read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

__all__ = [
    "BARE_METALS",
    "EXPOSURES",
    "EXPOSURE_GROUPS",
    "FEATURES",
    "FERROUS",
    "HEATS",
    "RUSTS",
    "SUBSTRATES",
    "Feature",
    "Substrate",
]

Metal = Literal[
    "", "steel", "iron", "aluminium", "zinc", "chrome", "magnesium", "titanium", "stainless", "bronze"
]
Group = Literal["metal", "paint", "plastic", "fabric", "glass", "rubber", "wood"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Substrate:
    """A surface as it is found, by what it does to a coating.

    `coat` is the family of an old coat that is the surface itself; `like` other surfaces a sheet may name
    instead of it. `metal` is the bare metal in contact with the first coat, `hull_metal` the metal under
    sound old paint. `profiled`: blasted, its profile is its key. `rust`: how deep it sits. `toxic`: lead,
    chromate, asbestos or tin-organic is not ruled out. `waste`: what is on it and must come off first.
    """

    id: str
    name: str
    group: Group
    coat: str = ""
    like: tuple[str, ...] = ()
    metal: Metal = ""
    profiled: bool = False
    rust: Literal["", "light", "deep"] = ""
    porous: bool = False
    fresh: bool = False
    loose: bool = False
    low_energy: bool = False
    flexible: bool = False
    crazes: bool = False
    lifts: bool = False
    conducts: bool = False
    repels: bool = False
    glossy: bool = False
    etched: bool = False
    zinc_dust: bool = False
    bitumen: bool = False
    toxic: bool = False
    waste: Literal[
        "", "scale", "acid", "blush", "release_wax", "old_sealant", "salt", "grease", "white_rust", "soot"
    ] = ""
    wet: bool = False
    antifouling: Literal["", "hard", "eroding", "unknown", "silicone"] = ""
    hull_metal: Literal["", "steel", "aluminium"] = ""


def _s(id: str, name: str, group: Group, **what: Any) -> Substrate:
    return Substrate(id=id, name=name, group=group, **what)


def _metal(id: str, name: str, metal: str, **what: Any) -> Substrate:
    return _s(id, name, "metal", metal=metal, conducts=True, **what)


#: Steel as found: rust grades of ISO 8501-1 (A mill scale, B rust beginning, C rusted, D pitted).
SUBSTRATES: dict[str, Substrate] = {
    s.id: s
    for s in (
        _metal("bare_steel", "bare steel", "steel"),
        _metal("blasted_steel", "steel, blasted to Sa 2½", "steel", profiled=True),
        _metal("scaled_steel", "steel with mill scale, grade A", "steel", waste="scale"),
        _metal("rusty_steel", "rusty steel", "steel", rust="light"),
        _metal("pitted_steel", "rusty steel, pitted, grade D", "steel", rust="deep"),
        _metal("gelled_steel", "steel treated with rust gel, not rinsed", "steel", waste="acid"),
        _metal("cast_iron", "cast iron, cleaned", "iron"),
        _metal("galvanised", "galvanised steel", "zinc"),
        _metal("swept_galvanised", "galvanised steel, sweep-blasted", "zinc", profiled=True),
        _metal("bloomed_zinc", "galvanised steel with white rust", "zinc", waste="white_rust"),
        _metal("bare_aluminium", "bare aluminium", "aluminium"),
        _metal("anodised_aluminium", "anodised aluminium", "aluminium", glossy=True),
        _metal("salted_aluminium", "aluminium exposed to salt water", "aluminium", waste="salt"),
        _metal("magnesium", "bare magnesium", "magnesium"),
        _metal("titanium", "bare titanium", "titanium"),
        _metal("stainless", "bare stainless steel", "stainless"),
        _metal("bronze", "bare bronze or brass", "bronze"),
        _metal("plated_chrome", "plated chrome", "chrome"),
        _s("sound_paint", "old paint, sound, sanded", "paint"),
        _s("glossy_paint", "old paint, sound, glossy", "paint", glossy=True),
        _s("aged_clear", "aged clear coat, dull but intact", "paint", glossy=True),
        _s("e_coat", "factory electrocoat on a new panel", "paint", glossy=True),
        _s("powder_coat", "powder coat, sound", "paint", glossy=True),
        _s("keyed_clear", "clear coat, sound, sanded to P800", "paint", coat="clear"),
        _s("fresh_paint", "paint younger than 30 days", "paint", fresh=True, like=("glossy_paint",)),
        _s("loose_paint", "loose or chalking paint", "paint", loose=True),
        _s("soft_paint", "old 1K paint, softens with thinner", "paint", lifts=True),
        _s("old_lead_paint", "old paint, may contain lead or chromate", "paint", toxic=True),
        _s("etch_primed", "steel with etch primer", "paint", etched=True, coat="etch"),
        _s("cured_epoxy", "epoxy primer, cured and keyed", "paint", coat="epoxy", like=("sound_paint",)),
        _s("blushed_epoxy", "epoxy with amine blush", "paint", waste="blush"),
        _s("surfacer_primed", "two-pack surfacer, cured and sanded", "paint", coat="surfacer",
           like=("sound_paint",)),
        _s("polyester_primed", "polyester high-build, sanded", "paint", porous=True, coat="polyester"),
        _s("zinc_primed", "zinc-rich primer, cured", "paint", porous=True, zinc_dust=True,
           hull_metal="steel", coat="zinc"),
        _s("unknown_primer", "unknown primer", "paint", lifts=True),
        _s("wet_polyester", "polyester primer that got wet", "paint", porous=True, wet=True,
           coat="polyester"),
        _s("bare_filler", "body filler, sanded", "paint", porous=True),
        _s("bitumen", "old bitumen or underseal", "paint", bitumen=True, coat="bitumen"),
        _s("wheel_clear", "clear-coated alloy wheel, sound", "paint"),
        _s("waxed", "waxed or with protective coating", "paint", repels=True),
        _s("siliconed", "silicone-contaminated paint", "paint", repels=True),
        _s("glass_fibre", "glass-fibre laminate", "plastic"),
        _s("wet_glass_fibre", "glass-fibre laminate, moisture unknown or high", "plastic", wet=True),
        _s("osmotic_laminate", "laminate with osmosis blisters", "plastic", wet=True),
        _s("gelcoat", "gelcoat, dewaxed and sanded", "plastic"),
        _s("new_gelcoat", "new gelcoat with release wax", "plastic", waste="release_wax", glossy=True),
        _s("carbon_fibre", "carbon-fibre laminate", "plastic", conducts=True),
        _s("raw_polyolefin", "raw polypropylene or TPO", "plastic", low_energy=True, flexible=True),
        _s("textured_plastic", "bare textured plastic", "plastic", porous=True),
        _s("dirty_plastic", "exterior plastic, sooty or salted", "plastic", porous=True, waste="soot"),
        _s("abs_plastic", "ABS plastic", "plastic", crazes=True),
        _s("painted_plastic", "painted plastic, sound", "plastic"),
        _s("interior_plastic", "interior hard plastic, clean", "plastic"),
        _s("greasy_plastic", "interior plastic with dressing", "plastic", waste="grease"),
        _s("acrylic", "acrylic or polycarbonate", "plastic", crazes=True),
        _s("vinyl", "vinyl", "fabric", flexible=True),
        _s("greasy_vinyl", "vinyl, not degreased", "fabric", flexible=True, waste="grease"),
        _s("leather", "leather", "fabric", flexible=True, porous=True),
        _s("woven_fabric", "woven fabric", "fabric", flexible=True, porous=True),
        _s("inflatable_fabric", "inflatable boat fabric", "fabric", flexible=True),
        _s("aircraft_cloth", "bare aircraft fabric, taut", "fabric", flexible=True, porous=True),
        _s("doped_fabric", "doped aircraft fabric", "fabric", flexible=True, coat="dope_colour"),
        _s("glass", "glass", "glass"),
        _s("black_rubber", "black rubber boot", "rubber", flexible=True),
        _s("sealed_rubber", "de-icing boot with old sealant", "rubber", flexible=True,
           waste="old_sealant"),
        _s("other_rubber", "other rubber", "rubber", flexible=True),
        _s("wood", "bare wood", "wood", porous=True),
        _s("wet_wood", "wood above 18 % moisture", "wood", porous=True, wet=True),
        _s("varnished_wood", "old varnish, sound, sanded", "paint", coat="varnish"),
        _s("epoxy_on_steel", "old epoxy on steel, keyed", "paint", hull_metal="steel", coat="epoxy",
           like=("cured_epoxy", "sound_paint")),
        _s("epoxy_on_aluminium", "old epoxy on aluminium, keyed", "paint", hull_metal="aluminium",
           coat="epoxy", like=("cured_epoxy", "sound_paint")),
        _s("old_hard_antifouling", "old antifouling, hard, wet-sanded", "paint", antifouling="hard"),
        _s("old_eroding_antifouling", "old antifouling, eroding (ablative, self-polishing)", "paint",
           antifouling="eroding"),
        _s("old_foul_release", "old silicone foul-release", "paint", antifouling="silicone", repels=True),
        _s("old_antifouling", "old antifouling, kind unknown", "paint", antifouling="unknown"),
    )
}  # fmt: skip
#: iron in every form: what rusts, and what copper eats from under a broken film
FERROUS = ("steel", "iron")
#: bare metal that starts to oxidise as soon as it is bright
RUSTS = (*FERROUS, "aluminium")
BARE_METALS = tuple(s.id for s in SUBSTRATES.values() if s.metal)

#: what a part must survive, as the survey asks it
EXPOSURES: dict[str, str] = {
    "sun": "sun",
    "rain": "rain and spray",
    "ice": "ice and de-icing fluid",
    "immersion": "permanent immersion",
    "dunking": "dunked now and then",
    "washing": "pressure washing",
    "fuel": "fuel splash",
    "fuel_bath": "fuel inside a tank",
    "brake_fluid": "brake fluid",
    "hydraulic": "hydraulic fluid",
    "battery_acid": "battery acid",
    "stones": "stone chips",
    "feet": "foot traffic / loads",
    "wipers": "wipers / hand contact",
    "stretch": "flexing",
    "heat_90": "heat up to 90 °C",
    "heat_150": "heat up to 150 °C",
    "heat_300": "heat up to 300 °C",
    "heat_600": "heat up to 600 °C",
    "heat": "heat above 90 °C, how hot not said",
}
#: where each of them is looked for; what older surveys said and nobody is asked any more is in none
EXPOSURE_GROUPS: dict[str, tuple[str, ...]] = {
    "weather": ("sun", "rain", "ice"),
    "wet": ("immersion", "dunking", "washing"),
    "fluids": ("fuel", "fuel_bath", "brake_fluid", "hydraulic", "battery_acid"),
    "wear": ("stones", "feet", "wipers", "stretch"),
    "heat": ("heat_90", "heat_150", "heat_300", "heat_600"),
}
#: how hot each of them means [degC]
HEATS: dict[str, float] = {
    "heat_90": 90.0, "heat": 150.0, "heat_150": 150.0, "heat_300": 300.0, "heat_600": 600.0,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Feature:
    """What a part is or hides; `kind` where it is met, `group` where it is looked for."""

    name: str
    kind: Literal["road", "vessel", "aircraft", "any"]
    group: Literal["damage", "under it", "where", "is or hides"] = "is or hides"


FEATURES: dict[str, Feature] = {
    "dents": Feature("dents or chips to fill", "any", "damage"),
    "scratches": Feature("scratches down to the ground", "any", "damage"),
    "holes": Feature("rusted through: holes", "any", "damage"),
    "faded": Feature("faded by the sun", "any", "damage"),
    "under_steel": Feature("steel under the old coat", "any", "under it"),
    "under_aluminium": Feature("aluminium under the old coat", "any", "under it"),
    "under_laminate": Feature("laminate or gelcoat under the old coat", "any", "under it"),
    "under_wood": Feature("wood under the old coat", "any", "under it"),
    "enclosed": Feature("confined space (bilge, locker, tank, cabin)", "any", "where"),
    "underside": Feature("underside, frame or chassis", "any", "where"),
    "cavity": Feature("inside of closed sections (sills, box frames)", "any", "where"),
    "radar": Feature("radar, sensor, camera, lamp or number plate in or behind the part", "road"),
    "restraint": Feature("airbag cover, side-airbag seat, seat belt", "road"),
    "clamping": Feature("wheel: bolt seats and hub face", "road"),
    "structural": Feature("structural part (frame, belt or suspension mount)", "any"),
    "thin_sheet": Feature("thin sheet metal", "any"),
    "hard_bolts": Feature("springs, high-strength bolts, hard steel", "any"),
    "grip": Feature("steering wheel, pedal, deck or step", "any"),
    "anode": Feature("anode", "vessel"),
    "propeller": Feature("propeller", "vessel"),
    "shaft": Feature("shaft", "vessel"),
    "transducer": Feature("transducer", "vessel"),
    "sail_drive": Feature("sail drive or outboard leg", "vessel"),
    "gear_masked": Feature("gear on it is masked off", "vessel"),
    "whole_aircraft": Feature("complete repaint of the aircraft", "aircraft"),
    "control_surface": Feature("control surface", "aircraft"),
    "composite_skin": Feature("composite skin", "aircraft"),
    "radome": Feature("radome", "aircraft"),
    "ports": Feature("static ports, pitot, vanes, drains, placards near", "aircraft"),
    "cabin": Feature("cabin fabric, leather, plastic", "aircraft"),
    "window": Feature("acrylic window", "aircraft"),
    "none": Feature("none of these", "any"),
}
