"""Print the JSON Schema of an exported job."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand

from coatlog.run.exchange import job_schema


class Command(BaseCommand):
    help = "Print the JSON Schema of an exported job."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(json.dumps(job_schema(), indent=1, sort_keys=True))
