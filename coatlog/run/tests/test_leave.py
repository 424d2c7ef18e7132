"""What can be finished before leaving, over the whole shop: one painter for all jobs."""

from __future__ import annotations

import itertools

from django.test import TestCase

from coatlog.shop import clock
from coatlog.shop.models import Shop

from .base import NOW, ShopMixin


class LeaveTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        Shop.objects.filter(pk=self.shop.pk).update(opens="07:30", closes="18:45")
        self.owner.refresh_from_db()
        self.other = self.make_job(self.owner, self.place, self.sheets)

    def test_two_jobs_share_the_painter_and_every_part_is_spoken_of(self) -> None:
        page = self.client.get("/api/leave", {"minutes": 600}).json()
        self.assertEqual({p["job_id"] for p in page["parts"]}, {str(self.job.pk), str(self.other.pk)})
        tasks = sorted(page["tasks"], key=lambda t: t["start_at"])
        self.assertTrue(tasks)
        self.assertTrue(all(a["end_at"] <= b["start_at"] for a, b in itertools.pairwise(tasks)))
        self.assertLessEqual(tasks[-1]["end_at"], page["leave_at"])
        one = self.client.get("/api/leave", {"minutes": 600, "job_id": str(self.job.pk)}).json()
        self.assertEqual({p["job_id"] for p in one["parts"]}, {str(self.job.pk)})

    def test_without_minutes_until_closing_and_back_at_the_next_opening(self) -> None:
        page = self.client.get("/api/leave").json()
        self.assertEqual(page["leave_at"], NOW + 12_700)  # 15:13:20 in London, to 18:45
        self.assertEqual(page["back_at"] - page["leave_at"], (12 * 60 + 45) * 60)

    def test_bad_minutes_are_named(self) -> None:
        for given in ("0", "-5", "1e9", "soon", "2.5"):
            r = self.client.get("/api/leave", {"minutes": given})
            self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, "minutes"), given)

    def test_nothing_to_do_is_no_error(self) -> None:
        self.make_shop("Shop two", "owner2")
        page = self.signed_in("owner2").get("/api/leave", {"minutes": 30}).json()
        self.assertEqual((page["parts"], page["tasks"], page["leave_at"]), ([], [], clock.now() + 1800))
