"""Weather of a place: import, probe, and the hours ahead."""

from __future__ import annotations

import itertools
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from coatlog.core.climate import Limits, coating_gate, condensation_point_degc
from coatlog.core.run.timeline import Timeline
from coatlog.devices.probe import SimulatedProbe
from coatlog.errors import NotFound, NotPermitted, Refused
from coatlog.logbook.climate import add_probe_reading, climate_of
from coatlog.logbook.imports import import_weather
from coatlog.logbook.models import WeatherImport
from coatlog.shop import clock
from coatlog.shop.auth import member_of
from coatlog.shop.models import Member, Place

from . import services
from .pages import OTHER_U_K, PROBE_U_K

router = Router()


class ImportOut(Schema):
    id: int
    file_name: str
    format: str
    rows: int
    from_at: int
    to_at: int
    at: int
    notes: list[str]


class HourOut(Schema):
    at: int
    air_degc: float
    rh_frac: float
    dew_point_degc: float
    margin_k: float
    source: str
    stops: list[str]


class WindowOut(Schema):
    from_at: int
    to_at: int


class WeatherPage(Schema):
    now_at: int
    place_id: UUID
    place: str
    has_probe: bool
    hours: list[HourOut]
    windows: list[WindowOut]
    imports: list[ImportOut]


class ProbeOut(Schema):
    at: int
    air_degc: float
    surface_degc: float
    rh_frac: float
    simulated: bool


def _place(member: Member, place_id: UUID) -> Place:
    place = Place.objects.select_related("shop").filter(shop_id=member.shop_id, pk=place_id).first()
    if place is None:
        raise NotFound("No such place in this shop.")
    return place


@router.get("/weather/{place_id}", response=WeatherPage, operation_id="get_weather")
def get_weather(request: HttpRequest, place_id: UUID, hours: int = 72) -> WeatherPage:
    member, now = member_of(request), clock.now()
    place = _place(member, place_id)
    if not 1 <= hours <= 240:
        raise Refused.field("hours", hours, "1 to 240")
    air = Timeline(climate_of(member.shop, {str(place.pk)}, since=now - 2 * 86400), str(place.pk), None, ())
    rows = [_hour(air, (now // 3600 + i) * 3600 if i else now) for i in range(-12, hours)]
    rows.sort(key=lambda r: r.at)
    imports = WeatherImport.objects.filter(place=place).order_by("-id")[:8]
    return WeatherPage(
        now_at=now,
        place_id=place.pk,
        place=place.name,
        has_probe=place.has_probe,
        hours=rows,
        windows=_windows([r for r in rows if r.at >= now]),
        imports=[ImportOut.from_orm(i) for i in imports],
    )


def _hour(air: Timeline, at: int) -> HourOut:
    a = air.at(at)
    u = PROBE_U_K if a.source == "probe" else OTHER_U_K
    stops = coating_gate(
        Limits(), surface_degc=a.surface_degc, air_degc=a.air_degc, rh_frac=a.rh_frac, uncertainty_k=u
    )
    dew = float(condensation_point_degc(a.air_degc, a.rh_frac))
    return HourOut(
        at=at,
        air_degc=round(a.air_degc, 1),
        rh_frac=round(a.rh_frac, 3),
        dew_point_degc=round(dew, 1),
        margin_k=round(a.surface_degc - dew, 1),
        source=a.source,
        stops=[f"{s.what} {s.why}" for s in stops],
    )


def _windows(rows: list[HourOut]) -> list[WindowOut]:
    """Runs of hours in which nothing stops a coat."""
    out: list[WindowOut] = []
    for row, after in itertools.pairwise(rows):
        if row.stops or row.source == "default":
            continue
        if out and out[-1].to_at == row.at:
            out[-1].to_at = after.at
        else:
            out.append(WindowOut(from_at=row.at, to_at=after.at))
    return [w for w in out if w.to_at - w.from_at >= 3600][:6]


@router.post("/weather/{place_id}/import", response=ImportOut, operation_id="import_weather")
def post_import(request: HttpRequest, place_id: UUID, file: File[UploadedFile]) -> ImportOut:
    member, now = member_of(request), clock.now()
    place = _place(member, place_id)
    name = file.name or "file"
    if file.size is None or file.size > settings.UPLOAD_LIMIT_BYTES:
        raise Refused.field(
            "file", f"{(file.size or 0) / 1e6:.1f} MB", "8 MB at most", f"{name} is larger than 8 MB."
        )
    with transaction.atomic():
        record = import_weather(member, place, name, file.read(), now=now)
        services.refresh_place(place, now=now)
    return ImportOut.from_orm(record)


@router.post("/weather/{place_id}/probe", response=ProbeOut, operation_id="read_probe")
def post_probe(request: HttpRequest, place_id: UUID) -> ProbeOut:
    """Ask the place's (simulated) probe and keep what it says."""
    member, now = member_of(request), clock.now()
    place = _place(member, place_id)
    if not member.may_write:
        raise NotPermitted("A viewer may look, not measure.")
    if not place.has_probe:
        raise Refused(f"{place.name} has no probe. Read the air by hand and enter it.")
    r = SimulatedProbe().read(str(place.pk), now)
    with transaction.atomic():
        add_probe_reading(place, at=r.at, air_degc=r.air_degc, surface_degc=r.surface_degc, rh_frac=r.rh_frac)
        services.refresh_place(place, now=now)
    return ProbeOut(
        at=r.at, air_degc=r.air_degc, surface_degc=r.surface_degc, rh_frac=r.rh_frac, simulated=True
    )
