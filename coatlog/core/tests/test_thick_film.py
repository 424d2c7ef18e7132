"""What is really on: from the cup that is left, from several readings, and how long a thick film takes."""

from __future__ import annotations

import math
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.codec import to_plain
from coatlog.core.errors import CoreError, Underspecified
from coatlog.core.run.entries import read_body
from coatlog.core.run.facts import as_decided
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.sheet import Sheet
from coatlog.core.thick_film import film_factor, sheet_at, solvent_factor

from .samples import T0, Log, sheet, steady
from .test_films import one_sheet_facts

WARM = steady(23.0)


def state_of(log: Log) -> JobState:
    return replay({log.facts.id: log.facts}, {}, log.entries, WARM)


def left_in_film(fourier: float) -> float:
    """Share of the solvent still in a film on metal at D t / h2: Crank's series for a plane sheet."""
    terms = (
        math.exp(-((n + 0.5) ** 2) * math.pi**2 * fourier) / ((n + 0.5) ** 2 * math.pi**2) for n in range(200)
    )
    return 2 * sum(terms)


class ThickFilmTest(unittest.TestCase):
    def test_a_film_twice_as_thick_loses_half_its_solvent_in_four_times_the_time(self) -> None:
        """Half-time of a film on metal 0.197 h2/D: Crank, The Mathematics of Diffusion (from memory)."""
        d_um2_per_s, half_s = 2.0, {}
        for h_um in (50.0, 100.0):
            low, high = 0.0, 1e5
            for _ in range(60):
                t = (low + high) / 2
                low, high = (t, high) if left_in_film(d_um2_per_s * t / h_um**2) > 0.5 else (low, t)
            half_s[h_um] = low
        self.assertAlmostEqual(half_s[50.0] * d_um2_per_s / 50.0**2, 0.197, places=3)
        self.assertAlmostEqual(half_s[100.0] / half_s[50.0], film_factor(100.0, 50.0, "solvent"), places=3)

    def test_a_thick_coat_of_enamel_opens_later_and_a_thin_one_no_sooner(self) -> None:
        points = [
            {"gate": "touch", "at_degc": 23.0, "s": 3600, "at_um": 50.0},
            {"gate": "full", "at_degc": 23.0, "s": 86400, "at_um": 50.0},
        ]
        windows = [{"from_s": 7200, "to_s": 40000, "at_degc": 23.0, "at_um": 50.0}]
        s = sheet("enamel", law="solvent", points=points, recoat=[{"next": "same", "windows": windows}])
        opens = {}
        for um in (25.0, 50.0, 75.0):
            log = Log(one_sheet_facts(s, coats=2))
            log.coat("c", "p0", "p0a", 1, 0, 300)
            log.add("film_read", 301, part_id="p0", what="dry_total", um=[um])
            state = state_of(log)
            opens[um] = state.next[0].opens_at - T0 - 300
            self.assertEqual(state.next[0].closes_at, T0 + 40000, "a latest time is never put off")
        self.assertEqual(opens, {25.0: 7200, 50.0: 7200, 75.0: 16200})
        self.assertEqual(state_of(log).parts[0].films[0].waits_x, 2.25)

    def test_a_film_that_cannot_be_is_no_film_to_count_from(self) -> None:
        for um in (5e-324, 0.0, -50.0, 1e9):
            with self.subTest(um), self.assertRaisesRegex(CoreError, "at_um"):
                sheet("x", points=[{"gate": "touch", "at_degc": 23.0, "s": 3600, "at_um": um}])

    @given(
        st.floats(1, 2000), st.floats(1, 2000), st.sampled_from(["solvent", "water", "moisture", "chemical"])
    )
    def test_more_paint_never_dries_sooner(self, um: float, at_um: float, law: str) -> None:
        self.assertGreaterEqual(film_factor(um, at_um, law), 1.0)
        self.assertGreaterEqual(film_factor(1.5 * um, at_um, law), film_factor(um, at_um, law))

    def test_thinned_past_its_sheet_it_has_more_to_lose(self) -> None:
        """60 % solids leave 0.667 volumes of solvent for each of film; one part thinner to five: 1.0."""
        self.assertEqual(solvent_factor(0.6, 0.6), 1.0)
        self.assertAlmostEqual(solvent_factor(0.5, 0.6), 1.5)
        self.assertEqual(solvent_factor(0.7, 0.6), 1.0, "less thinner is no promise")
        plain = sheet("a")
        self.assertIs(sheet_at(plain, 500.0), plain, "a sheet that names no film says nothing of it")
        slow = sheet_at(plain, None, 1.5)
        waits = {p.gate: p.s for p in slow.points}
        self.assertEqual(waits, {"tacky": 900, "touch": 5400, "full": 86400}, "the cure itself does not wait")


