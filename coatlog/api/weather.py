"""Weather of a place: import, probe, and the hours ahead."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from django.db import transaction
from django.http import HttpRequest
from ninja import File, Form, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from coatlog.core.climate import Limits, Verdict, condensation_point_degc
from coatlog.core.sheet import Sheet
from coatlog.core.windows import CoatWindow, Hour, Need, find_windows, judge_hour
from coatlog.devices.forecast import SimulatedForecast
from coatlog.devices.probe import SimulatedProbe
from coatlog.errors import NotFound, Refused
from coatlog.logbook.imports import import_weather, take_forecast
from coatlog.logbook.models import WeatherImport
from coatlog.logbook.readings import add_probe_reading
from coatlog.logbook.weather_files import Manner
from coatlog.run import services
from coatlog.run.weather_windows import hours_of
from coatlog.shelf.services import sheets_by_id
from coatlog.shop import clock
from coatlog.shop.models import Place

from .guard import content_of, member_of, place_of, writer_of

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
    """`margin_k` is surface above dew point, ± `uncertainty_k`."""

    at: int
    air_degc: float
    rh_frac: float
    dew_point_degc: float
    margin_k: float
    uncertainty_k: float
    wind_m_s: float | None
    rain_mm: float | None
    source: str
    stops: list[Verdict]
    warnings: list[Verdict]


class WeatherPage(Schema):
    """`need`: what the coat asked about takes; `windows` have room for all of it."""

    now_at: int
    place_id: UUID
    place: str
    has_probe: bool
    outdoors: bool
    go: bool
    reason: str
    hours: list[HourOut]
    need: Need
    need_why: str
    least_margin_k: float
    windows: list[CoatWindow]
    imports: list[ImportOut]


class WeatherQuery(Schema):
    """`sheet_id`: the material whose limits and times count; `coat_min` minutes the coat takes."""

    hours: int = Field(default=96, ge=1, le=240)
    sheet_id: str = ""
    coat_min: int = Field(default=60, ge=1, le=1440)


class ProbeOut(Schema):
    at: int
    air_degc: float
    surface_degc: float
    rh_frac: float
    simulated: bool


@router.get("/weather/{place_id}", response=WeatherPage, operation_id="get_weather")
def get_weather(request: HttpRequest, place_id: UUID, q: Query[WeatherQuery]) -> WeatherPage:
    member, now = member_of(request), clock.now()
    place = place_of(request, place_id)
    sheet = None
    if q.sheet_id:
        sheet = sheets_by_id(member.shop, [q.sheet_id]).get(q.sheet_id)
        if sheet is None:
            raise NotFound("No such material in this shop.")
    limits = sheet.limits if sheet else Limits()
    need, need_why = _need(sheet, q.coat_min * 60)
    hours = hours_of(place, now, q.hours)
    current, source = next((h, s) for h, s in hours if h.at == now)
    verdicts = judge_hour(limits, current, outdoors=place.outdoors)
    stops = [v for v in verdicts if v.severity == "stop"]
    ahead = [h for h, _ in hours if h.at >= now]
    imports = WeatherImport.objects.filter(place=place).order_by("-id")[:8]
    return WeatherPage(
        now_at=now,
        place_id=place.pk,
        place=place.name,
        has_probe=place.has_probe,
        outdoors=place.outdoors,
        go=current.known and not stops,
        reason=_reason(current, source, stops, limits),
        hours=[_hour_out(h, source, limits, place) for h, source in hours],
        need=need,
        need_why=need_why,
        least_margin_k=limits.dew_margin_k,
        windows=list(find_windows(ahead, need, limits, outdoors=place.outdoors, now=now))[:6],
        imports=[ImportOut.from_orm(i) for i in imports],
    )


def _hour_out(hour: Hour, source: str, limits: Limits, place: Place) -> HourOut:
    verdicts = judge_hour(limits, hour, outdoors=place.outdoors)
    dew = float(condensation_point_degc(hour.air_degc, hour.rh_frac))
    return HourOut(
        at=hour.at,
        air_degc=round(hour.air_degc, 1),
        rh_frac=round(hour.rh_frac, 3),
        dew_point_degc=round(dew, 1),
        margin_k=round(hour.surface_degc - dew, 1),
        uncertainty_k=hour.uncertainty_k,
        wind_m_s=hour.wind_m_s,
        rain_mm=hour.rain_mm,
        source=source,
        stops=[v for v in verdicts if v.severity == "stop"],
        warnings=[v for v in verdicts if v.severity == "warn"],
    )


def _reason(hour: Hour, source: str, stops: list[Verdict], limits: Limits) -> str:
    """Go or no go in one sentence, with the margin and its uncertainty."""
    if stops:
        return " ".join(f"{v.what} {v.why} {v.instead}" for v in stops)
    if not hour.known:
        return (
            "Only a typical year speaks of now, and no typical hour ever happened: measure first."
            if source == "typical"
            else "No reading for this location. Measure first."
        )
    dew = float(condensation_point_degc(hour.air_degc, hour.rh_frac))
    margin = hour.surface_degc - dew
    return (
        f"Surface is {margin:.1f} °C above dew point, ± {hour.uncertainty_k:.1f}: "
        f"at least {margin - hour.uncertainty_k:.1f} °C, {limits.dew_margin_k:g} °C is needed."
    )


_DRY = {"water": "water resistant", "touch": "touch dry", "full": "fully cured"}


def _need(sheet: Sheet | None, coat_s: int) -> tuple[Need, str]:
    """What a coat takes by its sheet, at the sheet's own temperatures; an hour of coat when silent."""
    if sheet is None:
        return Need(coat_s=coat_s), "Application only: choose a material to count its flash-off and drying"
    own = next((r for r in sheet.recoat if r.next == "same"), None)
    flash = own.windows[0].from_s if own else 0
    dry, said = sheet.limits.dry_after_s, "water resistant"
    for gate in ("water", "touch", "full"):
        points = sheet.points_for(gate)
        if dry is None and points:
            dry, said = min(points, key=lambda p: abs(p[0] - 20))[1], _DRY[gate]
    hours = f"{(dry or 0) / 3600:g} h"
    grade = "typical values" if sheet.grade == "typical" else "data sheet"
    why = f"{sheet.name} ({grade}): {flash // 60} min flash-off, then {hours} until {said}"
    return Need(coat_s=coat_s, flash_s=flash, dry_s=dry or 0), why


