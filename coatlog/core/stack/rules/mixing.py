"""What must never go into a cup.  Silent where nobody says that anything else does."""

from __future__ import annotations

from collections.abc import Iterator

from ..findings import Hit, Stack, rule

#: what somebody may reach for besides a material's own components, and how hardener goes off
SLIPS: dict[str, str] = {
    "alcohol": "alcohol",
    "water": "water",
    "cellulose_thinner": "cellulose thinner",
    "other_system": "hardener or thinner from another system",
    "spoiled_hardener": "hardener that is cloudy or has a skin",
    "late_hardener": "hardener past its date",
}
_THINNERS = ("alcohol", "water", "cellulose_thinner")


def _poured(s: Stack, *slips: str) -> Iterator[tuple[int, str]]:
    """Where one of these is poured into a material that reacts and does not name it itself."""
    for i, x in enumerate(s.layers):
        if not x.extras:
            continue
        own = " ".join(c.name.lower() for c in x.sheet.components)
        carries_water = any(c.water_frac > 0 for c in x.sheet.components)
        for extra in x.extras:
            named = SLIPS.get(extra, extra).lower() in own
            named = (
                named or (extra == "alcohol" and "propanol" in own) or (extra == "water" and carries_water)
            )
            if extra in slips and x.sheet.properties.two_pack and not named:
                yield i, f"{SLIPS[extra].capitalize()} in {x.sheet.name}."


@rule(
    "mix.foreign",
    "stop",
    why="It cures by its own hardener only: alcohol, water or cellulose thinner keeps the film soft.",
    instead="Only what its own sheet names goes into the cup.",
)
def foreign_in_the_cup(s: Stack) -> Iterator[Hit]:
    for i, what in _poured(s, *_THINNERS):
        yield Hit(i, what)


@rule(
    "mix.systems",
    "stop",
    overrule="sheet",
    why="Ratio and chemistry belong to one system: with another's it stays soft or goes off at once.",
    instead="Hardener and thinner of its own system, or a system that is whole.",
)
def two_systems_in_a_cup(s: Stack) -> Iterator[Hit]:
    for i, what in _poured(s, "other_system"):
        yield Hit(i, what)


@rule(
    "mix.spoiled",
    "stop",
    why="Cloudy or skinned hardener has met moisture: part of it is spent, and the film stays soft.",
    instead="Open a fresh one; close each at once after pouring.",
)
def spoiled_hardener(s: Stack) -> Iterator[Hit]:
    for i, what in _poured(s, "spoiled_hardener"):
        yield Hit(i, what)


@rule(
    "mix.late",
    "warn",
    why="Expired hardener may not cure.",
    instead="Take a fresh one, or try it on a test piece and let that cure first.",
)
def late_hardener(s: Stack) -> Iterator[Hit]:
    for i, what in _poured(s, "late_hardener"):
        yield Hit(i, what)
