"""No offer a foreman would laugh at, on any surface, for any wish, in any usual place; see absurd.toml."""

from __future__ import annotations

import itertools
import random
import tomllib
import unittest
from collections.abc import Iterator, Sequence
from pathlib import Path
from types import SimpleNamespace
from typing import Any, ClassVar

from coatlog.core.sheet import FINISHES, Sheet
from coatlog.core.stack.builder import Candidate, suggest
from coatlog.core.stack.findings import RULES
from coatlog.core.stack.preps import PREPS
from coatlog.core.stack.rules import Survey, preparation
from coatlog.core.stack.step_sequence import step_sequence
from coatlog.core.stack.surfaces import SUBSTRATES

from .test_stack import S

SHELF = tuple(S.values())
_TEXT = (Path(__file__).parent / "absurd.toml").read_text(encoding="utf-8")
ABSURD: list[dict[str, Any]] = tomllib.loads(_TEXT)["absurd"]
#: (exposures, features) a part is usually found with
PLACES: tuple[tuple[tuple[str, ...], tuple[str, ...]], ...] = (
    ((), ()),
    (("sun", "rain"), ()),
    (("stones", "rain"), ("underside",)),
    (("immersion",), ()),
    (("heat_300",), ()),
)
WISHES: tuple[tuple[str, ...], ...] = (*((w,) for w in FINISHES if w != "gloss"), ("colour", "gloss"))


def called(sheet: Sheet, word: str) -> bool:
    """Whether a word of the table says this material: a family, "role:x", copper, chassis, film, hides, *."""
    p, purpose = sheet.properties, sheet.purpose
    assert purpose is not None, sheet.name
    if word.startswith("!"):
        return not called(sheet, word[1:])
    return (
        word in ("*", p.family, f"role:{purpose.role}")
        or (word == "copper" and p.metal == "copper")
        or (word == "chassis" and purpose.used_on == ("underside",) and p.family == "enamel")
        or (word == "film" and sheet.build == "film")
        or (word == "hides" and not purpose.shows_ground)
    )


def any_called(sheets: Sequence[Sheet], words: Sequence[str]) -> bool:
    return any(called(s, w) for s in sheets for w in words)


def broken(
    rows: Sequence[dict[str, Any]], survey: Survey, wanted: Sequence[str], offer: Candidate
) -> list[str]:
    """The rows of which all conditions hold, by name."""
    found = SUBSTRATES[survey.substrate]
    ground = SUBSTRATES[offer.path[-1].to] if offer.path else found
    sheets = [x.sheet for x in offer.layers]
    wooden = "wood" in (found.group, ground.group) or found.coat == "varnish"
    asks = {
        "grounds": lambda v: {ground.id, found.id} & set(v),
        "groups": lambda v: ground.group in v,
        "metals": lambda v: ground.metal in v or ground.hull_metal in v,
        "not_metals": lambda v: ground.metal not in v and found.metal not in v,
        "not_grounds": lambda v: ground.id not in v,
        "not_groups": lambda v: ground.group not in v,
        "bare": lambda v: bool(survey.bare_mm) == v,
        "wooden": lambda v: wooden == v,
        "wish": lambda v: set(v) <= set(wanted),
        "not_wish": lambda v: not set(v) & set(wanted),
        "survives": lambda v: set(v) & set(survey.must_survive),
        "not_survives": lambda v: not set(v) & set(survey.must_survive),
        "not_features": lambda v: not set(v) & set(survey.features),
        "first": lambda v: any_called(sheets[:1], v),
        "top": lambda v: any_called(sheets[-1:], v),
        "not_top": lambda v: not any_called(sheets[-1:], v),
        "any": lambda v: any_called(sheets, v),
        "join": lambda v: any(called(a, v[0]) and called(b, v[1]) for a, b in itertools.pairwise(sheets)),
        "more_than": lambda v: len(sheets) > v,
        "path_none": lambda v: (not offer.path) == v,
        "path_any": lambda v: any(p.id in v for p in offer.path),
        "first_for": lambda v: any(s.purpose and set(s.purpose.first_for) & set(v) for s in sheets),
    }  # fmt: skip
    return [r["name"] for r in rows if all(asks[k](v) for k, v in r.items() if k != "name")]


