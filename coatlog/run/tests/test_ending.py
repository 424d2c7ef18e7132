"""Jobs closed, given up and opened again; words about them put right while the log keeps the old."""

from __future__ import annotations

import json
from typing import Any

from django.test import TestCase

from coatlog.logbook.models import LogEntry
from coatlog.shop import clock

from .base import NOW, ShopMixin


class EndingTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def page(self) -> dict[str, Any]:
        return self.client.get(f"/api/jobs/{self.job.pk}").json()

    def listed(self, state: str) -> list[str]:
        return [j["title"] for j in self.client.get("/api/jobs", {"state": state}).json()["jobs"]]

    def test_what_is_given_up_is_planned_no_more_and_comes_back_when_opened_again(self) -> None:
        self.assertEqual(
            (self.listed("live"), len(self.client.get("/api/now").json()["lines"])), (["Load bed"], 1)
        )
        why = self.send(self.client, self.entry("job_ended", {"how": "abandoned"}))[0]
        self.assertEqual((why["result"], why["field"]), ("refused", "body.reason"))
        clock.set_now(NOW + 60)
        ended = self.entry("job_ended", {"how": "abandoned", "reason": "sold as it stands"})
        self.assertEqual(self.send(self.client, ended)[0]["result"], "stored")
        page = self.page()
        self.assertEqual((page["state"]["next"], page["state"]["clocks"]), ([], []))
        self.assertEqual(page["state"]["ended"]["reason"], "sold as it stands")
        self.assertFalse((page["plan"] or {"tasks": []})["tasks"])
        self.assertEqual((self.listed("live"), self.listed("done")), ([], ["Load bed"]))
        self.assertEqual(self.client.get("/api/now").json()["lines"], [])
        clock.set_now(NOW + 120)
        self.assertEqual(self.send(self.client, self.entry("job_reopened", {}))[0]["result"], "stored")
        page = self.page()
        self.assertTrue(page["state"]["next"] and page["plan"]["tasks"])
        self.assertEqual(self.listed("live"), ["Load bed"])

    def test_words_put_right_are_logged_with_what_stood_there(self) -> None:
        def put(words: dict[str, str]) -> Any:
            return self.client.put(f"/api/jobs/{self.job.pk}/words", json.dumps(words), "application/json")

        self.assertEqual(
            put({"title": "Load bed, inside", "mark": "EST 233", "customer": ""}).status_code, 200
        )
        head = self.page()["head"]
        self.assertEqual((head["title"], head["mark"]), ("Load bed, inside", "EST 233"))
        told = [e.body for e in LogEntry.objects.filter(kind="corrected").order_by("seq")]
        self.assertEqual(
            told,
            [
                {"what": "title", "was": "Load bed", "now": "Load bed, inside"},
                {"what": "mark", "was": "", "now": "EST 233"},
            ],
        )
        for bad in ({"title": " "}, {"mark": "x" * 61}):
            r = put(bad)
            self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, next(iter(bad))))
        self.assertEqual(self.page()["head"]["title"], "Load bed, inside")
