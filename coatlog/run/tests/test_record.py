"""The record counts what the log says: in use, taken off sound, failed; and says when it is too little."""

from __future__ import annotations

import uuid
from typing import Any

from django.test import TestCase

from coatlog.jobs.models import Job
from coatlog.run.record import RecordLine, lived_s, material_lines
from coatlog.shop import clock

from .base import NOW, ShopMixin

YEAR = 31_536_000


class RecordTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def serve(self, job: Job) -> str:
        """Every coat on, then into service; answers the ids of the coats as one list."""
        self.job = job
        facts = job.facts.get().doc
        ids = []
        for layer in sorted(facts["layers"], key=lambda x: x["position"]):
            for n in range(1, layer["coats"] + 1):
                coat_id = str(uuid.uuid4())
                ref = {"coat_id": coat_id, "part_id": layer["part_id"], "layer_id": layer["id"], "n": n}
                self.send(self.client, self.entry("coat_started", {"coats": [ref], "facts_id": facts["id"]}))
                self.send(self.client, self.entry("coat_done", {"coat_ids": [coat_id]}))
                ids.append(coat_id)
        # All within one second: the log says what that does, and the owner why it goes out all the same.
        body = {"part_ids": [facts["parts"][0]["id"]], "reason": "a trial panel"}
        self.send(self.client, self.entry("in_service", body))
        self.ids = ids
        return facts["parts"][0]["id"]

    def page(self) -> dict[str, Any]:
        return self.client.get("/api/record").json()

    def test_held_claimed_and_ended(self) -> None:
        self.assertEqual(self.page()["lines"], [])
        self.serve(self.job)
        clock.set_now(NOW + 2 * YEAR)
        (line,) = self.page()["lines"]
        self.assertEqual((line["held_s"] // YEAR, line["claim_s"] // YEAR), (2, 5))
        removed = self.entry("coat_removed", {"coat_ids": self.ids, "how": "stripped", "was": "failed"})
        self.send(self.client, removed)
        clock.set_now(NOW + 4 * YEAR)
        page = self.page()
        self.assertEqual(page["lines"][0]["held_s"] // YEAR, 2)
        told = page["materials"][0]
        self.assertEqual((told["material"], told["failed"], told["running"]), ("Textured liner", 1, 0))
        self.assertIn("too few", told["said"])

    def test_what_outlived_its_claim_counts_in_its_place_and_one_failure_says_nothing(self) -> None:
        self.serve(self.job)
        self.assertEqual(lived_s(self.shop, NOW + 2 * YEAR), {})
        self.assertEqual(lived_s(self.shop, NOW + 7 * YEAR), {"textured-liner-2k": 7 * YEAR})
        clock.set_now(NOW + 2 * YEAR)
        removed = self.entry("coat_removed", {"coat_ids": self.ids, "how": "stripped", "was": "failed"})
        self.send(self.client, removed)
        self.assertEqual(lived_s(self.shop, NOW + 7 * YEAR), {})

    def test_another_shops_record_is_its_own(self) -> None:
        self.serve(self.job)
        self.make_shop("Shop two", "owner2")
        self.assertEqual(self.signed_in("owner2").get("/api/record").json()["lines"], [])

    def test_it_says_how_little_it_knows_and_counts_what_still_holds(self) -> None:
        """Under five failures no lasting time; five beside fifty sound at three years are not one year."""

        def line(held_s: int, *, failed: bool) -> RecordLine:
            return RecordLine(
                job_id=self.job.pk,
                title="",
                asset="",
                part="",
                material="Wheel peelable",
                material_id="wheel-peelable",
                in_service_at=NOW,
                held_s=held_s,
                claim_s=YEAR,
                claim_text="",
                ended_at=NOW if failed else None,
                ended_how="",
                ended_was="failed" if failed else "",
                rating=None,
                next_due_at=None,
            )

        said = {0: "no failures yet", 1: "1 failed: too few", 4: "4 failed: too few", 5: "5 of 55 failed"}
        for failures, begins in said.items():
            lines = [line(YEAR, failed=True)] * failures + [line(3 * YEAR, failed=False)] * 50
            (told,) = material_lines(lines)
            self.assertTrue(told.said.startswith(begins), told.said)
            self.assertEqual((told.median_s, told.longest_s), (None, 3 * YEAR))
        (told,) = material_lines([line(n * YEAR, failed=True) for n in range(1, 6)])
        self.assertEqual((told.median_s, told.low_s, told.said), (3 * YEAR, YEAR, "5 of 5 failed"))
