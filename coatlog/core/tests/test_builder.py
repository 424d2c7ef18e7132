"""The builder against enumeration of everything, and laws any of its answers must keep."""

from __future__ import annotations

import dataclasses
import random
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from coatlog.core.area import area_of
from coatlog.core.sheet import FINISHES, Sheet
from coatlog.core.stack.builder import Needs, gives, legal_stacks, suggest
from coatlog.core.stack.quick_looks import CHECKS
from coatlog.core.stack.rules import Survey, judge
from coatlog.core.stack.surfaces import EXPOSURES, FEATURES, HEATS, SUBSTRATES
from coatlog.core.stack.templates import TEMPLATES

from .enumerated import every_stack, seeded_shelf
from .test_stack import S

SHELF = tuple(S.values())
#: exposures that make it another place, which other materials are for
PLACING = ("immersion", "fuel_bath", *HEATS)
YEAR_S = 365 * 86400
surveys = st.builds(
    Survey,
    substrate=st.sampled_from(sorted(SUBSTRATES)),
    must_survive=st.lists(st.sampled_from(sorted(EXPOSURES)), unique=True, max_size=3).map(tuple),
    features=st.lists(st.sampled_from(sorted(FEATURES)), unique=True, max_size=1).map(tuple),
    has=st.sampled_from([None, (), ("air_fed",), ("air_fed", "signatory", "maker_allows")]),
    hasnt=st.sampled_from([(), ("permit", "licensed", "capture", "spark_free")]),
)
finishes = st.sampled_from(sorted(FINISHES)).map(lambda x: (x,))


def keys(survey: Survey, shelf: tuple[Sheet, ...], wanted: tuple[str, ...]) -> set[tuple[str, ...]]:
    return {
        (*(p.id for p in path), *(x.sheet.material_id for x in layers))
        for path, layers in legal_stacks(survey, shelf, wanted)
    }


