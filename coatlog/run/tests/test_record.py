"""The record counts what the log says: in use, taken off sound, failed; and says when it is too little."""

from __future__ import annotations

import uuid
from dataclasses import replace
from typing import Any

from django.test import TestCase

from coatlog.jobs.models import Job
from coatlog.run.record import RecordLine, compared, groups_of, lived_s, material_lines, record_lines
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

    def test_two_finishes_are_held_against_each_other_and_a_claim_against_what_was_seen(self) -> None:
        self.serve(self.job)
        (real,) = record_lines(self.shop, NOW + YEAR)

        def lines(
            key: str, years: list[float], *, failed: bool, surface: str = "bare_steel"
        ) -> list[RecordLine]:
            ended = "failed" if failed else ""
            like = replace(real, material=key, material_id=key, ended_was=ended, surface=surface)
            return [replace(like, held_s=round(y * YEAR)) for y in years]

        weak = lines("weak", [1.0 + 0.1 * k for k in range(12)], failed=True)
        strong = lines("strong", [6.0] * 12, failed=False) + lines(
            "strong", [5.9], failed=True, surface="gelcoat"
        )
        keys = [(g.key, g.counted, g.failed) for g in groups_of(weak + strong)]
        self.assertEqual(
            keys,
            [("strong", 13, 1), ("strong|bare_steel", 12, 0), ("strong|gelcoat", 1, 1), ("weak", 12, 12)],
        )
        told = compared(weak + strong, ["weak", "strong"])
        self.assertEqual((told.shown, told.few, told.lasts_longer), (True, False, "strong"))
        self.assertEqual((len(told.groups[0].steps), told.groups[1].held_s), (12, (6 * YEAR,) * 12))
        self.assertTrue(compared(weak + strong, ["strong|bare_steel", "strong|gelcoat"]).few)
        self.assertIsNone(compared(weak, ["weak", "strong"]))
        by = {m.material: m for m in material_lines(weak + strong)}
        self.assertEqual((by["weak"].claim_verdict, by["strong"].claim_verdict), ("", "borne_out"))
        long = replace(weak[0], held_s=6 * YEAR, ended_was="")
        (told_weak,) = material_lines([*weak, long])
        self.assertEqual((told_weak.claim_verdict, by["weak"].wear), ("not_borne_out", "wear"))

    def test_what_a_year_of_it_costs_and_what_goes_by_no_name(self) -> None:
        """A litre at 40: the paint of a square metre, spread over the years it is claimed to last."""
        self.serve(self.job)
        (line,) = self.page()["materials"]
        self.assertIsNone(line["cost_a_year"])
        sheets = {s["sheet"]["material_id"]: s["sheet"] for s in self.client.get("/api/shelf").json()}
        for key in ("epoxy-primer-2k", "textured-liner-2k"):
            pack = sheets[key]["packs"][0]
            price = {"material_id": key, "pack": pack["name"], "amount": pack["makes_ml"] * 0.04}
            self.client.put("/api/prices", price, content_type="application/json")
        (line,) = self.page()["materials"]
        ml = 0.0
        for layer in self.job.facts.get().doc["layers"]:
            sheet = next(s for s in sheets.values() if s["id"] == layer["sheet_id"])
            solids = sum(c["parts"] * c["solids_frac"] for c in sheet["components"])
            ml += layer["target_um"] * sum(c["parts"] for c in sheet["components"]) / solids
        self.assertAlmostEqual(line["cost_a_year"], 0.04 * ml / 5, places=3)
        one = self.client.get("/api/record/compare?one=textured-liner-2k").json()
        self.assertEqual([g["counted"] for g in one["groups"]], [1])
        self.assertEqual(self.client.get("/api/record/compare?one=luck").status_code, 404)
