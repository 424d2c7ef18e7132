"""A real browser against Django's live server: one Chromium a class, no sleeps."""

from __future__ import annotations

import io
import os
import random
import re
import time
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import CommandError
from django.test import LiveServerTestCase
from django.test.testcases import LiveServerThread, QuietWSGIRequestHandler
from PIL import Image
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright
from playwright.sync_api import TimeoutError as PlaywrightTimeout

from coatlog.shop import clock

CHROMIUM = Path("/usr/bin/chromium")
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
AXE = settings.BASE_DIR / "web" / "node_modules" / "axe-core" / "axe.min.js"


expect.set_options(timeout=20_000)  # two busy cores


def picture(seed: int) -> dict[str, object]:
    """A photo as a form takes it, no two alike."""
    made = Image.new("RGB", (64, 48), tuple(random.Random(seed).randbytes(3)))
    out = io.BytesIO()
    made.save(out, "JPEG")
    return {"name": f"photo{seed}.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


class _ServerThread(LiveServerThread):
    """Django's own, but able to come up again on a port whose last connections are still closing."""

    def _create_server(self, connections_override: Any = None) -> Any:
        return self.server_class(
            (self.host, self.port),
            QuietWSGIRequestHandler,
            allow_reuse_address=True,
            connections_override=connections_override,
        )


class BrowserCase(LiveServerTestCase):
    """Sync Playwright leaves an event loop on the thread, so ORM calls here need the switch below."""

    browser: Browser
    server_thread_class = _ServerThread

    @classmethod
    def setUpClass(cls) -> None:
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=str(CHROMIUM), args=FLAGS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()
        os.environ.pop("DJANGO_ALLOW_ASYNC_UNSAFE", None)

    def setUp(self) -> None:
        self.faults: list[str] = []
        self.addCleanup(clock.release)

    def _fixture_teardown(self) -> None:
        """Empty the tables; a poll still being answered may lock them crosswise for a moment."""
        for patience in (0.2, 0.5, 1.0, 2.0, None):
            try:
                return super()._fixture_teardown()
            except CommandError:
                if patience is None:
                    raise
                time.sleep(patience)

    def context(self, viewport: dict[str, int] = DESK, **options: Any) -> BrowserContext:
        """A fresh profile; the page's own store of files only where a test is about it."""
        options.setdefault("service_workers", "block")
        options.setdefault("locale", "en-GB")
        context = self.browser.new_context(viewport=viewport, **options)  # type: ignore[arg-type]
        context.set_default_timeout(20_000)
        self.addCleanup(context.close)
        return context

    def page(self, context: BrowserContext, user: str, password: str) -> Page:
        """A signed-in page whose script errors end the test."""
        page = context.new_page()
        page.on("pageerror", lambda e: self.faults.append(str(e)))
        page.goto(self.live_server_url)
        page.get_by_label("Name").fill(user)
        page.get_by_label("Password").fill(password)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("navigation").first.wait_for()
        return page

    def hold(self, page: Page, name: str) -> None:
        """Press the big button for longer than 0.4 s and let go."""
        self.press(page, name)
        page.mouse.up()

    def press(self, page: Page, name: str) -> None:
        """The thumb is down, and the button says that it may let go."""
        button = page.get_by_role("button", name=name)
        for _ in range(4):  # an answer that redraws the button under the thumb lets go of it: press again
            button.wait_for()
            box = button.bounding_box()
            if box is None:  # redrawn between the two questions
                continue
            page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
            page.mouse.down()
            try:
                page.get_by_text("let go").wait_for(timeout=3000)
            except PlaywrightTimeout:
                # A thumb that slides off lets go of nothing: the deed is not done behind the test's back.
                page.mouse.move(0, 0)
                page.mouse.up()
                continue
            return
        raise AssertionError(f"{name} cannot be held")

    def put_on(self, page: Page, name: str) -> None:
        """One more layer, picked by the material's name."""
        choice = page.get_by_label(re.compile("^Add a layer"))
        option = choice.locator("option").filter(has_text=re.compile(f"^{re.escape(name)},"))
        choice.select_option(value=option.get_attribute("value"))
        page.get_by_role("button", name="Add layer").click()

    def choose(self, page: Page, label: str, value: str, nth: int = 0) -> None:
        """An option of the select whose label begins so."""
        page.get_by_label(re.compile(f"^{re.escape(label)}")).nth(nth).select_option(value)

    def usual(self, page: Page, name: str) -> None:
        """One of the usual things a new job can begin from."""
        page.get_by_role("group", name="What is it?").get_by_role("button", name=name, exact=True).click()

    def coats_alone(self, page: Page) -> None:
        """A job whose plan holds its coats and not the steps around them."""
        page.get_by_label("Include preparation and masking").uncheck()

    def axe(self, page: Page, *, colours_alone: bool = False) -> list[str]:
        """Serious and critical violations on the page; in another light only its colours differ."""
        # Injected by the driver, past the page's own content policy.
        page.evaluate(AXE.read_text(encoding="utf-8") + ";0")
        rules = "['color-contrast']" if colours_alone else "['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']"
        found = page.evaluate(f"axe.run(document, {{runOnly: {rules}, resultTypes: ['violations']}})")
        return [
            f"{v['id']}: {v['nodes'][0]['html'][:120]}"
            for v in found["violations"]
            if v["impact"] in ("serious", "critical")
        ]
