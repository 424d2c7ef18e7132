"""A shop's plan: what is shared holds, what is published comes out, what is small is exact."""

from __future__ import annotations

import dataclasses
import itertools
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.drying import Pace
from coatlog.core.plan.bound import lower_bound_s
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.orders import cost, idle_s, list_orders, rule_orders
from coatlog.core.plan.plan import SIDE_KINDS
from coatlog.core.plan.problem import Bay, Link, Pot, Problem, ToDo, merge
from coatlog.core.plan.solver import solve
from coatlog.core.run.timeline import Timeline

from .planned import broken, orders
from .samples import PLACE, steady

NOW = 1_000_000


def shop(tasks: list[ToDo], links: list[Link], **over: Any) -> Problem:
    """A problem with one painter and nothing else said."""
    empty: dict[str, Any] = {
        "job_id": "", "now": NOW, "tasks": {t.key: t for t in tasks}, "links": tuple(links), "airs": {},
        "painters": 1, "hours": (), "pots": {}, "alive": {}, "names": {},
    }  # fmt: skip
    return Problem(**{**empty, **over})


def todo(key: str, s: int, **over: Any) -> ToDo:
    job = over.pop("job_id", key.split("/")[0])
    return ToDo(key=key, kind="step", part_id=job, job_id=job, label=key, duration_s=s, **over)


def machine_shop(jobs: list[list[tuple[int, int]]]) -> Problem:
    """Jobs of (machine, time) in order; nobody's hands are needed, every machine is one."""
    tasks, links = [], []
    for j, steps in enumerate(jobs):
        for i, (machine, s) in enumerate(steps):
            tasks.append(todo(f"{j}/{i}", s, hands=0, uses=(f"m{machine}",)))
            if i:
                links.append(Link(f"{j}/{i - 1}", f"{j}/{i}", ((None, None),), "after", ""))
    return shop(tasks, links, painters=len(jobs))


# Fisher and Thompson 1963, "Probabilistic learning combinations of local job-shop scheduling rules",
# in Muth and Thompson (eds), Industrial Scheduling: the 6 x 6 instance, optimum 55.
FT06 = (
    "2 1 0 3 1 6 3 7 5 3 4 6", "1 8 2 5 4 10 5 10 0 10 3 4", "2 5 3 4 5 8 0 9 1 1 4 7",
    "1 5 0 5 2 5 3 3 4 8 5 9", "2 9 1 3 4 5 5 4 0 3 3 1", "1 3 3 3 5 9 0 10 4 4 2 1",
)  # fmt: skip


class PublishedTest(unittest.TestCase):
    def test_fisher_and_thompson_six_by_six(self) -> None:
        rows = [[int(x) for x in line.split()] for line in FT06]
        p = machine_shop([list(zip(r[::2], r[1::2], strict=True)) for r in rows])
        plan = solve(p, limit_s=20)
        self.assertEqual((plan.finish_at or 0) - NOW, 55)
        self.assertEqual((plan.status, plan.bound_s), ("optimal", 55))
        self.assertEqual(broken(plan, p), [])

    def test_three_jobs_on_three_machines(self) -> None:
        """The textbook example of job-shop introductions: optimum 11."""
        p = machine_shop([[(0, 3), (1, 2), (2, 2)], [(0, 2), (2, 1), (1, 4)], [(1, 4), (2, 3)]])
        plan = solve(p, limit_s=5)
        self.assertEqual(((plan.finish_at or 0) - NOW, plan.status), (11, "optimal"))

    def test_a_running_window_is_served_before_work_that_nothing_presses(self) -> None:
        """Washing the next car waits for the open window: common practice, no published source."""
        shut = dataclasses.replace(todo("open/coat", 240, windows=((NOW, NOW + 4000),)), kind="coat")
        washes = [todo(f"wash{i}/a", 600) for i in range(3)]
        later = dataclasses.replace(todo("late/coat", 240, windows=((NOW, NOW + 9000),)), kind="coat")
        for tasks in ([*washes, later, shut], [later, shut, *washes]):
            plan = solve(shop(tasks, []), limit_s=0)
            self.assertEqual([t.key for t in plan.tasks][:2], ["open/coat", "late/coat"])
            self.assertEqual((plan.finish_at or 0) - NOW, 2280)

    def test_an_order_is_looked_for_no_longer_than_there_is_time(self) -> None:
        """Fisher and Thompson's jobs again: with no time at all every task still stands, after its own."""
        rows = [[int(x) for x in line.split()] for line in FT06]
        p = machine_shop([list(zip(r[::2], r[1::2], strict=True)) for r in rows])
        for order in rule_orders(p, until=0.0):
            self.assertEqual(sorted(order), sorted(p.tasks))
            self.assertEqual(lay_out(order, p).status, "feasible")
        plan = solve(p, limit_s=0, most_s=0.0)
        self.assertEqual(broken(plan, p), [])
        self.assertGreaterEqual((plan.finish_at or 0) - NOW, 55)

    def test_two_boots_each_flashing_while_the_other_is_coated(self) -> None:
        """t 8, W 15: turned round, patches wait 15 to 31 (derived); a longest wait of 30 is broken by it."""
        wait = ((15, 30),)
        for turned, status in ((False, "optimal"), (True, "infeasible")):
            links = [Link("a/1", "a/2", wait, "recoat", "", turned)]
            plan = solve(shop([todo("a/1", 8), todo("a/2", 8)], links), limit_s=0)
            self.assertEqual(plan.status, status)
        longer = [Link("a/1", "a/2", ((15, 31),), "recoat", "", True)]
        self.assertEqual(solve(shop([todo("a/1", 8), todo("a/2", 8)], longer), limit_s=0).status, "optimal")


