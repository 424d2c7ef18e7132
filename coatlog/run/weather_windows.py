"""Air of a place hour by hour, and when one outdoors is fit to coat in."""

from __future__ import annotations

from coatlog.core.climate import Limits
from coatlog.core.run.timeline import GUESSES, Timeline
from coatlog.core.windows import Hour, judge_hour
from coatlog.logbook.models import ClimateReading
from coatlog.logbook.readings import climate_of
from coatlog.shop.models import Place

from .air_now import OTHER_U_K, PROBE_U_K

__all__ = ["fit_intervals", "hours_of"]

FORECAST_H = 96
FAR_S = 60 * 86400


def hours_of(place: Place, now: int, ahead: int, *, back: int = 12) -> list[tuple[Hour, str]]:
    """Hours back and ahead, each with its source; the current instant among them."""
    air = Timeline(climate_of(place.shop, {str(place.pk)}, since=now - 2 * 86400), str(place.pk), None, ())
    open_air = {
        r.at // 3600: (r.wind_m_s, r.rain_mm)
        for r in ClimateReading.objects.filter(
            place=place, at__gte=now - 86400, at__lt=now + (ahead + 1) * 3600
        )
        .exclude(wind_m_s=None, rain_mm=None)
        .order_by("id")
    }
    instants = sorted({now, *((now // 3600 + i) * 3600 for i in range(-back, ahead) if i)})
    out = []
    for at in instants:
        a = air.at(at)
        wind, rain = open_air.get(at // 3600, (None, None))
        hour = Hour(
            at=at,
            air_degc=a.air_degc,
            surface_degc=a.surface_degc,
            rh_frac=a.rh_frac,
            wind_m_s=wind,
            rain_mm=rain,
            uncertainty_k=PROBE_U_K if a.source in ("probe", "hand", "surface") else OTHER_U_K,
            known=a.source not in GUESSES,
        )
        out.append((hour, a.source))
    return out


def fit_intervals(place: Place, now: int, limits: Limits) -> tuple[tuple[int, int], ...]:
    """When a coat may go on and dry in the open, as far as is foretold; beyond that nothing forbids it."""
    hours = [h for h, _ in hours_of(place, now, FORECAST_H, back=0)]
    out: list[tuple[int, int]] = []
    for i, hour in enumerate(hours):
        end = hours[i + 1].at if i + 1 < len(hours) else now + FAR_S
        stops = hour.known and any(
            v.severity == "stop" for v in judge_hour(limits, hour, outdoors=place.outdoors)
        )
        if stops:
            continue
        if out and out[-1][1] == hour.at:
            out[-1] = (out[-1][0], end)
        else:
            out.append((hour.at, end))
    return tuple(out)
