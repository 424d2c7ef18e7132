"""A job out and in as one document, its log as a table, and what is due as a calendar."""

from __future__ import annotations

import datetime as dt
from typing import Any
from uuid import UUID

import icalendar
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from coatlog.core.codec import canonical
from coatlog.run import projection
from coatlog.run.exchange import entries_csv, export_job, import_job, job_schema
from coatlog.run.models import JobProjection
from coatlog.shop import clock

from .guard import content_of, job_of, member_of

router = Router()


class ImportedJob(Schema):
    id: UUID
    title: str


@router.get("/jobs/{job_id}/export", response=dict[str, Any], operation_id="export_job")
def get_export(request: HttpRequest, job_id: UUID) -> HttpResponse:
    job = job_of(request, job_id)
    return _download(canonical(export_job(job)), "application/json", f"{_slug(job.title)}.job.json")


@router.get("/jobs/{job_id}/entries.csv", response=str, operation_id="export_entries")
def get_entries_csv(request: HttpRequest, job_id: UUID) -> HttpResponse:
    job = job_of(request, job_id)
    return _download(entries_csv(job), "text/csv; charset=utf-8", f"{_slug(job.title)}.entries.csv")


@router.post("/jobs/import", response=ImportedJob, operation_id="import_job")
def post_import(request: HttpRequest, file: File[UploadedFile]) -> ImportedJob:
    member, now = member_of(request), clock.now()
    job = import_job(member, *content_of(file, settings.DOCUMENT_LIMIT_BYTES), now=now)
    return ImportedJob(id=job.pk, title=job.title)


@router.get("/schemas/job", auth=None, response=dict[str, Any], operation_id="job_schema")
def get_schema(request: HttpRequest) -> dict[str, Any]:
    """The JSON Schema of an exported job."""
    return job_schema()


@router.get("/due.ics", response=str, operation_id="due_calendar")
def get_due(request: HttpRequest) -> HttpResponse:
    """What is due in service, as a calendar."""
    member, now = member_of(request), clock.now()
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//Coat Log//due//EN")
    calendar.add("version", "2.0")
    rows = JobProjection.objects.filter(job__shop_id=member.shop_id, next_due_at__isnull=False)
    for row in rows.select_related("job__asset").order_by("next_due_at", "job_id"):
        state = projection.state_from(row)
        names = _part_names(row)
        for service in state.service:
            for due in service.due:
                if due.due_at is None or due.usual:
                    continue
                event = icalendar.Event()
                event.add("uid", f"{row.job_id}-{service.part_id}-{due.key}@coat-log")
                event.add("dtstamp", dt.datetime.fromtimestamp(now, dt.UTC))
                event.add("dtstart", dt.datetime.fromtimestamp(due.due_at, dt.UTC))
                event.add("duration", dt.timedelta(minutes=30))
                part = names.get(service.part_id, "part")
                event.add("summary", f"{due.what}: {row.job.asset.name}, {part}")
                event.add("description", f"{row.job.title}. {service.claim_text}".strip())
                calendar.add_component(event)
    return _download(calendar.to_ical().decode(), "text/calendar; charset=utf-8", "coat-log-due.ics")


def _part_names(row: JobProjection) -> dict[str, str]:
    docs = row.job.facts.order_by("-version")[:1]
    return {p["id"]: p["name"] for d in docs for p in d.doc["parts"]}


def _download(text: str, content_type: str, name: str) -> HttpResponse:
    response = HttpResponse(text, content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _slug(title: str) -> str:
    kept = "".join(c if c.isascii() and c.isalnum() else "-" for c in title.lower())
    return "-".join(p for p in kept.split("-") if p)[:60] or "job"
