"""What the environment says of the door in front: cookies and redirects over HTTPS, lines for a collector."""

from __future__ import annotations

import json
import logging
import os
import subprocess
import sys
import unittest
from unittest.mock import patch

import segno
from django.conf import settings
from django.test import Client, TestCase, override_settings

from coatlog.shop import clock, services
from coatlog.shop.log_lines import JsonLines
from coatlog.shop.models import Pairing
from coatlog.shop.pairing import LIVES_S

ASK = """
import json, django
django.setup()
from django.test import Client
plain, safe = Client(), Client(headers={"X-Forwarded-Proto": "https"})
got = plain.get("/api/session", HTTP_HOST="shop.example")
same = safe.get("/api/session", HTTP_HOST="shop.example")
front = safe.get("/", HTTP_HOST="shop.example")
print(json.dumps({
    "redirect": [got.status_code, got.headers.get("Location")], "served": same.status_code,
    "hsts": same.headers.get("Strict-Transport-Security", ""),
    "cookies": [bool(c["secure"]) for c in front.cookies.values()],
}))
"""


def asked(**env: str) -> dict[str, object]:
    known = {
        "COATLOG_HOSTS": "shop.example",
        "COATLOG_SECRET_KEY": "x",
        "DATABASE_URL": "postgres://127.0.0.1/none",
    }
    done = subprocess.run(
        [sys.executable, "-c", ASK], cwd=settings.BASE_DIR, capture_output=True, text=True, check=True,
        env={**os.environ, **known, "DJANGO_SETTINGS_MODULE": "config.settings", **env},
    )  # fmt: skip
    return dict(json.loads(done.stdout.splitlines()[-1]))


class FrontDoorTest(unittest.TestCase):
    def test_behind_https_nothing_is_served_and_no_cookie_leaves_without_it(self) -> None:
        told = asked(COATLOG_HTTPS="on")
        self.assertEqual(told["redirect"], [301, "https://shop.example/api/session"])
        self.assertEqual((told["served"], told["hsts"]), (204, "max-age=2592000"))
        self.assertEqual(set(told["cookies"]), {True})  # type: ignore[call-overload]
        plain = asked()
        self.assertEqual((plain["redirect"], plain["hsts"]), ([204, None], ""))

    def test_on_a_network_of_the_shops_own_cookies_go_by_https_alone(self) -> None:
        told = asked(COATLOG_LAN="https://192.0.2.7:8710/")
        self.assertEqual(set(told["cookies"]), {True})  # type: ignore[call-overload]
        self.assertEqual((told["served"], told["hsts"]), (204, ""))  # an address is nobody's for a month

    def test_a_line_says_when_who_and_what_and_a_line_break_makes_no_second_one(self) -> None:
        record = logging.LogRecord("django.request", logging.ERROR, "", 1, "bad %s", ("a\nb",), None)
        line = JsonLines().format(record)
        self.assertNotIn("\n", line)
        told = json.loads(line)
        self.assertEqual((told["level"], told["by"], told["says"]), ("error", "django.request", "bad a\nb"))
        self.assertRegex(told["at"], r"^\d{4}-\d\d-\d\dT.*\+00:00$")


class PairingTest(TestCase):
    """A phone signs in by a code on its person's screen: once, soon, and as nobody else."""

    def setUp(self) -> None:
        services.found_shop(name="Slip", time_zone="UTC", username="ines", password="long-and-odd-1")
        self.desk, self.phone = Client(), Client(headers={"User-Agent": "Mozilla (Android) Chrome/1"})
        data = {"username": "ines", "password": "long-and-odd-1"}
        self.desk.post("/api/session", data, content_type="application/json")
        clock.set_now(1_000_000)
        self.addCleanup(clock.release)

    def code(self) -> str:
        """As a camera reads it off the screen."""
        with patch("coatlog.api.shops.segno.make", wraps=segno.make) as drawn:
            answer = self.desk.post("/api/pairing")
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(len(answer.json()["rows"]), len(answer.json()["rows"][0]))
        return str(drawn.call_args.args[0]).split("#/pair/")[1]

    def pair(self, code: str) -> int:
        return self.phone.post(
            "/api/session/code", {"code": code}, content_type="application/json"
        ).status_code

    @override_settings(LAN="https://192.0.2.7:8710/")
    def test_once_and_soon(self) -> None:
        code = self.code()
        self.assertEqual(self.pair(code), 200)
        self.assertEqual(self.phone.get("/api/session").json()["user"], "ines")
        names = [d["name"] for d in self.desk.get("/api/devices").json()]
        self.assertIn("Chrome, Android", names)
        self.phone.delete("/api/session")
        self.assertEqual(self.pair(code), 401)
        older, newer = self.code(), self.code()
        self.assertEqual(self.pair(older), 401)
        clock.set_now(1_000_000 + LIVES_S + 1)
        self.assertEqual(self.pair(newer), 401)
        self.assertNotIn(newer, str(list(Pairing.objects.values())))

    def test_a_server_no_phone_reaches_says_how_it_would_be(self) -> None:
        answer = self.desk.post("/api/pairing", headers={"Host": "127.0.0.1"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("./coat start --lan", answer.json()["detail"])
