"""The step list of a job with its checks."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from coatlog.jobs.frozen_facts import latest_facts
from coatlog.run.part_works import PartWork, part_works
from coatlog.run.projection import current, state_from
from coatlog.shop import clock

from .guard import job_of

router = Router()


@router.get("/jobs/{job_id}/work", response=list[PartWork], operation_id="get_work")
def get_work(request: HttpRequest, job_id: UUID) -> list[PartWork]:
    """What is to be done, part by part."""
    job = job_of(request, job_id)
    return part_works(latest_facts(job), state_from(current(job, now=clock.now())))
