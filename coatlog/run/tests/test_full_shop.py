"""A shop with more to do than is searched while somebody waits: the work of each answer is counted."""

from __future__ import annotations

from unittest import mock

from django.test import TestCase

from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.run import planning, reflow
from coatlog.run.models import JobProjection, PlanDoc
from coatlog.run.shop_problem import floor_of
from coatlog.shop import clock
from coatlog.shop.models import Shop

from .base import NOW, ShopMixin


class FullShopTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        Shop.objects.filter(pk=self.shop.pk).update(opens="07:30", closes="18:45")
        self.owner.refresh_from_db()
        self.client = self.signed_in("owner1")
        self.full = [self.long_job(i) for i in range(3)]

    def long_job(self, i: int) -> Job:
        with mock.patch.object(planning, "MOST_S", 0.1), mock.patch.object(planning, "LIMIT_S", 0.1):
            return self.lined_job(i, ("Door", "Wing", "Roof"))

    def test_an_entry_lays_out_one_order_and_writes_to_no_other_log(self) -> None:
        problem = floor_of(self.owner.shop, clock.now()).problem()
        assert problem is not None
        self.assertFalse(reflow.is_small(problem))
        plans = LogEntry.objects.filter(kind="plan_adopted").count()
        job = self.client.get(f"/api/jobs/{self.full[0].pk}").json()
        part, layer = (job["facts"][x][0]["id"] for x in ("parts", "layers"))
        coat = {"coat_id": "c1", "part_id": part, "layer_id": layer, "n": 1}
        begun = {"coats": [coat], "facts_id": job["facts"]["id"]}
        note = self.entry("note", {"text": "masked by eye"}, job_id=str(self.full[0].pk))
        start = self.entry("coat_started", begun, job_id=str(self.full[0].pk))
        with (
            mock.patch.object(reflow, "stood", wraps=reflow.stood) as laid,
            mock.patch.object(reflow, "solve", wraps=reflow.solve) as solved,
            mock.patch.object(planning, "solve", wraps=planning.solve) as planned,
        ):
            self.assertEqual(self.send(self.client, note)[0]["result"], "stored")
            self.assertEqual(
                (laid.call_count, solved.call_count, planned.call_count), (0, 0, 0), "words move nothing"
            )
            self.assertEqual(self.send(self.client, start)[0]["result"], "stored")
        self.assertEqual((laid.call_count, planned.call_count), (1, 0))
        self.assertEqual(LogEntry.objects.filter(kind="plan_adopted").count(), plans)

    def test_what_can_be_finished_is_answered_from_the_plan_that_stands(self) -> None:
        with mock.patch("coatlog.core.plan.stopping.lay_out") as laid:
            page = self.client.get("/api/leave", {"minutes": 120}).json()
        self.assertEqual(laid.call_count, 0)
        self.assertEqual(len(page["parts"]), 10)
        self.assertTrue(page["tasks"])
        planned = {
            t["key"]: t["end_at"] for r in JobProjection.objects.all() for t in r.plan["tasks"]
        }  # each as the plan has it
        self.assertTrue(all(planned[t["key"]] == t["end_at"] <= page["leave_at"] for t in page["tasks"]))

    def test_a_new_job_goes_behind_what_stands_and_only_its_own_log_is_written(self) -> None:
        before = {j.pk: LogEntry.objects.filter(job=j).count() for j in self.full}
        third = self.long_job(3)
        self.assertEqual(LogEntry.objects.filter(job=third, kind="plan_adopted").count(), 1)
        self.assertEqual({j.pk: LogEntry.objects.filter(job=j).count() for j in self.full}, before)
        rows = JobProjection.objects.filter(job__in=[*self.full, third])
        self.assertTrue(all(r.plan["tasks"] and not r.plan["conflicts"] for r in rows))

    def test_reading_writes_nothing_and_a_late_task_is_laid_out_from_now(self) -> None:
        clock.set_now(NOW + 3 * 3600)
        rows = list(JobProjection.objects.order_by("pk").values())
        docs = PlanDoc.objects.count()
        page = self.client.get(f"/api/jobs/{self.full[0].pk}").json()
        for path in ("/api/now", "/api/jobs", "/api/leave", f"/api/jobs/{self.full[0].pk}/mix?sheet_id="
                     + self.sheets["epoxy-primer-2k"].id):  # fmt: skip
            self.assertEqual(self.client.get(path).status_code, 200, path)
        self.assertEqual(
            (list(JobProjection.objects.order_by("pk").values()), PlanDoc.objects.count()), (rows, docs)
        )
        self.assertTrue(all(t["start_at"] >= NOW + 3 * 3600 for t in page["plan"]["tasks"]))
