"""The log through its API: idempotent, ordered, append-only, scoped, permitted."""

from __future__ import annotations

import json
import threading
import uuid

from django.conf import settings
from django.db import Error, connection, connections
from django.test import TestCase, TransactionTestCase
from django.test.utils import CaptureQueriesContext

from coatlog.core.codec import canonical, to_plain
from coatlog.logbook.models import ClimateReading, LogEntry
from coatlog.run import projection
from coatlog.run.models import JobProjection
from coatlog.run.plan_queue import ask
from coatlog.shop import clock
from coatlog.shop.clock import ClockRefused
from coatlog.shop.models import Member, Shop

from .base import NOW, ShopMixin


class PostTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def test_stored_already_differs_refused(self) -> None:
        e = self.start_entry()
        self.assertEqual(self.send(self.client, e)[0]["result"], "stored")
        self.assertEqual(self.send(self.client, e)[0]["result"], "already")
        other = self.send(self.client, {**e, "body": {**e["body"], "batch_ids": ["x"]}})[0]
        self.assertEqual((other["result"], other["stored"]["body"]), ("differs", e["body"]))
        bad = self.send(self.client, self.entry("coat_done", {"coat_ids": "all of them"}))[0]
        self.assertEqual((bad["result"], bad["field"]), ("refused", "body.coat_ids"))
        self.assertIn("expected a list", bad["why"])
        self.assertEqual(LogEntry.objects.filter(job=self.job, kind="coat_started").count(), 1)

    def test_a_group_is_stored_whole_or_not_at_all(self) -> None:
        group = str(uuid.uuid4())
        good = self.entry("note", {"text": "a"}, group_id=group)
        bad = self.entry("strike", {"target_id": str(uuid.uuid4()), "reason": " "}, group_id=group)
        lone = self.entry("note", {"text": "b"})
        results = {r["id"]: r["result"] for r in self.send(self.client, good, bad, lone)}
        self.assertEqual([results[e["id"]] for e in (good, bad, lone)], ["refused", "refused", "stored"])
        seqs = list(LogEntry.objects.filter(shop=self.shop).order_by("seq").values_list("seq", flat=True))
        self.assertEqual(seqs, list(range(1, len(seqs) + 1)))

    def test_a_phone_with_a_wrong_clock_is_put_right_by_when_it_sent(self) -> None:
        e = self.entry("note", {"text": "late phone"}, at=NOW - 3600)
        self.send(self.client, e, sent_at=NOW - 3000)
        row = LogEntry.objects.get(entry_id=e["id"])
        self.assertEqual((row.skew_s, row.at_true), (3000, NOW - 600))
        typed = self.entry("note", {"text": "typed"}, at=NOW - 3600, at_from="typed")
        self.send(self.client, typed, sent_at=NOW - 3000)
        self.assertEqual(LogEntry.objects.get(entry_id=typed["id"]).at_true, NOW - 3600)

    def test_nothing_is_true_later_than_it_was_received(self) -> None:
        """A device a second ahead, or hours: its tap counts at once, not when that time has come."""
        for ahead, sent_at in ((1, NOW + 1), (4, NOW), (7200, NOW)):
            e = self.entry("note", {"text": f"{ahead} s ahead"}, at=NOW + ahead)
            self.send(self.client, e, sent_at=sent_at)
            self.assertEqual(LogEntry.objects.get(entry_id=e["id"]).at_true, NOW)
        typed = self.entry("note", {"text": "tomorrow"}, at=NOW + 86400, at_from="typed")
        told = self.send(self.client, typed)[0]
        self.assertEqual((told["result"], told["field"]), ("refused", "at"))

    def test_what_cannot_be_is_refused_at_the_door_naming_field_given_and_expected(self) -> None:
        start = self.start_entry()
        self.send(self.client, start)
        ref = start["body"]["coats"][0]
        coat, part = ref["coat_id"], ref["part_id"]
        air = {"place_id": str(self.place.pk), "air_degc": 20, "rh_frac": 0.5}
        comb = {"part_id": part, "coat_id": coat, "what": "wet_comb"}
        cases = [
            ("film_read", {"part_id": part, "what": "dry_total", "um": [9e9]}, "body.um[0]", "0 to 20000 µm"),
            ("film_read", {"part_id": part, "what": "dry_total"}, "body.um", "at least one reading"),
            ("film_read", {**comb, "low_um": 150, "high_um": 125}, "body.high_um", "above the last wet"),
            ("film_read", {"part_id": "nobody", "what": "dry_total", "um": [50]}, "body.part_id", "of this"),
            ("climate_read", {**air, "part_id": "nobody"}, "body.part_id", "a part of this job"),
            ("coat_done", {"coat_ids": [str(uuid.uuid4())]}, "body.coat_id", "that was started on this job"),
            ("coat_done", {"coat_ids": []}, "body.coat_ids", "at least one coat"),
            ("step_done", {"part_ids": [], "step": "wipe"}, "body.part_ids", "at least one part"),
            ("coat_started", {**start["body"], "coats": []}, "body.coats", "at least one coat"),
            ("coat_started", {**start["body"], "coats": [{**ref, "n": 0}]}, "body.coats", "counted from 1"),
            ("coat_started", {**start["body"], "coats": [{**ref, "layer_id": ""}]}, "body.coats[0]", "part"),
            ("batch_mixed", {"batch_id": "b", "sheet_id": "s", "parts": []}, "body.parts", "one component"),
            ("facts_adopted", {"facts_id": "none"}, "body.facts_id", "facts of this job"),
        ]  # fmt: skip
        before = LogEntry.objects.count()
        for kind, body, field, expected in cases:
            told = self.send(self.client, self.entry(kind, body))[0]
            self.assertEqual((told["result"], told["field"]), ("refused", field), (kind, body))
            self.assertIn(expected, told["why"])
            self.assertIn("given, expected", told["why"])
        self.assertEqual(LogEntry.objects.count(), before)

    def test_a_batch_given_back_by_striking_its_strike_is_given_back_to_all_who_draw_from_it(self) -> None:
        other = self.make_job(self.owner, self.place, self.sheets)
        sheet = self.sheets["epoxy-primer-2k"].id
        batch = str(uuid.uuid4())
        parts = [{"role": "base", "ml": 400.0}, {"role": "hardener", "ml": 100.0}]
        mixed = self.entry(
            "batch_mixed", {"batch_id": batch, "sheet_id": sheet, "parts": parts, "hardener_in_at": NOW}
        )
        facts = other.facts.get().doc
        layer = next(x for x in facts["layers"] if x["position"] == 0)
        ref = {"coat_id": str(uuid.uuid4()), "part_id": layer["part_id"], "layer_id": layer["id"], "n": 1}
        body = {"coats": [ref], "facts_id": facts["id"], "batch_ids": [batch]}
        strike = self.entry("strike", {"target_id": mixed["id"], "reason": "another cup"})
        again = self.entry("strike", {"target_id": strike["id"], "reason": "it was this cup"})
        for e in (mixed, self.entry("coat_started", body, job_id=str(other.pk)), strike, again):
            self.assertEqual(self.send(self.client, e)[0]["result"], "stored", e["kind"])
            for job in (self.job, other):
                row, (_, state) = JobProjection.objects.get(job=job), projection.full_replay(job)
                self.assertEqual(canonical(row.state), canonical(to_plain(state)), e["kind"])
        self.assertTrue(JobProjection.objects.get(job=other).state["batches"][0]["mixed"])

    def test_projection_equals_full_replay_after_every_entry(self) -> None:
        start = self.start_entry()
        coat = start["body"]["coats"][0]["coat_id"]
        steps = [
            start,
            self.entry("climate_read", {"place_id": str(self.place.pk), "air_degc": 14.0, "rh_frac": 0.5}),
            self.entry("coat_done", {"coat_ids": [coat]}, at=NOW + 200),
            self.entry("strike", {"target_id": start["id"], "reason": "wrong part"}),
        ]
        for e in steps:
            self.send(self.client, e)
            row = JobProjection.objects.get(job=self.job)
            _, state = projection.full_replay(self.job)
            self.assertEqual(canonical(row.state), canonical(to_plain(state)))
            self.assertEqual(row.through_seq, LogEntry.objects.filter(job=self.job).latest("seq").seq)

    def test_strict_json_and_problems_that_name_the_field(self) -> None:
        for at, wrong in (("NaN", {"entries[0].at"}), ("-1", {"entries.0.id", "entries.0.at"})):
            text = f'{{"sent_at": 1, "entries": [{{"id": "no", "kind": "note", "at": {at}}}]}}'
            r = self.client.post("/api/entries", text, content_type="application/json")
            self.assertEqual((r.status_code, r["Content-Type"]), (422, "application/problem+json"))
            self.assertLessEqual(wrong, {e["field"] for e in r.json()["errors"]})

    def test_now_asks_few_questions_however_many_jobs_run(self) -> None:
        with self.assertNumQueries(7):  # session, user, member, live rows, due ones and how many, facts
            self.client.get("/api/now")
        self.make_job(self.owner, self.place, self.sheets)
        with self.assertNumQueries(7):
            self.client.get("/api/now")

    def test_a_tag_spares_the_answer_until_something_happens(self) -> None:
        path = f"/api/jobs/{self.job.pk}"
        tag = self.client.get(path)["ETag"]
        again = self.client.get(path, headers={"If-None-Match": tag})
        self.assertEqual((again.status_code, again.content, again["Coat-Now"]), (304, b"", str(NOW)))
        self.send(self.client, self.start_entry())
        self.assertEqual(self.client.get(path, headers={"If-None-Match": tag}).status_code, 200)


