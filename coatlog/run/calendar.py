"""A job's plan as iCalendar: coats, steps and tape off, each with what it waits for."""

from __future__ import annotations

import datetime as dt

import icalendar

from coatlog.core.plan.plan import SIDE_KINDS, Plan
from coatlog.jobs.models import Job

__all__ = ["plan_calendar"]


#: So long before a task begins a phone's own calendar rings [min]: to get ready, and to begin.
ALARMS_MIN = (10, 0)


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
        for before_min in ALARMS_MIN:
            event.add_component(_alarm(before_min, str(event["summary"])))
        calendar.add_component(event)
    return bytes(calendar.to_ical())


def _alarm(before_min: int, text: str) -> icalendar.Alarm:
    """RFC 5545, 3.6.6: shown, and rung as the phone rings."""
    alarm = icalendar.Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", text)
    alarm.add("trigger", dt.timedelta(minutes=-before_min))
    return alarm
