"""One plan for the shop: shared, laid out after each entry, explained, asked what if, moved, adopted."""

from __future__ import annotations

import itertools
import uuid
from typing import Any

import icalendar
from django.test import TestCase

from coatlog.core.codec import from_plain
from coatlog.core.plan.plan import SIDE_KINDS, Plan
from coatlog.logbook.models import ClimateReading, LogEntry
from coatlog.run.models import JobProjection, PlanDoc
from coatlog.run.shop_problem import floor_of
from coatlog.shop import clock
from coatlog.shop.models import Place, Shop

from .base import NOW, ShopMixin


class PlanningTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.other = self.make_job(self.owner, self.place, self.sheets)

    def page(self, job: Any) -> dict[str, Any]:
        return self.client.get(f"/api/jobs/{job.pk}").json()

    def tasks(self, job: Any, *, kinds: tuple[str, ...] = ("coat",)) -> list[dict[str, Any]]:
        return [t for t in self.page(job)["plan"]["tasks"] if t["kind"] in kinds]

    def coat(self, job: Any, n: int, layer: int, *, done: bool = True) -> None:
        """Start (and end) a coat now."""
        facts = self.page(job)["facts"]
        ref = {"coat_id": str(uuid.uuid4()), "part_id": facts["parts"][0]["id"],
               "layer_id": facts["layers"][layer]["id"], "n": n}  # fmt: skip
        entries = [self.entry("coat_started", {"coats": [ref], "facts_id": facts["id"]}, job_id=str(job.pk))]
        self.log(entries)
        if done:
            clock.set_now(clock.now() + 300)
            end = self.entry("coat_done", {"coat_ids": [ref["coat_id"]], "draws": []}, job_id=str(job.pk))
            self.log([end])

    def log(self, entries: list[dict[str, Any]]) -> None:
        for e in entries:
            e["at"] = clock.now()
        r = self.post(self.client, "/api/entries", {"sent_at": clock.now(), "entries": entries})
        self.assertEqual({x["result"] for x in r.json()}, {"stored"}, r.content)

    def test_two_jobs_never_want_the_one_painter_at_once(self) -> None:
        rows = JobProjection.objects.filter(job__in=[self.job, self.other])
        tasks = [t for r in rows for t in from_plain(Plan, r.plan).tasks]
        spans = sorted((t.start_at, t.end_at) for t in tasks)
        self.assertEqual({t.job_id for t in tasks}, {str(self.job.pk), str(self.other.pk)})
        self.assertTrue(all(a[1] <= b[0] for a, b in itertools.pairwise(spans)), spans)

    def test_a_bay_for_one_lets_the_second_in_when_the_first_is_dry_to_handle(self) -> None:
        Place.objects.filter(pk=self.place.pk).update(holds=1)
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {})
        first, second = sorted((self.tasks(self.job), self.tasks(self.other)), key=lambda x: x[0]["start_at"])
        self.assertGreater(second[0]["start_at"], first[-1]["end_at"] + 3600)
        job = self.job if second[0]["job_id"] == str(self.job.pk) else self.other
        self.assertIn("Bay 1 is taken until then", self.tasks(job, kinds=("step",))[0]["binds"]["ref"])

    def test_a_late_start_is_told_with_task_wait_and_minutes_and_no_plan_is_made_in_replay(self) -> None:
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {})  # the second job may have moved it
        self.assertEqual(self.page(self.job)["changes"], [])
        docs = PlanDoc.objects.count()
        late = 25 * 60
        clock.set_now(self.tasks(self.job)[0]["start_at"] + late)
        self.coat(self.job, 1, 0)
        changes = self.page(self.job)["changes"]
        liner = next(c for c in changes if "Textured liner coat 1" in c["label"])
        self.assertGreaterEqual(liner["moved_s"], late - 300)
        self.assertIn(f"{round(liner['moved_s'] / 60)} min later", liner["text"])
        self.assertRegex(liner["text"], "waits for|painter on|gun busy|bay")
        self.assertEqual(PlanDoc.objects.count(), docs)
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {})
        self.assertEqual(self.page(self.job)["changes"], [])

    def test_what_if_stores_nothing_and_adopting_it_is_an_entry_of_the_job_that_asked(self) -> None:
        before = (PlanDoc.objects.count(), LogEntry.objects.count())
        wish = {"painters": 2, "objective": "finish"}
        told = self.post(self.client, f"/api/jobs/{self.job.pk}/what-if", wish).json()
        self.assertEqual((PlanDoc.objects.count(), LogEntry.objects.count()), before)
        self.assertLess(told["shop_finish_then"], told["shop_finish_now"])
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {"wishes": wish})
        self.assertEqual((PlanDoc.objects.count(), LogEntry.objects.count()), (before[0] + 1, before[1] + 1))
        adopted = LogEntry.objects.filter(job=self.job, kind="plan_adopted").order_by("-seq").first()
        self.assertEqual(adopted.body["plan_id"], self.page(self.job)["plan"]["id"])
        # The wish outlives the next entry: the reflow still counts on two painters.
        self.coat(self.job, 1, 0)
        self.assertEqual(floor_of(self.shop, clock.now()).problem().painters, 2)

    def test_warm_air_a_faster_hardener_and_a_later_start_show_in_the_finish(self) -> None:
        def finish(**wish: Any) -> int:
            path = f"/api/jobs/{self.job.pk}/what-if"
            return self.post(self.client, path, wish).json()["shop_finish_then"]

        plain = finish()
        self.assertLess(finish(warm_degc=30), plain)
        self.assertLess(finish(hardener="fast"), plain)
        self.assertGreater(finish(hardener="slow"), plain)
        self.assertGreaterEqual(finish(start_at=NOW + 7200), plain + 7000)

    def test_a_coat_put_later_stays_there_and_one_that_cannot_go_is_refused_with_its_reason(self) -> None:
        key = self.tasks(self.job)[0]["key"]
        at = self.tasks(self.job)[0]["start_at"]
        path = f"/api/jobs/{self.job.pk}/move"
        r = self.post(self.client, path, {"task_key": key, "start_at": at + 1800})
        self.assertEqual(r.status_code, 200, r.content)
        self.assertEqual(self.tasks(self.job)[0]["start_at"], at + 1800)
        clock.set_now(NOW + 600)
        self.log([self.entry("note", {"text": "x", "photo_ids": []}, job_id=str(self.job.pk))])
        self.assertEqual(self.tasks(self.job)[0]["start_at"], at + 1800)
        liner = self.tasks(self.job)[1]
        r = self.post(self.client, path, {"task_key": liner["key"], "start_at": at + 1900})
        self.assertEqual(r.status_code, 422)
        self.assertIn(
            "min later at the earliest, waits for Tailgate: Epoxy primer coat 1", r.json()["detail"]
        )
        far = {"task_key": liner["key"], "start_at": at + 40 * 3600}
        r = self.post(self.client, path, far)
        self.assertEqual(r.status_code, 200, r.content)  # the coat below it is pushed along
        primer, moved = self.tasks(self.job)[:2]
        self.assertGreater(primer["start_at"], at + 20 * 3600)
        self.assertEqual(primer["binding"], "later")
        self.assertGreaterEqual(moved["start_at"], at + 40 * 3600)
        r = self.post(self.client, path, {"task_key": "nobody/knows/1", "start_at": at})
        self.assertEqual(r.status_code, 422)

    def test_a_deadline_that_cannot_be_met_names_the_task_and_the_ways_out(self) -> None:
        due = {"due_at": NOW + 3600, "ready_at": None, "slot_at": None}
        self.assertEqual(self.post(self.client, f"/api/jobs/{self.job.pk}/dates", due).status_code, 200)
        conflicts = self.page(self.job)["plan"]["conflicts"]
        self.assertRegex(conflicts[0]["why"], r"Tailgate: unmasking is done \d+ min after the deadline")
        self.assertEqual(self.page(self.other)["plan"]["conflicts"], [])
        Shop.objects.filter(pk=self.shop.pk).update(opens="07:30", closes="18:45")
        due["due_at"] = NOW + 9 * 3600
        self.post(self.client, f"/api/jobs/{self.job.pk}/dates", due)
        ways = self.post(self.client, f"/api/jobs/{self.job.pk}/ways", {}).json()
        self.assertTrue(any(w["text"].startswith("Work") for w in ways), ways)
        self.assertEqual(ways, sorted(ways, key=lambda w: (w["late_s"], w["finish_at"])))
        bad = {"due_at": NOW + 60, "ready_at": NOW + 600, "slot_at": None}
        r = self.post(self.client, f"/api/jobs/{self.job.pk}/dates", bad)
        self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, "due_at"))

    def test_parts_that_come_later_are_planned_from_then_and_as_late_as_the_deadline_allows(self) -> None:
        dates = {"ready_at": NOW + 7200, "due_at": NOW + 11 * 3600, "slot_at": None}
        self.post(self.client, f"/api/jobs/{self.job.pk}/dates", dates)
        first = self.tasks(self.job, kinds=("step", "coat"))[0]
        self.assertGreaterEqual(first["start_at"], NOW + 7200)
        wish = {"wishes": {"objective": "due", "backwards": True}}
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", wish)
        later = self.tasks(self.job, kinds=("step", "coat"))[0]
        self.assertGreater(later["start_at"], first["start_at"] + 1800)
        last = self.tasks(self.job, kinds=("coat", "unmask"))[-1]
        self.assertLessEqual(last["end_at"], NOW + 11 * 3600)

    def test_a_deadline_that_breaks_is_mended_by_another_order_adopted_with_its_reason(self) -> None:
        ends = {j.pk: self.tasks(j, kinds=("coat", "unmask"))[-1]["end_at"] for j in (self.job, self.other)}
        late = max((self.job, self.other), key=lambda j: ends[j.pk])
        dates = {"due_at": min(ends.values()) + 60, "ready_at": None, "slot_at": None}
        self.post(self.client, f"/api/jobs/{late.pk}/dates", dates)
        self.assertEqual(self.page(late)["plan"]["conflicts"], [])
        reasons = LogEntry.objects.filter(job=late, kind="plan_adopted").values_list(
            "body__reason", flat=True
        )
        self.assertIn("a window or a deadline would have been missed", list(reasons))

    def test_a_hand_over_is_a_task_at_its_hour_and_coats_are_dry_to_handle_before_it(self) -> None:
        dates = {"slot_at": NOW + 40 * 3600, "ready_at": None, "due_at": None}
        self.post(self.client, f"/api/jobs/{self.job.pk}/dates", dates)
        (slot,) = self.tasks(self.job, kinds=("slot",))
        self.assertEqual(slot["start_at"], NOW + 40 * 3600)
        last = self.tasks(self.job)[-1]
        self.assertEqual(slot["opens_at"], slot["start_at"])
        self.assertLess(last["end_at"], slot["start_at"])
        clock.set_now(NOW + 39 * 3600)  # nobody came: it cannot be kept any more, and the plan says so
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {})
        self.assertIn("hand-over", self.page(self.job)["plan"]["conflicts"][0]["why"])

    def test_a_hand_over_before_it_is_ready_for_what_it_is_meant_is_refused(self) -> None:
        path = f"/api/jobs/{self.job.pk}/dates"
        last = self.tasks(self.job)[-1]["end_at"]
        early = self.post(self.client, path, {"slot_at": last + 60})
        self.assertEqual((early.status_code, early.json()["errors"][0]["field"]), (422, "slot_at"))
        self.assertIn("later at the earliest, by the plan as it stands", early.json()["detail"])
        # Dry to handle is sooner than hard enough to be loaded: by the sheet, hours against days.
        earliest = {}
        for use in ("handled", "road", "load"):
            r = self.post(self.client, path, {"slot_at": last + 60, "slot_for": use})
            earliest[use] = int(r.json()["errors"][0]["expected"].split()[0])
        self.assertLess(earliest["handled"], earliest["load"])
        self.assertLessEqual(earliest["road"], earliest["load"])
        kept = self.post(self.client, path, {"slot_at": earliest["handled"] + 60, "slot_for": "handled"})
        self.assertEqual(kept.status_code, 200, kept.content)
        self.assertEqual(self.page(self.job)["slot_for"], "handled")
        self.assertEqual(self.page(self.job)["plan"]["conflicts"], [])
        self.assertEqual(self.post(self.client, path, {"slot_at": 1, "slot_for": "fly"}).status_code, 422)

    def test_in_the_open_a_coat_waits_for_the_rain_foretold_to_be_over(self) -> None:
        Place.objects.filter(pk=self.place.pk).update(outdoors=True)
        hour = NOW // 3600 * 3600
        ClimateReading.objects.bulk_create(
            ClimateReading(place=self.place, at=hour + i * 3600, air_degc=18, rh_frac=0.6, wind_m_s=2,
                           rain_mm=1.5 if i < 3 else 0, source="forecast")
            for i in range(60)
        )  # fmt: skip
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {})
        tasks = [t for j in (self.job, self.other) for t in self.tasks(j, kinds=("step", "coat"))]
        mask, coat = (
            min((t for t in tasks if t["kind"] == k), key=lambda t: t["start_at"]) for k in ("step", "coat")
        )
        self.assertLess(mask["start_at"], hour + 2 * 3600)
        self.assertGreaterEqual(coat["start_at"], hour + 3 * 3600)
        self.assertIn("weather", coat["binds"]["ref"])

    def test_a_single_part_that_comes_later_waits_and_the_others_do_not(self) -> None:
        part = self.page(self.job)["facts"]["parts"][0]["id"]
        path = f"/api/jobs/{self.job.pk}/dates"
        r = self.post(self.client, path, {"parts_from": {part: NOW + 5 * 3600}})
        self.assertEqual(r.status_code, 200, r.content)
        mine, others = (self.tasks(j, kinds=("step", "coat")) for j in (self.job, self.other))
        self.assertEqual(mine[0]["start_at"], NOW + 5 * 3600)
        self.assertLess(others[0]["start_at"], NOW + 3600)
        bad = self.post(self.client, path, {"parts_from": {"nobody": NOW}})
        self.assertEqual((bad.status_code, bad.json()["errors"][0]["field"]), (422, "parts_from"))
        self.assertEqual(self.page(self.job)["parts_from"], {part: NOW + 5 * 3600})

    def test_the_calendar_has_every_task_on_a_part_at_its_time(self) -> None:
        r = self.client.get(f"/api/jobs/{self.job.pk}/plan.ics")
        events = icalendar.Calendar.from_ical(r.content).walk("VEVENT")
        want = [t for t in self.page(self.job)["plan"]["tasks"] if t["kind"] not in SIDE_KINDS]
        starts = [int(e["dtstart"].dt.timestamp()) for e in events]
        self.assertEqual(starts, [t["start_at"] for t in want])
        self.assertIn("Tailgate: mask", str(events[0]["summary"]))

    def test_a_viewer_may_look_at_what_if_and_not_plan_move_or_date(self) -> None:
        self.add_member("looker", "viewer")
        client = self.signed_in("looker")
        base = f"/api/jobs/{self.job.pk}"
        self.assertEqual(self.post(client, f"{base}/what-if", {}).status_code, 200)
        move = {"task_key": "x", "start_at": NOW}
        for path, body in (("plan", {}), ("move", move), ("dates", {})):
            self.assertEqual(self.post(client, f"{base}/{path}", body).status_code, 403, path)
