"""Two languages: nothing lost between them, and the interface in the one a person chose."""

from __future__ import annotations

import datetime as dt
import re
import unittest

from playwright.sync_api import Page, expect

from coatlog.core.stack.mending import MENDS, SANDS
from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry
from coatlog.shop import clock
from coatlog.shop.models import Member
from ops.paths import WEB

from .base import DESK, BrowserCase
from .kept import estuary
from .node import evaluate

NOW = int(dt.datetime(2026, 10, 14, 14, 42, tzinfo=dt.UTC).timestamp())
#: each text of a language, made with arguments that can be found again in it
TEXTS = """(() => {
  const made = {};
  for (const [area, texts] of Object.entries(m.CATALOGUES.LANG))
    for (const [key, text] of Object.entries(texts))
      made[`${area}.${key}`] = typeof text !== 'function' ? [String(text), 0]
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

    def test_nothing_is_told_to_be_sanded_that_cannot_be(self) -> None:
        """Every finding by every way a coat is mended: not rubber, cloth, dye, wax, nor film that peels."""
        source = (WEB / "src" / "lib" / "judged.ts").read_text(encoding="utf-8")
        keys = dict(re.findall(r'"([a-z_]+\.[a-z_]+)": "(\w+)"', source))
        by_material = re.findall(r'"([a-z_.]+)"', source.split("const SANDED")[1].split("];")[0])
        self.assertGreater(len(keys), 50)
        for language, word in (("en", r"\bsand(ed)?\b(?! off)"), ("de", r"schleif")):
            told = evaluate("words/index.ts", f"m.CATALOGUES.{language}.todo")
            ways = evaluate("words/index.ts", f"m.CATALOGUES.{language}.mends")
            self.assertEqual(set(ways), set(MENDS))
            for code, key in keys.items():
                if re.search(word, told[key], re.I) and code not in ("metal.bare", "film.thick"):
                    self.assertIn(code, by_material, f"{language}: {told[key]}")
            for way, text in ways.items():
                self.assertEqual(bool(re.search(word, text, re.I)), way in SANDS, text)

    def test_one_is_one_in_every_language(self) -> None:
        counted = "m.CATALOGUES.{}.phone.stepToDo({})"
        told = [evaluate("words/index.ts", counted.format(x, n)) for x in ("en", "de") for n in (1, 2)]
        self.assertEqual(told, ["1 step to do", "2 steps to do", "1 Schritt zu tun", "2 Schritte zu tun"])


class FrontDoorTest(BrowserCase):
    def test_a_german_browser_finds_the_door_and_the_first_page_in_german(self) -> None:
        """Nobody is signed in, which the server says without a word: there is nothing to translate then."""
        clock.set_now(NOW)
        desk = self.context(DESK, locale="de-DE").new_page()
        desk.on("pageerror", lambda e: self.faults.append(str(e)))
        desk.goto(self.live_server_url)
        desk.get_by_role("button", name="Eine neue Werkstatt anlegen").click()
        for label, text in (
            ("Name der Werkstatt", "Hafenlack"),
            ("Benutzername", "ute"),
            ("Passwort", "lang-und-krumm-77"),
        ):
            desk.get_by_label(label).fill(text)
        desk.get_by_role("button", name="Werkstatt anlegen").click()
        desk.get_by_role("button", name="Ein Beispiel ansehen").click()
        expect(desk.get_by_role("heading", name="Beispiel: Bordwände, Ackeranhänger")).to_be_visible()
        expect(desk.get_by_text("Linke Bordwand").first).to_be_visible()
        desk.get_by_role("button", name="Beispiel entfernen").click()
        expect(desk.get_by_text("Noch keine Aufträge")).to_be_visible()
        self.assertEqual(self.faults, [])


class ServedTest(unittest.TestCase):
    """What the server says in English and metric, as others read it."""

    def told(self, function: str, *given: str) -> str:
        return str(evaluate("words/served.ts", f"m.{function}({', '.join(given)})"))

    def test_numbers_with_a_unit_are_told_in_the_readers_own(self) -> None:
        """Factors by definition; a difference of 3 K is 5.4 °F, never 37.4."""
        for metric, us in (
            ("Surface is 12.0 °C.", "Surface is 54 °F."),
            ("The data sheet's range is 10 to 35 °C.", "The data sheet's range is 50 to 95 °F."),
            ("Surface is 3.0 °C above dew point, ± 2.0 °C.", "Surface is 5.4 °F above dew point, ± 3.6 °F."),
            ("mask with a 6–25 mm gap", "mask with a 0.24–0.98 in gap"),
            ("254 µm of Liner in 2 coats, 127 µm each.", "10 mil of Liner in 2 coats, 5 mil each."),
            ("after 50 to 100 km, 4 h, 15 %, P80", "after 50 to 100 km, 4 h, 15 %, P80"),
        ):
            self.assertEqual(self.told("inUnits", repr(metric), "'us'"), us)
            self.assertEqual(self.told("inUnits", repr(metric), "'metric'"), metric)
        self.assertEqual(self.told("inUnits", "'um 12.5 °C'", "'metric'", "','"), "um 12,5 °C")

    def test_the_line_that_says_most_of_itself_is_meant_and_names_stay(self) -> None:
        lines = """{'{0} on {1}.': '{0} auf {1}.', '{0} on {1} over {2} mm.': '{0} auf {1}, über {2} mm.',
            'bare steel': 'blankem Stahl', 'sand': 'schleifen', ' and ': ' und '}"""
        for text, said in (
            ("Liner on bare steel over 50 mm.", "Liner auf blankem Stahl, über 50 mm."),
            ("Liner on Wing.", "Liner auf Wing."),
            ("sand, P80", "schleifen, P80"),
            ("Tailgate: sand", "Tailgate: schleifen"),
            ("sand and paint", "schleifen und paint"),
            ("Tailgate", "Tailgate"),
        ):
            self.assertEqual(self.told("inBook", f"m.made({lines})", repr(text)), said)

    def test_names_notes_and_data_sheets_stay_as_they_are(self) -> None:
        answer = """{why: 'x', title: 'x', name: 'x', work: {name: 'x', check: 'x', step: 'x'},
            sheet: {material_id: 'm', components: [], hazards: ['x']}, errors: [{what: 'x'}]}"""
        told = evaluate("words/served.ts", f"m.worded({answer}, (t) => t + '!')")
        self.assertEqual((told["why"], told["title"], told["name"]), ("x!", "x", "x"))
        self.assertEqual(told["work"], {"name": "x!", "check": "x!", "step": "x"})
        self.assertEqual((told["sheet"]["hazards"], told["errors"]), (["x"], [{"what": "x!"}]))


class LanguageTest(BrowserCase):
    def test_a_person_reads_enters_and_tells_the_time_in_the_language_chosen(self) -> None:
        clock.set_now(NOW)
        estuary(NOW, whole=False)
        desk = self.page(self.context(DESK), "demo", PASSWORD)
        desk.goto(f"{self.live_server_url}/#/shop")
        desk.get_by_label("Language").select_option("de")
        desk.get_by_label("Clock").select_option("12")
        desk.get_by_role("button", name="Save", exact=True).nth(1).click()
        menu = desk.get_by_role("navigation", name="Hauptmenü")
        expect(menu.get_by_role("link", name="Materialien")).to_be_visible()
        self.assertEqual(desk.evaluate("document.documentElement.lang"), "de")
        expect(desk.locator(".clock")).to_have_text("3:42 PM")
        expect(desk.get_by_text("fremdbelüftete Masken für alle in der Nähe")).to_be_visible()
        job = Job.objects.get(title="Load bed")
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/mix")
        expect(desk.get_by_text("Zu mischen, ml")).to_be_visible()
        desk.goto(f"{self.live_server_url}/#/jobs/{job.pk}/run")
        expect(desk.get_by_role("heading", name="Schicht 1 von")).to_be_visible()
        self.reading(desk, "Luft eingeben", "Luft °C", "Luftfeuchte %", "Speichern", "20,5", "48,5")
        expect(desk.get_by_text("Luft 20,5 °C, 49 %").first).to_be_visible()
        expect(desk.get_by_text("noch nicht gesendet")).to_have_count(0)
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
        page.get_by_label(re.compile("^(Oberfläche|Surface of) .*, °")).fill(degc)
        page.get_by_label(humidity, exact=True).fill(percent)
        page.get_by_role("button", name=keeps, exact=True).click()
