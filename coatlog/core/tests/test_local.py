"""Damage in places, swept over every surface and wish: what an offer may lay on the spots, and what not."""

from __future__ import annotations

import unittest
from collections import Counter
from dataclasses import replace

from coatlog.core.sheet import FINISHES
from coatlog.core.stack.builder import suggest
from coatlog.core.stack.findings import Survey
from coatlog.core.stack.local import across_mm, beside, places_m2
from coatlog.core.stack.rules import judge
from coatlog.core.stack.step_sequence import step_sequence
from coatlog.core.stack.surfaces import SUBSTRATES
from coatlog.core.stack.warrants import COVERED

from .test_stack import S

SHELF = tuple(S.values())
DAMAGE: dict[str, dict[str, object]] = {
    "bare": {"bare_mm": 30.0, "patch_n": 3},
    "dents": {"features": ("dents",), "patch_n": 2},
    "scratches": {"features": ("scratches",), "patch_n": 1},
    "holes": {"features": ("holes",), "hole_mm": 25.0, "patch_n": 2},
}
WISHES = (
    ("colour", "gloss"),
    ("colour",),
    ("texture",),
    ("antifouling",),
    ("clear",),
    ("primed",),
    ("grip",),
)


class LocalTest(unittest.TestCase):
    def test_a_spot_is_as_wide_as_what_is_bare_and_50_mm_on_each_side(self) -> None:
        """Common practice, no published source: feathered out 50 mm.  3 x 0.13 m x 0.13 m."""
        spots = Survey(substrate="sound_paint", bare_mm=30.0, patch_n=3)
        self.assertEqual(across_mm(spots), 130.0)
        self.assertAlmostEqual(places_m2(spots), 0.0507)
        hole = Survey(substrate="rusty_steel", hole_mm=40.0, features=("holes", "thin_sheet"))
        self.assertEqual((across_mm(hole), beside(hole).features), (140.0, ("thin_sheet",)))

    def test_no_offer_on_any_damaged_surface_is_laid_where_it_does_not_belong(self) -> None:
        told: Counter[str] = Counter()
        self.assertLessEqual({w for wish in WISHES for w in wish}, {*FINISHES})
        # Every surface with every damage, the wishes by turns.
        for i, ground in enumerate(SUBSTRATES):
            for j, (name, damage) in enumerate(DAMAGE.items()):
                survey = Survey(substrate=ground, **damage)  # type: ignore[arg-type]
                for wish in WISHES[(i + j) % len(WISHES) :][:1]:
                    for offer in suggest(survey, SHELF, wish).best:
                        what = (ground, name, wish, offer.key)
                        local = [x for x in offer.layers if x.patches_m2 is not None]
                        whole = [x for x in offer.layers if x.patches_m2 is None]
                        told["offers"] += 1
                        told["local"] += bool(local)
                        self.assertTrue(whole, what)
                        self.assertIs(offer.layers[-1].patches_m2, None, what)
                        for x in local:
                            self.assertIn(x.sheet.role, COVERED[:-1], what)
                            self.assertAlmostEqual(x.patches_m2 or 0, places_m2(survey))
                        for x in whole:  # nobody fills a whole part for a few dents
                            fills = x.sheet.role == "filler" or x.sheet.properties.family == "cloth"
                            self.assertFalse(fills and ground != "bare_filler", what)
                        self.stands_beside(survey, offer.path, whole, what)
                        work = step_sequence(survey, offer.path, offer.layers, 1.0)
                        spotted = [w for w in work if w.name.endswith("on the patches") and w.step == "coat"]
                        self.assertEqual(len(spotted), len(local), what)
                        coarse = [f.rule_id for f in offer.findings if f.rule_id.startswith("grit.")]
                        self.assertFalse(coarse and local, (what, coarse))
        self.assertGreater(told["local"], 20)
        self.assertGreater(told["offers"], 100)

    def stands_beside(self, survey: Survey, path: tuple, whole: list, what: tuple) -> None:  # type: ignore[type-arg]
        """Round the spots the part is as it was, and what lies there holds without them."""
        ground = path[-1].to if path else survey.substrate
        at = replace(beside(survey), substrate=ground)
        bare = [replace(x, before=None) for x in whole]
        stops = [f.rule_id for f in judge(at, bare) if f.severity == "stop" and not f.asks]
        self.assertEqual(stops, [], what)
