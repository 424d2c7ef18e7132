"""Areas, aim film, packs, VOC, due dates and weather windows against the world outside."""

from __future__ import annotations

import itertools
import math
import random
import re
import unittest

import trimesh

from coatlog.core.area import area_of, doubts
from coatlog.core.climate import Limits, coating_gate
from coatlog.core.errors import CoreError
from coatlog.core.film import practical_volume
from coatlog.core.mix import cup_for_total, voc_g_per_l
from coatlog.core.quantity import acceptance, aim_factor, buy, coats_for, needs_of
from coatlog.core.run.facts import Layer, Part, make_facts
from coatlog.core.sheet import Component, Pack
from coatlog.core.windows import Hour, Need, find_windows, judge_hour

from .test_stack import S


class AreaTest(unittest.TestCase):
    def test_solids_against_meshes(self) -> None:
        """Reference: trimesh, meshes of the same solids (the cylinder's facets cost under 0.1 %)."""
        box = trimesh.creation.box(extents=(2.1, 1.5, 0.5))
        self.assertAlmostEqual(
            area_of("box", {"length_m": 2.1, "width_m": 1.5, "height_m": 0.5, "lids": 1}).value, box.area
        )
        tube = trimesh.creation.cylinder(radius=0.25, height=1.8, sections=256)
        ours = area_of("cylinder", {"diameter_m": 0.5, "length_m": 1.8, "ends": 2}).value
        self.assertLess(abs(ours / tube.area - 1), 1e-3)

    def test_a_panel_curved_to_a_half_circle_is_half_a_tube(self) -> None:
        panel = area_of("panel", {"length_m": 2.0, "width_m": 0.6, "rise_m": 0.3}).value
        tube = area_of("cylinder", {"diameter_m": 0.6, "length_m": 2.0}).value
        self.assertAlmostEqual(panel, tube / 2)
        self.assertEqual(area_of("panel", {"length_m": 2.0, "width_m": 0.6}).value, 1.2)

    def test_a_flat_arc_against_its_sum_of_chords(self) -> None:
        """The arc summed from 20 000 chords of the same circle (definition of length)."""
        chord, rise = 1.4, 0.12
        r = (chord**2 / 4 + rise**2) / (2 * rise)
        half = math.asin(chord / 2 / r)
        n = 20_000
        points = [(r * math.sin(a), r * math.cos(a)) for a in (half * (2 * k / n - 1) for k in range(n + 1))]
        length = sum(math.dist(p, q) for p, q in itertools.pairwise(points))
        self.assertAlmostEqual(
            area_of("panel", {"length_m": 1.0, "width_m": chord, "rise_m": rise}).value, length, places=6
        )

    def test_hull_rule_of_the_trade(self) -> None:
        """LWL · (B + T) · 0.75: common practice, no published source."""
        measures = {"waterline_m": 9.1, "beam_m": 3.4, "draught_m": 1.8, "fullness": 0.75}
        self.assertAlmostEqual(area_of("hull", measures).value, 9.1 * 5.2 * 0.75)

    def test_bad_measures_are_named(self) -> None:
        for shape, measures, field in (
            ("cone", {}, "shape"),
            ("panel", {"length_m": 2.0}, "width_m"),
            ("panel", {"length_m": 0.0, "width_m": 1.0}, "length_m"),
            ("panel", {"length_m": 1.0, "width_m": 1.0, "rise_m": 0.6}, "rise_m"),
            ("wheel", {"diameter_m": -0.4}, "diameter_m"),
            ("wheel", {"diameter_m": 1e9}, "diameter_m"),
            ("box", {"length_m": float("nan"), "width_m": 1.0, "height_m": 1.0}, "length_m"),
        ):
            with self.assertRaises(CoreError) as caught:
                area_of(shape, measures)
            self.assertEqual(caught.exception.field, field)


