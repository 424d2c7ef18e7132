"""What a stack may be asked to survive, and what a finish must not be left without."""

from __future__ import annotations

from collections.abc import Iterator

from ...sheet import Sheet
from ..findings import Hit, Stack, rule
from .words import on, over


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
