"""Air against reference libraries and printed values; drying against its integral."""

from __future__ import annotations

import dataclasses
import tomllib
import unittest
from pathlib import Path

import numpy as np
import psychrolib
from CoolProp.HumidAirProp import HAPropsSI

from coatlog.core.climate import (
    Limits,
    coating_gate,
    condensation_point_degc,
    dew_margin,
    dew_point_degc,
    frost_point_degc,
    saturation_kpa,
)
from coatlog.core.drying import Pace, equivalent_age_rate, evaporation_ratio, pace_per_s

PUBLISHED = tomllib.loads((Path(__file__).parent / "published" / "FORMULAS.toml").read_text())


class DewPointTest(unittest.TestCase):
    def test_against_two_libraries_from_0_to_45_degc_and_10_to_100_percent(self) -> None:
        """psychrolib and CoolProp within 0.1 K; below 0 degC they give the frost point."""
        psychrolib.SetUnitSystem(psychrolib.SI)
        worst = 0.0
        for t in np.linspace(0, 45, 10):
            for rh in np.linspace(0.1, 1.0, 10):
                ours = float(condensation_point_degc(t, rh))
                theirs = psychrolib.GetTDewPointFromRelHum(float(t), float(rh))
                cool = HAPropsSI("D", "T", t + 273.15, "R", rh, "P", 101325) - 273.15
                worst = max(worst, abs(ours - theirs), abs(ours - cool))
        self.assertLess(worst, 0.1)

    def test_frost_and_dew_differ_below_zero(self) -> None:
        """10 degC, 30 %: frost point -6.0, dew point -6.8 (re-derived with psychrolib's equations)."""
        self.assertAlmostEqual(float(frost_point_degc(10, 0.30)), -6.0, delta=0.1)
        self.assertAlmostEqual(float(dew_point_degc(10, 0.30)), -6.8, delta=0.1)

    def test_agreed_values(self) -> None:
        row = PUBLISHED["dew_point"][0]
        got = dew_point_degc(row["air_degc"], row["rh_frac"])
        np.testing.assert_allclose(got, row["dew_degc"], atol=0.01)

    def test_saturation_pressure_as_printed(self) -> None:
        for row in PUBLISHED["saturation"]:
            got = saturation_kpa(row["at_degc"])
            np.testing.assert_allclose(got, row["kpa"], atol=row["tolerance_kpa"], err_msg=row["source"])

    def test_no_step_at_zero(self) -> None:
        rh = float(saturation_kpa(0.0) / saturation_kpa(10.0))
        around = condensation_point_degc(10.0, np.array([rh * 0.9999, rh * 1.0001]))
        self.assertLess(abs(float(around[1] - around[0])), 0.05)


class GateTest(unittest.TestCase):
    """The 3 K rule: ISO 8502-4, ISO 12944-7.  The rest: common practice, no published source."""

    def stops(self, **air: float) -> set[str]:
        return {v.rule_id for v in coating_gate(Limits(), **air)}

    def test_margin_counts_with_the_probes_uncertainty(self) -> None:
        dew = float(dew_point_degc(20, 0.6))
        good = {"surface_degc": dew + 3.6, "air_degc": 20.0, "rh_frac": 0.6, "uncertainty_k": 0.5}
        self.assertEqual(self.stops(**good), set())
        self.assertEqual(self.stops(**{**good, "surface_degc": dew + 3.4}), {"climate.dew"})

    def test_surface_at_air_temperature_meets_the_rule_up_to_about_82_percent(self) -> None:
        margins = [dew_margin(20, 20, rh).value for rh in (0.80, 0.84)]
        self.assertGreater(margins[0], 3)
        self.assertLess(margins[1], 3)

    def test_each_stop_says_what_why_and_instead(self) -> None:
        verdicts = coating_gate(Limits(), surface_degc=-1, air_degc=2, rh_frac=0.95)
        self.assertEqual(len(verdicts), 4)
        for v in verdicts:
            self.assertTrue(v.what and v.why and v.instead)


class DryingTest(unittest.TestCase):
    def test_equivalent_age_as_derived_and_printed(self) -> None:
        for row in PUBLISHED["equivalent_age"]:
            got = equivalent_age_rate(
                row["at_degc"], ea_j_per_mol=row["ea_j_per_mol"], reference_degc=row["reference_degc"]
            )
            np.testing.assert_allclose(got, row["rate"], atol=0.006, err_msg=row["source"])

    def test_sheet_points_are_met_exactly_and_the_curve_has_no_seam(self) -> None:
        pace = Pace(((10.0, 7200), (20.0, 3600), (30.0, 2000)), "chemical", 50000.0, -50.0, "min")
        np.testing.assert_allclose(1 / pace_per_s(pace, [10.0, 20.0, 30.0]), [7200, 3600, 2000], rtol=1e-9)
        for seam in (0.0, 20.0, 40.0):
            a, b = pace_per_s(pace, [seam - 1e-6, seam + 1e-6])
            self.assertAlmostEqual(a / b, 1.0, places=4)

    def test_far_outside_minimum_takes_the_slow_and_maximum_the_fast_answer(self) -> None:
        for degc, slow in ((-15.0, "min"), (60.0, "min")):
            low = pace_per_s(Pace(((20.0, 3600),), "chemical", 50000.0, -50.0, "min"), degc)
            high = pace_per_s(Pace(((20.0, 3600),), "chemical", 50000.0, -50.0, "max"), degc)
            self.assertLess(float(low), float(high), slow)

    def test_a_stated_minimum_is_shortened_by_no_warmth_the_sheet_does_not_speak_of(self) -> None:
        """Common practice, no published source: what is stated as the least stays the least."""
        at_20 = Pace(((20.0, 3600),), "chemical", 50000.0, -50.0, "min")
        np.testing.assert_allclose(1 / pace_per_s(at_20, [20.0, 25.0, 45.0]), 3600, rtol=1e-9)
        spoken = dataclasses.replace(at_20, stated_to_degc=30.0)
        warm = 1 / pace_per_s(spoken, [25.0, 30.0, 45.0])
        self.assertTrue(3600 > warm[0] > warm[1] == warm[2])
        cold = 1 / pace_per_s(at_20, 10.0)
        self.assertGreater(float(cold), 3600)

    def test_nothing_ripens_below_the_sheets_limit(self) -> None:
        pace = Pace(((20.0, 3600),), "chemical", 50000.0, 10.0, "min")
        self.assertEqual(float(pace_per_s(pace, 9.9)), 0.0)
        self.assertGreater(float(pace_per_s(pace, 10.0)), 0.0)

    def test_water_does_not_leave_into_saturated_air(self) -> None:
        self.assertEqual(evaporation_ratio(20, 20, 1.0, reference_degc=20), 0.0)
        self.assertAlmostEqual(evaporation_ratio(20, 20, 0.5, reference_degc=20), 1.0)
