"""Load the demo shop once; shops that are there are left as they are."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from coatlog.demo.estuary import PASSWORD, PEOPLE, load_estuary
from coatlog.shop import clock
from coatlog.shop.models import Shop


class Command(BaseCommand):
    help = "Load the demo shop."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--if-missing", action="store_true", help="do nothing when there is any shop")

    def handle(self, *args: Any, **options: Any) -> None:
        if not (options["if_missing"] and Shop.objects.exists()):
            load_estuary(clock.now())
        if not Shop.objects.filter(is_demo=True).exists():
            self.stdout.write("Sign in with your own name.")
            return
        names = ", ".join(f"{name} ({role})" for name, role in PEOPLE)
        self.stdout.write(f"Sign in as {names}; password {PASSWORD}")
