"""Stack rules.  Every rule here is common practice, no published source, unless the test says so."""

from __future__ import annotations

import dataclasses
import tomllib
import unittest
from pathlib import Path

from coatlog.core.sheet import Sheet, make_sheet
from coatlog.core.stack.findings import RULES
from coatlog.core.stack.rules import FACTS, StackLayer, Survey, judge
from coatlog.core.stack.surfaces import SUBSTRATES

SHELF = Path(__file__).parents[2] / "shelf" / "typical"


def shelf() -> dict[str, Sheet]:
    sheets = [make_sheet(tomllib.loads(f.read_text())) for f in SHELF.glob("*.toml")]
    return {s.material_id: s for s in sheets}


S = shelf()


def ids(ground: str, *names: str, survives: str = "", severity: str = "stop") -> set[str]:
    """Rule ids of one severity on a stack; "name*3" is three coats, else what the sheet needs."""
    layers = []
    for name in names:
        key, _, n = name.partition("*")
        sheet = S[key]
        layers.append(StackLayer(sheet=sheet, coats=int(n or sheet.coats_range[0])))
    found = judge(Survey(substrate=ground, must_survive=tuple(survives.split())), layers)
    return {f.rule_id for f in found if f.severity == severity}


#: (rule, severity, a stack that breaks it, the same job done right)
CASES: tuple[tuple[str, str, tuple[str, ...], tuple[str, ...]], ...] = (
    ("bare_metal.rated", "stop", ("bare_steel", "textured-liner-2k"),
     ("bare_steel", "epoxy-primer-2k", "textured-liner-2k")),
    ("bare_metal.rated", "stop", ("bare_aluminium", "base-coat", "clear-coat-2k"),
     ("sound_paint", "base-coat", "clear-coat-2k")),
    ("polyester.over_acid", "stop", ("bare_steel", "etch-aerosol", "polyester-filler"),
     ("bare_steel", "polyester-filler")),
    ("epoxy.over_acid", "stop", ("bare_steel", "etch-aerosol", "epoxy-primer-2k"),
     ("bare_steel", "epoxy-primer-2k")),
    ("solvent.lifts", "stop", ("soft_paint", "urethane-surfacer-2k"), ("soft_paint", "vinyl-colour")),
    ("solvent.lifts", "stop", ("plated_chrome", "clear-anticorrosion", "textured-liner-2k"),
     ("plated_chrome", "clear-anticorrosion")),
    ("plastic.crazes", "stop", ("acrylic", "clear-coat-2k"), ("acrylic", "gloss-peelable*4")),
    ("plastic.promoter", "stop", ("raw_polyolefin", "base-coat", "clear-coat-2k"),
     ("raw_polyolefin", "adhesion-promoter", "base-coat", "clear-coat-2k")),
    ("flexible.system", "warn", ("raw_polyolefin", "adhesion-promoter", "urethane-surfacer-2k"),
     ("vinyl", "vinyl-colour*3")),
    ("repels.covered", "stop", ("waxed", "clear-coat-2k"), ("sound_paint", "clear-coat-2k")),
    ("ground.loose", "stop", ("loose_paint", "epoxy-primer-2k"), ("sound_paint", "epoxy-primer-2k")),
    ("gloss.unkeyed", "stop", ("glossy_paint", "epoxy-primer-2k"), ("glossy_paint", "gloss-peelable*6")),
    ("ground.unvouched", "stop", ("other_rubber", "boot-sealant"), ("black_rubber", "boot-sealant")),
    ("ground.unvouched", "stop", ("sound_paint", "fabric-protectant"),
     ("woven_fabric", "fabric-protectant*3")),
    ("join.unvouched", "stop", ("sound_paint", "base-coat", "deck-grip"), ("cured_epoxy", "deck-grip")),
    ("join.one_sided", "advise", ("sound_paint", "single-stage-2k", "wheel-ceramic"),
     ("sound_paint", "base-coat", "clear-coat-2k")),
    ("role.order", "stop", ("sound_paint", "single-stage-2k", "epoxy-primer-2k"),
     ("sound_paint", "epoxy-primer-2k", "single-stage-2k")),
    ("filler.patches", "stop", ("sound_paint", "fine-filler"), ("bare_filler", "fine-filler")),
    ("place.only", "stop", ("sound_paint", "chassis-black"), ("sound_paint", "alkyd-enamel")),
    ("peelable.covered", "stop", ("sound_paint", "gloss-peelable*6", "clear-coat-2k"),
     ("sound_paint", "gloss-peelable*6")),
    ("peelable.ground", "stop", ("fresh_paint", "wheel-peelable*4"), ("wheel_clear", "wheel-peelable*4")),
    ("peelable.ground", "stop", ("textured_plastic", "gloss-peelable*6"),
     ("plated_chrome", "gloss-peelable*6")),
    ("cure.first", "stop", ("fresh_paint", "plastic-ceramic"), ("sound_paint", "plastic-ceramic")),
    ("base.uncovered", "stop", ("sound_paint", "base-coat*2"),
     ("sound_paint", "base-coat*2", "clear-coat-2k")),
    ("recoat.silent", "stop", ("bare_steel", "epoxy-primer-2k", "gloss-peelable"),
     ("bare_steel", "epoxy-primer-2k", "urethane-surfacer-2k")),
    ("film.coats", "stop", ("black_rubber", "boot-sealant*4"), ("black_rubber", "boot-sealant*3")),
    ("film.coats", "stop", ("black_rubber", "boot-sealant*2"), ("black_rubber", "boot-sealant*3")),
)  # fmt: skip

