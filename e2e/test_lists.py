"""Finding what is wanted: Today, Jobs and Materials in their order, and the way about on a phone."""

from __future__ import annotations

import datetime as dt
import re

from playwright.sync_api import Page, expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.run.tests.test_labels import METRIC, table_of
from coatlog.shop import clock

from .base import DESK, PHONE, BrowserCase
from .kept import estuary

NOW = int(dt.datetime(2026, 10, 14, 14, 42, tzinfo=dt.UTC).timestamp())


class ListsTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(NOW)
        estuary(NOW)

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def at(self, page: Page, path: str) -> Page:
        page.goto(f"{self.live_server_url}/#{path}")
        return page

    def test_today_stands_in_the_order_in_which_it_must_be_touched_and_by_place(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        rows = desk.get_by_role("main").locator("ol").first.locator("> li")
        rows.first.wait_for()
        told = [" ".join(r.inner_text().split()) for r in rows.all()]
        # What has an end comes first, soonest end first; then what may wait; then what is to be prepared.
        today = [m.group(1) for t in told if (m := re.search(r"start by (\d\d:\d\d)\b", t))]
        self.assertGreater(len(today), 2)
        self.assertEqual(today, sorted(today))
        self.assertIn("start by", told[0])
        prepared = [i for i, t in enumerate(told) if t.startswith("prepare")]
        ends = [i for i, t in enumerate(told) if "start by" in t]
        self.assertGreater(min(prepared), max(ends))
        self.assertIn("SMH 88", next(t for t in told if "Underwater hull" in t))  # two hulls are never alike
        desk.get_by_label("Bay or location").select_option("Bay 2")
        expect(rows.filter(has_text="Load bed")).to_have_count(0)
        expect(rows.filter(has_text="Underwater hull")).not_to_have_count(0)
        desk.get_by_label("Bay or location").select_option("")
        expect(rows).to_have_count(len(told))

    def test_a_long_order_of_work_shows_its_first_tasks_and_the_rest_when_asked(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        leave = desk.get_by_role("region", name="What can still be finished")
        more = leave.get_by_role("button", name="All")
        more.wait_for()
        tasks = leave.locator("ol > li")
        expect(tasks).to_have_count(8)
        count = int(re.sub(r"\D", "", more.inner_text()))
        more.click()
        expect(tasks).to_have_count(count)
        times = [t.split()[0] for t in tasks.all_inner_texts()]
        self.assertEqual(times, sorted(times))
        leave.get_by_role("button", name="The first of them").click()
        expect(tasks).to_have_count(8)

    def test_today_for_one_person(self) -> None:
        desk = self.at(self.page(self.context(DESK), "demo", PASSWORD), "/")
        rows = desk.get_by_role("main").locator("ol").first.locator("> li")
        rows.filter(has_text="Tailgate").first.wait_for()
        every = rows.count()
        person = desk.get_by_label("Person, by the plan")
        shown = []
        for who in person.locator("option").all_inner_texts()[1:]:
            person.select_option(who)
            expect(rows).not_to_have_count(every)
            shown.append(rows.count())
        self.assertGreater(min(shown), 0)
        person.select_option("anybody")
        expect(rows).to_have_count(every)

    def test_materials_by_kind_and_word_opened_and_closed(self) -> None:
        desk = self.at(self.page(self.context(DESK), "demo", PASSWORD), "/shelf")
        row = desk.get_by_role("listitem")
        desk.get_by_role("button", name="Body filler").wait_for()
        kinds = desk.get_by_role("group", name="Kinds of material")
        kinds.get_by_role("button", name="Antifouling").click()
        expect(row.filter(has_text="Hard antifouling")).to_be_visible()
        expect(row.filter(has_text="Body filler")).to_have_count(0)
        kinds.get_by_role("button", name="All").click()
        desk.get_by_label("Search materials").fill("liner two-pack")  # every word, in any order
        expect(row).to_have_count(1)
        opens = desk.get_by_role("button", name="Textured liner")
        expect(opens).to_have_attribute("aria-expanded", "false")
        opens.click()
        expect(row.filter(has=opens)).to_contain_text("at most")  # its lots are listed in it too
        self.assertEqual(self.axe(desk), [])
        desk.get_by_role("button", name="Enter product data").click()
        name = desk.get_by_label("Name", exact=True)
        expect(name).to_be_focused()
        name.press("Escape")
        expect(name).to_have_count(0)
        desk.get_by_label("Search materials").fill("nothing of that name")
        expect(desk.get_by_text("No material found.")).to_be_visible()

    def test_jobs_by_state_and_in_the_order_asked_for(self) -> None:
        desk = self.at(self.page(self.context(DESK), "demo", PASSWORD), "/jobs")
        row = desk.get_by_role("listitem")
        row.filter(has_text="Wheels in graphite").wait_for()
        desk.get_by_label("Show").select_option("live")
        expect(row.filter(has_text="Wheels in graphite")).to_have_count(0)
        desk.get_by_label("Order").select_option("pressing")
        expect(row.first).to_contain_text("Load bed")
        desk.get_by_label("Show").select_option("all")
        row.filter(has_text="Slipway gate").get_by_role("link", name="Repair or touch up").click()
        expect(desk.get_by_role("heading", name="Repair of a finished job")).to_be_visible()
        expect(desk.get_by_label("Part 1", exact=True)).to_have_value("Gate")
        expect(desk.get_by_text("1. Enamel, single-pack")).to_be_visible()
        desk.go_back()
        desk.get_by_label("Search", exact=True).fill("no such thing")
        expect(desk.get_by_text('No job matches "no such thing".')).to_be_visible()

    def test_from_a_phone_every_page_is_reached_and_signing_out(self) -> None:
        phone = self.page(self.context(PHONE, has_touch=True), "demo", PASSWORD)
        job = Job.objects.get(title="Load bed").pk
        self.at(phone, f"/jobs/{job}/run")
        for section in ("Survey", "System", "Quantities", "Mix", "Cure", "In service", "Job record"):
            phone.get_by_role("button", name="More").click()
            phone.get_by_role("navigation", name="Sections").get_by_role("link", name=section).click()
            expect(phone.get_by_role("navigation", name="Sections")).to_be_visible()
            phone.get_by_role("link", name="Apply").click()
            phone.get_by_role("button", name="Start coat").wait_for()
        self.at(phone, "/")
        phone.get_by_role("link", name="Saltmarsh Airfield Finishing").click()
        expect(phone.get_by_role("heading", name="Preferences")).to_be_visible()
        phone.get_by_role("button", name="Sign out").click()
        expect(phone.get_by_label("Password", exact=True)).to_be_visible()

    def test_with_the_keyboard_the_menu_can_be_skipped(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.get_by_role("main").get_by_role("link").first.wait_for()  # until then nothing in it takes focus
        skip = desk.get_by_role("button", name="Skip to content")
        skip.focus()
        skip.press("Enter")
        expect(desk.get_by_role("main")).to_be_focused()
        desk.keyboard.press("Tab")
        inside = desk.evaluate("document.querySelector('main').contains(document.activeElement)")
        self.assertTrue(inside)

    def test_a_product_is_entered_from_its_paper_with_a_yes_to_each_line(self) -> None:
        """A second epoxy primer: three lines said yes to, one typed; both can be chosen in a layer."""
        paper = bytes(table_of(METRIC).output())
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/shelf")
        desk.get_by_role("button", name="New product from its label").click()
        form = desk.locator("form", has=desk.get_by_role("heading", name="A product by its label"))
        kind = form.locator("option", has_text=re.compile("^Epoxy primer,")).get_attribute("value")
        self.choose(desk, "Of what kind it is", kind or "")
        form.get_by_label("Name on the can").fill("Tidewater primer")
        form.get_by_label("Data sheet, PDF").set_input_files(
            {"name": "sheet.pdf", "mimeType": "application/pdf", "buffer": paper}
        )
        expect(form.get_by_text("nothing is taken until you say yes to it")).to_be_visible()
        expect(form.get_by_label("Solids by volume, %")).to_have_value("")
        for said in ("Mixing ratio: 4 : 1", "Solids by volume: 58", "Recoat from: 5"):
            form.get_by_role("listitem").filter(has_text=said).get_by_role("button", name="Yes").click()
        expect(form.get_by_label("Solids by volume, %")).to_have_value("58")
        expect(form.get_by_label("Recoat from, h")).to_have_value("5")
        form.get_by_label("Touch dry, h", exact=True).fill("2,5")
        self.assertEqual(self.axe(desk), [])
        form.get_by_role("button", name="Save").click()
        expect(desk.get_by_text("4 values from its label, the rest typical")).to_be_visible()
        desk.get_by_role("button", name="Tidewater primer").click()
        expect(desk.get_by_text("From the label: mix, Recoat, Touch dry.")).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/jobs/new")
        self.put_on(desk, "Epoxy primer")
        product = desk.get_by_label("Product")
        expect(product.locator("option")).to_have_text(["Epoxy primer", "Tidewater primer"])
        product.select_option(label="Tidewater primer")
        expect(desk.get_by_text("1. Tidewater primer")).to_be_visible()
