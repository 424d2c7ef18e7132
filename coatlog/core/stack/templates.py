"""The usual things a shop is brought, from `templates.toml`: their parts, surface, and what they meet."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass, field
from pathlib import Path

from ..codec import from_plain

__all__ = ["TEMPLATES", "Template", "TemplatePart"]


@dataclass(frozen=True, slots=True, kw_only=True)
class TemplatePart:
    """A part with its usual area [m²]; `faces`: how much of it looks up, to the side, down, inside.

    Where it differs from the others: `substrate`, `survives`, `features`, `wanted`, and its `system`.
    """

    name: str
    area_m2: float
    count: int = 1
    as_set: bool = False
    faces: dict[str, float] = field(default_factory=dict)
    shape: str = ""
    measures: dict[str, float] = field(default_factory=dict)
    edge_m: float | None = None
    substrate: str = ""
    survives: tuple[str, ...] | None = None
    features: tuple[str, ...] | None = None
    wanted: tuple[str, ...] | None = None
    system: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Template:
    """Keys of SUBSTRATES, EXPOSURES, FEATURES and FINISHES that such a thing usually has."""

    id: str
    name: str
    kind: str
    substrate: str
    survives: tuple[str, ...]
    features: tuple[str, ...]
    wanted: tuple[str, ...]
    parts: tuple[TemplatePart, ...]


_TEXT = (Path(__file__).parent / "templates.toml").read_text(encoding="utf-8")
TEMPLATES: tuple[Template, ...] = tuple(from_plain(Template, row) for row in tomllib.loads(_TEXT)["template"])
