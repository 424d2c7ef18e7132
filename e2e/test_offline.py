"""No reception: the page opens, a coat is finished, pictures and steps are told, and all of it is there once afterwards."""

from __future__ import annotations

import datetime as dt
import io
import random

from PIL import Image
from playwright.sync_api import BrowserContext, Page, expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job, Photo
from coatlog.logbook.models import LogEntry
from coatlog.shop import clock

from .base import PHONE, BrowserCase
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())


def picture(seed: int) -> dict[str, object]:
    """A photo as a form takes it, no two alike."""
    made = Image.new("RGB", (64, 48), tuple(random.Random(seed).randbytes(3)))
    out = io.BytesIO()
    made.save(out, "JPEG")
    return {"name": f"photo{seed}.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


class OfflineTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)
        self.job = Job.objects.get(title="Load bed")
        self.run = f"{self.live_server_url}/#/jobs/{self.job.pk}/run"
        self.before = set(LogEntry.objects.values_list("entry_id", flat=True))

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def stowed(self, context: BrowserContext, user: str = "painter") -> Page:
        """A signed-in phone that has had reception long enough to hold what it needs."""
        page = self.page(context, user, PASSWORD)
        page.goto(self.run)
        page.get_by_role("button", name="Start coat").wait_for()
        page.wait_for_function("navigator.serviceWorker.controller !== null")
        page.wait_for_function(
            """async (job) => {
                const names = (await indexedDB.databases()).map((d) => d.name);
                if (!names.includes("coatlog-said")) return false;
                const db = await new Promise((done) => {
                    const ask = indexedDB.open("coatlog-said");
                    ask.onsuccess = () => done(ask.result);
                });
                const keys = await new Promise((done) => {
                    const ask = db.transaction("answers").objectStore("answers").getAllKeys();
                    ask.onsuccess = () => done(ask.result);
                });
                db.close();
                return keys.some((k) => k.includes(job + "/draft"));
            }""",
            arg=str(self.job.pk),
        )
        return page

    def fresh(self) -> list[LogEntry]:
        return list(LogEntry.objects.exclude(entry_id__in=self.before).order_by("seq"))

    def landed(self, page: Page, n: int) -> list[LogEntry]:
        for _ in range(200):
            if len(self.fresh()) >= n:
                break
            page.wait_for_timeout(100)
        self.assertEqual(len(self.fresh()), n, [e.kind for e in self.fresh()])
        return self.fresh()

    def note(self, page: Page, text: str, seed: int) -> None:
        page.get_by_role("button", name="Note or picture").click()
        page.get_by_label("Note", exact=True).fill(text)
        page.locator("input[type=file]").set_input_files(picture(seed))
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_label("Note", exact=True)).to_have_count(0)

    def test_a_coat_finished_without_network_after_the_tab_was_killed(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        phone = self.stowed(context)
        self.hold(phone, "Start coat")
        self.landed(phone, 1)
        context.set_offline(True)
        phone.close()
        phone = context.new_page()
        phone.on("pageerror", lambda e: self.faults.append(str(e)))
        phone.goto(self.run)
        expect(phone.get_by_text("No connection: as of")).to_be_visible()
        self.hold(phone, "Coat done")
        expect(phone.get_by_text("1 not sent yet")).to_be_visible()
        phone.get_by_role("button", name="More").click()
        for n, text in enumerate(("drip at the hinge", "fly in the corner")):
            self.note(phone, text, n)
        for n in range(3):
            phone.get_by_role("button", name="Left side sanded").click()
            phone.wait_for_timeout(1600)  # the same tap within a moment is one tap told twice
            expect(phone.get_by_text(f"{4 + n} not sent yet")).to_be_visible()
        expect(phone.get_by_role("img", name="picture")).to_have_count(2)
        phone.reload()  # and once more: nothing of it was in the page alone
        expect(phone.get_by_text("6 not sent yet")).to_be_visible()
        context.set_offline(False)
        expect(phone.get_by_text("not sent yet")).to_have_count(0)
        told = self.landed(phone, 7)
        kinds = sorted(e.kind for e in told)
        self.assertEqual(kinds, ["coat_done", "coat_started", "note", "note", *["step_done"] * 3])
        self.assertEqual(Photo.objects.count(), 2)
        named = sorted(i for e in told if e.kind == "note" for i in e.body["photo_ids"])
        self.assertEqual(named, sorted(Photo.objects.values_list("photo_id", flat=True)))
