"""The server that answers nothing, late, or in pieces: every form says so and keeps what was typed."""

from __future__ import annotations

import datetime as dt
import re

from playwright.sync_api import Locator, Route, expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.shop import clock

from .base import DESK, BrowserCase
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())
NOBODY = "No connection to the server"
PIECES = "The server failed on this"


class NoAnswerTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)
        self.job = Job.objects.get(title="Load bed")
        self.desk = self.page(self.context(DESK), "demo", PASSWORD)
        self.silent = False
        self.desk.route(re.compile("/api/"), self.answer)

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def answer(self, route: Route) -> None:
        if self.silent and route.request.method != "GET":
            route.abort()
        else:
            route.continue_()

    def goto(self, path: str) -> None:
        self.desk.goto(f"{self.live_server_url}/#{path}")

    def unheard(self, button: Locator, field: Locator | None = None, given: str = "") -> None:
        """Pressed while nobody answers: told so, what was typed stands, and it can be pressed again."""
        if field is not None:
            field.fill(given)
        self.silent = True
        button.click()
        said = self.desk.locator("[role=alert], [role=status]").filter(has_text=NOBODY)
        expect(said.first).to_be_visible()
        if field is not None:
            expect(field).to_have_value(given)
        expect(button).to_be_enabled()
        self.silent = False

    def test_every_form_says_that_nobody_answered_and_keeps_what_was_typed(self) -> None:
        self.at_the_desk()
        self.on_a_job()
        self.goto("/jobs/new")
        self.name_a_job()
        self.unheard(self.desk.get_by_role("button", name="Create job"))
        expect(self.desk.get_by_label("Job title")).to_have_value("Tailgate")
        self.desk.get_by_role("button", name="Create job").click()
        self.desk.get_by_role("navigation", name="Sections of this job").wait_for()
        self.assertEqual(Job.objects.filter(title="Tailgate").count(), 1)

    def at_the_desk(self) -> None:
        desk = self.desk
        button = desk.get_by_role
        self.goto("/shop")
        self.unheard(button("button", name="Save", exact=True).first, desk.get_by_label("Opens"), "06:45")
        new_place = desk.get_by_label("New bay or location")
        self.unheard(button("button", name="Add bay or location"), new_place, "Bay 9")
        self.unheard(
            button("button", name="Add person"), desk.get_by_label("Initial password"), "long-and-odd-1"
        )
        teeth = desk.get_by_label(re.compile("^Teeth of your wet film gauge"))
        self.unheard(button("button", name="Save", exact=True).nth(1), teeth, "25 50 75")
        self.unheard(
            button("button", name="Change password"), desk.get_by_label("Current password"), "was-this-one"
        )
        self.goto("/shelf")
        button("button", name="Clear coat").click()
        price = button("button", name="Save the price of Clear coat, 1 l kit")
        self.unheard(price, desk.locator("form", has=price).get_by_role("textbox"), "31")
        self.unheard(button("button", name="Add missing typical materials"))
        button("button", name="Enter product data").first.click()
        sheet = desk.get_by_label("Name", exact=True)
        self.unheard(button("button", name="Save product data"), sheet, "From the can")
        self.goto("/weather")
        self.unheard(button("button", name="Read sensor"))
        self.choose(desk, "Data type", "history")
        self.take("Weather file", b"time_utc,air_degc,rh_frac\n2026-01-01T00:00:00Z,5,0.5\n", "hours.csv")
        self.unheard(button("button", name="Import"))
        self.goto("/jobs")
        self.take("Import a job file", b"{}", "job.json")
        self.unheard(button("button", name="Import", exact=True))

    def take(self, label: str, data: bytes, name: str) -> None:
        self.desk.get_by_label(label).set_input_files(
            {"name": name, "mimeType": "application/octet-stream", "buffer": data}
        )

    def on_a_job(self) -> None:
        desk = self.desk
        button = desk.get_by_role
        for step, change in (("survey", "Edit the survey"), ("stack", "Edit the system")):
            self.goto(f"/jobs/{self.job.pk}/{step}")
            button("button", name=change).click()
            why = desk.get_by_label("Reason for the change")
            self.unheard(button("button", name="Save changes"), why, "measured again")
        self.goto(f"/jobs/{self.job.pk}/run")
        self.unheard(button("button", name="Replan"))
        desk.locator("details.whatif > summary").click()
        painters = desk.get_by_label("Painters")
        self.unheard(button("button", name="Preview"), painters, "2")
        self.unheard(
            button("button", name="Save dates"), desk.get_by_label("Deadline", exact=True), "2026-06-16T18:45"
        )

    def name_a_job(self) -> None:
        desk = self.desk
        desk.get_by_label("Job title").fill("Tailgate")
        desk.get_by_label("Vehicle, boat or aircraft").fill("Pickup")
        desk.get_by_label("Part 1", exact=True).fill("Tailgate")
        desk.get_by_label("Area m²").fill("0.8")
        self.choose(desk, "Surface", "sound_paint")
        self.put_on(desk, "Single-stage topcoat")

    def test_a_server_in_pieces_is_told_from_no_network_and_signs_nobody_out(self) -> None:
        desk = self.desk
        broken = {"on": True}

        def in_pieces(route: Route) -> None:
            if broken["on"]:
                route.fulfill(status=502, content_type="text/html", body="<h1>Bad gateway</h1>")
            else:
                route.continue_()

        desk.route(re.compile("/api/"), in_pieces)
        self.goto("/record")  # a page this device keeps nothing of
        expect(desk.get_by_role("alert")).to_contain_text(PIECES)
        self.goto("/")
        desk.reload()
        expect(desk.get_by_text("Offline, as of")).to_be_visible()
        expect(desk.get_by_label("Password")).to_have_count(0)
        expect(desk.get_by_text("Load bed").first).to_be_visible()
        broken["on"] = False
        expect(desk.get_by_text("Offline,")).to_have_count(0)

    def test_a_new_job_whose_shelf_did_not_come_says_so_and_asks_again(self) -> None:
        desk = self.desk
        away = {"on": True}
        desk.route(re.compile(r"/api/(shelf|survey)"), lambda r: r.abort() if away["on"] else r.continue_())
        self.goto("/jobs/new")
        expect(desk.get_by_role("alert")).to_contain_text(NOBODY)
        away["on"] = False
        desk.get_by_role("button", name="Try again").click()
        expect(desk.get_by_role("alert")).to_have_count(0)
        self.name_a_job()
        expect(desk.get_by_role("button", name="Create job")).to_be_enabled()

    def test_what_comes_late_is_about_what_was_asked_and_stands_for_nothing_else(self) -> None:
        desk = self.desk
        self.goto("/jobs/new")
        self.name_a_job()
        desk.get_by_role("button", name="Remove layer 1").click()
        desk.get_by_role("button", name="gloss", exact=True).click()
        held: list[Route] = []
        desk.route(re.compile("/api/suggest"), lambda route: held.append(route))
        with desk.expect_request(re.compile("/api/suggest")):
            desk.get_by_role("button", name="Suggest systems").click()
        self.choose(desk, "Surface", "gelcoat")
        for route in held:
            route.continue_()
        expect(desk.get_by_text("have changed since this search")).to_be_visible()
        expect(desk.get_by_role("article")).to_have_count(0)

    def test_an_area_that_comes_late_is_not_put_to_other_measures(self) -> None:
        desk = self.desk
        self.goto("/jobs/new")
        desk.get_by_label("Part 1", exact=True).fill("Panel")
        desk.get_by_role("button", name="Measure, test, damage").click()
        self.choose(desk, "How to get the area", "panel")
        desk.get_by_label("length, cm").fill("100")
        held: list[Route] = []

        def first_late(route: Route) -> None:
            held.append(route) if not held else route.continue_()

        desk.route(re.compile("/api/area"), first_late)
        width = desk.get_by_label("width (straight line), cm")
        with desk.expect_request(re.compile("/api/area")):
            width.fill("100")
        width.fill("200")
        expect(desk.get_by_text("2.00 m² each")).to_be_visible()
        with desk.expect_response(re.compile("/api/area")):
            held[0].continue_()
        expect(desk.get_by_text("2.00 m² each")).to_be_visible()
        desk.get_by_role("button", name="Add part").click()
        desk.get_by_role("button", name="Remove part 1").click()
        expect(desk.get_by_text("m² each")).to_have_count(0)
