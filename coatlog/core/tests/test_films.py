"""Films, windows and batches as the shop meets them.  Trade facts: common practice, no published source."""

from __future__ import annotations

import unittest
from typing import Any

from coatlog.core.run.facts import Facts, Layer, Part, make_facts
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState, Span
from coatlog.core.run.view import View, cured_at, view
from coatlog.core.sheet import Sheet

from .samples import PLACE, T0, Log, sheet, steady, two_layer_facts

WARM = steady(23.0)


def state_of(log: Log, *more: Facts) -> JobState:
    return replay({f.id: f for f in (log.facts, *more)}, {"plan": None}, log.entries, WARM)


def one_sheet_facts(s: Sheet, *, coats: int, areas: tuple[float, ...] = (1.0,), version: int = 1) -> Facts:
    """Parts with `coats` of one sheet."""
    parts = tuple(
        Part(id=f"p{i}", name=f"Part {i}", area_m2=a, substrate="sound_paint", condition="", place_id=PLACE)
        for i, a in enumerate(areas)
    )
    layers = tuple(
        Layer(id=f"{p.id}a", part_id=p.id, position=0, sheet_id=s.id, target_um=50.0 * coats, tol_um=5.0,
              coats=coats, method_id="spray_gun")
        for p in parts
    )  # fmt: skip
    return make_facts(job_id="job", version=version, parts=parts, layers=layers, sheets={s.id: s})


def with_windows(*windows: dict[str, Any], **over: Any) -> Sheet:
    return sheet("w", recoat=[{"next": "same", "windows": [{"at_degc": 23.0, **w} for w in windows], **over}])


def words(spans: tuple[Span, ...]) -> list[tuple[str, int]]:
    return [(s.word, s.from_at - T0) for s in spans]


class DoubtfulTest(unittest.TestCase):
    def test_a_film_many_times_the_plan_is_flagged_and_a_thick_one_is_not(self) -> None:
        for um, doubtful in ((60.0, False), (190.0, False), (900.0, True), (9.0, True)):
            facts = two_layer_facts()
            log = Log(facts)
            log.coat("c", "p0", "p0a", 1, 0, 300)
            log.add("film_read", 4000, part_id="p0", what="dry_total", um=[um])
            found = replay({facts.id: facts}, {}, log.entries, steady(22.0)).findings
            self.assertEqual("film.doubtful" in {f.code for f in found}, doubtful, um)


