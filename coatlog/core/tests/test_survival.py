"""How long finishes last: against a published trial, a reference library, and what a foreman would say."""

from __future__ import annotations

import unittest
import warnings

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from coatlog.core.lifetimes import claim_held, log_rank, weibull
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


#: Weeks from surgery to death with astrocytoma, and with glioblastoma; + alive when seen last.  Bland and
#: Altman, BMJ 328 (2004) 1073, as SciPy ships it with its log-rank test, and with what the paper found.
ASTROCYTOMA = "6 13 21 30 37 38 49 50 63 79 86 98 202 219 31+ 47+ 80+ 82+ 82+ 149+"
GLIOBLASTOMA = (
    "10 10 12 13 14 15 16 17 18 20 24 24 25 28 30 33 35 37 40 40 46 48 76 81 82 91 112 181 34+ 40+ 70+"
)
#: Million turns to failure of 23 deep-groove ball bearings.  Lieblein and Zelen, J. Res. NBS 57 (1956) 273;
#: the likeliest law in Lawless (2003), shape 2.10, scale 81.9; figures from memory
BEARINGS = (
    "17.88 28.92 33.00 41.52 42.12 45.60 48.48 51.84 51.96 54.12 55.56 67.80 68.64 68.64 68.88 84.12 93.12"
    " 98.64 105.12 105.84 127.92 128.04 173.40"
)


class LifetimesTest(unittest.TestCase):
    def test_a_published_comparison(self) -> None:
        told = log_rank(lives(ASTROCYTOMA), lives(GLIOBLASTOMA))
        self.assertEqual((round(told.chi2, 1), round(told.chance, 3)), (7.5, 0.006))
        self.assertTrue(told.shown)
        self.assertEqual(told.failures, (14, 28))
        # As printed: 22.48 deaths expected among the astrocytomas.
        self.assertAlmostEqual(told.expected, 22.48, places=2)

    @settings(deadline=None)
    @given(*[st.lists(st.tuples(st.integers(1, 30), st.booleans()), min_size=2, max_size=25)] * 2)
    def test_the_reference_library_compares_alike(
        self, one: list[tuple[int, bool]], other: list[tuple[int, bool]]
    ) -> None:
        if not any(f for _, f in one) or not any(f for _, f in other):
            return
        groups = [
            stats.CensoredData(uncensored=[t for t, f in g if f], right=[t for t, f in g if not f])
            for g in (one, other)
        ]
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", RuntimeWarning)
            theirs = stats.logrank(*groups)
        if np.isfinite(theirs.statistic):
            ours = log_rank([Life(*x) for x in one], [Life(*x) for x in other])
            self.assertAlmostEqual(ours.chi2, float(theirs.statistic) ** 2, places=6)
            self.assertAlmostEqual(ours.chance, float(theirs.pvalue), places=6)

    def test_ball_bearings_follow_the_law_as_printed(self) -> None:
        told = weibull([Life(round(float(x) * 100), True) for x in BEARINGS.split()])
        assert told is not None
        self.assertEqual((round(told.shape, 2), round(told.scale_s / 100, 1)), (2.10, 81.9))
        self.assertEqual((told.fits, told.kind), (True, "wear"))

    def test_what_still_holds_counts_as_in_the_reference_library(self) -> None:
        six = [Life(x.held_s, x.failed) for x in lives(SIX_MP)]
        told = weibull(six)
        assert told is not None
        data = stats.CensoredData(
            uncensored=[x.held_s for x in six if x.failed], right=[x.held_s for x in six if not x.failed]
        )
        shape, _, scale = stats.weibull_min.fit(data, floc=0)
        self.assertAlmostEqual(told.shape, shape, places=3)
        self.assertAlmostEqual(told.scale_s, scale, places=1)

    def test_few_failures_say_little_and_a_law_that_does_not_fit_says_so(self) -> None:
        self.assertTrue(log_rank(lives("1 2 3"), lives("7 8 9")).few)
        self.assertIsNone(weibull(lives("1 2 3 4 9+")))
        self.assertIsNone(weibull(lives("3 3 3 3 3 9+")))
        # Half flake off in the first week, the other half holds for ten years: no one law.
        two = [Life(7 + n, True) for n in range(20)] + [Life(3600 + n, True) for n in range(20)]
        told = weibull(two)
        assert told is not None
        self.assertFalse(told.fits)
        with self.assertRaises(ValueError):
            log_rank([], lives("3"))

    def test_a_claim_is_borne_out_or_not_or_it_is_too_early(self) -> None:
        """What a foreman would say of five years claimed."""
        holds = [Life(6 * YEAR, False)] * 20 + [Life(2 * YEAR, True)] * 2
        self.assertEqual(claim_held(holds, 5 * YEAR).verdict, "borne_out")
        fails = [Life(2 * YEAR + n, True) for n in range(20)] + [Life(6 * YEAR, False)] * 2
        self.assertEqual(claim_held(fails, 5 * YEAR).verdict, "not_borne_out")
        self.assertEqual(claim_held([Life(6 * YEAR, False)] * 4, 5 * YEAR).verdict, "too_early")
        self.assertIsNone(claim_held([Life(3 * YEAR, False)] * 50, 5 * YEAR))
