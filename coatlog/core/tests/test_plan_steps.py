"""The step list in the plan, on every practice: the same steps, in order, with their clocks.

Working orders and the four hours of bare metal: common practice, no published source.
"""

from __future__ import annotations

import itertools
import random
import unittest
from dataclasses import replace
from functools import cache
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.plan.build_problem import problem
from coatlog.core.plan.plan import Plan, Task
from coatlog.core.plan.problem import Problem, merge
from coatlog.core.plan.solver import solve
from coatlog.core.run.facts import PLANNED, Facts, Layer, Part, make_facts
from coatlog.core.run.recoat_windows import reach_max, reach_min, sheet_pace
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.step_list import job_work, tick
from coatlog.core.run.task_key import read_key
from coatlog.core.run.timeline import Timeline
from coatlog.core.sheet import Sheet, pick_recoat
from coatlog.core.stack.builder import legal_stacks
from coatlog.core.stack.preps import path_words
from coatlog.core.stack.step_catalogue import STEPS
from coatlog.core.stack.step_sequence import Work, usual_layer

from .planned import broken
from .samples import PLACE, T0, Log, steady
from .test_practices import PRACTICES, SHELF, survey_of
from .test_stack import S

AIR = steady(20.0, hours=24 * 30)
LEFT_OUT = {
    "wipe_excess",
    "clean_gun",
    "drop_brush",
    "clean_brush",
    "clear_can",
    "drop_spreader",
    "close_bottle",
}  # the sheet's own word, and the plan's own cleaning


@cache
def facts_of(i: int, m2: float = 0.2, steps: str = PLANNED) -> Facts:
    """A job of practice `i` on one part, prepared as the practice is."""
    row = PRACTICES[i]
    survey, names = survey_of(row), tuple(row["layers"])
    ways = [
        path
        for path, layers in legal_stacks(survey, SHELF, row["wanted"])
        if tuple(x.sheet.material_id for x in layers) == names
        and [p.id for p in path] == row.get("path", [p.id for p in path])
    ]
    part = Part(id="p", name="Part", area_m2=m2, substrate=survey.substrate, condition="", place_id=PLACE,
                must_survive=survey.must_survive, features=survey.features)  # fmt: skip
    layers = []
    for k, name in enumerate(names):
        x = usual_layer(S[name])
        layers.append(
            Layer(id=f"l{k}", part_id="p", position=k, sheet_id=x.sheet.id, target_um=x.target_um, tol_um=1.0,
                  coats=x.coats, method_id=x.sheet.method_id)
        )  # fmt: skip
    return make_facts(
        job_id="job",
        version=1,
        parts=(part,),
        layers=tuple(layers),
        sheets={S[n].id: S[n] for n in names},
        choices={"prep": path_words(min(ways, key=len)), "steps": steps},
    )


def work_of(facts: Facts) -> tuple[Work, ...]:
    return job_work(facts)["p"]


def stand(facts: Facts, log: Log) -> JobState:
    return replay({facts.id: facts}, {}, log.entries, AIR, job_id="job")


def planned(facts: Facts, log: Log, now: int = T0, limit_s: float = 0.2) -> tuple[Problem, Plan]:
    airs = {"p": Timeline(AIR, PLACE, None, ())}
    p = problem(facts, stand(facts, log), airs, now=now, hours=())
    return p, solve(p, limit_s=limit_s)


def pair_of(lower: Sheet, upper: Sheet) -> Facts:
    """One coat of each on a small part, with its steps planned."""
    part = Part(id="p", name="Part", area_m2=0.2, substrate="bare_steel", condition="", place_id=PLACE)
    layers = tuple(
        Layer(id=f"l{k}", part_id="p", position=k, sheet_id=x.id, target_um=None, tol_um=1.0, coats=1,
              method_id=x.method_id)
        for k, x in enumerate((lower, upper))
    )  # fmt: skip
    sheets = {x.id: x for x in (lower, upper)}
    return make_facts(
        job_id="job", version=1, parts=(part,), layers=layers, sheets=sheets, choices={"steps": PLANNED}
    )


