"""What rules read and what they say."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal, Protocol

from ..sheet import Sheet
from ..why import Why
from .step_catalogue import Done
from .surfaces import SUBSTRATES, Substrate

__all__ = ["RULES", "Finding", "Hit", "Rule", "Stack", "StackLayer", "Survey", "rule", "survey_of"]

PRACTICE = Why(kind="practice", ref="common practice, no published source")
Severity = Literal["stop", "warn", "advise"]
Overrule = Literal["reason", "sheet", "never"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Survey:
    """What is known of a part before anything is chosen.

    Keys of SUBSTRATES, EXPOSURES, FEATURES.  `bare_mm`: how large bare patches in sound paint are,
    `hole_mm`: the largest hole, across.
    `dark`: a dark colour is wanted.  `outdoors`: it is coated in the open.  `has`, `hasnt`: keys of FACTS
    a shop said yes and no to; `has` None: no shop is behind the question.  `craft`: what it is part of.
    `patch_n`: how many damaged places there are; None: not counted.
    `there_um`: sound film that lies there already, by the gauge [um].
    `found`: the surface before it was prepared, where `substrate` is what that leads to.
    `kept_away`: people who must not meet isocyanates; `nobody_left`: there are no others.
    """

    substrate: str
    must_survive: tuple[str, ...] = ()
    features: tuple[str, ...] = ()
    bare_mm: float | None = None
    hole_mm: float | None = None
    patch_n: int | None = None
    there_um: float | None = None
    dark: bool = False
    outdoors: bool = False
    has: tuple[str, ...] | None = None
    hasnt: tuple[str, ...] = ()
    craft: str = ""
    kept_away: tuple[str, ...] = ()
    nobody_left: bool = False
    found: str = ""

    def prepared_to(self, substrate: str) -> Survey:
        """The same part, prepared: what it was found as is not forgotten."""
        return replace(self, substrate=substrate, found=self.found or self.substrate)


class Surveyed(Protocol):
    """A part as a survey says it, frozen or still being written down."""

    @property
    def substrate(self) -> str: ...
    @property
    def must_survive(self) -> tuple[str, ...]: ...
    @property
    def features(self) -> tuple[str, ...]: ...
    @property
    def bare_mm(self) -> float | None: ...
    @property
    def hole_mm(self) -> float | None: ...
    @property
    def patch_n(self) -> int | None: ...
    @property
    def there_um(self) -> float | None: ...
    @property
    def dark(self) -> bool: ...


def survey_of(
    part: Surveyed,
    has: Sequence[str] | None = None,
    *,
    hasnt: Sequence[str] = (),
    outdoors: bool = False,
    craft: str = "",
    kept_away: Sequence[str] = (),
    nobody_left: bool = False,
) -> Survey:
    """What is known of a part, in the words of the rules.  The others: see Survey."""
    return Survey(
        substrate=part.substrate,
        must_survive=part.must_survive,
        features=part.features,
        bare_mm=part.bare_mm,
        hole_mm=part.hole_mm,
        patch_n=part.patch_n,
        there_um=part.there_um,
        dark=part.dark,
        outdoors=outdoors,
        has=None if has is None else tuple(has),
        hasnt=tuple(hasnt),
        craft=craft,
        kept_away=tuple(kept_away),
        nobody_left=nobody_left,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class StackLayer:
    """A layer as the rules see it.

    `before`: the steps done since the layer below, in order; None where they are not laid down yet,
    and taken as done right.  `extras`: keys of SLIPS, what is poured in besides its own components.
    `patches_m2`: it goes on patches of so much in all [m2], and not all over; None: all over.
    """

    sheet: Sheet
    coats: int
    target_um: float | None = None
    before: tuple[Done, ...] | None = None
    extras: tuple[str, ...] = ()
    patches_m2: float | None = None


class Stack:
    """What the survey says, and the layers from the surface up.  Laid out once: ninety rules read it."""

    __slots__ = ("_joins", "_sheets", "_steps", "ground", "layers", "survey")

    def __init__(self, survey: Survey, layers: Sequence[StackLayer]) -> None:
        self.survey, self.layers = survey, layers
        self.ground: Substrate = SUBSTRATES[survey.substrate]
        self._sheets = tuple((i, x.sheet) for i, x in enumerate(layers))
        self._joins = tuple((i, a.sheet, b.sheet) for i, (a, b) in enumerate(itertools.pairwise(layers), 1))
        self._steps = tuple((i, x.before) for i, x in enumerate(layers) if x.before is not None)

    @property
    def hull_metal(self) -> str:
        """The metal under old paint, as the surface or the survey says it."""
        if self.ground.group != "paint":
            return ""
        said = next((m for m in ("steel", "aluminium") if f"under_{m}" in self.survey.features), "")
        return self.ground.hull_metal or said

    @property
    def found(self) -> Substrate:
        """The surface as it was found, whatever was done to it since."""
        return SUBSTRATES.get(self.survey.found, self.ground)

    @property
    def must_survive(self) -> tuple[str, ...]:
        """Keys of EXPOSURES, as the survey says."""
        return self.survey.must_survive

    def lacks(self, fact: str) -> bool:
        """Whether the shop said that it does not have it."""
        return fact in self.survey.hasnt

    def unanswered(self, fact: str) -> bool:
        """Whether there is a shop, and it said neither yes nor no."""
        s = self.survey
        return s.has is not None and fact not in s.has and fact not in s.hasnt

    def wanting(self, fact: str) -> str | None:
        """What can hurt needs a yes: "" where the shop said no, the fact where it said nothing, else None."""
        return "" if self.lacks(fact) else fact if self.unanswered(fact) else None

    def steps(self) -> tuple[tuple[int, tuple[Done, ...]], ...]:
        """Position of a layer and the steps before it, where they are laid down."""
        return self._steps

    def joins(self) -> tuple[tuple[int, Sheet, Sheet], ...]:
        """(position of the upper, lower, upper) of every pair of layers."""
        return self._joins

    def sheets(self) -> tuple[tuple[int, Sheet], ...]:
        """Position and sheet of every layer."""
        return self._sheets

    def first(self) -> tuple[Sheet, ...]:
        """The sheet that touches the ground, if any."""
        return (self._sheets[0][1],) if self._sheets else ()

    def top(self) -> tuple[tuple[int, Sheet], ...]:
        """Position and sheet of the finish, if any."""
        return self._sheets[-1:]


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What a rule has to say: what, why, what to do instead.

    `asks`: a stop only until this is answered: a key of FACTS, or "features" of the part.
    """

    rule_id: str
    severity: Severity
    position: int
    what: str
    why: str
    instead: str
    overrule: Overrule = "reason"
    source: Why = PRACTICE
    asks: str = ""


