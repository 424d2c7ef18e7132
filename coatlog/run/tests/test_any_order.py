"""Nothing in a log, a draft or a clock stops a page: whatever is told, in any order, at any hour."""

from __future__ import annotations

import datetime as dt
import uuid
from typing import Any
from unittest import mock

from django.test import TestCase
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from coatlog.core.run.facts import PLANNED, Facts
from coatlog.jobs.frozen_facts import facts_of
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.run import services
from coatlog.shop import clock
from coatlog.shop.models import Place, Shop

from .base import NOW, ShopMixin

DAY = 86400
MIDNIGHT = NOW - NOW % DAY
#: of a job: every page, paper and export it has
PAGES = (
    "", "/dossier", "/draft", "/export", "/entries.csv", "/plan.ics", "/work", "/quantity", "/damage",
)  # fmt: skip
SHOP_PAGES = ("/api/now", "/api/leave?minutes=45", "/api/jobs", "/api/record", "/api/due.ics")
LAYERS = (("epoxy-primer-2k", 1, 50.0), ("base-coat", 2, 30.0), ("clear-coat-2k", 2, 60.0))


class AnyOrderTest(ShopMixin, TestCase):
    @classmethod
    def make_all(cls, into: Any) -> None:
        into.shop, into.owner, into.place, into.sheets = cls.make_shop("Shop one", "owner1")
        into.shop.opens, into.shop.closes, into.shop.painters = dt.time(7, 30), dt.time(18, 45), 2
        into.shop.save()
        into.job = cls.make_job(into.owner, into.place, into.sheets)
        into.yard = Place.objects.create(shop=into.shop, name="Yard", outdoors=True)

    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.client.raise_request_exception = False
        # What is laid out, not how long it is improved.
        for name, most_s in (
            ("planning.LIMIT_S", 0.0),
            ("planning.SMALL_MOST_S", 0.2),
            ("reflow.SMALL_MOST_S", 0.2),
        ):
            self.enterContext(mock.patch(f"coatlog.run.{name}", most_s))

    def painted(self, names: tuple[str, ...], place: Any, *, planned: bool = True) -> Job:
        """A job in colour and clear; `planned`: its steps stand in the plan."""
        parts = [PartDraft(name=n, area_m2=0.8, substrate="bare_steel") for n in names]
        layers = [
            LayerDraft(sheet_id=self.sheets[k].id, coats=n, target_um=um)
            for k, n, um in LAYERS
            if k in self.sheets
        ]
        self.assertEqual(len(layers), len(LAYERS))

        def create() -> Any:
            return create_job(
                self.owner, title=" ".join(names), asset_name="Van", asset_kind="road", place_id=place.pk,
                parts=parts, layers=layers, choices={"steps": PLANNED} if planned else {}, now=clock.now(),
            )  # fmt: skip

        return services.start_job(self.owner, create)

    def looked_at(self, *jobs: Job) -> None:
        """Every page answers."""
        paths = [*SHOP_PAGES, f"/api/leave?job_id={jobs[0].pk}"]
        paths += [f"/api/jobs/{j.pk}{page}" for j in jobs for page in PAGES]
        for path in paths:
            r = self.client.get(path)
            # A job that is done has no plan to put in a calendar, and says so.
            said = (200, 422) if path.endswith("/plan.ics") else (200,)
            self.assertIn(r.status_code, said, (path, r.content[:300]))
            if path.startswith("/api/jobs/") and path.count("/") == 3:
                self.assertEqual(r.json()["failed"], [], path)

    def test_a_coat_begun_after_hours_with_its_steps_skipped(self) -> None:
        for hour in (5, 19, 23):
            clock.set_now(MIDNIGHT - DAY + hour * 3600)
            job = self.painted(("Door", "Wing"), self.place)
            facts = next(iter(facts_of(job).values()))
            self.send(self.client, started(job, facts, 0, 0, 1, self.entry))
            self.looked_at(job)
            self.send(self.client, started(job, facts, 1, 1, 1, self.entry))  # and the second layer first
            self.looked_at(job)

    def test_the_same_part_twice_is_refused(self) -> None:
        one = str(uuid.uuid4())
        parts = [PartDraft(name=n, area_m2=0.8, substrate="bare_steel", id=one) for n in ("Door", "Wing")]
        layers = [LayerDraft(sheet_id=self.sheets["epoxy-primer-2k"].id, coats=1, target_um=50.0)]
        job, facts = create_job(
            self.owner, title="Two", asset_name="Van", asset_kind="road", place_id=self.place.pk,
            parts=parts, layers=layers, now=NOW,
        )  # fmt: skip
        self.assertEqual(len({p.id for p in facts.parts}), 2)
        again = {"parts": [{"name": n, "area_m2": 0.8, "substrate": "bare_steel", "id": facts.parts[0].id}
                           for n in ("Door", "Wing")],
                 "layers": [{"sheet_id": layers[0].sheet_id, "coats": 1, "target_um": 50.0}]}  # fmt: skip
        services.adopt_facts(self.owner, job, facts)
        r = self.client.put(f"/api/jobs/{job.pk}/stack", again, content_type="application/json")
        self.assertEqual(r.status_code, 422, r.content)
        self.assertEqual(r.json()["errors"][0]["field"], "parts[1].id")
        self.looked_at(job)

    def test_any_log_at_any_hour_over_several_jobs(self) -> None:
        @settings(
            max_examples=5, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True,
            phases=[Phase.explicit, Phase.generate], print_blob=False,
        )  # fmt: skip
        @given(st.data())
        def told(data: st.DataObject) -> None:
            clock.set_now(MIDNIGHT - DAY)
            opens = data.draw(st.sampled_from((0, 7, 13)), "opens")
            Shop.objects.filter(pk=self.shop.pk).update(
                opens=dt.time(opens, 1), closes=dt.time(opens + data.draw(st.sampled_from((2, 8, 10))), 30),
                painters=data.draw(st.integers(1, 4)),
            )  # fmt: skip
            self.owner.refresh_from_db()
            jobs = [
                self.painted(("Door", "Wing", "Sill")[: data.draw(st.integers(1, 3))], place, planned=planned)
                for place, planned in ((self.place, True), (self.yard, data.draw(st.booleans())))
            ]
            known = {j.pk: next(iter(facts_of(j).values())) for j in jobs}
            for _ in range(data.draw(st.integers(1, 9))):
                clock.set_now(clock.now() + data.draw(st.sampled_from((0, 40, 1800, 5 * 3600, 14 * 3600))))
                job = data.draw(st.sampled_from(jobs))
                self.send(self.client, anything(data, job, known[job.pk], self))
            self.looked_at(*jobs)
            for j in jobs:
                Job.objects.filter(pk=j.pk).update(title="done")
                services.post_entries(self.owner, [], sent_at=clock.now())
                self.send(self.client, self.entry("job_ended", {"how": "closed"}, job_id=str(j.pk)))

        told()


