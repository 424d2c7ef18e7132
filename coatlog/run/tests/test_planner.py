"""The planner beside the web server: what a full shop's taps and questions come to, and a killed worker."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from typing import Any
from unittest import mock

from django.conf import settings
from django.db import connection
from django.test import TestCase, TransactionTestCase
from procrastinate.contrib.django.models import ProcrastinateJob

from coatlog.core.run.facts import PLANNED
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.logbook.models import LogEntry
from coatlog.run import plan_queue, reflow, services, tasks
from coatlog.run.models import JobProjection, PlanAsk
from coatlog.shop import clock
from coatlog.shop.models import Member

from .base import NOW, ShopMixin
from .worker import do_what_waits


class FullMixin(ShopMixin):
    """Any shop with something to do is a full one here."""

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(mock.patch.stopall)
        self.client = self.signed_in("owner1")
        self.fill(self.job)

    def fill(self, job: Job) -> None:
        self.post(self.client, f"/api/jobs/{job.pk}/plan", {})
        mock.patch.object(plan_queue, "INLINE_TASKS", 0).start()

    def page(self, job: Job | None = None) -> dict[str, Any]:
        return self.client.get(f"/api/jobs/{(job or self.job).pk}").json()


class PlannerTest(FullMixin, TestCase):
    def test_a_tap_lays_out_nothing_takes_off_what_is_done_and_the_plan_follows(self) -> None:
        first = self.page()["plan"]["tasks"]
        with mock.patch.object(reflow, "stood") as laid, mock.patch.object(reflow, "solve") as solved:
            self.assertEqual(self.send(self.client, self.start_entry())[0]["result"], "stored")
            page = self.page()
        self.assertEqual((laid.call_count, solved.call_count), (0, 0))
        self.assertEqual(page["planning_since"], NOW)
        going = [t for t in page["plan"]["tasks"] if t["locked"]]
        self.assertEqual([(t["kind"], t["start_at"]) for t in going], [("coat", NOW)])
        self.assertLess(len(page["plan"]["tasks"]), len(first), "the mixing for it is done")
        self.assertEqual(do_what_waits(), 1)
        page = self.page()
        self.assertIsNone(page["planning_since"])
        self.assertEqual(page["plan"]["made_at"], NOW)
        rest = {t["key"] for t in page["plan"]["tasks"] if t["kind"] == "coat"}
        self.assertEqual(rest, {t["key"] for t in first if t["kind"] == "coat"})

    def test_many_taps_are_one_plan_and_what_came_in_meanwhile_is_not_overwritten(self) -> None:
        self.send(self.client, self.start_entry())
        for i in range(3):
            air = {"place_id": str(self.place.pk), "air_degc": 20.0 + i, "rh_frac": 0.5}
            self.send(self.client, self.entry("climate_read", air))
        self.assertEqual(ProcrastinateJob.objects.filter(status="todo").count(), 1)
        late = self.entry("note", {"text": "a run at the hinge", "photo_ids": []})
        real = reflow.laid_from_now

        def slow(*args: Any) -> Any:
            self.send(self.client, late)
            return real(*args)

        before = JobProjection.objects.get(job=self.job).plan
        with mock.patch.object(reflow, "laid_from_now", slow):
            do_what_waits()
        self.assertEqual(JobProjection.objects.get(job=self.job).plan, before)

    def test_what_is_asked_is_answered_later_and_only_to_who_asked(self) -> None:
        base = f"/api/jobs/{self.job.pk}"
        key = next(t["key"] for t in self.page()["plan"]["tasks"] if t["kind"] == "coat")
        asks = {
            "plan": self.post(self.client, f"{base}/plan", {"wishes": {"objective": "mixes"}}),
            "what_if": self.post(self.client, f"{base}/what-if", {"painters": 2}),
            "ways": self.post(self.client, f"{base}/ways", {}),
            "move": self.post(self.client, f"{base}/move", {"task_key": key, "start_at": NOW + 7200}),
            "again": self.post(self.client, f"{base}/move", {"task_key": "gone", "start_at": NOW + 7200}),
        }
        self.assertEqual({r.status_code for r in asks.values()}, {202})
        self.assertEqual(LogEntry.objects.filter(kind="plan_adopted").count(), 2)
        asked = {k: f"/api/plan-asks/{r.json()['ask_id']}" for k, r in asks.items()}
        self.assertEqual(self.client.get(asked["plan"]).json()["state"], "waiting")
        do_what_waits()
        told = {k: self.client.get(path) for k, path in asked.items()}
        self.assertEqual(told["move"].status_code, 404, "forgotten: the same was asked anew before it began")
        self.assertEqual(told["plan"].json()["plan"]["plan"]["wishes"]["objective"], "mixes")
        self.assertIsNotNone(told["what_if"].json()["what_if"]["then"])
        self.assertEqual(told["ways"].json()["ways"], [])
        refused = told["again"].json()
        self.assertEqual(
            (refused["state"], refused["refusal"]), ("refused", "That task is no longer in the schedule.")
        )
        self.assertEqual(LogEntry.objects.filter(kind="plan_adopted").count(), 3)
        self.add_member("mate", Member.PAINTER)
        self.assertEqual(self.signed_in("mate").get(asked["plan"]).status_code, 404)

    def test_a_question_is_dropped_when_its_page_has_gone_and_what_is_to_stand_is_not(self) -> None:
        """Who walks through ten jobs leaves ten questions behind: they hold up nobody's plan."""
        base = f"/api/jobs/{self.job.pk}"
        asks = [self.post(self.client, f"{base}/{path}", {}).json()["ask_id"] for path in ("ways", "plan")]
        self.add_member("mate", Member.PAINTER)
        for client in (self.signed_in("mate"), self.client):
            before = PlanAsk.objects.count()
            self.assertEqual({client.delete(f"/api/plan-asks/{a}").status_code for a in asks}, {204})
        self.assertEqual((before, PlanAsk.objects.get().kind), (2, "plan"), "one's own only")
        do_what_waits()
        self.assertEqual(self.client.get(f"/api/plan-asks/{asks[1]}").json()["state"], "answered")

    def test_a_new_job_is_there_at_once_and_planned_later(self) -> None:
        job = services.start_job(self.owner, lambda: second_job(self))
        self.assertEqual(self.page(job)["planning_since"], NOW)
        self.assertIsNone(self.page(job)["plan"])
        do_what_waits()
        page = self.page(job)
        self.assertTrue(page["plan"]["tasks"])
        self.assertIsNone(page["planning_since"])
        self.assertEqual(LogEntry.objects.filter(job=job, kind="plan_adopted").count(), 1)

    def test_a_plan_that_grew_old_is_wanted_by_the_minute_and_by_no_page(self) -> None:
        clock.set_now(NOW + 4 * 3600)
        with mock.patch.object(reflow, "stood") as laid:
            self.page()
            self.client.get("/api/now")
        self.assertEqual((laid.call_count, do_what_waits()), (0, 0))
        tasks.each_minute(timestamp=clock.now())
        self.assertEqual(do_what_waits(), 1)
        self.assertTrue(all(t["start_at"] >= clock.now() for t in self.page()["plan"]["tasks"]))


