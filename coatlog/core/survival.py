"""How long finishes last where most of them still hold: what is sound counts, as lasting at least so long.

The product-limit estimate of Kaplan and Meier (J. Am. Stat. Assoc. 53, 1958), its variance by Greenwood,
its interval on the log-log scale; the median's interval by Brookmeyer and Crowley (Biometrics 38, 1982).
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Iterable
from dataclasses import dataclass

__all__ = ["FEW_FAILURES", "Lasting", "Life", "Step", "kept_of", "lasting"]

Z95 = 1.959964
FEW_FAILURES = 5  # under so many a time that half of them last is a guess


@dataclass(frozen=True, slots=True)
class Life:
    """One finish: how long it has held [s], and whether that was its end."""

    held_s: int
    failed: bool


@dataclass(frozen=True, slots=True)
class Step:
    """From a failure on: the share that still holds, and between what it lies by 95 %."""

    at_s: int
    share: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Lasting:
    """The time by which half have failed [s] with its 95 % interval; None: more than half still hold.

    `high_s` None: no end is known.  `at_least_s`: the longest any has held; `watched_s`: how long at least
    half of them have been seen, failed or not.
    """

    failures: int
    counted: int
    at_least_s: int
    watched_s: int
    median_s: int | None = None
    low_s: int | None = None
    high_s: int | None = None

    @property
    def safe_s(self) -> int:
        """What one may count on [s]: the median; while more than half hold, what is sure of it so far."""
        if self.median_s is not None:
            return self.median_s
        return self.watched_s if self.low_s is None else self.low_s

    @property
    def few(self) -> bool:
        """Whether these are too few failures to say how long it lasts."""
        return self.failures < FEW_FAILURES


def kept_of(lives: Iterable[Life]) -> tuple[Step, ...]:
    """The share that still holds after each failure.

    What was sound when it was looked at last counts among those at risk up to then, the same instant too.
    """
    told = sorted(lives, key=lambda x: x.held_s)
    out: list[Step] = []
    share, spread, i = 1.0, 0.0, 0
    while i < len(told):
        at_s, at_risk = told[i].held_s, len(told) - i
        same = [x for x in told[i:] if x.held_s == at_s]
        failed = sum(x.failed for x in same)
        if failed:
            share *= 1 - failed / at_risk
            spread += math.inf if failed == at_risk else failed / (at_risk * (at_risk - failed))
            out.append(Step(at_s, share, *_between(share, spread)))
        i += len(same)
    return tuple(out)


def _between(share: float, spread: float) -> tuple[float, float]:
    if not 0 < share < 1 or math.isinf(spread):
        return share, share
    width = Z95 * math.sqrt(spread) / abs(math.log(share))
    return share ** math.exp(width), share ** math.exp(-width)


def lasting(lives: Iterable[Life]) -> Lasting:
    """How long a finish lasts by what has become of all of them.  Raises ValueError without any."""
    told = list(lives)
    steps = kept_of(told)

    def first(under: Iterable[tuple[int, float]]) -> int | None:
        return next((at for at, share in under if share <= 0.5), None)

    return Lasting(
        failures=sum(x.failed for x in told),
        counted=len(told),
        at_least_s=max(x.held_s for x in told),
        watched_s=statistics.median_low(x.held_s for x in told),
        median_s=first((s.at_s, s.share) for s in steps),
        low_s=first((s.at_s, s.low) for s in steps),
        high_s=first((s.at_s, s.high) for s in steps),
    )