class PermissionTest(ShopMixin, TestCase):
    def test_every_path_answers_404_for_another_shops_ids(self) -> None:
        self.make_shop("Shop two", "owner2")
        client = self.signed_in("owner2")
        sheet = self.sheets["textured-liner-2k"].id
        job, place = self.job.pk, self.place.pk
        self.assertEqual(client.get("/api/leave", {"job_id": str(job)}).status_code, 404)
        for path in ("", f"/mix?sheet_id={sheet}", "/quantity", "/draft", "/export", "/entries.csv"):
            self.assertEqual(client.get(f"/api/jobs/{job}{path}").status_code, 404, path)
        for path in (f"/api/weather/{place}",):
            self.assertEqual(client.get(path).status_code, 404, path)
        for path in (f"/api/jobs/{job}/plan", f"/api/weather/{place}/probe"):
            self.assertEqual(self.post(client, path, {}).status_code, 404, path)
        with open(__file__, "rb") as file:
            upload = {"file": file, "lay": "history"}
            self.assertEqual(client.post(f"/api/weather/{place}/import", upload).status_code, 404)
        parts = [{"name": "p", "area_m2": 1, "substrate": "sound_paint"}]
        layers = [{"sheet_id": sheet, "coats": 1}]
        data = {"title": "x", "asset": "y", "place_id": str(place), "layers": layers, "parts": parts}
        self.assertEqual(self.post(client, "/api/jobs", data).status_code, 404)
        change = client.put(f"/api/jobs/{job}/stack", json.dumps(data), "application/json")
        self.assertEqual(change.status_code, 404)
        (result,) = self.send(client, self.start_entry())
        self.assertEqual((result["result"], result["field"]), ("refused", "job_id"))
        air = {"place_id": str(place), "air_degc": 1, "rh_frac": 0.5}
        foreign_place = self.entry("climate_read", air, job_id=None)
        self.assertEqual(self.send(client, foreign_place)[0]["field"], "body.place_id")
        self.assertEqual([j["id"] for j in client.get("/api/jobs").json()["jobs"]], [])
        self.assertEqual(client.get("/api/now").json()["lines"], [])

    def test_nobody_signed_in(self) -> None:
        for path in ("/api/now", "/api/jobs", f"/api/jobs/{self.job.pk}", "/api/shelf"):
            self.assertEqual(self.client.get(path).status_code, 401, path)
        self.assertEqual(self.client.get("/api/session").status_code, 204)

    def test_a_viewer_looks_a_painter_works_only_the_owner_overrules(self) -> None:
        self.add_member("looker", Member.VIEWER)
        self.add_member("painter", Member.PAINTER)
        note = self.entry("note", {"text": "hello"})
        overrule = self.entry(
            "overruled", {"rule_id": "climate.rh", "subject": "x", "reason": "sheet in hand"}
        )
        self.assertEqual(self.send(self.signed_in("looker"), note)[0]["result"], "refused")
        self.assertEqual(self.signed_in("looker").get(f"/api/jobs/{self.job.pk}").status_code, 200)
        self.assertEqual(
            self.post(self.signed_in("looker"), f"/api/jobs/{self.job.pk}/plan", {}).status_code, 403
        )
        results = [r["result"] for r in self.send(self.signed_in("painter"), note, overrule)]
        self.assertEqual(results, ["stored", "refused"])
        self.assertEqual(self.send(self.signed_in("owner1"), overrule)[0]["result"], "stored")

    def test_no_path_that_reads_writes_anything(self) -> None:
        """Every GET of the API document, with the shop's own ids, in a shop whose plan is late."""
        client = self.signed_in("owner1")
        start = self.start_entry()
        self.send(client, start)
        clock.set_now(NOW + 5 * 3600)
        known = {"job_id": self.job.pk, "place_id": self.place.pk, "photo_id": "0" * 64}
        known["material_id"] = "epoxy-primer-2k"
        known["ask_id"] = ask(self.owner, self.job, "ways", {}, NOW).pk
        sheet = self.sheets["epoxy-primer-2k"].id
        paths = json.loads((settings.BASE_DIR / "docs" / "openapi.json").read_text())["paths"]
        asked = 0
        for path, does in paths.items():
            if "get" not in does:
                continue
            where = path.format(**known, sheet_id=sheet) + (
                f"?sheet_id={sheet}" if path.endswith("/mix") else ""
            )
            with CaptureQueriesContext(connection) as queries:
                status = client.get(where).status_code
            self.assertIn(status, (200, 404 if "photo" in path else 200), where)
            wrote = [q["sql"] for q in queries if q["sql"].startswith(("INSERT", "UPDATE", "DELETE"))]
            self.assertEqual(wrote, [], where)
            asked += 1
        self.assertGreater(asked, 25)

    def test_sign_in_by_password_and_lock_out_after_eight_wrong_ones(self) -> None:
        def sign_in(password: str) -> int:
            return self.post(
                self.client, "/api/session", {"username": "owner1", "password": password}
            ).status_code

        self.assertEqual(sign_in("pw-of-a-test"), 200)
        self.assertEqual(self.client.get("/api/session").json()["role"], "owner")
        self.assertEqual([sign_in("wrong") for _ in range(8)], [401] * 7 + [429])
        self.assertEqual(sign_in("pw-of-a-test"), 429)

    def test_writes_need_the_csrf_token(self) -> None:
        from django.test import Client

        client = Client(enforce_csrf_checks=True)
        client.force_login(self.owner.user, backend="django.contrib.auth.backends.ModelBackend")
        r = client.post("/api/entries", "{}", content_type="application/json")
        self.assertEqual(r.status_code, 403)

    def test_the_actor_is_who_is_signed_in(self) -> None:
        self.add_member("painter", Member.PAINTER)
        e = self.entry("note", {"text": "by me"})
        self.send(self.signed_in("painter"), e)
        self.assertEqual(LogEntry.objects.get(entry_id=e["id"]).actor.username, "painter")