small = st.integers(1, 4)
window = st.tuples(st.integers(0, 3), st.one_of(st.none(), st.integers(4, 9)))


class ExactTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(
        st.tuples(small, small, small, small),
        st.lists(window, min_size=2, max_size=3),
        st.booleans(),
        st.lists(st.integers(2, 9), min_size=2, max_size=4),
    )
    def test_a_fixed_order_is_laid_out_as_early_as_any_start_times_allow(
        self, takes: tuple[int, ...], waits: list[Any], turned: bool, days: list[int]
    ) -> None:
        """Against every start second there is: a, b, a again, b again; hours with gaps between."""
        keys = ("a/1", "b/1", "a/2", "b/2")
        links = [
            Link("a/1", "a/2", (waits[0],), "recoat", "", turned),
            Link("b/1", "b/2", tuple(sorted(waits[1:], key=lambda w: w[0])), "recoat", ""),
        ]
        edges = list(itertools.accumulate((x for d in days for x in (d, 2)), initial=NOW))
        hours = tuple(zip(edges[::2], edges[1::2], strict=False))
        tasks = [todo(k, s) for k, s in zip(keys, takes, strict=True)]
        p = shop(tasks, links, hours=hours)
        plan = lay_out(keys, p)
        best = _earliest(keys, p, NOW + 45)
        # What is longer than any day is told, and what can be done without it is planned.
        whole = plan.finish_at is not None and not plan.conflicts
        self.assertEqual(plan.finish_at - NOW if whole else None, best)
        self.assertEqual(broken(plan, p), [])

    @settings(max_examples=12, deadline=None)
    @given(st.sampled_from([(2, 3), (3, 2)]), st.lists(small, min_size=6, max_size=6),
           st.lists(window, min_size=3, max_size=3), st.integers(1, 2))  # fmt: skip
    def test_what_is_called_optimal_no_order_beats_and_no_relaxing_lengthens(
        self, size: tuple[int, int], takes: list[int], waits: list[Any], painters: int
    ) -> None:
        jobs, steps = size
        cells = list(itertools.product(range(jobs), range(steps)))
        tasks = [
            todo(f"{j}/{i}", s, uses=("m",) if i == 1 else ()) for (j, i), s in zip(cells, takes, strict=True)
        ]
        links = [
            Link(f"{j}/{i}", f"{j}/{i + 1}", (waits[j],), "recoat", "") for j, i in cells if i + 1 < steps
        ]
        p = shop(tasks, links, painters=painters)
        plan = solve(p, limit_s=0.6)
        if plan.finish_at is None or plan.status == "infeasible":
            return
        self.assertEqual(broken(plan, p), [])
        self.assertGreaterEqual(plan.finish_at - NOW, plan.bound_s)
        if plan.status != "optimal":
            return
        ends = [x.finish_at for o in orders(p) if (x := lay_out(o, p)).finish_at]
        self.assertLessEqual(plan.finish_at, min(ends))
        free = tuple(dataclasses.replace(x, windows=((None, None),)) for x in links)
        for relaxed in (dataclasses.replace(p, links=free), dataclasses.replace(p, painters=painters + 1)):
            other = solve(relaxed, limit_s=0.6)
            if other.status == "optimal":
                self.assertLessEqual(other.finish_at, plan.finish_at)


