"""Laws of vouching: what a warrant carries falls with it, silence carries nothing, every answer counts."""

from __future__ import annotations

import itertools
import unittest
from dataclasses import replace

from coatlog.core.sheet import Sheet
from coatlog.core.stack.builder import legal_stacks, suggest
from coatlog.core.stack.preps import PREPS
from coatlog.core.stack.rules import FACTS, StackLayer, Survey, judge
from coatlog.core.stack.step_sequence import usual_layer
from coatlog.core.stack.surfaces import EXPOSURES, FEATURES, SUBSTRATES
from coatlog.core.stack.warrants import Stack, warrants

from .test_stack import S

SHELF = tuple(S.values())
#: dull everyday questions: ground, wish, exposures, features
QUESTIONS: tuple[tuple[str, tuple[str, ...], tuple[str, ...], tuple[str, ...]], ...] = (
    ("bare_steel", ("colour", "gloss"), ("sun", "rain"), ()),
    ("sound_paint", ("colour",), ("sun", "rain"), ()),
    ("rusty_steel", ("colour",), ("rain", "stones"), ("underside",)),
    ("gelcoat", ("antifouling",), ("immersion",), ()),
    ("wheel_clear", ("reversible",), ("rain", "stones"), ("clamping",)),
    ("textured_plastic", ("colour",), ("sun",), ()),
    ("wood", ("clear",), ("sun", "rain"), ()),
)
Keys = set[tuple[str, ...]]


def keys(survey: Survey, shelf: tuple[Sheet, ...], wanted: tuple[str, ...]) -> Keys:
    return {
        (*(p.id for p in path), *(x.sheet.material_id for x in layers))
        for path, layers in legal_stacks(survey, shelf, wanted)
    }


def said_of(survey: Survey, sheets: tuple[Sheet, ...]) -> set[tuple[str, str, int]]:
    told = judge(survey, [usual_layer(s) for s in sheets])
    return {(f.rule_id, f.severity, f.position) for f in told}


class WarrantLawsTest(unittest.TestCase):
    def test_a_warrant_taken_away_takes_exactly_the_stacks_that_needed_it(self) -> None:
        """The ground: the sheet no longer names it.  A join: neither names the other any more."""
        for ground, wanted, survives, features in QUESTIONS:
            survey = Survey(substrate=ground, must_survive=survives, features=features)
            before = keys(survey, SHELF, wanted)
            for top in suggest(survey, SHELF, wanted).best:
                at, first = (top.path[-1].to if top.path else ground), top.layers[0].sheet
                assert first.purpose is not None
                named = tuple(g for g in first.purpose.goes_on if g not in (at, *SUBSTRATES[at].like))
                over = tuple(f for f in first.purpose.over if f != SUBSTRATES[at].coat)
                mute = replace(first, purpose=replace(first.purpose, goes_on=named, over=over))
                shelf = tuple(mute if s.material_id == first.material_id else s for s in SHELF)
                gone = before - keys(survey, shelf, wanted)
                self.assertIn(top.key, gone)
                for key in gone:
                    self.assertEqual(next(k for k in key if k in S), first.material_id, (ground, key))
                for a, b in itertools.pairwise(x.sheet for x in top.layers):
                    shelf = tuple(_unnamed(s, a, b) for s in SHELF)
                    gone = before - keys(survey, shelf, wanted)
                    self.assertIn(top.key, gone)
                    for key in gone:
                        chain = [S[k] for k in key if k in S]
                        parted = [
                            (x, y)
                            for x, y in itertools.pairwise(chain)
                            if x.properties.family == a.properties.family
                            and y.properties.family == b.properties.family
                        ]
                        self.assertTrue(parted, (ground, key))

    def test_a_material_that_vouches_for_nothing_changes_no_answer(self) -> None:
        for name in ("epoxy-primer-2k", "single-stage-2k", "trim-dye", "hard-antifouling", "varnish"):
            blank = replace(S[name].properties, rated_for=(), made_for=(), family="unheard_of")
            mute = replace(S[name], material_id="mute", id="mute", purpose=None, recoat=(), properties=blank)
            for ground, wanted, survives, features in QUESTIONS:
                survey = Survey(substrate=ground, must_survive=survives, features=features)
                with_it = suggest(survey, (*SHELF, mute), wanted)
                self.assertEqual(
                    [c.key for c in with_it.best], [c.key for c in suggest(survey, SHELF, wanted).best]
                )
                # It can still be put there; somebody has to say why.
                told = [f for f in judge(survey, [usual_layer(mute)]) if f.severity == "stop"]
                self.assertTrue(told, (name, ground))

    def test_every_answer_changes_something(self) -> None:
        """Each exposure, feature and fact of a shop changes what is said of some material somewhere."""
        tried = [(g, (s,)) for g in SUBSTRATES for s in SHELF[::3]]
        tried += [("sound_paint", (s,)) for s in SHELF]

        def changes(plain: Survey, other: Survey) -> bool:
            return any(
                said_of(replace(plain, substrate=g), sheets) != said_of(replace(other, substrate=g), sheets)
                for g, sheets in tried
            )

        plain = Survey(substrate="sound_paint", has=())
        for exposure in EXPOSURES:
            self.assertTrue(changes(plain, replace(plain, must_survive=(exposure,))), exposure)
        for fact in {*FACTS} - {"blast", "permit", "licensed", "maker_allows", "burn_evidence", "signatory"}:
            self.assertTrue(changes(replace(plain, has=(fact,)), replace(plain, hasnt=(fact,))), fact)
        # Said with the step, or asked only where it is met: what these change is looked for there.
        met = {"under_wood", "under_laminate", "under_steel", "under_aluminium", "thin_sheet", "hard_bolts"}
        met |= {"none", "faded", "gear_masked", "clamping", "composite_skin", "radome", "control_surface"}
        for feature in {*FEATURES} - met:
            self.assertTrue(changes(plain, replace(plain, features=(feature,))), feature)

    def test_each_metal_is_judged_and_none_is_taken_for_another(self) -> None:
        metals = {s.id: s.metal for s in SUBSTRATES.values() if s.metal and not s.waste and not s.glossy}
        for ground, metal in metals.items():
            firsts = {
                s.material_id
                for s in SHELF
                if not any(
                    f.severity == "stop" and f.rule_id == "bare_metal.rated"
                    for f in judge(Survey(substrate=ground), [usual_layer(s)])
                )
            }
            self.assertTrue(firsts, ground)
            for s in SHELF:
                if s.material_id in firsts:
                    assert s.purpose is not None
                    named = {SUBSTRATES[g].metal for g in s.purpose.goes_on}
                    self.assertIn(metal, named, (ground, s.material_id))

    def test_both_sheets_one_or_none(self) -> None:
        survey = Survey(substrate="bare_steel", must_survive=("sun", "dunking"))
        names = ("epoxy-primer-2k", "single-stage-2k", "wheel-ceramic")
        stack = Stack(survey, [StackLayer(sheet=S[n], coats=1) for n in names])
        told = [(w.position, w.about, w.standing) for w in warrants(stack)]
        self.assertEqual(
            told,
            [
                (0, "ground", "vouched"),
                (1, "join", "vouched"),
                (2, "join", "accepted"),
                (2, "sun", "vouched"),
                (2, "dunking", "unsaid"),
            ],
        )


