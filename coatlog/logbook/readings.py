"""A shop's climate readings as the core's Climate."""

from __future__ import annotations

from coatlog.core.codec import content_id
from coatlog.core.run.timeline import Climate, Series
from coatlog.shop.models import Place, Shop

from .models import ClimateReading

__all__ = ["add_probe_reading", "climate_of"]


def climate_of(shop: Shop, place_ids: set[str], *, since: int) -> Climate:
    """Readings of places from `since` [epoch s] on.  The id changes when one of them is added."""
    places = {}
    outdoors = {str(pk) for pk in shop.places.filter(outdoors=True).values_list("pk", flat=True)}
    last: dict[str, int] = {}
    for place_id in sorted(place_ids):
        rows = list(
            ClimateReading.objects.filter(place_id=place_id, place__shop=shop, at__gte=since)
            .order_by("id")
            .values_list("id", "at", "air_degc", "surface_degc", "rh_frac", "source", "wind_m_s", "rain_mm")
        )
        last[place_id] = rows[-1][0] if rows else 0
        places[place_id] = Series(
            t_at=tuple(r[1] for r in rows),
            air_degc=tuple(r[2] for r in rows),
            surface_degc=tuple(r[3] for r in rows),
            rh_frac=tuple(r[4] for r in rows),
            source=tuple(r[5] for r in rows),
            wind_m_s=tuple(r[6] for r in rows) if place_id in outdoors else (),
            rain_mm=tuple(r[7] for r in rows) if place_id in outdoors else (),
        )
    name = {"last": last, "default": [shop.default_air_degc, shop.default_rh_frac]}
    if outdoors & places.keys():
        name["outdoors"] = sorted(outdoors & places.keys())
    return Climate(
        id=content_id(name),
        places=places,
        default_air_degc=shop.default_air_degc,
        default_rh_frac=shop.default_rh_frac,
        outdoors=tuple(sorted(outdoors & places.keys())),
    )


def add_probe_reading(
    place: Place, *, at: int, air_degc: float, surface_degc: float | None, rh_frac: float
) -> ClimateReading:
    """Store what the place's probe says."""
    return ClimateReading.objects.create(
        place=place, at=at, air_degc=air_degc, surface_degc=surface_degc, rh_frac=rh_frac, source="probe"
    )