class ImportIn(Schema):
    """What a weather file cannot say of itself."""

    lay: Literal["history", "this_year"]
    stamps: Literal["start", "end"] = "start"
    hours_from_utc: float | None = Field(default=None, ge=-14, le=14)


@router.post("/weather/{place_id}/import", response=ImportOut, operation_id="import_weather")
def post_import(
    request: HttpRequest, place_id: UUID, file: File[UploadedFile], manner: Form[ImportIn]
) -> ImportOut:
    member, now = member_of(request), clock.now()
    place = place_of(request, place_id)
    data, name = content_of(file)
    with transaction.atomic():
        record = import_weather(member, place, name, data, Manner(**manner.dict()), now=now)
        services.refresh_place(place, now=now)
    return ImportOut.from_orm(record)


@router.post("/weather/{place_id}/probe", response=ProbeOut, operation_id="read_probe")
def post_probe(request: HttpRequest, place_id: UUID) -> ProbeOut:
    """Ask the place's (simulated) probe and keep what it says."""
    _, now = writer_of(request, "measure"), clock.now()
    place = place_of(request, place_id)
    if not place.has_probe:
        raise Refused(f"{place.name} has no sensor. Enter a reading by hand.")
    r = SimulatedProbe().read(place.name, now)
    with transaction.atomic():
        add_probe_reading(place, at=r.at, air_degc=r.air_degc, surface_degc=r.surface_degc, rh_frac=r.rh_frac)
        services.refresh_place(place, now=now)
    return ProbeOut(
        at=r.at, air_degc=r.air_degc, surface_degc=r.surface_degc, rh_frac=r.rh_frac, simulated=True
    )


class ForecastOut(Schema):
    hours: int
    simulated: bool


@router.post("/weather/{place_id}/forecast", response=ForecastOut, operation_id="fetch_forecast")
def post_forecast(request: HttpRequest, place_id: UUID) -> ForecastOut:
    """Ask the (simulated) forecast feed for a place in the open, and keep what it says."""
    member, now = member_of(request), clock.now()
    place = place_of(request, place_id)
    if not place.outdoors:
        raise Refused(f"{place.name} is indoors: forecasts do not apply there. Enter a reading.")
    with transaction.atomic():
        hours = take_forecast(member, place, SimulatedForecast(), now=now)
        services.refresh_place(place, now=now)
    return ForecastOut(hours=hours, simulated=True)