def offers() -> Iterator[tuple[Survey, tuple[str, ...], Candidate]]:
    for substrate in SUBSTRATES:
        for survives, features in PLACES:
            survey = Survey(substrate=substrate, must_survive=survives, features=features)
            for wanted in WISHES:
                for offer in suggest(survey, SHELF, wanted).best:
                    yield survey, wanted, offer


class AbsurdTest(unittest.TestCase):
    offers: ClassVar[list[tuple[Survey, tuple[str, ...], Candidate]]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.offers = list(offers())

    def test_no_offer_on_any_surface_is_one_a_foreman_would_laugh_at(self) -> None:
        self.assertGreaterEqual(len(ABSURD), 40)
        laughed: dict[str, list[str]] = {}
        met = 0
        for survey, wanted, offer in self.offers:
            met += 1
            for name in broken(ABSURD, survey, wanted, offer):
                laughed.setdefault(name, []).append(
                    f"{survey.substrate} {survey.must_survive} {wanted}: {offer.key}"
                )
            # Every join and the ground have a warrant that names where it comes from.
            stands = [w for w in offer.warrants if w.about in ("ground", "join")]
            self.assertEqual(len(stands), len(offer.layers), offer.key)
            for w in stands:
                self.assertIn(w.standing, ("vouched", "accepted"))
                self.assertTrue(w.by and all(said.source.ref for said in w.by), offer.key)
        self.assertEqual(laughed, {}, {k: (len(v), v[:3]) for k, v in laughed.items()})
        self.assertGreater(met, 500)

    def test_the_steps_laid_down_for_them_pass_our_own_rules_and_the_trades(self) -> None:
        own = {r.id for r in RULES if r.broken_by.__module__ == preparation.__name__}
        self.assertGreater(len(own), 10)
        seen = 0
        for survey, _, offer in self.offers:
            seen += 1
            told = [f for f in offer.findings if f.rule_id in own]
            self.assertEqual(told, [], offer.key)
            ground = SUBSTRATES[offer.path[-1].to if offer.path else survey.substrate]
            steps = list(offer.layers[0].before or ())
            names = [d.step for d in steps]
            if not offer.path and (ground.profiled or ground.id == "bare_filler" or ground.group == "wood"):
                self.assertNotIn("wash", names, offer.key)
            if ground.antifouling:
                self.assertFalse({"abrade", "level", "scuff"} & {*names}, offer.key)
            if ground.group == "rubber":
                self.assertFalse({"wipe", "degrease", "abrade"} & {*names}, offer.key)
            if ground.group == "wood":
                self.assertLessEqual(max((d.grit or 0 for d in steps), default=0), 320, offer.key)
            work = [w.step for w in step_sequence(survey, offer.path, offer.layers)]
            methods = {x.sheet.method_id for x in offer.layers}
            self.assertEqual("clean_gun" in work, bool(methods & {"spray_gun", "liner_gun"}), offer.key)
            self.assertEqual("clear_can" in work, "aerosol" in methods, offer.key)
            if methods <= {"aerosol", "cloth", "trigger_bottle"}:
                self.assertFalse({"drop_brush", "clean_brush"} & {*work}, offer.key)
            if "bolts" in names and "wash" in names:
                self.assertGreater(names.index("bolts"), names.index("wash"), offer.key)
        self.assertGreater(seen, 500)

    def test_every_row_catches_something_if_nothing_were_stopped(self) -> None:
        """Thousands of stacks put together blindly: a row that none of them breaks guards nothing."""
        rng = random.Random(14)
        caught: set[str] = set()
        for _ in range(60_000):
            sheets = rng.sample(SHELF, rng.choice((1, 1, 2, 2, 3, 4)))
            survives, features = rng.choice((*PLACES, (("fuel_bath",), ())))
            substrate = rng.choice(sorted(SUBSTRATES))
            offer = SimpleNamespace(
                path=(rng.choice(PREPS),) if rng.random() < 0.3 else (),
                layers=[SimpleNamespace(sheet=s) for s in sheets],
            )
            survey = Survey(substrate=substrate, must_survive=survives, features=features)
            wanted = rng.choice(WISHES)
            left = [r for r in ABSURD if r["name"] not in caught]
            caught |= {*broken(left, survey, wanted, offer)}
        self.assertEqual({r["name"] for r in ABSURD} - caught, set())
