"""lay_out keeps every wait; the solver never does worse than the list rules."""

from __future__ import annotations

import dataclasses
import itertools
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.run.plan import Plan, Problem, lay_out, list_orders, problem
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


def broken(plan: Plan, p: Problem) -> list[str]:
    """Every constraint a plan breaks, in words."""
    out = []
    at = {t.key: t for t in plan.tasks}
    for link in p.links:
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

    def test_what_cannot_be_met_is_named(self) -> None:
        coats = [("c1", "p0", "p0a", 1, -40000, -39000)]
        p = make(1, steady(23.0), coats=coats)
        plan = solve(dataclasses.replace(p, now=T0 + 50000))
        self.assertEqual(plan.status, "infeasible")
        self.assertIn("abrade", plan.conflict)

    def test_a_warmer_afternoon_shortens_the_wait_a_cold_one_lengthens_it(self) -> None:
        finish = [solve(make(1, stepped([(-3600, 20.0), (1800, t)]))).finish_at for t in (15.0, 20.0, 27.0)]
        self.assertGreater(finish[0], finish[1])
        self.assertGreater(finish[1], finish[2])
