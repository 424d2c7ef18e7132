"""What if, what changed, ways out, where to stop, and how the hand goes."""

from __future__ import annotations

import dataclasses
import itertools
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.codec import to_plain
from coatlog.core.drying import Pace
from coatlog.core.plan.build_problem import problem
from coatlog.core.plan.explain import changes
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import list_orders
from coatlog.core.plan.plan import SIDE_KINDS, Plan, Wishes
from coatlog.core.plan.problem import Edge, Problem
from coatlog.core.plan.remedies import late, ways_out
from coatlog.core.plan.scenario import HARDENER_FACTOR, wished
from coatlog.core.plan.solver import solve
from coatlog.core.plan.stopping import stop_points
from coatlog.core.run.facts import Facts
from coatlog.core.run.recoat_windows import reach_min
from coatlog.core.run.replay import replay
from coatlog.core.run.spray_pattern import ANGLES, angles, manner
from coatlog.core.run.timeline import Timeline
from coatlog.core.sheet import CoatHint

from .planned import broken
from .samples import PLACE, T0, Log, sheet, steady, stepped, two_layer_facts

NOW = T0 + 60
AS_IT_IS = Wishes()
PACE = Pace(((23.0, 3600),), "chemical", 50_000.0, 5.0, "min")
DAY = ((T0, T0 + 9 * 3600), (T0 + 86400, T0 + 86400 + 9 * 3600), (T0 + 2 * 86400, T0 + 2 * 86400 + 9 * 3600))


def built(facts: Facts, climate: Any, wishes: Wishes = AS_IT_IS, **more: Any) -> Problem:
    """The problem of a job nothing is on yet, with wishes applied."""
    state = replay({facts.id: facts}, {}, Log(facts).entries, climate, job_id="job")
    airs = {p.id: Timeline(climate, PLACE, None, ()) for p in facts.parts}
    p = problem(facts, state, airs, now=NOW, hours=more.pop("hours", ()), keyed=wishes.keyed, **more)
    return wished(p, wishes)


def first_s(edge: Edge) -> float:
    """A wait at 23 degC [s]."""
    return float(edge.points[0][1] if isinstance(edge, Pace) else edge or 0)


def best(p: Problem) -> Plan:
    return solve(p, limit_s=0)


class WarmTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.floats(8, 30), st.floats(8, 30), st.integers(0, 4 * 3600), st.integers(0, 5 * 3600))
    def test_warm_air_counts_from_its_hour_on_and_never_lengthens_a_wait(
        self, base: float, warm: float, from_s: int, start_s: int
    ) -> None:
        """Against a climate read anew with those temperatures: the same to a second."""
        plain = Timeline(steady(base), PLACE, None, ())
        heated = plain.heated(T0 + from_s, warm)
        self.assertEqual(heated.at(T0 + from_s - 1).surface_degc, base)
        self.assertEqual(heated.at(T0 + from_s).surface_degc, max(base, warm))
        before, after = (reach_min(t, PACE, T0 + start_s) for t in (plain, heated))
        self.assertLessEqual(after, before)
        if start_s >= from_s:
            as_read = Timeline(steady(max(base, warm)), PLACE, None, ())
            self.assertAlmostEqual(after, reach_min(as_read, PACE, T0 + start_s), delta=1)

    def test_a_hardener_scales_waits_and_pots_alike_and_leaves_one_pack_alone(self) -> None:
        p = built(two_layer_facts(), steady(23.0))
        (primer, liner, *_) = (t for t in best(p).tasks if t.kind == "coat")
        wait = liner.start_at - primer.end_at
        for name, factor in HARDENER_FACTOR.items():
            plan = best(wished(p, Wishes(hardener=name)))
            at = {t.key: t for t in plan.tasks}
            took = at[liner.key].start_at - at[primer.key].end_at
            self.assertAlmostEqual(took, wait * factor, delta=2)
            self.assertAlmostEqual(
                plan.batches[0].use_by_at - plan.batches[0].mix_at - 300, 0.75 * 3600 * factor, delta=2
            )
        one_pack = two_layer_facts(pot=[], properties={"family": "primer", "resin": "acrylic"})
        q = built(one_pack, steady(23.0))
        fast = wished(q, Wishes(hardener="fast"))
        own = [x for x in fast.links if x.sheet_id == one_pack.layers[0].sheet_id]
        self.assertEqual(own, [x for x in q.links if x.sheet_id == one_pack.layers[0].sheet_id])

    def test_a_thinner_and_moving_air_change_what_they_wet_and_never_keep_a_window_open_longer(self) -> None:
        """A slow thinner holds the next coat back and earns no later one; air dries water, skins solvent."""
        thinner = {"role": "thinner", "name": "Thinner", "parts": 0.5, "of": "mix", "density_g_per_ml": 0.87,
                   "solids_frac": 0.0}  # fmt: skip
        thinned = {"components": [*(to_plain(c) for c in sheet("x").components), thinner]}
        water = {**thinned, "law": "water"}
        for over, wish, by in (
            (thinned, Wishes(thinner="fast"), 0.8), (thinned, Wishes(thinner="slow"), 1.3),
            ({}, Wishes(thinner="fast"), 1.0), (water, Wishes(airflow=True), 0.7),
            (thinned, Wishes(airflow=True), 1.0),
        ):  # fmt: skip
            facts = two_layer_facts(**over)
            p = built(facts, steady(23.0))
            primer = facts.layers[0].sheet_id
            for was, now in zip(p.links, wished(p, wish).links, strict=True):
                for (a, b), (c, d) in zip(was.windows, now.windows, strict=True):
                    times = by if was.sheet_id == primer else 1.0
                    with self.subTest(over=over.keys(), wish=wish, link=was.gate):
                        self.assertAlmostEqual(first_s(c), first_s(a) * times, delta=1)
                        self.assertLessEqual(first_s(d), first_s(b))
            self.assertEqual(wished(p, wish).pots, p.pots, "neither thinner nor air is what makes a pot gel")

    def test_start_leaving_staying_and_painters_change_what_they_name(self) -> None:
        facts = two_layer_facts(part_count=2)
        p = built(facts, steady(23.0), hours=DAY)
        plain = best(p)
        late_start = best(wished(p, Wishes(start_at=NOW + 3600)))
        self.assertTrue(all(t.start_at >= NOW + 3600 for t in late_start.tasks if t.key in p.tasks))
        leave = best(wished(p, Wishes(leave_at=NOW + 1800)))
        self.assertEqual(broken(leave, wished(p, Wishes(leave_at=NOW + 1800))), [])
        self.assertFalse([t for t in leave.tasks if NOW + 1800 < t.end_at <= DAY[0][1]])
        self.assertLessEqual(best(wished(p, Wishes(painters=2))).finish_at, plain.finish_at)
        longer = wished(p, Wishes(stay_s=7200))
        self.assertEqual([b - a for a, b in longer.hours], [11 * 3600] * 3)


