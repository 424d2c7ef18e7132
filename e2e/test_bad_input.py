"""Every form given text, 0, less than 0, 1e9, another unit and nothing: words, and nothing kept."""

from __future__ import annotations

import datetime as dt

from django.test import override_settings
from playwright.sync_api import Page, expect

from coatlog.demo.estuary import PASSWORD
from coatlog.jobs.models import FactsDoc, Job
from coatlog.logbook.models import ClimateReading, LogEntry
from coatlog.shelf.models import Price
from coatlog.shop import clock
from coatlog.shop.models import Member, Place, Shop

from .base import DESK, BrowserCase
from .kept import estuary

START = int(dt.datetime(2026, 6, 16, 8, 0, tzinfo=dt.UTC).timestamp())


class BadInputTest(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        clock.set_now(START)
        estuary(START, whole=False)
        self.job = Job.objects.get(title="Load bed")
        self.desk = self.page(self.context(DESK), "demo", PASSWORD)
        self.before = self.kept()

    def kept(self) -> tuple[object, ...]:
        shop = Shop.objects.get()
        return (
            *(m.objects.count() for m in (LogEntry, FactsDoc, Job, ClimateReading, Price, Place, Member)),
            shop.opens, shop.painters, shop.currency, shop.voc_limit_g_per_l, shop.default_air_degc,
            Member.objects.get(role="owner").preferences,
        )  # fmt: skip

    def tearDown(self) -> None:
        self.assertEqual(self.kept(), self.before)
        self.assertEqual(self.faults, [])
        super().tearDown()

    def goto(self, path: str) -> Page:
        self.desk.goto(f"{self.live_server_url}/#{path}")
        return self.desk

    def each(
        self, label: str, button: str, cases: dict[str, str], *, nth: int = 0, role: str = "alert"
    ) -> None:
        """Fill, press, read what is said; then put the old value back."""
        field = self.desk.get_by_label(label).first
        good = field.input_value()
        for given, said in cases.items():
            field.fill(given)
            self.desk.get_by_role("button", name=button, exact=True).nth(nth).click()
            expect(self.desk.get_by_role(role).filter(has_text=said).first).to_be_visible()
        field.fill(good)

    def test_forms_of_survey_stack_and_log(self) -> None:
        self.survey()
        self.stack()
        self.log()

    def test_forms_of_mix_quantity_service_and_shelf(self) -> None:
        self.mix_and_quantity()
        self.service_and_prices()

    def test_forms_of_shop_and_weather_and_uploads(self) -> None:
        self.shop_and_preferences()
        self.weather_and_uploads()

    def survey(self) -> None:
        desk = self.goto(f"/jobs/{self.job.pk}/survey")
        desk.get_by_role("button", name="Edit the survey").click()
        desk.get_by_label("Part 1", exact=True).wait_for()
        keep = "Save changes"
        area = "expected m², a number above 0, up to 10000"
        self.each("Area m²", keep, dict.fromkeys(("0", "-2", "1e9", "2 ft²", ""), area))
        self.each("Part 1", keep, {"": "A part has no name"})
        desk.get_by_role("button", name="Measure, test, damage").first.click()
        self.each("Quantity", keep, dict.fromkeys(("0", "two"), "a whole number from 1 to 1000"))
        self.each("Area facing up, m²", keep, {"half": "expected m²", "9": "add up to the part"})
        self.choose(desk, "How to get the area", "panel")
        self.each("length, cm", keep, {"long": "expected a number in cm", "1e9": "expected a number in cm"})
        desk.get_by_label("length, cm").fill("200000")
        desk.get_by_label("width (straight line), cm").fill("100")
        expect(desk.get_by_text("length: above 0, up to 1000")).to_be_visible()

    def stack(self) -> None:
        desk = self.goto(f"/jobs/{self.job.pk}/stack")
        desk.get_by_role("button", name="Edit the system").click()
        desk.get_by_label("Coats", exact=True).first.wait_for()
        keep = "Save changes"
        self.each("Coats", keep, dict.fromkeys(("0", "1.5", "1e9"), "a whole number from 1 to 40"))
        self.each(
            "Total DFT, µm", keep, dict.fromkeys(("0", "thick", "4 mil"), "expected µm, a number above 0")
        )

    def log(self) -> None:
        desk = self.goto(f"/jobs/{self.job.pk}/run")
        desk.get_by_role("button", name="Enter air readings").click()
        desk.get_by_label("Humidity %").fill("50")
        cases = dict.fromkeys(("", "99", "68 °F"), "expected a number from -40 to 60 °C")
        self.each("Air °C", "Save", cases)
        desk.get_by_label("Air °C").fill("20")
        self.each(
            "Humidity %",
            "Save",
            dict.fromkeys(("", "130"), "expected 1 to 100 %"),
        )
        desk.get_by_role("button", name="DFT reading").click()
        field = "DFT on Tailgate, µm"
        expect(desk.get_by_label(field)).to_be_focused()
        self.each(
            field,
            "Save",
            dict.fromkeys(("0", "80 mil"), "expected µm, numbers above 0"),
        )
        desk.get_by_role("button", name="Note or picture").click()
        self.each("Note", "Save", {"  ": "Enter a description first"})
        desk.get_by_label("Note", exact=True).press("Escape")
        expect(desk.get_by_label("Note", exact=True)).to_have_count(0)

    def mix_and_quantity(self) -> None:
        desk = self.goto(f"/jobs/{self.job.pk}/mix")
        for label, cases in (
            (
                "Amount to mix, ml",
                dict.fromkeys(
                    ("0", "-1", "1e9", "2 fl oz", "lots", "1000000"), "expected ml, a number above 0"
                ),
            ),
            ("Tint, % of base", dict.fromkeys(("-1", "some"), "expected 0 to 50 % of the base")),
        ):
            field = desk.get_by_label(label)
            for given, said in cases.items():
                field.fill(given)
                expect(desk.get_by_role("alert")).to_contain_text(said)
            field.fill("")
        self.each("Scale reading, g", "Save reading", dict.fromkeys(("-9", "heavy"), "expected g, more than"))
        desk = self.goto(f"/jobs/{self.job.pk}/quantity")
        for given in ("-1", "rough"):
            desk.get_by_label("Blast profile, µm").fill(given)
            expect(desk.get_by_role("alert")).to_contain_text("expected 0 to 300 µm")

    def service_and_prices(self) -> None:
        desk = self.goto(f"/jobs/{self.job.pk}/service")
        cases = dict.fromkeys(("0", "1e9", "long"), "expected months, a number above 0")
        self.each("Promised life, months", "In service", cases)
        desk = self.goto("/shelf")
        desk.get_by_role("button", name="Clear coat").click()
        price = desk.get_by_role("button", name="Save the price of Clear coat, 1 l kit")
        field = desk.locator("form", has=price).get_by_role("textbox")
        for given in ("-1", "12 €"):
            field.fill(given)
            price.click()
            expect(desk.get_by_role("alert")).to_contain_text("expected an amount in EUR")

    def shop_and_preferences(self) -> None:
        desk = self.goto("/shop")
        expect(desk.get_by_label("Name").first).to_have_value("Saltmarsh Airfield Finishing")
        for label, cases in (
            ("Opens", {"": "expected a time like 07:30"}),
            ("Painters", {"0": "1 to 50", "1.5": "a whole number", "1e9": "a whole number"}),
            (
                "Default air temperature, °C",
                {"mild": "expected °C", "68 °F": "expected °C", "999": "-20 to 50"},
            ),
            ("Default humidity, %", {"damp": "5 to 100 %", "0": "0.05 to 1"}),
            ("Currency", {"12": "three-letter code", "EU": "three-letter code"}),
            ("VOC limit, g/l", {"-5": "above 0", "low": "expected g/l", "1e9": "expected g/l"}),
        ):
            self.each(label, "Save", cases)
        teeth = {
            "": "expected teeth in µm",
            "50 25": "each larger",
            "a b": "expected teeth",
            "50": "2 to 40 teeth",
        }
        self.each("Teeth of your wet film gauge", "Save", teeth, nth=1)
        desk.get_by_label("New bay or location").fill("Bay 1")
        desk.get_by_role("button", name="Add bay or location").click()
        expect(desk.get_by_role("alert")).to_contain_text("This name is already used.")

    def weather_and_uploads(self) -> None:
        desk = self.goto("/weather")
        for given in ("0", "1e9", "an hour"):
            desk.get_by_label("Application time, min").fill(given)
            expect(desk.get_by_role("alert")).to_contain_text("expected minutes, 1 to 1440")
        desk.get_by_label("Application time, min").fill("60")
        self.choose(desk, "Data type", "history")
        for name, data, said in (
            (
                "latin.csv",
                "time_utc,air_degc,rh_frac\n2026-01-01T00:00:00Z,5 °C,0.5".encode("latin-1"),
                "not UTF-8",
            ),
            ("unit.csv", b"time_utc,air_degc,rh_frac\n2026-01-01T00:00:00Z,41F,0.5\n", "'41F' stands there"),
            ("column.csv", b"time_utc,air_degc\n2026-01-01T00:00:00Z,5\n", "column rh_frac is missing"),
            (
                "local.csv",
                b"time_local,air_degc,rh_frac\n2026-01-01T00:00,5,0.5\n",
                "how many hours its standard time",
            ),
            ("empty.csv", b"", "is empty"),
            ("big.csv", b"x" * 9_000_000, "8 MB"),
        ):
            desk.get_by_label("Weather file").set_input_files(
                {"name": name, "mimeType": "text/csv", "buffer": data}
            )
            desk.get_by_role("button", name="Import").click()
            expect(desk.get_by_role("alert").first).to_contain_text(said)
        desk = self.goto("/jobs")
        with override_settings(DOCUMENT_LIMIT_BYTES=8_000_000):
            self.job_files(desk)

    def job_files(self, desk: Page) -> None:
        for name, data, said in (
            ("words.json", b"hello", "not JSON"),
            ("other.json", b"{}", "expected a value"),
            ("big.json", b"{" + b" " * 9_000_000, "8 MB"),
        ):
            file = {"name": name, "mimeType": "application/json", "buffer": data}
            desk.get_by_label("Import a job file").set_input_files(file)
            desk.get_by_role("button", name="Import", exact=True).click()
            expect(desk.get_by_role("alert")).to_contain_text(said)
