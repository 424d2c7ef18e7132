"""The worker's work done in the test itself."""

from __future__ import annotations

from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob

from coatlog.run import tasks

__all__ = ["do_what_waits"]


def do_what_waits() -> int:
    """Do what stands in the queue, the most urgent first, as the worker would; how many things."""
    done = 0
    waiting = ProcrastinateJob.objects.filter(status="todo").order_by("-priority", "id")
    while (row := waiting.first()) is not None:
        getattr(tasks, row.task_name.rsplit(".", 1)[1])(**row.args)
        with connection.cursor() as cursor:  # the model is for looking only
            cursor.execute("DELETE FROM procrastinate_jobs WHERE id = %s", [row.pk])
        done += 1
    return done
