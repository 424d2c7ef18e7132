"""Film and mix against definitions, handbook values and facts of the trade.

Sources stand in published/FORMULAS.toml, or beside the check.
"""

from __future__ import annotations

import tomllib
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from coatlog.core.errors import OutOfRange, Underspecified
from coatlog.core.film import (
    dead_film_um,
    dry_film,
    dry_film_from_draw,
    practical_volume,
    spreading_rate,
    wet_film,
)
from coatlog.core.mix import (
    cup_for_component,
    cup_for_total,
    limiting_component,
    mixed_solids,
    pot_life,
    ratio_error_frac,
    smallest_batch_ml,
)
from coatlog.core.sheet import Component, PotPoint

PUBLISHED = tomllib.loads((Path(__file__).parent / "published" / "FORMULAS.toml").read_text())


def component(
    role: str, parts: float, of: str = "ratio", by: str = "volume", density: float = 1.0
) -> Component:
    return Component(
        role=role, name=role, parts=parts, of=of, by=by, density_g_per_ml=density, solids_frac=0.5
    )  # type: ignore[arg-type]


LINER = [
    component("base", 3, density=1.16),
    component("tint", 0.10, of="base", density=1.2),
    component("hardener", 1, density=1.12),
]


class FilmTest(unittest.TestCase):
    def test_wet_film_of_the_standard(self) -> None:
        for row in PUBLISHED["wet_film"]:
            got = wet_film(row["dry_um"], row["solids_frac"], thinner_frac=row["thinner_frac"])
            self.assertAlmostEqual(got.value, row["wet_um"], delta=row["tolerance_um"], msg=row["source"])

    def test_spreading_rate(self) -> None:
        for row in PUBLISHED["spreading"]:
            got = spreading_rate(row["dry_um"], row["solids_frac"]).value
            self.assertAlmostEqual(got, row["m2_per_l"], delta=0.01, msg=row["source"])

    def test_practical_volume_names_its_losses_and_they_add_up(self) -> None:
        row = PUBLISHED["practical"][0]
        inputs = {k: row[k] for k in ("lands_frac", "left_over_frac", "dead_um")}
        v = practical_volume(row["area_m2"], row["aim_um"], row["solids_frac"], **inputs, fixed_ml=60)
        self.assertAlmostEqual((v.total_ml - 60) / 1000, row["litres"], delta=0.01)
        losses = v.film_ml + v.profile_ml + v.overspray_ml + v.left_over_ml + v.fixed_ml
        self.assertAlmostEqual(losses, v.total_ml, places=6)

    def test_dead_film_in_a_profile(self) -> None:
        for row in PUBLISHED["dead_film"]:
            self.assertAlmostEqual(dead_film_um(row["rz_um"]), row["um"], delta=0.01, msg=row["source"])

    @given(st.floats(1, 2000), st.floats(0.05, 1), st.floats(0, 2))
    def test_dry_and_wet_undo_each_other(self, dry: float, solids: float, thinner: float) -> None:
        wet = wet_film(dry, solids, thinner_frac=thinner).value
        self.assertAlmostEqual(dry_film(wet, solids, thinner_frac=thinner).value, dry, places=6)

    def test_a_litre_on_a_square_metre_is_a_millimetre(self) -> None:
        self.assertAlmostEqual(dry_film_from_draw(1000, 1.0, 1.0, 1.0).value, 1000.0)

    def test_a_refusal_names_field_value_and_limits(self) -> None:
        with self.assertRaisesRegex(OutOfRange, r"solids_frac: got 0, expected above 0, at most 1"):
            wet_film(50, 0)


