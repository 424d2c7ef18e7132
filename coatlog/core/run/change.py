"""What a new version of a job's facts does to what is on the log already: looked at before it is adopted."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from .facts import Facts
from .states import JobState, LogFinding

__all__ = ["FactsChange", "PartChange", "change_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartChange:
    """What a part keeps and loses: steps ticked, coats of its layers; and what is new to do on it.

    `lost_steps`: ticked, and no longer on the list.  `new_steps`: on the list now.  `off_coats`: coats that
    are on it and belong to no layer any more, by material; they stay on the part and on the log.
    `coats_before`, `coats_after`: how many the system has for it; 0 where it has or had no part in it.
    """

    part_id: str
    name: str
    kept_steps: int
    lost_steps: tuple[str, ...]
    new_steps: tuple[str, ...]
    kept_coats: int
    off_coats: tuple[str, ...]
    coats_before: int
    coats_after: int

    @property
    def touched(self) -> bool:
        """Whether anything of it changes."""
        return bool(self.lost_steps or self.new_steps or self.off_coats) or (
            self.coats_before != self.coats_after
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class FactsChange:
    """Part by part, and the findings of the log that come and go with it."""

    parts: tuple[PartChange, ...]
    new_findings: tuple[LogFinding, ...]
    gone_findings: tuple[LogFinding, ...]


def change_of(before: Facts, was: JobState, after: Facts, becomes: JobState) -> FactsChange:
    """Hold two versions of a job's facts against each other, each with its replay of the same log."""
    old = {p.id: p for p in before.parts if not p.retired}
    new = {p.id: p for p in after.parts if not p.retired}
    parts = [
        _part(before, was, after, part_id, (new.get(part_id) or old[part_id]).name)
        for part_id in dict.fromkeys([*old, *new])
    ]
    had, has = _open(was), _open(becomes)
    return FactsChange(
        parts=tuple(p for p in parts if p.touched),
        new_findings=tuple(f for key, f in has.items() if key not in had),
        gone_findings=tuple(f for key, f in had.items() if key not in has),
    )


def _part(before: Facts, was: JobState, after: Facts, part_id: str, name: str) -> PartChange:
    gone = all(p.id != part_id or p.retired for p in after.parts)
    state = next((p for p in was.parts if p.part_id == part_id), None)
    ticked = {key for key, held in state.checks.items() if held} if state else set()
    old_steps = {w.key: w.name for w in before.steps_of(part_id)}
    new_steps = {} if gone else {w.key: w.name for w in after.steps_of(part_id)}
    layers = [] if gone else [x for x in after.layers if x.part_id == part_id]
    kept = {x.id for x in layers}
    films = [] if state is None else list(state.films)
    off = Counter(
        before.sheets[f.sheet_id].name
        for f in films
        if f.layer_id not in kept and f.sheet_id in before.sheets
    )
    return PartChange(
        part_id=part_id,
        name=name,
        kept_steps=len(ticked & set(new_steps)),
        lost_steps=tuple(old_steps[k] for k in old_steps if k in ticked and k not in new_steps),
        new_steps=tuple(new_steps[k] for k in new_steps if k not in old_steps),
        kept_coats=sum(f.layer_id in kept for f in films),
        off_coats=tuple(f"{n} × {sheet}" for sheet, n in off.items()),
        coats_before=sum(x.coats for x in before.layers if x.part_id == part_id and _lives(before, part_id)),
        coats_after=sum(x.coats for x in layers),
    )


def _lives(facts: Facts, part_id: str) -> bool:
    return any(p.id == part_id and not p.retired for p in facts.parts)


def _open(state: JobState) -> dict[tuple[str, str, str, str], LogFinding]:
    return {(f.code, f.part_id, f.coat_id, f.entry_id): f for f in state.findings if f.met_at is None}
