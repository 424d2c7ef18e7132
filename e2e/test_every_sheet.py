"""Every material of the shelf, bare, going on and all on, through Run, Now, Cure and the phone."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any

from django.contrib.auth import get_user_model
from playwright.sync_api import Page, expect

from coatlog.core.codec import to_plain
from coatlog.core.run.facts import Facts, Layer, Part, make_facts
from coatlog.core.sheet import Sheet
from coatlog.core.stack.rules import FACTS
from coatlog.core.stack.step_sequence import usual_layer
from coatlog.jobs.models import Asset, FactsDoc, Job
from coatlog.logbook.services import Draft, store
from coatlog.run import projection
from coatlog.run.reflow import reflow
from coatlog.shelf.services import load_typical
from coatlog.shop import clock
from coatlog.shop.models import Member, Place, Shop

from .base import DESK, PHONE, BrowserCase

START = int(dt.datetime(2026, 6, 16, 10, 0, tzinfo=dt.UTC).timestamp())
PARTS = ("Bare one", "Wet one", "Done one")
#: what each lane is called, and of how many films its figure is drawn
LANES = """lanes => lanes.map(li => [li.getAttribute("aria-label") ?? "",
  [...li.querySelectorAll("svg")].at(-1)?.querySelectorAll("polygon").length ?? 0])"""


class EverySheetTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        self.shop = Shop.objects.create(
            name="Creek Yard", opens=dt.time(7, 30), closes=dt.time(18, 45), has=list(FACTS)
        )
        user = get_user_model().objects.create_user("ines", password="long-and-odd-77")
        self.owner = Member.objects.create(user=user, shop=self.shop, role=Member.OWNER)
        self.bay = Place.objects.create(shop=self.shop, name="Bay 1")
        sheets = [s for s in load_typical(self.shop, now=START) if s.aid is None]
        self.jobs = {s.material_id: self.job(s) for s in sheets}
        reflow(self.shop, START)

    def job(self, sheet: Sheet) -> Job:
        """Three parts: nothing on, the first coat going on, every coat on."""
        asset = Asset.objects.create(shop=self.shop, name="Trial panel")
        job = Job.objects.create(
            shop=self.shop, asset=asset, place=self.bay, title=sheet.name, created_at=START
        )
        usual = usual_layer(sheet)
        parts = tuple(
            Part(id=str(uuid.uuid4()), name=name, area_m2=0.5, substrate="bare_steel", condition="",
                 place_id=str(self.bay.pk))
            for name in PARTS
        )  # fmt: skip
        layers = tuple(
            Layer(id=str(uuid.uuid4()), part_id=p.id, position=0, sheet_id=sheet.id, coats=usual.coats,
                  target_um=usual.target_um, tol_um=round(0.1 * (usual.target_um or 0), 1),
                  method_id=sheet.method_id)
            for p in parts
        )  # fmt: skip
        facts = make_facts(
            job_id=str(job.pk), version=1, parts=parts, layers=layers, sheets={sheet.id: sheet}
        )
        FactsDoc.objects.create(job=job, facts_id=facts.id, version=1, doc=to_plain(facts))
        self.log(job, facts)
        projection.project(job, now=START)
        return job

    def log(self, job: Job, facts: Facts) -> None:
        drafts: list[Draft] = []

        def add(minutes_ago: float, kind: str, **body: Any) -> None:
            drafts.append(
                Draft(id=uuid.uuid4(), job_id=job.pk, kind=kind, v=1, at=START - round(60 * minutes_ago),
                      at_from="typed", device_id="bench", n=len(drafts) + 1, group_id=None, body=body)
            )  # fmt: skip

        add(600, "facts_adopted", facts_id=facts.id)
        wet, done = facts.layers[1], facts.layers[2]
        coats = [(done, n, 300 - 20 * n) for n in range(1, done.coats + 1)]
        for layer, n, ago in (*coats, (wet, 1, 2)):
            ref = {"coat_id": str(uuid.uuid4()), "part_id": layer.part_id, "layer_id": layer.id, "n": n}
            add(ago, "coat_started", coats=[ref], facts_id=facts.id)
            if layer is done:
                add(ago - 3, "coat_done", coat_ids=[ref["coat_id"]])
        told = store(self.owner, drafts, sent_at=START, now=START, after=lambda shop, ids: None)
        self.assertEqual({o.result for o in told}, {"stored"}, [o.why for o in told if o.why])

    def test_every_sheet_is_drawn_on_every_screen(self) -> None:
        desk = self.page(self.context(DESK), "ines", "long-and-odd-77")
        rows = desk.locator("main ol > li a[aria-label]")
        expect(rows.filter(has_text="Wet one")).to_have_count(len(self.jobs))
        expect(rows.filter(has_text="Bare one")).to_have_count(len(self.jobs))
        self.assertEqual(self.faults, [])
        phone = self.page(self.context(PHONE, has_touch=True), "ines", "long-and-odd-77")
        for name, job in self.jobs.items():
            # Both are sent there, then both are looked at: one draws while the other is read.
            self.send(phone, job, "run")
            self.send(desk, job, "run")
            self.arrived(desk, job)
            lanes = desk.get_by_role("figure").get_by_role("listitem")
            expect(lanes, name).to_have_count(len(PARTS))
            for label, drawn in lanes.evaluate_all(LANES):
                empty = "Bare one" in label and not self.planned(job)
                self.assertTrue(drawn or empty, (name, label))
            self.send(desk, job, "cure")
            self.arrived(phone, job)
            expect(phone.get_by_role("heading", level=1), name).to_have_text("Wet one")
            expect(phone.get_by_role("button", name="Coat done"), name).to_be_visible()
            self.arrived(desk, job)
            expect(desk.locator("main section[aria-label]"), name).to_have_count(len(PARTS))
            self.assertEqual(self.faults, [], name)

    def planned(self, job: Job) -> bool:
        plan = job.projection.plan
        return bool(plan and plan["tasks"])

    def send(self, page: Page, job: Job, step: str) -> None:
        """By the address, as a link does, without loading the page anew."""
        page.evaluate(f"location.hash = '#/jobs/{job.pk}/{step}'")

    def arrived(self, page: Page, job: Job) -> None:
        page.get_by_text(job.title).first.wait_for()
