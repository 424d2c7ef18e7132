"""Long surfaces, several people, parts worked alike.  Times: common practice, no published source."""

from __future__ import annotations

import dataclasses
import itertools
import unittest
from typing import Any

from coatlog.core.plan.build_problem import problem
from coatlog.core.plan.plan import Plan, Wishes
from coatlog.core.plan.problem import Problem
from coatlog.core.plan.remedies import ways_out
from coatlog.core.plan.scenario import wished
from coatlog.core.plan.sections import in_sections
from coatlog.core.plan.solver import solve
from coatlog.core.run.entries import Entry
from coatlog.core.run.facts import Facts, Layer, Part, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.run.timeline import Timeline

from .planned import broken
from .samples import PLACE, T0, Log, steady
from .test_stack import S

DAY = 86400
OPENS = T0 - T0 % DAY + DAY + 8 * 3600


def job(parts: list[Part], *layers: tuple[str, int], steps: bool = True) -> Facts:
    sheets = [S[k] for k, _ in layers]
    laid = tuple(
        Layer(id=f"{p.id}{i}", part_id=p.id, position=i, sheet_id=s.id, coats=n, target_um=s.usual_um(n),
              tol_um=10.0, method_id=s.method_id)
        for p in parts for i, (s, (_, n)) in enumerate(zip(sheets, layers, strict=True))
    )  # fmt: skip
    return make_facts(
        job_id="job", version=1, parts=tuple(parts), layers=laid, sheets={s.id: s for s in sheets},
        choices={"steps": "planned"} if steps else {},
    )  # fmt: skip


def part(name: str, area_m2: float, substrate: str, **more: Any) -> Part:
    return Part(id=name, name=name.capitalize(), area_m2=area_m2, substrate=substrate, condition="",
                place_id=PLACE, **more)  # fmt: skip


def to_do(
    facts: Facts, *, painters: int = 1, hours: tuple[int, int] = (8, 17), degc: float = 20.0, **more: Any
) -> Problem:
    climate = steady(degc, hours=24 * 40)
    adopted = Entry(id="a", job_id="job", kind="facts_adopted", at=T0, at_true=T0, device_id="x", n=1, seq=1,
                    body={"facts_id": facts.id})  # fmt: skip
    state = replay({facts.id: facts}, {}, [adopted], climate, job_id="job")
    midnight = OPENS - 8 * 3600
    open_at = [
        (midnight + d * DAY + hours[0] * 3600, midnight + d * DAY + hours[1] * 3600) for d in range(35)
    ]
    airs = {p.id: Timeline(climate, PLACE, p.id, ()) for p in facts.parts}
    return problem(facts, state, airs, now=OPENS, hours=open_at, painters=painters, **more)


def planned(p: Problem) -> Plan:
    return solve(p, limit_s=0.5)


