"""Steps as tasks: those of a job's step list nobody has ticked yet, and those that open a window anew.

Guns are cleaned where the plan lays them out; what a sheet wants done to its last coat it says
itself.  Times of steps are assumed until a shop measures its own.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..run.facts import Facts, Layer
from ..run.ripening import sheet_pace
from ..run.states import PartState
from ..run.timeline import Timeline
from ..stack.preps import path_of
from ..stack.steps import STEPS
from ..stack.surfaces import SUBSTRATES
from ..stack.worklist import Work
from .problem import Edge, Interval, Link, ToDo, link_windows

__all__ = ["FIX_STEPS", "Before", "Gathered", "On", "add_last", "add_steps", "add_works", "to_do"]

STINT_S = 2 * 3600  # assumed: the longest piece of a step done in one go
FIX_STEPS = ("abrade", "wipe")
OTHER_STEP = STEPS["wash"]  # for what has no step of its own
KEY_VALID_S = 24 * 3600  # assumed, where a sheet is silent
BARE_METAL_S = 4 * 3600  # common practice, no published source


@dataclass(frozen=True, slots=True)
class On:
    """A coat others wait for."""

    key: str
    layer: Layer
    n: int


@dataclass(frozen=True, slots=True)
class Before:
    """What the first step before a coat waits for: a coat, steps that open a window anew, the parts."""

    coat: On | None
    chain: Link | None
    ready_at: int | None


@dataclass(slots=True)
class Gathered:
    """Tasks and links of one job while they are gathered."""

    facts: Facts
    job_id: str
    now: int
    airs: Mapping[str, Timeline]
    tasks: dict[str, ToDo]
    links: list[Link]


def add_steps(
    work: Gathered,
    part_id: str,
    steps: Sequence[str],
    windows: tuple[Interval, ...],
    *,
    after: str | None = None,
    key: str = "",
) -> Link:
    """Steps one after the other; the link answered leads from the last of them to a coat."""
    facts = work.facts
    part = facts.part(part_id)
    last: str | None = after
    for step in steps:
        task = ToDo(
            key=f"{part_id}/step/{step}{'-' + key if key else ''}",
            kind="step",
            part_id=part_id,
            job_id=work.job_id,
            label=f"{part.name}, {step}",
            duration_s=STEPS.get(step, OTHER_STEP).takes_s(part.area_m2 * part.count),
            windows=windows,
            place_id=part.place_id,
        )
        work.tasks[task.key] = task
        if last is not None:
            work.links.append(Link(last, task.key, _step_after(facts, part_id, last, after), step, ""))
        last, windows = task.key, ()
    assert last is not None
    keeps = BARE_METAL_S if not after and "abrade" in steps else KEY_VALID_S
    return Link(last, "", ((None, keeps if "abrade" in steps else None),), "key", "")


def to_do(works: Sequence[Work], part: PartState) -> tuple[Work, ...]:
    """Steps nobody has ticked; tools are cleaned by the plan, excess is wiped by the sheet's own word."""
    return tuple(
        w
        for w in works
        if not part.checks.get(w.key) and STEPS[w.step].kind != "tools" and w.step != "wipe_excess"
    )


def add_works(work: Gathered, part: PartState, works: Sequence[Work], coat: ToDo, before: Before) -> None:
    """The steps of the list before a coat, one after the other, and the coat after the last of them.

    A keyed surface keeps as long as its clock says, or as the steps after it take.
    """
    facts, now = work.facts, work.now
    there = before.ready_at if before.ready_at is not None and before.ready_at > now else None
    windows: tuple[Interval, ...] = () if there is None or part.films else ((there, None),)
    if before.coat is None and part.films:
        windows = _sanding_from(work, part)
    keys: list[tuple[str, int, bool]] = []
    for w in works:
        for task in _stints(work, part, w):
            task = replace(task, windows=windows) if not keys else task
            work.tasks[task.key] = task
            if keys:
                work.links.append(Link(keys[-1][0], task.key, ((None, None),), "step", ""))
            elif before.chain is not None:
                work.links.append(replace(before.chain, b_key=task.key))
            elif before.coat is not None:
                edges = _step_after(facts, part.part_id, before.coat.key, before.coat.key)
                work.links.append(Link(before.coat.key, task.key, edges, "step", ""))
            keys.append((task.key, task.duration_s, STEPS[w.step].kind == "abrade" or w.step == "blast"))
    bare = before.coat is None and not part.films and _bare(facts, part.part_id)
    last_keyed = max((i for i, k in enumerate(keys) if k[2]), default=None)
    keeps: int | None = None
    if last_keyed is not None:
        takes_s = sum(s for _, s, _ in keys[last_keyed:])
        keeps = max(BARE_METAL_S if bare else KEY_VALID_S, takes_s)
        if last_keyed < len(keys) - 1:
            work.links.append(Link(keys[last_keyed][0], coat.key, ((None, keeps),), "key", ""))
            keeps -= takes_s - keys[-1][1]
    work.links.append(Link(keys[-1][0], coat.key, ((None, keeps),), "key", ""))


