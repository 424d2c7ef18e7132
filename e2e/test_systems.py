"""One job, two coating systems: a dash and its seats, from the empty form to the plan."""

from __future__ import annotations

import datetime as dt

from playwright.sync_api import expect

from coatlog.demo.estuary import PASSWORD, load_estuary
from coatlog.jobs.models import Job
from coatlog.shop import clock

from .base import DESK, BrowserCase

NOW = int(dt.datetime(2026, 10, 14, 9, 0, tzinfo=dt.UTC).timestamp())


class SystemsTest(BrowserCase):
    def test_a_dash_and_its_seats(self) -> None:
        clock.set_now(NOW)
        load_estuary(NOW, whole=False)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/jobs/new")
        desk.get_by_label("Job title").fill("Dash and seats")
        desk.get_by_label("Vehicle, boat or aircraft").fill("Van")
        desk.get_by_role("button", name="Add part").click()
        for n, (name, m2, surface) in enumerate(
            (("Dash top", "0.6", "interior_plastic"), ("Seats", "2.4", "woven_fabric"))
        ):
            desk.get_by_label(f"Part {n + 1}", exact=True).fill(name)
            desk.get_by_label("Area m²").nth(n).fill(m2)
            surfaces = desk.locator("select", has=desk.locator("option[value=interior_plastic]"))
            surfaces.nth(n).select_option(surface)
        desk.get_by_role("button", name="Measure, test, damage").nth(1).click()
        desk.locator("label", has_text="Coating system").locator("select").select_option("0")
        systems = desk.get_by_role("group", name="Coating systems of this job").last
        for system, material in (
            ("System 1: Dash top", "vinyl-colour"),
            ("System 2: Seats", "fabric-protectant"),
        ):
            systems.get_by_role("button", name=system).click()
            option = desk.locator("option", has_text=material.replace("-", " ").capitalize()).first
            chosen = option.get_attribute("value")
            desk.locator("label", has_text="Add a layer").locator("select").select_option(chosen)
            desk.get_by_role("button", name="Add layer").click()
        desk.get_by_role("group", name="Coating systems of this job").first.get_by_role(
            "button", name="System 1: Dash top"
        ).click()
        desk.get_by_role("button", name="none of these").first.click()
        desk.get_by_role("group", name="Coating systems of this job").first.get_by_role(
            "button", name="System 2: Seats"
        ).click()
        desk.get_by_role("button", name="none of these").first.click()
        self.assertEqual(self.axe(desk), [])
        desk.get_by_role("button", name="Create job").click()
        desk.wait_for_url("**/run")
        job = Job.objects.get(title="Dash and seats")
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/stack")
        tabs = desk.get_by_role("group", name="Coating systems of this job")
        expect(desk.get_by_text("Vinyl colour").first).to_be_visible()
        tabs.get_by_role("button", name="System 2: Seats").click()
        expect(desk.get_by_role("main").get_by_text("Fabric protectant").first).to_be_visible()
        facts = job.facts.get().doc
        self.assertEqual(len({x["sheet_id"] for x in facts["layers"]}), 2)
        self.assertEqual(self.faults, [])