class WindowTest(unittest.TestCase):
    def spans(self, s: Sheet) -> list[tuple[str, int]]:
        log = Log(one_sheet_facts(s, coats=3))
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        return words(state_of(log).parts[0].films[0].spans)

    def test_only_while_tacky_then_again_once_fully_dry(self) -> None:
        """A boot sealant: overlap wet or fully dry, never tacky."""
        s = with_windows({"from_s": 0, "to_s": 900, "tacky": True}, {"from_s": 7200, "to_s": None})
        dry = 300 + 7200
        self.assertEqual(
            self.spans(s),
            [("wet", 0), ("open_tacky", 300), ("flash", 900), ("open", dry)],
        )

    def test_a_glass_coating_is_reworked_thirty_seconds_later_while_wet(self) -> None:
        s = with_windows({"from_s": 30, "to_s": 600, "tacky": True})
        # The whole window is shorter than the next coat's lead: it is closing from the start.
        self.assertEqual(self.spans(s), [("wet", 0), ("closing_tacky", 330), ("over_age", 600)])

    def test_closing_is_the_last_quarter_at_most_two_hours_at_least_the_next_coats_lead(self) -> None:
        for to_s, expected in ((40_000, 40_000 - 7200), (8000, 8000 - (8000 - 2100) // 4), (2400, None)):
            facts = one_sheet_facts(with_windows({"from_s": 1800, "to_s": to_s}), coats=2)
            log = Log(facts)
            log.coat("c1", "p0", "p0a", 1, 0, 300)
            spans = dict(words(state_of(log).parts[0].films[0].spans))
            lead = facts.lead_s(facts.layers[0])
            if expected is None:
                expected = max(2100, to_s - lead)
            self.assertAlmostEqual(spans["closing"], expected, delta=1, msg=to_s)

    def test_a_window_that_closes_before_it_opens_is_never_open(self) -> None:
        self.assertEqual(self.spans(with_windows({"from_s": 3600, "to_s": 3700}))[-1], ("over_age", 3700))

    def test_no_maximum_means_open_without_end(self) -> None:
        self.assertEqual(self.spans(with_windows({"from_s": 900, "to_s": None}))[-1], ("open", 1200))

    def test_a_silent_sheet_is_wet_for_a_third_of_its_first_minimum_and_says_assumed(self) -> None:
        quiet = sheet(
            "quiet",
            points=[{"gate": "full", "at_degc": 23.0, "s": 86400}],
            recoat=[{"next": "same", "windows": [{"from_s": 1800, "to_s": None, "at_degc": 23.0}]}],
        )
        log = Log(one_sheet_facts(quiet, coats=2))
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        wet, flash, *_ = state_of(log).parts[0].films[0].spans
        self.assertEqual((flash.from_at - T0, wet.why.kind), (300 + 600, "assumed"))

    def test_three_coats_half_an_hour_apart_open_one_after_another(self) -> None:
        log = Log(one_sheet_facts(with_windows({"from_s": 1800, "to_s": None}), coats=3))
        at = 0
        for n in (1, 2):
            log.coat(f"c{n}", "p0", "p0a", n, at, at + 300)
            at += 300 + 1800
            self.assertEqual(state_of(log).next[0].opens_at - T0, at)


class WipeOffTest(unittest.TestCase):
    """What did not soak in comes off before it sets: on in ten minutes, off within forty of its start."""

    def then_page(self, *parts_begun_s: int, now_s: int) -> View:
        s = sheet(
            "dye", then=[{"step": "wipe off", "from_s": 600, "to_s": 2400, "at_degc": 23.0, "takes_s": 240}]
        )
        log = Log(one_sheet_facts(s, coats=1, areas=(1.0,) * len(parts_begun_s)))
        for i, begun_s in enumerate(parts_begun_s):
            log.coat(f"c{i}", f"p{i}", f"p{i}a", 1, begun_s, begun_s + 300)
        self.log = log
        return view(state_of(log), T0 + now_s)

    def test_it_opens_after_the_coats_end_closes_after_its_start_and_is_over_once_done(self) -> None:
        (task,) = self.then_page(0, now_s=400).next
        at = [task.opens_at - T0, task.latest_start_at - T0, task.closes_at - T0]
        self.assertEqual((task.kind, task.steps, at), ("then", ("wipe off",), [900, 2160, 2400]))
        self.log.add("step_done", 1000, part_ids=["p0"], step="wipe off")
        self.assertNotIn("then", [t.kind for t in state_of(self.log).next])

    def test_what_can_still_be_saved_goes_before_what_was_left_too_long(self) -> None:
        tasks = self.then_page(0, 2000, now_s=3000).next
        self.assertEqual([t.part_id for t in tasks], ["p1", "p0"])


class SlotTest(unittest.TestCase):
    def test_a_coat_taken_off_leaves_its_slot_to_the_next(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=2))
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        log.coat("c2", "p0", "p0a", 2, 3000, 3300)
        self.assertEqual(state_of(log).next, ())
        log.add("coat_removed", 4000, coat_ids=["c1"], how="sanded")
        state = state_of(log)
        self.assertEqual([(f.coat_id, f.n) for f in state.parts[0].films], [("c2", 1)])
        self.assertEqual(state.next[0].n, 2)

    def test_one_coat_more_in_new_facts_keeps_the_films_and_reopens_the_part(self) -> None:
        s = sheet("a")
        first, second = one_sheet_facts(s, coats=1), one_sheet_facts(s, coats=2, version=2)
        log = Log(first)
        log.coat("c1", "p0", "p0a", 1, 0, 300)
        self.assertEqual(state_of(log, second).parts[0].due_layer_id, None)
        log.add("facts_adopted", 600, facts_id=second.id, reason="thin at the edge")
        state = state_of(log, second)
        self.assertEqual(
            (state.facts_id, state.parts[0].due_layer_id, state.next[0].n), (second.id, "p0a", 2)
        )
        self.assertEqual(len(state.parts[0].films), 1)

    def test_what_the_log_cannot_explain_is_set_aside_with_its_reason(self) -> None:
        log = Log(two_layer_facts())
        log.add("coat_done", 10, coat_ids=["ghost"])
        ref = {"coat_id": "c", "part_id": "p0", "layer_id": "nowhere", "n": 1}
        log.add("coat_started", 20, coats=[ref], facts_id=log.facts.id)
        log.add("facts_adopted", 30, facts_id="unknown")
        log.add("from_the_future", 40, x=1)
        log.add("pour", 50, batch_id="b")
        state = state_of(log)
        outcomes = [(x.outcome, x.reason) for x in state.ledger]
        self.assertEqual(outcomes[0], ("applied", ""))
        self.assertEqual(outcomes[2], ("flagged", "no such part and layer in this job"))
        self.assertEqual(outcomes[3], ("flagged", "unknown version of the coating system"))
        self.assertEqual(outcomes[4][0], "unknown_kind")
        self.assertEqual(outcomes[5], ("flagged", "malformed: body.sheet_id"))
        self.assertIn("log.no_start", {f.code for f in state.findings})

    def test_a_start_without_an_end_is_ended_by_the_next_and_flagged(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=2))
        log.coat("c1", "p0", "p0a", 1, 0, None)
        log.coat("c2", "p0", "p0a", 2, 3000, 3300)
        state = state_of(log)
        self.assertEqual(state.parts[0].films[0].done_at - T0, 3000)
        self.assertIn("log.no_end", {f.code for f in state.findings})

    def test_pause_and_resume_show_and_move_no_clock(self) -> None:
        log = Log(two_layer_facts())
        log.coat("c1", "p0", "p0a", 1, 0, None)
        log.add("coat_paused", 60, coat_id="c1", why="phone")
        self.assertTrue(state_of(log).parts[0].films[0].paused)
        log.add("coat_resumed", 120, coat_id="c1")
        self.assertFalse(state_of(log).parts[0].films[0].paused)
        self.assertEqual(view(state_of(log), T0 + 130).running, ("c1",))


