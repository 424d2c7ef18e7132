"""lay_out keeps every wait; the solver never does worse than the list rules."""

from __future__ import annotations

import dataclasses
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.plan.build_problem import problem
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import list_orders
from coatlog.core.plan.plan import SIDE_KINDS
from coatlog.core.plan.problem import Problem
from coatlog.core.plan.solver import solve
from coatlog.core.run.replay import replay
from coatlog.core.run.timeline import Timeline

from .planned import broken, orders
from .samples import PLACE, T0, Log, steady, stepped, two_layer_facts

NOW = T0 + 60


def make(
    part_count: int, climate: Any, hours: tuple[tuple[int, int], ...] = (), coats: Any = (), painters: int = 1
) -> Problem:
    facts = two_layer_facts(part_count=part_count)
    log = Log(facts)
    for c in coats:
        log.coat(*c)
    state = replay({facts.id: facts}, {}, log.entries, climate)
    airs = {p.id: Timeline(climate, PLACE, None, ()) for p in facts.parts}
    return problem(facts, state, airs, now=NOW, hours=hours, painters=painters)


def problem_at(now: int, part_count: int, coats: Any) -> Problem:
    """A problem some time after the coats given."""
    facts, climate = two_layer_facts(part_count=part_count), steady(23.0)
    log = Log(facts)
    for c in coats:
        log.coat(*c)
    state = replay({facts.id: facts}, {}, log.entries, climate)
    airs = {p.id: Timeline(climate, PLACE, None, ()) for p in facts.parts}
    return problem(facts, state, airs, now=now, hours=())


