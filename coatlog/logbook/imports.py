"""Taking a weather file into a place's climate series."""

from __future__ import annotations

import datetime as dt
from zoneinfo import ZoneInfo

from django.db import transaction

from coatlog.devices.forecast import ForecastFeed
from coatlog.errors import NotPermitted
from coatlog.shop.models import Member, Place

from .models import ClimateReading, WeatherImport
from .weather_files import Manner, read_weather

__all__ = ["import_weather", "take_forecast"]


@transaction.atomic
def import_weather(
    member: Member, place: Place, file_name: str, data: bytes, manner: Manner, *, now: int
) -> WeatherImport:
    """Read and store a file, whole or not at all.  Raises Refused, NotPermitted."""
    if not member.may_write:
        raise NotPermitted("A viewer can look, not import.")
    year = dt.datetime.fromtimestamp(now, ZoneInfo(place.shop.time_zone)).year
    weather = read_weather(data, file_name, year=year, manner=manner)
    record = WeatherImport.objects.create(
        place=place,
        actor_id=member.user_id,
        file_name=file_name[:200],
        format=weather.format,
        rows=len(weather.rows),
        from_at=weather.rows[0].at,
        to_at=weather.rows[-1].at + 3600,
        at=now,
        notes=list(weather.notes),
    )
    ClimateReading.objects.bulk_create(
        [
            ClimateReading(
                place=place,
                at=r.at,
                air_degc=r.air_degc,
                surface_degc=r.surface_degc,
                rh_frac=max(r.rh_frac, 0.001),
                wind_m_s=r.wind_m_s,
                rain_mm=r.rain_mm,
                source="typical" if manner.lay == "this_year" else "import",
                weather_import=record,
            )
            for r in weather.rows
        ],
        batch_size=2000,
    )
    return record


def take_forecast(member: Member, place: Place, feed: ForecastFeed, *, now: int) -> int:
    """Store what a feed foretells for a place; how many hours.  Raises NotPermitted, OSError."""
    if not member.may_write:
        raise NotPermitted("A viewer can look, not fetch.")
    hours = feed.read(str(place.pk), now)
    ClimateReading.objects.bulk_create(
        [
            ClimateReading(
                place=place,
                at=h.at,
                air_degc=h.air_degc,
                rh_frac=h.rh_frac,
                wind_m_s=h.wind_m_s,
                rain_mm=h.rain_mm,
                source="forecast",
            )
            for h in hours
        ]
    )
    return len(hours)