class DatabaseGuardTest(ShopMixin, TransactionTestCase):
    """The database refuses changes to the log, except to the test runner's own sessions."""

    def test_update_delete_and_truncate_are_refused(self) -> None:
        ClimateReading.objects.create(place=self.place, at=NOW, air_degc=20, rh_frac=0.5, source="probe")
        tables = [
            "logbook_logentry",
            "logbook_climatereading",
            "shelf_sheetdoc",
            "jobs_factsdoc",
            "run_plandoc",
        ]
        with connection.cursor() as cursor:
            cursor.execute("SET coatlog.test_runner = 'off'")
            try:
                for table in tables:
                    for sql in (
                        f"UPDATE {table} SET id = id",
                        f"DELETE FROM {table}",
                        f"TRUNCATE {table} CASCADE",
                    ):
                        with self.assertRaisesRegex(Error, "append-only", msg=sql):
                            cursor.execute(sql)
            finally:
                cursor.execute("SET coatlog.test_runner = 'on'")
        self.assertEqual(LogEntry.objects.filter(job=self.job).count(), 2)

    def test_sequence_is_commit_order_under_contention(self) -> None:
        """A reader that polls "since" never sees a number appear below one it has seen."""
        client = self.signed_in("owner1")
        seen: list[int] = []
        done = threading.Event()

        def write(n: int) -> None:
            for i in range(6):
                self.send(client, self.entry("note", {"text": f"{n}-{i}"}, device_id=f"d{n}", n=i))
            connections.close_all()

        def watch() -> None:
            while not done.is_set():
                top = LogEntry.objects.filter(shop=self.shop).values_list("seq", flat=True)
                seen.append(sorted(top) == list(range(1, len(top) + 1)))
            connections.close_all()

        watcher = threading.Thread(target=watch)
        writers = [threading.Thread(target=write, args=(n,)) for n in range(3)]
        for t in (watcher, *writers):
            t.start()
        for t in writers:
            t.join()
        done.set()
        watcher.join()
        self.assertTrue(seen and all(seen))
        self.assertEqual(
            Shop.objects.get(pk=self.shop.pk).entry_seq, LogEntry.objects.filter(shop=self.shop).count()
        )


class ClockTest(TestCase):
    def test_the_clock_may_be_set_here_and_nowhere_else(self) -> None:
        clock.set_now(5)
        self.assertEqual(clock.now(), 5)
        clock.release()
        with self.settings(CLOCK_SETTABLE=False), self.assertRaises(ClockRefused):
            clock.set_now(5)