class PlanTest(unittest.TestCase):
    def test_three_coats_thirty_minutes_apart(self) -> None:
        """Third starts 60 min + two coat times after the first.  Common practice, no published source."""
        p = make(1, steady(23.0))
        links = tuple(dataclasses.replace(x, windows=((1800, None),)) for x in p.links if x.gate == "recoat")
        tasks = {k: t for k, t in p.tasks.items() if t.kind == "coat"}
        pots = {k: dataclasses.replace(v, mix_s=0) for k, v in p.pots.items()}
        tasks = {k: dataclasses.replace(t, gun="", setup_s=0, windows=()) for k, t in tasks.items()}
        plan = lay_out(tuple(tasks), dataclasses.replace(p, links=links, tasks=tasks, pots=pots))
        first, second, third = plan.tasks
        takes = (first.end_at - first.start_at) + (second.end_at - second.start_at)
        self.assertEqual(third.start_at - first.start_at, 3600 + takes)

    @settings(max_examples=15, deadline=None)
    @given(st.integers(1, 4), st.floats(14, 32), st.floats(14, 32), st.integers(1, 2))
    def test_no_plan_breaks_a_wait_a_pot_or_the_hours(
        self, parts: int, a: float, b: float, painters: int
    ) -> None:
        climate = stepped([(-3600, a), (5 * 3600, b)], hours=60)
        hours = tuple((T0 + d * 86400, T0 + d * 86400 + 11 * 3600) for d in range(6))
        p = make(parts, climate, hours, painters=painters)
        plan = solve(p, limit_s=0.3)
        if plan.status != "infeasible":
            self.assertEqual(broken(plan, p), [])
            self.assertEqual({t.key for t in plan.tasks if t.kind not in SIDE_KINDS}, set(p.tasks))
            rules = [lay_out(o, p).finish_at for o in list_orders(p)]
            self.assertLessEqual(plan.finish_at, min(f for f in rules if f is not None))
            self.assertGreaterEqual(plan.finish_at - p.now, plan.bound_s)

    def test_brute_force_over_all_orders_finds_nothing_shorter(self) -> None:
        """Every order of two parts laid out: the solver's is as short as the shortest."""
        for painters in (1, 2):
            p = make(2, steady(23.0), painters=painters)
            best = min(x.finish_at for o in orders(p) if (x := lay_out(o, p)).finish_at is not None)
            self.assertEqual(solve(p, limit_s=3).finish_at, best)

    def test_no_order_however_it_stands_puts_a_coat_before_what_it_waits_for(self) -> None:
        p = make(3, steady(23.0), painters=2)
        for order in (tuple(reversed(p.tasks)), tuple(sorted(p.tasks))):
            plan = lay_out(order, p)
            self.assertEqual(broken(plan, p), [])
            self.assertEqual({t.key for t in plan.tasks if t.kind not in SIDE_KINDS}, set(p.tasks))

    def test_a_window_that_would_be_missed_pulls_the_coat_before_it_later(self) -> None:
        """Opening hours end before the liner may go on: the primer waits for tomorrow."""
        hours = ((T0, T0 + 3000), (T0 + 86400, T0 + 86400 + 36000))
        p = make(1, steady(23.0), hours)
        plan = lay_out(tuple(p.tasks), p)
        self.assertEqual(plan.status, "feasible")
        first = next(t for t in plan.tasks if t.kind == "coat")
        self.assertGreaterEqual(first.start_at, T0 + 86400)
        self.assertEqual(first.binding, "later")
        self.assertIn("meets its recoat window", first.binds.ref)
        self.assertEqual(broken(plan, p), [])

    def test_a_part_whose_window_has_closed_is_abraded_and_wiped_first(self) -> None:
        p = problem_at(T0 + 50000, 2, [("c1", "p0", "p0a", 1, 0, 600)])
        plan = solve(p, limit_s=0.5)
        self.assertEqual(plan.status, "feasible")
        at = {t.key: t for t in plan.tasks}
        abrade, wipe, coat = at["p0/step/abrade"], at["p0/step/wipe"], at["p0/p0b/1"]
        self.assertLessEqual(abrade.end_at, wipe.start_at)
        self.assertLessEqual(wipe.end_at, coat.start_at)
        self.assertEqual(broken(plan, p), [])

    def test_what_cannot_be_planned_is_named_and_does_not_hold_up_the_others(self) -> None:
        p = make(2, steady(23.0))
        first = next(k for k, t in p.tasks.items() if t.part_id == "p0" and t.kind == "coat")
        gone = dataclasses.replace(p.tasks[first], windows=((NOW, NOW + 30),))
        p = dataclasses.replace(p, tasks={**p.tasks, first: gone})
        plan = solve(p, limit_s=0.2)
        self.assertEqual(plan.status, "infeasible")
        self.assertIn("Part 0: primer coat 1 of 1 misses its recoat window", plan.conflict)
        self.assertEqual({t.part_id for t in plan.tasks if t.kind == "coat"}, {"p1"})
        self.assertEqual(broken(plan, p), [])

    def test_a_coat_going_on_holds_its_painter_and_what_follows_waits_for_its_end(self) -> None:
        p = problem_at(T0 + 30, 2, [("c1", "p0", "p0a", 1, 0, None)])
        plan = solve(p, limit_s=0.5)
        (going,) = (t for t in plan.tasks if t.locked)
        self.assertEqual((going.key, going.start_at), ("p0/p0a/1", T0))
        nxt = next(t for t in plan.tasks if t.key == "p0/p0b/1")
        self.assertGreaterEqual(nxt.start_at, going.end_at + 3600)
        other = next(t for t in plan.tasks if t.key == "p1/p1a/1")
        self.assertGreaterEqual(other.start_at, going.end_at)
        off = next(t for t in plan.tasks if t.key == "p0/unmask/1")
        self.assertGreater(off.start_at, nxt.end_at)

    def test_opening_hours_hold_however_the_day_lies(self) -> None:
        hours = tuple((T0 + d * 86400 + 7200, T0 + d * 86400 + 7200 + 5 * 3600) for d in range(8))
        p = make(3, steady(21.0), hours)
        self.assertEqual(broken(solve(p, limit_s=0.5), p), [])

    def test_a_live_pot_is_used_up_before_a_new_one_is_mixed(self) -> None:
        p = make(1, steady(23.0))
        t = next(t for t in p.tasks.values() if t.kind == "coat")
        only = dataclasses.replace(p, tasks={t.key: dataclasses.replace(t, gun="", setup_s=0)}, links=())

        def starts(alive: dict[Any, Any]) -> int:
            return lay_out((t.key,), dataclasses.replace(only, alive=alive)).tasks[-1].start_at

        key = (t.job_id, t.sheet_id)
        mix_s = p.pots[t.sheet_id].mix_s
        self.assertEqual(starts({key: ("b", 1000.0, NOW + 3000)}), NOW)
        self.assertEqual(starts({}), NOW + mix_s)
        self.assertEqual(starts({key: ("b", 1000.0, NOW + 10)}), NOW + mix_s)
        self.assertEqual(starts({key: ("b", t.volume_ml - 1, NOW + 3000)}), NOW + mix_s)

    def test_two_painters_are_never_slower_than_one(self) -> None:
        one, two = (solve(make(3, steady(23.0), painters=n), limit_s=1).finish_at for n in (1, 2))
        self.assertLessEqual(two, one)

    def test_a_warmer_afternoon_shortens_the_wait_a_cold_one_lengthens_it(self) -> None:
        finish = [solve(make(1, stepped([(-3600, 20.0), (1800, t)]))).finish_at for t in (15.0, 20.0, 27.0)]
        self.assertGreater(finish[0], finish[1])
        self.assertGreater(finish[1], finish[2])
