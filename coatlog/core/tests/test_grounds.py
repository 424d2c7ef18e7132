"""What a surface is after its steps, over every surface, way of preparing and sheet.

The expected answers are facts of the trade: common practice, no published source.
"""

from __future__ import annotations

import unittest
from collections.abc import Callable, Sequence

from coatlog.core.run.accumulator import Deed
from coatlog.core.run.step_list import before_coat
from coatlog.core.run.surface import Ground, ground_after, ground_listed
from coatlog.core.stack.preps import prepared
from coatlog.core.stack.rules import Survey
from coatlog.core.stack.step_catalogue import AT_FIRST
from coatlog.core.stack.step_sequence import Work, step_sequence, usual_layer, with_steps
from coatlog.core.stack.surfaces import SUBSTRATES

from .test_stack import S

MINUTE, HOUR = 60, 3600
Works = tuple[Work, ...]


def listed(ground: str) -> list[tuple[str, Works]]:
    """Every list before a first coat on a surface: by every way of preparing it, for every sheet."""
    out = []
    for path in [(), *[p for _, p in prepared(ground, ())]]:
        for name, sheet in S.items():
            survey = Survey(substrate=ground)
            layers = with_steps(survey, path, [usual_layer(sheet)])
            words = f"{name} on {ground} by {[p.id for p in path]}"
            out.append((words, before_coat(step_sequence(survey, path, layers), 0)))
    return out


def done(works: Sequence[Work], whole: Works, *, held: bool = True) -> Ground:
    """The surface by a log of some steps of a list, one a minute."""
    deeds = [Deed(i * MINUTE, ("p",), w.log, w.key, w.grit, held) for i, w in enumerate(works)]
    return ground_after(deeds, whole, AT_FIRST)


class GroundsTest(unittest.TestCase):
    everything: dict[str, list[tuple[str, Works]]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.everything = {g: listed(g) for g in SUBSTRATES}

    def distinct(self, has: Callable[[Works], bool]) -> list[tuple[str, Works]]:
        """One list of each order of steps that has what is asked."""
        own = (x for lists in self.everything.values() for x in lists)
        seen = {tuple(w.step for w in works): (words, works) for words, works in own}
        return [x for x in seen.values() if has(x[1])]

    def test_every_list_leaves_a_surface_to_paint_and_its_log_says_the_same(self) -> None:
        """Clean, dry, free of dust and acid, with no grease sanded in."""
        n = 0
        for words, works in (x for own in self.everything.values() for x in own):
            want = ground_listed(works, AT_FIRST)
            self.assertLessEqual({"degreased", "dry", "dustless", "neutral"}, want.marks, words)
            self.assertFalse(want.ground_in, words)
            got = done(works, works)
            self.assertEqual((got.marks, got.grit, got.worked), (want.marks, want.grit, want.worked), words)
            n += 1
        self.assertGreater(n, 10_000)

    def test_what_is_only_sanded_has_its_grease_sanded_in(self) -> None:
        sanded = self.distinct(lambda ws: any(w.step == "abrade" for w in ws))
        self.assertGreater(len(sanded), 20)
        for words, works in sanded:
            only = [w for w in works if w.step == "abrade"]
            got = done(only, works)
            self.assertIn("keyed", got.marks, words)
            self.assertNotIn("degreased", got.marks, words)
            self.assertTrue(got.ground_in, words)

    def test_gel_that_nobody_rinsed_off_stays_acid_whatever_else_is_done(self) -> None:
        gelled = self.distinct(lambda ws: any(w.step == "rust_gel" for w in ws))
        self.assertGreater(len(gelled), 3)
        for words, works in gelled:
            got = done([w for w in works if w.step != "rinse_ph"], works)
            self.assertNotIn("neutral", got.marks, words)
            self.assertIn("neutral", done(works, works).marks, words)

    def test_washed_and_left_it_is_wet_now_and_dry_after_hours(self) -> None:
        for words, works in self.distinct(lambda ws: any(w.step == "wash" for w in ws)):
            upto = max(i for i, w in enumerate(works) if w.step == "wash")
            got = done(works[: upto + 1], works)
            self.assertFalse(got.dry_by((upto + 10) * MINUTE), words)
            self.assertTrue(got.dry_by(upto * MINUTE + 4 * HOUR), words)

    def test_a_step_that_failed_its_check_gives_nothing(self) -> None:
        for words, works in self.distinct(bool):
            got = done(works, works, held=False)
            self.assertFalse(got.marks & {"degreased", "keyed", "dustless"}, words)
