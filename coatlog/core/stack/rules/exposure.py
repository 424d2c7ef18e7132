"""What a stack may be asked to survive, and what a finish must not be left without."""

from __future__ import annotations

from collections.abc import Iterator

from ...sheet import Sheet
from ..findings import Hit, Stack, rule
from .words import on, over


@rule(
    "sun.chalks",
    "warn",
    of_finish=True,
    why="Sunlight breaks it down: it chalks and goes dull.",
    instead="Put a finish made for sunlight over it.",
)
def chalks_in_sun(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        if "sun" in s.must_survive and not sheet.properties.uv_stable:
            yield Hit(i, f"{sheet.name} as the finish in the sun.")


@rule(
    "primer.wet",
    "warn",
    of_finish=True,
    why="It soaks up water like a sponge and lets rust start under it.",
    instead="Seal it before it stands outside.",
)
def sponge_in_the_wet(s: Stack) -> Iterator[Hit]:
    wet = {"rain", "immersion"} & set(s.must_survive)
    for i, sheet in s.top():
        if wet and sheet.properties.soaks_up_water:
            yield Hit(i, f"{sheet.name} as the finish in the wet.")


@rule(
    "acid.immersed",
    "stop",
    why="Under water the acid in the etch draws water through and blisters.",
    instead="Use an epoxy on keyed metal under water.",
)
def acid_under_water(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if "immersion" in s.must_survive and sheet.properties.acid:
            yield Hit(i, f"{sheet.name} on a part that lies in water.")


@rule(
    "immersion.rated",
    "stop",
    overrule="sheet",
    why="It is not made to lie in water: it blisters and comes away.",
    instead="Use materials rated for immersion from the surface to the finish.",
)
def immersed_must_be_rated(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        if "immersion" in s.must_survive and not (sheet.properties.immersion or sheet.properties.acid):
            yield Hit(i, f"{sheet.name} on a part that lies in water.")


@rule(
    "service.hot",
    "stop",
    overrule="sheet",
    instead="Use a material whose sheet goes as hot as the part.",
)
def hotter_than_sheet(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.sheets():
        limit = sheet.properties.service_max_degc
        if "heat" in s.must_survive and limit is not None and limit <= 90 and not sheet.properties.peelable:
            yield Hit(i, f"{sheet.name} above 90 °C.", f"Its data sheet's limit is {limit:.0f} °C.")


@rule(
    "made_for.below",
    "stop",
    overrule="sheet",
    why="It holds only on what its sheet names under it.",
    instead="Put that under it first.",
)
def wants_its_own_below(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if sheet.properties.needs_below:
            yield Hit(0, on(s, sheet), why=_below_words(sheet))
    for i, lower, upper in s.joins():
        wanted = upper.properties.needs_below
        if wanted and lower.properties.family not in wanted:
            yield Hit(i, over(lower, upper), why=_below_words(upper))


def _below_words(sheet: Sheet) -> str:
    named = " or ".join(x.replace("_", " ") for x in sheet.properties.needs_below)
    return f"It holds only on {named}."


@rule(
    "filler.unprimed",
    "warn",
    why="Filler absorbs the colour coat: mapping shows through.",
    instead="Put a surfacer or primer over the filler, and level it.",
)
def colour_straight_on_filler(s: Stack) -> Iterator[Hit]:
    def shuts(sheet: Sheet) -> bool:
        return bool({"primed", "seals"} & set(sheet.properties.gives)) or sheet.properties.fills

    for sheet in s.first():
        if s.ground.id == "bare_filler" and sheet.build == "film" and not shuts(sheet):
            yield Hit(0, on(s, sheet))
    for i, lower, upper in s.joins():
        if lower.properties.fills and not lower.properties.gives and not shuts(upper):
            yield Hit(i, over(lower, upper))


@rule(
    "rust.none",
    "warn",
    why="It is made to hold rust: on sound paint it brings its weaknesses and none of its use.",
    instead="Take a primer made for paint.",
)
def rust_paint_without_rust(s: Stack) -> Iterator[Hit]:
    for sheet in s.first():
        if "rusty_steel" in sheet.properties.rated_for and not s.ground.metal and not s.survey.bare_mm:
            yield Hit(0, on(s, sheet))


@rule(
    "washing.chips",
    "warn",
    of_finish=True,
    why="It lies on top as a film: a pressure washer lifts its edges and it chips.",
    instead="Use a dye that soaks in, or keep the pressure washer away.",
)
def film_under_pressure_washer(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        if "washing" in s.must_survive and sheet.properties.chips_when_washed:
            yield Hit(i, f"{sheet.name} under a pressure washer.")


@rule(
    "dark.hot",
    "warn",
    why="A dark colour in the sun heats the laminate or filler past its softening point: it prints through.",
    instead="Take a light colour there, or warn the owner.",
)
def dark_in_the_sun(s: Stack) -> Iterator[Hit]:
    laminate = s.ground.id in ("glass_fibre", "gelcoat", "carbon_fibre", "bare_filler")
    for i, sheet in s.sheets():
        if s.survey.dark and "sun" in s.must_survive and (laminate or sheet.properties.fills):
            yield Hit(i, f"A dark colour over {s.ground.name if laminate else sheet.name} in the sun.")
            return


@rule(
    "cover.missing",
    "stop",
    of_finish=True,
    why="It is made to be covered: left open it takes up dirt and moisture and nothing holds on it later.",
    instead="Put the next coat on inside its window.",
)
def cover_missing(s: Stack) -> Iterator[Hit]:
    for i, sheet in s.top():
        p = sheet.properties
        if p.needs_cover and "colour" not in p.gives:
            yield Hit(i, f"{sheet.name} as the last coat.")
