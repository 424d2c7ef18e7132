"""From survey to a suggested stack to its steps, through the API."""

from __future__ import annotations

from typing import Any

from django.test import TestCase

from coatlog.jobs.models import Job
from coatlog.run.models import JobProjection
from coatlog.shop.models import Place, Shop

from .base import NOW, ShopMixin


class SuggestTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def part(self, **over: Any) -> dict[str, Any]:
        return {"name": "Sill", "area_m2": 0.6, "substrate": "rusty_steel", **over}

    def suggest(self, *parts: dict[str, Any], wanted: tuple[str, ...] = ("texture",)) -> Any:
        return self.post(self.client, "/api/suggest", {"parts": list(parts), "wanted": list(wanted)})

    def made(self, part: dict[str, Any], best: dict[str, Any]) -> Any:
        data = {
            "title": "Sill", "asset": "Van", "asset_kind": "road", "place_id": str(self.place.pk),
            "parts": [part], "layers": best["layers"], "choices": {"prep": best["prep"]},
        }  # fmt: skip
        return self.post(self.client, "/api/jobs", data)

    def test_what_is_suggested_is_taken_as_it_stands_and_the_surface_alone_is_stopped(self) -> None:
        part = self.part(must_survive=["stones", "rain"])
        answer = self.suggest(part).json()
        self.assertGreater(len(answer["best"]), 1)
        for best in answer["best"]:
            self.assertFalse([f for f in best["findings"] if f["severity"] == "stop"])
            r = self.made(part, best)
            self.assertEqual(r.status_code, 200, r.content)
        prepared = next(b for b in answer["best"] if b["prep"])
        r = self.made(part, {**prepared, "prep": ""})
        self.assertEqual(r.status_code, 409)
        self.assertIn("bare_metal.rated", {e["rule_id"] for e in r.json()["errors"]})

    def test_where_it_is_coated_and_what_is_asked_of_it_count(self) -> None:
        yard = Place.objects.create(shop=self.shop, name="Yard", outdoors=True)
        liner = [{"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 2}]
        body = {"parts": [self.part(substrate="sound_paint")], "layers": liner}
        for place, told in ((self.place, False), (yard, True)):
            found = self.post(self.client, "/api/judge", {**body, "place_id": str(place.pk)}).json()
            rules = {f["rule_id"] for f in found["findings"]}
            self.assertEqual({"outdoors.isocyanate", "outdoors.wind"} <= rules, told)
        self.make_shop("Shop two", "owner2")
        other = Place.objects.exclude(shop=self.shop)[0]
        r = self.post(self.client, "/api/judge", {**body, "place_id": str(other.pk)})
        self.assertEqual(r.status_code, 404)
        ask = {"parts": [self.part()], "wanted": ["colour"], "life_s": 3 * 365 * 86400, "ready_s": 60}
        told = self.post(self.client, "/api/suggest", ask).json()["best"]
        self.assertTrue(told and all("time" in c["misses"] for c in told))
        self.assertEqual(self.post(self.client, "/api/suggest", {**ask, "life_s": 0}).status_code, 422)

    def test_an_aid_never_lies_in_a_stack_and_a_cup_says_what_ruins_it(self) -> None:
        towels = [{"sheet_id": self.sheets["towels"].id, "coats": 1}]
        r = self.made(self.part(substrate="sound_paint"), {"layers": towels, "prep": ""})
        self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, "layers"))
        best = {"layers": [{"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 2}], "prep": ""}
        job_id = self.made(self.part(substrate="sound_paint"), best).json()["id"]
        sheet_id = best["layers"][0]["sheet_id"]
        mix = self.client.get(f"/api/jobs/{job_id}/mix?sheet_id={sheet_id}").json()
        self.assertEqual(
            {f["rule_id"] for f in mix["never"]}, {"mix.foreign", "mix.systems", "mix.spoiled", "mix.late"}
        )
        used = self.client.get(f"/api/jobs/{job_id}/quantity").json()["aids"]
        self.assertIn("Masking tape", [a["name"] for a in used])

    def test_the_dossier_says_who_looked_what_was_coated_and_in_what_air(self) -> None:
        part = self.part(substrate="sound_paint")
        best = self.suggest(part).json()["best"][0]
        job_id = self.made(part, best).json()["id"]
        page = self.client.get(f"/api/jobs/{job_id}").json()
        part_id, layer = page["facts"]["parts"][0]["id"], page["facts"]["layers"][0]
        steps = self.client.get(f"/api/jobs/{job_id}/work").json()[0]["steps"]
        wash, dry = (next(s["work"] for s in steps if s["work"]["step"] == k) for k in ("wash", "dry"))
        look = {"part_ids": [part_id], "step": wash["log"], "check_id": wash["key"]}
        first = self.entry("step_done", look, job_id=job_id)
        self.send(self.client, first)
        self.send(self.client, self.entry("step_failed", {**look, "check_id": dry["key"]}, job_id=job_id))
        air = {"place_id": str(self.place.pk), "air_degc": 20.0, "surface_degc": 21.0, "rh_frac": 0.5}
        self.send(self.client, self.entry("climate_read", air, job_id=job_id))
        ref = {"coat_id": "c1", "part_id": part_id, "layer_id": layer["id"], "n": 1}
        coat = {"coats": [ref], "facts_id": page["facts"]["id"]}
        self.send(self.client, self.entry("coat_started", coat, job_id=job_id, at=NOW + 60))
        told = self.client.get(f"/api/jobs/{job_id}/dossier").json()
        held = {c["step"]: (c["held"], c["who"]) for c in told["checks"]}
        self.assertEqual((held[wash["name"]], held[dry["name"]]), ((True, "owner1"), (False, "owner1")))
        self.assertIn((None, ""), held.values())
        (line,) = told["coats"]
        self.assertEqual((line["who"], line["n"], line["surface_degc"]), ("owner1", 1, 21.0))
        # 9.3 degC is the dew point of 20 degC at 50 %: printed psychrometric tables, from memory.
        self.assertAlmostEqual(line["margin_k"], 21.0 - 9.3, delta=0.1)
        self.send(
            self.client, self.entry("strike", {"target_id": first["id"], "reason": "slip"}, job_id=job_id)
        )
        told = self.client.get(f"/api/jobs/{job_id}/dossier").json()
        self.assertIsNone(next(c["held"] for c in told["checks"] if c["step"] == wash["name"]))

    def test_layers_have_to_suit_every_part(self) -> None:
        steel = self.suggest(self.part(substrate="bare_steel"), wanted=("colour", "gloss")).json()
        both = self.suggest(
            self.part(substrate="bare_steel"), self.part(substrate="sound_paint"), wanted=("colour", "gloss")
        ).json()
        self.assertGreater(steel["legal"], both["legal"])
        for best in both["best"]:
            parts = [self.part(substrate=s) for s in ("bare_steel", "sound_paint")]
            told = self.post(
                self.client,
                "/api/judge",
                {"parts": parts[:1], "layers": best["layers"], "prep": best["prep"]},
            ).json()
            self.assertFalse([f for f in told["findings"] if f["severity"] == "stop"])

    def test_unknown_words_are_named_with_what_was_expected(self) -> None:
        r = self.suggest(self.part(), wanted=("shiny",))
        self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, "wanted"))
        self.assertIn("gloss", r.json()["errors"][0]["expected"])
        self.assertEqual(self.suggest(self.part(), wanted=()).status_code, 422)
        r = self.suggest(self.part(features=["wings"]))
        self.assertEqual(r.json()["errors"][0]["field"], "parts[0].features")

    def test_no_air_fed_mask_stops_the_job_and_no_reason_overrules_it(self) -> None:
        part = self.part(substrate="sound_paint")
        layers = [{"sheet_id": self.sheets["textured-liner-2k"].id, "coats": 1, "target_um": 400.0}]
        data = {
            "title": "Bed", "asset": "Pickup", "asset_kind": "road", "place_id": str(self.place.pk),
            "parts": [part], "layers": layers,
            "overrules": [{"rule_id": "isocyanate.air_fed", "reason": "only this once"}],
        }  # fmt: skip
        self.assertEqual(self.post(self.client, "/api/jobs", data).status_code, 200)  # nobody was asked yet
        Shop.objects.update(has=["exhaust", "spark_free", "spray_gun", "liner_gun", "compressor"])
        r = self.post(self.client, "/api/jobs", data)
        self.assertEqual(r.status_code, 409)
        self.assertEqual(r.json()["errors"][0]["overrule"], "never")
        Shop.objects.update(has=["exhaust", "air_fed", "spark_free", "spray_gun", "liner_gun", "compressor"])
        self.assertEqual(self.post(self.client, "/api/jobs", {**data, "overrules": []}).status_code, 200)

    def test_a_failed_check_holds_the_work_up_until_it_is_right(self) -> None:
        best = next(b for b in self.suggest(self.part()).json()["best"] if b["prep"])
        self.job = Job.objects.get(pk=self.made(self.part(), best).json()["id"])
        path = f"/api/jobs/{self.job.pk}/work"
        (work,) = self.client.get(path).json()
        step = next(s["work"] for s in work["steps"] if s["work"]["step"] == "degrease")
        body = {"part_ids": work["part_ids"], "step": step["log"], "check_id": step["key"]}
        for kind, held, waits in (("step_failed", False, True), ("step_done", True, False)):
            self.send(self.client, self.entry(kind, body, job_id=str(self.job.pk)))
            (again,) = self.client.get(path).json()
            told = next(s["held"] for s in again["steps"] if s["work"]["key"] == step["key"])
            self.assertIs(told, held)
            self.assertEqual(bool(again["waits_for"]), waits)

    def test_a_key_that_was_not_right_does_not_count(self) -> None:
        body = {"part_ids": [self.latest_part()], "step": "abrade"}
        for kind, counted in (("step_done", True), ("step_failed", False), ("step_done", True)):
            self.send(self.client, self.entry(kind, body))
            done = JobProjection.objects.get(job=self.job).state["parts"][0]["steps_done"]
            self.assertEqual("abrade" in done, counted)

    def latest_part(self) -> str:
        return JobProjection.objects.get(job=self.job).state["parts"][0]["part_id"]
