"""A shop's zone and opening hours turned into UTC intervals; the core knows no time zone."""

from __future__ import annotations

import datetime as dt
from zoneinfo import ZoneInfo

from .models import Crew, Shop

__all__ = ["open_intervals", "presence"]


def open_intervals(shop: Shop, now: int, *, days: int = 14) -> tuple[tuple[int, int], ...]:
    """Opening intervals (UTC epoch seconds) from today on, the running one included.

    Each day's local times are converted by themselves, so a day with a clock change has the
    hours the wall clock shows.
    """
    zone = ZoneInfo(shop.time_zone)
    today = dt.datetime.fromtimestamp(now, zone).date()
    out = []
    for i in range(days):
        day = today + dt.timedelta(days=i)
        opens = int(dt.datetime.combine(day, shop.opens, zone).timestamp())
        closes = int(dt.datetime.combine(day, shop.closes, zone).timestamp())
        if closes > now:
            out.append((max(opens, now) if opens <= now else opens, closes))
    return tuple(out)


def presence(
    shop: Shop, crew: Crew, hours: tuple[tuple[int, int], ...], away: list[tuple[int, int]]
) -> tuple[tuple[int, int], ...]:
    """When somebody is there: the shop's opening intervals cut to their days and hours, without absences."""
    zone = ZoneInfo(shop.time_zone)
    out: list[tuple[int, int]] = []
    for opens, closes in hours:
        day = dt.datetime.fromtimestamp(closes, zone).date()
        if crew.days and day.weekday() not in crew.days:
            continue
        if crew.starts is not None:
            opens = max(opens, int(dt.datetime.combine(day, crew.starts, zone).timestamp()))
        if crew.ends is not None:
            closes = min(closes, int(dt.datetime.combine(day, crew.ends, zone).timestamp()))
        spans = [(opens, closes)]
        for a, b in away:
            spans = [x for s, e in spans for x in ((s, min(e, a)), (max(s, b), e)) if x[0] < x[1]]
        out += [x for x in spans if x[0] < x[1]]
    return tuple(out)
