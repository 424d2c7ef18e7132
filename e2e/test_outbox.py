"""One tablet, two people: what one tapped goes in under no other name, and one bad entry stops nobody."""

from __future__ import annotations

import datetime as dt
import re
import uuid

from playwright.sync_api import Route, expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.shop import clock

from .base import DESK, BrowserCase
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())


class OutboxTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)
        self.job = Job.objects.get(title="Load bed")
        self.desk = self.page(self.context(DESK), "painter", PASSWORD)

    def note(self, text: str) -> None:
        self.desk.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        self.desk.get_by_role("button", name="Note or picture").click()
        self.desk.get_by_label("Note", exact=True).fill(text)
        self.desk.get_by_role("button", name="Save", exact=True).click()
        expect(self.desk.get_by_label("Note", exact=True)).to_have_count(0)

    def sign_in(self, name: str) -> None:
        self.desk.get_by_role("button", name="Sign out").click()
        self.desk.get_by_label("Name").fill(name)
        self.desk.get_by_label("Password").fill(PASSWORD)
        self.desk.get_by_role("button", name="Sign in").click()
        self.desk.get_by_role("navigation").first.wait_for()

    def notes(self) -> list[tuple[str, str]]:
        rows = LogEntry.objects.filter(kind="note").select_related("actor").order_by("seq")
        return [(e.actor.get_username(), e.body["text"]) for e in rows]

    def landed(self, *told: tuple[str, str]) -> None:
        before = set(self.before)
        for _ in range(100):
            fresh = [n for n in self.notes() if n not in before]
            if fresh == list(told):
                return
            self.desk.wait_for_timeout(100)
        self.assertEqual(fresh, list(told))

    def test_what_one_tapped_waits_for_them(self) -> None:
        self.before = self.notes()
        entries = re.compile("/api/entries$")
        self.desk.route(entries, lambda r: r.abort())
        self.note("drip at the hinge")
        expect(self.desk.get_by_text("1 not sent yet")).to_be_visible()
        self.sign_in("demo")
        self.desk.unroute(entries)
        waits = self.desk.get_by_text(
            "1 entry made by painter waits on this device until painter signs in here."
        )
        expect(waits).to_be_visible()
        self.note("seen by the owner")
        self.landed(("demo", "seen by the owner"))
        self.sign_in("painter")
        self.landed(("demo", "seen by the owner"), ("painter", "drip at the hinge"))
        expect(waits).to_have_count(0)

    def test_a_window_left_open_does_not_send_under_the_name_of_the_next(self) -> None:
        self.before = self.notes()
        self.desk.context.route(re.compile("/api/entries$"), lambda r: r.abort())
        self.note("drip at the hinge")
        other = self.desk.context.new_page()
        other.goto(self.live_server_url)
        other.get_by_role("button", name="Sign out").click()
        self.desk.get_by_role("button", name="Sign in").wait_for()  # it hears of it, and of who comes next
        other.get_by_label("Name").fill("demo")
        other.get_by_label("Password").fill(PASSWORD)
        other.get_by_role("button", name="Sign in").click()
        other.get_by_role("navigation").first.wait_for()
        self.desk.context.unroute(re.compile("/api/entries$"))
        expect(self.desk.get_by_text("made by painter waits")).to_be_visible()
        self.landed()

    def test_an_entry_the_server_fails_at_is_set_aside_and_can_be_sent_again(self) -> None:
        self.before = self.notes()
        bad = {"on": True}

        def answer(route: Route) -> None:
            if bad["on"] and "cannot be told" in (route.request.post_data or ""):
                route.fulfill(status=500, body="Server Error (500)")
            else:
                route.continue_()

        self.desk.route(re.compile("/api/entries$"), answer)
        self.note("cannot be told")
        self.note("the next one")
        self.landed(("painter", "the next one"))
        aside = self.desk.get_by_role("alert").filter(has_text="cannot be told")
        expect(aside).to_be_visible()
        bad["on"] = False
        aside.get_by_role("button", name="Send again").click()
        self.landed(("painter", "the next one"), ("painter", "cannot be told"))
        expect(aside).to_have_count(0)

    def test_what_was_refused_is_put_right_and_the_rest_of_its_group_goes_with_it(self) -> None:
        self.before = self.notes()
        part = self.job.facts.get().doc["parts"][0]["id"]
        film = {"part_id": part, "what": "dry_total", "um": [95.3, 30000.0], "device": "gauge"}
        told = [("film_read", film), ("note", {"text": "read at the hinge", "part_id": part})]
        # As a page of an older version may have kept it.
        self.desk.evaluate(
            """(entries) => new Promise((yes, no) => {
                const ask = indexedDB.open("coatlog");
                ask.onsuccess = () => {
                    const tx = ask.result.transaction("waiting", "readwrite");
                    for (const entry of entries) tx.objectStore("waiting").add({ entry, by: "painter" });
                    tx.oncomplete = () => (ask.result.close(), yes());
                    tx.onerror = no;
                };
            })""",
            [
                {
                    "id": str(uuid.uuid4()),
                    "job_id": str(self.job.pk),
                    "kind": kind,
                    "v": 1,
                    "at": START - 600,
                    "at_from": "typed",
                    "device_id": "tablet",
                    "n": n,
                    "group_id": "5b2b7d1e-3c1d-4a5f-9d37-0f4f6c1f0a11",
                    "body": body,
                }
                for n, (kind, body) in enumerate(told)
            ],
        )
        aside = self.desk.get_by_role("alert").filter(has_text="film reading")
        expect(aside).to_contain_text("30000")
        aside.get_by_role("button", name="Put right").click()
        first, second = aside.get_by_label("Gauge, µm").all()
        expect(first).to_have_value("95.3")
        second.fill("about 98")
        aside.get_by_role("button", name="Send this").click()
        expect(aside).to_contain_text("Gauge, µm: expected a number.")
        second.fill("98")
        aside.get_by_label("Words").fill("read at both hinges")
        aside.get_by_role("button", name="Send this").click()
        self.landed(("painter", "read at both hinges"))
        expect(aside).to_have_count(0)
        kept = LogEntry.objects.get(kind="film_read", body__device="gauge")
        self.assertEqual((kept.body["um"], kept.at_true), ([95.3, 98], START - 600))
