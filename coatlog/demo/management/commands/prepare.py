"""Bring tables, projections and an untouched demo up to date, or load one into nothing: for ./coat start."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from coatlog.demo.present import bring_to_present, clear_left_behind, has_lapsed
from coatlog.run.projection import reproject_stale
from coatlog.shop import clock
from coatlog.shop.models import Shop


class Command(BaseCommand):
    help = "Migrate, project anew what an older core wrote, load the demo where there is no shop yet."

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        for done, of in reproject_stale(now=clock.now()):
            if of > 4 and (done % max(1, of // 10) == 0 or done == of):
                self.stderr.write(f"    replayed {done} of {of} jobs")
        for shop in Shop.objects.filter(is_demo=True, members__isnull=False).distinct():
            if has_lapsed(shop, clock.now()):
                bring_to_present(shop, clock.now())
        clear_left_behind()
        call_command("load_demo", if_missing=True, stdout=self.stdout)