class MeasuredTest(unittest.TestCase):
    def pour(self, log: Log, batch: str, s: Sheet, at: int, **ml: float) -> None:
        for role, amount in ml.items():
            log.add("pour", at, batch_id=batch, sheet_id=s.id, component=role, ml=amount)
        parts = [{"role": role, "ml": amount} for role, amount in ml.items()]
        log.add("batch_mixed", at, batch_id=batch, sheet_id=s.id, parts=parts, hardener_in_at=T0 + at)

    def coats(self, log: Log, at: int, *part_ids: str, batch: str) -> None:
        refs = [{"coat_id": f"c{p}", "part_id": p, "layer_id": f"{p}a", "n": 1} for p in part_ids]
        log.add("coat_started", at, coats=refs, facts_id=log.facts.id, batch_ids=[batch])
        log.add("coat_done", at + 300, coat_ids=[r["coat_id"] for r in refs])

    def closed(self, **left: Any) -> JobState:
        """Three square metres in two parts from one litre at 60 %, of which something is left."""
        s = sheet("a")
        log = Log(one_sheet_facts(s, coats=1, areas=(1.0, 2.0)))
        self.pour(log, "b", s, 0, base=800.0, hardener=200.0)
        self.coats(log, 100, "p0", batch="b")
        self.coats(log, 500, "p1", batch="b")
        log.add("batch_closed", 1000, batch_id="b", why="used", **left)
        return state_of(log)

    def test_what_is_gone_from_the_cup_is_on_the_parts_by_area(self) -> None:
        """600 ml at 60 % solids, 65 % of it landing on 3 m2: 78 um (1 ml/m2 is 1 um)."""
        for left in ({"left_ml": 400.0}, {"left_g": 400.0 * 1.32}):  # 800 x 1.4 + 200 x 1.0 = 1320 g
            films = [p.films[0] for p in self.closed(**left).parts]
            self.assertEqual({f.dry_from for f in films}, {"draw"})
            for f in films:
                self.assertAlmostEqual(f.dry_um.likely, 600 * 0.6 * 0.65 / 3, places=2)
        self.assertEqual({p.films[0].dry_from for p in self.closed().parts}, {"plan"}, "nobody looked")

    def test_a_cup_that_is_nearly_full_says_the_film_is_thin(self) -> None:
        codes = {f.code for f in self.closed(left_ml=900.0).findings}
        self.assertIn("film.thin", codes)
        self.assertNotIn("film.thin", {f.code for f in self.closed(left_ml=400.0).findings})

    @settings(deadline=None, max_examples=25)
    @given(st.lists(st.floats(0.2, 5.0), min_size=1, max_size=4), st.floats(0, 900), st.floats(0, 99))
    def test_paint_is_neither_made_nor_lost(self, areas: list[float], left_ml: float, more_ml: float) -> None:
        """Film x area in all is what left the cup x solids x what lands; more left is never thicker."""
        volume, thickest = [], []
        for left in (left_ml, left_ml + more_ml):
            s = sheet("a")
            log = Log(one_sheet_facts(s, coats=1, areas=tuple(areas)))
            self.pour(log, "b", s, 0, base=800.0, hardener=200.0)
            self.coats(log, 100, *(f"p{i}" for i in range(len(areas))), batch="b")
            log.add("batch_closed", 1000, batch_id="b", why="used", left_ml=left)
            films = [p.films[0].dry_um.likely for p in state_of(log).parts]
            volume.append(sum(f * a for f, a in zip(films, areas, strict=True)))
            thickest.append(max(films))
        self.assertAlmostEqual(volume[0], (1000 - left_ml) * 0.6 * 0.65, delta=0.1 + 0.01 * sum(areas))
        self.assertLessEqual(thickest[1], thickest[0] + 0.01)

    def test_a_pot_lives_by_the_mix_where_that_was_measured(self) -> None:
        """A lone point: half the life for each 10 K (common practice); a cold mix warms up to its air."""
        life = {}
        for degc in (None, 33.0, 15.0):
            s = sheet("a")
            log = Log(one_sheet_facts(s, coats=1))
            parts = [{"role": "base", "ml": 800.0}, {"role": "hardener", "ml": 200.0}]
            log.add(
                "batch_mixed", 0, batch_id="b", sheet_id=s.id, parts=parts, hardener_in_at=T0, mix_degc=degc
            )
            life[degc] = state_of(log).batches[0].gels_at - T0
        self.assertEqual((life[None], life[33.0], life[15.0]), (3600, 1800, 3600))

    def test_no_more_is_drawn_than_was_mixed(self) -> None:
        s = sheet("a")
        log = Log(one_sheet_facts(s, coats=1))
        self.pour(log, "b", s, 0, base=80.0, hardener=20.0)
        ref = {"coat_id": "c", "part_id": "p0", "layer_id": "p0a", "n": 1}
        log.add("coat_started", 100, coats=[ref], facts_id=log.facts.id, batch_ids=["b"])
        log.add("coat_done", 400, coat_ids=["c"], draws=[{"batch_id": "b", "ml": 400.0}])
        self.assertAlmostEqual(state_of(log).parts[0].films[0].dry_um.likely, 100 * 0.6 * 0.65, places=2)

    def test_thinner_in_the_cup_asks_for_more_wet_film_and_a_longer_flash(self) -> None:
        thinner = {"role": "thinner", "name": "Thinner", "parts": 0.05, "of": "mix", "density_g_per_ml": 0.87}
        s = sheet("a")
        s = sheet("a", components=[*_plain(s)["components"], thinner])
        wet, opens = [], []
        for ml in (50.0, 250.0):
            log = Log(one_sheet_facts(s, coats=2))
            self.pour(log, "b", s, 0, base=800.0, hardener=200.0, thinner=ml)
            self.assertAlmostEqual(state_of(log).next[0].wet_um, 50 * (1000 + ml) / 600, delta=0.01)
            self.coats(log, 100, "p0", batch="b")
            state = state_of(log)
            wet.append(state.parts[0].films[0].aim_wet_um)
            opens.append(state.next[0].opens_at - T0 - 400)
        self.assertAlmostEqual(wet[1] / wet[0], 1250 / 1050, places=3)
        self.assertEqual(opens, [1800, round(1800 * (650 / 600) / (450 / 600))])

    def test_the_comb_is_read_twice_and_the_gauge_reads_what_lies_under_it_at_the_time(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=2))
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        for low, high in ((75.0, 100.0), (100.0, 125.0), (50.0, 75.0)):
            log.add("film_read", 310, part_id="p0", coat_id="c1", what="wet_comb", low_um=low, high_um=high)
        first = state_of(log).parts[0].films[0]
        self.assertEqual((first.wet_um.likely, first.combed.n, first.combed.lowest_um), (87.5, 3, 62.5))
        self.assertAlmostEqual(first.combed.sd_um, 25.0)
        self.assertEqual(first.combed.under_aim, 1, "one tooth of three dry under 83 um")
        log.add("film_read", 3000, part_id="p0", what="dry_total", um=[60.0])
        log.add("film_read", 3100, part_id="p0", what="dry_total", um=[64.0])
        log.coat("c2", "p0", "p0a", 2, 4000, 4300)
        one, two = state_of(log).parts[0].films
        self.assertEqual(
            (one.dry_from, one.dry_um.likely), ("gauge", 62.0), "both readings, of the first coat"
        )
        self.assertEqual((two.dry_from, two.dry_um.likely), ("plan", 50.0), "not yet read")


