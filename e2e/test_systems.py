"""One job, two coating systems: a dash and its seats, from the empty form to the plan."""

from __future__ import annotations

import datetime as dt
import re

from playwright.sync_api import expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.shop import clock

from .base import DESK, PHONE, BrowserCase
from .kept import estuary

NOW = int(dt.datetime(2026, 10, 14, 9, 0, tzinfo=dt.UTC).timestamp())


class SystemsTest(BrowserCase):
    def test_a_dash_and_its_seats(self) -> None:
        clock.set_now(NOW)
        estuary(NOW, whole=False)
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
        desk.get_by_role("button", name="none of these").last.click()
        desk.get_by_role("group", name="Coating systems of this job").first.get_by_role(
            "button", name="System 2: Seats"
        ).click()
        desk.get_by_role("button", name="none of these").last.click()
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

    def test_wheels_on_the_phone_in_three_steps(self) -> None:
        """Faces and barrels off the car: a dozen taps, one name to type."""
        clock.set_now(NOW)
        estuary(NOW, whole=False)
        phone = self.page(self.context(PHONE, has_touch=True), "demo", PASSWORD)
        phone.goto(f"{self.live_server_url}/#/jobs/new")
        self.usual(phone, "Set of 4 wheels (off the car), faces and barrels")
        phone.get_by_label("Vehicle, boat or aircraft").fill("Estate car")
        expect(phone.get_by_role("button", name="Create job")).to_have_count(0)
        phone.get_by_role("button", name="Next").click()
        expect(phone.get_by_text("0.15 m² each")).to_be_visible()
        phone.get_by_role("button", name="Next").click()
        phone.get_by_role("button", name="Suggest for every group").click()
        phone.get_by_role("button", name="Use these").click()
        expect(phone.get_by_text("2 × Clear coat", exact=True).first).to_be_visible()
        self.assertEqual(self.axe(phone), [])
        phone.get_by_role("button", name="Create job").click()
        phone.wait_for_url("**/run")
        job = Job.objects.get(title="Set of 4 wheels (off the car), faces and barrels")
        facts = job.facts.get().doc
        self.assertEqual([p["name"] for p in facts["parts"]][::4], ["Face 1", "Barrel 1"])
        self.assertEqual({facts["sheets"][x["sheet_id"]]["material_id"] for x in facts["layers"]},
                         {"single-stage-2k", "clear-coat-2k"})  # fmt: skip
        self.assertEqual(self.faults, [])

    def test_spots_strips_and_what_a_change_does(self) -> None:
        clock.set_now(NOW)
        estuary(NOW, whole=False)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/jobs/new")
        self.usual(desk, "Chips on a bonnet")
        desk.get_by_label("Vehicle, boat or aircraft").fill("Van")
        desk.get_by_role("button", name="Measure, test, damage").click()
        desk.get_by_label("Largest bare-metal spot").fill("30")
        desk.get_by_label("Bare or damaged places").fill("3")
        desk.get_by_role("button", name="Suggest systems").click()
        expect(desk.get_by_text("on 3 damaged places alone, 130 mm across each").first).to_be_visible()
        desk.get_by_role("button", name="Use this").first.click()
        expect(desk.get_by_label("each across, mm").first).to_have_value("130")
        film = desk.get_by_label("Total DFT, µm").last
        coats = desk.get_by_label("Coats", exact=True).last
        expect(coats).to_have_value("3")
        before = float(film.input_value())
        coats.fill("4")
        expect(film).to_have_value(f"{before * 4 / 3:g}")
        coats.fill("3")
        desk.get_by_role("button", name="Extra coat on edges").last.click()
        desk.get_by_label("strip, long, m").last.fill("1.2")
        desk.get_by_label("wide, mm").fill("40")
        desk.get_by_role("button", name="Create job").click()
        desk.wait_for_url("**/run")
        job = Job.objects.get(title="Chips on a bonnet")
        layers = job.facts.get().doc["layers"]
        self.assertEqual([round((x.get("patches") or {"area_m2": 0})["area_m2"], 4) for x in layers],
                         [0.0507, 0.0507, 0, 0.048])  # fmt: skip
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/stack")
        desk.get_by_role("button", name="Edit the system").click()
        told = desk.get_by_role("region", name="What this change does")
        expect(told).to_contain_text("Every tick and every coat stays as it is.")
        desk.get_by_role("button", name="Remove layer 4").click()
        expect(told).to_contain_text("Coats planned: 7 before, 6 now.")
        self.assertEqual(self.axe(desk), [])
        self.assertEqual(self.faults, [])

    def test_a_large_hull_is_cut_into_sections(self) -> None:
        clock.set_now(NOW)
        estuary(NOW, whole=False)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/jobs/new")
        desk.get_by_role("group", name="Type").get_by_role("button", name="Boat").click()
        self.usual(desk, "Underwater hull")
        desk.get_by_role("button", name="Measure, test, damage").first.click()
        expect(desk.get_by_label("Area m²").first).to_have_value("9")
        self.choose(desk, "Worked in sections", "3")
        expect(desk.get_by_label(re.compile(r"^Part \d"))).to_have_count(4)
        expect(desk.get_by_label("Part 3", exact=True)).to_have_value("Hull port 3")
        expect(desk.get_by_label("Area m²").first).to_have_value("3")
        self.assertEqual(self.faults, [])
