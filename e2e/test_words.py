"""Two languages: nothing lost between them, and the interface in the one a person chose."""

from __future__ import annotations

import datetime as dt
import unittest

from playwright.sync_api import Page, expect

from coatlog.demo.estuary import PASSWORD, load_estuary
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.shop import clock
from coatlog.shop.models import Member

from .base import DESK, BrowserCase
from .node import evaluate

NOW = int(dt.datetime(2026, 10, 14, 14, 42, tzinfo=dt.UTC).timestamp())
#: each text of a language, made with arguments that can be found again in it
TEXTS = """(() => {
  const made = {};
  for (const [area, texts] of Object.entries(m.CATALOGUES.LANG))
    for (const [key, text] of Object.entries(texts))
      made[`${area}.${key}`] = typeof text === 'string' ? [text, 0]
        : [text(...[11, 22, 33, 44].slice(0, text.length)), text.length];
  return made;
})()"""


class CatalogueTest(unittest.TestCase):
    def test_no_text_and_no_number_is_lost_in_translation(self) -> None:
        en, de = (evaluate("words/index.ts", TEXTS.replace("LANG", x)) for x in ("en", "de"))
        self.assertEqual(list(en), list(de))
        for key, (text, count) in en.items():
            other, other_count = de[key]
            self.assertEqual(count, other_count, key)
            self.assertEqual(text.strip() == "", other.strip() == "", key)
            for number in ("11", "22", "33", "44")[:count]:
                self.assertEqual(number in text, number in other, f"{key}: {text} / {other}")
            for edge in (0, -1):  # pieces of a sentence keep the spaces that join them
                self.assertEqual(text[edge].isspace(), other[edge].isspace(), f"{key}: {text!r} / {other!r}")

    def test_one_is_one_in_every_language(self) -> None:
        counted = "m.CATALOGUES.{}.phone.stepToDo({})"
        told = [evaluate("words/index.ts", counted.format(x, n)) for x in ("en", "de") for n in (1, 2)]
        self.assertEqual(told, ["1 step to do", "2 steps to do", "1 Schritt zu tun", "2 Schritte zu tun"])


class LanguageTest(BrowserCase):
    def test_a_person_reads_enters_and_tells_the_time_in_the_language_chosen(self) -> None:
        clock.set_now(NOW)
        load_estuary(NOW, whole=False)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/shop")
        desk.get_by_label("Language").select_option("de")
        desk.get_by_label("Clock").select_option("12")
        desk.get_by_role("button", name="Save", exact=True).nth(1).click()
        menu = desk.get_by_role("navigation", name="Hauptmenü")
        expect(menu.get_by_role("link", name="Materialien")).to_be_visible()
        self.assertEqual(desk.evaluate("document.documentElement.lang"), "de")
        expect(desk.locator(".clock")).to_have_text("3:42 PM")
        job = Job.objects.get(title="Load bed")
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/mix")
        expect(desk.get_by_text("Zu mischen, ml")).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        expect(desk.get_by_role("heading", name="Schicht 1 von")).to_be_visible()
        self.reading(desk, "Luft eingeben", "Luft °C", "Luftfeuchte %", "Speichern", "20,5", "48,5")
        expect(desk.get_by_text("Luft 20,5 °C, 49 %").first).to_be_visible()
        body = LogEntry.objects.filter(job=job, kind="climate_read").order_by("-seq")[0].body
        self.assertEqual((body["air_degc"], body["rh_frac"]), (20.5, 0.485))
        self.assertEqual(self.axe(desk), [])
        clock.set_now(NOW + 2400)  # the sensor counts for half an hour, then what was typed
        desk.reload()
        self.reading(desk, "Luft eingeben", "Luft °C", "Luftfeuchte %", "Speichern", "4,5", "99,6")
        stop = desk.get_by_role("alert")
        expect(stop.filter(has_text="Die Oberfläche hat 4,5 °C.")).to_be_visible()
        expect(stop.filter(has_text="Unter 3,0 °C kann Feuchte unter dem Film kondensieren.")).to_be_visible()
        Member.objects.filter(user__username="demo").update(preferences={"units": "us"})
        desk.reload()  # 4.5 °C is 40.1 °F; a difference of 3 K is 5.4 °F, never 37.4
        expect(stop.filter(has_text="Surface is 40 °F.")).to_be_visible()
        expect(stop.filter(has_text="Below 5.4 °F moisture can condense")).to_be_visible()
        self.assertEqual(self.faults, [])

    def reading(self, page: Page, *words: str) -> None:
        """A reading by hand: the button, the two fields, the button that keeps it, then what is typed."""
        opens, air, humidity, keeps, degc, percent = words
        page.get_by_role("button", name=opens).click()
        page.get_by_label(air, exact=True).fill(degc)
        page.get_by_label("Oberfläche °C", exact=True).fill(degc)
        page.get_by_label(humidity, exact=True).fill(percent)
        page.get_by_role("button", name=keeps, exact=True).click()