SERVICE_CASES: tuple[tuple[str, str, str, tuple[str, ...], tuple[str, ...]], ...] = (
    ("primed.covered", "advise", "sun", ("bare_steel", "epoxy-primer-2k"),
     ("bare_steel", "epoxy-primer-2k", "textured-liner-2k")),
    ("exposure.no", "stop", "rain", ("vinyl", "vinyl-colour"), ("sound_paint", "single-stage-2k")),
    ("exposure.unsaid", "warn", "hydraulic", ("textured_plastic", "trim-clear"),
     ("sound_paint", "single-stage-2k")),
    ("service.hot", "stop", "heat_300", ("bare_steel", "caliper-enamel"), ("bare_steel", "heat-black")),
    ("acid.immersed", "stop", "immersion", ("bare_steel", "etch-aerosol"), ("bare_steel", "epoxy-barrier*4")),
    ("copper.ferrous", "warn", "immersion", ("cast_iron", "epoxy-barrier*3", "copper-epoxy*4"),
     ("gelcoat", "epoxy-barrier*3", "copper-epoxy*4")),
    ("copper.barrier", "stop", "immersion", ("cast_iron", "copper-epoxy*4"),
     ("cast_iron", "epoxy-barrier*3", "hard-antifouling*2")),
    ("antifouling.over_old", "stop", "immersion",
     ("glass_fibre", "copper-free-antifouling", "hard-antifouling"),
     ("glass_fibre", "copper-free-antifouling*2")),
    ("copper.metal", "stop", "immersion", ("bare_aluminium", "epoxy-barrier*2", "hard-antifouling*2"),
     ("bare_aluminium", "epoxy-barrier*2", "copper-free-antifouling*2")),
    ("immersion.rated", "stop", "immersion", ("gelcoat", "clear-coat-2k"),
     ("gelcoat", "epoxy-barrier*3", "copper-epoxy*4")),
    ("exposure.no", "stop", "fuel", ("sound_paint", "gloss-peelable*6"),
     ("sound_paint", "clear-coat-2k")),
    ("copper.metal", "stop", "immersion", ("bare_aluminium", "epoxy-barrier*3", "copper-epoxy*4"),
     ("gelcoat", "epoxy-barrier*3", "copper-epoxy*4")),
    ("copper.metal", "stop", "immersion", ("carbon_fibre", "hard-antifouling*2"),
     ("glass_fibre", "hard-antifouling*2")),
    ("copper.barrier", "stop", "immersion", ("epoxy_on_steel", "copper-epoxy*4"),
     ("epoxy_on_steel", "epoxy-barrier*3", "copper-epoxy*4")),
    ("antifouling.over_old", "stop", "immersion", ("old_hard_antifouling", "copper-epoxy*4"),
     ("old_hard_antifouling", "hard-antifouling*2")),
    ("antifouling.over_old", "stop", "immersion", ("old_antifouling", "hard-antifouling*2"),
     ("old_hard_antifouling", "hard-antifouling*2")),
)  # fmt: skip


