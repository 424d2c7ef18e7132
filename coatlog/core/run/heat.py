"""Heat on a part, a lamp or a blanket: when it was on by the log, and how warm it made the surface."""

from __future__ import annotations

from collections.abc import Sequence

__all__ = ["HEAT_HOLDS_S", "heat_spans"]

HEAT_HOLDS_S = 7200  # assumed: as long as a reading by hand


def heat_spans(told: Sequence[tuple[int, float | None]]) -> tuple[tuple[int, int, float], ...]:
    """When heat was on [epoch s] and how warm [degC]: until it was said again or off, two hours at most."""
    out = []
    for i, (at, degc) in enumerate(told):
        until = told[i + 1][0] if i + 1 < len(told) else at + HEAT_HOLDS_S
        if degc is not None and until > at:
            out.append((at, min(until, at + HEAT_HOLDS_S), degc))
    return tuple(out)
