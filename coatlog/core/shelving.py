"""In which group of a list of materials one is looked for: by what it is for, as its properties say."""

from __future__ import annotations

from typing import Literal, get_args

from .sheet import Sheet

Group = Literal[
    "primer",
    "filler",
    "colour",
    "peelable",
    "liner",
    "protection",
    "underbody",
    "antifouling",
    "parts",
    "aid",
]
#: in the order in which a job meets them
GROUPS: tuple[Group, ...] = get_args(Group)

_FAMILIES: dict[str, Group] = {
    "polyester": "filler", "fine_filler": "filler", "epoxy_filler": "filler",
    "copper_epoxy": "antifouling", "propeller": "antifouling", "propeller_primer": "antifouling",
    "tank_lining": "protection", "stone": "underbody",
    "antifouling": "antifouling", "sealer_af": "antifouling", "silicone": "antifouling",
    "silicone_tie": "antifouling", "tie": "antifouling",
    "bitumen": "underbody", "wax": "underbody", "clear_film": "underbody", "cloth": "underbody",
    "converter": "underbody", "encapsulator": "underbody",
    "liner_primer": "liner",
    "boot": "parts", "strip": "parts", "strip_primer": "parts",
}  # fmt: skip


def group_of(sheet: Sheet) -> Group:
    """The group of a sheet: its family where that says enough, else what it gives; else a primer."""
    if sheet.aid is not None:
        return "aid"
    p = sheet.properties
    if p.family in _FAMILIES:
        return _FAMILIES[p.family]
    gives = set(p.gives)
    by_finish: tuple[tuple[set[str], Group], ...] = (
        ({"reversible"}, "peelable"),
        ({"texture", "grip"}, "liner"),
        ({"antifouling"}, "antifouling"),
        ({"boot", "guard"}, "parts"),
        ({"repels"}, "protection"),
        ({"colour", "clear"}, "colour"),
    )
    return next((group for finish, group in by_finish if finish & gives), "primer")
