"""Whatever is done to a shop, every row says what its log says: the demo shop, walked through."""

from __future__ import annotations

import io
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client, TestCase

from coatlog.demo.estuary import load_estuary
from coatlog.demo.present import LAPSES_S, clear_left_behind
from coatlog.jobs.models import Asset, Job
from coatlog.logbook.models import LogEntry
from coatlog.run import services
from coatlog.run.models import JobProjection, ShopPlan
from coatlog.run.tests.base import ShopMixin
from coatlog.run.tests.worker import do_what_waits
from coatlog.shop import clock
from coatlog.shop.models import Member, Place, Shop

FROZEN = 1_791_988_920  # a Wednesday afternoon


class TrueRowsTest(TestCase):
    post, entry, send = ShopMixin.post, ShopMixin.entry, ShopMixin.send

    def setUp(self) -> None:
        clock.set_now(FROZEN)
        self.addCleanup(clock.release)
        load_estuary(FROZEN)
        self.client = Client()
        user = Member.objects.get(user__username="demo").user
        self.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        self.job = Job.objects.get(title="Load bed")

    def true(self, what: str) -> None:
        out = io.StringIO()
        call_command("verify_log", stdout=out)
        self.assertIn("projections are what the log says", out.getvalue(), what)

    def put(self, path: str, body: dict[str, Any]) -> None:
        r = self.client.put(path, body, content_type="application/json")
        self.assertEqual(r.status_code, 200, r.content)

    def test_a_demo_nobody_touched_comes_to_the_present_and_one_somebody_did_stays(self) -> None:
        def lapsed() -> bool:
            return self.client.get("/api/session").json()["demo_lapsed"]

        self.client.put("/api/preferences", {"language": "de"}, content_type="application/json")
        clock.set_now(FROZEN + LAPSES_S - 60)
        self.assertEqual(
            (lapsed(), self.post(self.client, "/api/demo/present", {}).status_code), (False, 422)
        )
        clock.set_now(FROZEN + 26 * 3600)
        self.assertTrue(lapsed())
        told = self.post(self.client, "/api/demo/present", {}).json()
        self.assertEqual((told["demo_lapsed"], told["preferences"]["language"]), (False, "de"))
        bed = next(j for j in self.client.get("/api/jobs").json()["jobs"] if j["title"] == "Load bed")
        self.assertNotEqual(bed["id"], str(self.job.pk))
        page = self.client.get(f"/api/jobs/{bed['id']}").json()
        self.assertIn("wet", {p["state"] for p in page["view"]["parts"]}, "it is in the middle of its run")
        self.true("a demo in the present")
        self.assertEqual((clear_left_behind(), clear_left_behind()), (1, 0))
        shop = Shop.objects.get()
        for model in (Job, LogEntry, Place, Member, Asset, ShopPlan):
            self.assertEqual({x.shop_id for x in model.objects.all()}, {shop.pk}, model)
        self.true("the old one cleared away")
        clock.set_now(clock.now() + 3 * 3600)
        note = self.entry("note", {"text": "x", "photo_ids": []}, job_id=bed["id"])
        self.send(self.client, note)
        self.assertEqual(
            (lapsed(), self.post(self.client, "/api/demo/present", {}).status_code), (False, 422)
        )

    def test_after_every_operation(self) -> None:
        self.true("as it was loaded")
        bay, yard = Place.objects.get(name="Bay 1"), Place.objects.get(name="Yard")
        note = self.entry("note", {"text": "x", "photo_ids": []})
        self.send(self.client, note)
        self.send(self.client, self.entry("strike", {"target_id": note["id"], "reason": "no"}))
        air = {"place_id": str(bay.pk), "air_degc": 24.0, "rh_frac": 0.5}
        self.send(self.client, self.entry("climate_read", air))
        self.true("entries and a strike")
        self.post(self.client, f"/api/weather/{bay.pk}/probe", {})
        self.post(self.client, f"/api/weather/{yard.pk}/forecast", {})
        self.true("a sensor and a forecast")
        lines = [
            f"2026-{m:02d}-{d:02d}T{h:02d}:00:00Z,31,0.4"
            for m in (9, 10)
            for d in range(1, 14)
            for h in range(24)
        ]
        for place in (bay, yard):
            file = SimpleUploadedFile("w.csv", "\n".join(["time_utc,air_degc,rh_frac", *lines]).encode())
            r = self.client.post(f"/api/weather/{place.pk}/import", {"file": file, "lay": "history"})
            self.assertEqual(r.status_code, 200, r.content)
        self.true("hours of air behind jobs that are done")
        shop = self.client.get("/api/shop").json()["shop"]
        self.put("/api/shop", {**shop, "default_air_degc": 11.0})
        self.true("another usual air")
        self.put("/api/people/painter/crew", {"in_plan": True, "may": ["coat"]})
        dates = {
            "due_at": FROZEN + 86400,
            "ready_at": None,
            "slot_at": None,
            "slot_for": "",
            "parts_from": {},
        }
        self.post(self.client, f"/api/jobs/{self.job.pk}/dates", dates)
        self.post(self.client, f"/api/jobs/{self.job.pk}/plan", {})
        self.true("people, dates and a plan")

    def test_many_that_are_done_are_the_workers(self) -> None:
        shop = self.client.get("/api/shop").json()["shop"]
        past = Job.objects.exclude(JobProjection.live_q(FROZEN, "projection__"))
        before = {j.pk: j.projection.climate_id for j in past}
        with mock.patch.object(services, "MOST_PAST", 0):
            self.put("/api/shop", {**shop, "default_air_degc": 5.0})
        self.assertEqual({j.pk: j.projection.climate_id for j in past.all()}, before)
        self.assertGreaterEqual(do_what_waits(), 1)
        self.true("after the worker")
