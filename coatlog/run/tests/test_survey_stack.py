"""Survey and stack through the API: areas, versions, overruling, prices, search."""

from __future__ import annotations

import json
from typing import Any

from django.test import TestCase

from coatlog.core.codec import to_plain
from coatlog.core.stack.templates import TEMPLATES
from coatlog.jobs.models import FactsDoc, Job
from coatlog.logbook.models import LogEntry
from coatlog.run.models import JobProjection
from coatlog.shelf.services import add_sheet
from coatlog.shop.models import Member

from .base import NOW, ShopMixin


class SurveyTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def layer(self, key: str, coats: int, um: float | None = None) -> dict[str, Any]:
        return {"sheet_id": self.sheets[key].id, "coats": coats, "target_um": um}

    def draft(self, **over: Any) -> dict[str, Any]:
        return {
            "title": "Wheels", "asset": "Estate car", "asset_kind": "road", "place_id": str(self.place.pk),
            "parts": [{"name": "Wheel", "area_m2": 0.15, "substrate": "wheel_clear", "features": ["none"]}],
            "layers": [self.layer("wheel-peelable", 4, 110.0)], **over,
        }  # fmt: skip

    def put(self, data: dict[str, Any]) -> Any:
        return self.client.put(f"/api/jobs/{self.job.pk}/stack", json.dumps(data), "application/json")

    def change(self, **over: Any) -> Any:
        """The fixture's job as it stands, with something else in it."""
        draft = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        keep = {k: draft[k] for k in ("parts", "layers", "choices")}
        return self.put({**keep, "reason": "looked again", **over})

    def latest(self) -> dict[str, Any]:
        return FactsDoc.objects.filter(job=self.job).order_by("-version")[0].doc

    def test_a_set_becomes_parts_of_its_own_measured_from_its_shape(self) -> None:
        part = {
            "name": "Wheel", "substrate": "wheel_clear", "count": 4, "as_set": True, "shape": "wheel",
            "measures": {"diameter_m": 0.43, "barrels": 1, "width_m": 0.19}, "must_survive": ["stones"],
            "features": ["none"],
        }  # fmt: skip
        r = self.post(self.client, "/api/jobs", self.draft(parts=[part]))
        parts = FactsDoc.objects.get(job_id=r.json()["id"]).doc["parts"]
        self.assertEqual([p["name"] for p in parts], [f"Wheel {k}" for k in (1, 2, 3, 4)])
        self.assertEqual({p["set_name"] for p in parts}, {"Wheel"})
        self.assertAlmostEqual(parts[0]["area_m2"], 0.1452 + 0.2567, places=3)  # π/4 d², π d w
        self.assertIn("diameter 0.43", parts[0]["shape"])
        many = self.post(self.client, "/api/jobs", self.draft(parts=[{**part, "count": 201}]))
        self.assertEqual((many.status_code, many.json()["errors"][0]["field"]), (422, "parts[0].count"))
        self.assertIn("at most 200 parts in all", many.json()["detail"])
        kept = self.latest()["parts"][0]["id"]
        rim = {**part, "id": kept, "name": "Rim"}
        r = self.change(parts=[rim], layers=[self.layer("wheel-peelable", 4, 110.0)])
        self.assertEqual(r.status_code, 200, r.content[:300])
        rims = [p["id"] for p in self.latest()["parts"] if p["name"].startswith("Rim")]
        self.assertEqual((len(set(rims)), rims[0]), (4, kept))

    def test_every_usual_thing_takes_the_area_that_was_measured(self) -> None:
        """The faces of a template are usual shares: they follow the area, typed or measured."""
        for t in TEMPLATES:
            for p in t.parts:
                part = {
                    "name": p.name, "substrate": t.substrate, "area_m2": round(1.37 * p.area_m2, 3),
                    "faces": [{"facing": k, "area_m2": v} for k, v in p.faces.items()],
                    "count": p.count, "as_set": p.as_set, "faces_assumed": True,
                }  # fmt: skip
                panel = {"shape": "panel", "measures": {"length_m": 1.1, "width_m": 0.7}, "area_m2": None}
                for measured in ({}, panel):
                    data = {"parts": [{**part, **measured}], "layers": [self.layer("epoxy-primer-2k", 2)]}
                    r = self.post(self.client, "/api/judge", data)
                    self.assertIsNotNone(r.json()["summary"], (t.id, p.name, r.content[:200]))
        data = {**data, "parts": [{**part, "faces_assumed": False}]}
        self.assertIsNone(self.post(self.client, "/api/judge", data).json()["summary"], "measured faces hold")

    def test_a_change_keeps_what_is_on_and_retires_what_is_left_out(self) -> None:
        self.send(self.client, self.start_entry())
        before = self.latest()
        draft = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        draft["parts"].append({"name": "Hinge", "area_m2": 0.2, "substrate": "bare_steel"})
        draft["layers"][1]["coats"] = 3
        draft["layers"][1]["target_um"] = 1000.0
        r = self.put({"parts": draft["parts"], "layers": draft["layers"], "reason": "one more"})
        self.assertEqual(r.status_code, 200, r.content)
        after = self.latest()
        self.assertEqual(after["version"], 2)
        own = [x["id"] for x in after["layers"] if x["part_id"] == before["parts"][0]["id"]]
        self.assertEqual(own, [x["id"] for x in before["layers"]])
        state = JobProjection.objects.get(job=self.job).state
        self.assertEqual(len(state["parts"][0]["films"]), 1)
        self.assertEqual({x["outcome"] for x in state["ledger"]}, {"applied"})

    def test_a_part_left_out_is_retired_and_a_foreign_one_is_refused(self) -> None:
        draft = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        hinge = {"name": "Hinge", "area_m2": 0.2, "substrate": "bare_steel"}
        self.assertEqual(self.change(parts=[hinge]).status_code, 200)
        parts = {p["name"]: p["retired"] for p in self.latest()["parts"]}
        self.assertEqual(parts, {"Hinge": False, "Tailgate": True})
        self.assertEqual(len(JobProjection.objects.get(job=self.job).state["parts"]), 1)
        r = self.change(parts=[{**draft["parts"][0], "id": "0" * 36}])
        self.assertIn("parts[0].id", r.json()["errors"][0]["field"])

    def test_the_owner_overrules_a_stop_with_a_reason_that_stays_on_the_log(self) -> None:
        layers = [self.layer("textured-liner-2k", 2, 700.0)]
        self.assertEqual(self.change(layers=layers).status_code, 409)
        why = {"rule_id": "bare_metal.rated", "reason": "ok"}
        self.assertEqual(self.change(layers=layers, overrules=[why]).status_code, 422)
        why["reason"] = "its sheet rates blasted steel"
        r = self.change(layers=layers, overrules=[why])
        self.assertEqual(r.status_code, 200, r.content)
        entry = LogEntry.objects.get(job=self.job, kind="overruled")
        self.assertEqual(entry.body["reason"], why["reason"])
        self.assertEqual(self.latest()["overrules"], ["bare_metal.rated"])
        self.add_member("hand", Member.PAINTER)
        self.client = self.signed_in("hand")
        self.assertEqual(self.change(layers=layers, overrules=[why]).status_code, 403)

    def test_copper_on_aluminium_is_overruled_by_nobody(self) -> None:
        data = self.draft(
            asset_kind="vessel",
            parts=[
                {
                    "name": "Hull",
                    "area_m2": 20,
                    "substrate": "bare_aluminium",
                    "must_survive": ["immersion"],
                    "features": ["none"],
                }
            ],
            layers=[self.layer("epoxy-barrier", 3, 300.0), self.layer("copper-epoxy", 4, 240.0)],
            overrules=[{"rule_id": "copper.metal", "reason": "I know what I do"}],
        )
        r = self.post(self.client, "/api/jobs", data)
        self.assertEqual(r.status_code, 409)
        self.assertEqual([e["rule_id"] for e in r.json()["errors"]], ["copper.metal"])
        self.assertFalse(Job.objects.filter(title="Wheels").exists())

    def test_steps_that_are_said_are_judged_and_the_jobs_own_list_passes(self) -> None:
        layer = self.layer("epoxy-primer-2k", 1, 50.0)
        part = {"name": "Panel", "area_m2": 1, "substrate": "bare_steel"}
        for steps, told in (
            (None, set()),
            (["abrade:P120", "degrease", "mask"], {"degrease.before", "order.needs"}),
            (["wash", "degrease", "mask"], {"key.missing"}),
        ):
            data = {"parts": [part], "layers": [{**layer, "steps": steps}]}
            found = self.post(self.client, "/api/judge", data).json()["findings"]
            self.assertLessEqual(told, {f["rule_id"] for f in found if f["severity"] == "stop"}, steps)
            self.assertEqual(bool(told), any(f["severity"] == "stop" for f in found), steps)
        data = {"parts": [part], "layers": [{**layer, "steps": ["pray"]}]}
        told = self.post(self.client, "/api/judge", data).json()["errors"]
        self.assertEqual(told[0]["field"], "layers[0].steps")

    def test_a_job_keeps_the_steps_that_were_said_for_a_layer(self) -> None:
        said = ["inspect", "wash", "degrease", "abrade:P120", "wipe", "deoxidise", "dry", "wipe", "mask"]
        part = {"name": "Box", "area_m2": 1, "substrate": "bare_aluminium", "hole_mm": 12}
        layers = [{**self.layer("epoxy-primer-2k", 1, 50.0), "steps": said}]
        r = self.post(self.client, "/api/jobs", self.draft(parts=[part], layers=layers))
        self.assertEqual(r.status_code, 200, r.content)
        doc = FactsDoc.objects.get(job_id=r.json()["id"]).doc
        works = [w["step"] for w in doc["steps"][0]["works"]]
        self.assertEqual(works[: len(said)], [x.split(":")[0] for x in said])
        draft = self.client.get(f"/api/jobs/{r.json()['id']}/draft").json()
        self.assertEqual((draft["layers"][0]["steps"], draft["parts"][0]["hole_mm"]), (said, 12))

    def test_a_stop_a_job_was_made_with_stops_no_change_of_something_else(self) -> None:
        """A sheet that says nothing of what it is for, chosen for a reason; then a part is added."""
        plain = {k: v for k, v in to_plain(self.sheets["clear-coat-2k"]).items() if k != "purpose"}
        mute = add_sheet(self.shop, {**plain, "name": "Unlabelled clear", "recoat": []}, now=NOW)
        layers = [{"sheet_id": mute.id, "coats": 2, "target_um": 50.0}]
        panel = {"name": "Panel", "area_m2": 1, "substrate": "sound_paint"}
        why = {"rule_id": "ground.unvouched", "reason": "the maker said so on the phone"}
        data = self.draft(parts=[panel], layers=layers)
        told = self.post(self.client, "/api/jobs", data)
        self.assertEqual([e["rule_id"] for e in told.json()["errors"]], ["ground.unvouched"])
        made = self.post(self.client, "/api/jobs", {**data, "overrules": [why]})
        self.assertEqual(made.status_code, 200, made.content)
        self.job = Job.objects.get(pk=made.json()["id"])
        parts = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()["parts"]
        self.assertEqual(self.change(parts=[*parts, {**panel, "name": "Other"}]).status_code, 200)
        r = self.change(parts=[*parts, {**panel, "name": "Bare", "substrate": "bare_steel"}])
        self.assertEqual([e["rule_id"] for e in r.json()["errors"]], ["bare_metal.rated"])

    def test_two_candidates_come_to_different_sums(self) -> None:
        """Ten years against three: three jobs against ten in thirty (common practice)."""
        hull = [{"name": "Hull", "area_m2": 35.5, "substrate": "gelcoat", "must_survive": ["immersion"]}]
        barrier = self.layer("epoxy-barrier", 2, 220.0)
        a = {"parts": hull, "layers": [barrier, self.layer("copper-epoxy", 4, 240.0)]}
        hard = [self.layer("tie-coat", 1, 55.0), self.layer("hard-antifouling", 3, 130.0)]
        b = {"parts": hull, "layers": [barrier, *hard]}
        one, two = (self.post(self.client, "/api/judge", x).json()["summary"] for x in (a, b))
        self.assertEqual((one["claim_s"] // 31536000, two["claim_s"] // 31536000), (10, 3))
        self.assertEqual((one["ready_gate"], one["tacky_joins"], two["tacky_joins"]), ("immerse_from", 1, 2))
        self.assertIsNone(one["cost"])
        for material in ("epoxy-barrier", "copper-epoxy"):
            for pack in self.sheets[material].packs:
                body = {"material_id": material, "pack": pack.name, "amount": 100}
                r = self.client.put("/api/prices", json.dumps(body), "application/json")
                self.assertEqual(r.status_code, 204, r.content)
        self.assertGreater(self.post(self.client, "/api/judge", a).json()["summary"]["cost"], 0)

    def test_search_finds_by_number_customer_code_and_material_all_words(self) -> None:
        data = self.draft(mark="EST 233", paint_code="grey 7", customer="D. Rush")
        self.post(self.client, "/api/jobs", data)
        for q, titles in (
            ("233", {"Wheels"}), ("rush", {"Wheels"}), ("grey peelable", {"Wheels"}), ("liner", {"Load bed"}),
            ("rush liner", set()), ("", {"Wheels", "Load bed"}), ("%", set()),
        ):  # fmt: skip
            found = self.client.get("/api/jobs", {"q": q}).json()["jobs"]
            self.assertEqual({j["title"] for j in found}, titles, q)

    def test_a_long_list_comes_in_pages_and_says_how_much_there_is(self) -> None:
        asset = self.job.asset
        jobs = [
            Job(shop=self.shop, asset=asset, place=self.place, title=f"Hull {i:03}", created_at=i)
            for i in range(104)
        ]
        Job.objects.bulk_create(jobs)
        row = JobProjection.objects.get(job=self.job)
        JobProjection.objects.bulk_create(
            JobProjection(
                job=j, **{f: getattr(row, f) for f in ("state", "through_seq", "climate_id", "core_version")}
            )
            for j in jobs
        )
        seen: list[str] = []
        for page in (1, 2, 3):
            told = self.client.get("/api/jobs", {"page": page, "q": "hull"}).json()
            self.assertEqual((told["page"], told["pages"], told["of"]), (page, 3, 104))
            seen += [j["title"] for j in told["jobs"]]
        self.assertEqual(seen, [f"Hull {i:03}" for i in reversed(range(104))])
        self.assertEqual(self.client.get("/api/jobs", {"page": 9, "q": "hull"}).json()["page"], 3)

    def test_which_coat_was_put_on_last(self) -> None:
        self.assertIsNone(self.client.get("/api/jobs").json()["jobs"][0]["last_coat"])
        self.send(self.client, self.start_entry())
        self.assertEqual(
            self.client.get("/api/jobs").json()["jobs"][0]["last_coat"]["label"],
            "Epoxy primer 1 of 1, Tailgate",
        )

    def test_bad_input_in_each_form_of_survey_stack_and_quantity(self) -> None:
        part = {"name": "Left", "area_m2": 0.7, "substrate": "sound_paint"}
        before = FactsDoc.objects.count()
        for over, field in (
            ({"parts": [{**part, "area_m2": None}]}, "parts[0].area_m2"),
            ({"parts": [{**part, "area_m2": "2 ft"}]}, "area_m2"),
            ({"parts": [{**part, "shape": "cone"}]}, "parts[0].shape"),
            ({"parts": [{**part, "shape": "box", "measures": {"length_m": 1}}]}, "parts[0].width_m"),
            ({"parts": [{**part, "shape": "wheel", "measures": {"diameter_m": 1e9}}]}, "parts[0].diameter_m"),
            ({"parts": [{**part, "must_survive": ["love"]}]}, "parts[0].must_survive"),
            ({"parts": [{**part, "faces": [{"facing": "up", "area_m2": 9}]}]}, "faces"),
            ({"parts": [{**part, "faces": [{"facing": "round", "area_m2": 0.7}]}]}, "facing"),
            ({"parts": [{**part, "damage": "x" * 500}]}, "damage"),
            ({"parts": [part] * 201}, "parts"),
            ({"layers": [self.layer("boot-sealant", 41)]}, "coats"),
            ({"layers": [{"sheet_id": 7, "coats": 1}]}, "sheet_id"),
        ):
            r = self.change(**over)
            self.assertEqual(r.status_code, 422, (over, r.content[:300]))
            told = [e for e in r.json()["errors"] if field in e["field"]]
            self.assertTrue(told and told[0]["expected"], (field, r.json()))
        self.assertEqual(FactsDoc.objects.count(), before)
        for query, field in (({"profile_um": -1}, "profile_um"), ({"profile_um": "rough"}, "profile_um")):
            r = self.client.get(f"/api/jobs/{self.job.pk}/quantity", query)
            self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, field))
        for body, status in (
            ({"material_id": "clear-coat-2k", "pack": "1 l kit", "amount": -1}, 422),
            ({"material_id": "clear-coat-2k", "pack": "1 l kit", "amount": 1e9}, 422),
            ({"material_id": "clear-coat-2k", "pack": "1 l kit", "amount": "dear"}, 422),
            ({"material_id": "clear-coat-2k", "pack": "bucket", "amount": 1}, 404),
        ):
            r = self.client.put("/api/prices", json.dumps(body), "application/json")
            self.assertEqual(r.status_code, status, body)
