"""What rules read and what they say."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from ..sheet import Sheet
from ..why import Why
from .surfaces import Substrate

__all__ = ["Finding", "Hit", "Rule", "Stack", "StackLayer", "rule"]

PRACTICE = Why(kind="practice", ref="common practice, no published source")
Severity = Literal["stop", "warn", "advise"]
Overrule = Literal["reason", "sheet", "never"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StackLayer:
    """A layer as the rules see it."""

    sheet: Sheet
    coats: int
    target_um: float | None = None


@dataclass(frozen=True, slots=True)
class Stack:
    """Substrate, what it must survive, layers from it up."""

    ground: Substrate
    must_survive: tuple[str, ...]
    layers: Sequence[StackLayer]

    def joins(self) -> Iterator[tuple[int, Sheet, Sheet]]:
        """(position of the upper, lower, upper) of every pair of layers."""
        for i, (lower, upper) in enumerate(itertools.pairwise(self.layers), 1):
            yield i, lower.sheet, upper.sheet

    def sheets(self) -> Iterator[tuple[int, Sheet]]:
        for i, x in enumerate(self.layers):
            yield i, x.sheet

    def first(self) -> Iterator[Sheet]:
        """The sheet that touches the ground, if any."""
        for x in self.layers[:1]:
            yield x.sheet

    def top(self) -> Iterator[tuple[int, Sheet]]:
        """Position and sheet of the finish, if any."""
        for x in self.layers[-1:]:
            yield len(self.layers) - 1, x.sheet


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What a rule has to say: what, why, what to do instead."""

    rule_id: str
    severity: Severity
    position: int
    what: str
    why: str
    instead: str
    overrule: Overrule = "reason"
    source: Why = PRACTICE


@dataclass(frozen=True, slots=True)
class Hit:
    """Where a prohibition is broken and by what; `why` and `instead` only where they vary."""

    position: int
    what: str
    why: str = ""
    instead: str = ""
    source: Why = PRACTICE


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """A prohibition: its id, how hard it is, who may overrule it and how, and its test."""

    id: str
    severity: Severity
    overrule: Overrule
    why: str
    instead: str
    broken_by: Callable[[Stack], Iterator[Hit]]

    def findings(self, stack: Stack) -> Iterator[Finding]:
        for hit in self.broken_by(stack):
            yield Finding(
                rule_id=self.id,
                severity=self.severity,
                position=hit.position,
                what=hit.what,
                why=hit.why or self.why,
                instead=hit.instead or self.instead,
                overrule=self.overrule,
                source=hit.source,
            )


RULES: list[Rule] = []


def rule(
    id: str, severity: Severity, *, why: str = "", instead: str = "", overrule: Overrule = "reason"
) -> Callable[[Callable[[Stack], Iterator[Hit]]], Callable[[Stack], Iterator[Hit]]]:
    """Enter a test into the list of rules."""

    def enter(broken_by: Callable[[Stack], Iterator[Hit]]) -> Callable[[Stack], Iterator[Hit]]:
        RULES.append(
            Rule(id=id, severity=severity, overrule=overrule, why=why, instead=instead, broken_by=broken_by)
        )
        return broken_by

    return enter
