"""Advice that would harm: metals, holes, structure, closed spaces, acrylic, wheels, airbags.

Common practice, no published source.  Each was offered, or passed in silence, before it stood here.
"""

from __future__ import annotations

import unittest

from coatlog.core.stack.builder import suggest
from coatlog.core.stack.preps import PREPS
from coatlog.core.stack.rules import FACTS, StackLayer, Survey, judge
from coatlog.core.stack.step_catalogue import Done
from coatlog.core.stack.step_sequence import SOLVENT_STEPS, first, usual_layer, with_steps
from coatlog.core.stack.surfaces import FERROUS, RUSTS, SUBSTRATES

from .test_stack import S

SHELF = tuple(S.values())
ALL = tuple(FACTS)


def said(ground: str, *names: str, found: str = "", **what: object) -> dict[str, str]:
    """Rule and severity of what is said of a stack with the steps it is given."""
    survey = Survey(substrate=ground, found=found, **what)  # type: ignore[arg-type]
    layers = with_steps(survey, (), [usual_layer(S[n]) for n in names])
    return {f.rule_id: f.severity for f in judge(survey, layers)}


class MetalsTest(unittest.TestCase):
    #: of each bare metal: may metallic copper lie over a barrier on it under water, does it need one, does
    #: it oxidise within hours, is it eaten by acid gel, does steel grit spoil it
    METALS: dict[str, tuple[str, bool, bool, bool, bool]] = {
        "steel": ("warn", True, True, False, False),
        "iron": ("warn", True, True, False, False),
        "aluminium": ("stop", False, True, True, True),
        "zinc": ("stop", False, False, True, False),
        "magnesium": ("stop", False, False, True, True),
        "stainless": ("", False, False, False, True),
        "bronze": ("", False, False, False, False),
        "titanium": ("", False, False, False, False),
        "chrome": ("", False, False, False, False),
    }

    def test_every_metal_against_every_rule_that_names_one(self) -> None:
        self.assertEqual({s.metal for s in SUBSTRATES.values()} - {""}, self.METALS.keys())
        for ground in (s for s in SUBSTRATES.values() if s.metal and not s.waste):
            copper, barrier, clock, gel, grit = self.METALS[ground.metal]
            with self.subTest(ground.id):
                on = said(ground.id, "epoxy-barrier", "copper-epoxy", must_survive=("immersion",))
                self.assertEqual(on.get("copper.metal") or on.get("copper.ferrous") or "", copper)
                bare = said(ground.id, "copper-epoxy", must_survive=("immersion",))
                self.assertEqual("copper.barrier" in bare, barrier)
                self.assertEqual("bare_metal.clock" in on, clock and not ground.rust)
                striped = [d.step for d in first(Survey(substrate=ground.id, must_survive=("immersion",)), (),
                                                 usual_layer(S["epoxy-barrier"])).before or ()]  # fmt: skip
                self.assertEqual("stripe" in striped, ground.metal in FERROUS)
                for step, rule_id, harmed in (
                    ("rust_gel", "acid.metal", gel),
                    ("steel_grit", "steel.on_light", grit),
                ):
                    layer = StackLayer(
                        sheet=S["epoxy-primer-2k"], coats=1, before=(Done("degrease"), Done(step))
                    )
                    told = {f.rule_id for f in judge(Survey(substrate=ground.id), [layer])}
                    self.assertEqual(rule_id in told, harmed, step)
        self.assertEqual(RUSTS, (*FERROUS, "aluminium"))

    def test_metallic_copper_is_not_the_first_offer_on_iron(self) -> None:
        for ground in ("cast_iron", "bare_steel", "blasted_steel", "epoxy_on_steel"):
            keel = Survey(substrate=ground, must_survive=("immersion",), features=("none",), has=ALL)
            offers = suggest(keel, SHELF, ("antifouling",)).best
            self.assertTrue(offers, ground)
            self.assertNotIn("copper-epoxy", [x.sheet.material_id for x in offers[0].layers], ground)


