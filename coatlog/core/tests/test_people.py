"""A crew: who may do what, who is there when, who mixes for whom."""

from __future__ import annotations

import dataclasses
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import list_orders
from coatlog.core.plan.plan import Wishes
from coatlog.core.plan.problem import Bay, Link, Pot, Problem, merge
from coatlog.core.plan.rights import RIGHTS, Person, able
from coatlog.core.plan.scenario import crew_for, wished
from coatlog.core.plan.solver import solve

from .planned import broken, orders
from .test_shop_plan import NOW, painted, shop, todo

HOUR = 3600
DAY = ((NOW, NOW + 10 * HOUR), (NOW + 24 * HOUR, NOW + 34 * HOUR), (NOW + 48 * HOUR, NOW + 58 * HOUR))
ALL = frozenset(RIGHTS)
#: a morning, an afternoon, the whole day, the second day only
SPELLS = (((NOW, NOW + 4 * HOUR), *DAY[1:]), ((NOW + 5 * HOUR, NOW + 10 * HOUR), *DAY[1:]), DAY, DAY[1:])
person = st.tuples(st.sampled_from(sorted(RIGHTS)), st.sampled_from(SPELLS))


def crew(drawn: list[tuple[str, Any]]) -> tuple[Person, ...]:
    """The first may do anything on any day; each of the others lacks one right and some hours."""
    others = (Person(name=f"P{i}", may=ALL - {lacks}, hours=at) for i, (lacks, at) in enumerate(drawn))
    return (Person(name="Chief", hours=DAY), *others)


def asking(p: Problem, *needs: str, job: str = "A") -> Problem:
    """The problem whose tasks of one job ask for this, those of the others for the right to coat."""
    own = {job: frozenset(needs)}
    tasks = {
        k: dataclasses.replace(t, needs=own.get(t.job_id, frozenset(("coat",)))) for k, t in p.tasks.items()
    }
    return dataclasses.replace(p, tasks=tasks, hours=DAY)


def two_jobs(takes: int, stand: int) -> Problem:
    pot = Pot(mix_s=240, pace=None, use_frac=1, induction_s=stand, most_ml=250.0)
    jobs = [painted(x, 2, 2, gun=f"g{x}", pot=pot, bay=None, takes=takes) for x in "AB"]
    return asking(merge(jobs), "coat", "isocyanate")


