"""The real web server and PostgreSQL, fsync on, killed at twenty seeded moments around coat done.

Every acknowledged id must be there once, whatever was killed, and a client that sends again what
was never acknowledged must end with exactly one of each.
"""

from __future__ import annotations

import http.cookiejar
import json
import os
import random
import signal
import socket
import subprocess
import threading
import time
import urllib.error
import urllib.request
import uuid
from contextlib import ExitStack
from typing import Any

import psycopg
from playwright.sync_api import expect, sync_playwright

from config.runner import OnItsOwn
from ops.cluster import Cluster, free_port, throwaway
from ops.paths import ROOT, venv_bin
from ops.serve import web_env, web_server

from .base import CHROMIUM, FLAGS, PHONE

SEED, MOMENTS = 20, 10


class Client:
    """A signed-in HTTP client of the API."""

    def __init__(self, base: str) -> None:
        self.base, self.jar = base, http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def call(self, method: str, path: str, data: Any = None) -> Any:
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token or ""}
        body = None if data is None else json.dumps(data).encode()
        request = urllib.request.Request(self.base + path, body, headers, method=method)
        with self.opener.open(request, timeout=10) as answer:
            text = answer.read()
        return json.loads(text) if text[:1] in (b"{", b"[") else None

    def sign_in(self) -> None:
        self.call("GET", "/")
        self.call("POST", "/api/session", {"username": "demo", "password": "estuary-demo"})