class ExplainTest(unittest.TestCase):
    def test_each_change_is_told_with_its_minutes_and_where_it_comes_from(self) -> None:
        p = built(two_layer_facts(), steady(23.0))
        before = best(p)
        first = next(t for t in before.tasks if t.kind == "coat")
        after = lay_out(before.order, dataclasses.replace(p, held={first.key: first.start_at + 1200}))
        told = {c.key: c for c in changes(before, after)}
        moved = {t.key for t in before.tasks if t.kind in ("coat", "unmask")}
        self.assertEqual(set(told), moved)
        self.assertTrue(all(c.moved_s == 1200 for c in told.values()))
        self.assertIn("20 min later, moved by hand", told[first.key].text)
        second = told["p0/p0b/1"]
        self.assertEqual(second.waits_key, first.key)
        self.assertIn(f"20 min later, waits for {first.label}, itself 20 min later", second.text)
        back = {c.key: c for c in changes(after, before)}
        self.assertIn("20 min earlier", back[first.key].text)
        self.assertEqual(changes(before, before), ())

    def test_a_second_is_no_change_and_a_task_that_is_done_is_not_spoken_of(self) -> None:
        p = built(two_layer_facts(), steady(23.0))
        plan = best(p)
        gone = dataclasses.replace(plan, tasks=plan.tasks[:-1])
        self.assertEqual(changes(plan, gone), ())
        nudged = dataclasses.replace(
            plan, tasks=tuple(dataclasses.replace(t, start_at=t.start_at + 59) for t in plan.tasks)
        )
        self.assertEqual(changes(plan, nudged), ())


