"""The demo shop is live whenever it is loaded."""

from __future__ import annotations

import datetime as dt

from django.test import TestCase

from coatlog.core.codec import canonical, to_plain
from coatlog.core.run.view import view
from coatlog.demo.estuary import load_estuary
from coatlog.jobs.models import Job
from coatlog.run import services
from coatlog.run.models import JobProjection
from coatlog.shop import clock
from coatlog.shop.models import Shop


class DemoTest(TestCase):
    def tearDown(self) -> None:
        clock.release()

    def test_the_load_bed_is_in_the_middle_of_its_run_whenever_it_is_loaded(self) -> None:
        """Any hour, a day of a clock change and a leap day included."""
        for moment in (
            "2026-01-01T00:10",
            "2026-03-29T01:30",
            "2026-10-25T02:00",
            "2028-02-29T12:00",
            "2026-07-04T23:50",
        ):
            at = int(dt.datetime.fromisoformat(moment).replace(tzinfo=dt.UTC).timestamp())
            clock.set_now(at)
            shop = load_estuary(at)
            job = Job.objects.get(shop=shop)
            _, state = services.full_replay(job)
            self.assertEqual(canonical(JobProjection.objects.get(job=job).state), canonical(to_plain(state)))
            page = view(state, at)
            names = {p["id"]: p["name"] for p in job.facts.get().doc["parts"]}
            states = {names[p.part_id]: p.state for p in page.parts}
            self.assertEqual(states["Headboard"], "wet", moment)
            self.assertIn(states["Tailgate"], ("open", "closing"), moment)
            self.assertEqual({x.outcome for x in state.ledger}, {"applied"}, moment)
            self.assertEqual(state.flags, (), moment)
            self.assertTrue(any(b.left_ml > 0 and (b.use_by_at or 0) > at for b in state.batches), moment)
            Shop.objects.filter(pk=shop.pk).update(is_demo=False)
            for member in shop.members.select_related("user"):
                member.user.username += moment
                member.user.save()
