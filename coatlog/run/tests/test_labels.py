"""Data sheets of our own making in three layouts and two unit systems, and the sheet a label makes."""

from __future__ import annotations

import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from fpdf import FPDF

from .base import ShopMixin

#: what the invented product is, said in metric and in US units; the same product within rounding
METRIC = {
    "Mixing ratio": "4 : 1 by volume", "Volume solids": "58 %", "Density": "1.42 kg/l",
    "Dry film thickness": "60 - 80 µm per coat", "Pot life": "6 hours at 20 °C",
    "Touch dry": "3 h at 20 °C", "Recoat interval": "5 h to 7 days at 20 °C", "Full cure": "7 days at 20 °C",
    "Surface temperature": "10 to 35 °C", "Relative humidity": "85 % at most",
}  # fmt: skip
US = {
    "Mixing ratio": "4 to 1 by volume", "Volume solids": "58%", "Density": "11.85 lb/gal",
    "Dry film thickness": "2.4 to 3.1 mils per coat", "Pot life": "6 hours at 68 °F",
    "Touch dry": "3 hours at 68 °F", "Recoat interval": "5 hours to 7 days at 68 °F",
    "Full cure": "7 days at 68 °F", "Surface temperature": "50 to 95 °F", "Relative humidity": "85% maximum",
}  # fmt: skip
#: what a person with the sheet in hand would write down [parts, frac, g/ml, um, s, degC]
WRITTEN = {
    "solids": 0.58, "density": 1.42, "dry_min": 60.0, "dry_max": 80.0, "pot": 21600, "touch": 10800,
    "recoat_from": 18000, "recoat_to": 604800, "full": 604800, "surface_min": 10.0, "surface_max": 35.0,
    "humidity": 0.85,
}  # fmt: skip


def lines_of(said: dict[str, str]) -> FPDF:
    """A name and its value on a line each."""
    pdf = _page("Tidewater two-pack epoxy primer")
    for name, value in said.items():
        pdf.cell(0, 8, f"{name}: {value}", new_x="LMARGIN", new_y="NEXT")
    return pdf


def table_of(said: dict[str, str]) -> FPDF:
    """A ruled table of two columns."""
    pdf = _page("Tidewater two-pack epoxy primer")
    with pdf.table() as table:
        for name, value in said.items():
            row = table.row()
            row.cell(name)
            row.cell(value)
    return pdf


def prose_of(said: dict[str, str]) -> FPDF:
    """Sentences that run over the lines."""
    pdf = _page("Tidewater two-pack epoxy primer")
    for name, value in said.items():
        pdf.multi_cell(0, 8, f"The {name.lower()} of this primer is {value}.", new_x="LMARGIN", new_y="NEXT")
    return pdf


def _page(title: str) -> FPDF:
    pdf = FPDF()
    pdf.add_page()
    pdf.set_font("helvetica", size=11)
    pdf.cell(0, 12, title, new_x="LMARGIN", new_y="NEXT")
    return pdf


class LabelsTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")

    def read(self, data: bytes, name: str = "sheet.pdf") -> Any:
        return self.client.post("/api/sheets/read", {"file": SimpleUploadedFile(name, data)})

    def test_three_layouts_in_two_unit_systems_are_read_each_with_its_line(self) -> None:
        for layout in (lines_of, table_of, prose_of):
            for said in (METRIC, US):
                with self.subTest(f"{layout.__name__} {said['Density']}"):
                    told = self.read(bytes(layout(said).output())).json()
                    by = {p["field"]: p for p in told}
                    self.assertEqual(by["ratio"]["parts"], [4.0, 1.0])
                    for field, value in WRITTEN.items():
                        self.assertAlmostEqual(by[field]["value"], value, delta=0.02 * value, msg=field)
                        self.assertIn(by[field]["shown"].split()[0], by[field]["text"])
                    for field in ("pot", "touch", "recoat_from", "full"):
                        self.assertEqual(by[field]["at_degc"], 20.0, field)
                    self.assertEqual(len(told), len(WRITTEN) + 1, "nothing that is not there")

    def test_what_it_does_not_know_it_does_not_propose(self) -> None:
        text = "\n".join(
            (
                "Wet film thickness 150 µm",  # what it dries to is what counts
                "Store at 5 to 30 °C for 24 months",
                "Flash point 27 °C",
                "Pot life depends on the volume mixed",
                "Telephone 020 7946 0000",
                "Humidity 850 %",
                "Pot life 4 h at 15 °C, 2 h at 25 °C",  # at which of both is for a person to say
            )
        )
        told = self.read(text.encode(), "sheet.txt").json()
        self.assertEqual([(p["field"], p["value"], p["at_degc"]) for p in told], [("pot", 14400.0, None)])

    def test_what_is_no_paper_is_refused_in_words(self) -> None:
        empty = FPDF()
        empty.add_page()
        for data, expected in (
            (b"%PDF-1.7 then nothing", "a PDF with text in it"),
            (bytes(empty.output()), "this one is a picture of a page"),
            (b"\xff\xfe\x00", "a PDF, or text in UTF-8"),
        ):
            refused = self.read(data)
            self.assertEqual(refused.status_code, 422, data[:20])
            self.assertIn(expected, refused.json()["errors"][0]["expected"])
        self.add_member("painter", "painter")
        self.client = self.signed_in("painter")
        self.assertEqual(self.read(b"x").status_code, 403)

    def label(self, **says: Any) -> Any:
        like = self.sheets["epoxy-primer-2k"].id
        body = {"like": like, "name": "Tidewater epoxy primer", "says": says}
        return self.client.post("/api/sheets/label", json.dumps(body), content_type="application/json")

    def test_a_label_makes_a_second_product_beside_the_typical_one(self) -> None:
        made = self.label(ratio={"parts": [3, 1]}, solids={"value": 0.7}, pot={"value": 7200, "at_degc": 25},
                          recoat_from={"value": 14400})  # fmt: skip
        self.assertEqual(made.status_code, 200, made.content[:300])
        sheet = made.json()["sheet"]
        self.assertEqual((sheet["material_id"], sheet["grade"]), ("tidewater-epoxy-primer", "sheet"))
        self.assertEqual([c["parts"] for c in sheet["components"]], [3, 1])
        self.assertAlmostEqual(made.json()["solids_frac"], 0.7, places=4)
        self.assertEqual(sheet["pot"], [{"at_degc": 25.0, "s": 7200, "mass_g": None}])
        why = {k: v["ref"] for k, v in sheet["why"].items()}
        self.assertEqual((why["pot"], why["components"]), ("Tidewater epoxy primer: label",) * 2)
        self.assertEqual({why[k] for k in ("film", "limits", "points.full", "purpose.goes_on")},
                         {"common practice, no published source"})  # fmt: skip
        shelf = {s["sheet"]["material_id"] for s in self.client.get("/api/shelf").json()}
        self.assertLessEqual({"epoxy-primer-2k", "tidewater-epoxy-primer"}, shelf)
        again = self.label(solids={"value": 0.7})
        self.assertEqual(again.json()["sheet"]["material_id"], "tidewater-epoxy-primer-2")

    def test_what_a_label_cannot_say_is_named(self) -> None:
        for says, field in (
            ({"ratio": {"parts": [3, 1, 1]}}, "says.ratio"),
            ({"solids": {"value": 1.4}}, "says.solids"),
            ({"gloss": {"value": 90}}, "says"),
            ({"recoat_from": {"value": 7200}, "recoat_to": {"value": 3600}}, "says.recoat_to"),
            ({"pot": {}}, "says.pot"),
        ):
            refused = self.label(**says)
            self.assertEqual(refused.status_code, 422, says)
            self.assertEqual(refused.json()["errors"][0]["field"], field)

    def test_two_brands_of_a_kind_are_chosen_layer_by_layer(self) -> None:
        """Either goes where the typical one goes, and the one whose sheet was taken is the one on the job."""
        own = self.label(solids={"value": 0.7}).json()["sheet"]["id"]
        part = {"name": "Sill", "area_m2": 0.5, "substrate": "bare_steel"}
        liner = self.sheets["textured-liner-2k"].id
        for sheet_id in (own, self.sheets["epoxy-primer-2k"].id):
            layers = [{"sheet_id": sheet_id, "coats": 1}, {"sheet_id": liner, "coats": 2}]
            told = self.post(self.client, "/api/judge", {"parts": [part], "layers": layers}).json()
            self.assertEqual([f for f in told["findings"] if f["severity"] == "stop"], [])
