"""Opening hours across a clock change, against the zone's own rules (IANA time zone data)."""

from __future__ import annotations

import datetime as dt

from django.test import TestCase

from coatlog.shop.hours import open_intervals
from coatlog.shop.models import Shop


class HoursTest(TestCase):
    def test_the_wall_clock_rules_on_both_sides_of_a_change(self) -> None:
        """Europe/London leaves summer time on 25 October 2026: noon to noon is 25 h."""
        shop = Shop.objects.create(
            name="x", time_zone="Europe/London", opens=dt.time(7, 30), closes=dt.time(18, 45)
        )
        now = int(dt.datetime(2026, 10, 24, 5, 0, tzinfo=dt.UTC).timestamp())
        (a, b, *_) = open_intervals(shop, now)
        self.assertEqual(dt.datetime.fromtimestamp(a[0], dt.UTC).hour, 6)
        self.assertEqual(dt.datetime.fromtimestamp(b[0], dt.UTC).hour, 7)
        self.assertEqual(b[0] - a[0], 25 * 3600)
        self.assertEqual(a[1] - a[0], 11.25 * 3600)

    def test_today_is_cut_at_now_and_gone_after_closing(self) -> None:
        shop = Shop.objects.create(name="x", time_zone="UTC", opens=dt.time(8), closes=dt.time(18))
        noon = int(dt.datetime(2026, 5, 5, 12, 0, tzinfo=dt.UTC).timestamp())
        self.assertEqual(open_intervals(shop, noon)[0], (noon, noon + 6 * 3600))
        late = noon + 7 * 3600
        self.assertEqual(open_intervals(shop, late)[0][0], noon + 20 * 3600)
