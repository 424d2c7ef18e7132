"""The plan on screen: late and told why, leave-at, dragged and its button twin, 1, 5 and 14 lanes."""

from __future__ import annotations

import datetime as dt
import re
import xml.etree.ElementTree as ET
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from playwright.sync_api import Page, expect

from coatlog.core.codec import from_plain
from coatlog.core.plan.plan import Plan, Task
from coatlog.core.stack.rules import FACTS
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.run import plan_queue, services
from coatlog.run.models import JobProjection
from coatlog.run.tests.worker import do_what_waits
from coatlog.shelf.services import load_typical
from coatlog.shop import clock
from coatlog.shop.models import Member, Place, Shop

from .base import DESK, BrowserCase

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())


class PlanScreenTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        self.shop = Shop.objects.create(
            name="Creek Yard", opens=dt.time(7, 30), closes=dt.time(18, 45), has=list(FACTS)
        )
        user = get_user_model().objects.create_user("ines", password="long-and-odd-77")
        self.owner = Member.objects.create(user=user, shop=self.shop, role=Member.OWNER)
        self.bay = Place.objects.create(shop=self.shop, name="Bay 1")
        self.sheets = {s.material_id: s for s in load_typical(self.shop, now=START)}

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def job(self, parts: int, title: str = "Load bed") -> Job:
        drafts = [PartDraft(name=f"Panel {i + 1}", area_m2=0.8, substrate="bare_steel") for i in range(parts)]
        layers = [
            LayerDraft(sheet_id=self.sheets["epoxy-primer-2k"].id, coats=1, target_um=50.0),
            LayerDraft(sheet_id=self.sheets["textured-liner-2k"].id, coats=2, target_um=700.0),
        ]

        def create() -> Any:
            return create_job(
                self.owner,
                title=title,
                asset_name="Pickup",
                asset_kind="road",
                place_id=self.bay.pk,
                parts=drafts,
                layers=layers,
                now=START,
            )

        return services.start_job(self.owner, create)

    def run_page(self, job: Job) -> Page:
        page = self.page(self.context(DESK, timezone_id="Europe/London"), "ines", "long-and-odd-77")
        page.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        page.get_by_role("button", name="Replan").wait_for()
        return page

    def coats(self, job: Job) -> list[Task]:
        plan = from_plain(Plan, JobProjection.objects.get(job=job).plan)
        return [t for t in plan.tasks if t.kind == "coat" and not t.locked]

    def test_a_late_coat_is_told_and_what_can_be_finished_by_leaving(self) -> None:
        job = self.job(1)
        page = self.run_page(job)
        page.get_by_role("button", name="mask done").click()
        expect(page.get_by_role("cell", name="Panel 1: mask")).to_have_count(0)
        page.get_by_role("button", name="Replan").click()
        expect(page.get_by_role("status").filter(has_text="Planned: done")).to_contain_text(
            "This is the shortest order."
        )
        clock.set_now(self.coats(job)[0].start_at + 40 * 60)
        page.reload()
        page.get_by_role("button", name="Start coat").click()
        told = page.get_by_label("What changed against the plan")
        expect(told).to_contain_text(
            re.compile(r"\d\d min later, waits for Panel 1: Epoxy primer coat 1 of 1")
        )
        page.get_by_label("Minutes I have").fill("20")
        leave = page.get_by_label("What can still be finished")
        expect(leave).to_contain_text("Panel 1")
        expect(leave.get_by_role("heading")).to_contain_text("What can be finished by")
        page.get_by_role("button", name="Coat done").click()
        expect(page.get_by_role("button", name="Coat done")).to_have_count(0)

    def test_a_coat_is_dragged_and_moved_by_its_button_twin_and_snaps_back_where_it_cannot_be(self) -> None:
        job = self.job(2)
        page = self.run_page(job)
        first = self.coats(job)[0]
        name = re.compile(f"^Planned .*{re.escape(first.label)}$")
        handle = page.get_by_role("button", name=name)
        handle.click()
        page.get_by_role("button", name="5 min later").click()
        self.until(lambda: self.coats(job)[0].start_at == first.start_at + 300)
        box = handle.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 60, y, steps=4)
        page.mouse.up()
        self.until(lambda: self.task(job, first.key).start_at > first.start_at + 900)
        put = self.task(job, first.key).start_at
        liner = next(t for t in self.coats(job) if t.part_id == first.part_id and "liner coat 1" in t.label)
        page.get_by_role("button", name=re.compile(f"^Planned .*{re.escape(liner.label)}$")).click()
        page.get_by_label("Move to").fill("09:31")
        page.get_by_role("button", name="Move", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("at the earliest")
        self.assertEqual(self.task(job, first.key).start_at, put)
        page.get_by_role("figure").get_by_role("button", name=re.compile("^Planned")).first.focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("+")
        expect(page.get_by_role("button", name="Zoom out")).to_be_enabled()

    def task(self, job: Job, key: str) -> Task:
        return next(t for t in self.coats(job) if t.key == key)

    def until(self, true: Any) -> None:
        for _ in range(100):
            if true():
                return
            self.pages_wait()
        self.fail("it did not happen within 20 s")

    def pages_wait(self) -> None:
        self.browser.contexts[0].pages[0].wait_for_timeout(200)

    def test_a_full_shop_says_that_it_plans_and_shows_what_came_of_it(self) -> None:
        job = self.job(2)
        with mock.patch.object(plan_queue, "INLINE_TASKS", 0):
            page = self.run_page(job)
            page.get_by_role("button", name="Replan").click()
            expect(page.get_by_text(re.compile(r"Planning, \d+ s"))).to_be_visible()
            do_what_waits()
            expect(page.get_by_role("status").filter(has_text="Planned: done")).to_be_visible()
            page.get_by_text("What if, and dates").click()
            page.get_by_label("Leave at").fill("07:40")
            page.get_by_role("button", name="Preview").click()
            expect(page.get_by_role("button", name=re.compile(r"Planning, \d+ s"))).to_be_visible()
            do_what_waits()
            expect(page.get_by_role("button", name="Use this plan")).to_be_visible()
            page.get_by_role("button", name="Wiped").click()
            expect(page.get_by_text("Plan of")).to_be_visible()
            self.assertEqual(self.axe(page), [])
            do_what_waits()
            expect(page.get_by_text("Plan of")).to_have_count(0)

    def test_one_five_and_fourteen_lanes_without_words_over_words_at_any_zoom(self) -> None:
        for parts in (1, 5, 14):
            job = self.job(parts, f"{parts} panels")
            page = self.run_page(job)
            expect(page.get_by_role("figure").get_by_role("listitem")).to_have_count(parts)
            for _ in range(4):
                self.assertEqual(page.evaluate(OVERLAPS), [], parts)
                page.get_by_role("button", name="Zoom in").click()
            self.assertEqual(self.axe(page), [])
            with page.expect_download() as saved:
                page.get_by_role("button", name="Save image").click()
            root = ET.fromstring(saved.value.path().read_text(encoding="utf-8"))
            said = "".join(root.itertext())
            self.assertTrue(root.tag.endswith("svg") and "Panel 1" in said, said[:200])
            self.assertNotIn("var(", ET.tostring(root, encoding="unicode"))

    def test_a_deadline_that_cannot_be_met_offers_ways_out_and_what_if_is_adopted(self) -> None:
        job = self.job(3)
        page = self.run_page(job)
        page.get_by_text("What if, and dates").click()
        page.get_by_label("Deadline", exact=True).fill("2026-06-16T10:30")
        page.get_by_role("button", name="Save dates").click()
        expect(page.get_by_role("alert").first).to_contain_text("min after the deadline")
        page.get_by_role("list", name="Options").wait_for()
        page.get_by_label("Painters").fill("2")
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_role("status").filter(has_text="This job is done")).to_contain_text("earlier")
        page.get_by_role("button", name="Use this plan").click()
        expect(page.get_by_text("painter 2").first).to_be_visible()
        self.assertEqual(from_plain(Plan, JobProjection.objects.get(job=job).plan).wishes.painters, 2)

    def test_a_hull_too_long_for_the_day_is_cut_as_the_plan_proposes(self) -> None:
        def create() -> Any:
            hull = PartDraft(name="Hull", area_m2=150.0, substrate="sound_paint", features=("none",))
            barrier = LayerDraft(sheet_id=self.sheets["alkyd-enamel"].id, coats=2, target_um=80.0)
            return create_job(
                self.owner, title="Hull", asset_name="Coaster", asset_kind="vessel", place_id=self.bay.pk,
                parts=[hull], layers=[barrier], now=START,
            )  # fmt: skip

        job = services.start_job(self.owner, create)
        page = self.run_page(job)
        told = "Cut Hull into 2 sections that meet at a line, each worked by itself."
        way = page.get_by_role("list", name="Options").get_by_role("listitem").filter(has_text=told)
        way.get_by_role("button", name="Use this option").click()
        for k in (1, 2):
            expect(page.get_by_label(f"Part {k}", exact=True)).to_have_value(f"Hull {k}")
        expect(page.get_by_label("Area m²").first).to_have_value("75")
        page.get_by_role("button", name="Save changes").click()
        page.get_by_role("button", name="Edit the survey").wait_for()
        page.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        page.get_by_role("button", name="Replan").wait_for()
        expect(page.get_by_role("list", name="Options")).to_have_count(0)
        self.assertEqual(len(self.coats(job)), 4)


#: Pairs of words in the strip's drawings that lie over one another.
OVERLAPS = """() => {
  const out = [];
  for (const svg of document.querySelectorAll('figure svg')) {
    const boxes = [...svg.querySelectorAll('text')].map((t) => [t.textContent, t.getBoundingClientRect()]);
    boxes.forEach(([a, p], i) => boxes.slice(i + 1).forEach(([b, q]) => {
      const w = Math.min(p.right, q.right) - Math.max(p.left, q.left);
      const h = Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top);
      if (w > 1 && h > 4) out.push(`${a} / ${b}`);
    }));
  }
  return out;
}"""
