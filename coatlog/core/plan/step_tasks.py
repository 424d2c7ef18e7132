"""Steps as tasks: those of a job's step list nobody has ticked yet, and those that open a window anew.

Guns are cleaned where the plan lays them out; what a sheet wants done to its last coat it says
itself.  Times of steps are assumed until a shop measures its own.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..run.facts import Facts, Layer
from ..run.recoat_windows import sheet_pace
from ..run.states import PartState
from ..run.task_key import TaskKey, read_key
from ..run.timeline import Timeline
from ..sheet import Sheet
from ..stack.preps import path_of
from ..stack.step_catalogue import STEPS
from ..stack.step_sequence import Work
from ..stack.surfaces import RUSTS, SUBSTRATES
from .mixes import Mixes
from .problem import Edge, Interval, Link, ToDo, link_windows
from .rights import Person, able, present, step_needs, wanting

__all__ = [
    "FIX_STEPS",
    "LONG_S",
    "ROOM_M2",
    "STINT_S",
    "TOUCHES",
    "Before",
    "Gathered",
    "On",
    "add_last",
    "add_steps",
    "add_works",
    "keyed_by",
    "step_crew",
    "to_do",
]

STINT_S = 2 * 3600  # assumed: the longest piece of a step done in one go
FIX_STEPS = ("abrade", "wipe")
SPOKEN = {"abrade": "sand"}  # a step of the log, as it is said
OTHER_STEP = STEPS["wash"]  # for what has no step of its own
KEY_VALID_S = 24 * 3600  # assumed, where a sheet is silent
BARE_METAL_S = 4 * 3600  # common practice, no published source
SOON_S = 3 * 86400
LONG_S = 45 * 60  # assumed: what takes one person longer is shared
ROOM_M2 = 10.0  # assumed: what each of several side by side needs
#: steps that fill the air with dust
DUSTY = ("abrade", "level", "scuff", "feather", "blast", "sweep_blast", "steel_grit", "wire_brush",
         "loosen_rust", "peel_gelcoat", "denib")  # fmt: skip
#: Kinds of steps that several people can do side by side.
SHARED = ("clean", "strip", "abrade", "mask")
#: Kinds of steps that touch the coat below.
TOUCHES = ("abrade", "strip", "clean", "mask")


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
    painters: int = 1
    people: tuple[Person, ...] = ()
    told: set[frozenset[str]] = field(default_factory=set)
    #: by layer and crew, the same for each of its coats: how long it takes [s], its mixes, its volume [ml]
    mixed: dict[tuple[str, int], tuple[int, Mixes, float]] = field(default_factory=dict)

    def many(self, needs: frozenset[str]) -> int:
        """How many may do what needs this and are there within days; at least one, to be named."""
        if not self.people:
            return self.painters
        return max(1, present(self.people, needs, self.now + SOON_S))

    def nobody(self, needs: frozenset[str]) -> str | None:
        """Why a task cannot be done by anybody in the plan, said once a job; None: somebody may."""
        if not self.people or able(self.people, needs):
            return None
        if needs in self.told:
            return ""
        self.told.add(needs)
        return wanting(self.people, needs)


def add_steps(
    work: Gathered,
    part_id: str,
    steps: Sequence[str],
    windows: tuple[Interval, ...],
    *,
    after: str | None = None,
    key: str = "",
) -> Link:
    """Steps one after the other; the link answered leads from the last of them to a coat.

    `windows` of the first of them.  `after`: the coat they are done on.  `key`: tells them from the
    same steps done for another coat.
    """
    facts = work.facts
    part = facts.part(part_id)
    last: str | None = after
    for step in steps:
        step_id = f"{step}-{key}" if key else step
        task = ToDo(
            key=str(TaskKey(part_id=part_id, kind="step", step_id=step_id)),
            kind="step",
            part_id=part_id,
            job_id=work.job_id,
            label=f"{part.name}: {SPOKEN.get(step, step)}",
            duration_s=STEPS.get(step, OTHER_STEP).takes_s(part.area_m2 * part.count),
            windows=windows,
            place_id=part.place_id,
            step=step,
            dusts=step == "abrade",
        )
        work.tasks[task.key] = task
        if last is not None:
            edge = _dry_to(_sheet_of(facts, last), "sand") if last == after else None
            work.links.append(Link(last, task.key, ((edge, None),), step, ""))
        last, windows = task.key, ()
    assert last is not None
    keeps = BARE_METAL_S if not after and "abrade" in steps else KEY_VALID_S
    return Link(last, "", ((None, keeps if "abrade" in steps else None),), "key", "")


def to_do(works: Sequence[Work], part: PartState) -> tuple[Work, ...]:
    """Steps nobody has ticked; tools are cleaned by the plan, excess is wiped by the sheet's own word."""
    return tuple(
        w for w in works if not part.checks.get(w.key) and w.kind != "tools" and w.step != "wipe_excess"
    )


def keyed_by(works: Sequence[Work]) -> bool:
    """Whether the steps give the surface a key: the coat below then needs no window to bond."""
    return any(w.kind == "abrade" or w.step == "blast" for w in works)