class LongWorkTest(unittest.TestCase):
    HULL = (("epoxy-barrier", 3), ("hard-antifouling", 3))

    def hull(self, area_m2: float = 135.0) -> Facts:
        return job([part("hull", area_m2, "gelcoat", must_survive=("immersion",))], *self.HULL)

    def test_a_hull_of_135_m2_has_a_plan_for_one_person_and_a_shorter_one_for_four(self) -> None:
        """One rolls it in a morning, in several mixes; four do the whole job in half the days."""
        alone, crew = (planned(to_do(self.hull(), painters=n)) for n in (1, 4))
        for n, plan in ((1, alone), (4, crew)):
            self.assertNotEqual(plan.status, "infeasible", plan.conflict)
            self.assertEqual(broken(plan, to_do(self.hull(), painters=n)), [])
        days = [((p.finish_at or 0) - OPENS) / DAY for p in (alone, crew)]
        self.assertTrue(7 < days[0] < 10 and 3 < days[1] < 5, days)
        coats = [[t for t in p.tasks if t.kind == "coat"] for p in (alone, crew)]
        self.assertEqual({len(t.others) for t in coats[1]}, {3})
        # 135 m2 at 0.6 m2 a minute: 225 min alone, a quarter of it side by side, and the time to mix.
        takes_min = (coats[0][0].end_at - coats[0][0].start_at) / 60
        self.assertEqual(takes_min, 225 + 4 * 7, "22 l from 5 l packs: four mixes more, 7 min each")
        mixed = [b.total_ml for b in alone.batches if coats[0][0].key in b.draws]
        self.assertEqual(mixed[:4], [5000.0] * 4)
        self.assertTrue(56 * 60 <= coats[1][0].end_at - coats[1][0].start_at < 62 * 60)

    def test_no_mix_dies_under_the_roller(self) -> None:
        """A pot of 45 min and a coat of four hours: mixed again and again, each used up before it dies."""
        facts = job([part("hull", 135.0, "epoxy_on_steel")], ("copper-epoxy", 2), steps=False)
        p = to_do(facts)
        plan = planned(p)
        self.assertEqual(broken(plan, p), [])
        for coat in (t for t in plan.tasks if t.kind == "coat"):
            mixes = [b for b in plan.batches if coat.key in b.draws]
            self.assertGreaterEqual(len(mixes), 6)
            for b, after in itertools.pairwise(mixes):
                assert b.use_by_at is not None
                self.assertLessEqual(after.mix_at, b.use_by_at, "the next one is there before this one dies")
            # Copper epoxy, 4 l packs, dies too soon for one: marks of the cup, and what is left at the end.
            self.assertTrue(
                all(b.total_ml == mixes[0].total_ml and b.total_ml % 100 == 0 for b in mixes[:-1])
            )
            whole = p.tasks[coat.key].volume_ml
            self.assertAlmostEqual(sum(b.total_ml for b in mixes), whole)

    def test_a_tacky_window_shorter_than_the_coat_is_met_patch_by_patch(self) -> None:
        """Antifouling on epoxy 3 to 6 h old: on a hull that takes 4 h each patch is 4 h old in its turn.

        The log says the same: neither early nor late, whoever rolls both the same way.
        """
        facts = job([part("hull", 135.0, "epoxy_on_steel")], ("epoxy-barrier", 1), ("hard-antifouling", 1),
                    steps=False)  # fmt: skip
        log = Log(facts)
        takes = facts.coat_s(facts.layers[0])
        log.coat("a", "hull", "hull0", 1, 0, takes)
        log.coat("b", "hull", "hull1", 1, takes + 600, 2 * takes + 600)
        state = replay({facts.id: facts}, {}, log.entries, steady(20.0), job_id="job")
        self.assertEqual([f.code for f in state.findings if f.code in ("coat.early", "coat.late")], [])
        small = job([part("hull", 3.0, "epoxy_on_steel")], ("epoxy-barrier", 1), ("hard-antifouling", 1),
                    steps=False)  # fmt: skip
        log = Log(small)
        log.coat("a", "hull", "hull0", 1, 0, 300)
        log.coat("b", "hull", "hull1", 1, 900, 1200)
        state = replay({small.id: small}, {}, log.entries, steady(20.0), job_id="job")
        early = {"coat.early", "coat.on_wet"} & {f.code for f in state.findings}
        self.assertTrue(early, "a small part still waits as a whole")

    def test_what_fits_no_day_says_why_and_what_would(self) -> None:
        p = to_do(self.hull(), hours=(8, 11))
        plan = planned(p)
        self.assertEqual(plan.status, "infeasible")
        self.assertIn("Put 2 people on it, cut it into 2 sections, or work longer that day", plan.conflict)
        self.assertTrue(
            any(t.label.startswith("Hull: wash") for t in plan.tasks), "what can be done is planned"
        )

        def build(w: Wishes) -> Problem:
            people = 1 if w.painters is None else w.painters
            return wished(to_do(self.hull(), hours=(8, 11), painters=people, keyed=w.keyed), w)

        self.assertTrue(ways_out(build, Wishes(), plan), "and a way out is found")

    def test_a_hull_no_day_is_long_enough_for_is_cut_into_sections(self) -> None:
        """One roller on 330 m2: ten hours a coat, and no half is sanded and coated in a day either."""

        def build(w: Wishes) -> Problem:
            return wished(to_do(self.hull(330.0), painters=w.painters or 1, keyed=w.keyed), w)

        plan = planned(build(Wishes()))
        self.assertFalse([w for w in ways_out(build, Wishes(), plan) if w.cut_into], "not where it is begun")
        cut = next(w for w in ways_out(build, Wishes(), plan, whole={"hull": "Hull"}) if w.cut_into)
        self.assertEqual((cut.cut_part_id, cut.cut_into, cut.late_s), ("hull", 3, 0))
        p = in_sections(build(Wishes()), "hull", 3)
        in_three = planned(p)
        self.assertEqual(broken(in_three, p), [])
        self.assertGreaterEqual(cut.finish_at, in_three.finish_at, "told sooner than it is planned")
        # As the survey's own thirds, but for what is washed in one go.
        thirds = [part(f"third{k}", 110.0, "gelcoat", must_survive=("immersion",)) for k in range(3)]
        own = planned(to_do(job(thirds, *self.HULL)))
        self.assertEqual(own.conflict, "")
        self.assertAlmostEqual(
            ((in_three.finish_at or 0) - OPENS) / ((own.finish_at or 0) - OPENS), 1.0, delta=0.2
        )

    def test_a_key_that_does_not_last_is_named_and_given_again(self) -> None:
        """Sanded on Friday, coated on Monday: the key (24 h, assumed) is over, unless it is sanded again."""
        facts = job([part("wing", 1.0, "sound_paint")], ("single-stage-2k", 1))
        p = to_do(facts)
        coat = next(k for k, t in p.tasks.items() if t.kind == "coat")
        late = dataclasses.replace(p, held={coat: OPENS + 3 * DAY})
        abrade = next(k for k, t in p.tasks.items() if t.work == "abrade")
        first = dataclasses.replace(
            late, tasks={k: dataclasses.replace(t, windows=((OPENS, OPENS + DAY),)) if k == abrade else t
                         for k, t in late.tasks.items()})  # fmt: skip
        told = planned(first)
        self.assertIn("comes later than the key under it lasts, 24 h (assumed)", told.conflict)
        again = to_do(facts, keyed=(coat,))
        labels = [t.label for t in planned(again).tasks]
        self.assertLess(labels.index("Wing: sand"), next(i for i, x in enumerate(labels) if "coat 1" in x))

    def test_the_more_people_the_sooner(self) -> None:
        ends = [planned(to_do(self.hull(60.0), painters=n)).finish_at or 0 for n in (1, 2, 3)]
        self.assertEqual(ends, sorted(ends, reverse=True))


