"""The climate a part really had: readings of several sources laid over one another in time.

Best first: the part's own surface reading (good 30 min), the place's probe (30 min), a reading by
hand (2 h), an imported hour, a forecast hour, an hour of a typical year, the shop's default.  The last
two are flagged as assumed: a typical year never happened.
The times are assumptions, not trade facts.  A probe or a hand reading is taken as it stands;
anything else is held to be off by up to 2 K.
"""

from __future__ import annotations

import bisect
import copy
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from ..drying import Pace, pace_per_s

__all__ = ["GUESSES", "SOURCES", "AirAt", "Climate", "Reading", "Sampled", "Series", "Timeline"]

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
#: source -> (how long a value holds [s], uncertainty [K]), weakest first.
SOURCES: dict[str, tuple[int, float]] = {
    "default": (0, 2.0),
    "typical": (3600, 2.0),
    "forecast": (3600, 2.0),
    "import": (3600, 2.0),
    "hand": (7200, 0.0),
    "probe": (1800, 0.0),
    "surface": (1800, 0.0),
}
_ORDER = tuple(SOURCES)
#: sources that say what is usual, not what was or will be
GUESSES = ("default", "typical")
_GUESSED = len(GUESSES)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """One reading at an instant; `surface_degc` None means surface at air temperature."""

    at: int
    air_degc: float
    rh_frac: float
    source: str
    surface_degc: float | None = None
    part_id: str | None = None
    wind_m_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Series:
    """Readings of one place, as arrays in the order they were stored.

    `wind_m_s`, `rain_mm`: of an hour from then on, of the open air only; empty under a roof.
    """

    t_at: tuple[int, ...] = ()
    air_degc: tuple[float, ...] = ()
    surface_degc: tuple[float | None, ...] = ()
    rh_frac: tuple[float, ...] = ()
    source: tuple[str, ...] = ()
    wind_m_s: tuple[float | None, ...] = ()
    rain_mm: tuple[float | None, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Climate:
    """All places' series as one immutable document with an id; `outdoors`: places without a roof."""

    id: str
    places: dict[str, Series] = field(default_factory=dict)
    default_air_degc: float = 18.0
    default_rh_frac: float = 0.6
    outdoors: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class AirAt:
    """Air and surface at one instant, with the source that said so."""

    surface_degc: float
    air_degc: float
    rh_frac: float
    source: str
    read_at: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sampled:
    """Air at many instants, arrays of one length [degC, fraction]; `guessed`: nobody read or foretold it."""

    surface_degc: Floats
    air_degc: Floats
    rh_frac: Floats
    guessed: npt.NDArray[np.bool_]


class Timeline:
    """Piecewise constant climate of one part, and ripening along it.

    Segment i runs from t[i] to t[i+1]; the last runs on without end.
    """

    def __init__(self, climate: Climate, place_id: str, part_id: str | None, hand: Sequence[Reading]) -> None:
        layers = _by_source(climate.places.get(place_id, Series()), part_id, hand)
        edges: list[Ints] = [np.array([0], dtype=np.int64)]
        for source, rows in layers.items():
            edges += [rows.t, rows.t + SOURCES[source][0]]
        self.t: Ints = np.unique(np.concatenate(edges))
        n = len(self.t)
        self.surface = np.full(n, climate.default_air_degc)
        self.air = np.full(n, climate.default_air_degc)
        self.rh = np.full(n, climate.default_rh_frac)
        self.source = np.zeros(n, dtype=np.int64)
        self.read_at = np.full(n, -1, dtype=np.int64)
        for source, rows in layers.items():
            self._lay(source, rows)
        self.u_k = np.array([SOURCES[s][1] for s in _ORDER])[self.source]
        widths = np.diff(self.t, append=self.t[-1])
        self._assumed = np.concatenate([[0], np.cumsum(np.where(self.source < _GUESSED, widths, 0))])
        self._sums: dict[tuple[Pace, int], tuple[list[float], list[float]]] = {}
        self._known: dict[tuple[int, int], tuple[Pace, tuple[list[float], list[float]]]] = {}
        self._times: list[int] = self.t.tolist()
        self._of_air: Timeline | None = None

    @classmethod
    def joined(cls, pieces: Sequence[tuple[int, Timeline]]) -> Timeline:
        """One after another: each from its instant [epoch s] until that of the next."""
        whole = copy.copy(pieces[0][1])
        names = ("surface", "air", "rh", "source", "read_at", "u_k")
        rows: dict[str, list[npt.NDArray[Any]]] = {name: [] for name in ("t", *names)}
        for i, (from_at, piece) in enumerate(pieces):
            cut = copy.copy(piece)
            from_at = from_at if i else int(cut.t[0])
            to_at = pieces[i + 1][0] if i + 1 < len(pieces) else 2**62
            cut._cut(max(from_at, int(cut.t[0])))
            inside = (cut.t >= from_at) & (cut.t < to_at)
            for name, kept in rows.items():
                kept.append(getattr(cut, name)[inside])
        for name, kept in rows.items():
            setattr(whole, name, np.concatenate(kept))
        widths = np.diff(whole.t, append=whole.t[-1])
        whole._assumed = np.concatenate([[0], np.cumsum(np.where(whole.source < _GUESSED, widths, 0))])
        whole._sums, whole._known, whole._times, whole._of_air = {}, {}, whole.t.tolist(), None
        return whole

    def _lay(self, source: str, rows: _Rows) -> None:
        if not len(rows.t):
            return
        k = np.searchsorted(rows.t, self.t, side="right") - 1
        on = (k >= 0) & (self.t < rows.t[np.maximum(k, 0)] + SOURCES[source][0])
        k = k[on]
        self.surface[on], self.air[on], self.rh[on] = rows.surface[k], rows.air[k], rows.rh[k]
        self.source[on], self.read_at[on] = _ORDER.index(source), rows.t[k]

    def at(self, instant: int) -> AirAt:
        """Climate at an `instant` [epoch s]."""
        k = int(np.searchsorted(self.t, instant, side="right")) - 1
        read = int(self.read_at[k])
        return AirAt(
            surface_degc=float(self.surface[k]),
            air_degc=float(self.air[k]),
            rh_frac=float(self.rh[k]),
            source=_ORDER[int(self.source[k])],
            read_at=read if read >= 0 else None,
        )

    def sample(self, instants: Ints) -> Sampled:
        """Climate at many instants at once [epoch s]."""
        k = np.searchsorted(self.t, instants, side="right") - 1
        return Sampled(
            surface_degc=self.surface[k],
            air_degc=self.air[k],
            rh_frac=self.rh[k],
            guessed=self.source[k] < _GUESSED,
        )

    def reach(self, pace: Pace, start_at: int, amount: float, shift: int) -> float | None:
        """Instant at which `amount` (1 = the sheet's time) has ripened since `start_at`.

        shift -1, 0, +1: at the cold, the likely, the warm end of each reading.  None: never, the
        climate known and assumed from here on is too cold.
        """
        rate, total = self._sum(pace, shift)
        k = bisect.bisect_right(self._times, start_at) - 1
        goal = total[k] + rate[k] * (start_at - self._times[k]) + amount
        j = bisect.bisect_left(total, goal) - 1
        if rate[j] <= 0:
            return None
        return self._times[j] + (goal - total[j]) / rate[j]

    def rates(self, pace: Pace, shift: int) -> tuple[list[int], list[float]]:
        """From when on how much ripens in a second; the last goes on without end.  `shift` as above."""
        return self._times, self._sum(pace, shift)[0]

    def _sum(self, pace: Pace, shift: int) -> tuple[list[float], list[float]]:
        """Rates and sums as plain lists: a plan asks for single instants, thousands of times."""
        # Found by the object itself first, which is kept with it: to compare paces takes longer.
        known = self._known.get((id(pace), shift))
        if known is not None:
            return known[1]
        key = (pace, shift)
        if key not in self._sums:
            rate = pace_per_s(pace, self.surface + shift * self.u_k, self.rh)
            total = np.concatenate([[0.0], np.cumsum(rate[:-1] * np.diff(self.t))])
            self._sums[key] = (rate.tolist(), total.tolist())
        self._known[id(pace), shift] = (pace, self._sums[key])
        return self._sums[key]

    def of_air(self) -> Timeline:
        """The same with everything as warm as the air: what stands in a cup does not know the hull."""
        if self._of_air is None:
            out = copy.copy(self)
            out.surface, out._sums, out._known = self.air, {}, {}
            self._of_air = out
        return self._of_air

    def heated(self, from_at: int, degc: float, until_at: int | None = None) -> Timeline:
        """The same with the surface at least this warm from an instant on [degC], to another where one is."""
        out = copy.copy(self)
        for edge in (from_at, until_at):
            if edge is not None:
                out._cut(edge)
        hot = (out.t >= from_at) & (out.t < (2**62 if until_at is None else until_at))
        out.surface = np.where(hot, np.maximum(out.surface, degc), out.surface)
        widths = np.diff(out.t, append=out.t[-1])
        out._assumed = np.concatenate([[0], np.cumsum(np.where(out.source < _GUESSED, widths, 0))])
        out._sums, out._known, out._times, out._of_air = {}, {}, out.t.tolist(), None
        return out

    def _cut(self, at: int) -> None:
        """Begin a segment at an instant [epoch s]."""
        k = int(np.searchsorted(self.t, at, side="right")) - 1
        if self.t[k] == at:
            return
        self.t = np.insert(self.t, k + 1, at)
        for name in ("surface", "air", "rh", "source", "read_at", "u_k"):
            row = getattr(self, name)
            setattr(self, name, np.insert(row, k + 1, row[k]))

    def assumed_s(self, start_at: int, end_at: int) -> int:
        """Seconds between two instants that nobody measured or foretold."""
        return max(0, round(self._assumed_until(end_at) - self._assumed_until(start_at)))

    def _assumed_until(self, instant: int) -> float:
        k = int(np.searchsorted(self.t, instant, side="right")) - 1
        inside = instant - self.t[k] if self.source[k] < _GUESSED else 0
        return float(self._assumed[k] + inside)


@dataclass(frozen=True, slots=True)
class _Rows:
    t: Ints
    air: Floats
    surface: Floats
    rh: Floats


def _by_source(series: Series, part_id: str | None, hand: Sequence[Reading]) -> dict[str, _Rows]:
    """Rows of each source, sorted by time; of two at the same time the later stored wins."""
    rows: dict[str, dict[int, tuple[float, float, float]]] = {s: {} for s in _ORDER[1:]}
    stored = zip(
        series.t_at, series.air_degc, series.surface_degc, series.rh_frac, series.source, strict=True
    )
    for at, air, surface, rh, source in stored:
        if source in rows:
            rows[source][at] = (air, air if surface is None else surface, rh)
    for r in sorted(hand, key=lambda r: (r.at, r.air_degc, r.surface_degc or 0.0, r.rh_frac)):
        value = (r.air_degc, r.air_degc if r.surface_degc is None else r.surface_degc, r.rh_frac)
        own = r.surface_degc is not None and r.part_id is not None
        if own and r.part_id == part_id:
            rows["surface"][r.at] = value
        else:  # one part's surface says nothing of another's, the air beside it does
            place = (r.air_degc, r.air_degc, r.rh_frac) if own else value
            rows[r.source if r.source in rows else "hand"][r.at] = place
    out = {}
    for source, table in rows.items():
        times = sorted(table)
        values = np.array([table[t] for t in times], dtype=np.float64).reshape(-1, 3)
        out[source] = _Rows(np.array(times, dtype=np.int64), values[:, 0], values[:, 1], values[:, 2])
    return out
