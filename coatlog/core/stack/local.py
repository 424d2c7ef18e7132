"""Damage in a sound surface: which layers lie on the damaged places alone, and how large those are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from .findings import StackLayer, Survey
from .preps import Prep
from .rules import judge
from .step_sequence import with_steps
from .surfaces import SUBSTRATES
from .warrants import COVERED

__all__ = ["DAMAGE", "across_mm", "beside", "damaged", "on_places", "places_m2"]

#: what is only where something happened; round it the part is as it was
DAMAGE = ("dents", "scratches", "holes")
FEATHER_MM = 50.0  # common practice, no published source: how far a spot goes past what is bare
USUAL_MM = 50.0  # assumed where nobody measured: a damaged place across


def damaged(survey: Survey) -> bool:
    """Whether something is broken in places."""
    return bool(survey.bare_mm or survey.hole_mm or set(DAMAGE) & set(survey.features))


def beside(survey: Survey) -> Survey:
    """The same part where nothing happened to it."""
    kept = tuple(x for x in survey.features if x not in DAMAGE)
    return replace(survey, bare_mm=None, hole_mm=None, patch_n=None, features=kept)


def across_mm(survey: Survey) -> float:
    """How wide a spot coat lies over one damaged place, with its feathered edge [mm]."""
    size_mm = max(survey.bare_mm or 0.0, survey.hole_mm or 0.0) or USUAL_MM
    return size_mm + 2 * FEATHER_MM


def places_m2(survey: Survey) -> float:
    """What a spot coat covers on all damaged places, as squares [m2]; one place where nobody counted."""
    return (survey.patch_n or 1) * (across_mm(survey) / 1000) ** 2


def on_places(
    survey: Survey, path: Sequence[Prep], layers: Sequence[StackLayer]
) -> tuple[StackLayer, ...] | None:
    """The layers, those of the damaged places marked as such; None: it is for nothing but damage.

    Filler and cloth lie where something is to fill.  In sound paint the primers at the bottom lie there
    too: round it the next layer holds without them.  What is left must stand on the part by itself.
    """
    if not damaged(survey):
        return tuple(layers)
    ground = SUBSTRATES[path[-1].to if path else survey.substrate]
    fills = [x.sheet.role == "filler" or x.sheet.properties.family == "cloth" for x in layers]
    leading = 0
    if ground.group == "paint" or ground.id == "painted_plastic":
        while leading < len(layers) - 1 and layers[leading].sheet.role in COVERED[:-1]:
            leading += 1
    where = beside(survey).prepared_to(ground.id)
    for n in range(leading, -1, -1):
        local = [i < n or f for i, f in enumerate(fills)]
        if not any(local):
            # All over the part it lies round the damage too: there it must be vouched for without it.
            return None if _stopped(where, path, layers) else tuple(layers)
        whole = [x for x, there in zip(layers, local, strict=True) if not there]
        if whole and not _stopped(where, path, whole):
            m2 = places_m2(survey)
            return tuple(
                replace(x, patches_m2=m2, before=None) if there else replace(x, before=None)
                for x, there in zip(layers, local, strict=True)
            )
    return None


def _stopped(where: Survey, path: Sequence[Prep], whole: Sequence[StackLayer]) -> bool:
    laid = with_steps(where, (), [replace(x, before=None) for x in whole]) if not path else whole
    return any(f.severity == "stop" and not f.asks for f in judge(where, laid))