class BatchTest(unittest.TestCase):
    def mixed(self, log: Log, ml: float = 1000.0) -> None:
        sheet_id = log.facts.layers[0].sheet_id
        for i, (role, share) in enumerate((("base", 0.8), ("hardener", 0.2))):
            log.add("pour", i, batch_id="b", sheet_id=sheet_id, component=role, ml=share * ml)
        parts = [{"role": "base", "ml": 0.8 * ml}, {"role": "hardener", "ml": 0.2 * ml}]
        log.add("batch_mixed", 2, batch_id="b", sheet_id=sheet_id, parts=parts, hardener_in_at=T0 + 1)

    def test_one_tap_for_four_wheels_shares_the_draw_by_area(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=1, areas=(0.2, 0.2, 0.4, 0.2)))
        self.mixed(log)
        refs = [{"coat_id": f"c{i}", "part_id": f"p{i}", "layer_id": f"p{i}a", "n": 1} for i in range(4)]
        log.add("coat_started", 100, coats=refs, facts_id=log.facts.id, batch_ids=["b"])
        log.add(
            "coat_done", 400, coat_ids=[r["coat_id"] for r in refs], draws=[{"batch_id": "b", "ml": 200.0}]
        )
        state = state_of(log)
        films = [p.films[0].dry_um.likely for p in state.parts]
        self.assertEqual(len(set(films)), 1, "the same film on every wheel")
        self.assertAlmostEqual(films[0], 200 * 0.6 * 0.65 / 1.0, places=2)
        self.assertEqual(state.batches[0].left_ml, 800.0)

    def test_a_coat_nobody_measured_takes_what_was_planned(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=1))
        self.mixed(log)
        ref = {"coat_id": "c", "part_id": "p0", "layer_id": "p0a", "n": 1}
        log.add("coat_started", 100, coats=[ref], facts_id=log.facts.id, batch_ids=["b"])
        log.add("coat_done", 400, coat_ids=["c"])
        self.assertAlmostEqual(state_of(log).batches[0].left_ml, 1000 - 50 / 0.6 / 0.65, delta=0.1)

    def test_a_struck_pour_is_not_in_the_cup_and_a_closed_batch_has_no_clock(self) -> None:
        log = Log(one_sheet_facts(sheet("a"), coats=1))
        sheet_id = log.facts.layers[0].sheet_id
        slip = log.add("pour", 0, batch_id="b", sheet_id=sheet_id, component="base", ml=900.0)
        log.add("strike", 5, target_id=slip.id, reason="wrong can")
        log.add("pour", 10, batch_id="b", sheet_id=sheet_id, component="base", ml=800.0)
        log.add("pour", 20, batch_id="b", sheet_id=sheet_id, component="hardener", scale_g=1320.0)
        (batch,) = state_of(log).batches
        self.assertEqual([(p.role, p.ml) for p in batch.poured], [("base", 800.0), ("hardener", 200.0)])
        self.assertIn("pot", {c.kind for c in state_of(log).clocks})
        log.add("batch_closed", 30, batch_id="b", why="thrown")
        self.assertNotIn("pot", {c.kind for c in state_of(log).clocks})