class AimTest(unittest.TestCase):
    def test_aim_factors(self) -> None:
        """20 readings under the rule of ISO 19840 (rule from memory): × 1.16, 1.32, 1.64."""
        for cv, factor in ((0.10, 1.16), (0.15, 1.32), (0.20, 1.64)):
            self.assertAlmostEqual(aim_factor(cv).value, factor, places=2)

    def test_against_drawn_readings(self) -> None:
        """Monte Carlo of the rule itself, seeded: agrees within three standard errors."""
        rng = random.Random(7)
        mean, cv, n, runs = 1.25, 0.15, 20, 20_000
        passed = 0
        for _ in range(runs):
            readings = [rng.gauss(mean, cv * mean) for _ in range(n)]
            passed += min(readings) >= 0.8 and sum(r < 1 for r in readings) < 0.2 * n
        p = acceptance(mean, cv, n)
        self.assertLess(abs(passed / runs - p), 3 * math.sqrt(p * (1 - p) / runs))

    def test_a_mean_at_nominal_fails_far_more_often_than_it_passes(self) -> None:
        self.assertLess(acceptance(1.0, 0.10, 20), 0.01)
        self.assertEqual(acceptance(1.0, 0.0, 20), 1.0)


class NeedTest(unittest.TestCase):
    def facts(self, key: str, coats: int, area: float, target: float | None) -> object:
        sheet = S[key]
        part = Part(id="p", name="P", area_m2=area, substrate="sound_paint", condition="", place_id="bay")
        layer = Layer(
            id="l", part_id="p", position=0, sheet_id=sheet.id, target_um=target, tol_um=0, coats=coats,
            method_id=sheet.method_id,
        )  # fmt: skip
        return make_facts(job_id="j", version=1, parts=(part,), layers=(layer,), sheets={sheet.id: sheet})

    def test_losses_add_up_and_inspection_takes_more(self) -> None:
        facts = self.facts("epoxy-primer-2k", 2, 10.0, 100.0)
        (plain,) = needs_of(facts, {})
        (strict,) = needs_of(facts, {}, inspected=True)
        v = plain.volume
        losses = v.film_ml + v.profile_ml + v.overspray_ml + v.left_over_ml + v.fixed_ml
        self.assertAlmostEqual(losses, v.total_ml)
        self.assertAlmostEqual(strict.volume.film_ml / v.film_ml, aim_factor(0.15).value)
        by_hand = practical_volume(
            10, 100, 0.6, lands_frac=0.65, left_over_frac=0.05, fixed_ml=60
        )  # solids of the sheet: (4 × 0.62 + 0.52) / 5 = 0.6
        self.assertAlmostEqual(v.total_ml, by_hand.total_ml, places=6)

    def test_a_mean_over_the_sheet_asks_for_a_steadier_method(self) -> None:
        (need,) = needs_of(self.facts("epoxy-primer-2k", 3, 10.0, 190.0), {}, inspected=True)
        self.assertIn("more even method", need.breaks)
        self.assertEqual(need.aim_um, need.nominal_um)

    def test_an_aim_that_needs_another_coat_says_so(self) -> None:
        (need,) = needs_of(self.facts("epoxy-primer-2k", 2, 10.0, 120.0), {}, inspected=True)
        self.assertIn("158 µm needs 3 coats by the data sheet, 2 planned", need.breaks)  # 120 × 1.317
        (plain,) = needs_of(self.facts("epoxy-primer-2k", 2, 10.0, 120.0), {})
        self.assertEqual(plain.breaks, "")

    def test_what_builds_no_film_goes_by_coverage(self) -> None:
        (need,) = needs_of(self.facts("glass-coating", 3, 1.2, None), {})
        self.assertIsNone(need.nominal_um)
        self.assertAlmostEqual(need.total_ml, 3 * 1.2 / 120 * 1000)
        self.assertEqual([(x.name, x.count) for x in need.purchase.lines], [("50 ml bottle", 1)])

    def test_packs_against_all_combinations(self) -> None:
        packs = [Pack(name="kit", makes_ml=1500.0), Pack(name="big", makes_ml=4000.0)]
        prices = {"kit": 55.0, "big": 120.0}
        for need in (1, 1499, 1500, 1501, 4000, 5600, 9100):
            best = min(
                (a * 55.0 + b * 120.0, a * 1500 + b * 4000)
                for a in range(9) for b in range(9) if a * 1500 + b * 4000 >= need
            )  # fmt: skip
            bought = buy(need, packs, prices)
            self.assertEqual((bought.cost, bought.makes_ml), best)
            self.assertIsNone(buy(need, packs, {}).cost)

    def test_coats_for_a_film(self) -> None:
        primer = S["epoxy-primer-2k"]  # 40 to 75 µm a coat, 200 in all, three coats
        for film, coats in ((75, 1), (75.0001, None), (80, 2), (150, 2), (200, 3), (201, None), (30, None)):
            self.assertEqual(coats_for(film, primer), coats, film)


