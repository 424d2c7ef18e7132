"""The climate probe: one Protocol, and a simulated one for shops without the hardware."""

from __future__ import annotations

import math
import zlib
from dataclasses import dataclass
from typing import Protocol

__all__ = ["ClimateProbe", "ProbeReading", "SimulatedProbe"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ProbeReading:
    """Air and surface temperature [degC] and relative humidity over water [-] at an instant."""

    at: int
    air_degc: float
    surface_degc: float
    rh_frac: float


class ClimateProbe(Protocol):
    """Anything that measures the air and the surface at a place."""

    def read(self, place_id: str, now: int) -> ProbeReading:
        """One reading.  Raises OSError when the probe does not answer."""
        ...


class SimulatedProbe:
    """A heated bay: a daily swing of 1.6 K about 20 °C, the same answer for the same place and time."""

    def read(self, place_id: str, now: int) -> ProbeReading:
        jitter = zlib.crc32(f"{place_id}{now // 300}".encode()) / 2**32 - 0.5
        day = math.sin(2 * math.pi * (now % 86400 - 32400) / 86400)
        air = 20.0 + 0.8 * day + 0.3 * jitter
        rh = 0.55 - 0.04 * day + 0.02 * jitter
        return ProbeReading(
            at=now, air_degc=round(air, 1), surface_degc=round(air - 0.5, 1), rh_frac=round(rh, 3)
        )
