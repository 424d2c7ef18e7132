"""A shop's zone and opening hours turned into UTC intervals; the core knows no time zone."""

from __future__ import annotations

import datetime as dt
from zoneinfo import ZoneInfo

from .models import Shop

__all__ = ["open_intervals"]


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