class VocTest(unittest.TestCase):
    def test_material_and_less_water(self) -> None:
        """1.05 kg/l, 60 % water, 30 % solids by mass: 105 g/l material, 284 g/l less water (derived)."""
        paint = Component(
            role="base", name="x", parts=1, density_g_per_ml=1.05, voc_g_per_l=105, water_frac=0.63
        )  # 1050 g × 60 % = 630 g water = 0.63 l of the litre
        self.assertAlmostEqual(voc_g_per_l([paint], [1000], less_water=False).value, 105)
        self.assertAlmostEqual(voc_g_per_l([paint], [1000], less_water=True).value, 283.78, places=2)

    def test_a_part_that_does_not_say_gives_no_number(self) -> None:
        silent = Component(role="base", name="x", parts=1, density_g_per_ml=1.0)
        self.assertIsNone(voc_g_per_l([silent], [10], less_water=False))


class CopperTest(unittest.TestCase):
    def test_five_percent_isopropanol_of_four_litres(self) -> None:
        """4 l of resin + hardener take 200 ml: common practice, no published source."""
        cup = cup_for_total(S["copper-epoxy"].components, 1000.0)
        both = cup.pour("base").ml + cup.pour("hardener").ml
        self.assertAlmostEqual(cup.pour("thinner").ml / both * 4000, 200.0)
        self.assertEqual([p.role for p in cup.pours], ["base", "hardener", "thinner", "filler"])


class DoubtTest(unittest.TestCase):
    def test_what_hardly_can_be_is_doubted_and_what_is_usual_is_not(self) -> None:
        """Rims of road wheels are sold from 10 to 24 in: common practice, no published source."""
        for inches in (10, 17, 24):
            self.assertEqual(doubts("wheel", {"diameter_m": inches * 0.0254}), ())
        (told,) = doubts("wheel", {"diameter_m": 18 * 0.3048})  # inches entered as feet
        self.assertIn("A rim diameter of 216 in is unusual", told)
        self.assertEqual(len(doubts("hull", {"waterline_m": 91, "beam_m": 34, "draught_m": 18})), 3)
        self.assertEqual(doubts("hull", {"waterline_m": 9.1, "beam_m": 3.4, "draught_m": 1.8}), ())


