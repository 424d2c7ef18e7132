"""What is handed over on paper: the record, the sheet for the windscreen, the label on the cup, as pages."""

from __future__ import annotations

import datetime as dt
import io
import re
import uuid
from pathlib import Path

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.jobs.photos import take_photo
from coatlog.logbook.services import Draft
from coatlog.run import projection, services
from coatlog.run.models import JobProjection
from coatlog.shop import clock
from coatlog.shop.models import Member

from .base import DESK, BrowserCase, picture
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())
MM = 72 / 25.4


class PrintTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)
        self.job = Job.objects.get(title="Load bed")
        self.desk = self.page(self.context(DESK), "demo", PASSWORD)

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def open(self, step: str) -> Page:
        self.desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/{step}")
        return self.desk

    def printed(self, size: str) -> list[str]:
        """The pages as text, in order."""
        reader = PdfReader(io.BytesIO(self.desk.pdf(format=size, prefer_css_page_size=False)))
        self.width_mm = float(reader.pages[0].mediabox.width) / MM
        return [" ".join(p.extract_text().split()) for p in reader.pages]

    def test_the_record_is_pages_of_the_shop_and_of_no_program(self) -> None:
        desk = self.open("dossier")
        expect(desk.get_by_role("heading", name="Checks")).to_be_visible()
        for size, width_mm in (("A4", 210), ("Letter", 215.9)):
            pages = self.printed(size)
            self.assertAlmostEqual(self.width_mm, width_mm, delta=1)
            self.assertGreater(len(pages), 1)
            whole = " ".join(pages)
            for words in (
                "Saltmarsh Airfield Finishing", "Load bed", "Airfield fire service", "Epoxy primer", "Mixes",
                "lot", "Handed over: place, date, name, signature", "What is allowed when", "SHA-256",
            ):  # fmt: skip
                self.assertIn(words, whole)
            for gone in ("Sign out", "Today", "Print or save", "Export", "Close the job"):
                self.assertNotIn(gone, whole)
            for n, text in enumerate(pages, 1):
                self.assertRegex(text, rf"(?<!\d){n} / {len(pages)}(?!\d)")
        told = re.search(r"SHA-256 ?([0-9a-f ]{64,})", whole)
        assert told
        with self.subTest("the same log, the same hash"):
            found = self.desk.request.get(f"{self.live_server_url}/api/jobs/{self.job.pk}/dossier").json()
            self.assertIn(found["log_sha256"], told[1].replace(" ", ""))

    def shown(self, n: int, at: int, kind: str, body: dict[str, object]) -> None:
        """Something told of the tailgate, with a picture."""
        owner = Member.objects.get(shop=self.job.shop, role=Member.OWNER)
        facts = self.job.facts.get().doc
        part = next(p for p in facts["parts"] if p["name"] == "Tailgate")["id"]
        photo = take_photo(owner, picture(n)["buffer"], "photo.jpg", now=at)
        key = {"photo_id": photo.photo_id} if kind == "damage_found" else {"photo_ids": [photo.photo_id]}
        draft = Draft(
            id=uuid.uuid4(), job_id=self.job.pk, kind=kind, v=1, at=at, at_from="typed",
            device_id="tablet", n=500 + n, group_id=None, body={"part_id": part, **key, **body},
        )  # fmt: skip
        (outcome,) = services.post_entries(owner, [draft], sent_at=clock.now())
        self.assertEqual(outcome.result, "stored", outcome)

    def finish(self) -> None:
        """What is left is told as on already, at its time: coat by coat, in the order they are due."""
        owner, n = Member.objects.get(shop=self.job.shop, role=Member.OWNER), 0
        while True:
            state = projection.state_from(JobProjection.objects.get(job=self.job))
            task = next((t for t in state.next if t.kind == "coat"), None)
            if task is None:
                return
            n += 1
            clock.set_now(max(clock.now(), task.opens_at or 0) + 600)
            coat = {
                "coat_id": str(uuid.uuid4()), "part_id": task.part_id, "layer_id": task.layer_id, "n": task.n
            }  # fmt: skip
            facts_id = self.job.facts.get().doc["id"]
            for kind, body in (
                ("coat_started", {"coats": [coat], "facts_id": facts_id}),
                ("coat_done", {"coat_ids": [coat["coat_id"]]}),
            ):
                draft = Draft(
                    id=uuid.uuid4(), job_id=self.job.pk, kind=kind, v=1, at=clock.now(), at_from="typed",
                    device_id="tablet", n=2 * n + (kind == "coat_done"), group_id=None, body=body,
                )  # fmt: skip
                (outcome,) = services.post_entries(owner, [draft], sent_at=clock.now())
                self.assertEqual(outcome.result, "stored", outcome)
                clock.set_now(clock.now() + 120)

    def file(self) -> bytes:
        with self.desk.expect_download() as waited:
            self.desk.get_by_role("button", name="PDF file").click()
        return Path(waited.value.path()).read_bytes()

    def test_the_record_as_a_file_is_the_same_for_the_same_log(self) -> None:
        self.shown(1, START - 10 * 3600, "damage_found", {"text": "scrape at the latch"})
        desk = self.open("dossier")
        expect(desk.get_by_role("heading", name="Checks")).to_be_visible()
        first = self.file()
        self.assertLess(len(first), 500_000)
        reader = PdfReader(io.BytesIO(first))
        pages = [" ".join(p.extract_text().split()) for p in reader.pages]
        self.assertAlmostEqual(float(reader.pages[0].mediabox.width) / MM, 210, delta=1)
        self.assertEqual(sum(len(p.images) for p in reader.pages), 1)
        for n, text in enumerate(pages, 1):
            self.assertTrue(text.endswith(f"{n} / {len(pages)}"), text[-80:])
        whole = " ".join(pages)
        for words in (
            "Saltmarsh Airfield Finishing", "Airfield fire service", "Epoxy primer", "Mixes", "lot",
            "Handed over: place, date, name, signature", "What is allowed when", "SHA-256",
            "scrape at the latch", "µm", "°C", "poured 4.00 : 1",
        ):  # fmt: skip
            self.assertIn(words, whole)
        for gone in ("Sign out", "Print or save", "Export", "Close the job"):
            self.assertNotIn(gone, whole)
        clock.set_now(START + 120)
        desk.reload()
        expect(desk.get_by_role("heading", name="Checks")).to_be_visible()
        self.assertEqual(self.file(), first)
        self.shown(2, START + 60, "note", {"text": "one more"})
        expect(desk.get_by_text("one more")).to_be_visible()
        self.assertNotEqual(self.file(), first)
        Member.objects.filter(user__username="demo").update(preferences={"units": "us"})
        desk.reload()
        expect(desk.get_by_role("heading", name="Checks")).to_be_visible()
        letter = PdfReader(io.BytesIO(self.file()))
        self.assertAlmostEqual(float(letter.pages[0].mediabox.width) / MM, 215.9, delta=1)
        self.assertIn("mil", " ".join(p.extract_text() for p in letter.pages))
        self.shown(3, START + 60, "note", {"text": "заметка"})
        expect(desk.get_by_text("заметка")).to_be_visible()
        desk.get_by_role("button", name="PDF file").click()
        expect(desk.get_by_role("alert")).to_contain_text("has letters the file cannot show")

    def test_a_part_as_it_came_stands_beside_it_as_it_went(self) -> None:
        self.shown(1, START - 10 * 3600, "damage_found", {"text": "scrape at the latch"})
        self.shown(2, START, "note", {"text": "halfway"})
        desk = self.open("dossier")
        expect(desk.get_by_role("heading", name="Checks")).to_be_visible()
        expect(desk.get_by_role("heading", name="Before and after")).to_have_count(0)  # it is not finished
        self.finish()
        self.shown(3, clock.now(), "note", {"text": "done"})
        expect(desk.get_by_role("img", name="Tailgate: as it came")).to_be_visible()
        expect(desk.get_by_role("img", name="Tailgate: as it went")).to_be_visible()
        self.assertIn("Before and after", " ".join(self.printed("A4")))

    def test_a_sheet_for_the_windscreen_and_a_label_for_the_cup(self) -> None:
        desk = self.open("handover")
        expect(desk.get_by_text("Not finished: coats are still to come.")).to_be_visible()
        with self.settings(LAN="https://192.0.2.7:8710/"):
            desk.reload()
            expect(desk.get_by_role("img", name="Code of the job")).to_be_visible()
        (sheet,) = self.printed("A4")
        self.assertIn("Fire-service pickup", sheet)
        self.assertNotIn("In use from", sheet)  # what is not finished bears nothing yet
        self.finish()
        expect(desk.get_by_text("In use from")).to_be_visible()
        (sheet,) = self.printed("A4")
        for words in ("No water before", "In use from", "win over this sheet"):
            self.assertIn(words, sheet)
        self.assertNotIn("Not finished", sheet)
        desk = self.open("mix")
        desk.get_by_role("link", name="Cup label").first.click()
        label = desk.get_by_role("article", name="Cup label")
        expect(label).to_contain_text("Use by")
        self.assertEqual(self.axe(desk), [])
        (page,) = self.printed("A4")
        self.assertRegex(page, "gels about")
        self.assertNotIn("Sign out", page)
