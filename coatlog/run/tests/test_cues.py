"""What a phone plays without network against what the server says once it has the same taps."""

from __future__ import annotations

import json
import subprocess
import tempfile
from pathlib import Path
from typing import Any

from django.test import TestCase

from coatlog.run.models import JobProjection
from ops.paths import WEB, venv_bin

from .base import NOW, ShopMixin


class CueTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def page(self) -> dict[str, Any]:
        return self.client.get(f"/api/jobs/{self.job.pk}").json()

    def played(self, page: dict[str, Any], sent: list[Any], waiting: list[Any]) -> dict[str, Any]:
        """The browser's own function, run under the pinned Node."""
        module = (WEB / "src" / "lib" / "offline.ts").as_uri()
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "in.json"
            file.write_text(json.dumps([page, sent, waiting]))
            code = (
                f'import {{ played }} from "{module}"; import {{ readFileSync }} from "node:fs";'
                f' console.log(JSON.stringify(played(...JSON.parse(readFileSync("{file}", "utf8")))));'
            )
            command = [str(venv_bin("node")), "--input-type=module", "--no-warnings", "-e", code]
            done = subprocess.run(command, capture_output=True, text=True, timeout=30, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        return json.loads(done.stdout)

    def coat(self, start: int, end: int) -> list[dict[str, Any]]:
        """Start and done of the coat that is due, as the phone writes them."""
        task = self.page()["view"]["next"][0]
        ref = {k: task[k] for k in ("part_id", "layer_id", "n")} | {"coat_id": f"c{start}"}
        facts_id = self.job.facts.get().facts_id
        return [
            self.entry("coat_started", {"coats": [ref], "facts_id": facts_id}, at=start),
            self.entry("coat_done", {"coat_ids": [ref["coat_id"]], "draws": []}, at=end),
        ]

    def test_the_played_clocks_are_those_the_server_computes(self) -> None:
        """Air as assumed throughout, so that only the rules can differ: primer, then first liner coat."""
        at = NOW - 20_000
        for _ in range(2):
            before, taps = self.page(), self.coat(at, at + 240)
            guess = self.played(before, [], taps)
            self.send(self.client, *taps)
            state = JobProjection.objects.get(job=self.job).state
            (mine,), (theirs,) = guess["view"]["next"], state["next"]
            self.assertEqual(mine["task_key"], theirs["task_key"])
            self.assertAlmostEqual(mine["opens_at"], theirs["opens_at"], delta=2)
            self.assertAlmostEqual(mine["closes_at"], theirs["closes_at"], delta=2)
            words = [s["word"] for s in guess["state"]["parts"][0]["films"][-1]["spans"]]
            self.assertEqual(words, ["wet", "flash", "open"])
            at = theirs["opens_at"] + 60

    def test_while_it_goes_on_the_part_is_wet_and_offers_nothing_else(self) -> None:
        start, _ = self.coat(NOW - 100, NOW)
        guess = self.played(self.page(), [], [start])
        (film,) = guess["state"]["parts"][0]["films"]
        self.assertEqual(
            (film["done_at"], film["spans"][0]["state"], guess["view"]["next"]), (None, "wet", [])
        )
        self.assertAlmostEqual(film["aim_wet_um"], 83.33, places=2)

    def test_played_until_the_page_shows_it_and_never_twice(self) -> None:
        start, _ = self.coat(NOW - 100, NOW)
        old = self.page()
        (outcome,) = self.send(self.client, start)
        sent = [{"entry": start, "seq": outcome["seq"]}]
        self.assertEqual(len(self.played(old, sent, [])["state"]["parts"][0]["films"]), 1)
        fresh = self.page()
        self.assertEqual(self.played(fresh, sent, []), fresh)
        self.assertEqual(len(self.played(fresh, [], [start])["state"]["parts"][0]["films"]), 1)

    def test_a_tap_taken_back_before_it_was_sent_never_was(self) -> None:
        start, _ = self.coat(NOW - 100, NOW)
        strike = self.entry("strike", {"target_id": start["id"], "reason": "undone at once"})
        page = self.page()
        self.assertEqual(self.played(page, [], [start, strike]), page)
        other = {**start, "job_id": "00000000-0000-4000-8000-000000000000"}
        self.assertEqual(self.played(page, [], [other]), page)
