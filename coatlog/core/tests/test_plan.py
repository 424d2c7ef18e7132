"""lay_out keeps every wait; the solver never does worse than the list rules."""

from __future__ import annotations

import dataclasses
import itertools
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.run.plan import Plan, lay_out, list_orders
from coatlog.core.run.problem import Problem, problem
from coatlog.core.run.replay import replay
from coatlog.core.run.ripening import reach_max, reach_min
from coatlog.core.run.solver import solve
from coatlog.core.run.timeline import Timeline

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


def broken(plan: Plan, p: Problem) -> list[str]:
    """Every constraint a plan breaks, in words."""
    out = []
    at = {t.key: t for t in plan.tasks}
    for link in p.links:
        if link.b_key not in at:
            continue
        a, b, air = at[link.a_key], at[link.b_key], p.airs[at[link.b_key].part_id]
        fits = False
        for opens, closes in link.windows:
            first = a.end_at if opens is None else reach_min(air, opens, a.end_at)
            last = None if closes is None else reach_max(air, closes, a.start_at)
            fits |= first is not None and b.start_at >= first and (last is None or b.start_at <= last)
        if not fits:
            out.append(f"{link.a_key} -> {link.b_key}")
    for painter in range(p.painters):
        mine = sorted((t for t in plan.tasks if t.painter == painter), key=lambda t: t.start_at)
        out += [f"{a.key} overlaps {b.key}" for a, b in itertools.pairwise(mine) if b.start_at < a.end_at]
    for t in plan.tasks:
        if p.hours and not any(o <= t.start_at and t.end_at <= c for o, c in p.hours):
            out.append(f"{t.key} outside hours")
        for opens, closes in p.tasks[t.key].windows:
            if t.start_at < opens or (closes is not None and t.start_at > closes):
                out.append(f"{t.key} outside its window")
    for b in plan.batches:
        for key in b.draws:
            if b.use_by_at is not None and at[key].end_at > b.use_by_at:
                out.append(f"{key} after its pot died")
    return out


class PlanTest(unittest.TestCase):
    def test_three_coats_thirty_minutes_apart(self) -> None:
        """Third starts 60 min + two coat times after the first.  Common practice, no published source."""
        p = make(1, steady(23.0))
        half_hour = dataclasses.replace(p.links[0].windows[0][0], points=((23.0, 1800),))
        links = tuple(
            dataclasses.replace(x, windows=((half_hour, None),)) for x in p.links if x.gate == "recoat"
        )
        tasks = {k: t for k, t in p.tasks.items() if t.kind == "coat"}
        pots = {k: dataclasses.replace(v, mix_s=0) for k, v in p.pots.items()}
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
            self.assertEqual(len(plan.tasks), len(p.tasks))
            rules = [lay_out(o, p).finish_at for o in list_orders(p)]
            self.assertLessEqual(plan.finish_at, min(f for f in rules if f is not None))
            self.assertGreaterEqual(plan.finish_at - p.now, plan.bound_s)

    def test_brute_force_over_all_orders_finds_nothing_shorter(self) -> None:
        p = make(2, steady(23.0))
        before = {x.b_key: x.a_key for x in p.links}

        def legal(order: tuple[str, ...]) -> bool:
            return all(k not in before or order.index(before[k]) < i for i, k in enumerate(order))

        plans = [lay_out(o, p) for o in itertools.permutations(p.tasks) if legal(o)]
        best = min(x.finish_at for x in plans if x.finish_at is not None)
        self.assertEqual(solve(p, limit_s=2).finish_at, best)

    def test_a_window_that_would_be_missed_pulls_the_coat_before_it_later(self) -> None:
        """Opening hours end before the liner may go on: the primer waits for tomorrow."""
        hours = ((T0, T0 + 3000), (T0 + 86400, T0 + 86400 + 36000))
        p = make(1, steady(23.0), hours)
        plan = lay_out(tuple(p.tasks), p)
        self.assertEqual(plan.status, "feasible")
        self.assertGreaterEqual(plan.tasks[0].start_at, T0 + 86400)
        self.assertEqual(broken(plan, p), [])

    def test_a_part_whose_window_has_closed_is_named_and_does_not_hold_up_the_others(self) -> None:
        coats = [("c1", "p0", "p0a", 1, 0, 600)]
        p = problem_at(T0 + 50000, 2, coats)
        plan = solve(p, limit_s=0.5)
        self.assertEqual(plan.status, "infeasible")
        self.assertIn("Part 0, liner 1 of 2: abrade and wipe first", plan.conflict)
        self.assertEqual({t.part_id for t in plan.tasks}, {"p1"})
        self.assertEqual(len(plan.tasks), 4)
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
        self.assertEqual(broken(plan, p), [])
        off = next(t for t in plan.tasks if t.key == "p0/unmask/1")
        self.assertGreater(off.start_at, nxt.end_at)

    def test_opening_hours_hold_however_the_day_lies(self) -> None:
        hours = tuple((T0 + d * 86400 + 7200, T0 + d * 86400 + 7200 + 5 * 3600) for d in range(8))
        p = make(3, steady(21.0), hours)
        self.assertEqual(broken(solve(p, limit_s=0.5), p), [])

    def test_a_live_pot_is_used_up_before_a_new_one_is_mixed(self) -> None:
        p = make(1, steady(23.0))
        first = next(iter(p.tasks.values()))
        live = dataclasses.replace(p, alive={first.sheet_id: ("b", 1000.0, NOW + 3000)})
        self.assertEqual(lay_out(tuple(p.tasks), live).tasks[0].start_at, NOW)
        self.assertEqual(lay_out(tuple(p.tasks), p).tasks[0].start_at, NOW + p.pots[first.sheet_id].mix_s)
        dying = dataclasses.replace(p, alive={first.sheet_id: ("b", 1000.0, NOW + 10)})
        self.assertGreater(lay_out(tuple(p.tasks), dying).tasks[0].start_at, NOW)

    def test_two_painters_are_never_slower_than_one(self) -> None:
        one, two = (solve(make(3, steady(23.0), painters=n), limit_s=1).finish_at for n in (1, 2))
        self.assertLessEqual(two, one)

    def test_a_warmer_afternoon_shortens_the_wait_a_cold_one_lengthens_it(self) -> None:
        finish = [solve(make(1, stepped([(-3600, 20.0), (1800, t)]))).finish_at for t in (15.0, 20.0, 27.0)]
        self.assertGreater(finish[0], finish[1])
        self.assertGreater(finish[1], finish[2])
