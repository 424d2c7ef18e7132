"""Is now a time to coat outdoors or in, and when is the next: hours judged one by one, then together.

A coat needs more than a good hour: set-up and coat, its flash, and the time it must stay dry.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from .climate import Limits, Verdict, coating_gate, dew_margin, shown
from .errors import require
from .why import Why

__all__ = ["CoatWindow", "Hour", "Need", "find_windows", "judge_hour"]

WIND_WARN_M_S, WIND_STOP_M_S = 5.0, 8.0  # mean wind; common practice, no published source
PRACTICE = Why(kind="practice", ref="common practice, no published source")


@dataclass(frozen=True, slots=True, kw_only=True)
class Hour:
    """Air of one hour: start [epoch s], degC, humidity [-], mean wind [m/s], rain [mm].

    `uncertainty_k` is how far surface less dew point may be off [K]; `known` false: nobody measured
    or foretold it.
    """

    at: int
    air_degc: float
    surface_degc: float
    rh_frac: float
    wind_m_s: float | None = None
    rain_mm: float | None = None
    uncertainty_k: float = 2.0
    known: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Need:
    """What a coat needs [s]: to put it on, to flash, and afterwards to stay dry."""

    coat_s: int
    flash_s: int = 0
    dry_s: int = 0

    @property
    def total_s(self) -> int:
        """All of it, from the first stroke to dry [s]."""
        return self.coat_s + self.flash_s + self.dry_s


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatWindow:
    """Starts from `from_at` to `latest_start_at` fit; the good hours end at `to_at`, and why."""

    from_at: int
    latest_start_at: int
    to_at: int
    ends_because: str
    warnings: tuple[str, ...] = ()


def judge_hour(limits: Limits, hour: Hour, *, outdoors: bool) -> tuple[Verdict, ...]:
    """Stops and warnings for putting a coat on in that hour.  Raises OutOfRange."""
    out = list(
        coating_gate(
            limits,
            surface_degc=hour.surface_degc,
            air_degc=hour.air_degc,
            rh_frac=hour.rh_frac,
            uncertainty_k=hour.uncertainty_k,
        )
    )
    if not outdoors:
        return tuple(out)
    out += _wet(hour)
    wind = hour.wind_m_s
    if wind is not None and wind > WIND_WARN_M_S:
        hard = wind > WIND_STOP_M_S
        out.append(
            Verdict(
                rule_id="climate.wind",
                severity="stop" if hard else "warn",
                what=f"Mean wind is {wind:.1f} m/s.",
                why="Overspray drifts and the paint dries before it lands.",
                instead="Wait for less than 8 m/s, or screen it."
                if hard
                else "Put up screens, or apply by roller.",
                source=PRACTICE,
                values={"wind_m_s": wind, "most_m_s": WIND_STOP_M_S},
            )
        )
    return tuple(out)


def _wet(hour: Hour) -> tuple[Verdict, ...]:
    if not hour.rain_mm:
        return ()
    return (
        Verdict(
            rule_id="climate.rain",
            severity="stop",
            what=f"Rain, {hour.rain_mm:.1f} mm in the hour.",
            why="Rain on an uncured film spots it or washes it off.",
            instead="Wait, or put it under cover until it is water-proof.",
            source=PRACTICE,
            values={"rain_mm": hour.rain_mm},
        ),
    )


def find_windows(
    hours: Sequence[Hour], need: Need, limits: Limits, *, outdoors: bool, now: int
) -> tuple[CoatWindow, ...]:
    """Windows from `now` in which a coat can be started and has all the time it needs.

    While it is put on and flashes every stop counts; while it must stay dry rain outdoors does, and dew and
    frost indoors too.  Hours nobody measured or foretold end a window.  Raises OutOfRange (a coat of 0 s).
    """
    require(need.coat_s > 0, "coat_s", need.coat_s, "more than 0 s")
    rows = [h for h in hours if h.at + 3600 > now]
    stops = [_reason(h, limits, outdoors, coating=True) for h in rows]
    wet = [_reason(h, limits, outdoors, coating=False) for h in rows]
    out: list[CoatWindow] = []
    i = 0
    while i < len(rows):
        if stops[i]:
            i += 1
            continue
        good, why = _run(rows, stops, i)
        dry, then = _run(rows, wet, i)
        start = max(rows[i].at, now)
        latest = min(good - need.coat_s - need.flash_s, dry - need.total_s)
        if dry - need.total_s < good - need.coat_s - need.flash_s:
            why = f"it must be dry by then: {then}" if need.dry_s else then
        if latest >= start:
            inside = [h for h in rows[i:] if h.at < good]
            out.append(
                CoatWindow(
                    from_at=start,
                    latest_start_at=latest,
                    to_at=good,
                    ends_because=why,
                    warnings=(
                        *_warnings(inside, limits, outdoors),
                        *_close_calls([h for h in rows[i:] if h.at < latest + need.total_s], limits, need),
                    ),
                )
            )
        while i < len(rows) and rows[i].at < good:
            i += 1
    return tuple(out)


def _reason(hour: Hour, limits: Limits, outdoors: bool, *, coating: bool) -> str:
    """The first thing against the hour, empty: nothing is."""
    if not hour.known:
        return "no data after this"
    verdicts = judge_hour(limits, hour, outdoors=outdoors) if coating else _wetted(hour, outdoors)
    return next((v.what for v in verdicts if v.severity == "stop"), "")


def _wetted(hour: Hour, outdoors: bool) -> tuple[Verdict, ...]:
    """What wets a film that has to stay dry: rain in the open, dew and frost anywhere."""
    out = list(_wet(hour)) if outdoors else []
    margin = dew_margin(hour.surface_degc, hour.air_degc, hour.rh_frac)
    if hour.surface_degc <= 0:
        what, why = (
            f"Frost, the surface is at {hour.surface_degc:.1f} °C.",
            "Frost lifts a film that is not through.",
        )
    elif margin.value <= 0:
        what, why = (
            f"Dew, the surface is {-margin.value:.1f} °C below dew point.",
            "Dew spots it, or it blushes.",
        )
    else:
        return tuple(out)
    return (
        *out,
        Verdict(
            rule_id="climate.dew_while_drying",
            severity="stop",
            what=what,
            why=why,
            instead="Coat earlier, or keep it warm until it is water-proof.",
            source=margin.why,
        ),
    )


def _close_calls(rows: Sequence[Hour], limits: Limits, need: Need) -> tuple[str, ...]:
    """What may go wrong while it dries: dew within what is not known of the air, cold that stops the cure."""
    if not need.dry_s:
        return ()
    out = []
    margins = [(dew_margin(h.surface_degc, h.air_degc, h.rh_frac).value, h.uncertainty_k) for h in rows]
    least, u_k = min(margins, key=lambda m: m[0] - m[1])
    if 0 < least <= u_k:
        out.append(f"Dew may settle while it dries: {least:.1f} °C above dew point, ± {u_k:.1f}.")
    coldest = min(h.surface_degc for h in rows)
    if 0 < coldest < limits.surface_min_degc:
        told = shown(coldest, limits.surface_min_degc, "°C")
        out.append(f"{told[0]} while it dries: under {told[1]} it dries late or not at all.")
    return tuple(out)


def _run(rows: Sequence[Hour], against: Sequence[str], i: int) -> tuple[int, str]:
    """End of the unbroken run of hours from i, and what ends it."""
    for j in range(i, len(rows)):
        if against[j]:
            return rows[j].at, against[j]
        if j + 1 < len(rows) and rows[j + 1].at > rows[j].at + 3600:
            return rows[j].at + 3600, "data missing"
    return rows[-1].at + 3600, "weather data ends here"


def _warnings(rows: Sequence[Hour], limits: Limits, outdoors: bool) -> tuple[str, ...]:
    found = itertools.chain.from_iterable(judge_hour(limits, h, outdoors=outdoors) for h in rows)
    return tuple(dict.fromkeys(v.what for v in found if v.severity == "warn"))