@dataclass(frozen=True, slots=True)
class Hit:
    """Where a prohibition is broken and by what; `why` and `instead` only where they vary.

    `asks`: see Finding.
    """

    position: int
    what: str
    why: str = ""
    instead: str = ""
    source: Why = PRACTICE
    asks: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule:
    """A prohibition: its id, how hard it is, who may overrule it and how, and its test.

    `of_finish`: it speaks of the last layer as a finish, so another layer on top may silence it.
    `asks`: it may only ask.
    """

    id: str
    severity: Severity
    overrule: Overrule
    why: str
    instead: str
    of_finish: bool
    asks: bool
    broken_by: Callable[[Stack], Iterator[Hit]]

    def findings(self, stack: Stack) -> Iterator[Finding]:
        """What the rule has to say of a stack, once for each place it is broken."""
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
                asks=hit.asks,
            )


RULES: list[Rule] = []


def rule(
    id: str,
    severity: Severity,
    *,
    why: str = "",
    instead: str = "",
    overrule: Overrule = "reason",
    of_finish: bool = False,
    asks: bool = False,
) -> Callable[[Callable[[Stack], Iterator[Hit]]], Callable[[Stack], Iterator[Hit]]]:
    """Enter a test into the list of rules."""

    def enter(broken_by: Callable[[Stack], Iterator[Hit]]) -> Callable[[Stack], Iterator[Hit]]:
        RULES.append(
            Rule(
                id=id,
                severity=severity,
                overrule=overrule,
                why=why,
                instead=instead,
                of_finish=of_finish,
                asks=asks,
                broken_by=broken_by,
            )
        )
        return broken_by

    return enter
