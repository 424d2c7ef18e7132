"""The builder on two hundred seeded shelves against plain enumeration, and on the whole typical shelf."""

from __future__ import annotations

import os
import statistics
import time
import unittest

from coatlog.core.stack.builder import legal_stacks, suggest
from coatlog.core.stack.rules import Survey
from coatlog.core.stack.surfaces import SUBSTRATES
from coatlog.core.tests.enumerated import every_stack, seeded_shelf
from coatlog.core.tests.test_stack import S

from .bench_plan import say

SHELVES = int(os.environ.get("COATLOG_BENCH_SHELVES", "200"))


class StackBench(unittest.TestCase):
    def test_two_hundred_shelves(self) -> None:
        searched_s, enumerated_s, differ, answered = 0.0, 0.0, 0, 0
        for seed in range(SHELVES):
            shelf, survey, wanted = seeded_shelf(seed, tuple(S.values()))
            began = time.perf_counter()
            found = {
                (*(p.id for p in path), *(x.sheet.material_id for x in layers))
                for path, layers in legal_stacks(survey, shelf, wanted)
            }
            searched_s += time.perf_counter() - began
            began = time.perf_counter()
            every = every_stack(survey, shelf, wanted)
            enumerated_s += time.perf_counter() - began
            differ += found != every
            answered += bool(found)
        self.assertEqual(differ, 0)
        longer = enumerated_s / searched_s
        say(f"{SHELVES} shelves of 12 materials, up to 4 layers: search and enumeration differ on {differ}, "
            f"{answered} have a legal stack; enumeration takes {longer:.1f} times as long")  # fmt: skip

    def test_whole_shelf(self) -> None:
        took = []
        for ground in SUBSTRATES:
            for wanted in (("colour", "gloss"), ("texture",), ("antifouling",), ("reversible",)):
                began = time.perf_counter()
                suggest(Survey(substrate=ground, must_survive=("sun", "rain")), list(S.values()), wanted)
                took.append(time.perf_counter() - began)
        say(f"suggestions from the whole shelf of {len(S)}: {statistics.median(took) * 1000:.0f} ms median, "
            f"{max(took) * 1000:.0f} ms at most")  # fmt: skip
