"""No reception: the page opens, work is told with pictures, and all of it is there once afterwards."""

from __future__ import annotations

import datetime as dt
import re

from playwright.sync_api import BrowserContext, Page, expect

from coatlog.core.run.states import JobState
from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job, Photo
from coatlog.logbook.models import LogEntry
from coatlog.run import projection
from coatlog.run.models import JobProjection
from coatlog.shop import clock

from .base import PHONE, BrowserCase, picture
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())


#: What the server said that this device holds.
KEPT = """async () => {
    const done = (ask) => new Promise((yes) => (ask.onsuccess = () => yes(ask.result)));
    const db = await done(indexedDB.open("coatlog-said"));
    const keys = await done(db.transaction("answers").objectStore("answers").getAllKeys());
    db.close();
    return keys;
}"""


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
        page.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        for _ in range(200):
            if any(f"{self.job.pk}/draft" in key for key in page.evaluate(KEPT)):
                return page
            page.wait_for_timeout(100)
        self.fail(str(page.evaluate(KEPT)))

    def state(self) -> JobState:
        return projection.state_from(JobProjection.objects.get(job=self.job))

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

    def installable(self, phone: Page) -> None:
        """What a browser asks of a page before it offers to install it: it finds nothing to object to."""
        session = phone.context.new_cdp_session(phone)
        told = session.send("Page.getAppManifest")
        self.assertEqual((told["errors"], told["manifest"]["startUrl"][-1]), ([], "/"))
        faults = session.send("Page.getInstallabilityErrors")["installabilityErrors"]
        # A profile that leaves no trace installs nothing, whatever the page.
        self.assertEqual([f["errorId"] for f in faults if f["errorId"] != "in-incognito"], [])

    def test_a_coat_finished_without_network_after_the_tab_was_killed(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        phone = self.stowed(context)
        self.installable(phone)
        self.hold(phone, "Start coat")
        self.landed(phone, 1)
        phone.get_by_role("button", name="More").click()
        phone.get_by_role("button", name="Note or picture").click()
        phone.get_by_label("Note", exact=True).fill("half a word")
        context.set_offline(True)
        expect(phone.get_by_text("Offline, as of")).to_be_visible()
        expect(phone.get_by_label("Note", exact=True)).to_have_value("half a word")
        phone.close()
        phone = context.new_page()
        phone.on("pageerror", lambda e: self.faults.append(str(e)))
        phone.goto(self.run)
        expect(phone.get_by_text("Offline, as of")).to_be_visible()
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

    def test_a_mix_is_poured_without_network_and_its_pot_life_runs(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        phone = self.stowed(context)
        context.set_offline(True)
        phone.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/mix")
        total = phone.get_by_label("Amount to mix, ml")
        total.fill("500")
        poured = phone.get_by_role("button", name=re.compile(" added$"))
        for _ in range(3):  # base, hardener, thinner
            was = poured.inner_text()
            poured.click()
            phone.wait_for_function("(was) => document.querySelector('.cup .go')?.innerText !== was", arg=was)
        phone.goto(self.run)
        expect(phone.get_by_text("Pot life left")).to_be_visible()
        context.set_offline(False)
        told = self.landed(phone, 4)
        self.assertEqual([e.kind for e in told], ["pour"] * 3 + ["batch_mixed"])
        self.assertAlmostEqual(sum(p["ml"] for p in told[-1].body["parts"]), 500, delta=1)

    def test_a_device_that_keeps_nothing_says_so_and_still_sends(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        phone = self.stowed(context)
        phone.evaluate(
            """() => {
                const full = () => { throw new DOMException("full", "QuotaExceededError"); };
                IDBObjectStore.prototype.put = full;
                IDBObjectStore.prototype.add = full;
            }"""
        )
        context.set_offline(True)
        self.hold(phone, "Start coat")
        expect(phone.get_by_text("This device cannot store what you tap")).to_be_visible()
        expect(phone.get_by_text("1 not sent yet")).to_be_visible()
        context.set_offline(False)
        self.landed(phone, 1)
        expect(phone.get_by_text("not sent yet")).to_have_count(0)
        expect(phone.get_by_text("This device cannot store")).to_have_count(0)

    def test_who_signs_out_without_network_leaves_nothing_and_is_out_when_it_is_back(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        phone = self.stowed(context)
        context.set_offline(True)
        phone.goto(f"{self.live_server_url}/#/jobs")
        phone.get_by_role("button", name="Sign out").click()
        phone.get_by_label("Password").wait_for()
        phone.reload()
        phone.get_by_label("Password").wait_for()
        expect(phone.get_by_text("Load bed")).to_have_count(0)
        context.set_offline(False)
        with phone.expect_response(lambda r: r.url.endswith("/api/session") and r.request.method == "DELETE"):
            phone.reload()
        phone.get_by_label("Password").wait_for()
        self.assertEqual(phone.request.get(f"{self.live_server_url}/api/jobs").status, 401)

    def for_gloves(self, phone: Page) -> None:
        """Every live action is 56 px high, notes and voids go by chips, and the page can be read at night."""
        phone.get_by_role("button", name="Note or picture").click()
        phone.get_by_role("button", name=re.compile("^Void: ")).first.click()
        low = phone.evaluate(
            """() => [...document.querySelectorAll(".phone :is(button, a, select, summary)")]
                .filter((e) => e.checkVisibility() && e.getBoundingClientRect().height < 55.5)
                .map((e) => `${e.getBoundingClientRect().height} ${e.outerHTML.slice(0, 90)}`)"""
        )
        self.assertEqual(low, [])
        phone.get_by_role("button", name="told twice").wait_for()
        phone.get_by_role("button", name="night", exact=True).click()
        self.assertEqual(self.axe(phone), [])
        phone.get_by_role("button", name="as set", exact=True).click()
        phone.get_by_role("button", name="Note or picture").click()

    def test_an_alarm_rings_with_the_page_hidden_and_the_page_says_what_works(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        context.grant_permissions(["notifications"])
        context.add_init_script(
            """window.told = { buzz: 0, tones: 0, out: false };
            navigator.vibrate = () => { told.buzz += 1; return true; };
            const start = OscillatorNode.prototype.start;
            OscillatorNode.prototype.start = function (at) { told.tones += 1; start.call(this, at); };
            Object.defineProperty(document, "hidden", { get: () => told.out });"""
        )
        phone = self.stowed(context)
        phone.get_by_role("button", name="More").click()
        device = phone.get_by_role("region", name="What this device does when something is due")
        expect(device).to_contain_text("Message when the page is hidden on, while the browser is running")
        expect(device).to_contain_text("the page opens, with 1 job")
        expect(device).to_contain_text("an alarm then comes up to a minute late, or not at all")
        self.for_gloves(phone)
        device.get_by_role("button", name="Try it").click()
        expect(device).to_contain_text("on: you should have heard it just now")
        phone.evaluate("told.out = true; told.tones = told.buzz = 0")
        closes = min(t.latest_start_at for t in self.state().next if t.latest_start_at)
        clock.set_now(closes - 60)
        phone.wait_for_function("() => told.tones > 0 && told.buzz > 0")
        shown = """async () => {
            const worker = await navigator.serviceWorker.ready;
            return (await worker.getNotifications()).map((n) => n.title);
        }"""
        for _ in range(50):
            if phone.evaluate(shown):
                break
            phone.wait_for_timeout(100)
        self.assertRegex(str(phone.evaluate(shown)), "Tailgate: .*coat")
        line = phone.locator("[aria-live=assertive]")
        expect(line).to_contain_text("start by")
        line.get_by_role("button", name="Heard").click()
        expect(line.get_by_text("Tailgate")).to_have_count(0)

    def test_two_phones_one_of_them_away_for_ten_minutes_with_its_clock_forty_minutes_wrong(self) -> None:
        first = self.page(self.context(PHONE, has_touch=True), "demo", PASSWORD)
        first.goto(self.run)
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        context.clock.install(time=START + 40 * 60)
        second = self.stowed(context)
        context.set_offline(True)
        began = clock.now()

        def minutes(n: int) -> None:
            """Both places get older alike."""
            clock.set_now(clock.now() + 60 * n)
            context.clock.fast_forward(60_000 * n)

        minutes(2)
        self.hold(second, "Start coat")
        minutes(3)
        self.hold(second, "Coat done")
        expect(second.get_by_text("2 not sent yet")).to_be_visible()
        first.get_by_role("button", name="More").click()
        first.get_by_role("button", name="Right side", exact=True).click()
        first.get_by_role("button", name="Tailgate", exact=True).click()
        first.get_by_role("button", name="Right side sanded").click()
        self.landed(first, 1)
        minutes(5)
        context.set_offline(False)
        told = {e.kind: e for e in self.landed(second, 3)}
        at = {kind: e.at_true - began for kind, e in told.items()}
        self.assertAlmostEqual(at["coat_started"], 120, delta=20)
        self.assertAlmostEqual(at["coat_done"], 300, delta=30)
        # Within five seconds the first phone knows: nothing is left to start on that part.
        expect(first.get_by_text("Tailgate: Textured liner 1", exact=False).first).to_be_visible(timeout=5000)
