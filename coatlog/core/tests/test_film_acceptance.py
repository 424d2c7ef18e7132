"""Films that were measured, by the rules of ISO 19840 and SSPC-PA 2 (from memory), worked by hand."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from coatlog.core.errors import OutOfRange
from coatlog.core.film_acceptance import (
    beneath,
    inspect_film,
    inspect_spots,
    readings_wanted,
    spots_wanted,
)
from coatlog.core.stack.surfaces import SUBSTRATES


class FilmAcceptanceTest(TestCase):
    def test_how_many_readings_an_area_asks_for(self) -> None:
        """ISO 19840's table, from memory: a bound has the smaller number; beyond 100 m², 10 for each 100."""
        for area_m2, n in (
            (0.1, 5), (1, 5), (1.1, 10), (3, 10), (10, 15), (10.5, 20), (30, 20),
            (100, 30), (101, 40), (200, 40), (201, 50),
        ):  # fmt: skip
            self.assertEqual(readings_wanted(area_m2), n, area_m2)
        with self.assertRaisesRegex(OutOfRange, "area_m2"):
            readings_wanted(0)

    def test_each_part_of_the_rule_alone(self) -> None:
        """Worked by hand for 100 µm nominal on 2 m², ten readings: what fails, and what just does not."""
        good = [110.0] * 9
        for readings, fails in (
            ([*good, 80.0], ()),  # exactly 80 % is enough, and one in ten is fewer than a fifth
            ([*good, 79.9], ("reading_low",)),
            ([*good[:8], 95.0, 95.0], ("many_under",)),  # two in ten are not fewer than 20 %
            ([100.5] * 9 + [94.0], ("mean_low",)),  # 99.85 in the mean
            ([*good, 200.0], ()),  # twice nominal above 60 µm
            ([*good, 200.1], ("over_most",)),
            (good, ("too_few",)),
            ([50.0] * 10, ("mean_low", "reading_low", "many_under")),
        ):
            self.assertEqual(inspect_film(readings, 100, area_m2=2).fails, fails, readings)
        one_in_five = inspect_film([110, 110, 110, 110, 95], 100, area_m2=0.5)
        self.assertEqual((one_in_five.fails, one_in_five.under_nominal), (("many_under",), 1))
        self.assertEqual(inspect_film([110, 70, 110, 110, 60], 100, area_m2=0.5).low_at, (2, 5), "and where")
        self.assertEqual(inspect_film([150.0] * 5, 50, area_m2=1).fails, ())  # three times up to 60 µm

    def test_a_blast_profile_is_taken_off_first(self) -> None:
        self.assertEqual(inspect_film([120.0] * 5, 100, area_m2=1).fails, ())
        seen = inspect_film([120.0] * 5, 100, area_m2=1, correction_um=25)
        self.assertEqual((seen.mean_um, seen.fails), (95.0, ("mean_low", "many_under")))

    def test_what_the_gauge_reads_along_on_every_surface(self) -> None:
        """Common practice, no published source: over bare ground alone the gauge reads the new film alone."""
        told = {s.id: (beneath(s, bared=False), beneath(s, bared=True)) for s in SUBSTRATES.values()}
        for s in SUBSTRATES.values():
            if s.group == "paint":
                self.assertEqual(told[s.id], ("old_film", ""), s.id)
            if s.group == "metal":
                plated = "plating" if s.metal in ("zinc", "chrome") else ""
                self.assertEqual(told[s.id], (plated, plated), s.id)
        for id in ("painted_plastic", "gelcoat", "new_gelcoat"):
            self.assertEqual(told[id], ("old_film", ""), id)
        for id in ("aircraft_cloth", "doped_fabric", "vinyl", "leather", "black_rubber"):
            self.assertEqual(told[id][0], "soft", id)
        for id in ("glass_fibre", "carbon_fibre", "wood", "glass", "abs_plastic"):
            self.assertEqual(told[id], ("", ""), id)

    def test_spots_and_lots(self) -> None:
        """SSPC-PA 2, from memory: three readings a spot, five spots a lot of 10 m²; level 3 is usual."""
        for area_m2, n in ((1, 5), (10, 5), (11, 10), (30, 15), (100, 15), (101, 20), (200, 20), (201, 25)):
            self.assertEqual(spots_wanted(area_m2), n, area_m2)

        def fails(spots: list[float], **more: float) -> dict[int, tuple[str, ...]]:
            readings = [x + d for x in spots for d in (-3.0, 0.0, 3.0)]
            seen = inspect_spots(readings, 100, 150, area_m2=5, **more)
            return {v.level: v.fails for v in seen.verdicts}

        none: tuple[str, ...] = ()
        self.assertEqual(fails([110, 120, 130, 120, 110]), dict.fromkeys(range(1, 6), none))
        low = ("spot_low",)
        self.assertEqual(fails([110, 120, 130, 120, 81]), {1: low, 2: low, 3: none, 4: none, 5: none})
        self.assertEqual(fails([110, 120, 140, 140, 79]), dict.fromkeys(range(1, 6), low))
        high = ("spot_high",)
        self.assertEqual(fails([110, 110, 110, 110, 179]), {1: high, 2: none, 3: none, 4: none, 5: none})
        self.assertEqual(fails([110, 110, 110, 110, 226])[4], high)
        self.assertEqual(fails([110, 110, 110, 110, 226])[5], none)
        self.assertEqual(fails([95] * 5)[3], ("lot_low",))
        self.assertEqual(fails([110] * 4)[3], ("too_few_spots",))
        self.assertEqual(fails([120] * 5, correction_um=25)[3], ("lot_low",), "95 above the profile")
        self.assertEqual(inspect_spots([100.0] * 4, 100, 150, area_m2=5).spots, 1, "a single one is no spot")

    @given(st.lists(st.floats(1, 400), min_size=10, max_size=30), st.floats(0, 50))
    def test_more_paint_never_fails_for_being_thin(self, readings: list[float], more: float) -> None:
        thin = {"mean_low", "reading_low", "many_under"}
        before = thin & set(inspect_film(readings, 100, area_m2=2).fails)
        after = thin & set(inspect_film([x + more for x in readings], 100, area_m2=2).fails)
        self.assertLessEqual(after, before)
