"""Bring tables and projections up to date, load the demo into an empty database: for ./coat start."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from coatlog.run.projection import reproject_stale
from coatlog.shop import clock


class Command(BaseCommand):
    help = "Migrate, project anew what an older core wrote, load the demo where there is no shop yet."

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        for done, of in reproject_stale(now=clock.now()):
            if of > 4 and (done % max(1, of // 10) == 0 or done == of):
                self.stderr.write(f"    replayed {done} of {of} jobs")
        call_command("load_demo", if_missing=True, stdout=self.stdout)