class WindowTest(unittest.TestCase):
    def hours(self, **bad: dict[str, float]) -> list[Hour]:
        """A fine day, 20 °C and 50 %, dew margin about 10 K; single hours spoiled by name h<n>."""
        return [
            Hour(
                **{
                    "at": 3600 * i, "air_degc": 20.0, "surface_degc": 20.0, "rh_frac": 0.5, "wind_m_s": 2.0,
                    "rain_mm": 0.0, **bad.get(f"h{i}", {}),
                }
            )
            for i in range(12)
        ]  # fmt: skip

    def find(self, hours: list[Hour], need: Need, **over: object) -> list[tuple[int, int, int]]:
        found = find_windows(hours, need, Limits(), **{"outdoors": True, "now": 0, **over})
        return [(w.from_at // 3600, w.latest_start_at // 3600, w.to_at // 3600) for w in found]

    def test_rain_after_the_coat_counts_while_it_must_stay_dry(self) -> None:
        rain = self.hours(h6={"rain_mm": 1.0})
        self.assertEqual(self.find(rain, Need(coat_s=3600)), [(0, 5, 6), (7, 11, 12)])
        dry_for_five = Need(coat_s=3600, flash_s=1800, dry_s=5 * 3600 - 5400)
        self.assertEqual(self.find(rain, dry_for_five), [(0, 1, 6), (7, 7, 12)])
        self.assertEqual(self.find(rain, Need(coat_s=7 * 3600)), [])

    def test_what_must_stay_dry_is_not_begun_before_a_night_of_dew_or_frost(self) -> None:
        """Dew settles where the surface is below dew point: ISO 8502-4.  Frost: common practice."""
        eight_dry = Need(coat_s=3600, dry_s=8 * 3600)
        dew = {"air_degc": 12.0, "surface_degc": 8.5, "rh_frac": 0.87}  # 1.4 K under its dew point
        frost = {"air_degc": -6.0, "surface_degc": -6.0, "rh_frac": 0.6}
        for night in (dew, frost):
            cold = self.hours(**{f"h{i}": night for i in range(6, 12)})
            for outdoors in (True, False):
                self.assertEqual(self.find(cold, eight_dry, outdoors=outdoors), [])
                self.assertEqual(
                    self.find(cold, Need(coat_s=3600, dry_s=3600), outdoors=outdoors)[0][:2], (0, 4)
                )
        (window,) = find_windows(
            self.hours(**{f"h{i}": dew for i in range(9, 12)}), eight_dry, Limits(), outdoors=False, now=0
        )
        self.assertIn(
            "it must be dry by then: Dew, the surface is 1.4 °C below dew point", window.ends_because
        )

    def test_dew_within_the_doubt_and_cold_under_the_sheet_are_warned_of(self) -> None:
        near = {"air_degc": 9.0, "surface_degc": 8.0, "rh_frac": 0.85}
        hours = self.hours(**{f"h{i}": near for i in range(4, 8)})
        (first, *_) = find_windows(hours, Need(coat_s=3600, dry_s=6 * 3600), Limits(), outdoors=True, now=0)
        said = " ".join(first.warnings)
        self.assertIn("Dew may settle while it dries: 1.4 °C above dew point, ± 2.0", said)
        self.assertIn("8 °C while it dries: under 10 °C", said)

    def test_what_is_told_in_words_is_told_in_numbers_too(self) -> None:
        """A reader of other units gets the same figures: each value is found in the English words."""
        cases = (
            ("climate.frozen", {"surface_degc": -2.0, "air_degc": -1.0, "rh_frac": 0.6}),
            ("climate.dew", {"surface_degc": 12.0, "air_degc": 12.0, "rh_frac": 0.9}),
            ("climate.rh", {"surface_degc": 25.0, "air_degc": 22.0, "rh_frac": 0.91}),
            ("climate.temperature", {"surface_degc": 41.0, "air_degc": 30.0, "rh_frac": 0.4}),
        )
        for rule, air in cases:
            hit = next(v for v in coating_gate(Limits(), **air) if v.rule_id == rule)
            words = f"{hit.what} {hit.why}"
            self.assertTrue(hit.values, rule)
            for name, value in hit.values.items():
                shown = value * 100 if name.endswith("_frac") else value
                self.assertRegex(words, rf"(?<![\d.]){re.escape(f'{round(shown, 1):g}')}", f"{rule} {name}")

    def test_a_value_over_its_limit_never_reads_as_the_limit(self) -> None:
        for rh, told in ((0.854, "85.4 %"), (0.8504, "85.04 %"), (0.92, "92 %")):
            (verdict,) = [
                v
                for v in coating_gate(Limits(), surface_degc=30.0, air_degc=20.0, rh_frac=rh)
                if v.rule_id == "climate.rh"
            ]
            self.assertEqual(
                (verdict.what, verdict.why), (f"Humidity is {told}.", "The data sheet's limit is 85 %.")
            )

    def test_damp_stops_the_coat_but_not_the_wait(self) -> None:
        damp = self.hours(h4={"rh_frac": 0.95})
        need = Need(coat_s=3600, dry_s=6 * 3600)
        self.assertEqual(self.find(damp, need), [(0, 3, 4), (5, 5, 12)])
        self.assertEqual(self.find(damp, need, outdoors=False)[0], (0, 3, 4))

    def test_wind_warns_over_five_and_stops_over_eight(self) -> None:
        """Limits: common practice, no published source."""
        for wind, severity in ((5.0, None), (5.1, "warn"), (8.0, "warn"), (8.1, "stop")):
            (hour, *_) = self.hours(h0={"wind_m_s": wind})
            found = {v.rule_id: v.severity for v in judge_hour(Limits(), hour, outdoors=True)}
            self.assertEqual(found.get("climate.wind"), severity)
            self.assertEqual(judge_hour(Limits(), hour, outdoors=False), ())

    def test_a_gap_and_an_hour_nobody_knows_end_a_window(self) -> None:
        hours = self.hours(h8={"known": False})
        del hours[3]
        self.assertEqual(self.find(hours, Need(coat_s=3600)), [(0, 2, 3), (4, 7, 8), (9, 11, 12)])
