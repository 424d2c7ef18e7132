"""Every view in every size and light: nothing off the side, nothing too small, nothing axe objects to.

Targets of 44 px: WCAG 2.2, 2.5.5 (AAA) for what a gloved thumb presses; letters of 12 px: common practice,
no published source.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator

from playwright.sync_api import Page

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.shop import clock
from coatlog.shop.models import Member

from .base import DESK, PHONE, BrowserCase
from .kept import estuary

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
        estuary(NOW)
        bed, hull, benches = (
            f"/jobs/{Job.objects.get(title=title).pk}"
            for title in ("Load bed", "Underwater hull", "Benches recoloured")
        )
        # A view, and a name in it that comes from the server: once it stands there, the rest does.
        self.views = {
            "today": ("/", "Load bed"), "jobs": ("/jobs", "Load bed"), "new job": ("/jobs/new", "Bay 1"),
            "materials": ("/shelf", "Body filler"), "weather": ("/weather", "Bay 1"),
            "durability": ("/record", "Hard antifouling"), "shop": ("/shop", "painter"),
            "survey": (f"{hull}/survey", "Port side"), "system": (f"{hull}/stack", "Epoxy barrier"),
            "quantities": (f"{hull}/quantity", "Epoxy barrier"), "mix": (f"{bed}/mix", "3 : 1"),
            "apply": (f"{bed}/run", "Tailgate"), "cure": (f"{bed}/cure", "Headboard"),
            "in service": (f"{benches}/service", "Upper deck benches"),
            "record": (f"{hull}/dossier", "SHA-256"),
        }  # fmt: skip

    def tearDown(self) -> None:
        self.assertEqual(self.faults, [])
        super().tearDown()

    def each(self, viewport: dict[str, int]) -> Iterator[tuple[str, Page]]:
        page = self.page(self.context(viewport), "demo", PASSWORD)
        for name, (path, text) in self.views.items():
            page.goto(f"{self.live_server_url}/#{path}")
            page.locator("main").get_by_text(text).first.wait_for(state="attached")
            page.wait_for_load_state("networkidle")
            yield f"{name} {viewport['width']}", page

    def test_nothing_sticks_out_or_is_too_small_or_axe_objects_to_in_either_light(self) -> None:
        told: dict[str, object] = {}
        for viewport in (DESK, PHONE, LYING):
            for name, page in self.each(viewport):
                told[f"{name} off the side"] = page.evaluate(WIDE)
                told[f"{name} small"] = page.evaluate(SMALL)
                if viewport is not DESK:
                    told[f"{name} low"] = page.evaluate(LOW)
                if viewport is not LYING:
                    told[name] = self.axe(page)
                    page.emulate_media(color_scheme="dark")
                    told[f"{name} dark"] = self.axe(page, colours_alone=True)
                    page.emulate_media(color_scheme="light")
        self.assertEqual({k: v for k, v in told.items() if v}, {})

    def test_the_longest_words_fit_too(self) -> None:
        Member.objects.filter(user__username="demo").update(preferences={"language": "de"})
        told = {name: page.evaluate(WIDE) for view in (DESK, PHONE) for name, page in self.each(view)}
        self.assertEqual({k: v for k, v in told.items() if v}, {})
