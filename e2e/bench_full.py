"""A shop that is full: what taps, questions and pages take beside an empty one.  Run by ./coat bench."""

from __future__ import annotations

import datetime as dt
import os
import uuid
from collections.abc import Callable
from typing import Any
from unittest import mock

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from coatlog.core.codec import to_plain
from coatlog.core.plan.bound import lower_bound_s
from coatlog.core.run.in_service import Due, PartService
from coatlog.core.why import Why
from coatlog.jobs.models import Asset, FactsDoc, Job
from coatlog.logbook.models import LogEntry
from coatlog.run import planning, reflow
from coatlog.run.models import JobProjection
from coatlog.run.shop_problem import floor_of
from coatlog.run.tests.base import NOW, ShopMixin
from coatlog.run.tests.worker import do_what_waits
from coatlog.shop import clock
from coatlog.shop.models import Shop

from .bench import say, seconds

PARTS = ("Door", "Wing", "Roof", "Hood", "Sill", "Gate")
LIVE = int(os.environ.get("COATLOG_BENCH_LIVE", "40"))
PAST = int(os.environ.get("COATLOG_BENCH_PAST", "2000"))


class FullShopBench(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        Shop.objects.filter(pk=self.shop.pk).update(opens=dt.time(7, 30), closes=dt.time(18, 45), painters=5)
        self.owner.refresh_from_db()
        self.client = self.signed_in("owner1")

    def live_job(self, i: int) -> Job:
        return self.lined_job(i, PARTS)

    def note(self, job: Job) -> None:
        self.send(self.client, self.entry("note", {"text": "x", "photo_ids": []}, job_id=str(job.pk)))

    def tap(self, job: Job) -> None:
        part = self.client.get(f"/api/jobs/{job.pk}").json()["facts"]["parts"][0]["id"]
        wiped = {"step": "wipe", "part_ids": [part]}
        self.send(self.client, self.entry("step_done", wiped, job_id=str(job.pk)))

    def timed_sql(self, ask: Callable[[], Any]) -> tuple[float, float]:
        """Seconds of an answer, and of its queries alone."""
        with CaptureQueriesContext(connection) as queries:
            ask()
        sql = [q["sql"] for q in queries if q["sql"].startswith("SELECT")]

        def bare() -> None:
            with connection.cursor() as cursor:
                for q in sql:
                    cursor.execute(q)
                    cursor.fetchall()

        return seconds(ask), seconds(bare)

    def test_forty_live_jobs_beside_one(self) -> None:
        first = self.live_job(0)
        alone = {"note": seconds(lambda: self.note(first)), "tap": seconds(lambda: self.tap(first))}
        # As if each had come on another day: nobody waits for forty plans, each as good as it gets.
        for where, name in (
            (planning, "LIMIT_S"),
            (planning, "MOST_S"),
            (planning, "FULL_S"),
            (reflow, "FULL_S"),
        ):
            mock.patch.object(where, name, 0.05).start()
        for i in range(1, LIVE):
            self.live_job(i)
            do_what_waits()
        mock.patch.stopall()
        full = {"note": seconds(lambda: self.note(first)), "tap": seconds(lambda: self.tap(first))}
        for what in ("note", "tap"):
            say(
                f"{what} with {LIVE} live jobs {full[what] * 1000:.0f} ms, {full[what] / alone[what]:.1f} x"
                f" with one ({alone[what] * 1000:.0f} ms)"
            )
        plan_s = seconds(lambda: reflow.lay_out_full(self.shop, clock.now()), times=1)
        floor = floor_of(self.shop, clock.now())
        p = floor.problem()
        say(f"worker lays out {len(p.tasks) if p else 0} tasks in {plan_s:.1f} s")
        if p is not None:
            plan = reflow.laid_from_now(floor, p, reflow.FULL_S)
            whole_s, bound_s = (plan.finish_at or 0) - p.now, lower_bound_s(p)
            say(f"done in {whole_s / 86400:.2f} days; none can be in {bound_s / 86400:.2f}")
        for name, path in (("leave", "/api/leave?minutes=120"), ("now", "/api/now"),
                           ("job page", f"/api/jobs/{first.pk}"), ("jobs", "/api/jobs")):  # fmt: skip
            took, sql = self.timed_sql(lambda path=path: self.client.get(path))
            say(f"{name} with {LIVE} live jobs {took * 1000:.0f} ms, {took / sql:.1f} x its SQL")

    def test_years_behind_it(self) -> None:
        """Jobs in service with a check-up overdue on nearly half, a hundred entries each."""
        self.live_job(0)
        row = JobProjection.objects.get(job=self.job)
        fields = {f.name: getattr(row, f.name) for f in JobProjection._meta.fields if f.name != "job"}
        due = self.due_state(fields["state"])
        facts = FactsDoc.objects.get(job=self.job)
        jobs, docs, rows, entries = [], [], [], []
        asset = Asset.objects.create(shop=self.shop, name="Old thing")
        for i in range(PAST):
            job = Job(
                id=uuid.uuid4(),
                shop=self.shop,
                asset=asset,
                place=self.place,
                title=f"Past {i}",
                created_at=NOW,
            )
            jobs.append(job)
            docs.append(FactsDoc(job=job, facts_id=facts.facts_id, version=1, doc=facts.doc))
            overdue = i % 20 < 9
            over = {"cured_at": NOW - 86400, "plan": None, "next_due_at": NOW - 86400 if overdue else None}
            rows.append(
                JobProjection(job=job, **{**fields, **over, "state": due if overdue else fields["state"]})
            )
            entries += [
                LogEntry(shop=self.shop, job=job, entry_id=uuid.uuid4(), seq=10_000 + 100 * i + n,
                         kind="note", v=1, skew_s=0, sent_at=NOW,
                         at=NOW, at_true=NOW, at_from="tap", device_id="bench", n=n, actor=self.owner.user,
                         received_at=NOW, body={"text": "x"})
                for n in range(100)
            ]  # fmt: skip
        for made, many in ((Job, jobs), (FactsDoc, docs), (JobProjection, rows), (LogEntry, entries)):
            made.objects.bulk_create(many, batch_size=2000)
        with connection.cursor() as cursor:
            cursor.execute("ANALYZE")
        for name, path in (
            ("now", "/api/now"),
            ("jobs", "/api/jobs"),
            ("job page", f"/api/jobs/{self.job.pk}"),
        ):
            took, sql = self.timed_sql(lambda path=path: self.client.get(path))
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200, answer.content[:300])
            size = len(answer.content) / 1024
            say(
                f"{name} with {PAST} jobs behind it {took * 1000:.0f} ms, {took / sql:.1f} x its SQL,"
                f" {size:.0f} kB"
            )

    def due_state(self, state: dict[str, Any]) -> dict[str, Any]:
        due = Due(key="inspect", kind="inspect", what="inspect", sheet_id="", due_at=NOW - 86400,
                  last_at=None, why=Why(kind="assumed", ref="bench"))  # fmt: skip
        part = PartService(
            part_id=state["parts"][0]["part_id"], in_service_at=NOW - 400 * 86400, claim_text="",
            claim_until_at=None, ended_at=None, ended_how="", ended_was="", touched_up_at=(), inspections=(),
            due=(due,),
        )  # fmt: skip
        return {**state, "service": [to_plain(part)]}
