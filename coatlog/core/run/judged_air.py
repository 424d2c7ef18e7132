"""What the air was while a coat went on and dried, and what the painter breathed, against the sheet."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..climate import condensation_point_degc
from ..sheet import Sheet
from ..why import Why
from ..windows import WIND_STOP_M_S, WIND_WARN_M_S
from .accumulator import CoatRecord
from .part_log import PRACTICE, PartLog, Values, of_coat
from .recoat_windows import reach_min, sheet_pace
from .states import Film, LogFinding
from .timeline import GUESSES, SOURCES

__all__ = ["judge_air", "judge_breathing", "judge_first_night", "judge_heat", "judge_open_air"]

DEW_K = 0.1  # assumed: nearer to the dew point than this it is wet
FIRST_NIGHT_S = 18 * 3600  # assumed: the afternoon it was done, and the night after it
SPRAYED = ("spray_gun", "liner_gun", "aerosol")
FORETOLD = (*GUESSES, "forecast")
_SOURCES = tuple(SOURCES)


def judge_air(log: PartLog, film: Film, record: CoatRecord, sheet: Sheet) -> Iterator[LogFinding]:
    """Surface, humidity and dew while it went on and until it can be touched, against the sheet."""
    start = record.started_at
    done = film.done_at if film.done_at is not None else start
    points = sheet.points_for("touch")
    touch = reach_min(log.air, sheet_pace(sheet, points, "min"), done) if points else done
    end = min(touch if touch is not None else done + 12 * 3600, done + 24 * 3600)
    inside = log.air.t[(log.air.t > start) & (log.air.t <= end)]
    k = np.searchsorted(log.air.t, np.concatenate([[start], inside]), side="right") - 1
    surface, air, rh = log.air.surface[k], log.air.air[k], log.air.rh[k]
    margin = surface - condensation_point_degc(np.clip(air, -40, 60), np.clip(rh, 0.001, 1.0))
    x, why = sheet.limits, Why(kind="sheet", ref=sheet.name)

    def worst(code: str, severity: str, row: int, value: float, limit: float) -> LogFinding:
        source = _SOURCES[int(log.air.source[k[row]])]
        return of_coat(
            log, record, code, "note" if source in GUESSES else severity,
            max(start, int(log.air.t[k[row]])) if row else start,
            values={"value": round(float(value), 3), "limit": limit, "source": source}, why=why,
        )  # fmt: skip

    unheated = log.bay.sample(np.concatenate([[start], inside])).surface_degc
    low, high = int(np.argmin(surface)), int(np.argmax(unheated))
    if surface[low] < x.surface_min_degc:
        severity = "ruins" if surface[low] < sheet.stops_below_degc else "risks"
        yield worst("air.cold", severity, low, surface[low], x.surface_min_degc)
    if unheated[high] > x.surface_max_degc:
        yield worst("air.hot", "risks", high, unheated[high], x.surface_max_degc)
    damp, near = int(np.argmax(rh)), int(np.argmin(margin))
    if rh[damp] > x.rh_max_frac:
        yield worst("air.humid", "risks", damp, rh[damp], x.rh_max_frac)
    if margin[near] < x.dew_margin_k:
        yield worst(
            "air.dew", "ruins" if margin[near] <= DEW_K else "risks", near, margin[near], x.dew_margin_k
        )


def judge_open_air(
    log: PartLog, film: Film, record: CoatRecord, sheet: Sheet, method_id: str
) -> Iterator[LogFinding]:
    """Wind while it was sprayed, and rain until water does it no harm, where the place is out of doors.

    Hours measured or imported; what was only foretold is a note.
    """
    start, w = record.started_at, log.weather
    done = film.done_at if film.done_at is not None else start
    points = sheet.points_for("water") or sheet.points_for("touch")
    touch = reach_min(log.air, sheet_pace(sheet, points, "min"), done) if points else done
    dry = min(touch if touch is not None else done + 12 * 3600, done + 24 * 3600)
    hours = list(zip(w.t_at, w.wind_m_s, w.rain_mm, w.source, strict=False))
    winds = [(x, source) for at, x, _, source in hours if x is not None and at <= done and at + 3600 > start]
    winds += [
        (r.wind_m_s, "hand") for r in log.hand if r.wind_m_s is not None and start - 3600 <= r.at <= done
    ]
    if method_id in SPRAYED and winds:
        value, source = max(winds)
        if value > WIND_WARN_M_S:
            severity = "risks" if value > WIND_STOP_M_S and source not in FORETOLD else "note"
            values: Values = {"value": value, "limit": WIND_WARN_M_S, "source": source}
            yield of_coat(log, record, "air.wind", severity, start, values=values, why=PRACTICE)
    rains = [(at, x, source) for at, _, x, source in hours if x and at <= dry and at + 3600 > start]
    if rains:
        at, value, source = max(rains, key=lambda r: (r[2] not in FORETOLD, r[1]))
        severity = "note" if source in FORETOLD else "risks"
        values = {"value": value, "source": source}
        yield of_coat(log, record, "air.rain", severity, max(at, start), values=values, why=PRACTICE)


def judge_heat(log: PartLog, film: Film, record: CoatRecord, sheet: Sheet) -> Iterator[LogFinding]:
    """Heat over what the sheet allows a surface while it went on and flashed: solvent is shut in.

    Common practice, no published source.  Baked once it has flashed is another matter.
    """
    start = record.started_at
    flashed = next((s.from_at for s in film.spans if s.state not in ("wet", "flash")), None)
    for from_at, until_at, degc in log.heat:
        early = until_at > start and (flashed is None or from_at < flashed)
        if early and degc > sheet.limits.surface_max_degc:
            values: Values = {"value": degc, "limit": sheet.limits.surface_max_degc}
            at = max(from_at, start)
            yield of_coat(log, record, "heat.early", "risks", at, values=values, why=PRACTICE)
            return


def judge_first_night(
    log: PartLog, i: int, film: Film, record: CoatRecord, sheet: Sheet
) -> Iterator[LogFinding]:
    """Cold under the sheet's stop, or frost, in the night after it was dry to touch: it stands still.

    A note, with how long it stood still; where the air was only assumed nothing is said.
    """
    points = sheet.points_for("touch")
    if film.done_at is None or not points or i + 1 < len(log.records):
        return
    touch = reach_min(log.air, sheet_pace(sheet, points, "min"), film.done_at)
    if touch is None:
        return
    until = film.done_at + FIRST_NIGHT_S
    edges = log.air.t[(log.air.t > touch) & (log.air.t < until)]
    if touch >= until or not len(edges):
        return
    at = np.concatenate([[touch], edges])
    k = np.searchsorted(log.air.t, at, side="right") - 1
    surface = log.air.surface[k]
    known = np.array([_SOURCES[int(x)] not in FORETOLD for x in log.air.source[k]])
    limit = max(sheet.stops_below_degc, 0.0)
    cold = known & (surface < limit)
    if not cold.any():
        return
    stood_s = int(np.sum(np.diff(at, append=until)[cold]))
    row = int(np.argmin(np.where(known, surface, np.inf)))
    values: Values = {
        "value": round(float(surface[row]), 1),
        "limit": limit,
        "stood_s": stood_s,
        "source": _SOURCES[int(log.air.source[k[row]])],
    }
    severity = "risks" if surface[row] < 0 and sheet.law == "water" else "note"
    why = Why(kind="sheet", ref=sheet.name)
    yield of_coat(log, record, "cure.cold", severity, int(at[int(np.argmax(cold))]), values=values, why=why)


def judge_breathing(
    log: PartLog, record: CoatRecord, sheet: Sheet, *, first: bool = True
) -> Iterator[LogFinding]:
    """What the painter breathed through, against what the sheet asks for.

    Where nobody said, that is a note, on the `first` coat of a layer alone.
    """
    if not sheet.properties.needs_air_fed_mask:
        return
    why = Why(kind="sheet", ref=sheet.name)
    if any(sensitised for _, sensitised in record.masks):
        yield of_coat(log, record, "painter.sensitised", "risks", record.started_at, why=why)
    if any(breathing in ("cartridge", "none") for breathing, _ in record.masks):
        yield of_coat(log, record, "painter.air", "risks", record.started_at, why=why)
    elif first and not any(breathing for breathing, _ in record.masks):
        yield of_coat(log, record, "painter.unsaid", "note", record.started_at, why=why)
