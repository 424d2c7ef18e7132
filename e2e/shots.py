"""docs/screenshots from the demo, time frozen.  Run by ./coat shots."""

from __future__ import annotations

import datetime as dt
import os
import re
from pathlib import Path

from playwright.sync_api import Page

from coatlog.demo.estuary import PASSWORD, load_estuary
from coatlog.jobs.models import Job
from coatlog.shop import clock

from .base import DESK, PHONE, BrowserCase

FROZEN = int(dt.datetime(2026, 10, 14, 14, 42, tzinfo=dt.UTC).timestamp())
OUT = Path(os.environ.get("COATLOG_SHOTS", "docs/screenshots"))


class Shots(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(FROZEN)
        load_estuary(FROZEN)
        OUT.mkdir(parents=True, exist_ok=True)
        self.job = Job.objects.get(title="Load bed")

    def shot(self, page: Page, path: str, name: str, wait_for: str) -> None:
        page.goto(f"{self.live_server_url}/#{path}")
        page.get_by_text(wait_for).first.wait_for()
        page.evaluate("document.fonts.ready")
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / f"{name}.png")

    def test_desk(self) -> None:
        run = f"/jobs/{self.job.pk}"
        page = self.page(self.context(DESK), "demo", PASSWORD)
        self.shot(page, f"{run}/run", "apply", "Tailgate")
        self.shot(page, f"{run}/mix", "mix", "Pot life")
        self.shot(page, "/", "today", "Tailgate")
        hull = f"/jobs/{Job.objects.get(title='Underwater hull').pk}"
        benches = f"/jobs/{Job.objects.get(title='Benches recoloured').pk}"
        self.shot(page, f"{hull}/survey", "survey", "Has to withstand")
        self.shot(page, f"{hull}/stack", "system", "Recoat windows between layers")
        gate = f"/jobs/{Job.objects.get(title='Slipway gate').pk}"
        page.goto(f"{self.live_server_url}/#{gate}/dossier")
        page.get_by_text("Put right").last.scroll_into_view_if_needed()
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / "record.png")
        self.shot(page, f"{hull}/quantity", "quantities", "overspray loss")
        self.shot(page, f"{benches}/service", "service", "Look at seams")
        self.shot(page, f"{run}/cure", "cure", "Headboard")
        self.shot(page, "/jobs", "jobs", "Load bed")
        self.shot(page, "/shelf", "materials", "Body filler")
        self.shot(page, "/record", "durability", "Hard antifouling")
        self.first_run()
        self.weather(page)
        self.new_job(page)
        self.suggested(page)

    def first_run(self) -> None:
        page = self.context(DESK).new_page()
        page.goto(self.live_server_url)
        page.get_by_role("button", name="Create a new shop").click()
        for label, text in (
            ("Shop name", "Creek Boatyard"),
            ("User name", "ines"),
            ("Password", "long-and-odd-77"),
        ):
            page.get_by_label(label).fill(text)
        page.get_by_role("button", name="Create shop").click()
        page.get_by_role("button", name="Boats").click()
        page.get_by_role("button", name="Spray cans alone").click()
        page.mouse.move(0, 0)
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / "first.png")

    def weather(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/#/weather")
        page.get_by_role("button", name="Yard").click()
        self.choose(
            page,
            "Material",
            Job.objects.get(title="Load bed").shop.sheets.get(material_id="clear-anticorrosion").sheet_id,
        )
        page.get_by_text("then 24 h without rain").wait_for()
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / "weather.png")

    def new_job(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/#/jobs/new")
        page.get_by_label("Job title").fill("Rubbing strip and sill")
        page.get_by_label("Vehicle, boat or aircraft").fill("Airfield tug")
        for i, (name, area) in enumerate((("Left sill", "0.7"), ("Right sill", "0.7")), 1):
            if i > 1:
                page.get_by_role("button", name="Add part").click()
            page.get_by_label(f"Part {i}", exact=True).fill(name)
            page.get_by_label("Area m²").nth(i - 1).fill(area)
            self.choose(page, "Surface", "bare_steel", i - 1)
        for name in ("Etch primer, aerosol", "Body filler"):
            self.put_on(page, name)
        page.get_by_role("alert").first.wait_for()
        page.wait_for_timeout(300)
        page.screenshot(path=OUT / "new-job.png")

    def suggested(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/#/jobs")
        page.get_by_role("link", name="New job").click()
        page.get_by_label("Job title").fill("Sills")
        page.get_by_label("Vehicle, boat or aircraft").fill("Airfield tug")
        self.usual(page, "Sills")
        page.get_by_role("button", name="Suggest systems").click()
        page.get_by_role("button", name="Use this").first.click()
        page.get_by_role("button", name="Selected").wait_for()
        page.get_by_role("button", name="Suggest systems").evaluate("e => e.scrollIntoView()")
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / "suggest.png")

    def test_phone(self) -> None:
        page = self.page(self.context(PHONE, has_touch=True), "painter", PASSWORD)
        run = f"/jobs/{self.job.pk}/run"
        self.shot(page, run, "phone-next", "Tailgate")
        # The page plays a tap before the server has it: a clock that jumps meanwhile reads as a slow device.
        with page.expect_response(re.compile("/api/entries$")):
            self.hold(page, "Start coat")
        page.get_by_role("button", name="Coat done").wait_for()
        clock.set_now(FROZEN + 150)
        page.reload()
        page.get_by_role("button", name="Coat done").wait_for()
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / "phone-coat.png")
        page.evaluate("localStorage.setItem('coatlog.light', 'night')")
        page.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/timer")
        page.reload()
        page.get_by_role("timer").first.wait_for()
        page.wait_for_timeout(400)
        page.screenshot(path=OUT / "phone-timer.png")
