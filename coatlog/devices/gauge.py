"""The film gauge: one Protocol, and a simulated one for shops without the hardware."""

from __future__ import annotations

import random
import zlib
from typing import Protocol

__all__ = ["SIMULATED_GAUGE", "FilmGauge", "SimulatedGauge"]

SIMULATED_GAUGE = "simulated gauge"
SCATTER = 0.08  # standard deviation of its readings, share of their mean: assumed


class FilmGauge(Protocol):
    """Anything that measures the dry film on a part."""

    def read(self, part_id: str, now: int, n: int) -> list[float]:
        """So many readings [um].  Raises OSError when the gauge does not answer."""
        ...


class SimulatedGauge:
    """Normal scatter about a film [um] it is told of; the same answer for the same part and minute."""

    def __init__(self, about_um: float) -> None:
        self._about_um = about_um

    def read(self, part_id: str, now: int, n: int) -> list[float]:
        rng = random.Random(zlib.crc32(f"{part_id}{now // 60}".encode()))
        return [round(max(1.0, rng.gauss(self._about_um, SCATTER * self._about_um)), 0) for _ in range(n)]
