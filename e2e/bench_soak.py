"""Fifty phones over ten live jobs, with a real server and its worker.  Run by ./coat bench."""

from __future__ import annotations

import json
import os
import random
import signal
import statistics
import subprocess
import threading
import time
import unittest
import uuid
from contextlib import ExitStack
from typing import Any

from ops.cluster import free_port, throwaway
from ops.paths import ROOT, venv_bin
from ops.serve import web_env, web_server

from .bench import say
from .test_durability import Client

PHONES = int(os.environ.get("COATLOG_BENCH_PHONES", "50"))
LASTS_S = float(os.environ.get("COATLOG_BENCH_LASTS_S", "60"))
EACH_S = 15.0  # a tap every so often from each phone
PARTS = ("Door", "Wing", "Roof", "Hood", "Sill", "Gate")


class SoakBench(unittest.TestCase):
    def setUp(self) -> None:
        stack = ExitStack()
        self.addCleanup(stack.close)
        cluster = stack.enter_context(throwaway(durable=True))
        self.env = web_env(cluster.url, secret="for this bench only") | {"COATLOG_TEST_SESSIONS": "off"}
        manage = [str(venv_bin("python")), str(ROOT / "manage.py")]
        for words in (["migrate", "-v", "0"], ["load_demo"]):
            subprocess.run([*manage, *words], env=self.env, cwd=ROOT, check=True, capture_output=True)
        port = free_port()
        self.base = f"http://127.0.0.1:{port}"
        server = web_server(self.env, port, cluster.folder / "web.log")
        worker = subprocess.Popen(
            [*manage, "work"], env=self.env, cwd=ROOT, start_new_session=True,
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        for process in (server, worker):
            self.addCleanup(os.killpg, process.pid, signal.SIGKILL)
        for _ in range(200):
            try:
                self.phone = self.signed_in()
                break
            except OSError:
                time.sleep(0.1)

    def signed_in(self) -> Client:
        client = Client(self.base)
        client.sign_in()
        return client

    def jobs(self) -> list[dict[str, Any]]:
        place = self.phone.call("GET", "/api/session")["places"][0]["id"]
        sheets = {r["sheet"]["material_id"]: r["sheet"]["id"] for r in self.shelf()}
        made = []
        for i in range(10):
            body = {
                "title": f"Bed {i}", "asset": "Pickup", "place_id": place,
                "parts": [{"name": n, "area_m2": 1.0, "substrate": "bare_steel"} for n in PARTS],
                "layers": [{"sheet_id": sheets["epoxy-primer-2k"], "coats": 2},
                           {"sheet_id": sheets["textured-liner-2k"], "coats": 2}],
                "choices": {"steps": "planned"},
            }  # fmt: skip
            job = self.phone.call("POST", "/api/jobs", body)["id"]
            made.append(self.phone.call("GET", f"/api/jobs/{job}"))
        return made

    def shelf(self) -> list[dict[str, Any]]:
        with self.phone.opener.open(f"{self.base}/api/shelf", timeout=30) as answer:
            return json.load(answer)

    def tap(self, client: Client, page: dict[str, Any], rng: random.Random, n: int) -> float | None:
        """Seconds until a tap is acknowledged; None: it was not."""
        layer = rng.choice(page["facts"]["layers"])
        coat = {"coat_id": str(uuid.uuid4()), "part_id": layer["part_id"], "layer_id": layer["id"], "n": 1}
        bodies = (
            ("note", {"text": "x", "photo_ids": []}),
            ("step_done", {"step": "wipe", "part_ids": [layer["part_id"]]}),
            ("coat_started", {"facts_id": page["facts"]["id"], "coats": [coat]}),
        )
        kind, body = rng.choice(bodies)
        entry = {
            "id": str(uuid.uuid4()), "job_id": page["head"]["id"], "kind": kind, "at": int(time.time()),
            "at_from": "tap", "device_id": f"phone {threading.get_ident()}", "n": n, "body": body,
        }  # fmt: skip
        begun = time.perf_counter()
        try:
            told = client.call("POST", "/api/entries", {"sent_at": int(time.time()), "entries": [entry]})
        except OSError:
            return None
        return time.perf_counter() - begun if told[0]["result"] == "stored" else None

    def test_fifty_phones_for_a_minute(self) -> None:
        pages = self.jobs()
        rng = random.Random(1)
        time.sleep(5)  # the worker has seen to what the new jobs want
        idle = [t for n in range(40) if (t := self.tap(self.phone, rng.choice(pages), rng, n)) is not None]
        took: list[float] = []
        failed: list[int] = []
        clients = [self.signed_in() for _ in range(PHONES)]
        until = time.monotonic() + LASTS_S

        def carry(seed: int) -> None:
            mine, client = random.Random(seed), clients[seed]
            time.sleep(mine.uniform(0, EACH_S))
            n = 0
            while time.monotonic() < until:
                n += 1
                seconds = self.tap(client, mine.choice(pages), mine, n)
                (failed.append(n) if seconds is None else took.append(seconds))
                time.sleep(mine.uniform(0.5, 1.5) * EACH_S)

        phones = [threading.Thread(target=carry, args=(i,)) for i in range(PHONES)]
        for p in phones:
            p.start()
        for p in phones:
            p.join()
        p95, idle95 = (statistics.quantiles(x, n=20)[-1] for x in (took, idle))
        told = f"{len(took)} taps, {len(failed)} failed: p95 {p95 * 1000:.0f} ms, {p95 / idle95:.1f} x idle"
        half = statistics.median(took) * 1000
        say(f"{PHONES} phones, 10 live jobs, {told} ({idle95 * 1000:.0f} ms), median {half:.0f} ms")