class DecidedTest(unittest.TestCase):
    """One coat more, or enough: on one part and none of the others."""

    def test_one_more_coat_on_one_part_and_enough_on_another(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=2, areas=(1.0, 1.0, 1.0)))
        for i in range(3):
            log.coat(f"c{i}", f"p{i}", f"p{i}a", 1, 100 * i, 100 * i + 90)
        self.assertEqual({t.n for t in state_of(log).next}, {2})
        log.add("coats_set", 1000, part_id="p0", layer_id="p0a", coats=1, reason="it covers")
        log.add("coats_set", 1001, part_id="p1", layer_id="p1a", coats=3)
        for i in (1, 2):
            log.coat(f"d{i}", f"p{i}", f"p{i}a", 2, 2200 + 100 * i, 2290 + 100 * i)
        state = state_of(log)
        self.assertEqual([(t.part_id, t.n, t.dry_um) for t in state.next], [("p1", 3, 50.0)])
        self.assertEqual(state.coats, {"p0a": 1, "p1a": 3})
        self.assertEqual([(f.code, f.part_id) for f in state.findings], [("coats.fewer", "p0")])
        now = as_decided(log.facts, state.coats)
        self.assertEqual([(x.coats, x.target_um) for x in now.layers], [(1, 50.0), (3, 150.0), (2, 100.0)])

    def test_a_layer_of_another_part_is_not_decided_on(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=2, areas=(1.0, 1.0)))
        log.add("coats_set", 10, part_id="p0", layer_id="p1a", coats=1)
        self.assertEqual((state_of(log).coats, state_of(log).ledger[-1].outcome), ({}, "flagged"))

    def test_how_many_coats_are_still_to_go_by_what_was_measured(self) -> None:
        """150 um in three coats of 50, 5 um either way."""
        for um, to_go in ((50.0, 2), (98.0, 1), (30.0, 3), (146.0, 0), (20.0, 3)):
            log = Log(one_sheet_facts(sheet("a"), coats=3))
            log.coat("c", "p0", "p0a", 1, 0, 300)
            self.assertEqual(state_of(log).parts[0].builds, (), "nobody measured")
            log.add("film_read", 400, part_id="p0", what="dry_total", um=[um])
            (build,) = state_of(log).parts[0].builds
            self.assertEqual((build.coats_to_go, build.planned_to_go), (to_go, 2), um)