class KillTest(OnItsOwn):
    def setUp(self) -> None:
        stack = ExitStack()
        self.addCleanup(stack.close)
        self.cluster: Cluster = stack.enter_context(throwaway(durable=True))
        self.cluster.let_app_in()
        owner, app = (
            {**web_env(url, secret="for this test only"), "COATLOG_TEST_SESSIONS": "off"}
            for url in (self.cluster.url, self.cluster.app_url)
        )
        self.env, self.app_env = owner, app
        self.manage("migrate", "-v", "0")
        self.manage("load_demo")
        self.port = free_port()
        self.server = self.start_server()
        self.addCleanup(lambda: self.kill_server())

    def manage(self, *words: str) -> str:
        command = [str(venv_bin("python")), str(ROOT / "manage.py"), *words]
        done = subprocess.run(command, env=self.env, cwd=ROOT, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout

    def start_server(self) -> subprocess.Popen[bytes]:
        server = web_server(self.app_env, self.port, self.cluster.folder / "web.log")
        for _ in range(200):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{self.port}/api/session", timeout=10).close()
                return server
            except OSError:
                time.sleep(0.05)
        self.fail("the web server did not come up")

    def kill_server(self) -> None:
        """kill -9 on the server's own process group: master and workers at once."""
        if self.server.poll() is None:
            os.killpg(self.server.pid, signal.SIGKILL)
            self.server.wait()

    def kill_database(self) -> None:
        pid = self.cluster.pid()
        if pid is not None:
            os.kill(pid, signal.SIGKILL)

    def test_every_acknowledged_entry_is_there_once(self) -> None:
        rng = random.Random(SEED)
        client = Client(f"http://127.0.0.1:{self.port}")
        client.sign_in()
        self.half_sent_requests_hold_nobody_up(client)
        job = client.call("GET", "/api/jobs")["jobs"][0]["id"]
        page = client.call("GET", f"/api/jobs/{job}")
        self.facts, self.job, self.n = page["facts"], job, 0
        acknowledged: list[str] = []
        cut_short = 0
        for moment in range(MOMENTS):
            start, done = self.coat(rng)
            acknowledged += self.acknowledged(client, [start])
            killer = threading.Timer(
                rng.uniform(0, 0.12), self.kill_server if moment % 2 else self.kill_database
            )
            killer.start()
            got = self.acknowledged(client, [done])
            cut_short += not got
            killer.join()
            self.revive(moment % 2 == 1)
            acknowledged += got or self.acknowledged(client, [done], tries=40)
        self.assertEqual(len(acknowledged), 2 * MOMENTS)
        self.assertGreater(cut_short, 0, "no kill fell into a request: the moments are badly chosen")
        with psycopg.connect(self.cluster.url) as db:
            rows = db.execute("SELECT entry_id, count(*) FROM logbook_logentry GROUP BY entry_id").fetchall()
        counts = {str(i): n for i, n in rows}
        self.assertEqual({i: counts.get(i) for i in acknowledged}, dict.fromkeys(acknowledged, 1))
        self.two_phones_under_one_killed_server()
        self.assertIn("projections are what the log says", self.manage("verify_log"))
        self.no_way_round_the_guard()

    def half_sent_requests_hold_nobody_up(self, client: Client) -> None:
        """Phones that walked out of reach in mid-sentence, and strangers who mean it."""
        heads = b"POST /api/entries HTTP/1.1\r\nHost: 127.0.0.1\r\n"
        body = heads + b"Content-Type: application/json\r\nContent-Length: 5000\r\n\r\n{"
        with ExitStack() as stack:
            for k in range(200):
                one = stack.enter_context(socket.create_connection(("127.0.0.1", self.port), timeout=5))
                one.sendall(body if k % 2 else heads)
            began = time.monotonic()
            client.call("GET", "/api/jobs")
            self.assertLess(time.monotonic() - began, 5.0)

    def two_phones_under_one_killed_server(self) -> None:
        """Both tell while it lies dead, one with its clock 40 min ahead; both see all of it afterwards."""
        base, fast_ms = f"http://127.0.0.1:{self.port}", 40 * 60 * 1000
        client = Client(base)
        client.sign_in()
        job = next(j["id"] for j in client.call("GET", "/api/jobs?state=live")["jobs"] if j["id"] != self.job)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=str(CHROMIUM), args=FLAGS)
            phones = [browser.new_context(viewport=PHONE, locale="en-GB").new_page() for _ in range(2)]
            phones[1].add_init_script(f"const now = Date.now; Date.now = () => now() + {fast_ms};")
            for phone in phones:
                phone.goto(base)
                phone.get_by_label("Name").fill("painter")
                phone.get_by_label("Password").fill("estuary-demo")
                phone.get_by_role("button", name="Sign in").click()
                phone.get_by_role("navigation").first.wait_for()
                phone.goto(f"{base}/#/jobs/{job}/run")
                phone.get_by_role("button", name="More").click()
                phone.get_by_role("button", name="Note or picture").click()  # stays open as the server goes
            began = int(time.time())
            self.kill_server()
            for n, phone in enumerate(phones):
                phone.get_by_label("Note", exact=True).fill(f"by phone {n}")
                phone.get_by_role("button", name="Save", exact=True).click()
                expect(phone.get_by_text("1 not sent yet")).to_be_visible()
            self.server = self.start_server()
            for phone in phones:
                expect(phone.get_by_text("not sent yet")).to_have_count(0, timeout=90_000)
            for phone in phones:
                for n in range(2):
                    expect(phone.get_by_text(f"by phone {n}")).to_have_count(1, timeout=90_000)
            browser.close()
        with psycopg.connect(self.cluster.url) as db:
            sql = "SELECT body->>'text', at_true FROM logbook_logentry WHERE body->>'text' LIKE 'by phone%'"
            told = dict(db.execute(sql).fetchall())
        self.assertEqual(sorted(told), ["by phone 0", "by phone 1"])
        for at in told.values():
            self.assertTrue(began - 5 <= at <= time.time() + 1, (began, told))

    def no_way_round_the_guard(self) -> None:
        """The role the server signs in by reads and writes rows, and can take nothing away."""
        with psycopg.connect(self.cluster.app_url, autocommit=True) as db:
            db.execute("SET coatlog.test_runner = 'on'")
            for sql in (
                "DELETE FROM logbook_logentry",
                "UPDATE logbook_logentry SET kind = 'note'",
                "TRUNCATE logbook_logentry",
                "ALTER TABLE logbook_logentry DISABLE TRIGGER ALL",
                "DROP FUNCTION coatlog_refuse_change() CASCADE",
                "CREATE TABLE mine (x int)",
                "SET session_replication_role = 'replica'",
            ):
                with (
                    self.subTest(sql),
                    self.assertRaises(
                        (psycopg.errors.InsufficientPrivilege, psycopg.errors.RestrictViolation)
                    ),
                ):
                    db.execute(sql)

    def revive(self, server_died: bool) -> None:
        if server_died:
            self.server = self.start_server()
        else:
            for _ in range(100):
                if self.cluster.pid() is None:
                    break
                time.sleep(0.05)
            self.cluster.start()

    def coat(self, rng: random.Random) -> tuple[dict[str, Any], dict[str, Any]]:
        layer = rng.choice(self.facts["layers"])
        coat_id = str(uuid.UUID(int=rng.getrandbits(128)))
        ref = {"coat_id": coat_id, "part_id": layer["part_id"], "layer_id": layer["id"], "n": 1}
        return (
            self.entry(rng, "coat_started", {"coats": [ref], "facts_id": self.facts["id"]}),
            self.entry(rng, "coat_done", {"coat_ids": [coat_id]}),
        )

    def entry(self, rng: random.Random, kind: str, body: dict[str, Any]) -> dict[str, Any]:
        self.n += 1
        return {
            "id": str(uuid.UUID(int=rng.getrandbits(128))),
            "job_id": self.job,
            "kind": kind,
            "at": int(time.time()),
            "at_from": "tap",
            "device_id": "durability",
            "n": self.n,
            "body": body,
        }

    def acknowledged(self, client: Client, entries: list[dict[str, Any]], *, tries: int = 1) -> list[str]:
        """Ids the server said it has; a broken connection or a 500 acknowledges nothing."""
        for _ in range(tries):
            try:
                data = {"sent_at": int(time.time()), "entries": entries}
                answer = client.call("POST", "/api/entries", data)
                return [r["id"] for r in answer if r["result"] in ("stored", "already")]
            except (OSError, urllib.error.HTTPError, ValueError):
                time.sleep(0.1)
        return []
