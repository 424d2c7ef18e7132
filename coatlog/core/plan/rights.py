"""Who may do what: what a task asks of whoever does it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field

from ..sheet import Sheet

__all__ = ["RIGHTS", "Person", "able", "coat_needs", "present", "step_needs", "wanting"]

#: what somebody may be trusted with or not, and how it is said
RIGHTS: dict[str, str] = {
    "coat": "put on coats",
    "isocyanate": "work with isocyanates",
    "structure": "work on structural parts",
    "sign_off": "sign off what somebody else decides on",
}
MOST_OF_IT = 0.75  # assumed: of the time of whoever is there longest
#: what takes something away from a part, or builds it up again
_STRUCTURE = frozenset(("abrade", "strip"))
#: checks that stand for a signature, on what an authority or a maker's manual decides on
_SIGNED = frozenset(("ports_after", "retorque", "launch_sand"))
_DECIDED = frozenset(("window", "control_surface", "radome", "restraint", "whole_aircraft"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Somebody the plan counts on: what they `may` do, and when they are there [epoch s].

    `hours` lie within the shop's own.
    """

    name: str
    may: frozenset[str] = frozenset(RIGHTS)
    hours: tuple[tuple[int, int], ...] = field(default=())


def coat_needs(sheet: Sheet, features: Collection[str]) -> frozenset[str]:
    """What putting on a coat asks for: training for isocyanates (EU 2020/1149), a hand for structure."""
    needs = {"coat"}
    if sheet.properties.needs_air_fed_mask:
        needs.add("isocyanate")
    fills = sheet.purpose is not None and sheet.purpose.role == "filler"
    if "structural" in features and (fills or sheet.properties.family == "cloth"):
        needs.add("structure")
    return frozenset(needs)


def step_needs(step: str, kind: str, features: Collection[str]) -> frozenset[str]:
    """What a step of the list asks for."""
    needs = set()
    if "structural" in features and (kind in _STRUCTURE or step == "patch_hole"):
        needs.add("structure")
    if step in _SIGNED and _DECIDED & set(features):
        needs.add("sign_off")
    return frozenset(needs)


def able(people: Sequence[Person], needs: frozenset[str]) -> list[int]:
    """Which of the people may do what needs this, by their place in the list."""
    return [i for i, x in enumerate(people) if needs <= x.may]


def present(people: Sequence[Person], needs: frozenset[str], until: int) -> int:
    """How many of those who may are there most of the time before `until` [epoch s].

    Who goes at noon is no fourth pair of hands for a coat that is rolled side by side in the afternoon.
    """
    there = [sum(max(0, min(b, until) - a) for a, b in people[i].hours) for i in able(people, needs)]
    return sum(s > 0 and s >= MOST_OF_IT * max(there) for s in there)


def wanting(people: Sequence[Person], needs: frozenset[str]) -> str:
    """Why nobody may do it, in words."""
    told = " and ".join(RIGHTS[n] for n in RIGHTS if n in needs)
    return f"nobody of the {len(people)} people in the plan may {told}"
