"""The can's own sheet in place of a typical one; files out and in; what cannot be is named."""

from __future__ import annotations

import csv
import io
import json
import re
from importlib import import_module
from typing import Any

from django.apps import apps
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase

from coatlog.core.codec import to_plain
from coatlog.core.sheet import make_sheet
from coatlog.shelf.models import SheetDoc
from coatlog.shelf.services import TYPICAL, load_typical
from coatlog.shop import services
from coatlog.shop.models import Member

AGAIN = {"from_s": 60, "to_s": 900, "at_degc": 20}
NOW = 1_790_000_000


AID = {"serves": ["wipe"], "unit": "cloth", "covers_m2": 2.0}


class SheetTest(TestCase):
    def setUp(self) -> None:
        owner = services.found_shop(
            name="Shop", time_zone="Europe/London", username="ines", password="long-and-odd-77"
        )
        self.shop = owner.shop
        load_typical(self.shop, now=NOW)
        self.client = self.signed_in("ines")
        (liner,) = (s for s in self.shelf() if s["sheet"]["material_id"] == "textured-liner-2k")
        self.liner = liner["sheet"]

    def signed_in(self, name: str) -> Client:
        client = Client()
        user = get_user_model().objects.get(username=name)
        client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        return client

    def shelf(self) -> list[dict[str, Any]]:
        return self.client.get("/api/shelf").json()

    def put(self, sheet: Any, client: Client | None = None) -> Any:
        return (client or self.client).post("/api/sheets", json.dumps(sheet), "application/json")

    def test_the_cans_own_values_are_the_newest_and_the_old_sheet_stays(self) -> None:
        own = {**self.liner, "grade": "sheet", "pot": [{"at_degc": 20.0, "s": 2400}]}
        r = self.put(own)
        self.assertEqual(r.status_code, 200, r.content)
        (shown,) = (s for s in self.shelf() if s["sheet"]["material_id"] == "textured-liner-2k")
        self.assertEqual((shown["sheet"]["grade"], shown["sheet"]["pot"][0]["s"]), ("sheet", 2400))
        self.assertNotEqual(shown["sheet"]["id"], self.liner["id"])
        ids = set(SheetDoc.objects.filter(material_id="textured-liner-2k").values_list("sheet_id", flat=True))
        self.assertEqual(ids, {self.liner["id"], shown["sheet"]["id"]})

    def test_out_as_a_file_and_in_again_is_the_same_sheet(self) -> None:
        count = SheetDoc.objects.count()
        for row in self.client.get("/api/shelf?aids=true").json():
            text = self.client.get(f"/api/sheets/{row['sheet']['id']}").content
            file = SimpleUploadedFile("x.sheet.json", text)
            r = self.client.post("/api/sheets/import", {"file": file})
            self.assertEqual(r.status_code, 200, r.content)
            self.assertEqual(r.json()["sheet"]["id"], row["sheet"]["id"])
        self.assertEqual(SheetDoc.objects.count(), count)

    def test_what_cannot_be_is_named_and_nothing_is_kept(self) -> None:
        count = SheetDoc.objects.count()
        film = self.liner["film"]
        base, *rest = self.liner["components"]
        for over, field in (
            ({"name": "  "}, "name"),
            ({"name": "x" * 200}, "name"),
            ({"film": {**film, "dry_um_min": 500}}, "film"),
            ({"film": {**film, "dry_um_max": "thick"}}, "film.dry_um_max"),
            ({"film": None}, "film"),
            ({"components": []}, "components"),
            ({"components": [base, base, *rest]}, "components"),
            ({"components": [{**base, "parts": 0}, *rest]}, "components[0].parts"),
            ({"components": [{**base, "density_g_per_ml": 1e9}, *rest]}, "components[0].density_g_per_ml"),
            ({"components": [{**base, "solids_frac": 62}, *rest]}, "components[0].solids_frac"),
            ({"pot": []}, "pot"),
            ({"pot": [{"at_degc": 20, "s": -1}]}, "pot[0].s"),
            ({"points": [{"gate": "full", "at_degc": 20, "s": 10**12}]}, "points[0].s"),
            ({"points": [{"gate": "lunch", "at_degc": 20, "s": 60}]}, "points[0].gate"),
            (
                {"recoat": [{"next": "same", "windows": [{"from_s": 60, "to_s": 30, "at_degc": 20}]}]},
                "recoat",
            ),
            ({"limits": {**self.liner["limits"], "rh_max_frac": 85}}, "limits.rh_max_frac"),
            ({"limits": {**self.liner["limits"], "surface_min_degc": 50}}, "limits"),
            ({"components": [{**base, "parts": 1e-308}, *rest]}, "components[0].parts"),
            (
                {"components": [{**base, "solids_frac": 0.9, "water_frac": 0.9}, *rest]},
                "components[0].water_frac",
            ),
            ({"components": [{**c, "of": "base"} for c in (base, *rest)]}, "components"),
            ({"points": [*self.liner["points"], self.liner["points"][0]]}, "points["),
            ({"pot": [{"at_degc": 20, "s": 1}]}, "pot[0].s"),
            (
                {"recoat": [{"next": "same", "windows": [{**AGAIN, "at_degc": -300}]}]},
                "recoat[0].windows[0].at_degc",
            ),
            ({"film": {**film, "coats_max": -3}}, "film.coats_max"),
            ({"film": {**film, "total_max_um": 1e300}}, "film.total_max_um"),
            ({"properties": {**self.liner["properties"], "coats_exact": -3}}, "properties.coats_exact"),
            ({"ea_j_per_mol": -50_000}, "ea_j_per_mol"),
            ({"name": "a\0b"}, "name"),
            ({"name": "a\ud800"}, "name"),
            ({"method_id": "catapult"}, "method_id"),
            ({"surprise": 1}, "surprise"),
            ({"aid": AID}, "aid"),
            ({"aid": AID, "build": "aid"}, "components"),
        ):
            r = self.put({**self.liner, **over})
            self.assertEqual(r.status_code, 422, (over, r.content[:200]))
            (told,) = r.json()["errors"]
            self.assertTrue(told["field"].startswith(field) and told["expected"], (field, told))
        lists = ("components", "points", "recoat", "pot", "hints", "packs")
        empty = {"film": None, **{k: [] for k in lists}}
        rag = {**self.liner, **empty, "build": "aid"}
        for aid, field in (
            ({**AID, "serves": []}, "aid.serves"),
            ({**AID, "covers_m2": 0}, "aid.covers_m2"),
            ({**AID, "grit": 5}, "aid.grit"),
            ({**AID, "unit": "barrel"}, "aid.unit"),
            ({**AID, "packs": [{"name": "box", "holds": 0}]}, "aid.packs[0].holds"),
        ):
            (told,) = self.put({**rag, "aid": aid}).json()["errors"]
            self.assertEqual(told["field"], field)
        for data in (b"", b"hello", b"[]", b"\xff"):
            r = self.client.post("/api/sheets/import", {"file": SimpleUploadedFile("a.json", data)})
            self.assertEqual(r.status_code, 422, data)
        self.assertEqual(SheetDoc.objects.count(), count)

    def test_only_the_owner_and_only_ones_own_shelf(self) -> None:
        services.add_member(
            Member.objects.get(user__username="ines"),
            username="rui",
            password="long-and-odd-78",
            role="painter",
        )
        self.assertEqual(self.put(self.liner, self.signed_in("rui")).status_code, 403)
        services.found_shop(
            name="Other", time_zone="Europe/London", username="otto", password="long-and-odd-79"
        )
        self.assertEqual(self.signed_in("otto").get(f"/api/sheets/{self.liner['id']}").status_code, 404)

    def test_typical_sheets_that_are_missing_come_back_and_ones_own_stays(self) -> None:
        own = self.put({**self.liner, "grade": "sheet", "name": "Our liner"}).json()["sheet"]["id"]
        SheetDoc.objects.filter(material_id__in=["towels", "clear-coat-2k"]).delete()
        told = self.client.post("/api/sheets/typical").json()
        self.assertEqual({s["sheet"]["material_id"] for s in told}, {"towels", "clear-coat-2k"})
        self.assertIn(own, [s["sheet"]["id"] for s in self.shelf()])
        self.assertEqual(self.client.post("/api/sheets/typical").json(), [])

    def test_older_typical_sheets_get_the_newer_beside_them_and_ones_own_stays(self) -> None:
        """A shelf from before sheets said what they are for, brought up to date as a database is migrated."""
        own = self.put({**self.liner, "grade": "sheet", "name": "Our liner"}).json()["sheet"]["id"]
        (primer,) = (s for s in self.shelf() if s["sheet"]["material_id"] == "epoxy-primer-2k")
        new_id = primer["sheet"]["id"]
        old = make_sheet({k: v for k, v in primer["sheet"].items() if k != "purpose"})
        SheetDoc.objects.filter(sheet_id=new_id).delete()
        SheetDoc.objects.create(
            shop=self.shop, sheet_id=old.id, material_id=old.material_id, name=old.name, grade="typical",
            doc=to_plain(old), created_at=NOW,
        )  # fmt: skip
        import_module("coatlog.shelf.migrations.0004_purposes").renew(apps, None)
        shown = {s["sheet"]["material_id"]: s["sheet"] for s in self.shelf()}
        self.assertEqual(shown["epoxy-primer-2k"]["id"], new_id)
        self.assertTrue(SheetDoc.objects.filter(sheet_id=old.id).exists())
        self.assertEqual(shown["textured-liner-2k"]["id"], own)

    def test_what_a_product_says_it_is_for_comes_in_by_toml_with_where_it_comes_from(self) -> None:
        text = (TYPICAL / "trim_paint.toml").read_text().replace('grade = "typical"', 'grade = "sheet"')
        text = text.replace('sun = "for_a_time"', 'sun = "yes"')
        file = SimpleUploadedFile("trim.toml", text.encode())
        r = self.client.post("/api/sheets/import", {"file": file})
        self.assertEqual(r.status_code, 200, r.content)
        sheet = r.json()["sheet"]
        self.assertEqual(sheet["purpose"]["withstands"]["sun"], "yes")
        # What it only repeats is still the trade's word; what it says for itself is its own.
        self.assertEqual(sheet["why"]["purpose.goes_on"]["kind"], "practice")
        self.assertNotIn("purpose.withstands", sheet["why"])
        for bad, field in (
            ('goes_on = ["the moon"', "purpose.goes_on"),
            ('used_on = ["everywhere"', "purpose.used_on"),
            ('role = "hero"', "purpose.role"),
        ):
            name = bad.split(" =")[0]
            before, mark, after = text.partition("[purpose]")
            wrong = before + mark + re.sub(rf'^{name} = \[?"[^"]*"', bad, after, count=1, flags=re.M)
            file = SimpleUploadedFile("trim.toml", wrong.encode())
            r = self.client.post("/api/sheets/import", {"file": file})
            self.assertEqual((r.status_code, r.json()["errors"][0]["field"]), (422, field), bad)

    def table(self, text: str) -> Any:
        file = SimpleUploadedFile("shelf.csv", text.encode(), content_type="text/csv")
        return self.client.post("/api/sheets/table", {"file": file})

    def test_the_whole_shelf_goes_out_as_a_table_and_comes_in_as_it_was(self) -> None:
        before = set(SheetDoc.objects.values_list("sheet_id", flat=True))
        text = self.client.get("/api/sheets/table").content.decode()
        r = self.table(text)
        self.assertEqual((r.status_code, len(r.json())), (200, len(before)), r.content[:300])
        self.assertEqual(set(SheetDoc.objects.values_list("sheet_id", flat=True)), before)

    def test_no_name_is_a_formula_in_the_table_and_each_comes_back_as_it_was(self) -> None:
        name = "=HYPERLINK(0)"
        self.assertEqual(self.put({**self.liner, "material_id": "odd", "name": name}).status_code, 200)
        text = self.client.get("/api/sheets/table").content.decode()
        cells = {cell for row in csv.reader(io.StringIO(text)) for cell in row}
        self.assertIn(f"'{name}", cells)
        numbers = re.compile(r"-[0-9.]+$")
        self.assertEqual([c for c in cells if c[:1] in "=+-@" and c and not numbers.match(c)], [])
        self.assertEqual(self.table(text).status_code, 200)
        (back,) = (s["sheet"] for s in self.shelf() if s["sheet"]["material_id"] == "odd")
        self.assertEqual(back["name"], name)

    def test_a_bad_row_is_named_and_none_is_taken(self) -> None:
        count = SheetDoc.objects.count()
        lines = self.client.get("/api/sheets/table").content.decode().split("\r\n")
        columns = lines[0].split(",")
        first = next(x for x in lines if x.startswith("adhesion-promoter"))
        renamed = [x.replace("base-coat", "base-coat-9") for x in lines]
        for bad, told in (
            ([*renamed, first.replace("0.85", "85")], f"row {len(renamed)}: limits.rh_max_frac"),
            ([lines[0] + ",fi lm", *lines[1:]], "column fi lm"),
            ([lines[0], lines[1] + ",more"], "row 2"),
            ([",".join(columns[1:]), lines[1]], "column material_id"),
            ([lines[0]], "rows"),
            (["material_id,film,film.dry_um_max", "a,1,2"], "column film"),
            (["material_id,pot,pot[0].s", "a,1,2"], "column pot[0]"),
        ):
            r = self.table("\r\n".join(x for x in bad if x))
            self.assertEqual(r.status_code, 422, told)
            self.assertEqual(r.json()["errors"][0]["field"], told)
        self.assertEqual(SheetDoc.objects.count(), count)