class HolesAndStructureTest(unittest.TestCase):
    def test_no_preparation_silences_the_structural_stop(self) -> None:
        """Gelled, ground or blasted bright: it was rust that bore a load."""
        for prep in (p for p in PREPS if "rusty_steel" in p.froms):
            survey = Survey(substrate="rusty_steel", features=("structural",), has=()).prepared_to(prep.to)
            told = {f.rule_id: f for f in judge(survey, [usual_layer(S["epoxy-primer-2k"])])}
            self.assertEqual(told["structure.repair"].overrule, "never", prep.id)
            self.assertIn("before and after blasting", told["structure.repair"].why)
        sound = judge(Survey(substrate="bare_steel", features=("structural",), has=()), [
            usual_layer(S["epoxy-primer-2k"])])  # fmt: skip
        self.assertNotIn("structure.repair", {f.rule_id for f in sound})

    def test_a_hole_is_closed_whatever_is_wished_and_however_it_is_prepared(self) -> None:
        for ground in ("rusty_steel", "blasted_steel", "bare_steel", "sound_paint", "bare_aluminium"):
            for wish in (("seals",), ("colour",), ("primed",)):
                survey = Survey(substrate=ground, must_survive=("rain",), features=("holes",), has=ALL)
                for offer in suggest(survey, SHELF, wish).best:
                    at = survey.prepared_to(offer.path[-1].to) if offer.path else survey
                    layers = with_steps(at, offer.path, offer.layers)
                    closes = any(d.step == "patch_hole" for x in layers for d in x.before or ())
                    names = [x.sheet.material_id for x in layers]
                    self.assertTrue(closes, (ground, wish, names))
        self.assertEqual(
            said("bare_steel", "clear-anticorrosion", features=("holes",)).get("holes.open"), "warn"
        )
        closed = said("rusty_steel", "rust-encapsulator", "cloth-laminate", features=("holes",))
        self.assertNotIn("holes.open", closed)

    def test_a_bare_patch_over_the_limit_of_a_direct_coat_stops(self) -> None:
        self.assertEqual(said("sound_paint", "urethane-dtm", bare_mm=80.0).get("patch.large"), "stop")
        self.assertNotIn("patch.large", said("sound_paint", "urethane-dtm", bare_mm=40.0))

    def test_a_closed_space_is_brushed_before_it_is_sprayed(self) -> None:
        self.assertEqual(
            said("bare_steel", "epoxy-primer-2k", features=("enclosed",)).get("enclosed.sprayed"), "warn"
        )
        self.assertNotIn("enclosed.sprayed", said("bare_steel", "epoxy-barrier", features=("enclosed",)))
        bilge = Survey(substrate="bare_steel", features=("enclosed",), must_survive=("rain",), has=ALL)
        best = suggest(bilge, SHELF, ("seals",)).best[0]
        self.assertNotIn(best.layers[0].sheet.method_id, ("spray_gun", "liner_gun", "aerosol"))

    def test_a_control_surface_is_weighed_and_balanced_after(self) -> None:
        from coatlog.core.stack.step_sequence import step_sequence

        survey = Survey(substrate="sound_paint", features=("control_surface",))
        layers = with_steps(survey, (), [usual_layer(S["single-stage-2k"])])
        works = step_sequence(survey, (), layers)
        last = next(w for w in works if w.step == "balance")
        self.assertTrue(last.must)
        self.assertGreater(works.index(last), max(i for i, w in enumerate(works) if w.step == "coat"))
        kept = next(
            w for w in step_sequence(survey, (), [usual_layer(S["clear-coat-2k"])]) if w.step == "coat"
        )
        self.assertTrue(any("dry tonight" in c for c in kept.cautions))


class InsideTest(unittest.TestCase):
    def test_acrylic_is_washed_never_wiped_with_solvent(self) -> None:
        for step in SOLVENT_STEPS:
            layer = StackLayer(sheet=S["lens-clear"], coats=1, before=(Done(step), Done("abrade", 1000)))
            told = {f.rule_id for f in judge(Survey(substrate="acrylic"), [layer])}
            self.assertIn("plastic.wiped", told, step)
        for name, sheet in S.items():
            if "acrylic" not in sheet.grounds:
                continue
            layer = first(Survey(substrate="acrylic"), (), usual_layer(sheet))
            self.assertFalse({d.step for d in layer.before or ()} & {*SOLVENT_STEPS}, name)
            told = {f.rule_id for f in judge(Survey(substrate="acrylic"), [layer]) if f.severity == "stop"}
            self.assertEqual(
                told & {"plastic.wiped", "order.needs", "degrease.before", "degrease.after"}, set(), name
            )

    def test_a_steering_wheel_that_gets_slippery_is_told(self) -> None:
        for ground in ("leather", "vinyl", "interior_plastic"):
            self.assertEqual(
                said(ground, "vinyl-colour", features=("grip",)).get("grip.lowered"), "warn", ground
            )
            self.assertNotIn("grip.lowered", said(ground, "vinyl-colour", features=("none",)))

    def test_whether_an_airbag_is_behind_it_has_to_be_answered(self) -> None:
        for ground in ("interior_plastic", "vinyl", "leather"):
            asked = judge(Survey(substrate=ground, has=ALL), [usual_layer(S["vinyl-colour"])])
            stop = next(f for f in asked if f.rule_id == "features.unanswered")
            self.assertEqual((stop.severity, stop.asks, stop.overrule), ("stop", "features", "never"))
            answered = judge(
                Survey(substrate=ground, has=ALL, features=("none",)), [usual_layer(S["vinyl-colour"])]
            )
            self.assertNotIn("features.unanswered", {f.rule_id for f in answered})
