"""Two parts of one name, and one part told in service twice: every page stands."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from playwright.sync_api import expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.logbook.services import Draft
from coatlog.run import services
from coatlog.shelf.services import latest_sheets
from coatlog.shop import clock
from coatlog.shop.models import Member

from .base import DESK, BrowserCase
from .kept import estuary

NOW = int(dt.datetime(2026, 10, 14, 9, 0, tzinfo=dt.UTC).timestamp())
TABS = ("survey", "stack", "quantity", "mix", "run", "cure", "service", "dossier")


class TwinsTest(BrowserCase):
    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def log(self, owner: Member, job: Job, at: int, kind: str, **body: Any) -> None:
        draft = Draft(
            id=uuid.uuid4(), job_id=job.pk, kind=kind, v=1, at=at, at_from="typed",
            device_id="tablet", n=1, group_id=None, body=body,
        )  # fmt: skip
        clock.set_now(at + 1)
        (outcome,) = services.post_entries(owner, [draft], sent_at=at + 1)
        self.assertEqual(outcome.result, "stored", outcome)

    def test_every_page_stands(self) -> None:
        clock.set_now(NOW)
        shop = estuary(NOW, whole=False)
        owner = Member.objects.get(shop=shop, role=Member.OWNER)
        place = shop.places.order_by("id").first()
        sheet = next(s for s in latest_sheets(shop) if s.material_id == "alkyd-enamel")
        job = services.start_job(
            owner,
            lambda: create_job(
                owner, title="Twins", asset_name="Van", asset_kind="road", place_id=place.pk,
                parts=[PartDraft(name="Door", area_m2=1.0, substrate="sound_paint", features=("none",))] * 2,
                layers=[LayerDraft(sheet_id=sheet.id, coats=1, target_um=35.0)], now=NOW,
            ),
        )  # fmt: skip
        facts = job.facts.get().doc
        for layer in facts["layers"]:
            coat_id, part_id = str(uuid.uuid4()), layer["part_id"]
            coat = {"coat_id": coat_id, "part_id": part_id, "layer_id": layer["id"], "n": 1}
            self.log(owner, job, clock.now(), "coat_started", coats=[coat], facts_id=facts["id"])
            self.log(owner, job, clock.now() + 300, "coat_done", coat_ids=[coat_id])
            self.log(
                owner, job, clock.now() + 60, "film_read", part_id=part_id, what="dry_total", um=[34.0] * 3
            )
        both = [p["id"] for p in facts["parts"]]
        at = clock.now() + 5 * 86400
        for _ in range(2):
            self.log(owner, job, at, "in_service", part_ids=both)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        for path in (*(f"/jobs/{job.pk}/{tab}" for tab in TABS), "/", "/jobs", "/record"):
            desk.goto(f"{self.live_server_url}/#{path}")
            expect(desk.get_by_role("main").get_by_role("heading").first).to_be_visible()
            desk.wait_for_timeout(300)
            self.assertEqual(self.faults, [], path)
