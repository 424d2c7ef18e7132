"""The demo shop is live whenever it is loaded."""

from __future__ import annotations

import datetime as dt

from django.contrib.auth import get_user_model
from django.test import TestCase

from coatlog.core.codec import canonical, to_plain
from coatlog.core.run.view import next_due_at, view
from coatlog.demo.estuary import load_estuary
from coatlog.jobs.models import Job
from coatlog.run import projection
from coatlog.run.models import JobProjection
from coatlog.shop import clock
from coatlog.shop.models import Shop


class DemoTest(TestCase):
    def tearDown(self) -> None:
        clock.release()

    def test_the_load_bed_is_in_the_middle_of_its_run_whenever_it_is_loaded(self) -> None:
        """Any hour, a day of a clock change and a leap day included."""
        for moment in (
            "2026-03-29T01:30",
            "2026-10-25T02:00",
            "2028-02-29T12:00",
        ):
            at = int(dt.datetime.fromisoformat(moment).replace(tzinfo=dt.UTC).timestamp())
            clock.set_now(at)
            shop = load_estuary(at)
            job = Job.objects.get(shop=shop, title="Load bed")
            _, state = projection.full_replay(job)
            self.assertEqual(canonical(JobProjection.objects.get(job=job).state), canonical(to_plain(state)))
            page = view(state, at)
            names = {p["id"]: p["name"] for p in job.facts.get().doc["parts"]}
            states = {names[p.part_id]: p.state for p in page.parts}
            self.assertEqual(states["Headboard"], "wet", moment)
            self.assertIn(states["Tailgate"], ("open", "closing"), moment)
            self.assertEqual({x.outcome for x in state.ledger}, {"applied"}, moment)
            self.assertEqual(state.flags, (), moment)
            self.assertTrue(any(b.left_ml > 0 and (b.use_by_at or 0) > at for b in state.batches), moment)
            self.every_scene(shop, at)
            Shop.objects.filter(pk=shop.pk).update(is_demo=False)
            for member in shop.members.select_related("user"):
                member.user.username += moment
                member.user.save()

    def every_scene(self, shop: Shop, at: int) -> None:
        """Now, Cure, Service and Record have something to show on any date, and nothing is amiss."""
        found = {}
        for job in Job.objects.filter(shop=shop):
            state = projection.state_from(JobProjection.objects.get(job=job))
            self.assertEqual({x.outcome for x in state.ledger}, {"applied"}, job.title)
            self.assertEqual(state.flags, (), job.title)
            found[job.title] = (view(state, at), state)
        live = {title for title, (page, _) in found.items() if page.live}
        self.assertEqual(
            live, {"Load bed", "Underwater hull", "Cowling repaint", "Fairings, colour and clear"}
        )
        hull, _ = found["Underwater hull"]
        self.assertEqual({p.state for p in hull.parts} - {"open", "closing"}, set())
        self.assertEqual({p.word for p in hull.parts} - {"open_tacky", "closing_tacky"}, set())
        cowling, _ = found["Cowling repaint"]
        self.assertTrue(any(t.kind == "coat" for t in cowling.next))
        benches = found["Benches recoloured"][1]
        self.assertLess(next_due_at(benches), at)
        ends = {x.ended_was for _, s in found.values() for x in s.service if x.ended_at}
        self.assertEqual(ends, {"failed", "sound"})

    def test_one_job_shows_what_went_wrong_and_how_it_was_put_right(self) -> None:
        at = int(dt.datetime(2026, 6, 16, 8, tzinfo=dt.UTC).timestamp())
        clock.set_now(at)
        load_estuary(at)
        told = {}
        for job in Job.objects.all():
            findings = projection.state_from(JobProjection.objects.get(job=job)).findings
            told[job.title] = [(f.code, f.met_at is not None) for f in findings]
        gate = told.pop("Slipway gate")
        self.assertEqual(sorted(gate), [("air.cold", True), ("coat.late", True), ("film.thin", True)])
        self.assertEqual({t: f for t, f in told.items() if f}, {})

    def test_a_list_of_jobs_by_state_and_in_the_order_asked_for(self) -> None:
        """Each job is in work, in service or done, in one of the three; what presses most stands first."""
        at = int(dt.datetime(2026, 6, 16, 8, tzinfo=dt.UTC).timestamp())
        clock.set_now(at)
        load_estuary(at)
        user = get_user_model().objects.get(username="demo")
        self.client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")

        def found(**query: str) -> list[dict[str, object]]:
            return list(self.client.get("/api/jobs", query).json()["jobs"])

        titles = {state: [j["title"] for j in found(state=state)] for state in ("live", "service", "done")}
        self.assertEqual(
            sorted(t for some in titles.values() for t in some), sorted(j["title"] for j in found())
        )
        self.assertIn("Load bed", titles["live"])
        self.assertIn("Benches recoloured", titles["service"])
        self.assertIn("Wheels in graphite", titles["done"])
        starts = [j["latest_start_at"] for j in found(order="pressing", state="live")]
        known = [x for x in starts if x is not None]
        self.assertEqual(starts, sorted(known) + [None] * (len(starts) - len(known)))
        self.assertTrue(known)
        customers = [j["customer"] for j in found(order="customer")]
        self.assertEqual(customers, sorted(customers, key=str.lower))
        self.assertEqual(self.client.get("/api/jobs", {"state": "lost"}).status_code, 422)
