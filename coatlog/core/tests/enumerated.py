"""Every stack there is, by plain enumeration, judged whole: a second opinion on the builder's search."""

from __future__ import annotations

import itertools
import random
from collections.abc import Sequence
from dataclasses import replace

from coatlog.core.sheet import Sheet, pick_recoat
from coatlog.core.stack.builder import gives
from coatlog.core.stack.findings import RULES
from coatlog.core.stack.preps import prepared
from coatlog.core.stack.rules import Survey, judge
from coatlog.core.stack.step_sequence import usual_layer, with_steps
from coatlog.core.stack.surfaces import EXPOSURES, SUBSTRATES

__all__ = ["every_stack", "seeded_shelf"]

_OF_FINISH = {r.id for r in RULES if r.of_finish}


def seeded_shelf(seed: int, shelf: Sequence[Sheet]) -> tuple[tuple[Sheet, ...], Survey, tuple[str, ...]]:
    """Twelve materials, a survey and a finish, the same for the same seed."""
    rng = random.Random(seed)
    few = tuple(rng.sample(list(shelf), 12))
    finishes = sorted({x for s in few for x in s.properties.gives})
    survey = Survey(
        substrate=rng.choice(sorted(SUBSTRATES)),
        must_survive=tuple(rng.sample(sorted(EXPOSURES), rng.randint(0, 3))),
        has=rng.choice([None, ("air_fed", "spray_gun", "liner_gun", "spark_free", "capture"), ()]),
    )
    return few, survey, (rng.choice(finishes),)


def every_stack(survey: Survey, shelf: Sequence[Sheet], wanted: Sequence[str]) -> set[tuple[str, ...]]:
    """Keys of all legal stacks of up to four different materials.

    Left out are those whose beginning was already what is wanted with no word against it as a finish.
    """
    chains = [
        sheets
        for n in range(1, 5)
        for sheets in itertools.permutations(shelf, n)
        if all(pick_recoat(a, b) is not None for a, b in itertools.pairwise(sheets))
    ]
    out = set()
    for ground, path in prepared(survey.substrate, survey.features):
        at = replace(survey, substrate=ground.id)
        done: set[tuple[str, ...]] = set()
        for sheets in chains:  # the short ones first
            key = tuple(s.material_id for s in sheets)
            if any(key[:n] in done for n in range(1, len(key))):
                continue
            laid = with_steps(survey, path, [usual_layer(s) for s in sheets])
            told = judge(at, laid)
            if any(f.severity == "stop" for f in told) or not set(wanted) <= gives(laid):
                continue
            out.add((*(p.id for p in path), *key))
            if not any(f.rule_id in _OF_FINISH and f.severity == "warn" for f in told):
                done.add(key)
    return out
