"""Dry film from a gauge: its files, and the simulated one."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from coatlog.core.film_acceptance import readings_wanted
from coatlog.devices.gauge import SIMULATED_GAUGE, SimulatedGauge
from coatlog.errors import Refused
from coatlog.logbook.gauge_files import GaugeFile, read_gauge_file
from coatlog.run import projection
from coatlog.shop import clock

from .guard import content_of, job_of, writer_of

router = Router()


class UnitIn(Schema):
    unit: Literal["um", "mil"] = "um"


class GaugeOut(Schema):
    um: list[float]
    device: str


@router.post("/gauge-file", response=GaugeFile, operation_id="read_gauge_file")
def post_gauge_file(request: HttpRequest, unit: Form[UnitIn], file: File[UploadedFile]) -> GaugeFile:
    """The readings of a file, to be looked at before they are logged."""
    writer_of(request, "measure")
    data, name = content_of(file)
    return read_gauge_file(data, name, unit=unit.unit)


@router.post("/jobs/{job_id}/parts/{part_id}/gauge", response=GaugeOut, operation_id="read_gauge")
def post_gauge(request: HttpRequest, job_id: UUID, part_id: str) -> GaugeOut:
    """As many readings of the (simulated) gauge as the part's area asks for."""
    writer_of(request, "measure")
    job, now = job_of(request, job_id), clock.now()
    state = projection.state_from(projection.current(job, now=now))
    facts = projection.facts_now(projection.ground_of(job), state)
    part = next((p for p in facts.parts if p.id == part_id), None) if facts else None
    lies = next((p for p in state.parts if p.part_id == part_id), None)
    if part is None or lies is None:
        raise Refused("This job has no such part.")
    if not job.place.has_probe:
        raise Refused(f"{job.place.name} has no gauge. Enter readings by hand, or take in its file.")
    about_um = sum(f.dry_um.likely for f in lies.films if f.dry_um)
    if about_um <= 0:
        raise Refused("Nothing on it builds a film yet: there is nothing to measure.")
    um = SimulatedGauge(about_um).read(part_id, now, readings_wanted(part.area_m2 * part.count))
    return GaugeOut(um=um, device=SIMULATED_GAUGE)