def in_window(p: Problem, lower: Sheet, upper: Sheet, a: Task, b: Task) -> bool:
    """Whether a coat stands in one of the windows of the sheet below it, read straight from the sheet."""
    recoat, air = pick_recoat(lower, upper), p.airs["p"]
    for w in recoat.windows if recoat is not None else ():
        opens = a.end_at + w.from_s
        if w.from_s:
            opens = reach_min(air, sheet_pace(lower, ((w.at_degc, w.from_s),), "min"), a.end_at)
        closes = None
        if w.to_s is not None:
            closes = reach_max(air, sheet_pace(lower, ((w.at_degc, w.to_s),), "max"), a.start_at)
        if opens is not None and opens <= b.start_at and (closes is None or b.start_at <= closes):
            return True
    return False


def look(log: Log, w: Work, at: int, held: bool = True) -> None:
    body: dict[str, Any] = {"part_ids": ["p"], "step": w.log, "check_id": w.key}
    log.add("step_done" if held else "step_failed", at, **body)


def named(name: str) -> int:
    return next(i for i, row in enumerate(PRACTICES) if name in row["name"])


class StepsInThePlan(unittest.TestCase):
    def test_practices_side_by_side_in_one_shop_keep_every_law(self) -> None:
        """Any few of them, on any number of parts alike, with any people and guns, in a working day."""
        rng = random.Random(17)
        hours = tuple((T0 + d * 86400, T0 + d * 86400 + 9 * 3600) for d in range(40))
        for _ in range(14):
            rows = [rng.randrange(len(PRACTICES)) for _ in range(rng.randint(2, 3))]
            p = merge([self.copies(i, f"job{j}", rng.choice((1, 2, 4)), hours) for j, i in enumerate(rows)])
            guns = sorted({t.gun for t in p.tasks.values() if t.gun})
            units = {g: rng.randint(1, 2) for g in guns}
            p = replace(p, painters=rng.randint(1, 3), units=units)
            plan = solve(p, limit_s=0.1)
            self.assertEqual(broken(plan, p), [], ([PRACTICES[i]["name"] for i in rows], p.painters, units))

    def copies(self, i: int, job: str, n: int, hours: tuple[tuple[int, int], ...]) -> Problem:
        """A job of practice `i` on so many parts alike."""
        one = facts_of(i)
        parts = tuple(replace(one.parts[0], id=f"{job}{k}", name=f"{job} {k}") for k in range(n))
        layers = tuple(replace(x, id=f"{p.id}{x.id}", part_id=p.id) for p in parts for x in one.layers)
        facts = make_facts(
            job_id=job, version=1, parts=parts, layers=layers, sheets=one.sheets, choices=dict(one.choices)
        )
        state = replay({facts.id: facts}, {}, Log(facts).entries, AIR, job_id=job)
        airs = {p.id: Timeline(AIR, PLACE, None, ()) for p in parts}
        return problem(facts, state, airs, now=T0, hours=hours)

    def test_every_practice_is_planned_whole_and_in_order(self) -> None:
        for i, row in enumerate(PRACTICES):
            with self.subTest(row["name"]):
                facts = facts_of(i)
                p, plan = planned(facts, Log(facts))
                self.assertEqual(broken(plan, p), [])
                self.assertEqual(plan.conflicts, ())
                keys = {w.key for w in work_of(facts)}
                steps = [t for t in plan.tasks if step_id(t.key) in keys or t.kind == "unmask"]
                listed = [w.step for w in work_of(facts) if w.step not in {"coat", *LEFT_OUT}]
                # What begins together, a can that warms beside the masking, stands as it is listed.
                place = {w: i for i, w in enumerate(listed)}
                steps = sorted(
                    steps, key=lambda t: (t.start_at, place.get(_step(t.key) or t.kind, len(place)))
                )
                names = [_step(t.key) or t.kind for t in steps]
                self.assertEqual(sorted(set(names)), sorted(set(listed)))
                before = listed[: next(k for k, w in enumerate(work_of(facts)) if w.step == "coat")]
                self.assertEqual(list(dict.fromkeys(names))[: len(set(before))], list(dict.fromkeys(before)))

    def test_every_join_of_the_shelf_keeps_its_window_whatever_stands_between(self) -> None:
        """A recoat window runs from coat to coat: a Check the hardener or tape in between opens none."""
        tacky = []
        for lower, upper in itertools.product(SHELF, SHELF):
            recoat = pick_recoat(lower, upper)
            if recoat is None:
                continue
            facts = pair_of(lower, upper)
            works = work_of(facts)
            first = next(i for i, w in enumerate(works) if w.step == "coat")
            between = [w for w in works[first + 1 :] if w.position == 1 and w.step != "coat"]
            if any(w.kind == "abrade" for w in between):
                continue
            p, plan = planned(facts, Log(facts), limit_s=0)
            coats = [t for t in plan.tasks if t.kind == "coat"]
            with self.subTest(f"{lower.material_id} > {upper.material_id}"):
                if all(w.tacky for w in recoat.windows):
                    tacky.append(upper.material_id)
                    self.assertFalse([w.step for w in between if w.kind in ("mask", "try")])
                for a, b in itertools.pairwise(coats):
                    pair = [facts.sheets[facts.layer(read_key(t.key).layer_id).sheet_id] for t in (a, b)]
                    self.assertTrue(in_window(p, *pair, a, b), (a.end_at - T0, b.start_at - T0))
                self.assertTrue(len(coats) == len(facts.layers) or plan.conflicts)
        self.assertIn("liner-3c", tacky)
        self.assertIn("copper-epoxy", tacky)

    def test_bare_metal_is_coated_within_its_clock(self) -> None:
        facts = facts_of(named("three-component liner"), 2.5)
        log = Log(facts)
        p, plan = planned(facts, log)
        self.assertEqual(broken(plan, p), [])
        keyed = max(t.start_at for t in plan.tasks if STEPS.get(_step(t.key)) and _keys(t.key))
        first = min(t.start_at for t in plan.tasks if t.kind == "coat")
        self.assertLessEqual(first - keyed, 4 * 3600)
        # Closed for the night after the abrading: then it is abraded on the next day, with the primer.
        night = replace(p, hours=((T0, T0 + 3 * 3600), (T0 + 14 * 3600, T0 + 40 * 3600)))
        plan = solve(night, limit_s=0.5)
        self.assertEqual(broken(plan, night), [])

    def test_what_is_ticked_is_gone_and_what_fails_comes_again(self) -> None:
        facts = facts_of(named("two-pack liner"))
        works = [w for w in work_of(facts) if w.position == -1]
        log = Log(facts)
        for k, w in enumerate(works):
            look(log, w, 60 * k)
        p, _ = planned(facts, log, T0 + 3600)
        ids = {w.key for w in works}
        self.assertFalse([k for k in p.tasks if step_id(k) in ids])
        abraded = next(w for w in works if w.step == "abrade")
        look(log, abraded, 1800, held=False)
        p, _ = planned(facts, log, T0 + 3600)
        again = [_step(k) for k in p.tasks if step_id(k) in ids]
        # What was wiped before is wiped again; the tape stays where it is.
        self.assertEqual(
            again, ["abrade", *[w.step for w in works[works.index(abraded) + 1 :] if w.step == "wipe"]]
        )
        task = stand(facts, log).next[0]
        self.assertEqual([named_step(k) for k in task.before], again)

    def test_ports_hold_the_coat_and_the_service(self) -> None:
        i = next(i for i, row in enumerate(PRACTICES) if "ports" in row.get("features", ()))
        for steps in (PLANNED, ""):
            facts = facts_of(i, 0.2, steps)
            ports = next(w for w in work_of(facts) if w.step == "ports")
            after = next(w for w in work_of(facts) if w.step == "ports_after")
            log = Log(facts)
            self.assertEqual(stand(facts, log).next[0].must, (ports.name,))
            if not steps:
                p, _ = planned(facts, log)
                self.assertIn(ports.name, next(t.blocked or "" for t in p.tasks.values() if t.kind == "coat"))
            look(log, ports, 60, held=False)
            if steps:
                p, _ = planned(facts, log)
                self.assertIn(
                    "list is complete", next(t.blocked or "" for t in p.tasks.values() if t.kind == "coat")
                )
            look(log, ports, 120)
            self.assertEqual(stand(facts, log).next[0].must, ())
            p, _ = planned(facts, log)
            self.assertFalse([t for t in p.tasks.values() if t.blocked])
            at = 300
            for x in facts.layers:
                for n in range(1, x.coats + 1):
                    at += 7200
                    log.coat(f"{x.id}{n}", "p", x.id, n, at, at + 300)
            self.assertEqual(stand(facts, log).parts[0].must_after, (after.name,))
            look(log, after, at + 90000)
            self.assertEqual(stand(facts, log).parts[0].must_after, ())
            self.assertFalse([f for f in stand(facts, log).findings if f.code == "steps.unticked"])

    def test_the_way_taken_where_painters_differ_shapes_the_list(self) -> None:
        facts = facts_of(named("A wheels"))
        as_is = [w.name for w in work_of(facts) if w.step == "mask_loose"]
        cards = with_way(facts, "wheel_mask", "cards behind the rim")
        self.assertEqual(
            [w.name for w in work_of(cards) if w.step == "mask_loose"], [f"{as_is[0]}: cards behind the rim"]
        )
        none = with_way(facts, "wheel_mask", "none")
        self.assertEqual(
            [w.step for w in work_of(facts) if w.step != "mask_loose"], [w.step for w in work_of(none)]
        )

    def test_a_longer_wait_between_peelable_coats_is_planned_where_it_was_chosen(self) -> None:
        facts = facts_of(named("A mirror caps"), 0.1)
        log = Log(facts)
        long = replace(facts, choices={**facts.choices, "way.peel_waits": "30 min"})
        for f, least in ((facts, 600), (long, 1800)):
            _, plan = planned(f, log if f is facts else Log(f))
            coats = [t for t in plan.tasks if t.kind == "coat"]
            gaps = [b.start_at - a.end_at for a, b in itertools.pairwise(coats)]
            self.assertTrue(all(g >= least for g in gaps), gaps)
            self.assertLess(min(gaps), least + 600)

    def test_filler_is_levelled_before_the_surfacer_and_only_when_it_sands(self) -> None:
        facts = facts_of(named("primer ladder"), 0.1)
        filler = next(x for x in facts.layers if facts.sheets[x.sheet_id].properties.fills)
        sand_s = min(s for _, s in facts.sheets[filler.sheet_id].points_for("sand"))
        log, at = Log(facts), 0
        for x in facts.layers[: filler.position + 1]:
            for n in range(1, x.coats + 1):
                at += 6 * 3600
                log.coat(f"{x.id}{n}", "p", x.id, n, at, at + 120)
        ended = T0 + at + 120
        task = stand(facts, log).next[0]
        self.assertEqual([named_step(k) for k in task.before][:4], ["wipe", *["level"] * 3, "wipe"][:4])
        _, plan = planned(facts, log, ended)
        steps = [t for t in plan.tasks if _step(t.key) in ("wipe", "level")]
        self.assertGreaterEqual(steps[0].start_at, ended + 0.8 * sand_s)
        coat = next(t for t in plan.tasks if t.kind == "coat")
        self.assertGreaterEqual(coat.start_at, steps[2].end_at)
        # Somebody who just goes on is taken at his word: the steps are behind him.
        log.coat("next", "p", read_key(coat.key).layer_id, 1, at + 7200, at + 7300)
        self.assertNotIn("level", [named_step(k) for t in stand(facts, log).next for k in t.before])

    def test_a_long_step_comes_in_stints_that_fit_the_day(self) -> None:
        facts = facts_of(named("G antifouling over old"), 40.0)
        log = Log(facts)
        p, _ = planned(facts, log)
        wash = [t for t in p.tasks.values() if _step(t.key) == "wash"]
        self.assertLessEqual(max(t.duration_s for t in wash), 2 * 3600)
        listed = next(w for w in work_of(facts) if w.step == "wash")
        self.assertGreaterEqual(sum(t.duration_s for t in wash), listed.takes_s)
        day = 24 * 3600
        hours = tuple((T0 + d * day, T0 + d * day + 9 * 3600) for d in range(8))
        plan = solve(replace(p, hours=hours), limit_s=0)
        self.assertEqual([x for x in broken(plan, replace(p, hours=hours)) if "pot" not in x], [])
        look(log, listed, 60)
        p, _ = planned(facts, log)
        self.assertFalse([k for k in p.tasks if _step(k) == "wash"])

    def test_a_lead_test_that_is_positive_ends_the_plan(self) -> None:
        """Positive means licensed removal: common practice, no published source."""
        facts = facts_of(named("E two-pack liner"))
        (part,) = facts.parts
        old = make_facts(
            job_id="job", version=1, parts=(replace(part, substrate="old_lead_paint"),), layers=facts.layers,
            sheets=facts.sheets, choices={"prep": "lead_test", "steps": PLANNED},
        )  # fmt: skip
        test = next(w for w in work_of(old) if w.step == "lead_test")
        log = Log(old)
        self.assertEqual(stand(old, log).next[0].must, (test.name,))
        look(log, test, 60, held=False)
        p, plan = planned(old, log)
        self.assertIn("licensed removal", next(t.blocked or "" for t in p.tasks.values() if t.kind == "coat"))
        self.assertFalse([t for t in plan.tasks if t.kind == "coat"])
        look(log, test, 120)
        p, plan = planned(old, log)
        self.assertTrue([t for t in plan.tasks if t.kind == "coat"])

    @settings(deadline=None, max_examples=60)
    @given(st.lists(st.tuples(st.integers(0, 9), st.booleans()), max_size=25))
    def test_ticks_and_failures_in_any_order(self, taps: list[tuple[int, bool]]) -> None:
        """What stands: the last word on each step, and nothing done on a surface that failed since."""
        works = work_of(facts_of(named("E two-pack liner")))
        told = [(works[k % len(works)], right) for k, right in taps]
        held = tick([(w.key, right) for w, right in told], works)
        for i, w in enumerate(works):
            words = [(n, right) for n, (x, right) in enumerate(told) if x.key == w.key]
            if not words:
                self.assertNotIn(w.key, held)
                continue
            last, right = words[-1]
            under = [
                n
                for n, (x, ok) in enumerate(told)
                if not ok and n > last and x.position == w.position and works.index(x) < i and surface(x)
            ]
            self.assertEqual(held.get(w.key), None if right and under and surface(w) else right)

    def test_coated_without_the_ports_list_stays_on_record(self) -> None:
        facts = facts_of(next(i for i, row in enumerate(PRACTICES) if "ports" in row.get("features", ())))
        log = Log(facts)
        log.coat("c", "p", facts.layers[0].id, 1, 60, 120)
        self.assertIn("steps.unticked", [f.code for f in stand(facts, log).findings])


def surface(w: Work) -> bool:
    return w.step in STEPS and STEPS[w.step].kind in ("clean", "strip", "abrade")


def with_way(facts: Facts, question: str, way: str) -> Facts:
    return make_facts(
        job_id="job", version=1, parts=facts.parts, layers=facts.layers, sheets=facts.sheets,
        choices={**facts.choices, f"way.{question}": way},
    )  # fmt: skip


def step_id(key: str) -> str:
    read = read_key(key)
    return read.step_id if read is not None else ""


def named_step(step_id: str) -> str:
    """The step an id of these lists is of."""
    return step_id.split(".")[0]


def _step(key: str) -> str:
    return named_step(step_id(key))


def _keys(key: str) -> bool:
    return (_step(key) in STEPS and STEPS[_step(key)].kind == "abrade") or _step(key) == "blast"
