"""What the pages are told: mix, weather, jobs by hand, the demo; and bad input of every kind."""

from __future__ import annotations

import datetime as dt
import json
import re
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import TestCase

from coatlog.devices.probe import SimulatedProbe
from coatlog.jobs.models import Job
from coatlog.logbook.models import ClimateReading, LogEntry
from coatlog.run.models import JobProjection, PlanDoc
from coatlog.shop.models import Member, Place

from .base import NOW, ShopMixin


class MixPageTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.liner = self.sheets["textured-liner-2k"].id

    def mix(self, **query: Any) -> dict[str, Any]:
        r = self.client.get(f"/api/jobs/{self.job.pk}/mix", {"sheet_id": self.liner, **query})
        self.assertEqual(r.status_code, 200, r.content)
        return r.json()

    def pour(self, batch: str, component: str, ml: float) -> None:
        body = {"batch_id": batch, "sheet_id": self.liner, "component": component, "ml": ml}
        self.assertEqual(self.send(self.client, self.entry("pour", body))[0]["result"], "stored")

    def test_marks_and_grams_in_pouring_order(self) -> None:
        """750 : 75 : 250, by the trade's own bottle (common practice, no published source)."""
        cup = self.mix(total_ml=1075)["cup"]
        self.assertEqual(
            [(p["role"], round(p["mark_ml"])) for p in cup["pours"]],
            [("base", 750), ("tint", 825), ("hardener", 1075)],
        )
        self.assertAlmostEqual(cup["pours"][0]["scale_g"], 750 * 1.16)
        self.assertEqual(
            [p["role"] for p in self.mix(total_ml=1000, tint_frac=0)["cup"]["pours"]], ["base", "hardener"]
        )

    def test_what_is_in_the_cup_moves_the_rest(self) -> None:
        batch = str(uuid.uuid4())
        self.pour(batch, "base", 600)
        page = self.mix(total_ml=9999)
        self.assertEqual((page["next_role"], page["poured"]["batch_id"]), ("tint", batch))
        self.assertAlmostEqual(page["cup"]["pours"][2]["ml"], 200)
        self.pour(batch, "tint", 60)
        self.assertEqual(self.mix()["next_role"], "hardener")
        self.pour(batch, "hardener", 200)
        parts = [{"role": "base", "ml": 600}, {"role": "tint", "ml": 60}, {"role": "hardener", "ml": 200}]
        body = {"batch_id": batch, "sheet_id": self.liner, "parts": parts, "hardener_in_at": NOW}
        self.send(self.client, self.entry("batch_mixed", body))
        page = self.mix()
        self.assertEqual((page["poured"], page["batches"][0]["total_ml"]), (None, 860.0))
        self.assertEqual(page["next_role"], "base", "the next cup begins empty")

    def test_how_much_counts_what_is_still_to_put_on_and_names_its_losses(self) -> None:
        page = self.mix()
        self.assertEqual(len(page["needs"]), 2)
        v = page["volume"]
        self.assertAlmostEqual(v["film_ml"], 2 * 350 / 0.65, delta=0.5)
        self.assertAlmostEqual(
            v["total_ml"], (v["film_ml"] + v["overspray_ml"]) / 0.95 + v["fixed_ml"], delta=0.5
        )
        self.assertEqual(v["why"]["formula_id"], "film.volume")

    def test_a_batch_too_small_to_pour_by_marks_says_the_smallest_that_works(self) -> None:
        page = self.mix(total_ml=100)
        self.assertIn(f"Mix {page['smallest_ml']:.0f} ml or more", page["too_small"])
        self.assertEqual(self.mix(total_ml=page["smallest_ml"] + 1)["too_small"], "")

    def test_bad_queries_are_refused_by_field(self) -> None:
        path = f"/api/jobs/{self.job.pk}/mix"
        for query, field in (
            ({"sheet_id": self.liner, "total_ml": "0"}, "total_ml"),
            ({"sheet_id": self.liner, "total_ml": "-4"}, "total_ml"),
            ({"sheet_id": self.liner, "total_ml": "1e9"}, "total_ml"),
            ({"sheet_id": self.liner, "total_ml": "much"}, "total_ml"),
            ({"sheet_id": self.liner, "tint_frac": "0.9"}, "tint_frac"),
            ({}, "sheet_id"),
        ):
            r = self.client.get(path, query)
            self.assertEqual(r.status_code, 422, query)
            self.assertTrue(any(field in e["field"] and e["expected"] for e in r.json()["errors"]), r.content)
        self.assertEqual(self.client.get(path, {"sheet_id": "0" * 64}).status_code, 404)