class CrewTest(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.lists(person, max_size=3), st.integers(200, 4000), st.sampled_from([0, 1500]))
    def test_nobody_does_what_they_may_not_nor_when_they_are_away(
        self, drawn: list[tuple[str, Any]], takes: int, stand: int
    ) -> None:
        p = dataclasses.replace(two_jobs(takes, stand), people=crew(drawn))
        for order in list_orders(p):
            plan = lay_out(order, p)
            self.assertEqual((broken(plan, p), plan.conflict), ([], ""))
        plan = solve(p, limit_s=0.1)
        self.assertEqual(broken(plan, p), [])
        self.assertEqual(plan.people, tuple(x.name for x in p.people))

    @settings(max_examples=25, deadline=None)
    @given(st.lists(person, min_size=1, max_size=2), st.integers(1, 2), st.booleans())
    def test_what_nobody_may_is_left_out_and_all_else_is_planned(
        self, drawn: list[tuple[str, Any]], holds: int, inside: bool
    ) -> None:
        """In a bay with room for so many, where one job may be there already."""
        pot = Pot(mix_s=240, pace=None, use_frac=1, most_ml=250.0)
        bay = Bay(name="Bay 1", holds=holds, inside=("B",) if inside else ())
        jobs = [painted(x, 2, 2, gun=f"g{x}", pot=pot, bay=bay, takes=600) for x in "AB"]
        p = dataclasses.replace(asking(merge(jobs), "coat", "isocyanate"), people=crew(drawn)[1:])
        tasks = {
            k: dataclasses.replace(t, blocked=None if able(p.people, t.needs) else "nobody may")
            for k, t in p.tasks.items()
        }
        p = dataclasses.replace(p, tasks=tasks)
        for order in list_orders(p):
            plan = lay_out(order, p)
            done = {t.key for t in plan.tasks if t.kind == "coat"}
            self.assertEqual(broken(plan, p), [])
            self.assertEqual(done, {k for k, t in tasks.items() if t.blocked is None}, plan.conflict)

    @settings(max_examples=12, deadline=None)
    @given(st.lists(person, min_size=1, max_size=2), st.lists(st.integers(900, 9000), min_size=4, max_size=4))
    def test_one_person_less_never_makes_the_best_plan_shorter(
        self, drawn: list[tuple[str, Any]], takes: list[int]
    ) -> None:
        """Over every order of four steps of two jobs, by brute force."""
        needs = [frozenset(), frozenset(("structure",)), frozenset(), frozenset(("sign_off",))]
        tasks = [todo(f"{'ab'[i % 2]}/{i}", s, needs=needs[i]) for i, s in enumerate(takes)]
        p = shop(tasks, [], hours=DAY, people=crew(drawn))

        def best(q: Problem) -> int:
            return min(lay_out(o, q).finish_at or 2**60 for o in orders(q))

        fewer = dataclasses.replace(p, people=p.people[:-1])
        self.assertLessEqual(best(p), best(fewer))

    def test_a_helper_mixes_the_next_pot_while_this_one_is_sprayed(self) -> None:
        """By hand: alone 3 x (4 min mixing + 10 min); helped, mixing once and then 3 x 10 min."""
        pot = Pot(mix_s=240, pace=None, use_frac=1, most_ml=100.0)
        p = painted("A", 3, 1, gun="", pot=pot, bay=None, takes=600)
        chief = Person(name="Chief", hours=DAY)
        helper = Person(name="Helper", may=ALL - {"coat"}, hours=DAY)
        barred = Person(name="Asthmatic", may=ALL - {"coat", "isocyanate"}, hours=DAY)
        for needs, people, takes in (
            (("coat",), (chief,), 3 * 840),
            (("coat", "isocyanate"), (chief, helper), 240 + 3 * 600),
            # Who must keep away from isocyanates mixes none either.
            (("coat", "isocyanate"), (chief, barred), 3 * 840),
        ):
            q = dataclasses.replace(asking(p, *needs), people=people)
            plan = lay_out(tuple(q.tasks), q)
            self.assertEqual(((plan.finish_at or 0) - NOW, broken(plan, q)), (takes, []), people)
            mixers = {t.painter for t in plan.tasks if t.kind == "mix"}
            self.assertEqual(mixers, {0, 1} if takes < 3 * 840 else {0})

    def test_who_goes_at_noon_is_said_and_planned_for(self) -> None:
        """Two signatures of an hour, the second due after noon: it waits for who may sign."""
        signs = Person(name="Ines", may=frozenset(("sign_off",)), hours=SPELLS[0])
        works = Person(name="Tom", may=ALL - {"sign_off"}, hours=DAY)
        tasks, links = [], []
        for x in "ab":
            tasks += [todo(f"{x}/sand", 3 * HOUR), todo(f"{x}/sign", HOUR, needs=frozenset(("sign_off",)))]
            links.append(Link(f"{x}/sand", f"{x}/sign", ((None, None),), "step", ""))
        p = shop(tasks, links, hours=DAY, people=(works, signs))
        # Ines may sand too: she is there, and nothing says that she may not.
        p.tasks["a/sand"] = dataclasses.replace(p.tasks["a/sand"], needs=frozenset(("coat",)))
        p.tasks["b/sand"] = dataclasses.replace(p.tasks["b/sand"], needs=frozenset(("coat",)))
        plan = lay_out(tuple(p.tasks), p)
        at = {t.key: t for t in plan.tasks}
        self.assertEqual(at["a/sign"].start_at, NOW + 3 * HOUR)
        self.assertEqual((at["b/sign"].start_at, at["b/sign"].binding), (NOW + 24 * HOUR, "away"))
        self.assertEqual(at["b/sign"].binds.ref, "Ines is there then")
        self.assertEqual(broken(plan, p), [])
        # With one more who may do anything, both are sanded and signed this morning.
        three = dataclasses.replace(p, people=crew_for(p.people, Wishes(painters=3), DAY))
        self.assertEqual(lay_out(tuple(p.tasks), three).finish_at, NOW + 4 * HOUR)
        # Staying longer, Tom is there longer; Ines still goes at noon.
        longer = wished(p, Wishes(stay_s=HOUR))
        self.assertEqual([x.hours[0][1] - NOW for x in longer.people], [11 * HOUR, 4 * HOUR])
