"""Every stack there is, by plain enumeration, judged whole: a second opinion on the builder's search."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import replace

from coatlog.core.sheet import Sheet, pick_recoat
from coatlog.core.stack.builder import meets
from coatlog.core.stack.findings import RULES
from coatlog.core.stack.preps import prepared
from coatlog.core.stack.rules import FACTS, Survey, judge
from coatlog.core.stack.step_sequence import usual_layer, with_steps
from coatlog.core.stack.surfaces import EXPOSURES, SUBSTRATES

__all__ = ["every_stack", "seeded_shelf"]

HAS = ("air_fed", "spray_gun", "liner_gun", "spark_free", "capture")
_OF_FINISH = {r.id for r in RULES if r.of_finish}


def seeded_shelf(seed: int, shelf: Sequence[Sheet]) -> tuple[tuple[Sheet, ...], Survey, tuple[str, ...]]:
    """Thirty materials, a survey and a finish, the same for the same seed."""
    rng = random.Random(seed)
    few = tuple(rng.sample(list(shelf), 30))
    finish = rng.choice([s for s in few if s.properties.gives])
    near = sorted({g for s in few for g in s.grounds} if seed % 3 else finish.grounds) or sorted(SUBSTRATES)
    survey = Survey(
        substrate=rng.choice(near),
        must_survive=tuple(rng.sample(sorted(EXPOSURES), rng.randint(0, 2))),
        has=rng.choice([None, HAS, ()]),
        hasnt=rng.choice([(), tuple(f for f in FACTS if f not in HAS)]),
    )
    return few, survey, (rng.choice(finish.properties.gives),)


def every_stack(survey: Survey, shelf: Sequence[Sheet], wanted: Sequence[str]) -> set[tuple[str, ...]]:
    """Keys of all legal stacks of up to four different materials.

    Left out are those whose beginning was already what is wanted with no word against it as a finish.
    """
    chains: list[tuple[Sheet, ...]] = [(s,) for s in shelf]
    for chain in chains:  # it grows while it is walked: the short ones come first
        if len(chain) < 4:
            chains += [(*chain, s) for s in shelf if s not in chain and pick_recoat(chain[-1], s) is not None]
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
            if any(f.severity == "stop" and not f.asks for f in told) or not meets(laid, wanted):
                continue
            out.add((*(p.id for p in path), *key))
            if not any(f.rule_id in _OF_FINISH and f.severity == "warn" for f in told):
                done.add(key)
    return out