def _bare(facts: Facts, part_id: str) -> bool:
    """Whether the list leads to bare metal that starts to oxidise at once."""
    part = facts.part(part_id)
    path = path_of(part.substrate, facts.choices.get("prep", ""), part.features)
    return SUBSTRATES[path[-1].to if path else part.substrate].metal in ("steel", "aluminium")


def _sanding_from(work: Gathered, part: PartState) -> tuple[Interval, ...]:
    """When the coat on top may be sanded."""
    film = part.films[-1]
    if film.done_at is None:
        return ()
    edges = _step_after(work.facts, part.part_id, film.slot, film.slot)
    link = Link(film.slot, "", edges, "step", "")
    return link_windows(link, work.airs.get(part.part_id), film.started_at, film.done_at, 0)


def _stints(work: Gathered, part: PartState, w: Work) -> list[ToDo]:
    """A step as tasks: a long one in stints that fit a day and can be stopped after."""
    facts_part = work.facts.part(part.part_id)
    n = max(1, math.ceil(w.takes_s / STINT_S))
    return [
        ToDo(
            key=f"{part.part_id}/step/{w.key}{f'~{i + 1}' if i else ''}",
            kind="step",
            part_id=part.part_id,
            job_id=work.job_id,
            label=f"{facts_part.name}, {w.name}{f', {i + 1} of {n}' if n > 1 else ''}",
            duration_s=math.ceil(w.takes_s / n),
            place_id=facts_part.place_id,
        )
        for i in range(n)
    ]


def add_last(work: Gathered, part: PartState, works: Sequence[Work], before: On | None) -> None:
    """What the list has after the last coat, each when the coat has come so far."""
    facts = work.facts
    layers = facts.layers_of(part.part_id)
    sheet = facts.sheets[layers[-1].sheet_id] if layers else None
    if sheet is None or (before is None and not part.films):
        return
    taped = bool(sheet.points_for("unmask_from"))
    last = ""
    for w in works:
        if w.step == "unmask" and taped:
            continue
        gate = STEPS[w.step].gate
        points = sheet.points_for(gate) or sheet.points_for("touch") if gate else ()
        opens = sheet_pace(sheet, points, "min") if points else None
        for task in _stints(work, part, w):
            if last:
                work.links.append(Link(last, task.key, ((None, None),), "step", ""))
            if before is not None:
                work.links.append(Link(before.key, task.key, ((opens, None),), "step", sheet.id))
            elif part.films[-1].done_at is not None:
                film = part.films[-1]
                link = Link(film.slot, task.key, ((opens, None),), "step", sheet.id)
                air = work.airs.get(part.part_id)
                ahead = link_windows(link, air, film.started_at, film.done_at or 0, task.duration_s)
                task = replace(task, windows=ahead)
            work.tasks[task.key] = task
            last = task.key


def _step_after(facts: Facts, part_id: str, last: str, after: str | None) -> tuple[tuple[Edge, Edge], ...]:
    """A coat is dry to sand (or to touch, where its sheet says no more) before it is abraded."""
    if last != after:
        return ((None, None),)
    layer = facts.layer(last.split("/")[1])
    sheet = facts.sheets[layer.sheet_id]
    points = sheet.points_for("sand") or sheet.points_for("touch")
    return ((sheet_pace(sheet, points, "min") if points else None, None),)
