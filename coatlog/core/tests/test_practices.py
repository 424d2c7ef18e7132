"""Every practice of the trade from survey to steps, and its mistakes.

Common practice, no published source.
"""

from __future__ import annotations

import tomllib
import unittest
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from coatlog.core.sheet import pick_recoat
from coatlog.core.stack.builder import legal_stacks, suggest
from coatlog.core.stack.preps import PREPS
from coatlog.core.stack.rules import FACTS, StackLayer, Survey, judge
from coatlog.core.stack.step_catalogue import read_step
from coatlog.core.stack.step_sequence import step_sequence, usual_layer, with_steps

from .test_stack import S

_DATA = tomllib.loads((Path(__file__).parent / "practices.toml").read_text(encoding="utf-8"))
PRACTICES: list[dict[str, Any]] = _DATA["practice"]
WARNINGS: list[dict[str, Any]] = _DATA["warning"]
GUNS = ("booth", "spray_gun", "liner_gun", "compressor", "blast", "spark_free", "capture")
SHELF = tuple(S.values())
UNVOUCHED = {"ground.unvouched", "join.unvouched", "recoat.silent", "filler.patches"}


def survey_of(row: Mapping[str, Any]) -> Survey:
    has = (*row["has"], *row.get("tools", GUNS)) if "has" in row else None
    return Survey(
        substrate=row["substrate"],
        must_survive=tuple(row.get("survives", ())),
        features=tuple(row.get("features", ())),
        bare_mm=row.get("bare_mm"),
        dark=row.get("dark", False),
        has=has,
        hasnt=() if has is None else tuple(f for f in FACTS if f not in has),
        outdoors=row.get("outdoors", False),
    )


def in_order(wanted: Sequence[str], had: Sequence[str]) -> bool:
    rest = iter(had)
    return all(x in rest for x in wanted)


def told_of(practice: Mapping[str, Any], wrong: Mapping[str, Any], *severities: str) -> set[str]:
    """What is said of the practice done wrong in this one way; `found`: on the surface as it was found."""
    row = {**practice, **wrong}
    path = [p for name in practice.get("path", ()) for p in PREPS if p.id == name]
    survey = survey_of(row)
    if path and not wrong.get("found") and "substrate" not in wrong:
        survey = replace(survey, substrate=path[-1].to)
    layers = [usual_layer(S[name]) for name in row["layers"]]
    if "coats" in wrong:
        layers[0] = replace(layers[0], coats=wrong["coats"])
    laid = list(layers)
    if "steps" in wrong:
        laid[0] = replace(layers[0], before=tuple(read_step(x) for x in wrong["steps"]))
    if "extras" in wrong:
        laid[0] = replace(laid[0], extras=tuple(wrong["extras"]))
    return {f.rule_id for f in judge(survey, laid) if f.severity in severities}


class PracticesTest(unittest.TestCase):
    def test_expected_stack_is_legal_and_its_steps_come_in_order(self) -> None:
        for row in PRACTICES:
            with self.subTest(row["name"]):
                survey, names = survey_of(row), tuple(row["layers"])
                legal = {
                    (tuple(p.id for p in path), tuple(x.sheet.material_id for x in layers)): (path, layers)
                    for path, layers in legal_stacks(survey, SHELF, row["wanted"])
                }
                ways = [k for k in legal if k[1] == names and list(k[0]) == row.get("path", list(k[0]))]
                self.assertTrue(ways, f"not legal; {len(legal)} others are")
                path, layers = legal[min(ways, key=lambda k: len(k[0]))]
                work = step_sequence(survey, path, layers)
                self.assertTrue(
                    in_order(row.get("steps", ()), [w.step for w in work]), [w.step for w in work]
                )
                told = " ".join(c for w in work for c in w.cautions)
                for caution in row.get("cautions", ()):
                    self.assertIn(caution, told)
                best = suggest(survey, SHELF, row["wanted"]).best
                self.assertIn(names, [tuple(x.sheet.material_id for x in c.layers) for c in best[:2]])

    def test_waits_between_its_coats(self) -> None:
        for row in PRACTICES:
            for pair, from_s in row.get("waits", {}).items():
                lower, upper = pair.split(">")
                recoat = pick_recoat(S[lower], S[upper])
                assert recoat is not None
                self.assertEqual(recoat.windows[0].from_s, from_s, f"{row['name']}: {pair}")

    def test_mistakes_are_stopped_for_the_right_reason(self) -> None:
        for row in PRACTICES:
            self.assertGreaterEqual(len(row["mistakes"]), 2, row["name"])
            for wrong in row["mistakes"]:
                with self.subTest(row["name"], mistake=wrong["name"]):
                    self.assertLessEqual(set(wrong["stops"]), told_of(row, wrong, "stop"))
                    # Done right, none of these speaks.
                    path = [p for name in row.get("path", ()) for p in PREPS if p.id == name]
                    survey = survey_of(row)
                    right: list[StackLayer] = [usual_layer(S[name]) for name in row["layers"]]
                    laid = with_steps(survey, path, right)
                    at = replace(survey, substrate=path[-1].to) if path else survey
                    told = {f.rule_id for f in judge(at, laid) if f.severity == "stop"}
                    self.assertFalse(set(wrong["stops"]) & told)

    def test_what_is_allowed_but_spoken_of(self) -> None:
        for row in WARNINGS:
            wrong = {k: row[k] for k in ("steps", "extras") if k in row}
            with self.subTest(row["says"]):
                self.assertLessEqual(set(row["says"]), told_of(row, wrong, "warn", "advise"))
                # Some of it is not vouched for by the typical sheets; no prohibition stops it.
                self.assertLessEqual(told_of(row, wrong, "stop"), UNVOUCHED)