class HeatTest(unittest.TestCase):
    #: its sheet says when it is dry to touch at 33 degC too
    WARM = [
        {"gate": "touch", "at_degc": 23.0, "s": 3600},
        {"gate": "touch", "at_degc": 33.0, "s": 1855},
        {"gate": "full", "at_degc": 23.0, "s": 86400},
    ]

    def lit(self, *more: tuple[int, float | None], of: str = "p0", warm: bool = True) -> JobState:
        made = sheet("a", points=self.WARM) if warm else sheet("a")
        log = Log(one_sheet_facts(made, coats=2, areas=(1.0, 1.0)))
        refs = [{"coat_id": f"c{i}", "part_id": f"p{i}", "layer_id": f"p{i}a", "n": 1} for i in range(2)]
        log.add("coat_started", 0, coats=refs, facts_id=log.facts.id)
        log.add("coat_done", 300, coat_ids=["c0", "c1"])
        for at, degc in more:
            log.add("heat_set", at, part_ids=[of], on=degc is not None, surface_degc=degc)
        return state_of(log)

    def test_a_lamp_warms_its_part_and_no_other_until_it_is_off(self) -> None:
        """Arrhenius, 50 kJ/mol: 1.941 times as fast at 33 as at 23 degC (derived)."""
        cold, warm = (self.lit(*told).parts for told in ((), ((300, 33.0),)))
        waits = [p.films[0].spans[-1].from_at for p in cold], [p.films[0].spans[-1].from_at for p in warm]
        opens = [next(s.from_at for s in p.films[0].spans if s.state == "open") - T0 - 300 for p in warm]
        self.assertAlmostEqual(opens[0], 1800 / 1.941, delta=2)
        self.assertEqual(opens[1], 1800)
        self.assertEqual(waits[0][1], waits[1][1])
        off = self.lit((300, 33.0), (600, None)).parts[0]
        half = next(s.from_at for s in off.films[0].spans if s.state == "open") - T0 - 300
        self.assertAlmostEqual(half, 300 + 1800 - 300 * 1.941, delta=2)
        self.assertEqual((warm[0].heat_degc, warm[0].heat_until_at), (33.0, T0 + 300 + 7200))
        # A sheet that speaks of 23 degC alone: its least wait stays, its window closes the sooner.
        spans = self.lit((300, 33.0), warm=False).parts[0].films[0].spans
        opened = next(s for s in spans if s.state == "open")
        self.assertEqual(opened.from_at - T0 - 300, 1800)
        closes = next(s.from_at for s in spans if s.state == "over_age")
        self.assertLess(closes, next(s.from_at for s in cold[0].films[0].spans if s.state == "over_age"))
        self.assertIsNone(off.heat_degc)

    def test_hot_while_it_flashes_is_a_risk_and_a_bake_afterwards_is_none(self) -> None:
        self.assertEqual([f.code for f in self.lit((310, 60.0)).findings], ["heat.early"])
        self.assertEqual(self.lit((300 + 1900, 60.0)).findings, ())
        self.assertEqual(self.lit((310, 34.0)).findings, ())

    def test_heat_that_nobody_says_how_warm_is_refused(self) -> None:
        with self.assertRaises(Underspecified):
            read_body("heat_set", {"part_ids": ["p0"], "on": True})


def _plain(s: Sheet) -> dict[str, Any]:
    plain: dict[str, Any] = to_plain(s)
    return plain


if __name__ == "__main__":
    unittest.main()