def started(job: Job, facts: Facts, part: int, layer: int, n: int, entry: Any) -> dict[str, Any]:
    """The n-th coat of a layer of a part, begun."""
    part_id = facts.parts[part % len(facts.parts)].id
    layers = facts.layers_of(part_id)
    ref = {
        "coat_id": str(uuid.uuid4()),
        "part_id": part_id,
        "layer_id": layers[layer % len(layers)].id,
        "n": n,
    }
    return entry("coat_started", {"coats": [ref], "facts_id": facts.id}, job_id=str(job.pk))


def anything(data: st.DataObject, job: Job, facts: Facts, test: AnyOrderTest) -> dict[str, Any]:
    """An entry the door lets in, as likely as not out of its order."""
    log = list(job.entries.values_list("kind", "body", "entry_id"))
    coats = [c["coat_id"] for kind, body, _ in log if kind == "coat_started" for c in body["coats"]]
    parts = [p.id for p in facts.parts]
    some = data.draw(st.lists(st.sampled_from(parts), min_size=1, max_size=len(parts), unique=True))
    kinds = ["coat_started"] * 4 + ["step_done"] * 3 + ["step_failed", "unmasked", "in_service",
             "gate_checked", "heat_set", "job_reopened", "coats_set", "climate_read", "moved"]  # fmt: skip
    kinds += ["coat_done"] * 4 + ["coat_removed", "coat_paused"] if coats else []
    kind = data.draw(st.sampled_from(kinds))
    works = facts.steps_of(some[0])
    layer = data.draw(st.sampled_from(facts.layers_of(some[0])))
    if kind == "coat_started":
        i, j, n = (data.draw(st.integers(0, 2)) for _ in range(3))
        return started(job, facts, i, j, n + 1, test.entry)
    bodies: dict[str, Any] = {
        "unmasked": {"part_ids": some, "result": "clean"},
        "in_service": {"part_ids": some, "reason": "the owner wants it"},
        "gate_checked": {"part_id": some[0], "gate": "touch", "passed": data.draw(st.booleans())},
        "heat_set": {"part_ids": some, "on": True, "surface_degc": 45.0},
        "job_reopened": {"reason": "again"},
        "coats_set": {"part_id": some[0], "layer_id": layer.id, "coats": data.draw(st.integers(1, 4))},
        "moved": {"part_ids": some, "place_id": str(data.draw(st.sampled_from((test.place, test.yard))).pk)},
        "climate_read": {"place_id": str(job.place_id), "air_degc": data.draw(st.sampled_from((2.0, 33.0))),
                         "rh_frac": 0.6},
    }  # fmt: skip
    if coats:
        coat = data.draw(st.sampled_from(coats))
        bodies |= {
            "coat_done": {"coat_ids": [coat]},
            "coat_paused": {"coat_id": coat},
            "coat_removed": {"coat_ids": [coat], "how": "sanded"},
        }
    if kind in ("step_done", "step_failed"):
        work = data.draw(st.sampled_from(works)) if works else None
        body = {"part_ids": some, "step": (work and work.log) or "wipe", "check_id": work and work.key}
        return test.entry(kind, body, job_id=str(job.pk))
    return test.entry(kind, bodies[kind], job_id=str(job.pk))
