"""Leaving on time.  Every part called safe is replayed: coated as told, looked at when work goes on."""

from __future__ import annotations

import dataclasses
import itertools
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.plan import stopping
from coatlog.core.plan.build_problem import problem
from coatlog.core.plan.layout import lay_out
from coatlog.core.plan.plan import SIDE_KINDS, Plan
from coatlog.core.plan.problem import Problem
from coatlog.core.plan.stopping import Leaving, finish_before, next_opening
from coatlog.core.run.facts import PLANNED, Layer, Part, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.timeline import Timeline
from coatlog.core.run.view import current_span
from coatlog.core.stack.step_sequence import usual_layer

from .planned import broken
from .samples import PLACE, T0, Log, steady, stepped, two_layer_facts
from .test_plan import NOW
from .test_stack import S

MINUTE = 60
LEAD_S = 900


class Case:
    """Parts with primer and liner, some begun; asked what can be finished."""

    def __init__(self, parts: int, begun: int = 0, climate: Any = None) -> None:
        self.climate = climate or steady(23.0)
        self.facts = two_layer_facts(part_count=parts)
        self.log = Log(self.facts)
        for i in range(begun):
            self.log.coat(f"c{i}", f"p{i}", f"p{i}a", 1, -7200 + 400 * i, -7000 + 400 * i)
        self.p = self.problem()

    def state(self) -> JobState:
        return replay({self.facts.id: self.facts}, {}, self.log.entries, self.climate)

    def problem(self) -> Problem:
        airs = {p.id: Timeline(self.climate, PLACE, None, ()) for p in self.facts.parts}
        return problem(self.facts, self.state(), airs, now=NOW, hours=())

    def ask(self, minutes: float, away_h: float = 12) -> Leaving:
        leave_at = NOW + round(minutes * MINUTE)
        lead = dict.fromkeys(self.p.tasks, LEAD_S)
        return finish_before(self.p, leave_at, leave_at + round(away_h * 3600), lead_s=lead)

    def obey(self, told: Leaving) -> JobState:
        """Log what was told to be done, at the times told."""
        for t in told.tasks:
            if t.kind == "unmask":
                self.log.add("unmasked", t.end_at - T0, part_ids=[t.part_id], result="clean")
                continue
            if t.kind != "coat":
                if t.kind == "step":
                    self.log.add("step_done", t.end_at - T0, part_ids=[t.part_id], step="mask")
                continue
            part, layer, n = t.key.split("/")
            self.log.coat(t.key, part, layer, int(n), t.start_at - T0, t.end_at - T0)
        return self.state()


class LeaveTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(
        st.integers(1, 4),
        st.integers(0, 2),
        st.floats(5, 900),
        st.floats(1, 60),
        st.floats(15, 30),
        st.floats(12, 30),
    )
    def test_what_is_called_safe_is_still_open_or_done_when_work_goes_on(
        self, parts: int, begun: int, minutes: float, away_h: float, day: float, night: float
    ) -> None:
        case = Case(parts, min(begun, parts), stepped([(-3600 * 9, day), (6 * 3600, night)], hours=120))
        told = case.ask(minutes, away_h)
        for t in told.tasks:
            self.assertTrue(t.locked or t.end_at <= told.leave_at, t)
        self.assertEqual(broken(_as_plan(told, case.p), case.p), [])
        state = case.obey(told)
        parts_left = {x.part_id: x for x in told.parts}
        for part in state.parts:
            left = parts_left[part.part_id]
            if not part.films or not left.safe:
                continue
            span, _ = current_span(part.films[-1], told.back_at)
            self.assertNotEqual(span.state, "over_age", (left, span))
            if left.closes_at is not None and part.due_layer_id is not None:
                closes = [s.to_at for s in part.films[-1].spans if s.state in ("open", "closing")]
                self.assertLessEqual(abs((closes[-1] or 0) - left.closes_at), 1)

    def test_more_time_never_finishes_less_of_one_part(self) -> None:
        case = Case(1)
        done = [case.ask(m, 1).parts[0].done for m in range(1, 700, 30)]
        self.assertEqual(done, sorted(done))
        self.assertEqual((done[0], done[-1]), (0, len(case.p.tasks)))

    def test_a_coat_whose_window_closes_overnight_is_better_not_begun(self) -> None:
        """The trade's question: 45 minutes, what can be finished and left safely."""
        case = Case(1)
        short, long = case.ask(45, 1), case.ask(45, 60)
        self.assertTrue(short.parts[0].safe and long.parts[0].safe)
        self.assertEqual([t.kind for t in short.tasks], ["step", "mix", "setup", "coat", "clean"])
        self.assertEqual([t.kind for t in long.tasks], ["step"])

    def test_what_fails_whatever_is_done_is_named_first(self) -> None:
        case = Case(2, begun=1)
        told = case.ask(5, 60)
        begun = next(x for x in told.parts if x.part_id == "p0")
        self.assertFalse(begun.safe)
        self.assertIn("will need sanding", begun.why)
        self.assertTrue(told.fails_first)
        self.assertLess(begun.closes_at, told.back_at)

    def test_nothing_more_fits_and_no_part_is_lost_that_could_be_saved(self) -> None:
        """Against every choice there is: none leaves fewer parts unsafe (four parts, two begun)."""
        case = Case(3, begun=2)
        for minutes in (20, 60, 150):
            told = case.ask(minutes, 14)
            lost = sum(not x.safe for x in told.parts)
            self.assertLessEqual(lost, _fewest_lost(case, told))

    def test_latest_start_ends_as_one_leaves(self) -> None:
        told = Case(3).ask(120, 2)
        for part in told.parts:
            if part.latest_start_at is not None:
                mine = [t for t in told.tasks if t.part_id == part.part_id]
                last = max((t for t in mine if t.kind not in SIDE_KINDS), key=lambda t: t.end_at)
                ends = max(t.end_at for t in mine)  # its gun cleaned
                self.assertEqual(part.latest_start_at + (ends - last.start_at), told.leave_at)

    def test_a_coat_going_on_is_ended_even_if_late(self) -> None:
        case = Case(1)
        case.log.coat("on", "p0", "p0a", 1, 0, None)
        case.p = case.problem()
        told = case.ask(0.5, 1)
        self.assertTrue(told.tasks and told.tasks[0].locked)

    def test_two_boots_washed_together_are_washed_before_either_is_coated(self) -> None:
        """A step parts have together is before the coats of each, whoever and how many do it."""
        for painters in (1, 2, 4):
            p = boots(painters)
            together = [k for k, t in p.tasks.items() if t.kind == "step" and " + " in t.label]
            self.assertTrue(together, "they are worked alike")
            chains = stopping._chains(p)
            self.assertTrue(all(k in chain for chain in chains.values() for k in together[:2]))
            for minutes in (30, 90, 240, 900):
                leave_at = p.now + minutes * MINUTE
                told = finish_before(p, leave_at, leave_at + 12 * 3600, lead_s=dict.fromkeys(p.tasks, LEAD_S))
                self.assertEqual(broken(_as_plan(told, p), p), [], (painters, minutes))
                self.assertTrue(told.tasks or minutes < 60, (painters, minutes))
            self.assertEqual({x.done for x in told.parts}, {x.of for x in told.parts}, "a day is enough")

    def test_what_a_plan_cannot_place_has_no_clock(self) -> None:
        """A coat begun before its steps, after hours: the plan has no time for them, the answer stands."""
        p = boots(1)
        coat = next(k for k, t in p.tasks.items() if t.kind == "coat")
        tasks = {**p.tasks, coat: dataclasses.replace(p.tasks[coat], began_at=p.now - 60)}
        p = dataclasses.replace(p, tasks=tasks, hours=((p.now + 40 * 3600, p.now + 40 * 3600 + 600),))
        plan = lay_out(tuple(p.tasks), p)
        points = stopping.stop_points(p, plan, p.hours, lead_s=dict.fromkeys(p.tasks, LEAD_S))
        self.assertTrue(points)
        self.assertTrue(finish_before(p, p.now + 600, p.now + 3600, lead_s={}).parts)

    def test_the_next_opening(self) -> None:
        self.assertEqual(next_opening([(0, 10), (100, 110)], 8), 100)
        self.assertEqual(next_opening([], 8), 86408)


def boots(painters: int) -> Problem:
    """Two de-icing boots to be stripped and sealed, their steps planned."""
    parts = tuple(
        Part(id=f"b{i}", name=name, area_m2=1.2, substrate="sealed_rubber", condition="", place_id=PLACE)
        for i, name in enumerate(("Left boot", "Right boot"))
    )
    x = usual_layer(S["boot-sealant"])
    layers = tuple(
        Layer(id=f"{p.id}l", part_id=p.id, position=0, sheet_id=x.sheet.id, target_um=x.target_um, tol_um=1.0,
              coats=x.coats, method_id=x.sheet.method_id)
        for p in parts
    )  # fmt: skip
    facts = make_facts(
        job_id="job", version=1, parts=parts, layers=layers, sheets={x.sheet.id: x.sheet},
        choices={"prep": "strip_sealant", "steps": PLANNED},
    )  # fmt: skip
    air = steady(20.0)
    state = replay({facts.id: facts}, {}, Log(facts).entries, air)
    airs = {p.id: Timeline(air, PLACE, None, ()) for p in parts}
    return problem(facts, state, airs, now=NOW, hours=(), painters=painters)


def _fewest_lost(case: Case, told: Leaving) -> int:
    """By trying every number of tasks of every part, laid out in the same order."""
    chains = stopping._chains(case.p)
    links = case.p.links_to()
    lead = dict.fromkeys(case.p.tasks, LEAD_S)
    best = len(chains)
    for counts in itertools.product(*(range(len(c) + 1) for c in chains.values())):
        keep = dict(zip(chains, counts, strict=True))
        plan = stopping._laid(case.p, chains, keep)
        times = {t.key: t for t in plan.tasks}
        if stopping._too_late(chains, keep, times, told.leave_at):
            continue
        done = stopping._kept(chains, keep)
        safe = (
            stopping._window(case.p, chains[k], done, times, links, told.back_at, lead)[0] for k in chains
        )
        best = min(best, sum(not s for s in safe))
    return best


def _as_plan(told: Leaving, p: Problem) -> Plan:
    empty = lay_out((), dataclasses.replace(p, tasks={}, links=()))
    return dataclasses.replace(empty, tasks=tuple(t for t in told.tasks if not t.locked))