def _earliest(keys: tuple[str, ...], p: Problem, until: int) -> int | None:
    """Least finish over all start seconds with the painter taking the tasks in this order."""
    best: int | None = None

    def go(i: int, starts: dict[str, int], free: int) -> None:
        nonlocal best
        if best is not None and free - NOW >= best:
            return
        if i == len(keys):
            best = free - NOW
            return
        t = p.tasks[keys[i]]
        for at in range(free, until):
            end = at + t.duration_s
            if best is not None and end - NOW >= best:
                return
            if any(a <= at and end <= b for a, b in p.hours) and _waits_hold(keys[i], at, starts, p):
                go(i + 1, {**starts, keys[i]: at}, end)

    go(0, {}, NOW)
    return best


def _waits_hold(key: str, at: int, starts: dict[str, int], p: Problem) -> bool:
    for x in p.links:
        if x.b_key != key:
            continue
        a, lasts = starts[x.a_key], p.tasks[x.a_key].duration_s
        oldest = at + (p.tasks[key].duration_s if x.turned else 0)
        if not any(at >= a + lasts + (w[0] or 0) and (w[1] is None or oldest <= a + w[1]) for w in x.windows):
            return False
    return True


AIRS = {f"{job}{i}": Timeline(steady(20.0), PLACE, None, ()) for job in "AB" for i in range(6)}


def painted(job: str, parts: int, coats: int, *, gun: str, pot: Pot, bay: Bay | None, takes: int) -> Problem:
    """A job of so many parts and coats with one gun, one pot and perhaps a bay."""
    tasks, links = [], []
    for i in range(parts):
        for n in range(coats):
            key = f"{job}{i}/x/{n}"
            tasks.append(
                ToDo(key=key, kind="coat", part_id=f"{job}{i}", job_id=job, label=key, duration_s=takes,
                     sheet_id=f"s{job}", volume_ml=100.0, gun=gun, setup_s=60, clean_s=200,
                     place_id="bay" if bay else "")
            )  # fmt: skip
            if n:
                links.append(Link(f"{job}{i}/x/{n - 1}", key, ((900, 20000),), "recoat", ""))
    return shop(tasks, links, job_id=job, airs=AIRS, pots={f"s{job}": pot}, names={f"s{job}": job},
                bays={"bay": bay} if bay else {})  # fmt: skip


def half_an_hour(stands: int = 0) -> Pace:
    """The life of a pot that stands so long [s] first, at any warmth."""
    return Pace(((20.0, 1800.0 + stands),), "solvent", 0.0, 5.0, "max")


