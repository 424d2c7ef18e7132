"""Bring tables up to date and load the demo shop if it is missing: one process for ./coat start."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand


class Command(BaseCommand):
    help = "Migrate, then load the demo shop unless it is there."

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        call_command("load_demo", if_missing=True, stdout=self.stdout)
