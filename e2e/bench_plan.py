"""Plans of fifty seeded shop days: how soon, how good against the list rules and against more time."""

from __future__ import annotations

import itertools
import os
import random
import resource
import statistics
import time
import unittest
from dataclasses import replace

from coatlog.core.drying import Pace
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import cost, list_orders, rule_orders
from coatlog.core.plan.problem import Link, Pot, Problem, ToDo
from coatlog.core.plan.solver import solve
from coatlog.core.run.timeline import Timeline
from coatlog.core.tests.samples import PLACE, T0, stepped
from coatlog.core.tests.test_full_shop_plan import many

DAYS = int(os.environ.get("COATLOG_BENCH_DAYS", "50"))
PARTS, COATS = 12, 5


def say(text: str) -> None:
    print(f"bench: {text}", flush=True)


def shop_day(seed: int) -> Problem:
    """Twelve parts of five coats for two painters: warm noon, cold evening, pots, a hole in the weather."""
    rng = random.Random(seed)
    morning, noon, evening = rng.uniform(14, 18), rng.uniform(20, 28), rng.uniform(13, 17)
    climate = stepped([(-3600, morning), (3 * 3600, noon), (9 * 3600, evening)], hours=96)
    air = Timeline(climate, PLACE, None, ())
    tasks: dict[str, ToDo] = {}
    links = []
    flash = [rng.choice((600, 900, 1200, 1800)) for _ in range(3)]
    for i in range(PARTS):
        outdoors = i % 4 == 0
        for n in range(COATS):
            kind = min(n // 2, 2)
            key = f"p{i}/x/{n}"
            tasks[key] = ToDo(
                key=key, kind="coat", part_id=f"p{i}", job_id="day", label=key, sheet_id=f"s{kind}",
                duration_s=rng.randint(4, 18) * 60, volume_ml=rng.uniform(80, 400), gun=f"g{kind % 2}",
                setup_s=120, clean_s=300, place_id="yard" if outdoors else "", dry_s=1200 if outdoors else 0,
            )  # fmt: skip
            if n:
                wait = flash[min((n - 1) // 2, 2)]
                opens = Pace(((20.0, wait),), "solvent", 38_000.0, 5.0, "min")
                closes = Pace(((20.0, wait * 24),), "solvent", 38_000.0, 5.0, "max")
                links.append(Link(f"p{i}/x/{n - 1}", key, ((opens, closes),), "recoat", f"s{kind}"))
    pot = Pace(((20.0, 3600),), "chemical", 50_000.0, 5.0, "max")
    hole = T0 + rng.randint(2, 5) * 3600
    return Problem(
        job_id="day", now=T0, tasks=tasks, links=tuple(links), airs={f"p{i}": air for i in range(PARTS)},
        painters=2, hours=tuple((T0 + d * 86400, T0 + d * 86400 + 11 * 3600) for d in range(8)),
        pots={f"s{k}": Pot(mix_s=300, pace=pot, use_frac=0.75, most_ml=1500.0) for k in range(3)},
        alive={}, names={f"s{k}": f"s{k}" for k in range(3)}, units={"g0": 2, "g1": 2},
        weather={"yard": ((T0, hole), (hole + 5400, T0 + 30 * 86400))},
    )  # fmt: skip


def week() -> Problem:
    """Forty load beds of two parts, primer and liner with all their steps, for five people."""
    return many(40, 2, painters=5)


class PlanBench(unittest.TestCase):
    def test_fifty_shop_days(self) -> None:
        solve(replace(shop_day(0)), limit_s=0.2)  # the solver's library is loaded once
        first_s, gain, against_long, worse, gap = [], [], [], 0, []
        for seed in range(1, DAYS + 1):
            p = shop_day(seed)
            began = time.perf_counter()
            rules = [lay_out(o, p) for o in list_orders(p)]
            first_s.append(time.perf_counter() - began)
            best = min(rules, key=lambda plan: cost(plan, p))
            short = solve(p, limit_s=2.0, seed=seed)
            worse += cost(short, p) > cost(best, p)
            took = [(x.finish_at or 0) - p.now for x in (best, short)]
            gain.append(took[1] / took[0])
            gap.append(1 - short.bound_s / took[1])
            if seed <= max(4, DAYS // 5):
                long = solve(p, limit_s=20.0, seed=seed)
                against_long.append(took[1] / ((long.finish_at or 0) - p.now))
        say(f"{DAYS} shop days of {PARTS} parts x {COATS} coats x 2 painters")
        say(f"first plan, list rules: {statistics.median(first_s):.2f} s median, {max(first_s):.2f} s most")
        say(f"after 2 s: finish {statistics.median(gain):.3f} of the list rules' in the median, "
            f"best {min(gain):.3f}, better on {sum(g < 1 for g in gain)}, worse on {worse}")  # fmt: skip
        say(f"after 2 s against 20 s on {len(against_long)} of them: {statistics.median(against_long):.3f} "
            f"median, {max(against_long):.3f} at most")  # fmt: skip
        say(f"gap to the bound no plan can beat: {statistics.median(gap):.3f} median")
        self.week()
        say(f"peak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")

    def week(self) -> None:
        """Full weeks against ten times as long, and against orders made task by task in the same time."""
        p = week()
        until = time.monotonic() + 60
        rules = [lay_out(o, p, passes=40) for o in itertools.takewhile(
            lambda _: time.monotonic() < until, rule_orders(p, until))]  # fmt: skip
        met = [(x.finish_at - p.now) / 86400 for x in rules if x.finish_at is not None]
        took, plans = [], []
        for within_s in (8.0, 80.0):
            began = time.perf_counter()
            plans.append(solve(p, limit_s=within_s, most_s=within_s))
            took.append(time.perf_counter() - began)
        days = [((x.finish_at or 0) - p.now) / 86400 for x in plans]
        say(f"40 jobs, {len(p.tasks)} tasks, 5 people: {days[0]:.2f} days found in {took[0]:.0f} s, "
            f"{days[0] / days[1]:.3f} of what {took[1]:.0f} s find; "
            f"none under {plans[0].bound_s / 86400:.2f}")  # fmt: skip
        told = f"{min(met):.2f} days" if met else f"none of {len(rules)} keeps its windows"
        say(f"orders made task by task: {told}")
