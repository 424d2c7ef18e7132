"""What the shop sprays with and where it stands.  Silent about what nobody was asked."""

from __future__ import annotations

from collections.abc import Iterator

from ..findings import Hit, Stack, rule

GUNS = {"spray_gun": "a spray gun", "liner_gun": "a liner gun"}
SPRAYED = (*GUNS, "aerosol", "trigger_bottle")
LONG_WET_S = 2 * 3600  # assumed: longer than one can watch a clear sky


@rule(
    "gun.missing",
    "stop",
    why="Its film and texture come from the gun its sheet names.",
    instead="Take a kind that is rolled, brushed, wiped or comes in a can, or get the gun.",
)
def no_such_gun(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if sheet.method_id in GUNS and s.lacks(sheet.method_id):
            yield Hit(i, f"{sheet.name} needs {GUNS[sheet.method_id]}; the shop has none.")


@rule(
    "blast.missing",
    "stop",
    why="It is prepared by blasting, and the shop has nothing to blast with.",
    instead="Gel, grind or scrape it, or send it out to be blasted and prime it the same day.",
)
def nothing_to_blast_with(s: Stack) -> Iterator[Hit]:
    for i, steps in s.steps():
        if any(d.step in ("blast", "steel_grit") for d in steps) and s.lacks("blast"):
            yield Hit(i, f"Blasting under {s.layers[i].sheet.name}.")


@rule(
    "gun.air",
    "warn",
    why="If the compressor cannot keep up the gun spits: dry spray, then runs.",
    instead="A smaller gun or nozzle, a larger compressor, or smaller faces with time between them.",
)
def too_little_air(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if sheet.method_id in GUNS and not s.lacks(sheet.method_id) and s.lacks("compressor"):
            yield Hit(i, f"{sheet.name} from a gun the compressor may not feed.")


@rule(
    "exhaust.missing",
    "warn",
    why="Solvent and overspray stay in the air: people breathe it, and it settles in the wet coat.",
    instead="Extraction to outside that somebody has tested, or a day in the open.",
)
def nothing_draws_it_out(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        vapour = sheet.properties.solvent != "none" and sheet.method_id in SPRAYED
        if vapour and not s.survey.outdoors and s.lacks("exhaust"):
            yield Hit(i, f"{sheet.name} sprayed with no extraction.")
            return


@rule(
    "booth.dust",
    "advise",
    why="Dust lands in a wet gloss.",
    instead="Sweep, damp the floor before electrics are laid, let the air settle; plan to polish.",
)
def gloss_without_booth(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        if sheet.method_id in GUNS and "gloss" in sheet.properties.gives and s.lacks("booth"):
            yield Hit(i, f"{sheet.name} outside a booth.")


@rule(
    "outdoors.isocyanate",
    "warn",
    why="Sprayed isocyanate drifts to whoever stands or lives downwind, and they wear no mask.",
    instead="Roll or brush it, take it indoors, or keep everybody away as far as local law says.",
)
def isocyanate_in_the_open(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if s.survey.outdoors and sheet.properties.needs_air_fed_mask and sheet.method_id in SPRAYED:
            yield Hit(i, f"{sheet.name} sprayed in the open.")


@rule(
    "outdoors.wind",
    "advise",
    why="Wind carries the spray off and dust in: over 5 m/s mean it is poor, over 8 m/s it is stopped.",
    instead="Look for a calm hour under Weather, screen the part, or roll it.",
)
def spraying_in_the_wind(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if s.survey.outdoors and sheet.method_id in SPRAYED:
            yield Hit(i, f"{sheet.name} sprayed in the open.")
            return


@rule(
    "outdoors.rain",
    "advise",
    why="Rain, fog or dew before it stands water spots it or washes it off.",
    instead="Start early on a dry day, as Weather shows, or put a roof over it.",
)
def wet_too_long(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        points = sheet.points_for("water") or sheet.points_for("touch")
        if s.survey.outdoors and points and min(t for _, t in points) > LONG_WET_S:
            yield Hit(i, f"{sheet.name} stands no rain for hours after the last coat.")
