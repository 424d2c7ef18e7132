"""Ten dull jobs from the survey to the shopping list, as a newcomer enters them: the first offer is taken.

The take-offs beside them were done by hand, the painter's way: square metres over square metres a litre
(solids over film), over the share that lands, 5 % for the cup, and what fills the gun or the tray.  Solids
and films are those of the typical sheets.
"""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.test import TestCase

from coatlog.core.stack.templates import TEMPLATES

from .base import ShopMixin

ROAD = ("sun", "rain", "stones")
#: ml of each material, as the take-off says
TAKE_OFF: dict[str, dict[str, float]] = {
    # 0.7 + 2 x (0.5 x 1.2 + 2 x 1.2 x 0.115) = 2.45 m2; 80/25.5 = 3.14 m2/l; half lands.
    "dash and seats": {"vinyl-colour": 1640},
    # 3 spots of 30 mm with 50 mm all round: 3 x 0.13 x 0.13 = 0.051 m2; the wing 0.7 m2.
    "wing": {
        "epoxy-primer-2k": 76,  # 600/115 = 5.2 m2/l: 9.7, landed 15, cup 16, gun 60
        "urethane-surfacer-2k": 84,  # 438/130 = 3.4 m2/l: 15, 23, 24, gun 60
        "base-coat": 384,  # 147/42 = 3.5 m2/l: 200, 308, 324, gun 60
        "clear-coat-2k": 193,  # 467/55 = 8.5 m2/l: 82, 127, 133, gun 60
    },
    # Faces 4 x pi/4 x 0.432^2 = 0.586 m2 at 4.79 m2/l; barrels 4 x pi x 0.432 x 0.203 = 1.10 m2 at 8.5 m2/l.
    "wheels": {"single-stage-2k": 258, "clear-coat-2k": 270},
    # 2 x (1.8 x 5 + 2.5 x 6) = 48 m2 and 0.6 m2 of drive, by roller (95 % lands, tray 120 ml).
    "hull": {
        "tie-coat": 6560,  # 48.6 m2, 480/57.5 = 8.35 m2/l: 5.82 l, 6.13, 6.44
        "hard-antifouling": 15240,  # 48 m2, 500/142.5 = 3.5 m2/l: 13.7 l, 14.4, 15.1
        "epoxy-barrier": 423,  # 0.6 m2, 690/315 = 2.2 m2/l: 274, 288, 303
        "copper-free-antifouling": 253,  # 0.6 m2, 500/100 = 5 m2/l: 120, 126, 133
    },
    # 2 x 0.3 m2 by brush (tray 20 ml); two holes of 30 mm with 50 mm all round: 0.034 m2 of cloth.
    "sill": {"rust-encapsulator": 120, "cloth-laminate": 62, "alkyd-enamel": 113},
    # A scratch nobody measured counts as 50 mm and 50 mm all round: 0.0225 m2; the bumper 1.1 m2.
    "bumper": {"urethane-surfacer-2k": 71, "single-stage-2k": 432},
    "bench": {"vinyl-colour": 939},  # 1.4 m2 in all at 3.14 m2/l: 446, half lands 892
    # 0.16 x 0.16 = 0.026 m2 bare and feathered; the aileron 0.9 m2.
    "aileron": {"epoxy-primer-2k": 68, "urethane-surfacer-2k": 72, "base-coat": 476, "clear-coat-2k": 232},
    # 12 m of seams 50 mm wide once at 150 um, 3 m2 at 300 um: 990 ml dry, 1165 wet, 1226, 1290, tray 20.
    "tank": {"tank-lining": 1310},
    # 2 x 0.14 x 0.14 = 0.039 m2 of etch; 3.2 m2 at 650/700 = 0.93 m2/l: 3.45 l, 3.83, 4.03, gun 50.
    "box": {"etch-2k": 68, "textured-liner-2k": 4080},
}  # fmt: skip


