"""A shop of one's own: founding it, its people, hours, places and passwords."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
import uuid
from importlib import import_module
from typing import Any
from unittest.mock import patch

from django.apps import apps
from django.contrib.auth import get_user_model
from django.core.cache import cache
from django.db import OperationalError
from django.http import HttpResponse
from django.test import Client, TestCase

from coatlog.core.stack.rules import FACTS
from coatlog.shop.models import Member, Shop

FOUND = {
    "shop": "Creek Boatyard",
    "time_zone": "Europe/Lisbon",
    "username": "ines",
    "password": "long-and-odd-77",
}
HOURS = {
    "name": "Creek Boatyard",
    "time_zone": "Europe/Lisbon",
    "opens": "08:00",
    "closes": "17:30",
    "painters": 2,
    "default_air_degc": 16.0,
    "default_rh_frac": 0.7,
}


def send(client: Client, path: str, data: Any, method: str = "post") -> HttpResponse:
    return getattr(client, method)(path, json.dumps(data), content_type="application/json")


class OwnShopTest(TestCase):
    def setUp(self) -> None:
        self.owner = Client()
        self.assertEqual(send(self.owner, "/api/shops", FOUND).status_code, 200)
        self.shop = Shop.objects.get()

    def field(self, response: HttpResponse) -> str:
        self.assertEqual(response.status_code, 422, response.content)
        return response.json()["errors"][0]["field"]

    def test_the_founder_is_its_owner_signed_in_with_a_place_and_a_shelf(self) -> None:
        who = self.owner.get("/api/session").json()
        self.assertEqual((who["user"], who["role"], who["shop"]), ("ines", "owner", "Creek Boatyard"))
        self.assertEqual([p["name"] for p in who["places"]], ["Bay 1"])
        self.assertGreater(len(self.owner.get("/api/shelf").json()), 15)
        self.assertFalse(self.owner.get("/api/shop").json()["is_demo"])

    def test_strangers_found_no_shop_where_sign_up_is_closed(self) -> None:
        with self.settings(SIGN_UP=False):
            r = send(Client(), "/api/shops", {**FOUND, "username": "rui"})
        self.assertEqual((r.status_code, Shop.objects.count()), (403, 1))
        self.assertIn("New shops are closed", r.json()["detail"])
        name = {"COATLOG_HOSTS": "shop.example"}
        for env, is_open in (({}, "True"), (name, "False"), ({**name, "COATLOG_SIGN_UP": "on"}, "True")):
            told = {**{k: v for k, v in os.environ.items() if k != "COATLOG_HOSTS"}, **env}
            asked = [sys.executable, "-c", "from config import settings; print(settings.SIGN_UP)"]
            self.assertEqual(subprocess.check_output(asked, env=told, text=True).strip(), is_open)

    def test_who_watches_the_server_is_told_whether_it_reaches_its_database(self) -> None:
        self.assertEqual(Client().get("/healthz").status_code, 200)
        with patch("config.urls.connection.cursor", side_effect=OperationalError("gone")):
            self.assertEqual(Client().get("/healthz").status_code, 503)

    def test_a_shop_that_cannot_be_leaves_nothing_behind(self) -> None:
        for over, field in (
            ({"username": "Ines"}, "username"),
            ({"username": "rui", "password": "short"}, "password"),
            ({"username": "rui", "password": "password123"}, "password"),
            ({"username": "rui-the-painter", "password": "rui-the-painter"}, "password"),
            ({"username": "rui", "time_zone": "Atlantis"}, "time_zone"),
            ({"username": "rui", "shop": " "}, "shop"),
            ({"username": ""}, "username"),
        ):
            self.assertEqual(self.field(send(Client(), "/api/shops", {**FOUND, **over})), field, over)
        self.assertEqual((Shop.objects.count(), get_user_model().objects.count()), (1, 1))

    def test_facts_are_answered_one_by_one_and_silence_stays_silence(self) -> None:
        for fact, yes in (("booth", True), ("air_fed", False), ("booth", False)):
            r = send(self.owner, f"/api/shop/facts/{fact}", {"yes": yes}, "put")
            self.assertEqual(r.status_code, 200, r.content)
        self.shop.refresh_from_db()
        self.assertEqual((self.shop.has, self.shop.hasnt), ([], ["air_fed", "booth"]))
        both = {**HOURS, "has": ["booth"], "hasnt": ["booth"]}
        self.assertEqual(self.field(send(self.owner, "/api/shop", both, "put")), "hasnt")
        self.assertEqual(self.field(send(self.owner, "/api/shop/facts/luck", {"yes": True}, "put")), "fact")

    def test_the_first_answers_are_taken_whole_and_what_is_left_open_stays_open(self) -> None:
        first = {"units": "us", "works_on": ["vessel", "road"], "sprays": "cans", "air_fed": None}
        self.assertEqual(
            send(self.owner, "/api/shop/first", {**first, "sprays": "roller"}, "put").status_code, 422
        )
        twice = {**first, "works_on": ["road", "road"]}
        self.assertEqual(self.field(send(self.owner, "/api/shop/first", twice, "put")), "works_on")
        self.shop.refresh_from_db()
        self.assertEqual((self.shop.works_on, self.shop.hasnt), ([], []))
        who = send(self.owner, "/api/shop/first", first, "put").json()
        self.assertEqual((who["works_on"], who["preferences"]["units"]), (["vessel", "road"], "us"))
        self.shop.refresh_from_db()
        self.assertEqual((self.shop.has, set(self.shop.hasnt)), ([], {"spray_gun", "liner_gun"}))
        send(self.owner, "/api/shop/first", {**first, "sprays": "guns", "air_fed": True}, "put")
        self.shop.refresh_from_db()
        self.assertEqual(
            (set(self.shop.has), self.shop.hasnt), ({"spray_gun", "compressor", "air_fed"}, ["liner_gun"])
        )

    def test_a_place_gets_another_name_and_is_retired_but_never_the_last(self) -> None:
        (bay,) = self.owner.get("/api/session").json()["places"]
        here = f"/api/places/{bay['id']}"
        self.assertEqual(self.field(send(self.owner, here, {"retired": True}, "put")), "retired")
        yard = send(self.owner, "/api/places", {"name": "Yard", "holds": 2}).json()
        self.assertEqual(self.field(send(self.owner, here, {"name": "Yard"}, "put")), "name")
        self.assertEqual(send(self.owner, here, {"name": "Paint bay"}, "put").json()["name"], "Paint bay")
        gone = send(self.owner, f"/api/places/{yard['id']}", {"retired": True}, "put").json()
        self.assertEqual((gone["retired"], gone["holds"]), (True, 2))
        asked = {"title": "x", "asset": "y", "place_id": yard["id"], **self.door()}
        self.assertEqual(self.field(send(self.owner, "/api/jobs", asked)), "place_id")

    def test_an_example_to_look_at_is_there_once_and_counts_in_no_record(self) -> None:
        job = send(self.owner, "/api/jobs/example", {}).json()["id"]
        self.assertEqual(send(self.owner, "/api/jobs/example", {}).status_code, 422)
        (head,) = self.owner.get("/api/jobs").json()["jobs"]
        self.assertEqual((head["example"], head["live"]), (True, True))
        page = self.owner.get(f"/api/jobs/{job}").json()
        self.assertEqual(page["state"]["flags"], [])
        self.assertEqual({len(p["films"]) for p in page["state"]["parts"]}, {1})
        part_ids = [p["part_id"] for p in page["state"]["parts"]]
        facts = (("in_service", {"part_ids": part_ids}), ("archived", {"archived": True}))
        now = int(time.time())
        entries = [
            {
                "id": str(uuid.uuid4()),
                "job_id": job,
                "kind": kind,
                "at": now,
                "device_id": "t",
                "n": n,
                "body": body,
            }
            for n, (kind, body) in enumerate(facts)
        ]
        told = send(self.owner, "/api/entries", {"sent_at": now, "entries": entries}).json()
        self.assertEqual([x["result"] for x in told], ["stored"] * 2)
        self.assertEqual(self.owner.get("/api/record").json()["lines"], [])
        self.assertEqual(self.owner.get("/api/jobs").json()["jobs"], [])
        self.assertEqual(send(self.owner, "/api/jobs/example", {}).status_code, 200)

    def door(self) -> dict[str, Any]:
        """A job of one door, as it is asked for."""
        sheets = {s["sheet"]["material_id"]: s["sheet"]["id"] for s in self.owner.get("/api/shelf").json()}
        return {
            "parts": [{"name": "Door", "area_m2": 1, "substrate": "sound_paint"}],
            "layers": [{"sheet_id": sheets["alkyd-enamel"], "coats": 2, "target_um": 70}],
        }

    def test_a_shop_that_ticked_some_keeps_its_unticked_ones_as_a_no(self) -> None:
        """As the database is migrated: an answer that stopped work goes on stopping it; none stays none."""
        migration = import_module("coatlog.shop.migrations.0006_shop_hasnt")
        Shop.objects.filter(pk=self.shop.pk).update(has=["booth"], hasnt=[])
        migration.unticked_is_no(apps, None)
        self.shop.refresh_from_db()
        self.assertEqual((self.shop.has, len(self.shop.hasnt)), (["booth"], len(FACTS) - 1))

    def test_who_is_sensitised_can_be_said_by_themselves_or_the_owner(self) -> None:
        painter = {"username": "rui", "password": "also-long-and-odd", "role": "painter"}
        send(self.owner, "/api/people", painter)
        rui = Client()
        user = get_user_model().objects.get(username="rui")
        rui.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(send(rui, "/api/people/ines", {"sensitised": True}, "put").status_code, 403)
        self.assertEqual(send(rui, "/api/people/rui", {"sensitised": True}, "put").status_code, 200)
        self.assertTrue(rui.get("/api/session").json()["sensitised"])
        sheets = {s["sheet"]["material_id"]: s["sheet"]["id"] for s in self.owner.get("/api/shelf").json()}
        asked = {
            "parts": [{"name": "Door", "area_m2": 1, "substrate": "sound_paint"}],
            "layers": [{"sheet_id": sheets["single-stage-2k"], "coats": 2}],
        }
        told = send(self.owner, "/api/judge", asked).json()["findings"]
        self.assertIn("rui must stay away", " ".join(f["what"] for f in told))
        send(self.owner, "/api/people/ines", {"sensitised": True}, "put")
        told = send(self.owner, "/api/judge", asked).json()["findings"]
        self.assertIn("isocyanate.nobody", {f["rule_id"] for f in told if f["severity"] == "stop"})

    def test_people_come_in_by_the_owner_with_one_role(self) -> None:
        painter = {"username": "rui", "password": "also-long-and-odd", "role": "painter"}
        self.assertEqual(send(self.owner, "/api/people", painter).status_code, 200)
        self.assertEqual(self.field(send(self.owner, "/api/people", painter)), "username")
        self.assertEqual(
            self.field(send(self.owner, "/api/people", {**painter, "username": "x", "role": "boss"})), "role"
        )
        theirs = Client()
        self.assertEqual(send(theirs, "/api/session", painter).json()["role"], "painter")
        self.assertEqual(send(theirs, "/api/people", {**painter, "username": "y"}).status_code, 403)
        self.assertEqual(send(theirs, "/api/shop", HOURS, "put").status_code, 403)
        self.assertEqual(send(theirs, "/api/places", {"name": "Slip"}).status_code, 403)
        self.assertEqual(Member.objects.filter(shop=self.shop).count(), 2)

    def test_a_lost_phone_is_signed_out_by_its_person_and_by_nobody_else(self) -> None:
        painter = {"username": "rui", "password": "also-long-and-odd", "role": "painter"}
        send(self.owner, "/api/people", painter)
        phone = Client(
            headers={"User-Agent": "Mozilla/5.0 (Linux; Android 14) Chrome/126.0 Mobile Safari/537"}
        )
        desk, third = Client(), Client()
        for client in (phone, desk, third):
            send(client, "/api/session", painter)
        told = {d["name"]: d for d in desk.get("/api/devices").json()}
        self.assertEqual([d["here"] for d in desk.get("/api/devices").json()].count(True), 1)
        lost = told["Chrome, Android"]["id"]
        self.assertEqual(self.owner.delete(f"/api/devices/{lost}").status_code, 404)
        self.assertEqual(desk.delete(f"/api/devices/{lost}").status_code, 204)
        self.assertEqual((phone.get("/api/now").status_code, desk.get("/api/now").status_code), (401, 200))
        send(desk, "/api/password", {"old": painter["password"], "new": "another-long-and-odd"})
        self.assertEqual((third.get("/api/now").status_code, len(desk.get("/api/devices").json())), (401, 1))
        send(phone, "/api/session", {**painter, "password": "another-long-and-odd"})
        self.assertEqual(desk.delete("/api/devices").status_code, 204)
        self.assertEqual((phone.get("/api/now").status_code, desk.get("/api/now").status_code), (401, 200))

    def test_the_doors_for_passwords_are_not_tried_without_an_end(self) -> None:
        """One password on a thousand names, shops by the dozen, the old password guessed from inside."""
        for scope, path, data in (
            ("sign_in", "/api/session", lambda i: {"username": f"n{i}", "password": "spring-2026"}),
            (
                "sign_up",
                "/api/shops",
                lambda i: {"shop": "", "time_zone": "", "username": "", "password": ""},
            ),
            ("password", "/api/password", lambda i: {"old": f"guess {i}", "new": "another-long-and-odd"}),
        ):
            client = self.owner if scope == "password" else Client()
            with self.subTest(scope), self.settings(TRIES={scope: "3/10min"}):
                cache.clear()
                told = [send(client, path, data(i)) for i in range(4)]
                self.assertNotIn(429, [r.status_code for r in told[:3]])
                self.assertEqual(told[3].status_code, 429)
                self.assertRegex(told[3].json()["detail"], r"Wait \d+ min\.")
                elsewhere = send(Client(REMOTE_ADDR="10.9.8.7"), path, data(5))
                self.assertNotEqual(elsewhere.status_code, 429)
        cache.clear()

    def test_the_owner_changes_roles_gives_new_passwords_and_lets_people_go(self) -> None:
        painter = {"username": "rui", "password": "also-long-and-odd", "role": "painter"}
        send(self.owner, "/api/people", painter)
        theirs = Client()
        send(theirs, "/api/session", painter)
        for data in ({"role": "owner"}, {"password": "a-long-and-odd-one"}):
            self.assertEqual(send(theirs, "/api/people/ines", data, "put").status_code, 403)
            self.assertEqual(send(self.owner, "/api/people/ines", data, "put").status_code, 403)
        self.assertEqual(
            send(self.owner, "/api/people/rui", {"role": "viewer"}, "put").json()["role"], "viewer"
        )
        self.assertEqual(theirs.get("/api/session").json()["role"], "viewer")
        for data, field in (
            ({"role": "boss"}, "role"),
            ({"password": "short"}, "password"),
            ({}, "sensitised"),
        ):
            self.assertEqual(self.field(send(self.owner, "/api/people/rui", data, "put")), field)
        wrong = {**painter, "password": "wrong"}
        for _ in range(9):
            send(Client(), "/api/session", wrong)
        self.assertNotEqual(send(Client(), "/api/session", painter).status_code, 200)
        new = {**painter, "password": "new-and-odd-too"}
        self.assertEqual(
            send(self.owner, "/api/people/rui", {"password": new["password"]}, "put").status_code, 200
        )
        self.assertEqual(theirs.get("/api/session").status_code, 204)
        self.assertEqual(send(theirs, "/api/session", new).status_code, 200)
        for name, status in (("nobody", 404), ("ines", 403)):
            self.assertEqual(self.owner.delete(f"/api/people/{name}").status_code, status)
        self.assertEqual(self.owner.delete("/api/people/rui").status_code, 204)
        self.assertEqual(theirs.get("/api/session").status_code, 204)
        self.assertEqual(send(Client(), "/api/session", new).status_code, 401)
        names = [p["username"] for p in self.owner.get("/api/shop").json()["people"]]
        self.assertEqual(names, ["ines"])

    def test_hours_and_usual_air_are_kept_or_refused_by_field(self) -> None:
        self.assertEqual(send(self.owner, "/api/shop", HOURS, "put").status_code, 200)
        self.shop.refresh_from_db()
        self.assertEqual(
            (str(self.shop.closes), self.shop.painters, self.shop.default_air_degc), ("17:30:00", 2, 16.0)
        )
        for over, field in (
            ({"closes": "07:00"}, "closes"),
            ({"opens": "noon"}, "opens"),
            ({"painters": 0}, "painters"),
            ({"default_air_degc": 200}, "default_air_degc"),
            ({"default_rh_frac": 0}, "default_rh_frac"),
            ({"time_zone": "Mars"}, "time_zone"),
        ):
            self.assertIn(field, self.field(send(self.owner, "/api/shop", {**HOURS, **over}, "put")), over)

    def test_a_changed_password_signs_all_other_devices_out(self) -> None:
        other = Client()
        send(other, "/api/session", FOUND)
        wrong = {"old": "guess", "new": "another-long-one-9"}
        self.assertEqual(self.field(send(self.owner, "/api/password", wrong)), "old")
        self.assertEqual(
            self.field(send(self.owner, "/api/password", {"old": FOUND["password"], "new": "123"})), "new"
        )
        right = {"old": FOUND["password"], "new": "another-long-one-9"}
        self.assertEqual(send(self.owner, "/api/password", right).status_code, 204)
        self.assertEqual(self.owner.get("/api/session").status_code, 200)
        self.assertEqual(other.get("/api/session").status_code, 204)

    def test_a_place_has_one_name(self) -> None:
        self.assertEqual(send(self.owner, "/api/places", {"name": "Slip"}).status_code, 200)
        self.assertEqual(self.field(send(self.owner, "/api/places", {"name": " Slip "})), "name")
