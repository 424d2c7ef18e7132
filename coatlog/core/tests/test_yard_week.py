"""A week in a yard: five people, one who goes at noon, two launches, a rainy Tuesday.

Common practice, no published source: what a foreman would do stands beside each hull.
"""

from __future__ import annotations

import dataclasses
import unittest

from coatlog.core.plan.build_problem import Room
from coatlog.core.plan.problem import Problem, merge
from coatlog.core.plan.rights import RIGHTS, Person
from coatlog.core.plan.solver import solve
from coatlog.core.run.facts import Facts

from .planned import broken
from .samples import PLACE
from .test_long_work import DAY, OPENS, job, part, to_do

HOUR = 3600
WEEK = tuple((OPENS + d * DAY, OPENS + d * DAY + 9 * HOUR) for d in (0, 1, 2, 3, 4, 7, 8, 9, 10, 11))
MORNINGS = tuple((a, a + 4 * HOUR) for a, _ in WEEK)
ALL = frozenset(RIGHTS)
PEOPLE = (
    Person(name="Ana", may=ALL, hours=WEEK),
    Person(name="Ben", may=ALL - {"sign_off"}, hours=WEEK),
    Person(name="Cy", may=frozenset(("coat",)), hours=WEEK),
    Person(name="Dee", may=frozenset(), hours=WEEK),
    Person(name="Eva", may=ALL, hours=MORNINGS),
)
#: dry all week but on Tuesday
DRY = ((OPENS, OPENS + DAY - HOUR), (OPENS + 2 * DAY - HOUR, OPENS + 14 * DAY))


def named(facts: Facts, job_id: str) -> Facts:
    return dataclasses.replace(facts, job_id=job_id)


class YardWeekTest(unittest.TestCase):
    def week(self, people: tuple[Person, ...] = PEOPLE) -> Problem:
        """A yacht to launch on Friday, a workboat on Wednesday week, a launch whose topsides are sprayed."""
        yacht = job([part("yacht", 34.0, "old_hard_antifouling")], ("hard-antifouling", 2))
        barge = job([part("barge", 90.0, "epoxy_on_steel")], ("epoxy-barrier", 2), ("hard-antifouling", 2))
        sides = job([part("sides", 16.0, "sound_paint")], ("single-stage-2k", 3))
        room = {PLACE: Room(name="the yard", weather=DRY)}
        days = {"yacht": 4, "barge": 9, "sides": None}
        built = []
        for name, facts in (("yacht", yacht), ("barge", barge), ("sides", sides)):
            slot = days[name]
            more = {} if slot is None else {"slot_at": OPENS + slot * DAY + 7 * HOUR, "slot_for": "water"}
            p = to_do(facts, people=people, painters=len(people), rooms=room, **more)
            tasks = {k: dataclasses.replace(t, job_id=name) for k, t in p.tasks.items()}
            built.append(dataclasses.replace(p, tasks=tasks, hours=WEEK, job_id=name))
        return merge(built)

    def test_the_week_is_planned_for_all_of_them_and_both_are_launched(self) -> None:
        p = self.week()
        plan = solve(p, limit_s=1.0)
        self.assertEqual((broken(plan, p), plan.conflict), ([], ""))
        coats = [t for t in plan.tasks if t.kind == "coat"]
        ends = {t.job_id: t.end_at for t in coats}
        # A foreman has the yacht's two coats on by Thursday night, the barge's four by the next Tuesday.
        self.assertLessEqual(ends["yacht"], OPENS + 3 * DAY + 9 * HOUR)
        self.assertLessEqual(ends["barge"], OPENS + 8 * DAY + 9 * HOUR)
        rain = (OPENS + DAY - HOUR, OPENS + 2 * DAY - HOUR)
        wet = [t.label for t in coats if t.start_at < rain[1] and t.end_at > rain[0]]
        self.assertEqual(wet, [])
        sprayed = {plan.people[t.painter] for t in coats if t.job_id == "sides"}
        self.assertTrue(sprayed <= {"Ana", "Ben", "Eva"}, sprayed)
        rolled = [t for t in coats if t.job_id == "barge"]
        self.assertTrue(all(len(t.others) >= 2 for t in rolled), "several side by side on 90 m2")

    def test_without_who_may_the_topsides_are_left_and_all_else_is_done(self) -> None:
        p = self.week(tuple(dataclasses.replace(x, may=x.may - {"isocyanate"}) for x in PEOPLE))
        plan = solve(p, limit_s=0.5)
        self.assertEqual(broken(plan, p), [])
        self.assertIn(
            "nobody of the 5 people in the plan may put on coats and work with isocyanates", plan.conflict
        )
        done = {t.job_id for t in plan.tasks if t.kind == "slot"}
        self.assertEqual(done, {"yacht", "barge"})
