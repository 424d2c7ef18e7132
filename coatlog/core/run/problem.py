"""The problem: what is still to do on a job, with its waits, pots, painters and opening hours.

A coat that is going on is a task too, locked where it began: what follows it waits for its likely
end, and its painter is busy until then.  A part whose window has closed is blocked until its fix
steps are logged; it does not hold up the others.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from ..drying import Pace
from ..mix import pot_points
from ..sheet import Sheet
from .amounts import coat_ml
from .facts import Facts, Layer
from .ripening import sheet_pace
from .service import PartService
from .states import JobState, PartState
from .timeline import Timeline

__all__ = ["Interval", "Link", "Pot", "Problem", "ToDo", "merge", "problem"]

UNMASK_S = 300
Interval = tuple[int, int | None]


@dataclass(frozen=True, slots=True)
class Link:
    """The wait of one task for another: windows of (minimum, maximum) pace, from end and from start."""

    a_key: str
    b_key: str
    windows: tuple[tuple[Pace | None, Pace | None], ...]
    gate: str
    sheet_id: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ToDo:
    """A task of the problem.  `windows` are absolute intervals for its start, empty: any time."""

    key: str
    kind: Literal["coat", "unmask"]
    part_id: str
    label: str
    duration_s: int
    sheet_id: str | None = None
    volume_ml: float = 0.0
    windows: tuple[Interval, ...] = ()
    blocked: str | None = None
    began_at: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Pot:
    """How a sheet is mixed: time to mix, and the pace at which the pot dies (None: never)."""

    mix_s: int
    pace: Pace | None
    use_frac: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """Tasks by key in the order of parts and layers; `alive` pots are (batch, ml left, use by)."""

    job_id: str
    now: int
    tasks: dict[str, ToDo]
    links: tuple[Link, ...]
    airs: Mapping[str, Timeline] = field(hash=False)
    painters: int
    hours: tuple[tuple[int, int], ...]
    pots: dict[str, Pot]
    alive: dict[str, tuple[str, float, int]]
    names: dict[str, str]


def problem(
    facts: Facts,
    state: JobState,
    airs: Mapping[str, Timeline],
    *,
    now: int,
    hours: Sequence[tuple[int, int]],
    painters: int = 1,
) -> Problem:
    """What is still to do on a job, with its waits.  `hours` are opening intervals, UTC seconds."""
    tasks: dict[str, ToDo] = {}
    links: list[Link] = []
    for part in state.parts:
        closes = next((t.closes_at for t in state.next if t.part_id == part.part_id), None)
        _add_part(facts, part, state.service, closes, now, tasks, links)
    alive: dict[str, tuple[str, float, int]] = {}
    for b in sorted(state.batches, key=lambda b: b.use_by_at or 0):
        if b.mixed and b.closed_at is None and b.use_by_at is not None and b.use_by_at > now:
            alive[b.sheet_id] = (b.batch_id, b.left_ml, b.use_by_at)
    return Problem(
        job_id=state.job_id,
        now=now,
        tasks=tasks,
        links=tuple(links),
        airs=airs,
        painters=painters,
        hours=tuple(hours),
        pots={k: _pot(facts, s) for k, s in facts.sheets.items()},
        alive=alive,
        names={s.id: s.name for s in facts.sheets.values()},
    )


def merge(problems: Sequence[Problem]) -> Problem:
    """Several jobs as one: the same painters, hours and pots for all.

    Parts and tasks carry ids of their own, so nothing meets but what is shared.
    """
    first = problems[0]
    tasks: dict[str, ToDo] = {}
    airs: dict[str, Timeline] = {}
    pots: dict[str, Pot] = {}
    alive: dict[str, tuple[str, float, int]] = {}
    names: dict[str, str] = {}
    for p in problems:
        tasks |= p.tasks
        airs |= p.airs
        pots |= p.pots
        alive |= p.alive
        names |= p.names
    links = tuple(x for p in problems for x in p.links)
    return replace(first, job_id="", tasks=tasks, links=links, airs=airs, pots=pots, alive=alive, names=names)


def _pot(facts: Facts, sheet: Sheet) -> Pot:
    method = facts.methods.get(sheet.method_id) or next(iter(facts.methods.values()))
    pace = sheet_pace(sheet, pot_points(sheet.pot), "max") if sheet.pot else None
    return Pot(mix_s=method.mix_s if sheet.pot else 0, pace=pace, use_frac=sheet.use_frac)


def _bare_metal_window(closes_at: int | None, now: int) -> tuple[tuple[Interval, ...], str | None]:
    if closes_at is None:
        return (), None
    if closes_at <= now:
        return (), "abrade and wipe again: bare metal lay open for more than 4 h"
    return ((now, closes_at),), None


def _add_part(
    facts: Facts,
    part: PartState,
    service: Sequence[PartService],
    closes_at: int | None,
    now: int,
    tasks: dict[str, ToDo],
    links: list[Link],
) -> None:
    """Tasks of one part from the substrate up, each linked to the one below it."""
    before: tuple[str, str] | None = None
    top = part.films[-1] if part.films else None
    if top is not None and top.done_at is None:
        layer = facts.layer(top.layer_id)
        tasks[top.slot] = _coat(facts, layer, top.n, began_at=top.started_at)
        before = (top.slot, layer.sheet_id)
    if any(x.part_id == part.part_id and x.ended_at is not None for x in service) and not part.films:
        return
    windows, blocked = _windows_of_top(part, now) if before is None else ((), None)
    if not part.films:
        windows, blocked = _bare_metal_window(closes_at, now)
    for layer in facts.layers_of(part.part_id):
        done = sum(f.layer_id == layer.id for f in part.films)
        for n in range(done + 1, layer.coats + 1):
            task = _coat(facts, layer, n, windows=windows, blocked=blocked)
            tasks[task.key] = task
            if before is not None:
                links.append(_recoat_link(facts, before, task.key, layer.sheet_id))
            before, windows, blocked = (task.key, layer.sheet_id), (), None
    _add_unmask(facts, part, service, before, tasks, links)


def _coat(
    facts: Facts,
    layer: Layer,
    n: int,
    *,
    windows: tuple[Interval, ...] = (),
    blocked: str | None = None,
    began_at: int | None = None,
) -> ToDo:
    part, sheet = facts.part(layer.part_id), facts.sheets[layer.sheet_id]
    return ToDo(
        key=f"{part.id}/{layer.id}/{n}",
        kind="coat",
        part_id=part.id,
        label=f"{part.name}, {sheet.name.lower()} {n} of {layer.coats}",
        duration_s=facts.coat_s(layer),
        sheet_id=sheet.id,
        volume_ml=coat_ml(facts, layer).value,
        windows=windows,
        blocked=blocked,
        began_at=began_at,
    )


def _windows_of_top(part: PartState, now: int) -> tuple[tuple[Interval, ...], str | None]:
    """Intervals for the next coat from what lies on the part; a reason when it is over age."""
    if not part.films:
        return (), None
    windows: list[Interval] = []
    for s in part.films[-1].spans:
        if s.state not in ("open", "closing"):
            continue
        if windows and windows[-1][1] == s.from_at:
            windows[-1] = (windows[-1][0], s.to_at)
        else:
            windows.append((s.from_at, s.to_at))
    ahead = tuple(w for w in windows if w[1] is None or w[1] > now)
    if ahead:
        return ahead, None
    if windows:
        return (), "abrade and wipe first: its window has closed"
    return (), "its window does not open at the temperatures known and assumed: warm it"


def _recoat_link(facts: Facts, before: tuple[str, str], key: str, sheet_id: str) -> Link:
    lower = facts.sheets[before[1]]
    recoat = facts.join(lower.id, sheet_id)
    windows = []
    for w in recoat.windows if recoat else ():
        opens = None if w.from_s == 0 else sheet_pace(lower, ((w.at_degc, w.from_s),), "min")
        closes = None if w.to_s is None else sheet_pace(lower, ((w.at_degc, w.to_s),), "max")
        windows.append((opens, closes))
    return Link(before[0], key, tuple(windows) or ((None, None),), "recoat", lower.id)


def _add_unmask(
    facts: Facts,
    part: PartState,
    service: Sequence[PartService],
    before: tuple[str, str] | None,
    tasks: dict[str, ToDo],
    links: list[Link],
) -> None:
    layers = facts.layers_of(part.part_id)
    if not layers or part.unmasked_at is not None or any(x.part_id == part.part_id for x in service):
        return
    top = facts.sheets[layers[-1].sheet_id]
    opens, closes = top.points_for("unmask_from"), top.points_for("unmask_to")
    if not opens:
        return
    gate = next((g for g in part.gates if g.name == "unmask_from"), None)
    windows: tuple[Interval, ...] = ()
    if gate is not None and gate.late_at is not None:
        # Past its end the tape still has to come off: the film is cut first, it does not stop.
        windows = ((gate.late_at, None),)
    key = f"{part.part_id}/unmask/1"
    tasks[key] = ToDo(
        key=key,
        kind="unmask",
        part_id=part.part_id,
        label=f"{facts.part(part.part_id).name}, tape off",
        duration_s=UNMASK_S,
        windows=windows,
    )
    if before is not None:
        to = sheet_pace(top, closes, "max") if closes else None
        links.append(Link(before[0], key, ((sheet_pace(top, opens, "min"), to),), "unmask", top.id))