class AlikeTest(unittest.TestCase):
    def in_order(self, p: Problem, plan: Plan, part_id: str) -> None:
        """The steps of the list before the first coat, with all before it, in the order of the list."""
        at = {t.key: t for t in plan.tasks}
        first = next(t for t in plan.tasks if t.kind == "coat" and t.part_id == part_id)
        before = [at[k] for k, t in p.tasks.items() if t.kind == "step" and t.work
                  and not t.work.startswith(("unmask", "launch"))]  # fmt: skip
        self.assertTrue(before)
        self.assertEqual([t.label for t in before if t.end_at > first.start_at], [])
        touching = [t for t in before if p.tasks[t.key].work != "look_hardener"]
        for a, b in itertools.pairwise(touching):
            self.assertLessEqual(a.end_at, b.start_at, (a.label, b.label))

    def test_four_wheels_are_washed_at_once_and_sanded_at_once(self) -> None:
        wheels = [part(f"w{i}", 0.15, "sound_paint", set_name="Wheel") for i in range(4)]
        p = to_do(job(wheels, ("base-coat", 2), ("clear-coat-2k", 1)))
        plan = planned(p)
        self.assertEqual(broken(plan, p), [])
        steps = [t for t in plan.tasks if t.kind == "step"]
        self.assertEqual(len([t for t in steps if t.label.startswith("Wheel × 4: wash")]), 1)
        self.assertEqual(len([t for t in plan.tasks if t.kind == "coat"]), 12)
        # Whatever stands before a coat in the list is over before it, on each of them.
        for facts_part in wheels:
            self.in_order(p, plan, facts_part.id)

    def test_a_can_is_warmed_once_and_nobody_stands_by(self) -> None:
        """Three badges from one can: 20 min of warm water once, while they are masked."""
        badges = [part(f"b{i}", 0.02, "glossy_paint") for i in range(3)]
        p = to_do(job(badges, ("gloss-peelable-aerosol", 4)))
        warm = [t for t in p.tasks.values() if t.work == "warm_can"]
        self.assertEqual([(t.hands, t.duration_s) for t in warm], [(0, 1200)])
        self.assertEqual(broken(planned(p), p), [])

    def test_boots_are_both_stripped_and_then_both_sealed(self) -> None:
        boots = [part(x, 1.6, "sealed_rubber") for x in ("left", "right")]
        facts = job(boots, ("boot-sealant", 3))
        facts = make_facts(
            job_id="job", version=1, parts=facts.parts, layers=facts.layers, sheets=facts.sheets,
            choices={**facts.choices, "prep": "strip_sealant"},
        )  # fmt: skip
        p = to_do(facts)
        plan = planned(p)
        stripped = [t for t in plan.tasks if p.tasks.get(t.key) and p.tasks[t.key].work == "strip_sealant"]
        self.assertTrue(stripped)
        self.in_order(p, plan, "left")
        first = min(t.start_at for t in plan.tasks if t.kind == "coat")
        self.assertLessEqual(max(t.end_at for t in stripped), first)

    def test_a_step_ticked_on_one_is_done_on_the_others_alone(self) -> None:
        wheels = [part(f"w{i}", 0.15, "sound_paint") for i in range(3)]
        facts = job(wheels, ("single-stage-2k", 1))
        wash = next(w.key for w in facts.steps_of("w0") if w.step == "wash")
        log = Log(facts)
        log.add("step_done", 0, part_ids=["w0"], step="wash", check_id=wash)
        climate = steady(20.0, hours=240)
        state = replay({facts.id: facts}, {}, log.entries, climate, job_id="job")
        airs = {p.id: Timeline(climate, PLACE, p.id, ()) for p in wheels}
        p = problem(facts, state, airs, now=T0 + 600, hours=[])
        (left,) = [t for t in p.tasks.values() if t.work == "wash"]
        self.assertEqual(left.label, "W1 + W2: wash")


class TapeTest(unittest.TestCase):
    def test_tape_comes_off_soft_or_fully_dry_as_somebody_chose(self) -> None:
        """Gloss peelable: a quarter of an hour after the last coat, or once it is dry."""
        made = job([part("bonnet", 1.2, "sound_paint")], ("gloss-peelable", 4), steps=False)
        dry = dataclasses.replace(made, choices={"way.unmask": "fully dry"})
        waits = []
        for facts in (made, dry):
            p = to_do(facts)
            tape = next(t for t in planned(p).tasks if t.kind == "unmask")
            last = max(t.end_at for t in planned(p).tasks if t.kind == "coat")
            waits.append(tape.start_at - last)
        sheet = next(iter(made.sheets.values()))
        handle = sheet.points_for("handle") or sheet.points_for("touch")
        self.assertLessEqual(waits[0], 1800)
        self.assertGreaterEqual(waits[1], min(s for _, s in handle))
