"""Many jobs at once: each in what the others leave free.  Held against a second opinion and a foreman's sums.

Common practice, no published source: a shop takes the next job in while the last one dries.
"""

from __future__ import annotations

import dataclasses
import unittest
from typing import Any

from coatlog.core.plan.build_problem import Room
from coatlog.core.plan.orders import cost
from coatlog.core.plan.plan import Plan
from coatlog.core.plan.problem import Bay, Problem, merge
from coatlog.core.plan.rights import RIGHTS, Person
from coatlog.core.plan.solver import solve, stood

from .planned import broken
from .samples import PLACE
from .test_long_work import DAY, OPENS, job, part, to_do

HOUR = 3600
WEEK = tuple((OPENS + d * DAY, OPENS + d * DAY + 9 * HOUR) for d in range(21))
LINED = (("epoxy-primer-2k", 2), ("textured-liner-2k", 2))


def many(n: int, parts: int = 1, *, steps: bool = True, **more: Any) -> Problem:
    """So many load beds, each in primer and liner, the object of its own job."""
    built = []
    for i in range(n):
        name = f"j{i}"
        facts = job([part(f"{name}p{k}", 1.0, "bare_steel") for k in range(parts)], *LINED, steps=steps)
        p = to_do(dataclasses.replace(facts, job_id=name), **more)
        tasks = {k: dataclasses.replace(t, job_id=name) for k, t in p.tasks.items()}
        built.append(dataclasses.replace(p, tasks=tasks, job_id=name, hours=WEEK))
    return merge(built)


def going(p: Problem, *jobs: str) -> Problem:
    """The same with the first coat of these jobs being sprayed, and what comes before it done."""
    tasks = dict(p.tasks)
    for name in jobs:
        first = next(k for k, t in tasks.items() if t.job_id == name and t.kind == "coat")
        tasks[first] = dataclasses.replace(tasks[first], began_at=OPENS - 60)
        for x in p.links:
            if x.b_key == first:
                del tasks[x.a_key]
    links = tuple(x for x in p.links if x.a_key in tasks and x.b_key in tasks)
    return dataclasses.replace(p, tasks=tasks, links=links)


def days(plan: Plan) -> float:
    assert plan.finish_at is not None, plan.conflict
    return (plan.finish_at - OPENS) / DAY


class FullShopTest(unittest.TestCase):
    def test_twenty_load_beds_are_done_as_fast_as_the_one_liner_gun_goes(self) -> None:
        """Taken on one after another they take a fortnight and more; a foreman fills the waits."""
        p = many(20, 2, painters=5)
        plan = solve(p, limit_s=0, most_s=0)
        self.assertEqual((broken(plan, p), plan.conflict), ([], ""))
        gun_s = sum(t.duration_s + t.clean_s / 2 for t in p.tasks.values() if t.gun == "liner_gun")
        open_s = WEEK[0][1] - WEEK[0][0]
        # No one works an hour less than the gun is needed; half as long again is a good week.  All beds
        # stand in one air: what is sanded waits for what was primed, and that costs a fifth more.
        self.assertLess(days(plan), 1.8 * gun_s / open_s + 1)
        again = stood(plan.order, p)
        self.assertEqual(broken(again, p), [])
        self.assertLessEqual(days(again), 1.05 * days(plan), "the order that stands is laid out as well")

    def test_everything_shared_is_kept_to(self) -> None:
        """People who may not everything and go at noon, a bay for three, rain, coats that are going on."""
        mornings = tuple((a, a + 4 * HOUR) for a, _ in WEEK)
        people = (
            Person(name="Ana", hours=WEEK),
            Person(name="Ben", may=frozenset(("coat",)), hours=WEEK),
            Person(name="Cy", may=frozenset(RIGHTS) - {"coat"}, hours=mornings),
        )
        dry = ((OPENS - DAY, OPENS + DAY), (OPENS + 2 * DAY, OPENS + 30 * DAY))
        room = {PLACE: Room(name="Bay 1", weather=dry)}
        p = many(10, steps=False, people=people, painters=3, rooms=room)
        bays = {PLACE: Bay(name="Bay 1", holds=3, inside=("j7", "j2"), drying=(("old", OPENS + HOUR),))}
        p = going(dataclasses.replace(p, bays=bays), "j2", "j7")
        p = dataclasses.replace(p, units={"spray_gun": 2})
        plan = solve(p, limit_s=0, most_s=0)
        self.assertEqual((broken(plan, p), plan.conflict), ([], ""))
        self.assertEqual({t.job_id for t in plan.tasks}, {f"j{i}" for i in range(10)})
        known = {t.key: t.label for t in plan.tasks}
        waits = [t for t in plan.tasks if t.binding in ("painter", "gun") and t.waits_key in known]
        self.assertTrue(any(t.job_id not in (t.waits_key or "") for t in waits))
        for t in waits:
            self.assertTrue(t.binds.ref.endswith(known[t.waits_key or ""]) or "gun" in t.binds.ref, t.binds)
        self.assertFalse([t for t in plan.tasks if t.binding == "held"], "nobody moved anything by hand")

    def test_a_job_that_cannot_be_met_is_named_and_the_others_are_planned(self) -> None:
        p = many(9, painters=2)
        late = next(k for k, t in p.tasks.items() if t.job_id == "j3" and t.kind == "coat")
        closed = dataclasses.replace(p.tasks[late], windows=((OPENS, OPENS + 60),))
        p = dataclasses.replace(p, tasks={**p.tasks, late: closed})
        plan = solve(p, limit_s=0, most_s=0)
        self.assertEqual((broken(plan, p), plan.status), ([], "infeasible"))
        self.assertEqual([c.keys[-1] for c in plan.conflicts], [late])
        self.assertEqual(
            {t.job_id for t in plan.tasks if t.kind == "coat"}, {f"j{i}" for i in range(9)} - {"j3"}
        )
        self.assertTrue(any(t.job_id == "j3" for t in plan.tasks), "what comes before it is planned")

    def test_one_hand_fewer_or_a_day_less_is_never_sooner(self) -> None:
        p = many(10, painters=3)
        fewer = dataclasses.replace(p, painters=2)
        closed = dataclasses.replace(p, hours=WEEK[1:])
        plans = [solve(x, limit_s=0, most_s=0) for x in (p, fewer, closed)]
        costs = [cost(plan, p) for plan in plans]
        self.assertEqual(
            [broken(plan, x) for plan, x in zip(plans, (p, fewer, closed), strict=True)], [[]] * 3
        )
        self.assertTrue(costs[0][2] <= costs[1][2] and costs[0][2] < costs[2][2], costs)
