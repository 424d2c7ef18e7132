"""Input nobody means: refused with what, where and expected, never a 500, and every page stands after it.

What PostgreSQL's text and bigint hold is its manual's, chapters 8.1 and 8.3; the rest is common sense.
"""

from __future__ import annotations

import json
import random
import uuid
from collections.abc import Callable, Iterator
from typing import Any
from unittest.mock import patch

from django.db import OperationalError, connection
from django.test import Client, TestCase
from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.codec import to_plain
from coatlog.core.run.entries import BODIES
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.shop.models import Member

from .base import NOW, ShopMixin
from .exported import elsewhere, signed, take_in

HOSTILE = (
    *("\0", "\ud800", "", "x" * 20_000, "2026-01-01T00:00:00Z", "../../x", "=1+1", None, True, [], {}),
    *(-1, 0, 2**40, 2**63, 10**400, 1e308, -1e-308, [[[]]]),
)


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for k, v in inside:
        yield from leaves(v, (*path, k))
    if path:
        yield path


def with_leaf(value: Any, path: tuple[Any, ...], leaf: Any) -> Any:
    out = at = json.loads(json.dumps(value))
    for k in path[:-1]:
        at = at[k]
    at[path[-1]] = leaf
    return out


class HostileTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.client.raise_request_exception = False
        self.send(self.client, self.start_entry())

    def raw(self, entry: dict[str, Any], **over: Any) -> Any:
        data = json.dumps({"sent_at": NOW, "entries": [entry], **over})
        return self.client.post("/api/entries", data, content_type="application/json")

    def pages_stand(self, job_id: Any) -> None:
        at = f"/api/jobs/{job_id}"
        for page in (at, f"{at}/entries.csv", f"{at}/plan.ics", f"{at}/dossier", f"{at}/export", "/api/now"):
            r = self.client.get(page)
            nothing_left = b"Nothing is left to plan" in r.content  # every part given up: said, not planned
            self.assertTrue(r.status_code == 200 or nothing_left, (page, r.content[:300]))

    def test_a_database_that_does_not_answer_is_said_and_the_phone_keeps_its_entry(self) -> None:
        gone = patch("coatlog.run.services.post_entries", side_effect=OperationalError("lock timeout"))
        with self.assertLogs("coatlog"), gone:
            r = self.raw(self.entry("note", {"text": "x"}))
        self.assertEqual((r.status_code, r["Retry-After"]), (503, "5"))
        self.assertIn("Nothing was saved", r.json()["detail"])
        with connection.cursor() as cursor:
            for name in ("statement_timeout", "lock_timeout", "idle_in_transaction_session_timeout"):
                cursor.execute(f"SHOW {name}")
                self.assertNotEqual(cursor.fetchone(), ("0",), name)

    def test_the_unsigned_are_not_read_at_length(self) -> None:
        long = json.dumps({"username": "x" * 100_000, "password": "y"})
        for path, status in (("/api/session", 413), ("/api/shops", 413), ("/api/entries", 401)):
            r = Client().post(path, long, content_type="application/json")
            self.assertEqual((r.status_code, r.json()["title"]), (status, "Sign in"), path)

    def test_what_cannot_be_kept_is_refused_by_the_name_of_its_field(self) -> None:
        facts = self.job.facts.get().doc
        part_id, layer_id = facts["parts"][0]["id"], facts["layers"][0]["id"]
        coat = {"coat_id": "c", "part_id": part_id, "layer_id": layer_id, "n": 41}
        film = {"part_id": part_id, "what": "dry_total", "um": [10**400]}
        for entry, field in (
            (self.entry("note", {"text": "a\0b"}), "entries[0].body.text"),
            (self.entry("note", {"text": "a\ud800"}), "entries[0].body.text"),
            (self.entry("note", {"text": "x" * 5000}), "body.text"),
            (self.entry("film_read", film), "entries[0].body.um[0]"),
            (self.entry("note", {"text": "x"}, device_id="a\0"), "entries[0].device_id"),
            (self.entry("note", {"text": "x"}, at=2**40, at_from="typed"), "at"),
            (self.entry("note", {"text": "x"}, at=0, at_from="typed"), "at"),
            (self.entry("in_service", {"part_ids": [part_id, part_id]}), "body.part_ids"),
            (self.entry("coat_started", {"coats": [coat], "facts_id": facts["id"]}), "body.coats"),
        ):
            r = self.raw(entry)
            one = r.json()["errors"][0] if r.status_code == 422 else r.json()[0]
            self.assertEqual((one["field"], one.get("result", "refused")), (field, "refused"))
        self.assertEqual(self.raw(self.entry("note", {"text": "x"}), sent_at=2**40).json()[0]["field"], "at")
        for path in ("/api/jobs?q=%00", "/api/jobs/%00", "/api/lots/x%00", "/api/sheets?q=a%00b"):
            self.assertEqual(self.client.get(path).status_code, 422, path)
        deep = "[" * 100_000 + "]" * 100_000
        for text in (deep, '{"sent_at": 1,}', '{"a": ' + deep[:200] + "}", "\xff"):
            r = self.client.post("/api/entries", text.encode("latin-1"), content_type="application/json")
            self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, "JSON"))
        self.pages_stand(self.job.pk)

    def test_no_body_of_any_kind_is_answered_with_a_500(self) -> None:
        facts = self.job.facts.get().doc
        known = {"part_id": facts["parts"][0]["id"], "layer_id": facts["layers"][0]["id"]}
        known |= {"facts_id": facts["id"], "sheet_id": facts["layers"][0]["sheet_id"]}
        st.register_type_strategy(str, st.text(st.characters(exclude_categories=()), max_size=60))
        self.addCleanup(st.register_type_strategy, str, st.text())

        @settings(max_examples=100, deadline=None, derandomize=True, database=None)
        @given(st.data())
        def answer(data: st.DataObject) -> None:
            kind = data.draw(st.sampled_from(sorted(BODIES)))
            plain = to_plain(data.draw(st.from_type(BODIES[kind])))
            if data.draw(st.booleans()):
                plain |= {k: v for k, v in known.items() if k in plain}
                plain |= {"part_ids": [known["part_id"]]} if "part_ids" in plain else {}
            r = self.raw(self.entry(kind, plain, at=data.draw(st.integers(NOW - 10**6, NOW))))
            self.assertIn(r.status_code, (200, 422), (kind, plain, r.content[:200]))

        answer()
        self.pages_stand(self.job.pk)

    def test_no_field_of_an_entry_or_of_an_import_is(self) -> None:
        chance = random.Random(20)
        good = self.entry("note", {"text": "x", "photo_ids": []}, group_id=str(uuid.uuid4()))
        for path in leaves(good):
            for leaf in HOSTILE:
                fresh = {**good, "id": str(uuid.uuid4())}
                self.assertIn(self.raw(with_leaf(fresh, path, leaf)).status_code, (200, 422), (path, leaf))
        doc = json.loads(self.client.get(f"/api/jobs/{self.job.pk}/export").content)
        spots = list(leaves(doc))
        taken = 0
        for _ in range(160):
            path, leaf = chance.choice(spots), chance.choice(HOSTILE)
            r = take_in(self.client, with_leaf(elsewhere(doc), path, leaf))
            self.assertIn(r.status_code, (200, 422), (path, leaf, r.content[:300]))
            if r.status_code == 200:
                taken += 1
                self.pages_stand(r.json()["id"])
        self.assertGreater(taken, 0)

    def test_an_import_holds_a_job_that_can_be(self) -> None:
        doc = json.loads(self.client.get(f"/api/jobs/{self.job.pk}/export").content)

        def spoilt(change: Callable[[dict[str, Any]], Any]) -> dict[str, Any]:
            new = elsewhere(doc)
            change(new)
            return signed(new)

        def of_facts(*path: Any) -> Callable[[Any], Callable[[dict[str, Any]], None]]:
            def put(leaf: Any) -> Callable[[dict[str, Any]], None]:
                return lambda d: d["facts"].__setitem__(0, with_leaf(d["facts"][0], path, leaf))

            return put

        sheet_id = doc["facts"][0]["layers"][0]["sheet_id"]
        for change, field in (
            (lambda d: d["entries"].append(d["entries"][0]), "each id once"),
            (lambda d: d["entries"][0].update(at_true=NOW + 10**7), "a time that has come"),
            (lambda d: d.update(facts=[]), "at least one version"),
            (lambda d: d.update(created_at=10**15), "created_at"),
            (of_facts("layers", 0, "coats")(10**6), "facts[0].layers[0].coats"),
            (of_facts("layers", 0, "part_id")("nobody"), "facts[0].layers[0].part_id"),
            (of_facts("parts", 0, "area_m2")(-1.0), "facts[0].parts[0].area_m2"),
            (of_facts("parts", 0, "count")(10**6), "facts[0].parts[0].count"),
            (of_facts("sheets", sheet_id, "pot", 0, "s")(1), ".pot[0].s"),
        ):
            r = take_in(self.client, spoilt(change))
            self.assertEqual(r.status_code, 422, field)
            self.assertIn(field, json.dumps(r.json()["errors"], ensure_ascii=False))
        self.assertEqual(Job.objects.count(), 1)

    def test_nobody_speaks_for_another(self) -> None:
        self.add_member("pat", Member.PAINTER)
        pat = self.signed_in("pat")
        stop = self.entry("overruled", {"rule_id": "air.wind", "subject": "", "reason": "screens are up"})
        (stored,) = self.send(self.client, stop)
        self.assertEqual(stored["result"], "stored")
        strike = self.entry("strike", {"target_id": stop["id"], "reason": "not so"})
        (by_painter,) = self.send(pat, strike)
        self.assertIn("Only the owner can take back", by_painter["why"])
        doc = json.loads(self.client.get(f"/api/jobs/{self.job.pk}/export").content)
        self.assertEqual(take_in(pat, elsewhere(doc)).status_code, 403)
        (by_owner,) = self.send(self.client, strike)
        self.assertEqual(by_owner["result"], "stored")
        (back,) = self.send(pat, self.entry("strike", {"target_id": strike["id"], "reason": "still"}))
        self.assertEqual(back["result"], "refused")
        doc["entries"] = [e for e in doc["entries"] if e["kind"] != "overruled"]
        job_id = take_in(pat, elsewhere(doc)).json()["id"]
        rows = LogEntry.objects.filter(job=job_id, kind="coat_started")
        self.assertEqual([(e.actor.username, e.told_by) for e in rows], [("pat", "owner1, imported by pat")])
        self.assertIn(
            "owner1, imported by pat", self.client.get(f"/api/jobs/{job_id}/entries.csv").content.decode()
        )
        log = self.client.get(f"/api/jobs/{job_id}").json()["log"]
        self.assertIn("owner1, imported by pat", [line["actor"] for line in log])
