"""Hold every projection against a full replay of its log, and every shop's numbers against a count."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from coatlog.core.codec import canonical, to_plain
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.run import projection
from coatlog.run.models import JobProjection
from coatlog.shop.models import Shop


class Command(BaseCommand):
    help = "Compare projections with full replays; fails naming what differs."

    def handle(self, *args: Any, **options: Any) -> None:
        wrong = []
        for shop in Shop.objects.all():
            seqs = list(LogEntry.objects.filter(shop=shop).order_by("seq").values_list("seq", flat=True))
            if seqs != list(range(1, shop.entry_seq + 1)):
                wrong.append(f"{shop.name}: entry numbers have gaps")
        jobs = list(Job.objects.select_related("shop"))
        for job in jobs:
            _, state = projection.full_replay(job)
            row = JobProjection.objects.filter(job=job).first()
            if row is None or canonical(row.state) != canonical(to_plain(state)):
                wrong.append(f"{job.title} ({job.pk}): its projection is not what its log says")
        if wrong:
            raise CommandError("\n".join(wrong))
        self.stdout.write(f"{len(jobs)} jobs: projections are what the log says.")
