"""What the steps of a job use up.  Which aid goes on what: common practice, no published source."""

from __future__ import annotations

import tomllib
import unittest
from dataclasses import replace
from pathlib import Path

from coatlog.core.aids import AidNeed, aids_of
from coatlog.core.run.step_list import job_work
from coatlog.core.sheet import make_sheet
from coatlog.core.stack.preps import PREPS
from coatlog.core.stack.step_catalogue import STEPS

from .test_plan_steps import facts_of, named
from .test_practices import PRACTICES

AIDS_DIR = Path(__file__).parents[2] / "shelf" / "typical" / "aids"
AIDS = tuple(make_sheet(tomllib.loads(f.read_text())) for f in sorted(AIDS_DIR.glob("*.toml")))


def needs(name: str, m2: float = 2.0) -> dict[str, AidNeed]:
    found, lacks = aids_of(facts_of(named(name), m2), AIDS, {})
    assert not lacks, lacks
    return {n.name: n for n in found}


class AidsTest(unittest.TestCase):
    def test_a_chassis_in_gel_takes_gel_water_test_paper_and_no_solvent_on_rust(self) -> None:
        told = needs("F chassis")
        self.assertEqual(told["Rust gel"].dwell_s, 20 * 60)  # 15 to 20 min on the metal
        self.assertIn("pH paper", told)
        self.assertTrue(any("never with bleach" in h for h in told["Rust gel"].hazards))

    def test_amounts_follow_the_area_and_packs_are_whole(self) -> None:
        small, large = needs("two-pack liner", 2.0), needs("two-pack liner", 4.0)
        self.assertEqual(small.keys(), large.keys())
        for name, need in small.items():
            self.assertAlmostEqual(large[name].amount, 2 * need.amount)
            assert need.purchase is not None
            self.assertGreaterEqual(need.purchase.makes_ml, need.amount)
        # A liner is keyed with P60 to P80; that grit and no other is bought.
        grits = [n for n in small if n.startswith("Abrasive")]
        self.assertIn(grits, (["Abrasive, P60"], ["Abrasive, P80"]))

    def test_acid_gel_never_goes_on_aluminium(self) -> None:
        facts = facts_of(named("F chassis"), 2.0)
        (part,) = facts.parts
        light = replace(facts, parts=(replace(part, substrate="bare_aluminium"),), choices={"prep": ""})
        found, lacks = aids_of(light, AIDS, {})
        self.assertNotIn("Rust gel", [n.name for n in found])
        gel = [s for s in AIDS if s.aid and "rust_gel" in s.aid.serves]
        self.assertTrue(all(s.aid and "aluminium" in s.aid.never_on for s in gel))
        # Where nothing else serves the step, that is said and not passed over.
        steel = replace(facts, parts=(replace(part, features=()),))
        barred = [
            replace(s, aid=replace(s.aid, never_on=("steel",))) if s.aid and s in gel else s for s in AIDS
        ]
        found, lacks = aids_of(steel, barred, {})
        self.assertEqual([x.why for x in lacks], ["Rust gel: not on bare steel"])

    def test_every_step_that_uses_something_up_is_served(self) -> None:
        served = {x for s in AIDS if s.aid for x in s.aid.serves}
        self.assertLessEqual(served, {*STEPS})
        listed = {w.step for i in range(len(PRACTICES)) for w in job_work(facts_of(i))["p"]}
        listed |= {d.step for p in PREPS for d in p.steps} | {"tack", "denib", "deoxidise"}
        using = {x for x in listed if x in STEPS and STEPS[x].kind in ("clean", "abrade", "strip")}
        self.assertEqual(using - served, set())