class RulesTest(unittest.TestCase):
    def test_each_rule_speaks_on_the_mistake_and_is_silent_on_the_right_way(self) -> None:
        for rule_id, severity, wrong, right in CASES:
            with self.subTest(rule_id, wrong=wrong):
                self.assertIn(rule_id, ids(*wrong, severity=severity))
                self.assertNotIn(rule_id, ids(*right, severity=severity))
        for rule_id, severity, survives, wrong, right in SERVICE_CASES:
            with self.subTest(rule_id, wrong=wrong):
                self.assertIn(rule_id, ids(*wrong, survives=survives, severity=severity))
                self.assertNotIn(rule_id, ids(*right, survives=survives, severity=severity))

    def test_the_systems_of_the_trade_have_no_stop(self) -> None:
        for survives, *stack in (
            ("feet stones", "bare_steel", "epoxy-primer-2k", "textured-liner-2k*2"),
            ("sun rain", "bare_steel", "epoxy-primer-2k", "urethane-surfacer-2k*2", "base-coat*3",
             "clear-coat-2k*2"),
            ("immersion", "gelcoat", "epoxy-barrier*4", "copper-epoxy*5"),
            ("immersion", "gelcoat", "epoxy-barrier*4", "tie-coat", "hard-antifouling*3"),
            ("rain", "wheel_clear", "wheel-peelable*4"),
            ("stretch sun rain", "black_rubber", "boot-sealant"),
            ("sun rain", "woven_fabric", "fabric-protectant*3"),
            ("rain", "glass", "glass-coating*3"),
            ("", "vinyl", "vinyl-colour*3"),
            ("rain", "galvanised", "clear-anticorrosion*3"),
        ):  # fmt: skip
            self.assertEqual(ids(*stack, survives=survives), set(), stack)

    def test_film_outside_the_sheet_and_too_thin_to_peel(self) -> None:
        primer = S["epoxy-primer-2k"]
        thick = judge(Survey(substrate="sound_paint"), [StackLayer(sheet=primer, coats=1, target_um=150.0)])
        self.assertEqual({f.rule_id for f in thick}, {"film.per_coat"})
        thin = judge(
            Survey(substrate="wheel_clear"), [StackLayer(sheet=S["wheel-peelable"], coats=2, target_um=60.0)]
        )
        self.assertEqual({f.rule_id for f in thin}, {"film.peel"})

    def test_copper_on_aluminium_may_never_be_overruled_and_a_sheet_may_rate_a_metal(self) -> None:
        found = judge(
            Survey(substrate="bare_aluminium", must_survive=("immersion",)),
            [StackLayer(sheet=S["copper-epoxy"], coats=4)],
        )
        overrule = {f.rule_id: f.overrule for f in found}
        self.assertEqual((overrule["copper.metal"], overrule["bare_metal.rated"]), ("never", "sheet"))

    def test_rules_read_properties_never_names(self) -> None:
        for rule_id, severity, (ground, *names), _ in CASES:
            layers = []
            for name in names:
                key, _, n = name.partition("*")
                other = dataclasses.replace(S[key], material_id=f"x-{key}", name="A")
                layers.append(StackLayer(sheet=other, coats=int(n or other.coats_range[0])))
            found = {f.rule_id for f in judge(Survey(substrate=ground), layers) if f.severity == severity}
            self.assertIn(rule_id, found)

    def test_rules_are_prohibitions_more_exposure_never_frees_a_stack(self) -> None:
        for _, _, (ground, *names), _ in CASES:
            # Save that what is made for water or heat is for nothing else.
            bare = ids(ground, *names) - {"place.only"}
            for exposure in ("sun", "rain", "immersion", "fuel", "heat", "stretch"):
                self.assertLessEqual(bare, ids(ground, *names, survives=exposure))

    def test_every_rule_can_speak_and_says_what_why_and_instead(self) -> None:
        practices = tomllib.loads((Path(__file__).parent / "practices.toml").read_text(encoding="utf-8"))
        told = {x for p in practices["practice"] for m in p["mistakes"] for x in m["stops"]}
        told |= {x for w in practices["warning"] for x in w["says"]}
        silent = {r.id for r in RULES} - told - {c[0] for c in (*CASES, *SERVICE_CASES)}
        self.assertEqual(
            silent,
            {
                "film.per_coat",
                "film.peel",
                "bare_metal.clock",
                "bitumen.bleeds",
                "aircraft.unsaid",
                "features.unanswered",
                "under.unknown",
                "exhaust.missing",
                "isocyanate.kept_away",
                "isocyanate.nobody",
                "metals.dissimilar",
                "zinc.hot_stainless",
                "dents.left",
                "holes.large",
                "holes.open",
                "patch.large",
                "enclosed.sprayed",
                "plastic.wiped",
            },
        )
        alkyd = _like("clear-anticorrosion", resin="alkyd")
        tar = _like("clear-anticorrosion", bitumen=True)
        for ground, stack, survives, rule_id in (
            ("galvanised", (alkyd,), (), "galvanised.alkyd"),
            ("sound_paint", (tar, S["textured-liner-2k"]), (), "bitumen.bleeds"),
            ("bare_steel", (S["epoxy-primer-2k"],), (), "bare_metal.clock"),
            ("bare_steel", (S["epoxy-primer-2k"],), (), "edges.stripe"),
            ("epoxy_on_steel", (S["epoxy-barrier"],), ("immersion",), "edges.stripe_immersed"),
            ("stainless", (S["zinc-rich"],), (), "metals.dissimilar"),
            ("magnesium", (S["heat-aluminium"],), (), "metals.dissimilar"),
            ("stainless", (S["zinc-rich"],), ("heat_300",), "zinc.hot_stainless"),
        ):
            found = judge(
                Survey(substrate=ground, must_survive=tuple(survives)),
                [StackLayer(sheet=s, coats=1) for s in stack],
            )
            self.assertIn(rule_id, {f.rule_id for f in found})
            for f in found:
                self.assertTrue(f.what and f.why and f.instead, f)

    def test_what_nobody_answered_is_a_stop_that_asks_and_a_no_is_a_stop(self) -> None:
        """Everything that is never overruled and asks, in a shop that answered nothing, said no, said yes."""
        asks = {
            "isocyanate.air_fed": ("air_fed", "sound_paint", (), "single-stage-2k"),
            "ignition.vapour": ("spark_free", "sound_paint", (), "single-stage-2k"),
            "biocide.release": ("capture", "old_hard_antifouling", (), "hard-antifouling"),
            "enclosed.permit": ("permit", "gelcoat", ("enclosed",), "epoxy-barrier"),
            "structure.repair": ("licensed", "rusty_steel", ("structural",), "rust-encapsulator"),
            "radar.cover": ("maker_allows", "sound_paint", ("radar",), "single-stage-2k"),
            "restraint.cover": ("maker_allows", "vinyl", ("restraint",), "vinyl-colour"),
            "aircraft.control_surface": ("signatory", "sound_paint", ("control_surface",), "alkyd-enamel"),
            "aircraft.ports": ("signatory", "sound_paint", ("ports",), "alkyd-enamel"),
            "aircraft.radome": ("signatory", "sound_paint", ("radome",), "alkyd-enamel"),
            "aircraft.composite": ("signatory", "gelcoat", ("composite_skin",), "single-stage-2k"),
            "aircraft.whole": ("signatory", "sound_paint", ("whole_aircraft",), "alkyd-enamel"),
            "aircraft.cabin": ("burn_evidence", "vinyl", ("cabin",), "vinyl-colour"),
        }
        never = {r.id for r in RULES if r.asks}
        self.assertEqual(never - {*asks}, {"features.unanswered", "under.unknown"})
        for rule_id, (fact, ground, features, name) in asks.items():
            layer = [StackLayer(sheet=S[name], coats=S[name].coats_range[0])]
            at = Survey(substrate=ground, features=features, dark=True, has=())
            for survey, wanted in (
                (at, [fact]),
                (dataclasses.replace(at, hasnt=(fact,)), [""]),
                (dataclasses.replace(at, has=(fact,)), []),
                # One answer is no answer to another question.
                (dataclasses.replace(at, has=tuple(f for f in FACTS if f != fact)), [fact]),
            ):
                told = [f.asks for f in judge(survey, layer) if f.rule_id == rule_id]
                self.assertEqual(told, wanted, (rule_id, survey))
        under = Survey(substrate="old_hard_antifouling", must_survive=("immersion",), has=("capture",))
        layer = [StackLayer(sheet=S["hard-antifouling"], coats=2)]
        self.assertIn("under.unknown", {f.rule_id for f in judge(under, layer)})
        said = dataclasses.replace(under, features=("under_steel",))
        self.assertNotIn("under.unknown", {f.rule_id for f in judge(said, layer)})
        for craft, features, asked in (
            ("aircraft", (), True),
            ("road", (), False),
            ("vessel", ("none",), False),
        ):
            at = Survey(substrate="sound_paint", features=features, craft=craft, has=())
            told = {f.rule_id for f in judge(at, [StackLayer(sheet=S["alkyd-enamel"], coats=2)])}
            self.assertEqual("features.unanswered" in told, asked, craft)
            self.assertEqual("aircraft.unsaid" in told, craft == "aircraft")
        iso = [StackLayer(sheet=S["single-stage-2k"], coats=2)]
        away = Survey(substrate="sound_paint", kept_away=("Ines",))
        told = [f for f in judge(away, iso) if f.rule_id == "isocyanate.kept_away"]
        self.assertIn("Ines", told[0].what)
        alone = dataclasses.replace(away, nobody_left=True)
        stops = {f.rule_id: f.overrule for f in judge(alone, iso) if f.severity == "stop"}
        self.assertEqual(stops.get("isocyanate.nobody"), "never")
        dent = Survey(substrate="sound_paint", features=("dents",))
        filled = [StackLayer(sheet=S[n], coats=1) for n in ("polyester-filler", "single-stage-2k")]
        cloth = [StackLayer(sheet=S[n], coats=1) for n in ("rust-encapsulator", "cloth-laminate")]
        for hole_mm, told_of in ((30.0, False), (80.0, True)):
            hole = Survey(substrate="rusty_steel", features=("holes",), hole_mm=hole_mm)
            self.assertEqual("holes.large" in {f.rule_id for f in judge(hole, cloth)}, told_of)
        for stack, told_of in ((iso, True), (filled, False)):
            self.assertEqual("dents.left" in {f.rule_id for f in judge(dent, stack)}, told_of)
        flies = Survey(substrate="sound_paint", features=("ports",), has=("signatory",), hasnt=("exhaust",))
        told = {f.rule_id for f in judge(flies, [StackLayer(sheet=S["single-stage-2k"], coats=2)])}
        self.assertLessEqual({"aircraft.unsaid", "exhaust.missing"}, told)

    def test_every_substrate_is_judged(self) -> None:
        for ground in SUBSTRATES:
            judge(
                Survey(substrate=ground, must_survive=("sun",)),
                [StackLayer(sheet=s, coats=1) for s in list(S.values())[:4]],
            )


def _like(name: str, **properties: object) -> Sheet:
    sheet = S[name]
    return dataclasses.replace(sheet, properties=dataclasses.replace(sheet.properties, **properties))
