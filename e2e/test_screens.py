"""Every view in every size and light: nothing off the side, nothing too small, nothing axe objects to.

Targets of 44 px: WCAG 2.2, 2.5.5 (AAA) for what a gloved thumb presses; letters of 12 px: common practice,
no published source.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

from playwright.sync_api import Page

from coatlog.demo.estuary import PASSWORD, load_estuary
from coatlog.jobs.models import Job
from coatlog.shop import clock

from .base import DESK, PHONE, BrowserCase

NOW = int(dt.datetime(2026, 10, 14, 14, 42, tzinfo=dt.UTC).timestamp())
LYING = {"width": PHONE["height"], "height": PHONE["width"]}
#: text whose letters are smaller than 12 px on the screen, whatever scaled them
SMALL = """() => [...document.querySelectorAll('body *')].filter(e => {
  if (!e.checkVisibility({ visibilityProperty: true }) || e.closest('.sr, option')) return false;
  if (![...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim())) return false;
  let size = parseFloat(getComputedStyle(e).fontSize);
  const svg = e.closest('svg');
  if (svg && svg.viewBox.baseVal?.width) size *= e.getScreenCTM().a;
  return size < 11.9;
}).map(e => e.textContent.trim().slice(0, 40) + ' ' + getComputedStyle(e).fontSize)"""
#: what is pressed and lower than 44 px; a link within a sentence is as high as its line
LOW = """() => [...document.querySelectorAll(
    'button, select, input:not([type=checkbox]):not([type=range]), summary')]
  .filter(e => e.checkVisibility() && !e.closest('.sr'))
  .map(e => [e.getBoundingClientRect().height, e.tagName, (e.textContent || e.name).trim().slice(0, 30)])
  .filter(([height]) => height < 43.5)"""
WIDE = "document.documentElement.scrollWidth - innerWidth"


class ScreensTest(BrowserCase):
    maxDiff = None

    def setUp(self) -> None:
        super().setUp()
        clock.set_now(NOW)
        load_estuary(NOW)
        bed, hull, benches = (
            f"/jobs/{Job.objects.get(title=title).pk}"
            for title in ("Load bed", "Underwater hull", "Benches recoloured")
        )
        self.views = {
            "today": "/", "jobs": "/jobs", "new job": "/jobs/new", "materials": "/shelf",
            "weather": "/weather", "durability": "/record", "shop": "/shop", "survey": f"{hull}/survey",
            "system": f"{hull}/stack", "quantities": f"{hull}/quantity", "mix": f"{bed}/mix",
            "apply": f"{bed}/run", "cure": f"{bed}/cure", "in service": f"{benches}/service",
            "record": f"{hull}/dossier",
        }  # fmt: skip

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def each(self, viewport: dict[str, int], light: str) -> Iterator[tuple[str, Page]]:
        page = self.page(self.context(viewport, color_scheme=light), "demo", PASSWORD)
        for name, path in self.views.items():
            page.goto(f"{self.live_server_url}/#{path}")
            page.get_by_role("heading", level=1).first.wait_for(state="attached")
            page.wait_for_load_state("networkidle")
            yield f"{name} {viewport['width']} {light}", page

    def test_axe_objects_to_nothing_in_any_light(self) -> None:
        told = {}
        for viewport in (DESK, PHONE):
            for light in ("light", "dark"):
                for name, page in self.each(viewport, light):
                    told[name] = self.axe(page)
        self.assertEqual({k: v for k, v in told.items() if v}, {})

    def test_nothing_sticks_out_and_nothing_is_too_small(self) -> None:
        told: dict[str, object] = {}
        for viewport in (DESK, PHONE, LYING):
            for name, page in self.each(viewport, "light"):
                told[f"{name} off the side"] = page.evaluate(WIDE)
                told[f"{name} small"] = page.evaluate(SMALL)
                if viewport is not DESK:
                    told[f"{name} low"] = page.evaluate(LOW)
        self.assertEqual({k: v for k, v in told.items() if v}, {})
