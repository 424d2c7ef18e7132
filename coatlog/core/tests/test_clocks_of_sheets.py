"""Laws over the whole shelf of typical sheets: their clocks agree with one another and with what they are.

Common practice, no published source.
"""

from __future__ import annotations

import itertools
import unittest

from coatlog.core.run.recoat_windows import sheet_pace
from coatlog.core.stack.mending import MENDS, SANDS, TAKEN_OFF, can_be_sanded, mend_of
from coatlog.core.stack.surfaces import SUBSTRATES

from .test_stack import S

#: dries physically although it comes in two parts: the second is acid that bites, not a hardener
ACID_PARTS = ("etch-2k",)
SOLVENT_WORDS = ("solvent vapour", "acid and solvent", "thinner")


class ShelfClocksTest(unittest.TestCase):
    def test_a_film_is_no_longer_wet_when_its_next_coat_may_go_on(self) -> None:
        """Unless it goes on wet in wet: a window opened before the tacky gate would ruin who obeys it."""
        for name, s in S.items():
            for p in s.points_for("tacky"):
                for r in s.recoat:
                    w = r.windows[0]
                    with self.subTest(name, next=r.next):
                        self.assertTrue(w.tacky or w.from_s == 0 or p[1] <= w.from_s, (p, w))

    def test_gates_stand_in_the_order_a_film_reaches_them(self) -> None:
        order = ("tacky", "touch", "sand", "full")
        for name, s in S.items():
            times = [(g, s.points_for(g)[0][1]) for g in order if s.points_for(g)]
            for (a, at), (b, then) in itertools.pairwise(times):
                self.assertLessEqual(at, then, (name, a, b))
            handle = s.points_for("handle")
            self.assertTrue(
                not handle or handle[0][1] >= s.points_for("touch")[0][1] if s.points_for("touch") else True
            )

    def test_windows_follow_one_another_and_have_room(self) -> None:
        for name, s in S.items():
            for r in s.recoat:
                for w in r.windows:
                    self.assertTrue(w.to_s is None or w.to_s > w.from_s, (name, r.next))
                for a, b in itertools.pairwise(r.windows):
                    self.assertTrue(a.to_s is not None and a.to_s <= b.from_s, (name, r.next))

    def test_what_closes_can_be_opened_by_something_or_says_take_it_off(self) -> None:
        """A remedy nobody has is a dead end: no key on what cannot be sanded, and a way off for the rest."""
        for name, s in S.items():
            grounds = [g for g in SUBSTRATES if g in s.grounds] or ["sound_paint"]
            for r in s.recoat:
                closes = r.windows[-1].to_s is not None
                for g in grounds:
                    mend = mend_of(s, g)
                    with self.subTest(name, next=r.next, ground=g):
                        self.assertIn(mend, MENDS)
                        if closes and "abrade" in r.fix:
                            self.assertIn(mend, SANDS)
                        if closes and not r.fix:
                            self.assertNotIn(mend, SANDS, "it hardens: sanding opens it anew")
                            self.assertIn("off" if mend not in ("strip", "wash", "cut", "soft") else "begin",
                                          TAKEN_OFF[mend])  # fmt: skip

    def test_it_dries_by_what_is_in_it(self) -> None:
        """By water where there is water in it; by solvent, by air's moisture or by its hardener otherwise."""
        for name, s in S.items():
            if s.aid is not None:
                continue
            hazards = " ".join(s.hazards).lower()
            wet = any(c.water_frac > 0 for c in s.components)
            self.assertEqual(s.law == "water", wet, (name, s.law))
            if any(word in hazards for word in SOLVENT_WORDS):
                self.assertNotEqual(s.law, "water", name)
            hardens = any(c.role == "hardener" for c in s.components)
            if hardens and name not in ACID_PARTS:
                self.assertEqual(s.law, "chemical", name)
            if not hardens and not s.properties.two_pack:
                self.assertIn(s.law, ("solvent", "moisture", "water", "chemical") if "can" in {
                    c.role for c in s.components} else ("solvent", "moisture", "water"), name)  # fmt: skip

    def test_colour_and_clear_say_when_they_can_be_sanded(self) -> None:
        for name in ("clear-coat-2k", "single-stage-2k", "alkyd-enamel", "varnish", "colour-aerosol"):
            self.assertTrue(S[name].points_for("sand"), name)
        self.assertIsNotNone(sheet_pace(S["clear-coat-2k"], S["clear-coat-2k"].points_for("sand"), "min"))

    def test_what_is_soft_is_never_sanded(self) -> None:
        for ground in ("black_rubber", "vinyl", "leather", "woven_fabric"):
            for name, s in S.items():
                if ground in s.grounds:
                    self.assertFalse(can_be_sanded(s, ground), (name, ground))
        self.assertEqual(
            {n: mend_of(S[n], g) for n, g in (
                ("matt-peelable", "glossy_paint"), ("boot-sealant", "black_rubber"),
                ("glass-coating", "glass"), ("fabric-protectant", "woven_fabric"),
                ("vinyl-colour", "leather"),
                ("keel-strip", "gelcoat"), ("hard-antifouling", "gelcoat"), ("clear-coat-2k", "sound_paint"),
                ("cavity-wax", "bare_steel"),
            )},
            {"matt-peelable": "peel", "boot-sealant": "strip", "glass-coating": "clean",
             "fabric-protectant": "wash", "vinyl-colour": "soft", "keel-strip": "lift",
             "hard-antifouling": "wet_sand", "clear-coat-2k": "sand", "cavity-wax": "wax"},
        )  # fmt: skip
