"""What the environment says of the door in front: cookies and redirects over HTTPS, lines for a collector."""

from __future__ import annotations

import json
import logging
import os
import subprocess
import sys
import unittest

from django.conf import settings

from coatlog.shop.log_lines import JsonLines

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

    def test_a_line_says_when_who_and_what_and_a_line_break_makes_no_second_one(self) -> None:
        record = logging.LogRecord("django.request", logging.ERROR, "", 1, "bad %s", ("a\nb",), None)
        line = JsonLines().format(record)
        self.assertNotIn("\n", line)
        told = json.loads(line)
        self.assertEqual((told["level"], told["by"], told["says"]), ("error", "django.request", "bad a\nb"))
        self.assertRegex(told["at"], r"^\d{4}-\d\d-\d\dT.*\+00:00$")