STACK = (("epoxy-primer-2k", 1), ("textured-liner-2k", 2))


class JobByHandTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.liner = self.sheets["textured-liner-2k"].id

    def data(self, **over: Any) -> dict[str, Any]:
        return {
            "title": "Sill", "asset": "Tug", "asset_kind": "road", "place_id": str(self.place.pk),
            "parts": [{"name": "Left", "area_m2": 0.7, "substrate": "bare_steel"}],
            "layers": [{"sheet_id": self.sheets[f].id, "coats": n} for f, n in STACK],
            **over,
        }  # fmt: skip

    def test_a_job_comes_with_facts_a_plan_and_a_projection_that_agree(self) -> None:
        r = self.post(self.client, "/api/jobs", self.data())
        self.assertEqual(r.status_code, 200, r.content)
        job = Job.objects.get(pk=r.json()["id"])
        kinds = list(LogEntry.objects.filter(job=job).order_by("seq").values_list("kind", flat=True))
        self.assertEqual(kinds, ["facts_adopted", "plan_adopted"])
        self.assertEqual(
            PlanDoc.objects.get(job=job).plan_id, JobProjection.objects.get(job=job).state["plan_id"]
        )
        page = self.client.get(f"/api/jobs/{job.pk}").json()
        self.assertEqual(len([t for t in page["plan"]["tasks"] if t["kind"] == "coat"]), 3)
        self.assertEqual([p["word"] for p in page["view"]["parts"]], ["bare"])

    def test_bad_input_names_the_field_and_leaves_nothing_behind(self) -> None:
        before = (Job.objects.count(), LogEntry.objects.count())
        part = {"name": "Left", "area_m2": 0.7, "substrate": "bare_steel"}
        layer = {"sheet_id": self.sheets["epoxy-primer-2k"].id, "coats": 1}
        for over, field in (
            ({"title": "  "}, "title"),
            ({"title": "x" * 200}, "title"),
            ({"asset": ""}, "asset"),
            ({"asset_kind": "spaceship"}, "asset_kind"),
            ({"place_id": "here"}, "place_id"),
            ({"parts": []}, "parts"),
            ({"layers": []}, "layers"),
            ({"parts": [{**part, "area_m2": 0}]}, "area_m2"),
            ({"parts": [{**part, "area_m2": -1}]}, "area_m2"),
            ({"parts": [{**part, "area_m2": 1e9}]}, "area_m2"),
            ({"parts": [{**part, "area_m2": "large"}]}, "area_m2"),
            ({"parts": [{**part, "name": ""}]}, "name"),
            ({"parts": [{**part, "substrate": "cheese"}]}, "substrate"),
            ({"parts": [{**part, "count": 0}]}, "count"),
            ({"layers": [{**layer, "coats": 0}]}, "coats"),
            ({"layers": [{**layer, "coats": 1.5}]}, "coats"),
            ({"layers": [{**layer, "target_um": -5}]}, "target_um"),
        ):
            r = self.post(self.client, "/api/jobs", self.data(**over))
            self.assertEqual(r.status_code, 422, (over, r.content))
            named = [e for e in r.json()["errors"] if field in e["field"]]
            self.assertTrue(named and named[0]["expected"], (over, r.json()))
        self.assertEqual((Job.objects.count(), LogEntry.objects.count()), before)

    def test_a_stopped_stack_says_what_why_and_instead(self) -> None:
        r = self.post(self.client, "/api/jobs", self.data(layers=[{"sheet_id": self.liner, "coats": 2}]))
        self.assertEqual(r.status_code, 409)
        (stop,) = r.json()["errors"]
        self.assertEqual(stop["rule_id"], "bare_metal.rated")
        self.assertTrue(stop["what"] and stop["why"] and stop["instead"])
        self.assertFalse(Job.objects.filter(title="Sill").exists())

    def test_a_shelf_sheet_is_immutable_and_graded(self) -> None:
        rows = self.client.get("/api/shelf?aids=true").json()
        self.assertEqual({r["sheet"]["material_id"] for r in rows}, set(self.sheets))
        self.assertFalse([r for r in self.client.get("/api/shelf").json() if r["sheet"]["aid"]])
        self.assertEqual({r["sheet"]["grade"] for r in rows}, {"typical"})
        again, _, _, _ = self.make_shop("Shop three", "owner3")
        self.assertEqual(
            {r["sheet"]["id"] for r in rows}, set(again.sheets.values_list("sheet_id", flat=True))
        )


