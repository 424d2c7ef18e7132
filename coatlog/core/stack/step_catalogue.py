"""What is done besides coating, read from `steps.toml`: each step with its check, tools, cautions, time."""

from __future__ import annotations

import math
import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

from ..codec import from_plain

__all__ = ["AT_FIRST", "CAUTIONS", "STATES", "STEPS", "Done", "Step", "after", "read_step", "write_step"]

#: what a surface can be between two steps, and how it is said
STATES: dict[str, str] = {
    "degreased": "degreased",
    "dustless": "wiped free of dust",
    "dry": "dry",
    "keyed": "keyed",
    "neutral": "rinsed of acid",
}
#: what it is taken to be before anything is done
AT_FIRST = frozenset(("dry", "neutral"))
StepKind = Literal["look", "clean", "strip", "abrade", "mask", "try", "coat", "finish", "tools"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """A step of work.  `log`: the word it goes on the log with.

    Its time is max(least_s, per_m2_s x area + per_edge_m_s x edge): masking goes by the edge.

    `hands_off`: it goes on by itself, also while the shop is closed.  `once`: for all parts together.

    `needs`, `gives`, `takes`: what the surface must be before it, is after it and is no longer, in
    words of STATES.
    `if_failed`: what is done when its check does not hold.  `must`: nothing goes on before it is ticked
    (or, after the coats, into service).  `gate`: what a finished coat has to have reached before it.
    """

    id: str
    name: str
    kind: StepKind
    check: str
    tools: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    least_s: int = 300
    per_m2_s: int = 0
    per_edge_m_s: int = 0
    log: str = ""
    if_failed: str = ""
    needs: tuple[str, ...] = ()
    gives: tuple[str, ...] = ()
    takes: tuple[str, ...] = ()
    must: bool = False
    hands_off: bool = False
    once: bool = False
    gate: Literal["", "touch", "sand", "handle"] = ""

    def takes_s(self, area_m2: float, edge_m: float | None = None) -> int:
        """Time [s] for so much surface [m2] and edge [m]; None: the edge of a square of that area."""
        edge_m = 4 * math.sqrt(area_m2) if edge_m is None else edge_m
        return max(self.least_s, round(self.per_m2_s * area_m2 + self.per_edge_m_s * edge_m))


@dataclass(frozen=True, slots=True)
class Done:
    """A step as it is done here: which, and with what grit (FEPA P) where it abrades."""

    step: str
    grit: int | None = None


def after(state: frozenset[str], done: Done) -> frozenset[str]:
    """What a surface is after a step."""
    step = STEPS[done.step]
    return (state - set(step.takes)) | set(step.gives)


def read_step(word: str) -> Done:
    """A step as data has it: its id, and a grit after ":P"."""
    step, _, grit = word.partition(":P")
    return Done(step, int(grit) if grit else None)


def write_step(done: Done) -> str:
    """A step as data has it; the other way round."""
    return done.step if done.grit is None else f"{done.step}:P{done.grit}"


_DATA: dict[str, Any] = tomllib.loads((Path(__file__).parent / "steps.toml").read_text(encoding="utf-8"))
#: What may hurt somebody, by id; the words stand with the step that carries it.
CAUTIONS: dict[str, str] = _DATA["cautions"]
STEPS: dict[str, Step] = {k: from_plain(Step, {"id": k, **row}) for k, row in _DATA["steps"].items()}
