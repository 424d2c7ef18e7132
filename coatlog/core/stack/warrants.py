"""Who vouches for a stack: for its first coat on the ground, each coat on the next, and what it must survive.

A data sheet says where a material goes, over what, what follows it and what it withstands.  What no
sheet says is not known, and not known is never a yes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..sheet import TACKY, Sheet, pick_recoat
from ..why import Why
from .findings import Stack, Survey
from .surfaces import BARE_METALS, FEATURES, HEATS, SUBSTRATES, Substrate

__all__ = [
    "Said",
    "Warrant",
    "asked_of_finish",
    "ground_named",
    "heat_of",
    "places",
    "stands",
    "vouched",
    "warrants",
]

Standing = Literal["vouched", "accepted", "for_a_time", "no", "unsaid"]
#: exposures that a finish answers alone; the others are asked of every layer
_OF_FINISH = (
    "sun", "rain", "ice", "dunking", "washing", "fuel", "fuel_bath", "brake_fluid", "hydraulic",
    "battery_acid", "stones", "feet", "wipers",
)  # fmt: skip
#: roles that are covered before the part is used: what the weather does to them is asked of what covers them
COVERED = ("pretreatment", "primer", "filler", "build", "tie", "colour")


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """Which sheet says so, in which of its fields, and where that comes from."""

    sheet: str
    where: Literal["goes_on", "over", "recoat", "withstands", "used_on", "temp_max_degc"]
    source: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class Warrant:
    """What is vouched for at a `position`: the ground, a join with the layer below, or an exposure.

    `vouched`: everybody concerned says so; `accepted`: one of two does; `unsaid`: nobody does.
    """

    position: int
    about: str
    standing: Standing
    by: tuple[Said, ...] = ()


def warrants(s: Stack) -> tuple[Warrant, ...]:
    """Every warrant of a stack, from the ground up, then exposure by exposure."""
    out = [_on_ground(s, sheet) for sheet in s.first()]
    out += [join(i, lower, upper) for i, lower, upper in s.joins()]
    for exposure in s.must_survive:
        for i, sheet in asked_of(s, exposure):
            out.append(_survives(i, sheet, exposure))
    return tuple(out)


# The ground -----------------------------------------------------------------------------------------


def ground_named(s: Stack, sheet: Sheet) -> bool:
    """Whether the sheet names the ground: as found, as what it is like, as an old coat, or its patches."""
    g = s.ground
    named = sheet.grounds
    if g.id in named or any(x in named for x in g.like):
        return True
    if g.coat and _over_old(sheet, g.coat):
        return True
    return _on_patches(s.survey, g, sheet)


def _over_old(sheet: Sheet, family: str) -> bool:
    # What must meet it tacky does not hold on an old one.
    return sheet.purpose is not None and family in sheet.purpose.over


def _on_patches(survey: Survey, ground: Substrate, sheet: Sheet) -> bool:
    """A filler or a spot primer goes on what shows where sound paint is broken through or feathered."""
    if ground.group != "paint" and ground.id != "painted_plastic":
        return False
    broken = bool(survey.bare_mm) or "dents" in survey.features or "scratches" in survey.features
    return (
        broken and sheet.role in ("pretreatment", "filler") and any(m in sheet.grounds for m in BARE_METALS)
    )


def _on_ground(s: Stack, sheet: Sheet) -> Warrant:
    if not ground_named(s, sheet):
        return Warrant(position=0, about="ground", standing="unsaid")
    where: Literal["over", "goes_on"] = "goes_on"
    if s.ground.id not in sheet.grounds and s.ground.coat:
        where = "over"
    said = Said(sheet=sheet.name, where=where, source=sheet.source_of(f"purpose.{where}"))
    return Warrant(position=0, about="ground", standing="vouched", by=(said,))


# Coat on coat ---------------------------------------------------------------------------------------


def vouched(lower: Sheet, upper: Sheet) -> bool:
    """Whether at least one of two sheets names the other."""
    return lower.names_above(upper) or _names_below(lower, upper)


def _names_below(lower: Sheet, upper: Sheet) -> bool:
    """Whether the upper sheet allows this one under it, tacky where it asks for that."""
    if not upper.names_below(lower):
        return False
    if upper.purpose is None or lower.properties.family + TACKY not in upper.purpose.over:
        return True
    recoat = pick_recoat(lower, upper)
    return recoat is not None and any(w.tacky for w in recoat.windows)


def join(position: int, lower: Sheet, upper: Sheet) -> Warrant:
    """Both sheets name each other, one does, or neither.  One and the same material names itself."""
    by = []
    if lower.names_above(upper):
        by.append(Said(sheet=lower.name, where="recoat", source=lower.source_of("recoat")))
    if _names_below(lower, upper):
        by.append(Said(sheet=upper.name, where="over", source=upper.source_of("purpose.over")))
    elif lower.material_id == upper.material_id and by:
        return Warrant(position=position, about="join", standing="vouched", by=tuple(by))
    standing: Standing = "vouched" if len(by) == 2 else "accepted" if by else "unsaid"
    return Warrant(position=position, about="join", standing=standing, by=tuple(by))


# What it must survive -------------------------------------------------------------------------------


def heat_of(survey: Survey) -> float | None:
    """How hot the part becomes [degC]; None: not asked of it."""
    return max((HEATS[x] for x in survey.must_survive if x in HEATS), default=None)


def places(survey: Survey) -> frozenset[str]:
    """Where the part is, in words of PLACES."""
    ground, features = SUBSTRATES[survey.substrate], survey.features
    out = {"under_water" if "immersion" in survey.must_survive else "above_water"}
    if (heat_of(survey) or 0.0) > 100.0:
        out.add("hot")
    if "fuel_bath" in survey.must_survive:
        out.add("tank")
    for word in ("underside", "cavity"):
        if word in features:
            out.add(word)
    if {"propeller", "shaft", "sail_drive"} & set(features) and "gear_masked" not in features:
        out.add("gear")
    if "clamping" in features or ground.id == "wheel_clear":
        out.add("wheel")
    if ground.id in ("textured_plastic", "raw_polyolefin", "dirty_plastic"):
        out.add("trim")
    if "cabin" in features or "restraint" in features or ground.id in _INTERIOR:
        out.add("interior")
    if survey.craft == "aircraft" or any(FEATURES[f].kind == "aircraft" for f in features):
        out.add("aircraft")
    return frozenset(out)


_INTERIOR = ("interior_plastic", "greasy_plastic", "vinyl", "greasy_vinyl", "leather")


def asked_of_finish(exposure: str) -> bool:
    """Whether the last layer answers for it alone."""
    return exposure in _OF_FINISH


def asked_of(s: Stack, exposure: str) -> tuple[tuple[int, Sheet], ...]:
    """The layers that answer for an exposure.  What ends as primed is answered for by what will cover it."""
    if exposure not in _OF_FINISH:
        return s.sheets()
    return tuple((i, sheet) for i, sheet in s.top() if sheet.role not in COVERED or not _primed(sheet))


def _primed(sheet: Sheet) -> bool:
    return "primed" in sheet.properties.gives


def stands(sheet: Sheet, exposure: str) -> Standing:
    """What a sheet says of an exposure: vouched, for a time, no, or nothing."""
    p, purpose = sheet.properties, sheet.purpose
    if exposure == "immersion":
        if purpose is None:
            return "vouched" if p.immersion else "unsaid"
        return "vouched" if {"under_water", "gear"} & set(purpose.used_on) else "no"
    if exposure == "stretch":
        return "vouched" if p.flexible else "unsaid"
    if exposure in HEATS:
        limit = p.service_max_degc if purpose is None else purpose.temp_max_degc
        return "unsaid" if limit is None else "vouched" if limit >= HEATS[exposure] else "no"
    word = None if purpose is None else purpose.withstands.get(exposure)
    if word is None:
        return "no" if exposure == "sun" and not p.uv_stable else "unsaid"
    return "vouched" if word == "yes" else word


def _survives(position: int, sheet: Sheet, exposure: str) -> Warrant:
    standing = stands(sheet, exposure)
    where: Literal["withstands", "used_on", "temp_max_degc"] = "withstands"
    if exposure == "immersion":
        where = "used_on"
    elif exposure in HEATS:
        where = "temp_max_degc"
    said = () if standing == "unsaid" else (
        Said(sheet=sheet.name, where=where, source=sheet.source_of(f"purpose.{where}")),
    )  # fmt: skip
    return Warrant(position=position, about=exposure, standing=standing, by=said)
