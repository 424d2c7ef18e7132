"""A part that is carried elsewhere: its place goes by time, on its page, in the plan, through an export."""

from __future__ import annotations

import json
import uuid

from django.test import TestCase

from coatlog.core.run.facts import UNLOGGED
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.logbook.models import ClimateReading
from coatlog.run import services
from coatlog.shop import clock
from coatlog.shop.models import Place, Shop

from .base import NOW, ShopMixin
from .exported import elsewhere, take_in


class MovedTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.yard = Place.objects.create(shop=self.shop, name="Yard", outdoors=True)
        self.part = self.job.facts.get().doc["parts"][0]["id"]

    def page(self) -> dict:
        return self.client.get(f"/api/jobs/{self.job.pk}").json()

    def air(self, place: Place, at: int, degc: float) -> None:
        ClimateReading.objects.create(place=place, at=at, air_degc=degc, rh_frac=0.5, source="probe")

    def test_by_two_taps_and_the_past_stays_where_it_was(self) -> None:
        for i in range(420):
            self.air(self.place, NOW + 1800 * i, 20.0)
            self.air(self.yard, NOW + 1800 * i, 4.0)
        start = self.start_entry()
        coat = start["body"]["coats"][0]["coat_id"]
        self.send(self.client, start)
        clock.set_now(NOW + 300)
        self.send(self.client, self.entry("coat_done", {"coat_ids": [coat]}))
        before = self.page()["state"]["parts"][0]["films"][0]["spans"][0]
        clock.set_now(NOW + 200 * 3600)
        moved = {"part_ids": [self.part], "place_id": str(self.yard.pk)}
        self.assertEqual(self.send(self.client, self.entry("moved", moved))[0]["result"], "stored")
        page = self.page()
        self.assertEqual(page["facts"]["parts"][0]["place_id"], str(self.yard.pk))
        self.assertEqual([x["place_id"] for x in page["state"]["parts"][0]["stays"]],
                         [str(self.place.pk), str(self.yard.pk)])  # fmt: skip
        self.assertEqual(page["state"]["parts"][0]["films"][0]["spans"][0], before)
        codes = {f["code"] for f in page["state"]["findings"]}
        self.assertFalse(codes & {"air.cold", "moved.early", "cure.cold"}, codes)
        self.assertAlmostEqual(page["air"]["air_degc"], 4.0)
        planned = [t for t in page["plan"]["tasks"] if t["kind"] == "coat"]
        self.assertTrue(planned or page["plan"]["conflicts"])
        self.assertEqual(self.client.get("/api/now").json()["lines"][0]["facts"]["parts"][0]["place_id"],
                         str(self.yard.pk))  # fmt: skip

    def test_to_a_place_of_this_shop_and_a_part_of_this_job(self) -> None:
        for body, field in (
            ({"part_ids": [self.part], "place_id": str(uuid.uuid4())}, "body.place_id"),
            ({"part_ids": ["nobody"], "place_id": str(self.yard.pk)}, "body.part_id"),
            ({"part_ids": [], "place_id": str(self.yard.pk)}, "body.part_ids"),
        ):
            told = self.send(self.client, self.entry("moved", body))[0]
            self.assertEqual((told["result"], told["field"]), ("refused", field))

    def test_through_an_export_and_back(self) -> None:
        self.send(self.client, self.entry("moved", {"part_ids": [self.part], "place_id": str(self.yard.pk)}))
        doc = json.loads(self.client.get(f"/api/jobs/{self.job.pk}/export").content)
        self.assertIn(str(self.yard.pk), {p["id"] for p in doc["places"]})
        other = elsewhere(doc)
        wrong = json.loads(json.dumps(other))
        next(e for e in wrong["entries"] if e["kind"] == "moved")["body"]["place_id"] = "nowhere"
        self.assertEqual(take_in(self.client, wrong).status_code, 422)
        taken = take_in(self.client, other)
        self.assertEqual(taken.status_code, 200, taken.content)
        # Its parts go by the ids of the first job's: it is kept out of the plan, and no page stops.
        for path in ("/api/now", "/api/leave", f"/api/jobs/{taken.json()['id']}", f"/api/jobs/{self.job.pk}"):
            self.assertEqual(self.client.get(path).status_code, 200, path)

    def test_a_shop_that_does_not_tick_its_steps_says_so_once(self) -> None:
        Shop.objects.filter(pk=self.shop.pk).update(logs_steps=False)
        self.owner.refresh_from_db()
        self.owner.shop.refresh_from_db()

        def create() -> tuple[Job, object]:
            return create_job(
                self.owner, title="Door", asset_name="Van", asset_kind="road",
                place_id=self.place.pk, now=NOW,
                parts=[PartDraft(name="Door", area_m2=1.0, substrate="bare_steel", features=("none",))],
                layers=[LayerDraft(sheet_id=self.sheets["epoxy-primer-2k"].id, coats=1, target_um=50.0)],
                choices={"steps": "planned"},
            )  # fmt: skip

        job = services.start_job(self.owner, create)
        self.assertEqual(job.facts.get().doc["choices"]["steps_log"], UNLOGGED)
        self.job = job
        self.send(self.client, self.start_entry())
        page = self.page()
        self.assertFalse([f for f in page["state"]["findings"] if f["code"].startswith("prep.")])
        self.assertFalse(self.client.get(f"/api/jobs/{job.pk}/dossier").json()["steps_logged"])
