"""Where painters differ: both ways are offered, each with when it wins.  Read from `alternatives.toml`."""

from __future__ import annotations

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ..codec import from_plain
from ..sheet import Sheet
from .findings import Survey
from .surfaces import SUBSTRATES

__all__ = ["ALTERNATIVES", "Alternative", "Way", "alternatives_for"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """One answer, and when it wins.

    `skips`: the step is left out.  `wait_s`: the least wait between the coats it is asked about [s].
    `until_dry`: the step waits until the last coat is dry to handle, and nothing ends it then.
    """

    name: str
    wins: str
    skips: bool = False
    wait_s: int = 0
    until_dry: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Alternative:
    """A question the trade answers in several ways, raised where all words of `when` hold.

    `step`: the step that is done one way or the other.
    """

    id: str
    ask: str
    when: tuple[str, ...]
    step: str = ""
    ways: tuple[Way, ...]


_TEXT = (Path(__file__).parent / "alternatives.toml").read_text(encoding="utf-8")
ALTERNATIVES: tuple[Alternative, ...] = tuple(
    from_plain(Alternative, row) for row in tomllib.loads(_TEXT)["alternative"]
)


def alternatives_for(survey: Survey, sheets: Sequence[Sheet]) -> tuple[Alternative, ...]:
    """The questions this survey and these materials raise."""
    ground = SUBSTRATES[survey.substrate]
    words = {
        "metal": bool(ground.metal),
        "primer": any(s.properties.acid or s.properties.resin == "epoxy" for s in sheets),
        "fills": any(s.properties.fills for s in sheets),
        "rust": bool(ground.rust),
        "seals_clear": any({"clear", "seals"} <= set(s.properties.gives) for s in sheets),
        "trim": any(s.properties.family in ("dye", "trim") for s in sheets),
        "wheel": "clamping" in survey.features,
        "peelable": any(s.properties.peelable for s in sheets),
        "liner": any(s.properties.family == "liner" for s in sheets),
        "boot": any("boot" in s.properties.gives for s in sheets),
    }
    return tuple(a for a in ALTERNATIVES if all(words[w] for w in a.when))
