"""A job out and in again: byte for byte, or refused in words with nothing kept."""

from __future__ import annotations

import base64
import csv
import hashlib
import io
import json
from typing import Any

import icalendar
import jsonschema
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase

from coatlog.core.codec import canonical
from coatlog.jobs.models import Asset, FactsDoc, Job, Photo
from coatlog.logbook.models import ClimateReading, LogEntry
from coatlog.run.models import JobProjection, PlanDoc
from coatlog.shop.models import Member, Place

from .base import NOW, ShopMixin
from .test_photos import picture


class ExchangeTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.send(self.client, self.start_entry())
        self.post(self.client, f"/api/weather/{self.place.pk}/probe", {})
        note = self.entry("note", {"text": '=1+1, "quoted"'}, device_id="=cmd")
        self.send(self.client, note)
        self.send(self.client, self.entry("strike", {"target_id": note["id"], "reason": "wrong job"}))

    def export(self) -> str:
        return self.client.get(f"/api/jobs/{self.job.pk}/export").content.decode()

    def take_in(self, text: str | bytes, name: str = "job.json") -> Any:
        data = text.encode() if isinstance(text, str) else text
        return self.client.post("/api/jobs/import", {"file": SimpleUploadedFile(name, data)})

    def forget_job(self) -> None:
        """As on a machine that never saw it.  The guard yields only to the test runner."""
        for model in (JobProjection, PlanDoc, FactsDoc, LogEntry, ClimateReading, Job, Asset, Place):
            model.objects.all().delete()
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")

    def test_out_and_in_again_is_the_same_document_and_the_same_state(self) -> None:
        dates = {"due_at": NOW + 90_000, "ready_at": NOW + 60, "slot_at": NOW + 100_000}
        self.post(self.client, f"/api/jobs/{self.job.pk}/dates", dates)
        before = self.export()
        row = JobProjection.objects.get(job=self.job)
        state, starts = row.state, [t["start_at"] for t in row.plan["tasks"]]
        self.forget_job()
        r = self.take_in(before)
        self.assertEqual(r.status_code, 200, r.content[:400])
        self.assertEqual(self.export(), before)
        taken = JobProjection.objects.get(job=self.job)
        after = taken.state
        self.assertEqual([t["start_at"] for t in taken.plan["tasks"]], starts)
        for changing in ("through_seq", "climate_id"):  # the shop's own counters
            state.pop(changing), after.pop(changing)
        self.assertEqual(canonical(after), canonical(state))

    def test_pictures_of_damage_travel_along_as_pixels_only(self) -> None:
        file = SimpleUploadedFile("a.jpg", picture(), content_type="image/jpeg")
        photo_id = self.client.post("/api/photos", {"file": file}).json()["photo_id"]
        part_id = self.job.facts.get().doc["parts"][0]["id"]
        self.send(
            self.client,
            self.entry("damage_found", {"part_id": part_id, "text": "dent", "photo_id": photo_id}),
        )
        before = self.export()
        self.forget_job()
        Photo.objects.all().delete()
        doc = json.loads(before)
        (kept,) = doc["photos"]
        secret = picture(comment=b"where it was taken")
        told = {
            "the hash of its bytes": {**kept, "photo_id": "0" * 64},
            "base64": {**kept, "jpeg_base64": "?"},
            "nothing in it but its pixels": {
                "photo_id": hashlib.sha256(secret).hexdigest(),
                "jpeg_base64": base64.b64encode(secret).decode(),
            },
        }
        for expected, wrong in told.items():
            r = self.take_in(json.dumps({**doc, "photos": [wrong]}))
            self.assertEqual(r.status_code, 422)
            self.assertIn(expected, r.json()["errors"][0]["expected"])
            self.assertFalse(Photo.objects.exists() or Job.objects.exists())
        self.assertEqual(self.take_in(before).status_code, 200)
        self.assertEqual(self.export(), before)
        self.assertEqual(self.client.get(f"/api/photos/{photo_id}").status_code, 200)

    def test_it_keeps_to_its_published_schema(self) -> None:
        schema = self.client.get("/api/schemas/job").json()
        jsonschema.validate(json.loads(self.export()), schema)
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate({**json.loads(self.export()), "entries": 7}, schema)

    def test_the_same_again_is_nothing_new_and_one_that_went_on_is_refused(self) -> None:
        first = self.export()
        count = LogEntry.objects.count()
        self.assertEqual(self.take_in(first).json()["id"], str(self.job.pk))
        self.assertEqual(LogEntry.objects.count(), count)
        self.send(self.client, self.entry("note", {"text": "later"}))
        self.assertIn("has gone on since", self.take_in(first).json()["detail"])
        self.make_shop("Shop two", "owner2")
        other = self.signed_in("owner2")
        r = other.post("/api/jobs/import", {"file": SimpleUploadedFile("j.json", first.encode())})
        self.assertEqual(r.status_code, 422)
        self.assertIn("already in another shop", r.json()["detail"])

    def test_people_unknown_here_are_kept_by_name(self) -> None:
        before = self.export().replace('"actor":"owner1"', '"actor":"someone-else"')
        self.forget_job()
        self.assertEqual(self.take_in(before).status_code, 200)
        self.assertEqual(self.export(), before)
        self.assertEqual(set(LogEntry.objects.values_list("signed_as", flat=True)), {"someone-else"})

    def test_bad_files_say_what_where_and_expected_and_leave_nothing(self) -> None:
        good = json.loads(self.export())
        self.forget_job()

        def spoiled(**over: Any) -> str:
            return json.dumps({**good, **over})

        part = {**good["facts"][0], "version": 9}
        entry = {**good["entries"][2], "body": {"coats": "none"}}
        cold = [{**r, "rh_frac": 50} for r in good["readings"]]
        for text, said in (
            (b"", "not JSON"),
            (b"\xff\xfe{}", "not JSON in UTF-8"),
            ("[]", "an object"),
            ("{}", "id: nothing stands there, expected a value"),
            (spoiled(format="other"), "format"),
            (spoiled(created_at="yesterday"), "created_at: 'yesterday' stands there"),
            (spoiled(created_at=float("nan")), "created_at: 'nan' stands there, expected a number"),
            (spoiled(surprise=1), "no such field"),
            (spoiled(facts=[part]), "changed by hand"),
            (spoiled(entries=[*good["entries"][:2], entry]), "entries[2].body.coats"),
            (spoiled(readings=cold), "readings[0]"),
            (spoiled(id="7"), "entries[0].job_id"),
            (spoiled(place_id="elsewhere"), "one of the document's places"),
        ):
            r = self.take_in(text)
            self.assertEqual(r.status_code, 422, (said, r.content[:200]))
            self.assertIn(said, r.json()["detail"], r.json())
        self.assertEqual((Job.objects.count(), LogEntry.objects.count(), Place.objects.count()), (0, 0, 0))
        big = self.take_in(b"{" + b" " * 50_000_000)
        self.assertIn(big.status_code, (413, 422))

    def test_a_viewer_takes_nothing_in(self) -> None:
        self.add_member("looker", Member.VIEWER)
        text = self.export()
        file = SimpleUploadedFile("j.json", text.encode())
        self.assertEqual(self.signed_in("looker").post("/api/jobs/import", {"file": file}).status_code, 403)

    def test_entries_as_a_table_that_no_program_takes_for_formulas(self) -> None:
        text = self.client.get(f"/api/jobs/{self.job.pk}/entries.csv").content.decode()
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(len(rows), LogEntry.objects.filter(job=self.job).count())
        note = next(r for r in rows if r["kind"] == "note")
        self.assertEqual((note["device"], json.loads(note["body_json"])["text"]), ("'=cmd", '=1+1, "quoted"'))

    def test_what_is_due_is_a_calendar(self) -> None:
        part_id = self.job.facts.get().doc["parts"][0]["id"]
        self.send(self.client, self.entry("in_service", {"part_ids": [part_id]}))
        calendar = icalendar.Calendar.from_ical(self.client.get("/api/due.ics").content)
        (event,) = calendar.walk("VEVENT")
        self.assertIn("Look at edges", str(event["summary"]))
        self.assertEqual(int(event["dtstart"].dt.timestamp()), NOW + 30 * 86400)
