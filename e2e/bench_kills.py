"""Two hundred kills in the middle of a tap: the browser, the server, the database, one after the other.

A note whose form has closed is told to its painter as kept: each of those must be in the log once, and no
note twice.  Run by ./coat bench; COATLOG_BENCH_KILLS says how many.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import tempfile
import threading
import time
import unittest
import urllib.request
from contextlib import ExitStack, suppress
from pathlib import Path

import psycopg
from playwright.sync_api import BrowserContext, Page, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from ops.cluster import free_port, throwaway
from ops.paths import ROOT, venv_bin
from ops.serve import web_env, web_server

from .base import CHROMIUM, FLAGS, PHONE
from .bench import say
from .test_durability import Client

SEED = 19
KILLS = int(os.environ.get("COATLOG_BENCH_KILLS", "201"))
PATIENCE_MS, NOTE_MS = 20_000, 5_000


class KillsBench(unittest.TestCase):
    def setUp(self) -> None:
        stack = ExitStack()
        self.addCleanup(stack.close)
        self.cluster = stack.enter_context(throwaway(durable=True))
        self.env = web_env(self.cluster.url, secret="for this bench only") | {"COATLOG_TEST_SESSIONS": "off"}
        manage = [str(venv_bin("python")), str(ROOT / "manage.py")]
        for words in (["migrate", "-v", "0"], ["load_demo"]):
            subprocess.run([*manage, *words], env=self.env, cwd=ROOT, check=True, capture_output=True)
        self.port = free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self.start_server()
        self.addCleanup(lambda: os.killpg(self.server.pid, signal.SIGKILL))
        self.profile = tempfile.mkdtemp(prefix="coatlog-profile-")
        self.addCleanup(shutil.rmtree, self.profile, ignore_errors=True)
        self.playwright = stack.enter_context(sync_playwright())
        self.context: BrowserContext | None = None
        self.job = ""

    def start_server(self) -> None:
        self.server = web_server(self.env, self.port, self.cluster.folder / "web.log")
        for _ in range(300):
            with suppress(OSError):
                urllib.request.urlopen(f"{self.base}/healthz", timeout=5).close()
                return
            time.sleep(0.1)

    def open(self) -> Page:
        """The same profile, as a phone that was restarted."""
        for lock in Path(self.profile).glob("Singleton*"):
            lock.unlink()
        self.context = self.playwright.chromium.launch_persistent_context(
            self.profile, executable_path=str(CHROMIUM), args=FLAGS, viewport=PHONE, locale="en-GB"
        )
        self.context.set_default_timeout(NOTE_MS)
        page = self.context.pages[0]
        page.goto(f"{self.base}/#/jobs/{self.job}/run" if self.job else self.base)
        if self.job:
            page.get_by_role("button", name="More").wait_for(timeout=PATIENCE_MS)
        return page

    def kill_browser(self) -> None:
        """Every process that has this profile open, at once."""
        for folder in Path("/proc").glob("[0-9]*"):
            with suppress(OSError):
                if f"--user-data-dir={self.profile}".encode() in (folder / "cmdline").read_bytes():
                    os.kill(int(folder.name), signal.SIGKILL)

    def sign_in(self, page: Page) -> None:
        page.get_by_label("Name").fill("painter")
        page.get_by_label("Password").fill("estuary-demo")
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("navigation").first.wait_for()
        client = Client(self.base)
        client.sign_in()
        listed = client.call("GET", "/api/jobs?state=live")["jobs"]
        self.job = next(j["id"] for j in listed if j["title"] == "Load bed")
        page.goto(f"{self.base}/#/jobs/{self.job}/run")
        page.wait_for_function("() => navigator.serviceWorker.controller !== null")

    def note(self, page: Page, text: str) -> bool:
        """Whether the form closed over it: then the painter may put the phone away."""
        try:
            if not page.get_by_role("button", name="Note or picture").count():
                page.get_by_role("button", name="More").click()
            if not page.get_by_label("Note", exact=True).count():
                page.get_by_role("button", name="Note or picture").click()
            page.get_by_label("Note", exact=True).fill(text)
            page.get_by_role("button", name="Save", exact=True).click()
            page.get_by_label("Note", exact=True).wait_for(state="detached", timeout=3000)
        except PlaywrightError:
            return False
        return True

    def test_kills(self) -> None:
        rng = random.Random(SEED)
        page = self.open()
        self.sign_in(page)
        assert self.context
        self.context.close()  # a browser writes down who is signed in half a minute late: not what is tested
        page = self.open()
        kept: list[str] = []
        deeds = {"browser": self.kill_browser, "server": self.kill_server, "database": self.kill_database}
        for n in range(KILLS):
            what = list(deeds)[n % 3]
            killer = threading.Timer(rng.uniform(0.0, 0.6), deeds[what])
            killer.start()
            text = f"note {n}"
            if self.note(page, text):
                kept.append(text)
            killer.join()
            self.same_server(what)
            if what == "server":
                self.server.wait()
                self.start_server()
            elif what == "database":
                while self.cluster.pid() is not None:
                    time.sleep(0.02)
                self.cluster.start()
            else:
                with suppress(PlaywrightError):
                    self.context.close()
                page = self.open()
        self.same_server("nothing")
        page.get_by_text("not sent yet").wait_for(state="detached", timeout=60_000)
        with psycopg.connect(self.cluster.url) as db:
            rows = db.execute("SELECT body->>'text' FROM logbook_logentry WHERE kind = 'note'").fetchall()
        told = [text for (text,) in rows if text.startswith("note ")]
        lost = sorted(set(kept) - set(told))
        twice = len(told) - len(set(told))
        say(f"{KILLS} kills: {len(kept)} notes kept, {len(lost)} lost, {twice} told twice")
        self.assertEqual((lost, twice), ([], 0))

    def same_server(self, killed: str) -> None:
        """A server that ended without being killed has something to say."""
        if killed != "server" and self.server.poll() is not None:
            say("the server ended by itself: " + (self.cluster.folder / "web.log").read_text()[-1500:])
            self.start_server()

    def kill_server(self) -> None:
        os.killpg(self.server.pid, signal.SIGKILL)

    def kill_database(self) -> None:
        pid = self.cluster.pid()
        if pid is not None:
            os.kill(pid, signal.SIGKILL)
