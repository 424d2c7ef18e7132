"""Quick looks at a surface with their verdicts, read from `quick_looks.toml`."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from pathlib import Path

from ..codec import from_plain

__all__ = ["CHECKS", "Answer", "Check"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What is seen, and the surface it then is (empty: as it was taken to be); `only` from these."""

    says: str
    to: str = ""
    only: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """A quick look, asked of surfaces of these groups."""

    id: str
    name: str
    how: str
    groups: tuple[str, ...]
    answers: tuple[Answer, ...]


_TEXT = (Path(__file__).parent / "quick_looks.toml").read_text(encoding="utf-8")
CHECKS: tuple[Check, ...] = tuple(from_plain(Check, row) for row in tomllib.loads(_TEXT)["check"])