class ViewTest(unittest.TestCase):
    def test_the_most_urgent_comes_first_and_a_finished_job_says_when(self) -> None:
        facts = two_layer_facts(part_count=2, liner_coats=1)
        log = Log(facts)
        log.coat("a1", "p0", "p0a", 1, 0, 300)
        log.coat("b1", "p1", "p1a", 1, 6000, 6300)
        seen = view(state_of(log), T0 + 12000)
        self.assertEqual([t.part_id for t in seen.next], ["p0", "p1"])
        self.assertEqual(seen.latest_start_at, seen.next[0].latest_start_at)
        self.assertEqual(cured_at(state_of(log)), None)
        log.coat("a2", "p0", "p0b", 1, 13000, 13300)
        log.coat("b2", "p1", "p1b", 1, 14000, 14300)
        done = cured_at(state_of(log))
        assert done is not None
        self.assertEqual({p.state for p in view(state_of(log), done).parts}, {"cured"})
        self.assertIn("curing", {p.state for p in view(state_of(log), done - 1).parts})

    def test_tape_off_ends_the_unmask_clock(self) -> None:
        log = Log(two_layer_facts(liner_coats=1))
        log.coat("a1", "p0", "p0a", 1, 0, 300)
        log.coat("a2", "p0", "p0b", 1, 5000, 5300)
        (clock,) = (c for c in state_of(log).clocks if c.kind == "unmask")
        self.assertEqual((clock.opens_at - T0, clock.closes_at - T0), (5300 + 3960, 5000 + 14400))
        self.assertEqual(state_of(log).next[0].kind, "unmask")
        log.add("unmasked", 10000, part_ids=["p0"], result="ragged")
        state = state_of(log)
        self.assertEqual((state.next, [c for c in state.clocks if c.kind == "unmask"]), ((), []))
        self.assertIn("edge.ragged", {f.code for f in state.findings})