def add_works(
    work: Gathered,
    part: PartState,
    works: Sequence[Work],
    coat: ToDo,
    before: Before,
    *,
    keyed_again: str = "",
) -> None:
    """The steps of the list before a coat, one after the other, and the coat after the last of them.

    `keyed_again`: it is sanded and wiped once more right before the coat, under this key; what was keyed
    before it then may be as old as it likes.

    A step that touches the coat below waits until that bears it.  A keyed surface keeps as long as its
    clock says, or as the steps after it take.
    """
    facts, now = work.facts, work.now
    there = before.ready_at if before.ready_at is not None and before.ready_at > now else None
    windows: tuple[Interval, ...] = () if there is None or part.films else ((there, None),)
    keys: list[tuple[str, int, bool]] = []
    for i, w in enumerate(works):
        # What is cleaned to be abraded is cleaned when it can be abraded.
        bears = "sand" if keyed_by(works[i:]) else "touch"
        for task in _stints(work, part, w):
            task = replace(task, windows=windows) if not keys else task
            if before.coat is None and part.films:
                task = replace(task, windows=_ahead(work, part, coat, w, bears) or task.windows)
            work.tasks[task.key] = task
            if before.coat is not None:
                edge = _bears(facts, facts.sheets[before.coat.layer.sheet_id], coat, w, bears)
                sheet_id = before.coat.layer.sheet_id
                work.links.append(Link(before.coat.key, task.key, ((edge, None),), "step", sheet_id))
            if keys:
                work.links.append(Link(keys[-1][0], task.key, ((None, None),), "step", ""))
            elif before.chain is not None:
                work.links.append(replace(before.chain, b_key=task.key))
            if keys and task.by_itself and w.kind not in TOUCHES:
                # A can that warms keeps nobody from masking: only the coat waits for it.
                work.links.append(Link(task.key, coat.key, ((None, None),), "step", ""))
                continue
            keys.append((task.key, task.duration_s, keyed_by([w])))
    if keyed_again:
        chain = add_steps(work, part.part_id, FIX_STEPS, (), after=keys[-1][0], key=keyed_again)
        work.links.append(replace(chain, b_key=coat.key))
        return
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
    path = path_of(part.substrate, facts.choices_of(part_id).get("prep", ""), part.features)
    return SUBSTRATES[path[-1].to if path else part.substrate].metal in RUSTS


def _bears(facts: Facts, below: Sheet, coat: ToDo, w: Work, gate: str) -> Edge:
    """How long the coat below takes until it bears a step before `coat`; nothing where none touches it.

    Where the next coat wants it tacky, nothing waits for it to dry.
    """
    recoat = facts.join(below.id, coat.sheet_id or "")
    tacky = recoat is not None and all(x.tacky for x in recoat.windows)
    if w.kind not in TOUCHES or (tacky and gate != "sand"):
        return None
    return _dry_to(below, gate)


def _ahead(work: Gathered, part: PartState, coat: ToDo, w: Work, gate: str) -> tuple[Interval, ...]:
    """When the coat on top bears a step."""
    film = part.films[-1]
    below = _sheet_of(work.facts, film.slot)
    edge = None if below is None else _bears(work.facts, below, coat, w, gate)
    if film.done_at is None or edge is None:
        return ()
    link = Link(film.slot, "", ((edge, None),), "step", film.sheet_id)
    return link_windows(link, work.airs.get(part.part_id), film.started_at, film.done_at, 0)


def _stints(work: Gathered, part: PartState, w: Work) -> list[ToDo]:
    """A step as tasks: a long one in stints that fit a day and can be stopped after."""
    facts_part = work.facts.part(part.part_id)
    by_itself = w.step in STEPS and STEPS[w.step].hands_off
    needs = step_needs(w.step, w.kind, facts_part.features)
    crew = step_crew(w, facts_part.area_m2 * facts_part.count, work.many(needs))
    n = 1 if by_itself else max(1, math.ceil(w.takes_s / crew / STINT_S))
    return [
        ToDo(
            key=str(TaskKey(part_id=part.part_id, kind="step", step_id=w.key, stint=i + 1)),
            kind="step",
            part_id=part.part_id,
            job_id=work.job_id,
            label=f"{facts_part.name}: {w.name}{f', {i + 1} of {n}' if n > 1 else ''}",
            duration_s=math.ceil(w.takes_s / crew / n),
            place_id=facts_part.place_id,
            hands=0 if by_itself else crew,
            by_itself=by_itself,
            work=w.step,
            dusts=w.step in DUSTY,
            needs=needs,
            blocked=work.nobody(needs),
        )
        for i in range(n)
    ]


def step_crew(w: Work, area_m2: float, painters: int) -> int:
    """How many do a step side by side: on a large surface, as many as have room."""
    if w.kind not in SHARED or w.takes_s <= LONG_S:
        return 1
    return max(1, min(painters, int(area_m2 // ROOM_M2)))


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
        points = sheet.points_for(w.gate) or sheet.points_for("touch") if w.gate else ()
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


def _sheet_of(facts: Facts, slot: str) -> Sheet | None:
    """The material of a coat by its slot; None where its layer is gone from the job."""
    key = read_key(slot)
    layer = next((x for x in facts.layers if key is not None and x.id == key.layer_id), None)
    return None if layer is None else facts.sheets[layer.sheet_id]


def _dry_to(sheet: Sheet | None, gate: str) -> Edge:
    """How long a coat takes until it bears something; to touch, where its sheet says no more."""
    if sheet is None:
        return None
    points = sheet.points_for(gate) or sheet.points_for("touch")
    return sheet_pace(sheet, points, "min") if points else None
