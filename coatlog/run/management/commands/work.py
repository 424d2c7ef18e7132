"""The worker that plans full shops: one runs beside the web server.  ./coat start looks after it."""

from __future__ import annotations

import asyncio
import os
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from procrastinate import App
from procrastinate.contrib.django import app

RESCUE_S = 3.0


class Command(BaseCommand):
    help = "Plan full shops, and answer what was asked of the planner, until stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(10)  # who taps goes before who plans
        asyncio.run(_work())


async def _work() -> None:
    worker = app.with_connector(app.connector.get_worker_connector())  # type: ignore[attr-defined]
    async with worker.open_async():
        rescue = asyncio.create_task(_take_up_what_was_left(worker))
        try:
            await worker.run_worker_async()
        finally:
            rescue.cancel()


async def _take_up_what_was_left(worker: App) -> None:
    """What a killed worker had begun is begun again: its heart has not beaten for some seconds."""
    silent_s = settings.PLANNER_SILENT_S
    while True:
        for job in await worker.job_manager.get_stalled_jobs(seconds_since_heartbeat=silent_s):
            await worker.job_manager.retry_job(job)
        await asyncio.sleep(RESCUE_S)
