"""Stack rules.  All of them: common practice, no published source."""

from __future__ import annotations

import dataclasses
import tomllib
import unittest
from pathlib import Path

from coatlog.core.errors import CoreError
from coatlog.core.sheet import Sheet, make_sheet
from coatlog.core.stack.rules import StackLayer, judge

from .samples import sheet

SHELF = Path(__file__).parents[2] / "shelf" / "typical"


def shelf() -> dict[str, Sheet]:
    sheets = [make_sheet(tomllib.loads(f.read_text())) for f in SHELF.glob("*.toml")]
    return {s.properties.family: s for s in sheets}


def stops(substrate: str, *layers: Sheet) -> set[str]:
    found = judge(substrate, [StackLayer(sheet=s, coats=1) for s in layers])
    return {f.rule_id for f in found if f.severity == "stop"}


class StackTest(unittest.TestCase):
    def test_the_liner_system_of_the_trade_is_legal(self) -> None:
        s = shelf()
        self.assertEqual(stops("bare_steel", s["epoxy"], s["liner"]), set())

    def test_liner_on_bare_metal_without_primer_is_stopped(self) -> None:
        self.assertIn("bare_metal.rated", stops("bare_steel", shelf()["liner"]))
        self.assertEqual(stops("sound_paint", shelf()["liner"]), set())

    def test_filler_over_etch_is_stopped_and_filler_on_steel_is_not(self) -> None:
        s = shelf()
        self.assertIn("polyester.over_acid", stops("bare_steel", s["etch"], s["polyester"]))
        self.assertEqual(stops("bare_steel", s["polyester"]), set())

    def test_epoxy_over_etch_and_anything_over_peelable(self) -> None:
        s = shelf()
        self.assertIn("epoxy.over_acid", stops("bare_steel", s["etch"], s["epoxy"]))
        self.assertIn("peelable.covered", stops("sound_paint", s["peelable"], s["liner"]))

    def test_a_sheet_that_is_silent_stops(self) -> None:
        s = shelf()
        self.assertIn("recoat.silent", stops("bare_steel", s["epoxy"], s["peelable"]))

    def test_film_outside_the_sheet(self) -> None:
        primer = shelf()["epoxy"]
        thick = judge("bare_steel", [StackLayer(sheet=primer, coats=1, target_um=150.0)])
        self.assertEqual({f.rule_id for f in thick}, {"film.per_coat"})
        many = judge("bare_steel", [StackLayer(sheet=primer, coats=9)])
        self.assertEqual({f.rule_id for f in many}, {"film.coats"})

    def test_rules_read_properties_never_names(self) -> None:
        s = shelf()
        renamed = dataclasses.replace(s["etch"], name="Plain bottle", material_id="x")
        self.assertIn("polyester.over_acid", stops("bare_steel", renamed, s["polyester"]))

    def test_every_finding_says_what_why_and_instead(self) -> None:
        s = shelf()
        for f in judge(
            "bare_steel", [StackLayer(sheet=s["liner"], coats=9), StackLayer(sheet=s["polyester"], coats=1)]
        ):
            self.assertTrue(f.what and f.why and f.instead, f.rule_id)


class SheetTest(unittest.TestCase):
    def test_the_same_content_has_the_same_id_and_another_number_another(self) -> None:
        self.assertEqual(sheet("a").id, sheet("a").id)
        self.assertNotEqual(sheet("a").id, sheet("a", use_frac=0.8).id)

    def test_bad_sheets_are_refused_by_field(self) -> None:
        film = {"dry_um_min": 80.0, "dry_um_max": 75.0, "total_max_um": 200.0, "coats_max": 3}
        window = {"from_s": 600, "to_s": 300, "at_degc": 20.0}
        for over, field in (
            ({"film": film}, "film"),
            ({"recoat": [{"next": "same", "windows": [window]}]}, r"recoat\[0\].windows\[0\].to_s"),
            ({"pot": []}, "pot"),
            ({"law": "magic"}, "law"),
            ({"use_frac": float("nan")}, "use_frac"),
            ({"colour": "red"}, "colour"),
        ):
            with self.assertRaisesRegex(CoreError, f"^{field}: got"):
                sheet("a", **over)