class TenJobsTest(ShopMixin, TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client = self.signed_in("owner1")
        self.names = {s.id: k for k, s in self.sheets.items()}

    def offered(self, parts: list[dict[str, Any]], wanted: list[str], kind: str) -> dict[str, Any]:
        body = {
            "parts": [{**p, "system": 0} for p in parts], "wanted": wanted, "asset_kind": kind,
            "place_id": str(self.place.pk),
        }  # fmt: skip
        answer = self.post(self.client, "/api/suggest", body).json()
        self.assertTrue(answer["best"], (parts, wanted, answer["missing"]))
        return dict(answer["best"][0])

    def ordered(
        self, title: str, parts: list[dict[str, Any]], wishes: list[list[str]], kind: str = "road"
    ) -> None:
        systems = []
        for k, wish in enumerate(wishes):
            best = self.offered([p for p in parts if p.get("system", 0) == k], wish, kind)
            systems.append(
                {"layers": best["layers"], "choices": {"prep": best["prep"], "wanted": " ".join(wish)}}
            )
        self.taken_off(title, parts, systems, kind)

    def taken_off(
        self, title: str, parts: list[dict[str, Any]], systems: list[dict[str, Any]], kind: str
    ) -> None:
        body = {
            "title": title, "asset": title, "asset_kind": kind, "place_id": str(self.place.pk),
            "parts": parts, **systems[0], "systems": systems[1:],
        }  # fmt: skip
        with transaction.atomic():
            made = self.post(self.client, "/api/jobs", body)
            self.assertEqual(made.status_code, 200, made.content[:600])
            needs = self.client.get(f"/api/jobs/{made.json()['id']}/quantity").json()["needs"]
            again = self.client.get(f"/api/jobs/{made.json()['id']}/draft").json()
            transaction.set_rollback(True)  # the next one finds an empty shop
        ml = {self.names[n["sheet_id"]]: n["total_ml"] for n in needs}
        self.assertEqual(set(ml), set(TAKE_OFF[title]))
        for name, by_hand in TAKE_OFF[title].items():
            self.assertAlmostEqual(ml[name], by_hand, delta=0.1 * by_hand, msg=f"{title}: {name}")
        kept = [[x["patches"] for x in s["layers"]] for s in ({"layers": again["layers"]}, *again["systems"])]
        chosen = [[bool(x.get("patches")) for x in s["layers"]] for s in systems]
        self.assertEqual([[bool(p) for p in s] for s in kept], chosen)

    def like(self, template: str) -> tuple[list[dict[str, Any]], list[list[str]], str]:
        t = next(x for x in TEMPLATES if x.id == template)
        parts = [
            {
                "name": p.name, "substrate": p.substrate or t.substrate, "count": p.count, "as_set": p.as_set,
                "must_survive": list(t.survives if p.survives is None else p.survives),
                "features": list(t.features if p.features is None else p.features) or ["none"],
                "system": p.system,
                **({"shape": p.shape, "measures": p.measures} if p.shape else {"area_m2": p.area_m2}),
            }
            for p in t.parts
        ]  # fmt: skip
        wanted = {p.system: list(t.wanted if p.wanted is None else p.wanted) for p in t.parts}
        return parts, [wanted[k] for k in sorted(wanted)], t.kind

    def part(self, name: str, area_m2: float, substrate: str, *survives: str, **more: Any) -> dict[str, Any]:
        return {
            "name": name, "area_m2": area_m2, "substrate": substrate, "must_survive": list(survives), **more
        }  # fmt: skip

    def test_of_templates(self) -> None:
        for title, template in (("dash and seats", "dash_and_seats"), ("wheels", "wheels_off")):
            with self.subTest(title):
                self.ordered(title, *self.like(template))

    def test_hull_with_old_epoxy_and_an_aluminium_drive(self) -> None:
        sections, wishes, kind = self.like("hull_sections")
        drive = self.part("Drive", 0.6, "bare_aluminium", "immersion", features=["sail_drive"], system=1)
        self.ordered(
            "hull", [*({**p, "there_um": 280} for p in sections), drive], [*wishes, ["antifouling"]], kind
        )

    def test_damage_in_places(self) -> None:
        spots = {"bare_mm": 30, "patch_n": 3}
        holes = {"features": ["holes"], "hole_mm": 30, "patch_n": 2, "count": 2}
        skin = {"bare_mm": 60, "patch_n": 1, "features": ["control_surface", "under_aluminium"]}
        bare = {"bare_mm": 40, "patch_n": 2}
        for title, part, wish, kind in (
            ("wing", self.part("Wing", 0.7, "sound_paint", *ROAD, **spots), "colour gloss", "road"),
            ("sill", self.part("Sill", 0.3, "rusty_steel", *ROAD, **holes), "colour", "road"),
            (
                "bumper",
                self.part("Bumper", 1.1, "painted_plastic", *ROAD, features=["scratches"], patch_n=1),
                "colour gloss",
                "road",
            ),
            ("aileron", self.part("Aileron", 0.9, "sound_paint", "sun", **skin), "colour gloss", "aircraft"),
            ("box", self.part("Box", 3.2, "sound_paint", "stones", "feet", **bare), "texture colour", "road"),
        ):
            with self.subTest(title):
                self.ordered(title, [part], [wish.split()], kind)

    def test_bench_with_a_torn_panel(self) -> None:
        """No sheet here mends a tear: it is said, beside the offer for the panel that has one."""
        bench = self.part("Bench", 1.2, "greasy_vinyl", "feet", features=["none"])
        torn = self.part(
            "Torn panel", 0.2, "greasy_vinyl", "feet", features=["scratches", "none"], patch_n=1, system=1
        )
        said = [
            {f["rule_id"] for f in self.offered([p], ["colour"], "road")["findings"]} for p in (bench, torn)
        ]
        self.assertEqual([("dents.left" in x) for x in said], [False, True])
        self.ordered("bench", [bench, torn], [["colour"], ["colour"]])

    def test_tank_with_stripe_coats(self) -> None:
        tank = self.part("Tank", 3.0, "rusty_steel", "fuel_bath", features=["enclosed"])
        best = self.offered([tank], ["seals"], "vessel")
        strip = {"patches": {"n": 1, "along_m": 12, "across_mm": 50}, "coats": 1, "target_um": None}
        layers = [{**best["layers"][0], **strip}, *best["layers"]]
        self.taken_off("tank", [tank], [{"layers": layers, "choices": {"prep": best["prep"]}}], "vessel")
