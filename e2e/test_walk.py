"""One job from nothing to cured, as a painter does it: desk, phone, a second browser, a restart."""

from __future__ import annotations

import datetime as dt
import re
from pathlib import Path

import pvlib
from playwright.sync_api import Page, Route, expect

from coatlog.core.run.view import view
from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.run import projection
from coatlog.run.models import JobProjection
from coatlog.shop import clock

from .base import DESK, PHONE, BrowserCase
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())
TMY3 = Path(pvlib.__file__).parent / "data" / "703165TY.csv"


class WalkTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)

    def later(self, minutes: float, *pages: Page) -> None:
        """Move the one clock; pages hear of it with their next answer."""
        clock.set_now(clock.now() + round(minutes * 60))
        for page in pages:
            page.reload()

    def test_from_new_job_to_cured(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        job = self.create_job(desk)
        self.mix_primer(desk)
        phone_context = self.context(PHONE, has_touch=True)
        phone = self.page(phone_context, "painter", PASSWORD)
        phone.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        self.prime_both(phone)
        self.air_by_hand(phone)
        self.mix_liner(desk, job)
        self.line_both(phone, desk, job)
        self.strike(desk, job)
        self.same_everywhere(desk, job)
        self.tape_off_and_cure(desk, phone, job)
        self.assertEqual(self.faults, [])

    def create_job(self, desk: Page) -> Job:
        desk.get_by_role("link", name="Jobs", exact=True).click()
        desk.get_by_role("link", name="New job").click()
        desk.get_by_label("Job title").fill("Tool bin lining")
        desk.get_by_label("Vehicle, boat or aircraft").fill("Harbour tender")
        for i, (name, area) in enumerate((("Lid", "0.8"), ("Tray", "1.2")), 1):
            if i > 1:
                desk.get_by_role("button", name="Add part").click()
            desk.get_by_label(f"Part {i}", exact=True).fill(name)
            desk.get_by_label("Area m²").nth(i - 1).fill(area)
            self.choose(desk, "Surface", "bare_steel", i - 1)
        self.put_on(desk, "Textured liner")
        stop = desk.get_by_role("alert")
        expect(stop).to_contain_text("Textured liner straight on bare steel.")
        expect(stop).to_contain_text("What to do: Put a primer rated for the metal first")
        expect(desk.get_by_role("button", name="Cannot start: resolve the stops")).to_be_disabled()
        desk.get_by_role("button", name="Remove layer 1").click()
        self.put_on(desk, "Etch primer, aerosol")
        self.put_on(desk, "Body filler")
        expect(desk.get_by_role("alert").first).to_contain_text(
            "Acid left in the etch keeps the polyester from curing"
        )
        for _ in range(2):
            desk.get_by_role("button", name="Remove layer 1").click()
        self.put_on(desk, "Epoxy primer")
        desk.get_by_label("Coats", exact=True).fill("1")
        desk.get_by_label("Total DFT, µm").fill("50")
        self.put_on(desk, "Textured liner")
        expect(desk.get_by_role("alert")).to_have_count(0)
        self.coats_alone(desk)
        desk.get_by_label("Area m²").nth(1).fill("-3")
        desk.get_by_role("button", name="Create job").click()
        expect(desk.get_by_role("alert")).to_contain_text(
            'Area of Tray: "-3" entered, expected m², a number above 0'
        )
        self.assertFalse(Job.objects.filter(title="Tool bin lining").exists())
        desk.get_by_label("Area m²").nth(1).fill("1.2")
        desk.get_by_role("button", name="Create job").click()
        desk.get_by_role("heading", name="Tool bin lining, harbour tender").wait_for()
        return Job.objects.get(title="Tool bin lining")

    def mix_primer(self, desk: Page) -> None:
        """50 µm dry at 60 % solids is 83 µm wet; a reload goes on mid-cup."""
        desk.get_by_role("link", name="Mix first").click()
        expect(desk.get_by_text("83 µm WFT")).to_be_visible()
        desk.get_by_label("Amount to mix, ml").fill("500")
        expect(desk.get_by_text("400 ml, to the 400 mark")).to_be_visible()
        desk.get_by_role("button", name="Base added").click()
        expect(desk.get_by_role("button", name="Hardener added")).to_be_visible()
        desk.reload()
        expect(desk.get_by_text("Base, added")).to_be_visible()
        desk.get_by_role("button", name="Hardener added").click()
        expect(desk.get_by_text("Batch 1: 500 ml of 500 ml left")).to_be_visible()
        # 4 h pot at 20 °C, three quarters of it; the bay's probe says a little above 20.
        expect(desk.get_by_text("Use by 11:")).to_be_visible()

    def prime_both(self, phone: Page) -> None:
        for part in ("Lid", "Tray"):
            expect(phone.get_by_role("heading", level=1)).to_have_text(part)
            expect(phone.get_by_text("WFT 83 µm")).to_be_visible()
            self.hold(phone, "Start coat")
            expect(phone.get_by_role("button", name="Coat done")).to_contain_text("min flash")
            self.later(4, phone)
            self.hold(phone, "Coat done")
            phone.get_by_role("button", name="Undo").wait_for()
            self.landed(phone, "coat_done", 1 if part == "Lid" else 2)

    def landed(self, page: Page, kind: str, count: int) -> None:
        """Wait until the log has so many entries of a kind."""
        rows = LogEntry.objects.filter(kind=kind, job__title="Tool bin lining")
        for _ in range(200):
            if rows.count() == count:
                return
            page.wait_for_timeout(50)
        self.assertEqual(rows.count(), count, kind)

    def air_by_hand(self, phone: Page) -> None:
        """25 °C and 60 % is a dew point of 16.7 °C; read once the probe's word has run out."""
        self.later(35, phone)
        phone.get_by_role("button", name="More").click()
        phone.get_by_role("button", name="Enter air readings").click()
        phone.get_by_label("Air °C").fill("25")
        phone.get_by_label("Humidity %").fill("160")
        phone.get_by_role("button", name="Save", exact=True).click()
        expect(phone.get_by_text("expected 1 to 100 %.")).to_be_visible()
        phone.get_by_label("Humidity %").fill("60")
        phone.get_by_role("button", name="Save", exact=True).click()
        expect(phone.get_by_text("16.7°")).to_be_visible()

    def mix_liner(self, desk: Page, job: Job) -> None:
        """75 ml of tint for 750 ml of base, hardener by its own 250 ml: level 1075."""
        self.later(10)
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/mix")
        desk.reload()
        desk.get_by_role("button", name="Textured liner").click()
        desk.get_by_label("Amount to mix, ml").fill("1075")
        for text in ("750 ml, to the 750 mark", "75 ml, to the 825 mark", "250 ml, to the 1\u202f075 mark"):
            expect(desk.get_by_text(text)).to_be_visible()
        expect(desk.get_by_text("10 % of the base alone")).to_be_visible()
        for name in ("Base", "Tint", "Hardener"):
            desk.get_by_role("button", name=f"{name} added").click()
        expect(
            desk.get_by_text("1.07 l of 1.07 l left").or_(desk.get_by_text("1.08 l of 1.08 l left"))
        ).to_be_visible()

    def line_both(self, phone: Page, desk: Page, job: Job) -> None:
        coats = 2
        for round_ in (1, 2):
            for _ in ("Lid", "Tray"):
                self.wait_until_open(job, phone)
                self.hold(phone, "Start coat")
                phone.get_by_role("button", name="Coat done").wait_for()
                if round_ == 1:
                    self.undo_once(phone)
                self.later(5, phone)
                phone.get_by_role("radio", name="550").click()
                expect(phone.get_by_role("radio", name="550")).to_be_checked()
                self.hold(phone, "Coat done")
                coats += 1
                self.landed(phone, "coat_done", coats)
            if round_ == 1:
                self.later(1)
                desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
                desk.reload()
                expect(desk.get_by_role("figure", name="Schedule, part by part")).to_be_visible()
                self.assertEqual(self.axe(desk), [])
                self.assertEqual(self.axe(phone), [])

    def undo_once(self, phone: Page) -> None:
        """The first liner coat was begun by mistake: taken back within ten seconds, then begun again."""
        if LogEntry.objects.filter(kind="strike").exists():
            return
        phone.get_by_role("button", name="Undo").click()
        self.landed(phone, "strike", 1)
        phone.reload()
        self.hold(phone, "Start coat")
        phone.get_by_role("button", name="Coat done").wait_for()
        strike = LogEntry.objects.get(kind="strike")
        self.assertEqual(LogEntry.objects.get(entry_id=strike.target_id).kind, "coat_started")

    def wait_until_open(self, job: Job, phone: Page) -> None:
        state = projection.state_from(JobProjection.objects.get(job=job))
        opens = min(t.opens_at or 0 for t in state.next if t.kind == "coat")
        self.later(max(1, (opens - clock.now()) / 60 + 1), phone)
        phone.get_by_role("button", name="Start coat").wait_for()

    def strike(self, desk: Page, job: Job) -> None:
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        # An answer that comes in while the finger is down does not push the button from under it.
        desk.route("**/api/leave*", lambda route: (desk.wait_for_timeout(400), route.continue_()))
        desk.reload()
        desk.get_by_role("button", name="Note or picture").click(delay=800)
        desk.unroute_all(behavior="wait")
        desk.get_by_label("Note", exact=True).fill("wrong job")
        desk.get_by_role("button", name="Save", exact=True).click()
        desk.get_by_role("button", name='Void: "wrong job"').click()
        desk.get_by_role("button", name="Save", exact=True).click()
        expect(desk.get_by_text("Enter a description first.")).to_be_visible()
        desk.get_by_label("Reason for voiding it").fill("meant for the sloop")
        desk.get_by_role("button", name="Save", exact=True).click()
        expect(desk.locator("li.struck", has_text="wrong job")).to_be_visible()

    def lanes(self, page: Page) -> list[str]:
        page.get_by_role("figure", name="Schedule, part by part").wait_for()
        return [li.get_attribute("aria-label") or "" for li in page.locator("figure ol > li").all()]

    def same_everywhere(self, desk: Page, job: Job) -> None:
        """A second browser, and the first after the server came up anew, show the same."""
        desk.reload()
        first = self.lanes(desk)
        other = self.page(self.context(DESK), "viewer", PASSWORD)
        other.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        self.assertEqual(self.lanes(other), first)
        expect(other.get_by_role("button", name="Replan")).to_have_count(0)
        cls, port = type(self), self.server_thread.port
        cls.server_thread.terminate()
        cls.server_thread = cls._create_server_thread({})
        cls.server_thread.port = port
        cls.server_thread.daemon = True
        cls.server_thread.start()
        cls.server_thread.is_ready.wait()
        self.assertIsNone(cls.server_thread.error)
        desk.reload()
        self.assertEqual(self.lanes(desk), first)

    def tape_off_and_cure(self, desk: Page, phone: Page, job: Job) -> None:
        self.later(130, phone)
        for n in (1, 2):
            self.hold(phone, "Masking removed")
            self.landed(phone, "unmasked", n)
        expect(phone.get_by_role("heading", name="All on")).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/cure")
        lid = desk.get_by_role("region", name="Lid")
        expect(lid.get_by_text("curing")).to_be_visible()
        expect(lid.get_by_role("row", name="Full cure")).to_contain_text("without a reading")
        desk.get_by_role("region", name="Lid").get_by_role("button", name="Pass").first.click()
        expect(lid.get_by_text("checked")).to_be_visible()
        self.assertEqual(self.axe(desk), [])
        for _ in range(14):
            self.later(24 * 60)
        desk.reload()
        expect(lid.get_by_text("cured", exact=True)).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/")
        expect(desk.get_by_text("Tool bin lining")).to_have_count(0)


class PagesTest(BrowserCase):
    """Every other page: stands, refuses bad input in words, and passes axe."""

    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)

    def test_now_jobs_shelf_stack_mix(self) -> None:
        desk = self.page(self.context(DESK, color_scheme="dark"), "demo", PASSWORD)
        job = Job.objects.get(title="Load bed")
        for path, text in (
            ("/", "Textured liner coat 1 of 2"),
            ("/jobs", "Fire-service pickup"),
            ("/shelf", "Rust and underbody"),
            (f"/jobs/{job.pk}/stack", "Recoat windows between layers"),
            (f"/jobs/{job.pk}/mix", "Isocyanate in the hardener"),
            (f"/jobs/{job.pk}/survey", "Has to withstand"),
            (f"/jobs/{job.pk}/quantity", "overspray loss"),
            (f"/jobs/{job.pk}/service", "Nothing is due."),
            ("/jobs/new", "In the order they are applied"),
            ("/shop", "Preferences"),
        ):
            desk.goto(f"{self.live_server_url}/#{path}")
            expect(desk.get_by_text(text).locator("visible=true").first).to_be_visible()
            self.assertEqual(self.axe(desk), [], path)
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/mix")
        desk.get_by_label("Amount to mix, ml").fill("0")
        expect(desk.get_by_role("alert")).to_contain_text("expected ml, a number above 0")
        desk.get_by_label("Amount to mix, ml").fill("1e9")
        expect(desk.get_by_role("alert")).to_contain_text("1e9")
        self.assertEqual(self.faults, [])

    def test_what_can_be_finished_and_the_cans_own_sheet(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        leave = desk.get_by_role("region", name="What can still be finished")
        leave.get_by_label("Minutes I have").fill("soon")
        expect(leave.get_by_role("alert")).to_contain_text('"soon" entered, expected minutes')
        leave.get_by_label("Minutes I have").fill("45")
        expect(leave.get_by_role("heading")).to_contain_text("by 09:45?")
        expect(leave.get_by_text("Tailgate: Textured liner coat 1 of 2").first).to_be_visible()
        expect(leave.get_by_text("recoat window still open when you return").first).to_be_visible()
        desk.get_by_role("link", name="Materials").click()
        desk.get_by_label("Search materials").fill("textured two-pack")
        desk.get_by_role("button", name="Textured liner").click()
        card = desk.get_by_role("listitem").filter(has_text="Textured liner")
        card.get_by_role("button", name="Enter product data").click()
        card.get_by_label("Pot life, min").fill("short")
        card.get_by_role("button", name="Save product data").click()
        expect(card.get_by_role("alert")).to_contain_text('Pot life: "short" entered')
        self.assertEqual(self.axe(desk), [])
        card.get_by_label("Pot life, min").fill("35")
        card.get_by_role("button", name="Save product data").click()
        expect(desk.get_by_role("status")).to_contain_text("Existing jobs keep the earlier values")
        expect(card.get_by_text("From the data sheet")).to_be_visible()
        expect(card.get_by_text("35 min at 23 °C")).to_be_visible()
        self.assertEqual(self.faults, [])

    def test_weather_takes_the_public_file_and_refuses_a_broken_one(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.get_by_role("link", name="Weather").click()
        desk.get_by_role("button", name="Yard").click()
        expect(desk.get_by_text("air, forecast")).to_be_visible()
        broken = {
            "name": "july.csv",
            "mimeType": "text/csv",
            "buffer": b"time_utc,air_degc,rh_frac\nyesterday,4,0.5\n",
        }
        desk.get_by_label("Weather file").set_input_files(broken)
        desk.get_by_role("button", name="Import").click()
        expect(desk.get_by_role("alert")).to_contain_text("Choose the data type first")
        self.choose(desk, "Data type", "this_year")
        desk.get_by_role("button", name="Import").click()
        expect(desk.get_by_role("alert")).to_contain_text(
            "july.csv, line 2, column time_utc: 'yesterday' stands there"
        )
        desk.get_by_label("Weather file").set_input_files(str(TMY3))
        desk.get_by_role("button", name="Import").click()
        expect(desk.get_by_role("status").filter(has_text="Imported 8760 hours")).to_be_visible()
        # A typical year is a guess: it takes no hour from the forecast.
        expect(desk.get_by_text("air, forecast")).to_be_visible()
        self.assertEqual(self.axe(desk), [])

    def test_a_shop_of_ones_own_from_the_front_door_to_a_second_person(self) -> None:
        desk = self.context(DESK, timezone_id="Europe/Lisbon").new_page()
        desk.on("pageerror", lambda e: self.faults.append(str(e)))
        desk.goto(self.live_server_url)
        desk.get_by_role("button", name="Create a new shop").click()
        desk.get_by_label("Shop name").fill("Creek Boatyard")
        desk.get_by_label("User name").fill("ines")
        desk.get_by_label("Password").fill("short")
        self.assertEqual(self.axe(desk), [])
        desk.get_by_role("button", name="Create shop").click()
        expect(desk.get_by_role("alert")).to_contain_text("This password is too short")
        desk.get_by_label("Password").fill("long-and-odd-77")
        desk.get_by_role("button", name="Create shop").click()
        desk.get_by_role("heading", name="Creek Boatyard").wait_for()
        desk.get_by_role("button", name="open them now").click()
        expect(desk.get_by_label("Time zone")).to_have_value("Europe/Lisbon")
        desk.get_by_label("Closes").fill("05:00")
        keep = desk.get_by_role("button", name="Save", exact=True).first
        keep.click()
        expect(desk.get_by_role("alert")).to_contain_text("a time after 07:30")
        desk.get_by_label("Closes").fill("17:30")
        keep.click()
        expect(desk.get_by_role("status")).to_contain_text("Saved.")
        people = desk.locator("section", has=desk.get_by_role("heading", name="People"))
        people.get_by_label("Name").fill("rui")
        people.get_by_label("Initial password").fill("also-long-and-odd")
        people.get_by_role("button", name="Add person").click()
        expect(desk.get_by_text("rui can now sign in.")).to_be_visible()
        self.assertEqual(self.axe(desk), [])
        desk.get_by_role("link", name="Today").click()
        expect(desk.get_by_text("Nothing is wet, waiting or curing.")).to_be_visible()
        rui = self.page(self.context(DESK), "rui", "also-long-and-odd")
        expect(rui.get_by_text("Creek Boatyard")).to_be_visible()
        desk.get_by_role("link", name="Creek Boatyard").click()
        self.rui_is_in_the_plan(desk)
        people.get_by_role("button", name="Change rui").click()
        people.locator("li").locator("select").select_option("viewer")
        expect(desk.get_by_text("rui: role changed.")).to_be_visible()
        people.get_by_label("New first password").fill("new-and-odd-too")
        people.get_by_role("button", name="Give this password").click()
        expect(desk.get_by_text("rui has a new password")).to_be_visible()
        expect(rui.get_by_label("Password")).to_be_visible()
        people.get_by_role("button", name="Change rui").click()
        self.assertEqual(self.axe(desk), [])
        people.get_by_role("button", name="Remove rui").click()
        expect(desk.get_by_text("rui cannot sign in any more.")).to_be_visible()
        expect(people.get_by_role("button", name="Change rui")).to_have_count(0)
        self.assertEqual(self.faults, [])

    def rui_is_in_the_plan(self, desk: Page) -> None:
        desk.get_by_role("button", name="rui: what they may do, and when").click()
        crew = desk.get_by_role("form", name="rui: what they may do, and when")
        crew.get_by_label("work with isocyanates").check()
        crew.get_by_label("Sun").uncheck()
        crew.get_by_label("Goes").fill("12:00")
        crew.get_by_role("button", name="Count on them in the plan").click()
        expect(desk.get_by_text("The plan counts on rui.")).to_be_visible()
        away = desk.get_by_role("form", name="When rui is away")
        away.get_by_label("Away from").fill("2026-12-24T08:00")
        away.get_by_label("Back at").fill("2026-12-24T07:00")
        away.get_by_role("button", name="Add absence").click()
        expect(desk.get_by_role("alert")).to_contain_text("a start and a later end")
        away.get_by_label("Back at").fill("2026-12-27T08:00")
        away.get_by_role("button", name="Add absence").click()
        expect(desk.get_by_text(re.compile("Away from 24 Dec"))).to_be_visible()
        self.assertEqual(self.axe(desk), [])

    def test_a_refused_file_stays_refused_when_the_list_answers_late(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        held: list[Route] = []
        desk.route(re.compile(r"/api/jobs\?"), lambda route: held.append(route))
        with desk.expect_request(re.compile(r"/api/jobs\?")):
            desk.get_by_role("link", name="Jobs", exact=True).click()
        broken = {"name": "job.json", "mimeType": "application/json", "buffer": b'{"no": "job"}'}
        desk.get_by_label("Import a job file").set_input_files(broken)
        desk.get_by_role("button", name="Import", exact=True).click()
        expect(desk.get_by_role("alert")).to_contain_text("Nothing was imported")
        for route in held:
            route.continue_()
        expect(desk.get_by_text("Load bed").first).to_be_visible()
        expect(desk.get_by_role("alert")).to_contain_text("Nothing was imported")

    def test_a_phone_without_network_keeps_its_taps_and_sends_them_later(self) -> None:
        context = self.context(PHONE, has_touch=True)
        phone = self.page(context, "painter", PASSWORD)
        job = Job.objects.get(title="Load bed")
        phone.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        phone.get_by_role("button", name="Start coat").wait_for()
        before = LogEntry.objects.filter(job=job).count()
        context.set_offline(True)
        self.hold(phone, "Start coat")
        expect(phone.get_by_text("1 not sent yet")).to_be_visible()
        # Without the server the tap is played by its cue, and marked as coming from the plan.
        self.hold(phone, "Coat done")
        expect(phone.get_by_text("2 not sent yet")).to_be_visible()
        expect(phone.get_by_role("heading", level=1)).to_have_text("Left side")
        self.assertEqual(LogEntry.objects.filter(job=job).count(), before)
        context.set_offline(False)
        expect(phone.get_by_text("not sent yet")).to_have_count(0)
        kinds = LogEntry.objects.filter(job=job).order_by("-seq").values_list("kind", flat=True)[:2]
        self.assertEqual(list(kinds), ["coat_done", "coat_started"])
        self.assertEqual(LogEntry.objects.filter(job=job).count(), before + 2)
        self.assertEqual(self.faults, [])


class TroubleTest(BrowserCase):
    """When it goes wrong: a window lost, two tablets on one coat, a strike taken back, no mouse."""

    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)
        self.job = Job.objects.get(title="Load bed")
        self.run = f"{self.live_server_url}/#/jobs/{self.job.pk}/run"

    def state(self, name: str) -> str:
        page = view(projection.state_from(JobProjection.objects.get(job=self.job)), clock.now())
        part_id = next(p["id"] for p in self.job.facts.get().doc["parts"] if p["name"] == name)
        return next(p.state or "" for p in page.parts if p.part_id == part_id)

    def test_a_lost_window_is_named_and_abrading_and_wiping_open_it_again(self) -> None:
        clock.set_now(START + 3 * 3600)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(self.run)
        steps = desk.locator("tr", has_text="Tailgate: sand").first
        expect(steps).to_contain_text("sand done")
        tailgate = desk.locator("figure li", has_text="Tailgate")
        expect(tailgate).to_contain_text("window missed: sand first")
        expect(desk.locator("table")).to_contain_text("Left side: Textured liner coat 2 of 2")
        phone = self.page(self.context(PHONE, has_touch=True), "painter", PASSWORD)
        phone.goto(self.run)
        tailgate.get_by_role("button").first.click()
        act = desk.get_by_role("region", name="Next task")
        expect(act).to_contain_text("The recoat window has closed. First sand and wipe.")
        act.get_by_role("button", name="Sanded").click()
        act.get_by_role("button", name="Wiped").click()
        expect(tailgate).to_contain_text("recoat now (sanded)")
        expect(desk.get_by_role("alert")).to_have_count(0)
        expect(act.get_by_role("button", name="Start coat")).to_be_enabled()
        self.assertEqual(self.axe(desk), [])
        self.assertEqual(self.axe(phone), [])
        self.assertEqual(self.faults, [])

    def test_two_tablets_on_one_coat_are_told_and_a_strike_settles_it(self) -> None:
        first = self.page(self.context(DESK), "demo", PASSWORD)
        second = self.page(self.context(DESK), "painter", PASSWORD)
        for page in (first, second):
            page.goto(self.run)
            page.get_by_role("button", name="Start coat").wait_for()
        second_context = second.context
        second_context.set_offline(True)
        first.get_by_role("button", name="Start coat").click()
        second.get_by_role("button", name="Start coat").click()
        expect(second.get_by_text("1 not sent yet")).to_be_visible()
        first.get_by_role("button", name="Coat done", exact=True).wait_for()
        second_context.set_offline(False)
        expect(first.get_by_text("this coat is logged twice")).to_be_visible()
        self.assertEqual(self.state("Tailgate"), "wet")
        third = self.page(self.context(PHONE, has_touch=True), "viewer", PASSWORD)
        third.goto(self.run)
        expect(third.get_by_text(re.compile("^(demo|painter) is coating"))).to_be_visible()
        expect(first.get_by_role("button", name="It was one coat: void the entry of")).to_be_visible()
        twice = first.get_by_role("button", name=re.compile("^Void: Tailgate: .* 1 started"))
        twice.first.click()
        first.get_by_label("Reason for voiding it").fill("told twice")
        first.get_by_role("button", name="Save", exact=True).click()
        expect(first.get_by_text("this coat is logged twice")).to_have_count(0)
        expect(first.get_by_role("button", name="Coat done", exact=True)).to_be_visible()
        first.get_by_role("button", name="Void: void: told twice").click()
        first.get_by_label("Reason for voiding it").fill("it was right")
        first.get_by_role("button", name="Save", exact=True).click()
        expect(first.get_by_text("this coat is logged twice")).to_be_visible()

    def test_a_coat_without_a_mouse_and_a_hurried_brush_that_does_nothing(self) -> None:
        phone = self.page(self.context(PHONE, has_touch=True), "painter", PASSWORD)
        phone.goto(self.run)
        start = phone.get_by_role("button", name="Start coat")
        start.click()  # shorter than the hold: a glove brushing past
        expect(start).to_be_visible()
        self.assertEqual(self.state("Tailgate"), "closing")
        start.focus()
        phone.keyboard.press("Enter")
        done = phone.get_by_role("button", name="Coat done")
        done.wait_for()
        phone.get_by_role("button", name="Pause").click()
        expect(phone.get_by_text("paused")).to_be_visible()
        phone.get_by_role("button", name="Resume").click()
        expect(phone.get_by_text("coat in progress")).to_be_visible()
        done.focus()
        phone.keyboard.press("Enter")
        expect(phone.get_by_role("heading", level=1)).to_have_text("Left side")
        self.assertEqual(self.state("Tailgate"), "wet")

    def test_what_the_scale_shows_moves_the_rest_and_too_little_is_refused(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/mix")
        desk.get_by_label("Amount to mix, ml").fill("1075")
        desk.get_by_role("button", name="Base added").wait_for()
        desk.get_by_label("Scale reading").fill("928")
        desk.get_by_role("button", name="Save reading").click()
        expect(desk.get_by_text("80 ml, to the 880 mark")).to_be_visible()
        desk.get_by_label("Scale reading").fill("900")
        desk.get_by_role("button", name="Save reading").click()
        expect(desk.get_by_role("alert")).to_contain_text("more than 928 g, what is in the cup already")
        desk.get_by_role("button", name="Undo").click()
        expect(desk.get_by_role("button", name="Base added")).to_be_visible()
        self.assertEqual(self.axe(desk), [])

    def test_enter_on_the_mix_page_and_a_second_tap_log_nothing_more(self) -> None:
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/mix")
        volume = desk.get_by_label("Amount to mix, ml")
        volume.fill("1075")
        desk.get_by_role("button", name="Base added").wait_for()
        entries = LogEntry.objects.filter(job=self.job)
        before = entries.count()
        for field in (volume, desk.get_by_label("Scale reading"), desk.get_by_role("heading").first):
            field.press("Enter")
        desk.goto(self.run)
        start = desk.get_by_role("button", name="Start coat", exact=True)
        expect(start).to_be_enabled()
        start.dblclick()
        desk.get_by_role("button", name="Coat done", exact=True).wait_for()
        # Sent oldest first: once the server has the pause, it has whatever was tapped before it.
        desk.get_by_role("button", name="Pause", exact=True).click()
        desk.get_by_role("button", name="Resume", exact=True).wait_for()
        kinds = list(entries.order_by("seq").values_list("kind", flat=True))[before:]
        self.assertEqual(kinds, ["coat_started", "coat_paused"])
