"""One moment, one number: what must be obeyed is the same everywhere; the way past a wait stands back."""

from __future__ import annotations

import datetime as dt
import re
import uuid

from playwright.sync_api import expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.logbook.services import Draft
from coatlog.run import services
from coatlog.shop import clock
from coatlog.shop.models import Member, Place

from .base import DESK, PHONE, BrowserCase
from .kept import estuary

NOW = int(dt.datetime(2026, 10, 14, 14, 42, tzinfo=dt.UTC).timestamp())


class OneNumberTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(NOW)
        estuary(NOW)
        self.job = Job.objects.get(title="Load bed")

    def test_today_desk_and_phone_count_down_to_the_same_moment(self) -> None:
        run = f"{self.live_server_url}/#/jobs/{self.job.pk}/run"
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/")
        row = desk.get_by_role("link", name=re.compile("Tailgate"))
        today = re.search(r"start by (\d\d:\d\d)", row.inner_text() or "")
        assert today is not None
        desk.goto(run)
        act = desk.get_by_label("Next task")
        expect(act).to_contain_text(f"Start by {today[1]}")
        big = re.search(r"(\d+) min", act.locator(".ttl .num").inner_text())
        assert big is not None
        phone = self.page(self.context(PHONE), "demo", PASSWORD)
        phone.goto(run)
        timer = phone.get_by_role("timer")
        expect(timer).to_contain_text(re.compile(rf"^({big[1]}|{int(big[1]) - 1}) min"))
        expect(phone.get_by_text(today[1], exact=True)).to_be_visible()
        expect(phone.get_by_text(re.compile("window ends"))).to_be_visible()

    def test_while_it_flashes_off_the_wait_is_large_and_a_part_is_moved_by_two_taps(self) -> None:
        phone = self.page(self.context(PHONE), "demo", PASSWORD)
        phone.goto(f"{self.live_server_url}/#/jobs/{self.job.pk}/run")
        start = phone.get_by_role("button", name=re.compile("Start coat"))
        whole = start.bounding_box()
        assert whole is not None
        # The air turns: what stands in the way is told, and starting all the same stands back.
        member, place = Member.objects.get(user__username="demo"), Place.objects.get(name="Bay 1")
        facts = self.job.facts.get().doc
        tailgate = next(p["id"] for p in facts["parts"] if p["name"] == "Tailgate")
        wet = {
            "place_id": str(place.pk),
            "part_id": tailgate,
            "air_degc": 20.0,
            "surface_degc": 12.0,
            "rh_frac": 0.7,
        }
        read = Draft(id=uuid.uuid4(), job_id=self.job.pk, kind="climate_read", v=1, at=NOW, at_from="typed",
                     device_id="test", n=1, group_id=None, body=wet)  # fmt: skip
        self.assertEqual(services.post_entries(member, [read], sent_at=NOW)[0].result, "stored")
        phone.reload()
        anyway = phone.get_by_role("button", name=re.compile("Start anyway"))
        expect(anyway).to_be_visible()
        box = anyway.bounding_box()
        assert box is not None
        self.assertLess(box["height"], 0.75 * whole["height"])
        self.assertGreaterEqual(box["height"], 56)
        phone.get_by_role("button", name="More").click()
        phone.get_by_role("button", name="Moved", exact=True).click()
        phone.get_by_role("button", name="Yard", exact=True).click()
        expect(phone.get_by_text("Tailgate: moved to Yard").first).to_be_visible()