class BuilderTest(unittest.TestCase):
    def test_search_finds_what_enumeration_of_everything_finds(self) -> None:
        met = 0
        for seed in range(40):
            shelf, survey, wanted = seeded_shelf(seed, SHELF)
            found = keys(survey, shelf, wanted)
            self.assertEqual(found, every_stack(survey, shelf, wanted), (seed, survey, wanted))
            met += bool(found)
        self.assertGreater(met, 12)

    @settings(deadline=None, max_examples=40)
    @given(surveys, finishes)
    def test_what_is_offered_passes_the_rules_and_gives_what_was_asked(
        self, survey: Survey, wanted: tuple[str, ...]
    ) -> None:
        answer = suggest(survey, SHELF, wanted)
        for c in answer.best:
            ground = c.path[-1].to if c.path else survey.substrate
            told = judge(replace(survey, substrate=ground), c.layers)
            self.assertFalse([f.rule_id for f in told if f.severity == "stop" and not f.asks])
            self.assertLessEqual(set(wanted), gives(c.layers))
            self.assertEqual(c.findings, told)
        self.assertEqual(bool(answer.missing), not answer.best)
        scores = [c.score for c in answer.best]
        self.assertEqual(scores, sorted(scores))

    @settings(deadline=None, max_examples=25)
    @given(surveys, st.sampled_from(sorted({*EXPOSURES} - {*PLACING})), st.integers(0, 10_000))
    def test_one_more_thing_to_survive_never_frees_a_stack(
        self, survey: Survey, more: str, seed: int
    ) -> None:
        shelf, _, wanted = seeded_shelf(seed, SHELF)
        harder = replace(survey, must_survive=tuple(dict.fromkeys((*survey.must_survive, more))))
        for path, layers in list(legal_stacks(harder, shelf, wanted))[:20]:
            ground = path[-1].to if path else survey.substrate
            told = judge(replace(survey, substrate=ground), layers)
            self.assertFalse([f.rule_id for f in told if f.severity == "stop" and not f.asks])

    def test_taking_a_material_away_changes_the_answer_or_says_what_is_missing(self) -> None:
        survey = Survey(substrate="bare_steel", must_survive=("sun", "rain"))
        first = suggest(survey, SHELF, ("colour", "gloss"))
        for gone in {x.sheet.material_id for c in first.best[:1] for x in c.layers}:
            rest = tuple(s for s in SHELF if s.material_id != gone)
            again = suggest(survey, rest, ("colour", "gloss"))
            self.assertNotEqual([c.key for c in again.best], [c.key for c in first.best])
        boots = suggest(
            Survey(substrate="black_rubber"),
            [s for s in SHELF if "boot" not in s.properties.gives],
            ("boot",),
        )
        self.assertEqual((boots.best, boots.missing), ((), "No material you have gives boot."))

    def test_names_do_not_matter_and_a_twin_is_judged_alike(self) -> None:
        survey = Survey(substrate="rusty_steel", must_survive=("stones", "rain"))
        rng = random.Random(5)
        shelf = (*rng.sample(SHELF, 20), S["epoxy-primer-2k"], S["textured-liner-2k"])
        shelf = tuple({s.material_id: s for s in shelf}.values())
        renamed = tuple(
            dataclasses.replace(s, name=f"Tin {i}", kind="?", material_id=f"tin-{i}")
            for i, s in enumerate(shelf)
        )
        back = {r.material_id: s.material_id for r, s in zip(renamed, shelf, strict=True)}
        turned = {tuple(back.get(k, k) for k in key) for key in keys(survey, renamed, ("texture",))}
        self.assertEqual(turned, keys(survey, shelf, ("texture",)))
        twin = dataclasses.replace(S["epoxy-primer-2k"], id="twin", material_id="twin", name="Twin")
        both = keys(survey, (*shelf, twin), ("texture",))
        swapped = {tuple("twin" if k == "epoxy-primer-2k" else k for k in key) for key in both}
        alone = {k for k in both if "twin" not in k and "epoxy-primer-2k" in k}
        self.assertTrue(alone)
        for key in alone:
            self.assertIn(tuple("twin" if k == "epoxy-primer-2k" else k for k in key), both)
        self.assertTrue(swapped)

    def test_own_record_counts_for_more_than_a_claim(self) -> None:
        survey = Survey(substrate="glossy_paint", must_survive=("sun",))
        claimed = suggest(survey, SHELF, ("colour", "reversible"))
        worst = claimed.best[0].layers[-1].sheet.material_id
        lived = suggest(survey, SHELF, ("colour", "reversible"), record={worst: 30 * 86400})
        self.assertNotEqual(lived.best[0].layers[-1].sheet.material_id, worst)
        told = [c for c in lived.best if c.layers[-1].sheet.material_id == worst]
        self.assertTrue(all(c.lived and c.life_s == 30 * 86400 for c in told))

    def test_what_must_last_or_be_ready_soon_comes_before_what_does_not(self) -> None:
        survey = Survey(substrate="rusty_steel", must_survive=("stones", "rain"))
        needs = Needs(life_s=3 * YEAR_S, ready_s=2 * 86400)
        for c in suggest(survey, SHELF, ("colour",), needs=needs).best:
            self.assertEqual(c.misses, ())
            self.assertGreaterEqual(c.life_s or 0, 3 * YEAR_S)
            self.assertLessEqual(c.ready_s, 2 * 86400)
        # Where nothing can be, the nearest are shown and say what they miss.
        never = suggest(survey, SHELF, ("colour",), needs=Needs(ready_s=60)).best
        self.assertTrue(never and all(c.misses == ("time",) for c in never))

    def test_stripping_leads_to_what_lies_under_and_copper_keeps_off_aluminium(self) -> None:
        """Copper in water eats aluminium, and bare steel: common practice, no published source."""
        for under, ground in (
            ("aluminium", "epoxy_on_aluminium"),
            ("steel", "epoxy_on_steel"),
            ("wood", "wood"),
        ):
            survey = Survey(
                substrate="old_antifouling", must_survive=("immersion",), features=(f"under_{under}",)
            )
            legal = list(legal_stacks(survey, SHELF, ("antifouling",)))
            self.assertTrue(legal, under)
            self.assertLessEqual({path[-1].to for path, _ in legal if path}, {ground})
            for _, layers in legal:
                metals = [x.sheet.properties.metal for x in layers]
                barriers = [x.sheet.properties.barrier for x in layers]
                if under == "aluminium":
                    self.assertNotIn("copper", metals)
                if under == "steel" and "copper" in metals:
                    self.assertIn(True, barriers[: metals.index("copper")])

    def test_nobody_gets_grip_or_texture_who_did_not_ask(self) -> None:
        best = suggest(Survey(substrate="bare_steel", must_survive=("rain",)), SHELF, ("colour",)).best
        self.assertFalse({"grip", "texture", "antifouling"} & {*best[0].gives})

    def test_nobody_brushes_a_bonnet_who_has_a_can(self) -> None:
        """Common practice, no published source: gloss on a car is sprayed, on a boat brushed and tipped."""

        def first(craft: str, *wanted: str) -> str:
            survey = Survey(
                substrate="sound_paint",
                must_survive=("sun", "rain", "stones"),
                features=("none",),
                has=("spark_free",),
                hasnt=("spray_gun", "liner_gun"),
                craft=craft,
            )
            return suggest(survey, SHELF, wanted).best[0].top

        self.assertEqual(first("road", "colour", "gloss"), "colour-aerosol")
        self.assertEqual(first("aircraft", "colour", "gloss"), "colour-aerosol")
        self.assertEqual(first("vessel", "colour", "gloss"), "alkyd-enamel")

    def test_every_usual_thing_has_a_stack_on_the_typical_shelf(self) -> None:
        for t in TEMPLATES:
            with self.subTest(t.id):
                for p in t.parts:
                    survives = t.survives if p.survives is None else p.survives
                    features = t.features if p.features is None else p.features
                    survey = Survey(
                        substrate=p.substrate or t.substrate, must_survive=survives, features=features
                    )
                    self.assertTrue(suggest(survey, SHELF, p.wanted or t.wanted).best, p.name)
                    self.assertLessEqual({*survives}, {*EXPOSURES})
                    self.assertAlmostEqual(sum(p.faces.values()), p.area_m2, places=6)
                    if p.shape:
                        measured = area_of(p.shape, p.measures).value
                        self.assertAlmostEqual(measured, p.area_m2, delta=0.01 * p.area_m2, msg=p.name)

    def test_who_has_cans_and_brushes_alone_has_a_stack_for_every_usual_thing_but_cloth(self) -> None:
        """Common practice, no published source: dope is sprayed; chips are filled and primed from a can."""
        for t in TEMPLATES:
            for p in t.parts:
                survey = Survey(
                    substrate=p.substrate or t.substrate,
                    must_survive=t.survives if p.survives is None else p.survives,
                    features=(*(t.features if p.features is None else p.features), "none"),
                    has=("spark_free", "exhaust", "signatory", "capture"),
                    hasnt=("spray_gun", "liner_gun", "air_fed"),
                    craft="road" if t.kind == "any" else t.kind,
                )
                best = suggest(survey, SHELF, p.wanted or t.wanted).best
                self.assertEqual(not best, survey.substrate == "aircraft_cloth", (t.id, p.name))
                if t.id == "bonnet_chips":
                    self.assertEqual(
                        best[0].key[-3:], ("polyester-filler", "primer-aerosol", "colour-aerosol")
                    )

    def test_every_quick_look_leads_to_a_surface_there_is(self) -> None:
        for check in CHECKS:
            self.assertTrue([a for a in check.answers if a.to], check.id)
            for a in check.answers:
                self.assertLessEqual({a.to, *a.only} - {""}, {*SUBSTRATES})
                for known in a.only:
                    self.assertIn(SUBSTRATES[known].group, check.groups)