class WaysTest(unittest.TestCase):
    def ways(self, p: Any, **wish: Any) -> tuple[Plan, list[str]]:
        taped = p.pop("taped", True)

        def build(w: Wishes) -> Problem:
            whole = built(two_layer_facts(), steady(23.0), w, **p)
            if taped:
                return whole
            kept = {k: t for k, t in whole.tasks.items() if t.kind != "unmask"}
            links = tuple(x for x in whole.links if x.b_key in kept)
            return dataclasses.replace(whole, tasks=kept, links=links)

        wishes = Wishes(**wish)
        plan = best(build(wishes))
        found = ways_out(build, wishes, plan)
        for way in found:
            trial = best(build(way.wishes))
            self.assertLess(late(trial, build(way.wishes)), late(plan, build(wishes)), way.text)
            self.assertEqual(trial.finish_at, way.finish_at)
        self.assertEqual([w.late_s for w in found], sorted(w.late_s for w in found))
        return plan, [w.text for w in found]

    def test_nothing_to_mend_no_ways(self) -> None:
        self.assertEqual(self.ways({})[1], [])

    def test_a_window_no_opening_hour_meets_can_be_let_pass_and_keyed(self) -> None:
        """The shop opens for an hour every other day: the primer's 8 h window never sees the next coat."""
        hours = tuple((T0 + d * 2 * 86400, T0 + d * 2 * 86400 + 3600) for d in range(12))
        plan, ways = self.ways({"hours": hours, "taped": False})
        self.assertEqual(plan.status, "infeasible")
        self.assertIn("misses its recoat window", plan.conflict)
        self.assertTrue(
            any(w.startswith("Sand and wipe again before Part 0: liner coat 1 of 2") for w in ways),
            ways,
        )
        self.assertTrue(any(w.startswith("Work") for w in ways), ways)

    def test_a_deadline_is_met_by_faster_drying_or_the_nearest_to_it_comes_first(self) -> None:
        plain = best(built(two_layer_facts(), steady(15.0)))
        due = plain.finish_at - 1800
        _, ways = self.ways({"due_at": due})
        del due
        self.assertTrue(all("painter" not in w for w in ways), ways)  # one part has no use for a second one


class StopTest(unittest.TestCase):
    def test_each_answer_is_what_replay_says_the_next_morning(self) -> None:
        """Stopped there and looked at when the shop opens: over age on no part that was called safe."""
        facts, climate = two_layer_facts(part_count=2), stepped([(-3600, 23.0), (6 * 3600, 16.0)])
        p = built(facts, climate, hours=DAY)
        plan = best(p)
        stops = stop_points(p, plan, DAY, lead_s={})
        self.assertEqual(stops[0].at, NOW)
        self.assertTrue(stops[0].safe)
        self.assertTrue({s.safe for s in stops} == {True, False}, stops)
        for s in stops:
            log = Log(facts)
            for t in plan.tasks:
                if t.kind == "coat" and t.end_at <= s.at:
                    part, layer, n = t.key.split("/")
                    log.coat(t.key, part, layer, int(n), t.start_at - T0, t.end_at - T0)
                if t.kind == "unmask" and t.end_at <= s.at:
                    log.add("unmasked", t.end_at - T0, part_ids=[t.part_id], result="clean")
            state = replay({facts.id: facts}, {}, log.entries, climate, job_id="job")
            lost = []
            for part in state.parts:
                spans = part.films[-1].spans if part.films else ()
                over = [x for x in spans if x.state == "over_age" and x.from_at <= s.back_at]
                tape = next((g for g in part.gates if g.name == "unmask_from"), None)
                stuck = tape is not None and part.unmasked_at is None and (tape.closes_at or 0) < s.back_at
                if over or stuck:
                    lost.append(part.part_id)
            self.assertEqual(s.safe, not lost, (s, lost))


class MannerTest(unittest.TestCase):
    """Common practice, no published source: boots out-in, in-out, out-in; peelable from another side."""

    def test_directions_named_by_the_sheet_go_on_in_turn(self) -> None:
        out, back = CoatHint(direction="out-in"), CoatHint(direction="in-out")
        s = dataclasses.replace(sheet("x"), hints=(out, back))
        ways = [manner(s, "applicator", n).direction for n in range(1, 7)]
        self.assertEqual(ways, ["out-in", "in-out"] * 3)

    def test_peelable_changes_angle_each_coat_others_are_crossed_and_a_brush_has_none(self) -> None:
        s = sheet("x")
        peel = dataclasses.replace(s, properties=dataclasses.replace(s.properties, peelable=True))
        ways = [manner(peel, "aerosol", n).direction for n in range(1, 9)]
        self.assertEqual(ways, [*ANGLES, *ANGLES])
        crossed = [manner(s, "spray_gun", n).direction for n in range(1, 5)]
        self.assertTrue(all(a != b for a, b in itertools.pairwise(crossed)))
        self.assertEqual(manner(s, "brush", 2).direction, "")
        self.assertEqual(
            (angles("wheel", "aerosol"), angles("wheel", "brush"), angles("", "aerosol")), (2, 1, 1)
        )


class RulesTest(unittest.TestCase):
    def test_every_list_rule_names_every_task_once_and_after_what_it_waits_for(self) -> None:
        p = built(two_layer_facts(part_count=3), steady(21.0), hours=DAY)
        for order in list_orders(p):
            self.assertEqual(sorted(order), sorted(p.tasks))
            at = {k: i for i, k in enumerate(order)}
            self.assertTrue(all(at[x.a_key] < at[x.b_key] for x in p.links))
        kinds = {t.kind for t in best(p).tasks}
        self.assertTrue(kinds >= {"step", "coat", "unmask", *SIDE_KINDS}, kinds)