OPEN = ("/api/session", "/api/session/code", "/api/shops", "/api/schemas/job")
# A viewer may judge a stack, measure an area, and change what is their own.
OWN = ("/api/password", "/api/preferences", "/api/judge", "/api/suggest", "/api/area")


class EveryPathTest(ShopMixin, TestCase):
    """Each path of the API document, so that a new one cannot be forgotten."""

    def setUp(self) -> None:
        super().setUp()
        self.yard = Place.objects.create(shop=self.shop, name="Yard", outdoors=True, has_probe=True)

    def each(self) -> list[tuple[str, str]]:
        document = json.loads(Path(settings.BASE_DIR, "docs", "openapi.json").read_text())
        ids = {"job_id": str(self.job.pk), "place_id": str(self.yard.pk)}
        ids["fact"], ids["username"], ids["ask_id"] = "booth", "owner1", str(self.job.pk)
        ids["sheet_id"], ids["photo_id"] = self.sheets["clear-coat-2k"].id, "0" * 64
        ids["part_id"], ids["material_id"], ids["device_id"] = "p0", "clear-coat-2k", "1"
        paths = [(m, p) for p, ops in document["paths"].items() for m in ops if p not in OPEN]
        return [(method, path.format(**ids)) for method, path in paths]

    def told(self, method: str, path: str, status: int) -> None:
        """The document names the answer."""
        document = json.loads(Path(settings.BASE_DIR, "docs", "openapi.json").read_text())
        found = []
        for named, operations in document["paths"].items():
            pattern = re.sub(r"\\\{[^}]+\\\}", "[^/]+", re.escape(named))
            if method in operations and re.fullmatch(pattern, path.partition("?")[0]):
                found.append(str(status) in operations[method]["responses"])
        self.assertTrue(found and all(found), (method, path, status))

    def test_nobody_gets_in_unsigned(self) -> None:
        for method, path in self.each():
            r = self.client.generic(method.upper(), path, "{}", content_type="application/json")
            self.assertEqual(r.status_code, 401, (method, path))
            self.told(method, path, 401)

    def test_what_an_answer_may_be_is_in_the_document(self) -> None:
        """Each path with nothing and with nonsense, by the owner: whatever comes is one of those named."""
        client = self.signed_in("owner1")
        for method, path in self.each():
            if path == "/api/session" or "/people/owner1" in path:
                continue
            for body in ("{}", '{"x": 1', "[]"):
                with transaction.atomic():
                    r = client.generic(method.upper(), path, body, content_type="application/json")
                    transaction.set_rollback(True)
                self.told(method, path, r.status_code)

    def test_a_viewer_changes_nothing(self) -> None:
        self.add_member("looker", Member.VIEWER)
        client = self.signed_in("looker")
        before = (
            LogEntry.objects.count(),
            ClimateReading.objects.count(),
            Job.objects.count(),
            PlanDoc.objects.count(),
        )
        bodies = {
            "/api/entries": {"sent_at": NOW, "entries": [self.start_entry()]},
            "/api/jobs": {
                "title": "x",
                "asset": "y",
                "place_id": str(self.place.pk),
                "parts": [{"name": "p", "area_m2": 1, "substrate": "sound_paint"}],
                "layers": [{"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 1}],
            },
            f"/api/jobs/{self.job.pk}/stack": {
                "parts": [{"name": "p", "area_m2": 1, "substrate": "sound_paint"}],
                "layers": [{"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 1}],
            },
            f"/api/jobs/{self.job.pk}/stack/preview": {
                "parts": [{"name": "p", "area_m2": 1, "substrate": "sound_paint"}],
                "layers": [{"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 1}],
            },
            f"/api/jobs/{self.job.pk}/move": {"task_key": "x", "start_at": NOW},
            "/api/sheets": {},
            "/api/sheets/label": {"like": "x", "name": "y", "says": {}},
            "/api/prices": {"material_id": "clear-coat-2k", "pack": "1 l kit", "amount": 1},
            f"/api/weather/{self.yard.pk}/forecast": {},
            "/api/people": {"username": "new", "password": "long-and-odd-77", "role": "viewer"},
            "/api/places": {"name": "Bay 9"},
            f"/api/jobs/{self.job.pk}/words": {"title": "Other"},
            "/api/shop/facts/booth": {"yes": True},
            "/api/shop/first": {"units": "us", "works_on": ["road"]},
            "/api/people/owner1": {"sensitised": True},
            "/api/people/owner1/crew": {"in_plan": True},
            "/api/shop": client.get("/api/shop").json()["shop"],
        }
        for method, path in self.each():
            if method == "get" or path in OWN or path.endswith(("/what-if", "/ways")):  # those store nothing
                continue
            if path.startswith(
                ("/api/devices", "/api/pairing", "/api/plan-asks/")
            ):  # one's own sign-ins and questions
                continue
            if path.endswith("/import") or path in (
                "/api/photos",
                "/api/sheets/table",
                "/api/sheets/read",
                "/api/gauge-file",
            ):
                file = SimpleUploadedFile("w.csv", b"time_utc,air_degc,rh_frac\n2026-01-01T00:00:00Z,1,0.5\n")
                r = client.post(path, {"file": file, "lay": "history"})
            else:
                r = client.generic(method.upper(), path, json.dumps(bodies.get(path, {})), "application/json")
            refused = r.status_code == 403
            refused |= path == "/api/entries" and r.json()[0]["result"] == "refused"
            self.assertTrue(refused, (path, r.status_code, r.content[:200]))
        after = (
            LogEntry.objects.count(),
            ClimateReading.objects.count(),
            Job.objects.count(),
            PlanDoc.objects.count(),
        )
        self.assertEqual(before, after)


class WeatherPageTest(ShopMixin, TestCase):
    def test_windows_are_the_known_hours_nothing_stops(self) -> None:
        client = self.signed_in("owner1")
        start = NOW // 3600 * 3600
        lines = ["time_utc,air_degc,rh_frac"]
        for i in range(30):
            at = dt.datetime.fromtimestamp(start + 3600 * i, dt.UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
            lines.append(f"{at},18.0,{0.95 if 4 <= i < 9 else 0.5}")
        file = SimpleUploadedFile("h.csv", "\n".join(lines).encode())
        upload = {"file": file, "lay": "history"}
        self.assertEqual(client.post(f"/api/weather/{self.place.pk}/import", upload).status_code, 200)
        page = client.get(f"/api/weather/{self.place.pk}").json()
        spans = [(w["from_at"] - start, w["to_at"] - start) for w in page["windows"]]
        self.assertEqual(spans, [(NOW - start, 4 * 3600), (9 * 3600, 30 * 3600)])
        wet = next(h for h in page["hours"] if h["at"] == start + 5 * 3600)
        self.assertTrue({"climate.dew", "climate.rh"} <= {s["rule_id"] for s in wet["stops"]})
        self.assertEqual(page["imports"][0]["rows"], 30)

    def test_the_simulated_probe_is_the_same_twice_and_always_a_workable_bay(self) -> None:
        probe = SimulatedProbe()
        for at in range(NOW, NOW + 86400, 1800):
            r = probe.read("bay", at)
            self.assertEqual(r, probe.read("bay", at))
            self.assertTrue(18 < r.air_degc < 22 and 0.4 < r.rh_frac < 0.7)
