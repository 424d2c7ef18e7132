"""Launches and hand-overs: which state of the top coat they mean, and when every part has come so far."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from ..run.amounts import planned_dry_um
from ..run.facts import Facts
from ..run.recoat_windows import reach_min, sheet_pace
from ..run.states import JobState
from ..run.task_key import TaskKey
from ..run.timeline import Timeline
from ..sheet import Sheet
from ..thick_film import sheet_at
from .plan import Plan

__all__ = ["SLOT_GATES", "SlotFor", "ready_for", "slot_gate"]

#: what a slot is for; "": in water where the sheet speaks of it, else handled
SlotFor = Literal["", "water", "road", "load", "handled"]
#: gates of a sheet that say so, the first it has; the last resort is that it is cured or dry to touch
SLOT_GATES: dict[str, tuple[str, ...]] = {
    "": ("immerse_from", "handle", "touch"),
    "water": ("immerse_from", "full"),
    "road": ("use", "handle", "full"),
    "load": ("full",),
    "handled": ("handle", "touch"),
}


def slot_gate(sheet: Sheet, slot_for: SlotFor) -> str:
    """The gate of a top coat that has to be reached for a slot."""
    return next((g for g in SLOT_GATES[slot_for] if sheet.points_for(g)), "touch")


def ready_for(
    facts: Facts, state: JobState, airs: Mapping[str, Timeline], plan: Plan | None, slot_for: SlotFor
) -> int | None:
    """When every part of a job is ready for a slot, by its plan [epoch s]; None: the plan does not say."""
    ends = {} if plan is None else {t.key: t.end_at for t in plan.tasks}
    out = 0
    for part in state.parts:
        layers = facts.layers_of(part.part_id)
        if not layers:
            continue
        plain = facts.sheets[layers[-1].sheet_id]
        sheet = sheet_at(plain, planned_dry_um(layers[-1], plain))
        gate = slot_gate(sheet, slot_for)
        key = TaskKey(part_id=part.part_id, kind="coat", layer_id=layers[-1].id, n=layers[-1].coats)
        if part.due_layer_id is None and part.films:
            told = next((g for g in part.gates if g.name == gate), None)
            at = part.films[-1].done_at if told is None else told.late_at
        elif str(key) in ends:
            points = sheet.points_for(gate)
            done = ends[str(key)]
            at = reach_min(airs[part.part_id], sheet_pace(sheet, points, "min"), done) if points else done
        else:
            return None
        if at is None:
            return None
        out = max(out, at)
    return out or None
