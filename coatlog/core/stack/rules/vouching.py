"""What nobody vouches for: a ground, a join, a place, an exposure that no data sheet speaks of."""

from __future__ import annotations

from collections.abc import Iterator

from ...sheet import PLACES, ROLES, Sheet, family_words
from ..findings import Hit, Stack, rule
from ..surfaces import EXPOSURES, HEATS, SUBSTRATES
from ..warrants import (
    COVERED,
    asked_of,
    asked_of_finish,
    ground_named,
    heat_of,
    join,
    places,
    stands,
    vouched,
)
from .words import on, over

_SPECIAL = ("fabric", "glass", "rubber")  # only what is made for them holds there
#: why a finish that its sheet says no of does not stand it
_NO: dict[str, str] = {
    "sun": "Sunlight breaks it down: it chalks, goes dull or cracks.",
    "rain": "Water gets under it or softens it.",
    "ice": "Ice and de-icing fluid take it off.",
    "dunking": "Water that stands on it softens or lifts it.",
    "washing": "A pressure washer lifts its edges and it chips.",
    "fuel": "Fuel softens it and it wrinkles or lets go.",
    "fuel_bath": "Fuel that stands on it dissolves it, and what comes off blocks filters.",
    "brake_fluid": "Brake fluid strips it.",
    "hydraulic": "Hydraulic fluid softens and strips it.",
    "battery_acid": "Acid eats it.",
    "stones": "Stones chip it through.",
    "feet": "Feet and loads wear it through.",
    "wipers": "Rubbing wears it off.",
}


