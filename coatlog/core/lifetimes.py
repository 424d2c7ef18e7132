"""What lifetimes of finishes show: two groups held against each other, the law they follow, a claim
borne out or not.

Log-rank test: Mantel, Cancer Chemother. Rep. 50 (1966) 163, with the hypergeometric variance.  Weibull's law
by greatest likelihood with what still holds counted as lasting at least so long (Lawless, Statistical Models
and Methods for Lifetime Data, 2003, ch. 5).  A small number of failures is said to be small.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from .survival import FEW_FAILURES, Life, Step, kept_of

__all__ = ["Borne", "Difference", "Weibull", "claim_held", "log_rank", "weibull"]

#: fewer failures than that in both groups together tell no two groups apart
LEAST_TO_COMPARE = 2 * FEW_FAILURES
SURE = 0.05
Verdict = Literal["borne_out", "not_borne_out", "too_early"]


@dataclass(frozen=True, slots=True)
class Difference:
    """Two groups by the log-rank test: failures seen and expected of the first if there were no difference.

    `chance`: how likely so great a difference is by chance alone; `few`: too few failures to tell.
    """

    failures: tuple[int, int]
    expected: float
    chi2: float
    chance: float
    few: bool

    @property
    def shown(self) -> bool:
        """Whether a difference is shown, by the usual one in twenty."""
        return not self.few and self.chance < SURE


@dataclass(frozen=True, slots=True)
class Weibull:
    """S(t) = exp(-(t / scale)^shape).  `fits`: it stays within what the failures themselves allow."""

    shape: float
    scale_s: float
    fits: bool

    def median_s(self) -> float:
        """The time by which half have failed [s]."""
        return float(self.scale_s * math.log(2.0) ** (1.0 / self.shape))

    @property
    def kind(self) -> Literal["early", "any_time", "wear"]:
        """Failures that come early point at the work, failures at any time at accidents, late ones at wear.

        Common practice in reliability, no published source for the bounds.
        """
        return "early" if self.shape < 0.8 else "wear" if self.shape > 1.25 else "any_time"


@dataclass(frozen=True, slots=True)
class Borne:
    """The share that still holds at the claimed life, between what it lies by 95 %, and what that says."""

    share: float
    low: float
    high: float
    verdict: Verdict


def log_rank(one: Sequence[Life], other: Sequence[Life]) -> Difference:
    """Whether two groups last differently.  Raises ValueError where one is empty."""
    if not one or not other:
        raise ValueError
    failures = (sum(x.failed for x in one), sum(x.failed for x in other))
    expected = variance = 0.0
    for at in sorted({x.held_s for x in (*one, *other) if x.failed}):
        n1, n2 = (sum(x.held_s >= at for x in group) for group in (one, other))
        d = sum(x.failed and x.held_s == at for x in (*one, *other))
        n = n1 + n2
        expected += d * n1 / n
        if n > 1:
            variance += d * (n1 / n) * (n2 / n) * (n - d) / (n - 1)
    chi2 = (failures[0] - expected) ** 2 / variance if variance > 0 else 0.0
    few = sum(failures) < LEAST_TO_COMPARE
    return Difference(failures, expected, chi2, math.erfc(math.sqrt(chi2 / 2.0)), few)


def weibull(lives: Sequence[Life]) -> Weibull | None:
    """The likeliest Weibull law; None where there are too few failures, or all at one time."""
    failed = [float(x.held_s) for x in lives if x.failed and x.held_s > 0]
    if len(failed) < FEW_FAILURES or len(set(failed)) < 2:
        return None
    # Times in units of the longest: powers of seconds would overflow.
    longest = max(float(x.held_s) for x in lives)
    times = [x.held_s / longest for x in lives if x.held_s > 0]
    mean_log = sum(math.log(t / longest) for t in failed) / len(failed)

    def slope(shape: float) -> float:
        powers = [t**shape for t in times]
        pulled = sum(p * math.log(t) for p, t in zip(powers, times, strict=True))
        return float(pulled / sum(powers) - 1.0 / shape - mean_log)

    low, high = 0.02, 200.0
    if slope(low) > 0 or slope(high) < 0:
        return None
    for _ in range(80):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if slope(middle) < 0 else (low, middle)
    shape = math.sqrt(low * high)
    scale = longest * (sum(t**shape for t in times) / len(failed)) ** (1.0 / shape)
    return Weibull(shape, scale, _within(shape, scale, kept_of(lives)))


def _within(shape: float, scale: float, steps: Sequence[Step]) -> bool:
    """Whether the law runs within the 95 % of the shares seen, at each failure that leaves some."""
    told = [s for s in steps if 0 < s.share < 1]
    return all(s.low <= math.exp(-((s.at_s / scale) ** shape)) <= s.high for s in told)


def claim_held(lives: Sequence[Life], claim_s: int) -> Borne | None:
    """A claimed life against what has been seen; None while nothing has been watched for so long.

    Borne out: more than half hold at the claimed life, beyond doubt; not: fewer, beyond doubt.
    """
    if max((x.held_s for x in lives), default=0) < claim_s:
        return None
    at = [s for s in kept_of(lives) if s.at_s <= claim_s]
    if not at:
        # Nobody has failed: what is sure by the number watched so long, 95 % by the rule of three.
        watched = sum(x.held_s >= claim_s for x in lives)
        low = max(0.0, 1.0 - 3.0 / watched)
        return Borne(1.0, low, 1.0, "borne_out" if low > 0.5 else "too_early")
    s = at[-1]
    verdict: Verdict = "borne_out" if s.low > 0.5 else "not_borne_out" if s.high < 0.5 else "too_early"
    return Borne(s.share, s.low, s.high, verdict)
