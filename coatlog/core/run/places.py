"""Where a part was in time, and the air it had there: a part that moves keeps its past."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from .timeline import Climate, Series, Timeline

__all__ = ["Stays", "air_through", "place_at", "stays_of", "weather_through"]

#: (from when on [epoch s], place), the first from the beginning
Stays = tuple[tuple[int, str], ...]


def stays_of(told: Sequence[tuple[int, str]], place_id: str) -> Stays:
    """Where a part was by what was told, each place once until it changes; told nothing: `place_id`."""
    out: list[tuple[int, str]] = []
    for at, place in told or [(0, place_id)]:
        if out and out[-1][1] == place:
            continue
        out.append((at if out else 0, place))
    return tuple(out)


def place_at(stays: Stays, at: int) -> str:
    """The place of a part at an instant [epoch s]."""
    return next(place for from_at, place in reversed(stays) if from_at <= max(at, 0))


def air_through(stays: Stays, air_of: Callable[[str], Timeline]) -> Timeline:
    """The air of a part through all the places it stood in."""
    if len(stays) == 1:
        return air_of(stays[0][1])
    return Timeline.joined([(from_at, air_of(place)) for from_at, place in stays])


def weather_through(stays: Stays, climate: Climate) -> Series:
    """The readings of the places it stood in, each while it stood there."""
    if len(stays) == 1:
        return climate.places.get(stays[0][1], Series())
    rows: list[tuple[Any, ...]] = []
    for i, (from_at, place) in enumerate(stays):
        to_at = stays[i + 1][0] if i + 1 < len(stays) else None
        s = climate.places.get(place, Series())
        none = (None,) * len(s.t_at)
        columns = (s.t_at, s.air_degc, s.surface_degc or none, s.rh_frac, s.source)
        open_air = (s.wind_m_s or none, s.rain_mm or none)
        for row in zip(*columns, *open_air, strict=True):
            # An hour that had begun as it came there counts too.
            if row[0] > from_at - 3600 and (to_at is None or row[0] < to_at):
                rows.append(row)
    names = ("t_at", "air_degc", "surface_degc", "rh_frac", "source", "wind_m_s", "rain_mm")
    return Series(**{name: tuple(row[i] for row in rows) for i, name in enumerate(names)})