def _unnamed(sheet: Sheet, lower: Sheet, upper: Sheet) -> Sheet:
    """The sheet as it were if the families of these two did not name each other."""
    low, up = lower.properties.family, upper.properties.family
    assert sheet.purpose is not None
    if sheet.properties.family == low:
        sheet = replace(sheet, recoat=tuple(r for r in sheet.recoat if r.next != f"family:{up}"))
    if sheet.properties.family == up and sheet.purpose is not None:
        over = tuple(x for x in sheet.purpose.over if x.split(":")[0] != low)
        sheet = replace(sheet, purpose=replace(sheet.purpose, over=over))
    return sheet


class OwnStepsTest(unittest.TestCase):
    """The steps the program lays down itself pass its own rules, and the trade's.  Common practice."""

    def test_a_spot_of_etch_does_not_set_the_key_of_the_whole_part(self) -> None:
        survey = Survey(substrate="sound_paint", bare_mm=20.0)
        for path, layers in legal_stacks(survey, SHELF, ("texture",)):
            if [x.sheet.material_id for x in layers] == ["etch-aerosol", "textured-liner-2k"]:
                grits = {d.grit for d in layers[0].before or () if d.step == "abrade"}
                self.assertEqual((path, grits), ((), {80}))
                return
        self.fail("etch on a spot under a liner is not offered")

    def test_every_preparation_can_be_followed_by_a_coat(self) -> None:
        shut = []
        for prep in PREPS:
            # Where two ways lead to the same surface, the other one is for what the first may not touch.
            barred = ("hard_bolts",) if prep.id == "grind" else ()
            survey = Survey(substrate=prep.froms[0], features=(*prep.only, *barred))
            ways = [
                1
                for wish in ("colour", "primed", "seals", "antifouling", "boot", "clear", "repels")
                for s in (survey, replace(survey, must_survive=("immersion",)))
                for path, _ in legal_stacks(s, SHELF, (wish,))
                if path and path[-1].id == prep.id
            ]
            if not ways:
                shut.append(prep.id)
        self.assertEqual(shut, [])
