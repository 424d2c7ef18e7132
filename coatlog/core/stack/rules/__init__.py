"""The rules of a stack.  Each is a prohibition with a reason and a way out.

Rules read typed properties of sheets, surfaces and steps, never a name.  Source of all of them
unless named: common practice, no published source; a data sheet that says otherwise wins, save
where `overrule` says never.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..findings import RULES, Finding, Stack, StackLayer, Survey
from . import equipment, exposure, ground, hulls, layers, metal, mixing, people, preparation, vouching

__all__ = ["FACTS", "RULES", "SLIPS", "Finding", "StackLayer", "Survey", "in_order", "judge"]

FACTS = people.FACTS
SLIPS = mixing.SLIPS
_MODULES = (
    metal,
    vouching,
    layers,
    exposure,
    ground,
    hulls,
    preparation,
    mixing,
    equipment,
    people,
)  # each enters its rules when it is imported
#: stops for want of a word: what is known to go wrong is told before them
_SILENCE = frozenset(
    ("ground.unvouched", "join.unvouched", "recoat.silent", "filler.patches", "place.only", "role.order")
)
_RANK = {"stop": 0, "warn": 1, "advise": 2}


def judge(survey: Survey, stack: Sequence[StackLayer]) -> tuple[Finding, ...]:
    """All findings on a stack, stops first, from the surface up.  Raises KeyError on unknown keys."""
    whole = Stack(survey, stack)
    return in_order(f for r in RULES for f in r.findings(whole))


def in_order(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """Stops first, from the surface up: what is wrong, what nobody vouches for, what has to be answered.

    What only the next layer may still mend comes last.
    """
    unfinished = {r.id for r in RULES if r.of_finish}

    def key(f: Finding) -> tuple[int, bool, bool, int, bool, str]:
        unvouched = f.rule_id in _SILENCE
        return _RANK[f.severity], bool(f.asks), f.rule_id in unfinished, f.position, unvouched, f.rule_id

    return tuple(sorted(found, key=key))
