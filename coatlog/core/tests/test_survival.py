"""How long finishes last: against a published trial, a reference library, and what a foreman would say."""

from __future__ import annotations

import unittest
import warnings

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from coatlog.core.survival import Life, kept_of, lasting

YEAR = 365 * 86400
#: weeks of remission under 6-mercaptopurine; + still in remission when looked at last.  Freireich et al.,
#: Blood 21 (1963) 699; figures as printed in Kleinbaum and Klein, Survival Analysis, ch. 2; from memory
SIX_MP = "6 6 6 7 10 13 16 22 23 6+ 9+ 10+ 11+ 17+ 19+ 20+ 25+ 32+ 32+ 34+ 35+"
PRINTED = {6: 0.8571, 7: 0.8067, 10: 0.7529, 13: 0.6902, 16: 0.6275, 22: 0.5378, 23: 0.4482}


def lives(text: str) -> list[Life]:
    return [Life(int(x.rstrip("+")), not x.endswith("+")) for x in text.split()]


class SurvivalTest(unittest.TestCase):
    def test_a_published_trial(self) -> None:
        told = {s.at_s: round(s.share, 4) for s in kept_of(lives(SIX_MP))}
        self.assertEqual(told, PRINTED)
        six = lasting(lives(SIX_MP))
        # The interval on the log-log scale: 13 weeks to no end.
        self.assertEqual((six.median_s, six.low_s, six.high_s, six.failures), (23, 13, None, 9))

    @settings(deadline=None)
    @given(st.lists(st.tuples(st.integers(1, 40), st.booleans()), min_size=2, max_size=40))
    def test_a_reference_library_says_the_same(self, pairs: list[tuple[int, bool]]) -> None:
        """SciPy's product-limit estimate and its log-log interval."""
        if not any(failed for _, failed in pairs):
            return
        failed = [t for t, f in pairs if f]
        sound = [t for t, f in pairs if not f]
        sf = stats.ecdf(stats.CensoredData(uncensored=failed, right=sound)).sf
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", RuntimeWarning)  # it has no interval where none or all failed
            between = sf.confidence_interval(0.95, method="log-log")
        for s in kept_of([Life(t, f) for t, f in pairs]):
            self.assertAlmostEqual(s.share, float(sf.evaluate(s.at_s)), places=9)
            low, high = (float(x.evaluate(s.at_s)) for x in (between.low, between.high))
            if np.isfinite(low) and np.isfinite(high) and 0 < s.share < 1:
                self.assertAlmostEqual(s.low, low, places=4)
                self.assertAlmostEqual(s.high, high, places=4)

    def test_five_failures_beside_fifty_that_hold(self) -> None:
        """Five wheels that failed in their first year, fifty sound at three: no finish of one year."""
        told = lasting([*(Life(YEAR, True) for _ in range(5)), *(Life(3 * YEAR, False) for _ in range(50))])
        self.assertEqual((told.median_s, told.few, told.safe_s), (None, False, 3 * YEAR))
        # Where one alone is seen for long, its years are not everybody's.
        young = [
            *(Life(YEAR, True) for _ in range(5)),
            *(Life(YEAR, False) for _ in range(20)),
            Life(9 * YEAR, False),
        ]
        self.assertEqual((lasting(young).at_least_s, lasting(young).safe_s), (9 * YEAR, YEAR))
        self.assertTrue(lasting([Life(YEAR, True), Life(2 * YEAR, False)]).few)
        self.assertEqual(lasting([Life(n * YEAR, True) for n in range(1, 6)]).median_s, 3 * YEAR)
