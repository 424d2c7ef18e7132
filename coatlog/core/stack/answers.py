"""What a foreman says before any coat: leave it, key it and go on, polish, wait, dry, wash, not here.

Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from .findings import Survey
from .surfaces import SUBSTRATES

__all__ = ["Before", "before_any_coat"]

Before = Literal[
    "not_here",
    "wait_cured",
    "dry_first",
    "wash_first",
    "primed_already",
    "polish_first",
    "key_recoat",
    "leave_it",
    "restore_first",
]
_HURT = frozenset(("dents", "scratches", "holes", "faded"))
#: features of a part that somebody else decides on: structure, airworthiness, restraint, what sees
_NOT_HERE = frozenset(
    ("structural", "window", "control_surface", "radome", "restraint", "cabin", "radar", "whole_aircraft")
)
_SOUND = frozenset(
    ("sound_paint", "glossy_paint", "powder_coat", "painted_plastic", "wheel_clear", "varnished_wood",
     "plated_chrome", "galvanised", "epoxy_on_steel", "epoxy_on_aluminium")
)  # fmt: skip
_PRIMED = frozenset(("cured_epoxy", "surfacer_primed", "polyester_primed", "e_coat", "zinc_primed"))


def before_any_coat(survey: Survey, wanted: Sequence[str]) -> tuple[Before, ...]:
    """What may do instead of a coat, or must come before one, the most telling first."""
    ground, wish, hurt = SUBSTRATES[survey.substrate], {*wanted}, _HURT & {*survey.features}
    out: list[Before] = []
    if _NOT_HERE & {*survey.features}:
        out.append("not_here")
    if ground.fresh and wish & {"reversible", "repels"}:
        out.append("wait_cured")
    if ground.wet:
        out.append("dry_first")
    if ground.waste in ("soot", "grease", "salt"):
        out.append("wash_first")
    if ground.id in _PRIMED and wish <= {"primed", "seals"}:
        out.append("primed_already")
    faded = ground.id == "aged_clear" or (ground.group == "paint" and "faded" in survey.features)
    if faded and wish & {"gloss", "clear", "colour"}:
        out.append("polish_first")
    if ground.id in ("textured_plastic", "raw_polyolefin") and "colour" in wish and "clear" not in wish:
        out.append("restore_first")
    if ground.glossy and ground.group == "paint" and wish & {"colour", "primed"} and "reversible" not in wish:
        out.append("key_recoat")
    if ground.id in _SOUND and not hurt and not survey.bare_mm and wish <= {"seals", "primed"}:
        out.append("leave_it")
    return tuple(out)