@rule(
    "ground.unvouched",
    "stop",
    why="No data sheet says that it holds there.",
    instead="Take a material whose sheet names this surface, or enter what the maker says.",
)
def ground_nobody_names(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        g = s.ground
        # What must come off or dry out first has a stop of its own, and says more.
        spoken = g.metal or g.low_energy or g.waste or g.wet or g.loose or g.toxic
        if spoken or ground_named(s, sheet):
            continue
        why = _ground_words(s, sheet)
        yield Hit(0, on(s, sheet), why, source=sheet.source_of("purpose.goes_on"))


def _ground_words(s: Stack, sheet: Sheet) -> str:
    if s.ground.group in _SPECIAL and not any(
        SUBSTRATES[g].group == s.ground.group for g in sheet.grounds if g in SUBSTRATES
    ):
        return f"It is made for other surfaces: on {s.ground.name} it cracks, peels or runs off."
    if not sheet.grounds and sheet.purpose is not None and sheet.purpose.over:
        return _below_words(sheet)
    wants = ", ".join(SUBSTRATES[x].name for x in sheet.grounds if x in SUBSTRATES)
    return f"Its sheet names {wants}." if wants else "Its sheet names no surface at all."


def _below_words(sheet: Sheet) -> str:
    """What its sheet says must lie under it."""
    families = () if sheet.purpose is None else sheet.purpose.over
    named = " or ".join(family_words(x) for x in families)
    return f"It holds only on {named}." if named else "Its sheet names nothing it may lie on."


@rule(
    "join.unvouched",
    "stop",
    why="Neither data sheet names the other.",
    instead="Put between them what both name, or enter what the makers say.",
)
def join_nobody_names(s: Stack) -> Iterator[Hit]:
    for i, lower, upper in s.joins():
        if not vouched(lower, upper):
            bare = upper.purpose is not None and not upper.purpose.over
            why = f"{upper.name} works on the bare surface, not on another coat." if bare else ""
            yield Hit(i, over(lower, upper), why)


@rule(
    "join.one_sided",
    "advise",
    why="Only one of the two sheets names the other.",
    instead="Try it on a test piece, or ask the maker of the other one.",
)
def join_one_names(s: Stack) -> Iterator[Hit]:
    for i, lower, upper in s.joins():
        told = join(i, lower, upper)
        if told.standing == "accepted":
            yield Hit(i, over(lower, upper), f"Only the sheet of {told.by[0].sheet} names the other.")


@rule(
    "role.order",
    "stop",
    overrule="sheet",
    why="It belongs elsewhere in a stack.",
    instead="Keep the order: pretreatment, primer, filler, build, sealer, colour, clear.",
)
def out_of_order(s: Stack) -> Iterator[Hit]:
    for i, lower, upper in s.joins():
        if lower.role and upper.role and lower.role not in ROLES[upper.role].below:
            why = f"A {ROLES[upper.role].name} does not follow a {ROLES[lower.role].name}."
            yield Hit(i, over(lower, upper), why)


@rule(
    "filler.patches",
    "stop",
    overrule="sheet",
    why="Filler and cloth are for dents and holes, not for a whole part: thick, heavy and slow to sand.",
    instead="Leave it out, or say in the survey that there are dents or holes.",
)
def filler_all_over(s: Stack) -> Iterator[Hit]:
    features = s.survey.features
    hurt = bool({"dents", "scratches", "holes"} & set(features)) or s.ground.id == "bare_filler"
    for i, sheet in s.sheets():
        cloth = sheet.role == "build" and sheet.properties.fills and sheet.properties.family == "cloth"
        if s.layers[i].patches_m2 is not None:
            continue
        if (sheet.role == "filler" and not hurt) or (cloth and "holes" not in features):
            yield Hit(i, f"{sheet.name} all over a part.")


@rule(
    "dents.left",
    "warn",
    of_finish=True,
    why="Nothing in it fills: dents, holes and deep scratches show through every coat.",
    instead="Take one with filler, or for scratches with surfacer, or accept that they show.",
)
def dents_stay(s: Stack) -> Iterator[Hit]:
    features = set(s.survey.features)
    fills = any(sheet.properties.fills for _, sheet in s.sheets())
    # A scratch is filled by what is sanded flat, a dent is not.
    cut = any(sheet.properties.sanded and sheet.role in COVERED[:-1] for _, sheet in s.sheets())
    hurt = ({"dents", "holes"} & features) or ("scratches" in features and not cut)
    hidden = "cavity" in s.survey.features or s.ground.id == "bare_filler"
    for i, sheet in s.top():
        shown = any({"colour", "texture"} & set(x.properties.gives) for _, x in s.sheets())
        if hurt and not fills and not hidden and shown:
            yield Hit(i, f"{sheet.name} over dents that stay.")


# Places ---------------------------------------------------------------------------------------------


@rule(
    "immersion.rated",
    "stop",
    overrule="sheet",
    why="It is not made to lie in water: it blisters and comes away.",
    instead="Use materials rated for immersion from the surface to the finish.",
)
def immersed_must_be_rated(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        rated = stands(sheet, "immersion") == "vouched" or sheet.properties.acid
        if "immersion" in s.must_survive and not rated:
            yield Hit(i, f"{sheet.name} on a part that lies in water.")


@rule(
    "place.only",
    "stop",
    overrule="sheet",
    why="It is made for another place.",
    instead="Take a material made for this one.",
)
def made_for_another_place(s: Stack) -> Iterator[Hit]:
    here = places(s.survey)
    for i, sheet in s.sheets():
        if sheet.purpose is None or not sheet.purpose.used_on:
            continue
        closed = any(x in here and x not in sheet.purpose.used_on for x in ("cavity", "tank"))
        elsewhere = not here & set(sheet.purpose.used_on)
        if "under_water" in here and "gear" not in sheet.purpose.used_on:
            elsewhere = False  # whether it may lie in water is asked by itself
        if closed or elsewhere:
            named = ", ".join(PLACES[x] for x in sheet.purpose.used_on)
            yield Hit(i, f"{sheet.name} here.", f"It is made for {named}.")


@rule(
    "service.hot",
    "stop",
    overrule="sheet",
    why="No data sheet says that it stands such heat: it burns, softens or lets go.",
    instead="Use a material whose sheet goes as hot as the part, from the metal up.",
)
def hotter_than_sheet(s: Stack) -> Iterator[Hit]:
    asked = [x for x in s.must_survive if x in HEATS]
    if not asked:
        return
    hottest = max(asked, key=lambda x: HEATS[x])
    degc = heat_of(s.survey) or 0.0
    for i, sheet in s.sheets():
        told = stands(sheet, hottest)
        if told == "vouched" or (told == "unsaid" and degc <= 90):
            continue
        limit = None if sheet.purpose is None else sheet.purpose.temp_max_degc
        limit = sheet.properties.service_max_degc if limit is None else limit
        why = "" if limit is None else f"Its data sheet's limit is {limit:.0f} °C."
        yield Hit(i, f"{sheet.name} at {degc:.0f} °C.", why, source=sheet.source_of("purpose.temp_max_degc"))


# Exposures ------------------------------------------------------------------------------------------


@rule(
    "exposure.no",
    "stop",
    of_finish=True,
    overrule="sheet",
    instead="Take a finish whose sheet says that it stands this, or keep it away.",
)
def finish_does_not_stand_it(s: Stack) -> Iterator[Hit]:
    for exposure in s.must_survive:
        if not asked_of_finish(exposure):
            continue
        for i, sheet in asked_of(s, exposure):
            if stands(sheet, exposure) == "no":
                what = f"{sheet.name} against {EXPOSURES[exposure]}."
                yield Hit(i, what, _NO[exposure], source=sheet.source_of("purpose.withstands"))


@rule(
    "exposure.unsaid",
    "warn",
    of_finish=True,
    why="Its data sheet does not say that it stands this.",
    instead="Ask the maker before it is chosen, or take one whose sheet says so.",
)
def nobody_says_it_stands_it(s: Stack) -> Iterator[Hit]:
    for exposure in s.must_survive:
        for i, sheet in asked_of(s, exposure):
            said = asked_of_finish(exposure) or (exposure in HEATS and HEATS[exposure] <= 90)
            if said and stands(sheet, exposure) == "unsaid":
                yield Hit(i, f"{sheet.name} against {EXPOSURES[exposure]}: ask the maker.")


@rule(
    "exposure.for_a_time",
    "advise",
    of_finish=True,
    why="It stands this for a time, not for good.",
    instead="Look at it more often there, and plan to renew it.",
)
def stands_it_for_a_time(s: Stack) -> Iterator[Hit]:
    for exposure in s.must_survive:
        if not asked_of_finish(exposure):
            continue
        for i, sheet in asked_of(s, exposure):
            if stands(sheet, exposure) == "for_a_time":
                yield Hit(i, f"{sheet.name} against {EXPOSURES[exposure]}.")


@rule(
    "primed.covered",
    "advise",
    of_finish=True,
    why="It is a primer: sun chalks it and rain gets through it.",
    instead="Cover it before it stands outside, inside the window its sheet gives.",
)
def primer_left_outside(s: Stack) -> Iterator[Hit]:
    outside = {"sun", "rain"} & set(s.must_survive)
    for i, sheet in s.top():
        if outside and sheet.role in COVERED and "primed" in sheet.properties.gives:
            yield Hit(i, f"{sheet.name} as the last coat outside.")


@rule(
    "aircraft.unsaid",
    "warn",
    why="No sheet here says that it is approved for aircraft.",
    instead="The aircraft's maintenance manual names the coating: take that one, and have it signed.",
)
def nobody_says_it_flies(s: Stack) -> Iterator[Hit]:
    if "aircraft" not in places(s.survey):
        return
    for i, sheet in s.sheets():
        if sheet.purpose is None or "aircraft" not in sheet.purpose.used_on:
            yield Hit(i, f"{sheet.name} on an aircraft.")
