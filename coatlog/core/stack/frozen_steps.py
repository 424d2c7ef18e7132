"""The step list of a part as its job freezes it: the way that was chosen, each step with an id that stays.

A list is made once, when a job is made or changed, and read ever after.  What the catalogue of steps
says later changes no list that stands, and a tick names the id of its step, never its place.
"""

from __future__ import annotations

import difflib
from collections.abc import Container, Mapping, Sequence
from dataclasses import replace

from .alternatives import ALTERNATIVES
from .findings import StackLayer, Survey
from .preps import path_of
from .step_sequence import Work, step_sequence, with_steps
from .surfaces import SUBSTRATES

__all__ = ["same_ids", "steps_for"]


def steps_for(
    survey: Survey,
    layers: Sequence[StackLayer],
    choices: Mapping[str, str],
    area_m2: float,
    *,
    edge_m: float | None = None,
    mask_over_tacky: bool = False,
) -> tuple[Work, ...]:
    """Everything to do on one part in working order; nothing without layers or on an unknown surface.

    `choices`: `prep` is the way of preparing, `way.X` the way taken where painters differ.
    `area_m2`, `edge_m`: of the part [m², m].  `mask_over_tacky`: see `step_sequence`.
    """
    if not layers or survey.substrate not in SUBSTRATES:
        return ()
    path = path_of(survey.substrate, choices.get("prep", ""), survey.features) or ()
    laid = with_steps(survey, path, layers)
    works = step_sequence(survey, path, laid, area_m2, edge_m=edge_m, mask_over_tacky=mask_over_tacky)
    return tuple(x for w in works if (x := _as_chosen(choices, w)) is not None)


def _as_chosen(choices: Mapping[str, str], work: Work) -> Work | None:
    """The step in the way taken here, where painters differ and somebody chose; None: it is left out."""
    for question in ALTERNATIVES:
        chosen = choices.get(f"way.{question.id}")
        way = next((w for w in question.ways if w.name == chosen), None)
        if way is not None and question.step == work.step:
            return None if way.skips else replace(work, name=f"{work.name}: {way.name}")
    return work


def same_ids(
    works: Sequence[Work],
    layer_ids: Sequence[str],
    before: Sequence[Work] = (),
    layer_ids_before: Sequence[str] = (),
    taken: Container[str] = (),
) -> tuple[Work, ...]:
    """The list with ids: a step that was in the list before keeps its own, a new one gets a fresh one.

    Parameters
    ----------
    layer_ids, layer_ids_before : of the layer at each position.
    before : the list this one takes the place of.
    taken : ids used in any list this part ever had; none of them is given again.
    """
    now, was = _marks(works, layer_ids), _marks(before, layer_ids_before)
    kept: dict[int, str] = {}
    for block in difflib.SequenceMatcher(None, was, now, autojunk=False).get_matching_blocks():
        for i in range(block.size):
            kept[block.b + i] = before[block.a + i].key
    used = set(kept.values())
    out = []
    for i, w in enumerate(works):
        key, n = kept.get(i, ""), 1
        while not key or (i not in kept and (key in used or key in taken)):
            key, n = f"{w.step}.{n}", n + 1
        used.add(key)
        out.append(replace(w, key=key))
    return tuple(out)


def _marks(works: Sequence[Work], layer_ids: Sequence[str]) -> list[tuple[str, str, int | None]]:
    """What makes a step the same one in two lists: the layer it serves, what it is, and its grit."""
    last = max((i for i, w in enumerate(works) if w.step == "coat"), default=-1)
    out = []
    for i, w in enumerate(works):
        at = "" if w.position < 0 else layer_ids[w.position]
        out.append(("end" if last >= 0 and i > last else at, w.step, w.grit))
    return out
