"""What goes wrong is said at once: starting early wants a hold, and the log, Today and record say so."""

from __future__ import annotations

import datetime as dt
import re

from django.contrib.auth import get_user_model
from playwright.sync_api import expect

from coatlog.core.stack.rules import FACTS
from coatlog.demo.drawn import impact
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.logbook.models import LogEntry
from coatlog.run import services
from coatlog.run.models import JobProjection
from coatlog.shelf.services import load_typical
from coatlog.shop import clock
from coatlog.shop.models import Member, Place, Shop

from .base import DESK, PHONE, BrowserCase

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())


class FoundScreenTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        self.shop = Shop.objects.create(
            name="Creek Yard",
            opens=dt.time(0, 1),
            closes=dt.time(23, 59),
            has=list(FACTS),
            default_air_degc=20.0,
        )
        user = get_user_model().objects.create_user("ines", password="long-and-odd-77")
        owner = Member.objects.create(user=user, shop=self.shop, role=Member.OWNER)
        bay = Place.objects.create(shop=self.shop, name="Bay 1")
        sheets = {s.material_id: s for s in load_typical(self.shop, now=START)}
        self.job = services.start_job(
            owner,
            lambda: create_job(
                owner,
                title="Load bed",
                asset_name="Pickup",
                asset_kind="road",
                place_id=bay.pk,
                parts=[PartDraft(name="Tailgate", area_m2=0.8, substrate="bare_steel")],
                layers=[
                    LayerDraft(sheet_id=sheets["epoxy-primer-2k"].id, coats=1, target_um=50.0),
                    LayerDraft(sheet_id=sheets["textured-liner-2k"].id, coats=1, target_um=350.0),
                ],
                now=START,
            ),
        )

    def landed(self, kind: str, count: int) -> None:
        for _ in range(200):
            if LogEntry.objects.filter(kind=kind).count() >= count:
                return
            self.desk.wait_for_timeout(50)
        self.fail(f"{kind}: {LogEntry.objects.filter(kind=kind).count()} of {count}")

    def test_a_coat_on_wet_paint_is_a_decision_and_is_never_vouched_for(self) -> None:
        self.desk = self.page(self.context(DESK), "ines", "long-and-odd-77")
        desk = self.desk
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        act = desk.get_by_role("region", name="Next task")
        act.get_by_role("button", name="Start coat", exact=True).click()
        self.landed("coat_started", 1)
        clock.set_now(START + 300)
        desk.reload()
        act.get_by_role("button", name="Coat done", exact=True).click()
        self.landed("coat_done", 1)
        clock.set_now(START + 420)
        desk.reload()
        anyway = act.get_by_role("button", name="Start anyway")
        expect(anyway).to_contain_text("before its recoat minimum")
        expect(act.get_by_role("button", name="Start coat")).to_have_count(0)
        anyway.click()  # a tap is not a decision
        desk.wait_for_timeout(300)
        self.assertEqual(LogEntry.objects.filter(kind="coat_started").count(), 1)
        phone = self.page(self.context(PHONE, has_touch=True), "ines", "long-and-odd-77")
        phone.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        self.hold(phone, "Start anyway")
        self.landed("coat_started", 2)
        said = "This ruins it: coat on wet paint"
        expect(act.get_by_text(said)).to_be_visible()
        expect(phone.get_by_text(said)).to_be_visible()
        self.assertEqual(self.axe(desk) + self.axe(phone), [])
        desk.goto(f"{self.live_server_url}/#/")
        wrong = desk.get_by_role("region", name="What went wrong")
        expect(wrong.get_by_text(said)).to_be_visible()
        self.assertEqual(self.axe(desk), [])
        clock.set_now(START + 900)
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        act.get_by_role("button", name="Coat done", exact=True).click()
        self.landed("coat_done", 2)
        clock.set_now(START + 30 * 86400)
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/dossier")
        row = desk.get_by_role("row").filter(has_text=said)  # next to the coat, not at the end
        expect(row).to_be_visible()
        expect(desk.get_by_text("not measured").first).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/service")
        put = desk.get_by_role("button", name="In service", exact=True)
        put.click()
        expect(desk.get_by_role("alert").filter(has_text="owner's written reason")).to_be_visible()
        self.assertFalse(LogEntry.objects.filter(kind="in_service").exists())
        desk.get_by_label("Your reason, kept in the log").fill("the customer was told, in writing")
        put.click()
        self.landed("in_service", 1)
        self.assertEqual(self.axe(desk), [])

    def test_a_morning_with_gloves_on_is_written_down_in_one_go(self) -> None:
        self.desk = self.page(self.context(DESK, timezone_id="Europe/London"), "ines", "long-and-odd-77")
        desk = self.desk
        clock.set_now(START + 8 * 3600)
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        desk.get_by_role("button", name="Write down what was done").click()
        line = desk.get_by_role("group", name="Line 1")
        line.get_by_label("Started").fill("2026-06-16T09:30")  # London, in summer
        line.get_by_label("Done").fill("2026-06-16T09:20")
        save = desk.get_by_role("button", name="Save", exact=True).last
        save.click()
        expect(desk.get_by_role("alert").filter(has_text="the end comes after the start")).to_be_visible()
        line.get_by_label("Done").fill("2026-06-16T09:40")
        desk.get_by_role("button", name="One more line").click()
        second = desk.get_by_role("group", name="Line 2")
        second.get_by_label("Started").fill("2026-06-16T12:30")
        second.get_by_label("Done").fill("2026-06-16T12:45")
        desk.get_by_role("button", name="One more line").click()
        third = desk.get_by_role("group", name="Line 3")
        third.get_by_label("Started").fill("2026-06-16T14:00")
        third.get_by_label("Done").fill("2026-06-16T14:05")
        save.click()
        expect(desk.get_by_role("alert").filter(has_text="Tailgate has no coat left")).to_be_visible()
        third.get_by_role("button", name="Remove").click()
        self.assertEqual(self.axe(desk), [])
        save.click()
        self.landed("coat_done", 2)
        told = LogEntry.objects.filter(kind__in=["coat_started", "coat_done"]).order_by("seq")
        minutes = [(e.at - START) // 60 for e in told]
        self.assertEqual(minutes, [30, 40, 210, 225])
        self.assertEqual({e.at_from for e in told}, {"typed"})
        state = JobProjection.objects.get(job=self.job).state
        self.assertEqual([len(p["films"]) for p in state["parts"]], [2])
        self.assertNotIn("coat.on_wet", {f["code"] for f in state["findings"]})
        expect(desk.get_by_text("Tailgate: Epoxy primer 1 done, 10 min")).to_be_visible()

    def test_what_is_left_in_the_cup_says_how_thick_it_went_on_and_which_cans_it_was(self) -> None:
        self.desk = self.page(self.context(DESK), "ines", "long-and-odd-77")
        desk, mix = self.desk, f"{self.live_server_url}/#/jobs/{self.job.pk}/mix"
        desk.goto(mix)
        desk.get_by_role("button", name="Note the can").click()
        desk.get_by_label("Lot or batch number").fill("B-104")
        desk.get_by_label("Good until").fill("2026-05-01")
        desk.get_by_role("button", name="Save", exact=True).click()
        expect(desk.get_by_text("expired 1 May 2026")).to_be_visible()
        desk.get_by_label("Amount to mix, ml").fill("500")
        for n, component in enumerate(("Base", "Hardener"), 1):
            desk.get_by_role("button", name=f"{component} added").click()
            self.landed("pour", n)
        desk.get_by_role("button", name="Close batch").wait_for()
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        act = desk.get_by_role("region", name="Next task")
        act.get_by_role("button", name="Start coat", exact=True).click()
        self.landed("coat_started", 1)
        clock.set_now(START + 300)
        act.get_by_role("button", name="Coat done", exact=True).click()
        self.landed("coat_done", 1)
        desk.goto(mix)
        desk.get_by_role("button", name="Close batch").click()
        desk.get_by_label("Left, ml").fill("900")
        desk.get_by_role("button", name="Close batch").click()
        expect(desk.get_by_role("alert")).to_contain_text("0 to 500 ml")
        desk.get_by_role("button", name="¾ of the cup").click()
        self.landed("batch_closed", 1)
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/dossier")
        expect(desk.get_by_text("from the paint used")).to_be_visible()
        expect(desk.get_by_text("Lot B-104, good until 1 May 2026")).to_be_visible()
        expect(desk.get_by_text("Base of lot B-104 expired 46 days before it was poured")).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/shelf")
        desk.get_by_role("button", name=re.compile("^Epoxy primer")).first.click()
        expect(desk.get_by_role("link", name="Load bed")).to_have_attribute(
            "href", f"#/jobs/{self.job.pk}/dossier"
        )

    def test_one_part_gets_a_coat_more_heat_a_picture_and_its_gauge_file(self) -> None:
        self.desk = self.page(self.context(DESK), "ines", "long-and-odd-77")
        desk = self.desk
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        act = desk.get_by_role("region", name="Next task")
        act.get_by_role("button", name="Start coat", exact=True).click()
        self.landed("coat_started", 1)
        clock.set_now(START + 300)
        act.get_by_role("button", name="Coat done", exact=True).click()
        self.landed("coat_done", 1)
        log = desk.get_by_role("region", name="Log entries")
        log.get_by_role("button", name="DFT reading").click()
        file = {
            "name": "gate.csv",
            "mimeType": "text/csv",
            "buffer": b"part,dft um\nTailgate,24\nTailgate,26\n",
        }
        log.get_by_label("File from the gauge").set_input_files(file)
        expect(log.get_by_text("24 26 µm")).to_be_visible()
        log.get_by_role("button", name="Save", exact=True).click()
        self.landed("film_read", 1)
        expect(
            desk.get_by_text("25 µm of 50 µm by what was measured, 1 coat to go, none planned.")
        ).to_be_visible()
        log.get_by_role("button", name="More or fewer coats").click()
        log.get_by_role("button", name="One more coat").first.click()
        self.landed("coats_set", 1)
        expect(act.get_by_role("heading", name="Tailgate: Epoxy primer coat 2 of 2")).to_be_visible()
        log.get_by_role("button", name="Heat", exact=True).click()
        log.get_by_label("Surface gets to, °C").fill("300")
        log.get_by_role("button", name="Heat is on").click()
        expect(log.get_by_role("alert")).to_contain_text("expected 0 to 120 °C")
        log.get_by_label("Surface gets to, °C").fill("60")
        log.get_by_role("button", name="Heat is on").click()
        self.landed("heat_set", 1)
        expect(desk.get_by_text("heated to 60 °C while it was still flashing off").first).to_be_visible()
        log.get_by_role("button", name="Defect", exact=True).click()
        log.get_by_label("Picture").set_input_files(
            {"name": "runs.png", "mimeType": "image/png", "buffer": impact()}
        )
        log.get_by_role("button", name="runs", exact=True).click()
        self.landed("defect", 1)
        expect(log.get_by_role("img", name="picture")).to_be_visible()
        log.locator("label", has_text="What").locator("select").select_option("words")
        expect(log.get_by_text("defect: runs Tailgate")).to_be_visible()
        expect(log.get_by_text("Epoxy primer 1 started")).to_be_hidden()
        desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/dossier")
        expect(desk.get_by_role("img", name="runs")).to_be_visible()
        desk.get_by_role("button", name="Put away").click()
        self.landed("archived", 1)
        desk.goto(f"{self.live_server_url}/#/jobs")
        expect(desk.get_by_text("No jobs yet")).to_be_visible()
        desk.get_by_label("Show").select_option("put away")
        expect(desk.get_by_role("link", name="Load bed")).to_be_visible()
