"""How soon a page is there: out of the phone's own store, and at a first visit."""

from __future__ import annotations

import statistics
import time

from django.conf import settings
from playwright.sync_api import Page

from .base import PHONE
from .bench import say
from .test_offline import OfflineTest

PAINTED = "() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0"
TIMES = 5


class FirstPaintBench(OfflineTest):
    def painted_ms(self, page: Page, at: str) -> float:
        page.goto("about:blank")
        page.goto(at)
        page.wait_for_function(PAINTED)
        return float(page.evaluate(PAINTED))

    def test_first_paint(self) -> None:
        context = self.context(PHONE, has_touch=True, service_workers="allow")
        phone = self.stowed(context)
        context.set_offline(True)
        kept = statistics.median(self.painted_ms(phone, self.run) for _ in range(TIMES))
        say(f"first paint of a job without network, from the phone's store: {kept:.0f} ms")

        font = next((settings.WEB_DIST / "assets").glob("archivo-latin-wdth*.woff2"))
        empty = f"""<!doctype html><style>@font-face{{font-family:A;src:url(/static/assets/{font.name})}}
            body{{font:20px A}}</style><p>Coat Log</p>"""
        took: dict[str, list[float]] = {"empty": [], "app": []}
        for _ in range(TIMES):
            for name in took:
                fresh = self.context(PHONE)
                page = fresh.new_page()
                if name == "empty":
                    page.route("**/", lambda r: r.fulfill(content_type="text/html", body=empty))
                began = time.perf_counter()
                page.goto(self.live_server_url)
                page.wait_for_function(PAINTED)
                page.evaluate("() => document.fonts.ready.then(() => 0)")
                took[name].append(time.perf_counter() - began)
                fresh.close()
        empty_s, app_s = (statistics.median(took[k]) for k in ("empty", "app"))
        ratio = app_s / empty_s
        say(f"first visit {app_s:.2f} s, an empty page with the font {empty_s:.2f} s: {ratio:.1f} times")


for name in [n for n in vars(OfflineTest) if n.startswith("test_")]:
    setattr(FirstPaintBench, name, None)
del OfflineTest  # its tests run where they stand
