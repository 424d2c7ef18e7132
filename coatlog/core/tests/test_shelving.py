"""Where a painter looks for a material: common practice, no published source."""

from __future__ import annotations

import unittest
from collections import defaultdict
from dataclasses import replace

from coatlog.core.shelving import GROUPS, group_of

from .test_stack import S

PLACES = {
    "primer": {"Epoxy primer", "Etch primer, two-pack", "Zinc-rich primer", "Sealer", "Conversion coat"},
    "filler": {"Body filler", "Fine filler", "Polyester high-build", "Epoxy filler"},
    "colour": {"Base coat", "Clear coat", "Single-stage topcoat", "Trim dye", "Vinyl colour", "Varnish"},
    "peelable": {"Wheel peelable", "Gloss peelable"},
    "liner": {"Textured liner", "Liner adhesion primer", "Deck grip coating"},
    "protection": {"Glass coating", "Fabric protectant", "Ceramic for wheels"},
    "underbody": {"Cavity wax", "Bitumen underseal", "Rust converter", "Stone-guard coat"},
    "antifouling": {
        "Hard antifouling",
        "Tie coat",
        "Silicone foul-release",
        "Antifouling sealer",
        "Copper-loaded epoxy",
        "Propeller coating",
    },
    "parts": {"Boot sealant", "Adhesive keel strip"},
}


class ShelvingTest(unittest.TestCase):
    def test_every_sheet_stands_where_a_painter_looks_for_it(self) -> None:
        found = defaultdict(set)
        for sheet in S.values():
            found[group_of(sheet)].add(sheet.name)
        for group, names in PLACES.items():
            self.assertLessEqual(names, found[group], group)
        self.assertEqual(set(found) | {"aid"}, set(GROUPS))

    def test_a_material_of_no_known_kind_is_looked_for_by_what_it_gives(self) -> None:
        clear = next(s for s in S.values() if s.name == "Clear coat")
        for gives, group in ((("grip",), "liner"), (("repels", "clear"), "protection"), ((), "primer")):
            other = replace(clear, properties=replace(clear.properties, family="new", gives=gives))
            self.assertEqual(group_of(other), group)
