"""What was planned stays as it was: the step list of a job, its ticks, and those of jobs from before."""

from __future__ import annotations

import gzip
import importlib
import json
from pathlib import Path
from typing import Any
from unittest import mock

from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from coatlog.core.codec import canonical, to_plain
from coatlog.core.run import facts as frozen
from coatlog.core.run.facts import PLANNED
from coatlog.jobs import frozen_facts
from coatlog.jobs.models import StepListDoc
from coatlog.run import projection
from coatlog.run.models import JobProjection

from .base import ShopMixin

OLD = Path(__file__).parent / "old" / "job_before_step_lists.json.gz"


class FrozenStepsTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        part = {"name": "Door", "area_m2": 1.0, "substrate": "bare_steel"}
        layers = [
            {"sheet_id": self.sheets["epoxy-primer-2k"].id, "coats": 1, "target_um": 50},
            {"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 2, "target_um": 700},
        ]
        data = {
            "title": "Door", "asset": "Pickup", "place_id": str(self.place.pk), "parts": [part],
            "layers": layers, "choices": {"steps": PLANNED},
        }  # fmt: skip
        self.job_id = self.post(self.client, "/api/jobs", data).json()["id"]

    def lines(self) -> list[dict[str, Any]]:
        (work,) = self.client.get(f"/api/jobs/{self.job_id}/work").json()
        self.part_ids = work["part_ids"]
        return work["steps"]

    def tick(self, *steps: str) -> list[str]:
        keys = [x["work"]["key"] for x in self.lines() if x["work"]["step"] in steps]
        for x in [x["work"] for x in self.lines() if x["work"]["key"] in keys]:
            body = {"part_ids": self.part_ids, "step": x["log"], "check_id": x["key"]}
            self.send(self.client, self.entry("step_done", body, job_id=self.job_id))
        return keys

    def held(self) -> list[str]:
        return [x["work"]["key"] for x in self.lines() if x["held"]]

    def change(self, **part: Any) -> None:
        draft = self.client.get(f"/api/jobs/{self.job_id}/draft").json()
        data = {k: draft[k] for k in ("parts", "layers", "choices")} | {"reason": "seen"}
        data["parts"][0] |= part
        r = self.client.put(f"/api/jobs/{self.job_id}/stack", json.dumps(data), "application/json")
        self.assertEqual(r.status_code, 200, r.content)

    def test_a_feature_added_later_adds_its_step_and_loses_no_tick(self) -> None:
        ticked = self.tick("inspect", "degrease", "wipe", "mask")
        self.assertGreater(len(ticked), 3)
        self.change(features=["ports"])
        added = [x["work"] for x in self.lines() if x["work"]["step"] in ("ports", "ports_after")]
        self.assertEqual(len(added), 2)
        self.assertEqual(self.held(), ticked)
        (ports, *_) = added
        body = {"part_ids": self.part_ids, "step": ports["log"], "check_id": ports["key"]}
        self.send(self.client, self.entry("step_done", body, job_id=self.job_id))
        self.change(features=[])
        self.change(features=["ports"])  # taken away and added again: it is another look
        again = next(x for x in self.lines() if x["work"]["step"] == "ports")
        self.assertNotEqual(again["work"]["key"], ports["key"])
        self.assertEqual((again["held"], self.held()), (None, ticked))

    def test_a_newer_catalogue_of_steps_changes_no_list_that_stands(self) -> None:
        self.tick("inspect", "degrease")
        before, row = self.lines(), JobProjection.objects.get(job_id=self.job_id)
        frozen_facts._kept.clear()
        with mock.patch.object(frozen, "steps_for", side_effect=AssertionError("made again")):
            self.assertEqual(self.lines(), before)
            _, state = projection.full_replay(row.job)
        self.assertEqual(canonical(row.state), canonical(to_plain(state)))

    def test_a_job_exported_before_lists_were_frozen_keeps_its_ticks(self) -> None:
        """Written by the program as it was: nine steps ticked by place, one failed on one part and ticked."""
        data = gzip.decompress(OLD.read_bytes())
        doc = json.loads(data)
        r = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("old.json", data)})
        self.assertEqual(r.status_code, 200, r.content[:300])
        self.job_id = r.json()["id"]
        state = JobProjection.objects.get(job_id=self.job_id).state
        clean = {"-1/inspect/0", "-1/wash/1", "-1/dry/2", "-1/degrease/3"}
        held = sorted(sorted(k for k, v in p["checks"].items() if v) for p in state["parts"])
        redone = {"-1/inspect/0", "-1/wash/1"}
        self.assertEqual(held, sorted([sorted(redone), *[sorted(clean)] * 3]))
        first = next(t for t in state["next"] if len(t["before"]) == 3)
        self.assertEqual(first["before"], ["-1/dry/2", "-1/degrease/3", "-1/mask/4"])
        # Out again with its lists beside its facts, and the same document is still the same job.
        out = self.client.get(f"/api/jobs/{self.job_id}/export").content
        told = json.loads(out)
        self.assertEqual(len(told.pop("step_lists")), len(doc["facts"]))
        for again in (json.dumps(told).encode(), out):
            r = self.client.post("/api/jobs/import", {"file": SimpleUploadedFile("again.json", again)})
            self.assertEqual((r.status_code, r.json().get("id")), (200, self.job_id), r.content[:300])
        self.migrated(list(StepListDoc.objects.filter(job_id=self.job_id).values("facts_id", "doc")))

    def migrated(self, kept: list[dict[str, Any]]) -> None:
        """A database from before gets the same lists when its tables are brought up to date."""
        StepListDoc.objects.filter(job_id=self.job_id).delete()
        importlib.import_module("coatlog.jobs.migrations.0007_step_lists").freeze(apps, None)
        self.assertEqual(list(StepListDoc.objects.filter(job_id=self.job_id).values("facts_id", "doc")), kept)
