"""Parts of one job with a coating system of their own each: one log, one plan, judged and mixed apart."""

from __future__ import annotations

import json
from typing import Any

from django.test import TestCase

from coatlog.shop import clock

from .base import NOW, ShopMixin


class SystemsTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def body(self, **over: Any) -> dict[str, Any]:
        """A dash of hard plastic to be coloured, and its seats of vinyl; a dead end with one system."""
        ids = {k: s.id for k, s in self.sheets.items()}
        inside = {"features": ["none"], "must_survive": ["sun"]}
        return {
            "title": "Dash and seats", "asset": "Van", "place_id": str(self.place.pk),
            "parts": [
                {"name": "Dash top", "area_m2": 0.6, "substrate": "interior_plastic", **inside},
                {"name": "Seats", "area_m2": 2.4, "count": 2, "substrate": "vinyl", "system": 1, **inside},
            ],
            "layers": [{"sheet_id": ids["vinyl-colour"], "coats": 2, "target_um": 16.0}],
            "choices": {"wanted": "colour", "steps": "planned"},
            "systems": [
                {
                    "layers": [{"sheet_id": ids["fabric-protectant"], "coats": 1}],
                    "choices": {"wanted": "repels"},
                }
            ],
            **over,
        }  # fmt: skip

    def made(self, **over: Any) -> Any:
        return self.post(self.client, "/api/jobs", self.body(**over))

    def job_page(self, job_id: str) -> dict[str, Any]:
        return self.client.get(f"/api/jobs/{job_id}").json()

    def test_each_part_gets_its_own_layers_and_steps_and_one_plan_holds_them(self) -> None:
        body = self.body()
        body["parts"][1]["substrate"] = "woven_fabric"
        created = self.post(self.client, "/api/jobs", body)
        self.assertEqual(created.status_code, 200, created.content)
        page = self.job_page(created.json()["id"])
        dash, seats = (p["id"] for p in page["facts"]["parts"])
        layers = {x["part_id"]: x["sheet_id"] for x in page["facts"]["layers"]}
        self.assertEqual(layers[dash], self.sheets["vinyl-colour"].id)
        self.assertEqual(layers[seats], self.sheets["fabric-protectant"].id)
        (own,) = page["facts"]["systems"]
        self.assertEqual((own["part_ids"], own["choices"]), ([seats], {"wanted": "repels"}))
        steps = [[s["work"]["step"] for s in w["steps"]] for w in page["works"]]
        self.assertEqual(len(steps), 2)
        self.assertNotEqual(steps[0], steps[1])
        self.assertEqual({t["part_id"] for t in page["plan"]["tasks"]} & {dash, seats}, {dash, seats})
        needs = self.client.get(f"/api/jobs/{created.json()['id']}/quantity").json()["needs"]
        self.assertEqual({n["name"] for n in needs}, {"Vinyl colour", "Fabric protectant"})

    def test_what_is_wrong_in_any_of_them_stops_and_names_it(self) -> None:
        body = self.body()
        body["systems"][0]["layers"] = [{"sheet_id": self.sheets["wheel-ceramic"].id, "coats": 1}]
        told = self.post(self.client, "/api/jobs", body)
        self.assertEqual(told.status_code, 409)
        self.assertIn("ground.unvouched", {f["rule_id"] for f in told.json()["errors"]})
        for over, field in (
            ({"systems": []}, "parts[1].system"),
            ({"parts": self.body()["parts"][:1]}, "parts"),
        ):
            refused = self.made(**over)
            self.assertEqual((refused.status_code, refused.json()["errors"][0]["field"]), (422, field))
        odd = self.body()
        odd["systems"][0]["choices"] = {"steps": "planned"}
        self.assertEqual(self.post(self.client, "/api/jobs", odd).json()["errors"][0]["given"], "steps")

    def test_a_group_is_split_off_and_joined_again_and_its_coats_stay(self) -> None:
        job = self.job_page(str(self.job.pk))
        part = job["facts"]["parts"][0]["id"]
        layer = next(x for x in job["facts"]["layers"] if x["position"] == 0)
        coat = {"coat_id": "c1", "part_id": part, "layer_id": layer["id"], "n": 1}
        started = self.entry("coat_started", {"coats": [coat], "facts_id": job["facts"]["id"]})
        self.send(self.client, started)
        clock.set_now(NOW + 300)
        self.send(self.client, self.entry("coat_done", {"coat_ids": ["c1"]}))
        draft = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        rail = {**draft["parts"][0], "id": None, "name": "Rail", "system": 1}
        split = {
            **{k: draft[k] for k in ("layers", "choices")},
            "parts": [*draft["parts"], rail],
            "systems": [{"layers": draft["layers"][:1], "choices": {}}],
        }
        self.assertEqual(self.put(split).status_code, 200)
        page = self.job_page(str(self.job.pk))
        self.assertEqual(sorted(len([x for x in page["facts"]["layers"] if x["part_id"] == p["id"]])
                                for p in page["facts"]["parts"]), [1, 2])  # fmt: skip
        self.assertEqual([len(p["films"]) for p in page["state"]["parts"]], [1, 0])
        again = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        self.assertEqual([p["system"] for p in again["parts"]], [0, 1])
        self.assertEqual(len(again["systems"]), 1)
        for p in again["parts"]:
            p["system"] = 0
        self.assertEqual(self.put({**again, "systems": []}).status_code, 200)
        page = self.job_page(str(self.job.pk))
        self.assertEqual([len(p["films"]) for p in page["state"]["parts"]], [1, 0])
        self.assertEqual(page["facts"]["systems"], [])

    def put(self, draft: dict[str, Any]) -> Any:
        keep = ("parts", "layers", "choices", "systems")
        data = json.dumps({k: draft[k] for k in keep})
        return self.client.put(f"/api/jobs/{self.job.pk}/stack", data, content_type="application/json")

    def test_spots_under_a_whole_coat_take_a_can_and_not_eight(self) -> None:
        """Three rust spots of 30 mm on a wing of 1.4 m²: 27 cm² of etch, one can; all over it is several."""
        ids = {k: s.id for k, s in self.sheets.items()}
        body = {
            "title": "Wing", "asset": "Van", "place_id": str(self.place.pk),
            "parts": [{"name": "Wing", "area_m2": 1.4, "substrate": "sound_paint", "bare_mm": 30.0,
                       "features": ["none"]}],
            "layers": [
                {"sheet_id": ids["etch-aerosol"], "coats": 1, "patches": {"n": 3, "across_mm": 30.0}},
                {"sheet_id": ids["urethane-surfacer-2k"], "coats": 2},
                {"sheet_id": ids["single-stage-2k"], "coats": 2},
            ],
        }  # fmt: skip
        created = self.post(self.client, "/api/jobs", body)
        self.assertEqual(created.status_code, 200, created.content)
        job = created.json()["id"]
        needs = self.client.get(f"/api/jobs/{job}/quantity").json()["needs"]
        etch = next(n for n in needs if n["sheet_id"] == ids["etch-aerosol"])
        self.assertAlmostEqual(etch["area_m2"], 0.0027)
        self.assertEqual(sum(x["count"] for x in etch["purchase"]["lines"]), 1)
        draft = self.client.get(f"/api/jobs/{job}/draft").json()
        self.assertEqual((draft["layers"][0]["patches"]["n"], draft["layers"][1]["patches"]), (3, None))
        for patches, field in (({"n": 1}, "layers[0].patches"), ({"n": 2, "area_m2": 3.0}, "layers")):
            body["layers"][0]["patches"] = patches
            refused = self.post(self.client, "/api/jobs", body)
            self.assertEqual(refused.status_code, 422)
            self.assertIn(field, refused.json()["errors"][0]["field"])
        body["layers"] = [{**body["layers"][0], "patches": {"n": 1, "across_mm": 10.0}}]
        self.assertEqual(self.post(self.client, "/api/jobs", body).json()["errors"][0]["field"], "layers")

    def test_a_repair_starts_from_what_the_finished_job_left(self) -> None:
        job = self.job_page(str(self.job.pk))
        part = job["facts"]["parts"][0]["id"]
        layers = sorted(job["facts"]["layers"], key=lambda x: x["position"])
        at = 0
        for i, (layer, n) in enumerate(((layers[0], 1), (layers[1], 1), (layers[1], 2))):
            coat = {"coat_id": f"c{i}", "part_id": part, "layer_id": layer["id"], "n": n}
            started = {"coats": [coat], "facts_id": job["facts"]["id"]}
            clock.set_now(NOW + at + 300)
            self.send(
                self.client,
                self.entry("coat_started", started, at=NOW + at, at_from="typed"),
                self.entry("coat_done", {"coat_ids": [f"c{i}"]}),
            )
            read = {"part_id": part, "what": "dry_total", "um": [50.0 + 350.0 * i]}
            at += 86400
            clock.set_now(NOW + at)
            self.send(self.client, self.entry("film_read", read))
        clock.set_now(NOW + 90 * 86400)
        dented = {"part_id": part, "text": "gouge by the latch"}
        self.send(self.client, self.entry("damage_found", {**dented, "text": "an old dent"}, at=NOW - 60))
        self.send(self.client, self.entry("damage_found", dented), self.entry("damage_found", dented))
        draft = self.client.get(f"/api/jobs/{self.job.pk}/draft", {"repair": "true"}).json()
        (found,) = draft["parts"]
        self.assertEqual((found["there_um"], found["substrate"]), (750.0, "sound_paint"))
        self.assertIn("Textured liner of ", found["condition"])
        self.assertEqual((found["patch_n"], found["damage"]), (2, "gouge by the latch; gouge by the latch"))
        self.assertEqual([x["sheet_id"] for x in draft["layers"]], [layers[1]["sheet_id"]])
        plain = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        self.assertEqual((plain["parts"][0]["there_um"], len(plain["layers"])), (None, 2))

    def test_a_part_gets_a_coat_more_than_the_others_and_keeps_it(self) -> None:
        """A leading edge takes one coat more: as thick each, so a third more film on that part alone."""
        body = self.body()
        body["parts"][1]["substrate"] = "woven_fabric"
        body["parts"].insert(1, {**body["parts"][0], "name": "Edge"})
        body["layers"][0] |= {"coats_on": {"1": 3}}
        made = self.post(self.client, "/api/jobs", body)
        self.assertEqual(made.status_code, 200, made.content[:300])
        layers = self.job_page(made.json()["id"])["facts"]["layers"]
        self.assertEqual([(x["coats"], x["target_um"]) for x in layers[:2]], [(2, 16.0), (3, 24.0)])
        again = self.client.get(f"/api/jobs/{made.json()['id']}/draft").json()
        self.assertEqual([x["coats_on"] for x in again["layers"]], [{"1": 3}])
        body["layers"][0]["coats_on"] = {"1": 41}
        refused = self.post(self.client, "/api/jobs", body).json()["errors"][0]
        self.assertEqual((refused["field"], refused["given"]), ("layers[0].coats_on[1]", 41))
        body["layers"][0]["coats_on"] = {"1": 9}
        told = self.post(self.client, "/api/judge", {k: body[k] for k in ("parts", "layers")}).json()[
            "findings"
        ]
        self.assertIn("film.coats", {f["rule_id"] for f in told}, "over what its sheet allows, on that part")

    def test_a_strip_is_as_long_as_it_is_and_needs_a_width(self) -> None:
        body = self.body()
        body["parts"][1]["substrate"] = "woven_fabric"
        strip = {
            **body["layers"][0],
            "coats": 1,
            "target_um": 8.0,
            "patches": {"n": 2, "along_m": 1.5, "across_mm": 40},
        }
        body["layers"].insert(0, strip)
        made = self.post(self.client, "/api/jobs", body)
        self.assertEqual(made.status_code, 200, made.content[:300])
        told = self.job_page(made.json()["id"])["facts"]["layers"][0]["patches"]
        self.assertEqual(told, {"n": 2, "area_m2": 0.12, "across_mm": 40.0, "along_m": 1.5})
        del strip["patches"]["across_mm"]
        refused = self.post(self.client, "/api/jobs", body).json()["errors"][0]
        self.assertEqual(refused["field"], "layers[0].patches.across_mm")

    def test_what_a_change_does_is_said_before_it_is_done(self) -> None:
        """Another primer: the coat of the old one stays on the part and belongs to no layer any more."""
        job = self.job_page(str(self.job.pk))
        part, facts_id = job["facts"]["parts"][0]["id"], job["facts"]["id"]
        layer = next(x for x in job["facts"]["layers"] if x["position"] == 0)
        coat = {"coat_id": "c1", "part_id": part, "layer_id": layer["id"], "n": 1}
        self.send(self.client, self.entry("coat_started", {"coats": [coat], "facts_id": facts_id}))
        clock.set_now(NOW + 300)
        self.send(self.client, self.entry("coat_done", {"coat_ids": ["c1"]}))
        draft = self.client.get(f"/api/jobs/{self.job.pk}/draft").json()
        body = {k: draft[k] for k in ("parts", "layers", "systems", "choices")}
        path = f"/api/jobs/{self.job.pk}/stack/preview"
        same = self.post(self.client, path, body).json()["change"]
        self.assertEqual((same["parts"], same["new_findings"]), ([], []))
        body["layers"][0] = {"sheet_id": self.sheets["etch-2k"].id, "coats": 1}
        said = self.post(self.client, path, body).json()["change"]["parts"]
        self.assertEqual([p["name"] for p in said], ["Tailgate"])
        self.assertEqual((said[0]["kept_coats"], said[0]["off_coats"]), (0, ["1 × Epoxy primer"]))
        self.assertEqual(self.job_page(str(self.job.pk))["facts"]["id"], facts_id, "nothing was kept")
        revised = self.client.put(
            f"/api/jobs/{self.job.pk}/stack", json.dumps(body), content_type="application/json"
        )
        self.assertEqual(revised.status_code, 200, revised.content[:300])
        films = self.job_page(str(self.job.pk))["state"]["parts"][0]["films"]
        self.assertEqual(len(films), 1, "what was said is what happened")
