"""What is said before any coat.  Common practice, no published source."""

from __future__ import annotations

import unittest

from coatlog.core.stack.answers import before_any_coat
from coatlog.core.stack.rules import Survey


class BeforeAnyCoatTest(unittest.TestCase):
    def test_what_a_foreman_says_first(self) -> None:
        for ground, features, wish, first in (
            ("fresh_paint", (), "repels", "wait_cured"),
            ("aged_clear", (), "gloss", "polish_first"),
            ("sound_paint", ("faded",), "gloss", "polish_first"),
            ("glossy_paint", (), "colour", "key_recoat"),
            ("e_coat", (), "primed", "primed_already"),
            ("sound_paint", (), "seals", "leave_it"),
            ("wet_wood", (), "clear", "dry_first"),
            ("greasy_plastic", (), "colour", "wash_first"),
            ("textured_plastic", (), "colour", "restore_first"),
            ("sound_paint", ("control_surface",), "colour", "not_here"),
        ):
            told = before_any_coat(Survey(substrate=ground, features=features), (wish,))
            self.assertEqual(told[:1], (first,), (ground, features, wish))

    def test_nothing_is_said_where_a_coat_is_the_answer(self) -> None:
        for ground, features, wish in (
            ("bare_steel", (), "colour"),
            ("sound_paint", (), "colour"),
            ("sound_paint", ("scratches",), "primed"),
            ("gelcoat", (), "antifouling"),
            ("glossy_paint", (), "reversible"),
        ):
            self.assertEqual(before_any_coat(Survey(substrate=ground, features=features), (wish,)), ())
