"""Parts in service: claims, what is due, removal.  Rhythms of copper epoxy: common practice."""

from __future__ import annotations

import dataclasses
import unittest
from typing import Any

from coatlog.core.care_plans import care_of
from coatlog.core.run.facts import make_facts
from coatlog.core.run.in_service import PartService
from coatlog.core.run.replay import replay
from coatlog.core.run.states import JobState
from coatlog.core.run.view import cured_at, next_due_at, view

from .samples import T0, Log, sheet, steady
from .test_films import one_sheet_facts
from .test_stack import S

DAY = 86400
YEAR = 365 * DAY
WARM = steady(23.0)
CARE = [
    {"key": "first", "kind": "check", "what": "First check", "after_s": 18 * DAY},
    {"key": "brush", "kind": "clean", "what": "Brush", "after_s": 14 * DAY, "every_s": 14 * DAY},
]


class ServiceTest(unittest.TestCase):
    def setUp(self) -> None:
        hull = sheet("copper", care=CARE, claim={"life_s": 10 * YEAR, "text": "about ten years"})
        self.log = Log(one_sheet_facts(hull, coats=1, areas=(1.0, 2.0)))
        for i in (0, 1):
            self.log.coat(f"c{i}", f"p{i}", f"p{i}a", 1, 600 * i, 600 * i + 500)

    def state(self) -> JobState:
        return replay({self.log.facts.id: self.log.facts}, {}, self.log.entries, WARM)

    def add(self, day: float, kind: str, **body: Any) -> None:
        self.log.add(kind, round(day * DAY), part_ids=["p0"], **body)

    def service(self) -> PartService:
        return self.state().service[0]

    def due_days(self) -> dict[str, float | None]:
        return {d.key: None if d.due_at is None else (d.due_at - T0) / DAY for d in self.service().due}

    def test_due_counts_from_service_then_from_when_it_was_done(self) -> None:
        self.assertEqual(self.state().service, ())
        self.add(3, "in_service")
        self.assertEqual(self.due_days(), {"brush": 17, "first": 21})
        self.add(16, "cleaned", care_key="brush")  # a day early: the rhythm goes on from there
        self.assertEqual(self.due_days(), {"first": 21, "brush": 30})
        self.add(40, "inspected", care_key="first", ratings=[{"scale_id": "look", "value": 4}])
        self.assertEqual(self.due_days(), {"brush": 30, "first": None})
        self.assertEqual([(i.rating, (i.at - T0) / DAY) for i in self.service().inspections], [(4, 40)])
        self.assertEqual(next_due_at(self.state()), T0 + 30 * DAY)

    def test_a_look_at_the_whole_part_answers_the_looks_that_are_due_and_nothing_else(self) -> None:
        """At a haul-out one look is all the looks; a brush or a torque wrench it is not."""
        self.add(3, "in_service")
        self.add(8, "inspected", ratings=[{"scale_id": "look", "value": 5}], photo_ids=["ab"])
        self.assertEqual(self.due_days(), {"brush": 17, "first": 21})  # not a week after launching
        self.add(18, "inspected", note="slime at the waterline")
        self.assertEqual(self.due_days(), {"brush": 17, "first": None})
        self.add(19, "cleaned", care_key="brush", how="soft brush")
        told = self.service()
        self.assertEqual(
            [(c.care_key, c.how, (c.at - T0) / DAY) for c in told.cleanings], [("brush", "soft brush", 19)]
        )
        self.assertEqual([i.photo_ids for i in told.inspections], [("ab",), ()])

    def test_every_finish_asks_for_something_and_a_primer_for_its_finish(self) -> None:
        """Common practice, no published source: what is looked at is what fails first on such a finish."""
        told = {}
        for s in S.values():
            cares, usual = care_of(s)
            self.assertTrue(cares, s.material_id)
            self.assertEqual(usual, not s.care, s.material_id)
            self.assertEqual(len({c.key for c in cares}), len(cares), s.material_id)
            told[s.material_id] = {(c.what.split()[0], c.every_s and c.every_s // DAY) for c in cares}
        self.assertEqual(told["epoxy-primer-2k"], {("No", 14)})
        self.assertIn(("Wipe", 60), told["silicone-foul-release"])
        self.assertEqual(told["wheel-ceramic"], {("Bead", 180)})
        inside, _ = care_of(S["tank-lining"])
        self.assertIn("nobody goes in", inside[0].what)
        unknown = dataclasses.replace(sheet("own"), purpose=None, care=())
        self.assertEqual([c.what for c in care_of(unknown)[0]], ["Look at edges, joints and stone chips"])

    def test_what_is_only_usual_stands_with_its_job_and_calls_nobody(self) -> None:
        """Common practice: no shop calls back every car it has painted."""
        plain = sheet("enamel", care=[])
        self.log = Log(one_sheet_facts(plain, coats=1, areas=(1.0,)))
        self.log.coat("c0", "p0", "p0a", 1, 0, 500)
        self.add(3, "in_service")
        self.assertEqual([(d.usual, (d.due_at - T0) // DAY) for d in self.service().due], [(True, 183)])
        self.assertIsNone(next_due_at(self.state()))

    def test_the_sheet_claims_unless_the_shop_promised_something_else(self) -> None:
        self.add(3, "in_service")
        self.assertEqual(self.service().claim_until_at, T0 + 3 * DAY + 10 * YEAR)
        self.log.entries.pop()
        self.add(3, "in_service", claim={"life_s": YEAR, "text": "one season"})
        told = self.service()
        self.assertEqual((told.claim_until_at, told.claim_text), (T0 + 3 * DAY + YEAR, "one season"))

    def test_stripped_it_ends_is_due_no_more_and_asks_for_no_coat(self) -> None:
        self.add(3, "in_service")
        self.add(100, "inspected", ratings=[{"scale_id": "look", "value": 1}], note="flakes")
        self.log.add("coat_removed", 101 * DAY, coat_ids=["c0"], how="stripped", was="failed")
        state = self.state()
        told = state.service[0]
        self.assertEqual(
            ((told.ended_at - T0) / DAY, told.ended_how, told.ended_was), (101, "stripped", "failed")
        )
        self.assertEqual({d.due_at for d in told.due}, {None})
        self.assertFalse([t for t in state.next if t.part_id == "p0"])
        now = T0 + 200 * DAY
        self.assertIsNotNone(cured_at(state))
        self.assertFalse(view(state, now).live)

    def test_coated_again_it_may_go_into_service_again(self) -> None:
        self.add(3, "in_service")
        self.log.add("coat_removed", 50 * DAY, coat_ids=["c0"], how="peeled", was="sound")
        self.log.coat("c9", "p0", "p0a", 1, 51 * DAY, 51 * DAY + 500)
        self.add(54, "in_service")
        lives = [x for x in self.state().service if x.part_id == "p0"]
        self.assertEqual([(x.in_service_at - T0) / DAY for x in lives], [3, 54])
        self.assertIsNone(lives[1].ended_at)

    def test_what_is_said_of_a_part_not_in_service_is_flagged(self) -> None:
        self.add(2, "inspected", ratings=[{"scale_id": "look", "value": 4}])
        self.add(3, "in_service")
        self.add(4, "in_service")
        reasons = [x.reason for x in self.state().ledger if x.outcome == "flagged"]
        self.assertEqual(reasons, ["not in service", "already in service"])


class BareMetalTest(unittest.TestCase):
    def test_abraded_steel_is_open_for_four_hours_then_abraded_again(self) -> None:
        """Steel primed within 4 h of abrading: common practice, no published source."""
        facts = one_sheet_facts(sheet("primer"), coats=1)
        steel = tuple(dataclasses.replace(p, substrate="bare_steel") for p in facts.parts)
        facts = make_facts(job_id="job", version=1, parts=steel, layers=facts.layers, sheets=facts.sheets)
        log = Log(facts)

        def closes() -> int | None:
            return replay({facts.id: facts}, {}, log.entries, WARM).next[0].closes_at

        self.assertIsNone(closes())
        log.add("step_done", 0, part_ids=["p0"], step="abrade")
        self.assertEqual(closes(), T0 + 4 * 3600)
        log.add("step_done", 9 * 3600, part_ids=["p0"], step="abrade")
        self.assertEqual(closes(), T0 + 13 * 3600)