class MixTest(unittest.TestCase):
    """Trade facts here: common practice, no published source."""

    def test_tint_is_counted_on_the_base_alone(self) -> None:
        cup = cup_for_component(LINER, "base", 750)
        self.assertAlmostEqual(cup.pour("tint").ml, 75.0)
        self.assertAlmostEqual(cup.pour("hardener").ml, 250.0)
        self.assertAlmostEqual(cup.pour("hardener").mark_ml, 1075.0)

    def test_filling_to_the_thousand_mark_leaves_the_hardener_a_third_short(self) -> None:
        cup = cup_for_component(LINER, "base", 750)
        short = 1000 - cup.pour("tint").mark_ml
        self.assertAlmostEqual(short, 175.0)
        self.assertAlmostEqual(1 - short / cup.pour("hardener").ml, 0.30)

    def test_four_to_one_to_one_is_the_same_rung_in_every_column(self) -> None:
        cup = cup_for_component(
            [component("base", 4), component("hardener", 1), component("thinner", 1)], "base", 400
        )
        self.assertEqual([p.ml / parts for p, parts in zip(cup.pours, (4, 1, 1), strict=True)], [100.0] * 3)
        self.assertAlmostEqual(cup.total_ml, 1.5 * 400)

    def test_five_percent_alcohol_on_four_litres(self) -> None:
        mix = [component("base", 3), component("hardener", 1), component("thinner", 0.05, of="mix")]
        self.assertAlmostEqual(cup_for_component(mix, "base", 3000).pour("thinner").ml, 200.0)

    def test_cleaner_ten_to_one(self) -> None:
        cup = cup_for_total([component("base", 10), component("thinner", 1)], 1100)
        self.assertEqual([round(p.ml, 6) for p in cup.pours], [1000.0, 100.0])

    def test_by_mass_is_another_ratio_than_by_volume(self) -> None:
        heavy = [
            component("base", 2, by="mass", density=2.0),
            component("hardener", 1, by="mass", density=1.0),
        ]
        cup = cup_for_total(heavy, 1000)
        self.assertAlmostEqual(cup.pour("base").g / cup.pour("hardener").g, 2.0)
        self.assertAlmostEqual(cup.pour("base").ml, cup.pour("hardener").ml)
        with self.assertRaises(Underspecified):
            cup_for_total([component("base", 2, by="mass"), component("hardener", 1)], 1000)

    def test_what_is_in_hand_limits_the_mix(self) -> None:
        cup = limiting_component(LINER, {"base": 3000, "hardener": 500})
        self.assertAlmostEqual(cup.pour("hardener").ml, 500)
        self.assertAlmostEqual(cup.pour("base").ml, 1500)

    @given(st.floats(10, 50000), st.floats(0, 0.4))
    def test_marks_and_grams_accumulate(self, total_ml: float, tint: float) -> None:
        cup = cup_for_total(LINER, total_ml, tint_frac=tint)
        self.assertAlmostEqual(cup.pours[-1].mark_ml, total_ml, delta=1e-6 * total_ml)
        self.assertAlmostEqual(sum(p.g for p in cup.pours), cup.total_g, delta=1e-6 * cup.total_g)
        self.assertAlmostEqual(cup.pour("base").ml / cup.pour("hardener").ml, 3.0)

    def test_mixed_solids(self) -> None:
        self.assertAlmostEqual(mixed_solids([4, 1], [0.62, 0.52]).value, 0.60)

    def test_smallest_batch_keeps_the_ratio_within_tolerance(self) -> None:
        least = smallest_batch_ml(LINER, step_ml=5)
        cup = cup_for_total(LINER, least)
        error = ratio_error_frac(cup.pour("base").ml, cup.pour("hardener").ml, 5)
        self.assertAlmostEqual(error, 0.05, places=6)

    def test_pot_life(self) -> None:
        """One point halves per +10 degC (common practice); two run straight in 1/T, refused far off."""
        one = [PotPoint(at_degc=20, s=3600)]
        self.assertAlmostEqual(pot_life(one, 30).value, 1800, delta=1)
        two = [PotPoint(at_degc=10, s=7200), PotPoint(at_degc=30, s=1800)]
        self.assertAlmostEqual(pot_life(two, 10).value, 7200, delta=0.01)
        self.assertTrue(1800 < pot_life(two, 20).value < 7200)
        with self.assertRaisesRegex(OutOfRange, "0 to 40 °C"):
            pot_life(two, 45)
