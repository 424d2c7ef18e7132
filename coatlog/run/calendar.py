"""A job's plan as iCalendar: coats, steps and tape off, each with what it waits for."""

from __future__ import annotations

import datetime as dt

import icalendar

from coatlog.core.plan.plan import SIDE_KINDS, Plan
from coatlog.jobs.models import Job

__all__ = ["plan_calendar"]


def plan_calendar(job: Job, plan: Plan, now: int) -> bytes:
    """Events of every task on a part; ids stay when the plan moves, so a calendar follows it."""
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//coat log//plan//")
    calendar.add("version", "2.0")
    for t in plan.tasks:
        if t.kind in SIDE_KINDS:
            continue
        event = icalendar.Event()
        event.add("uid", f"{t.key}@{job.pk}")
        event.add("dtstamp", dt.datetime.fromtimestamp(now, dt.UTC))
        event.add("dtstart", dt.datetime.fromtimestamp(t.start_at, dt.UTC))
        event.add("dtend", dt.datetime.fromtimestamp(t.end_at, dt.UTC))
        event.add("summary", f"{job.title}: {t.label}")
        told = [t.binds.ref, ", ".join(x for x in (t.character, t.direction) if x)]
        event.add("description", ". ".join(x for x in told if x))
        event.add("location", job.place.name)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