class SharedTest(unittest.TestCase):
    def test_a_gun_is_set_up_as_often_as_pots_die_in_it(self) -> None:
        """By hand: six coats of twenty minutes from pots of thirty, one painter with one gun.

        They fill four lives, and a minute of the first goes by while the gun is set up: five set-ups, where
        one would do by volume.  Six are needed, as no two of these coats fit one pot.
        """
        pot = Pot(mix_s=240, pace=half_an_hour(), use_frac=1)
        p = painted("A", 6, 1, gun="g", pot=pot, bay=None, takes=1200)
        least_s = 6 * 1200 + 240 + 5 * (60 + 200) - 200
        self.assertEqual(lower_bound_s(p), least_s)
        plan = solve(p, limit_s=0.2)
        self.assertEqual(sum(t.kind == "setup" for t in plan.tasks), 6)
        self.assertGreaterEqual(plan.finish_at - NOW, least_s)

    def test_the_bound_lies_under_every_order_there_is(self) -> None:
        for painters, guns, coats in itertools.product((1, 2), (1, 2), (1, 2)):
            pot = Pot(mix_s=240, pace=half_an_hour(), use_frac=1)
            p = painted("A", 4 // coats, coats, gun="g", pot=pot, bay=None, takes=700)
            p = dataclasses.replace(p, painters=painters, units={"g": guns})
            best = min(x.finish_at for o in orders(p) if (x := lay_out(o, p)).finish_at is not None)
            self.assertLessEqual(lower_bound_s(p), best - NOW, (painters, guns, coats))

    @settings(max_examples=15, deadline=None)
    @given(st.integers(1, 3), st.integers(1, 3), st.integers(1, 2), st.sampled_from([0, 1500]),
           st.booleans(), st.integers(200, 900), st.booleans(), st.booleans(), st.integers(1, 2),
           st.booleans())  # fmt: skip
    def test_guns_bays_pots_and_hands_hold_in_every_plan(
        self,
        parts: int,
        coats: int,
        painters: int,
        stands: int,
        shared: bool,
        takes: int,
        inside: bool,
        day: bool,
        guns: int,
        dies: bool,
    ) -> None:
        pot = Pot(mix_s=240, pace=None, use_frac=1, induction_s=stands, most_ml=250.0)
        if dies:
            pot = dataclasses.replace(pot, pace=half_an_hour(stands), most_ml=None)
        bay = Bay(name="Bay 1", holds=1, inside=("B",) if inside else ())
        a = painted("A", parts, coats, gun="g", pot=pot, bay=bay, takes=takes)
        b = painted("B", 2, 2, gun="g" if shared else "h", pot=pot, bay=bay, takes=takes)
        hours = tuple((NOW + d * 86400, NOW + d * 86400 + 15000) for d in range(9)) if day else ()
        p = dataclasses.replace(merge([a, b]), painters=painters, hours=hours, units={"g": guns})
        for order in list_orders(p):
            plan = lay_out(order, p)
            if plan.finish_at is not None:
                self.assertEqual(broken(plan, p), [])
        plan = solve(p, limit_s=0.2)
        self.assertEqual(broken(plan, p), [])
        self.assertNotEqual(plan.status, "infeasible")
        self.assertGreaterEqual(plan.finish_at - NOW, lower_bound_s(p))
        self.assertTrue(all(t.slack_s is None or t.slack_s >= 0 for t in plan.tasks))

    def test_what_is_asked_for_is_what_is_made_small(self) -> None:
        """Two jobs, two pots that hold two coats: each objective is best at what it is named for."""
        pot = Pot(mix_s=240, pace=None, use_frac=1, most_ml=400.0)
        a = painted("A", 3, 2, gun="g", pot=pot, bay=None, takes=600)
        b = painted("B", 2, 2, gun="h", pot=pot, bay=None, takes=600)
        p = dataclasses.replace(merge([a, b]), due={"B": NOW + 4000})
        plans = {x: solve(p, objective=x, limit_s=1.5) for x in ("finish", "mixes", "due", "waiting")}
        for name, plan in plans.items():
            self.assertEqual(broken(plan, p), [], name)
        costs = {name: cost(plan, p, "waiting") for name, plan in plans.items()}
        self.assertEqual(costs["waiting"], min(costs.values()))
        self.assertLessEqual(idle_s(plans["waiting"]), idle_s(plans["finish"]))
        ends = max(t.end_at for t in plans["due"].tasks if t.job_id == "B")
        self.assertLessEqual(ends, NOW + 4000)

    def test_slack_is_what_a_start_can_slip_and_no_more(self) -> None:
        """Each task put later by its slack still fits with its deadline; a second more is late."""
        pot = Pot(mix_s=0, pace=None, use_frac=1)
        p = painted("A", 2, 2, gun="g", pot=pot, bay=None, takes=600)
        p = dataclasses.replace(p, due={"A": NOW + 7000})
        plan = lay_out(list_orders(p)[0], p)
        for t in plan.tasks:
            if t.kind in SIDE_KINDS:
                continue
            for more, late in ((0, False), (1, True)):
                again = lay_out(
                    plan.order, dataclasses.replace(p, held={t.key: t.start_at + t.slack_s + more})
                )
                self.assertEqual(again.finish_at is None or again.finish_at > NOW + 7000, late, (t, more))

    def test_weather_pushes_a_coat_to_where_it_stays_dry(self) -> None:
        coat = todo("a/1", 600, place_id="yard", dry_s=1800)
        coat = dataclasses.replace(coat, kind="coat")
        p = shop([coat], [], weather={"yard": ((NOW, NOW + 2399), (NOW + 9000, NOW + 12000))})
        plan = lay_out(("a/1",), p)
        self.assertEqual((plan.tasks[0].start_at, plan.tasks[0].binding), (NOW + 9000, "weather"))
        self.assertEqual(plan.tasks[0].slack_s, 600)

    def test_a_slot_is_planned_for_backwards(self) -> None:
        """A launch at a fixed hour, no more than 3000 s after the coat: the coat waits for it."""
        slot = todo("a/slot", 60, hands=0, windows=((NOW + 9000, NOW + 9000),))
        p = shop([todo("a/1", 600), slot], [Link("a/1", "a/slot", ((600, 3000),), "immerse", "")])
        plan = lay_out(("a/1", "a/slot"), p)
        first = plan.tasks[0]
        self.assertEqual((first.start_at, first.binding, first.waits_key), (NOW + 6000, "later", "a/slot"))
        self.assertEqual(broken(plan, p), [])
