"""Reading and entry in the other units, run under the pinned Node.  Factors are exact by definition."""

from __future__ import annotations

import json
import unittest
from typing import Any

from .node import evaluate


def node(expression: str) -> Any:
    return evaluate("lib/units.ts", expression)


class UnitsTest(unittest.TestCase):
    def test_units_against_their_definitions(self) -> None:
        """Inch 25.4 mm, foot 0.3048 m, gallon 231 in³, fluid ounce 1/128 of it, pound 453.59237 g, 16 oz."""
        cases = [
            ("um", 25.4, 1.0), ("um", 50.8, 2.0), ("m2", 0.3048**2, 1.0), ("m", 0.3048, 1.0),
            ("ml", 231 * 2.54**3 / 128, 1.0), ("g", 28.349523125, 1.0), ("m_s", 0.44704, 1.0),
            ("voc", 453.59237 / (231 * 2.54**3 / 1000), 1.0),
            ("degc", 0.0, 32.0), ("degc", 100.0, 212.0), ("degc", -40.0, -40.0),
        ]  # fmt: skip
        calls = ", ".join(f'm.toShown("{q}", {v}, "us")' for q, v, _ in cases)
        for got, (q, v, expected) in zip(node(f"[{calls}]"), cases, strict=True):
            self.assertAlmostEqual(got, expected, places=9, msg=f"{q} {v}")

    def test_a_difference_of_three_kelvin_is_five_point_four_never_thirty_seven(self) -> None:
        self.assertAlmostEqual(node('m.toShown("k", 3, "us")'), 5.4)

    def test_there_and_back_is_the_same_number(self) -> None:
        calls = ", ".join(
            f'm.toStored("{q}", m.toShown("{q}", {v}, "{s}"), "{s}")'
            for q in ("um", "degc", "k", "ml", "g", "m2", "m", "m_s", "mm")
            for v in (0.3, 17.25, 4321.0)
            for s in ("metric", "us")
        )
        got = node(f"[{calls}]")
        for i, value in enumerate(got):
            self.assertAlmostEqual(value, (0.3, 17.25, 4321.0)[i // 2 % 3], places=9)

    def test_marks_of_a_ruler_are_round_in_the_unit_that_is_read(self) -> None:
        got = node(
            'm.marks("ml", 4000, 13, "us").map((v) => Math.round(m.toShown("ml", v, "us") * 1e6) / 1e6)'
        )
        self.assertEqual(got, [20.0 * i for i in range(7)])
        self.assertEqual(node('m.marks("um", 460, 9, "metric")'), [0, 100, 200, 300, 400])

    def test_what_is_typed_is_a_number_of_that_unit_or_none(self) -> None:
        good = {"1,5": 1.5, " 1 610 ": 1610, "12 ml": 12, ".5": 0.5, "-3": -3, "0": 0, "7.": 7}
        bad = [
            "",
            "abc",
            "1e9",
            "12 oz",
            "1.2.3",
            "1,2,3",
            "--1",
            "NaN",
            "Infinity",
            "0x10",
            "5 mlml",
            "12m l x",
        ]
        calls = ", ".join(f'm.typed({json.dumps(t)}, "ml")' for t in [*good, *bad])
        got = node(f"[{calls}]")
        self.assertEqual(got[: len(good)], list(good.values()))
        self.assertEqual(got[len(good) :], [None] * len(bad))  # NaN travels as null