def second_job(case: Any) -> Any:
    parts = [PartDraft(name=n, area_m2=1.0, substrate="bare_steel") for n in ("Door", "Wing")]
    layers = [
        LayerDraft(sheet_id=case.sheets["epoxy-primer-2k"].id, coats=1, target_um=50.0),
        LayerDraft(sheet_id=case.sheets["textured-liner-2k"].id, coats=2, target_um=700.0),
    ]
    return create_job(
        case.owner, title="Bed two", asset_name="Van", asset_kind="road", place_id=case.place.pk,
        parts=parts, layers=layers, choices={"steps": PLANNED}, now=clock.now(),
    )  # fmt: skip


class KilledWorkerTest(FullMixin, TransactionTestCase):
    """The real worker, on the clock of the wall."""

    def worker(self) -> subprocess.Popen[bytes]:
        at = connection.settings_dict
        url = f"postgres://{at['USER']}:{at['PASSWORD']}@{at['HOST']}:{at['PORT']}/{at['NAME']}"
        made = subprocess.Popen(
            [sys.executable, str(settings.BASE_DIR / "manage.py"), "work"],
            env={**os.environ, "DATABASE_URL": url},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(lambda: (made.kill(), made.wait()))
        return made

    def wait(self, what: Callable[[], bool], most_s: float = 40) -> None:
        until = time.monotonic() + most_s
        while not what():
            self.assertLess(time.monotonic(), until, "it did not come to that")
            time.sleep(0.02)

    def test_killed_in_mid_plan_loses_nothing(self) -> None:
        clock.release()
        services.start_job(self.owner, lambda: second_job(self))
        asked = self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {"wishes": {"painters": 2}}).json()
        self.assertEqual(PlanAsk.objects.filter(done_at=None).count(), 2)
        first = self.worker()
        self.wait(
            lambda: ProcrastinateJob.objects.filter(status="doing", task_name__endswith="answer_ask").exists()
        )
        first.send_signal(signal.SIGKILL)
        first.wait()
        self.assertTrue(PlanAsk.objects.filter(done_at=None).exists())
        self.worker()
        self.wait(lambda: not PlanAsk.objects.filter(done_at=None).exists())
        self.wait(lambda: plan_queue.waits_since(self.shop) is None)
        told = self.client.get(f"/api/plan-asks/{asked['ask_id']}").json()
        self.assertEqual((told["state"], told["plan"]["plan"]["wishes"]["painters"]), ("answered", 2))
        rows = JobProjection.objects.filter(job__shop=self.shop)
        self.assertTrue(all(r.plan["tasks"] for r in rows))
        jobs = Job.objects.filter(shop=self.shop)
        adopted = sorted(j.entries.filter(kind="plan_adopted").count() for j in jobs)
        self.assertEqual(adopted, [1, 3], "each plan that was asked for, once")
