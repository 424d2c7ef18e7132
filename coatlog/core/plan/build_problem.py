"""From a job's facts and state to its tasks: steps, coats, tape off, with their waits.

Where a job plans its steps, they are those of its step list that nobody has ticked yet.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..drying import Pace
from ..mix import pot_points
from ..run.amounts import coat_ml, planned_dry_um
from ..run.facts import Facts, Layer
from ..run.in_service import PartService
from ..run.recoat_windows import reach_max, reach_min, sheet_pace
from ..run.spray_pattern import manner, turned
from ..run.states import JobState, NextTask, PartState
from ..run.step_list import after_coats, before_coat, chosen_wait_s, waits_until_dry
from ..run.task_key import TaskKey
from ..run.timeline import Timeline
from ..sheet import Sheet
from ..stack.mending import TAKEN_OFF
from ..stack.step_sequence import Work
from ..thick_film import recoat_at, sheet_at
from .alike import worked_alike
from .mixes import Mixes, divided
from .problem import DUST_MOST_S, Bay, Edge, Interval, Link, Pot, Problem, ToDo, link_windows
from .rights import Person, coat_needs
from .slots import SlotFor, slot_gate
from .step_tasks import (
    FIX_STEPS,
    LONG_S,
    ROOM_M2,
    Before,
    Gathered,
    On,
    add_last,
    add_steps,
    add_works,
    keyed_by,
    to_do,
)

__all__ = ["UNMASK_S", "Room", "mixed_as_it_goes", "problem"]

UNMASK_S = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """A place objects stand in: how many at once (None: no limit), and its fit weather outdoors."""

    name: str
    holds: int | None = None
    weather: tuple[tuple[int, int], ...] | None = None


def problem(
    facts: Facts,
    state: JobState,
    airs: Mapping[str, Timeline],
    *,
    now: int,
    hours: Sequence[tuple[int, int]],
    painters: int = 1,
    people: tuple[Person, ...] = (),
    rooms: Mapping[str, Room] | None = None,
    units: Mapping[str, int] | None = None,
    due_at: int | None = None,
    ready_at: int | None = None,
    slot_at: int | None = None,
    slot_for: SlotFor = "",
    parts_from: Mapping[str, int] | None = None,
    keyed: Sequence[str] = (),
) -> Problem:
    """What is still to do on a job, with its waits.

    Parameters
    ----------
    now, hours : when it is asked, and opening intervals [epoch s].
    people : who the painters are, where they are named.
    rooms, units : what the shop has, by place id and by gun.
    due_at, ready_at : when the job must be done, and from when its parts are there [epoch s].
    parts_from : the same for single parts, by their id.
    slot_at, slot_for : the hour it is launched or handed over, and what for; every part has to be ready
        for it and, where its sheet sets an end to that, not too long before it.
    keyed : tasks whose window may pass, as the coat before is abraded and wiped instead.
    """
    work = Gathered(facts, state.job_id, now, airs, {}, [], painters=painters, people=people)
    for part in state.parts:
        task = next((t for t in state.next if t.part_id == part.part_id), None)
        there = max(ready_at or 0, (parts_from or {}).get(part.part_id, 0)) or None
        _add_part(work, part, state.service, task, there, frozenset(keyed))
    worked_alike(work, max((b - a for a, b in hours), default=None))
    if slot_at is not None and slot_at > now and state.parts:
        _add_slot(work, state, slot_at, slot_for)
    alive: dict[tuple[str, str], tuple[str, float, int]] = {}
    for b in sorted(state.batches, key=lambda b: b.use_by_at or 0):
        if b.mixed and b.closed_at is None and b.use_by_at is not None and b.use_by_at > now:
            alive[state.job_id, b.sheet_id] = (b.batch_id, b.left_ml, b.use_by_at)
    rooms = rooms or {}
    return Problem(
        job_id=state.job_id,
        now=now,
        tasks=work.tasks,
        links=tuple(work.links),
        airs=airs,
        painters=painters,
        people=people,
        hours=tuple(hours),
        pots={k: _pot(facts, s) for k, s in facts.sheets.items()},
        alive=alive,
        names={s.id: s.name for s in facts.sheets.values()},
        thinned=frozenset(
            s.id for s in facts.sheets.values() if any(c.role == "thinner" for c in s.components)
        ),
        units=dict(units or {}),
        bays=_bays(work, state, rooms),
        weather={k: r.weather for k, r in rooms.items() if r.weather is not None},
        wet=_still_wet(work, state),
        due={} if due_at is None else {state.job_id: due_at},
    )


def _add_slot(work: Gathered, state: JobState, slot_at: int, slot_for: SlotFor) -> None:
    """The hour of a launch or a hand-over: each part's last coat waits for it, and it for them."""
    facts = work.facts
    key = str(TaskKey(part_id=state.parts[0].part_id, kind="slot"))
    windows: tuple[Interval, ...] = ((slot_at, slot_at),)
    for part in state.parts:
        layers = facts.layers_of(part.part_id)
        if not layers:
            continue
        top_sheet = facts.sheets[layers[-1].sheet_id]
        sheet = sheet_at(top_sheet, planned_dry_um(layers[-1], top_sheet))
        name = slot_gate(sheet, slot_for)
        wet = name == "immerse_from"
        top = TaskKey(part_id=part.part_id, kind="coat", layer_id=layers[-1].id, n=layers[-1].coats)
        last = str(top)
        if last in work.tasks:
            opens = sheet.points_for(name)
            closes = sheet.points_for("immerse_to") if wet else ()
            edges = (
                sheet_pace(sheet, opens, "min") if opens else None,
                sheet_pace(sheet, closes, "max") if closes else None,
            )
            work.links.append(Link(last, key, (edges,), "slot", sheet.id))
    if not any(x.b_key == key for x in work.links):
        return
    work.tasks[key] = ToDo(
        key=key,
        kind="slot",
        part_id=state.parts[0].part_id,
        job_id=work.job_id,
        label="launch or hand-over",
        duration_s=0,
        hands=0,
        windows=windows,
    )


def _bays(work: Gathered, state: JobState, rooms: Mapping[str, Room]) -> dict[str, Bay]:
    """Of each bay with a limit: is this job in it, and until when does it only dry there."""
    out: dict[str, Bay] = {}
    for place, room in rooms.items():
        if room.holds is None:
            continue
        parts = [p for p in state.parts if p.place_id == place]
        waiting = any(t.place_id == place for t in work.tasks.values())
        gone = {x.part_id for x in state.service}
        wet = [p for p in parts if p.films and p.part_id not in gone]
        bay = Bay(name=room.name, holds=room.holds)
        if waiting and wet:
            bay = replace(bay, inside=(state.job_id,))
        elif wet and (until := max(_movable_at(p) for p in wet)) > work.now:
            bay = replace(bay, drying=((state.job_id, until),))
        out[place] = bay
    return out


def _movable_at(part: PartState) -> int:
    """When a coated part may be moved out: dry to handle, or to touch where a sheet says no more."""
    for name in ("handle", "touch"):
        gate = next((g for g in part.gates if g.name == name), None)
        if gate is not None and gate.late_at is not None:
            return gate.late_at
    return 0


def _pot(facts: Facts, sheet: Sheet) -> Pot:
    method = facts.methods.get(sheet.method_id) or next(iter(facts.methods.values()))
    pace = sheet_pace(sheet, pot_points(sheet.pot), "max") if sheet.pot else None
    return Pot(
        mix_s=method.mix_s if sheet.pot else 0,
        pace=pace,
        use_frac=sheet.use_frac,
        induction_s=sheet.induction_s if sheet.pot else 0,
        stir_every_s=sheet.stir_every_s,
    )


@dataclass(slots=True)
class _Under:
    """What the next coat of a part waits for.

    `coat`: one that is planned or going on.  `chain`: from steps that come first.  `windows`: absolute,
    from what lies on the part.
    """

    coat: On | None = None
    chain: Link | None = None
    windows: tuple[Interval, ...] = ()
    blocked: str | None = None


def _add_part(
    work: Gathered,
    part: PartState,
    service: Sequence[PartService],
    due: NextTask | None,
    ready_at: int | None,
    keyed: frozenset[str],
) -> None:
    """Tasks of one part from the substrate up, each linked to the one below it."""
    facts = work.facts
    if not part.films and any(x.part_id == part.part_id and x.ended_at is not None for x in service):
        return  # it was in service and has been stripped
    listed = facts.steps_of(part.part_id) if facts.plans_steps else ()
    under = _as_it_stands(work, part, due, ready_at, listed)
    for layer in facts.layers_of(part.part_id):
        done = sum(f.layer_id == layer.id for f in part.films)
        for n in range(done + 1, layer.coats + 1):
            works = before_coat(listed, layer.position) if n == 1 else ()
            under = _Under(_add_coat(work, part, On("", layer, n), works, under, ready_at, keyed))
    if not any(x.part_id == part.part_id for x in service):
        _add_then(work, part, under.coat)
        _add_unmask(work, part, under.coat)
        add_last(work, part, to_do(after_coats(listed), part), under.coat)


def _as_it_stands(
    work: Gathered, part: PartState, due: NextTask | None, ready_at: int | None, listed: Sequence[Work]
) -> _Under:
    """What the next coat waits for by what is on the part, and the steps that open it anew."""
    facts, now = work.facts, work.now
    top = part.films[-1] if part.films else None
    under = _Under()
    steps: tuple[str, ...] = ()
    later = ready_at if ready_at is not None and ready_at > now and top is None else None
    if top is not None and top.done_at is None:
        layer = facts.layer(top.layer_id)
        work.tasks[top.slot] = _coat(work, layer, top.n, began_at=top.started_at)
        under.coat = On(top.slot, layer, top.n)
    elif top is not None:
        under.windows, closed, under.blocked = _windows_of_top(part, now)
        steps = due.steps if closed and due is not None else ()
        if closed and not steps:
            under.blocked = TAKEN_OFF[part.mend or "sand"]  # type: ignore[index]
    else:
        under.windows, steps = _bare_metal(due, now)
        if later is not None:
            under.windows = tuple((max(a, later), b) for a, b in under.windows) or ((later, None),)
        if _masked(facts, part) and not listed:
            steps = ("mask", *steps)
    steps = tuple(s for s in steps if s not in part.steps_done)
    if due is not None and due.must and not listed:
        under.blocked = f"complete first: {' and '.join(due.must)}"
    if steps:
        under.chain = add_steps(work, part.part_id, steps, () if later is None else ((later, None),))
        if "abrade" in steps:
            under.windows = ()
    return under


def _add_coat(
    work: Gathered,
    part: PartState,
    on: On,
    works: Sequence[Work],
    under: _Under,
    ready_at: int | None,
    keyed: frozenset[str],
) -> On:
    """One coat with the steps before it, and its waits for what is under it; `on.key` is not read."""
    layer, n = on.layer, on.n
    task = _coat(work, layer, n, windows=under.windows, blocked=under.blocked)
    failed = next((w for w in works if w.must and part.checks.get(w.key) is False), None)
    if failed is not None:
        task = replace(task, blocked=failed.if_failed)
    on, before, chain = On(task.key, layer, n), under.coat, under.chain
    left = to_do(works, part)
    if task.key in keyed and before is not None and not left:
        chain = add_steps(work, part.part_id, FIX_STEPS, (), after=before.key, key=f"{layer.id}-{n}")
        before = None
    elif before is not None and not keyed_by(left):
        # Coat is linked to coat whatever is done between: a step takes time, it opens no window.
        _link_coats(work, before, on)
    elif before is None and keyed_by(left) and under.windows:
        # It is keyed before it: the window of what lies there has to have opened, its end does not bind.
        task = replace(task, windows=((min(a for a, _ in under.windows), None),))
    work.tasks[task.key] = task
    if left:
        again = f"{layer.id}-{n}" if task.key in keyed else ""
        add_works(work, part, left, task, Before(before, chain, ready_at), keyed_again=again)
        # A coat stands after its steps: the order of the tasks is the order of work.
        work.tasks[task.key] = work.tasks.pop(task.key)
    elif chain is not None:
        work.links.append(replace(chain, b_key=task.key))
    return on


def _link_coats(work: Gathered, below: On, above: On) -> None:
    waits_s = chosen_wait_s(work.facts, below.layer.part_id, work.facts.sheets[below.layer.sheet_id])
    if waits_s:
        work.links.append(Link(below.key, above.key, ((waits_s, None),), "chosen", ""))
    work.links.append(_recoat_link(work.facts, below, above))


def _masked(facts: Facts, part: PartState) -> bool:
    """Whether tape comes off this part in the end, so that it has to go on first."""
    layers = facts.layers_of(part.part_id)
    return bool(layers) and bool(facts.sheets[layers[-1].sheet_id].points_for("unmask_from"))


def _bare_metal(due: NextTask | None, now: int) -> tuple[tuple[Interval, ...], tuple[str, ...]]:
    """Until when abraded bare metal takes its first coat; past it the steps that make it bare anew."""
    if due is None or due.closes_at is None:
        return (), ()
    if due.closes_at <= now:
        return (), FIX_STEPS
    return ((now, due.closes_at),), ()


def _coat_of(name: str) -> str:
    """A coat of this material, as it is said: "Epoxy primer coat", but not "Clear coat coat"."""
    return name if name.lower().endswith("coat") else f"{name} coat"


def _coat(
    work: Gathered,
    layer: Layer,
    n: int,
    *,
    windows: tuple[Interval, ...] = (),
    blocked: str | None = None,
    began_at: int | None = None,
) -> ToDo:
    facts = work.facts
    part, sheet = facts.part(layer.part_id), facts.sheets[layer.sheet_id]
    method = facts.methods[layer.method_id]
    hint = manner(sheet, layer.method_id, n, part.shape)
    needs = coat_needs(sheet, part.features)
    crew = crew_of(facts, layer, work.many(needs))
    if (layer.id, crew) not in work.mixed:
        own = mixed_as_it_goes(facts, layer, work.airs.get(layer.part_id), work.now, crew)
        work.mixed[layer.id, crew] = *own, coat_ml(facts, layer).value
    takes_s, mixes, volume_ml = work.mixed[layer.id, crew]
    label = f"{part.name}: {_coat_of(sheet.name)} {n} of {layer.coats}"
    if crew > 1:
        label = f"{label}, {crew} people side by side"
    label = mixes.said(label)
    return ToDo(
        key=str(TaskKey(part_id=part.id, kind="coat", layer_id=layer.id, n=n)),
        kind="coat",
        part_id=part.id,
        job_id=work.job_id,
        label=label,
        duration_s=takes_s,
        hands=crew,
        mixes=mixes.n,
        mix_ml=mixes.each_ml,
        sheet_id=sheet.id,
        volume_ml=volume_ml,
        windows=windows,
        blocked=blocked if began_at is not None else blocked or work.nobody(needs),
        needs=needs,
        began_at=began_at,
        gun=layer.method_id if method.clean_s else "",
        setup_s=method.setup_s if method.clean_s else 0,
        clean_s=method.clean_s,
        place_id=part.place_id,
        dry_s=sheet.limits.dry_after_s or 0,
        leaves=_leaves(sheet),
        settles=_settles(sheet),
        character=hint.character,
        direction=hint.direction,
    )


def crew_of(facts: Facts, layer: Layer, painters: int) -> int:
    """How many put a coat on side by side: on a long surface, without a gun, as many as have room."""
    if facts.methods[layer.method_id].clean_s or facts.coat_s(layer) <= LONG_S:
        return 1
    return max(1, min(painters, int(facts.area_m2(layer) // ROOM_M2)))


def mixed_as_it_goes(
    facts: Facts, layer: Layer, air: Timeline | None, now: int, crew: int
) -> tuple[int, Mixes]:
    """How long a coat takes so many people [s], and into what mixes it is divided so that none dies.

    Who rolls mixes the next one when the one before is used up.

    Parameters
    ----------
    air : the air of the part; None: nothing is known, and it is mixed once.
    now : when the first is mixed [epoch s].
    crew : how many roll side by side.
    """
    takes_s = math.ceil(facts.coat_s(layer) / crew)
    volume_ml = coat_ml(facts, layer).value
    sheet = facts.sheets[layer.sheet_id]
    pot = _pot(facts, sheet)
    if pot.pace is None or air is None:
        return takes_s, Mixes(1, volume_ml)
    dies_at = reach_max(air.of_air(), pot.pace, now, pot.use_frac)
    mixes = divided(sheet, volume_ml, takes_s, takes_s if dies_at is None else dies_at - now)
    return takes_s + math.ceil((mixes.n - 1) * pot.mix_s / crew), mixes


def _leaves(sheet: Sheet) -> Pace | None:
    points = sheet.points_for("handle") or sheet.points_for("touch")
    return sheet_pace(sheet, points, "min") if points else None


def _settles(sheet: Sheet) -> Pace | None:
    """How a coat gets so far that dust does it no harm; None: rough or sanded flat anyhow, it never minds."""
    p = sheet.properties
    if sheet.build != "film" or p.fills or p.sanded or "texture" in p.gives or p.antifouling != "none":
        return None
    points = sheet.points_for("touch")
    return sheet_pace(sheet, points, "min") if points else None


def _still_wet(work: Gathered, state: JobState) -> dict[str, tuple[tuple[int, int], ...]]:
    """Films that lie on parts already and still take dust, by place [epoch s]."""
    out: dict[str, tuple[tuple[int, int], ...]] = {}
    for part in state.parts:
        top = part.films[-1] if part.films else None
        sheet = None if top is None else work.facts.sheets.get(top.sheet_id)
        air = work.airs.get(part.part_id)
        pace = None if sheet is None else _settles(sheet)
        if top is None or top.done_at is None or pace is None or air is None:
            continue
        settled = reach_min(air, pace, top.done_at)
        until = top.done_at + DUST_MOST_S if settled is None else min(settled, top.done_at + DUST_MOST_S)
        if until > work.now:
            out[part.place_id] = (*out.get(part.place_id, ()), (top.started_at, until))
    return out


def _windows_of_top(part: PartState, now: int) -> tuple[tuple[Interval, ...], bool, str | None]:
    """Intervals for the next coat from what lies on the part; whether all of them have closed."""
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
        return ahead, False, None
    if windows:
        return (), True, None
    return (), False, "will not dry at the expected temperature: heat the bay"


def _recoat_link(facts: Facts, below: On, above: On) -> Link:
    lower, upper = facts.sheets[below.layer.sheet_id], facts.sheets[above.layer.sheet_id]
    recoat = recoat_at(facts.join(lower.id, upper.id), lower, planned_dry_um(below.layer, lower), 1.0)
    windows: list[tuple[Edge, Edge]] = []
    for w in recoat.windows if recoat else ():
        opens = None if w.from_s == 0 else sheet_pace(lower, ((w.at_degc, w.from_s),), "min")
        closes = None if w.to_s is None else sheet_pace(lower, ((w.at_degc, w.to_s),), "max")
        windows.append((opens, closes))
    shape = facts.part(above.layer.part_id).shape
    other_way = turned(lower, below.layer.method_id, below.n, upper, above.layer.method_id, above.n, shape)
    if not windows:
        # Where the sheet below says nothing of this one, it is dry to touch first; that it holds nobody says.
        points = lower.points_for("touch") or lower.points_for("full")
        windows = [(sheet_pace(lower, points, "min") if points else None, None)]
    return Link(below.key, above.key, tuple(windows), "recoat", lower.id, other_way)


def _add_then(work: Gathered, part: PartState, before: On | None) -> None:
    """What the top sheet wants done to its last coat, if nobody has done it yet."""
    facts = work.facts
    layers = facts.layers_of(part.part_id)
    if not layers:
        return
    top = facts.sheets[layers[-1].sheet_id]
    for then in top.then:
        if before is None and then.step in part.steps_done:
            continue
        opens = sheet_pace(top, ((then.at_degc, then.from_s),), "min")
        closes = None if then.to_s is None else sheet_pace(top, ((then.at_degc, then.to_s),), "max")
        key = str(TaskKey(part_id=part.part_id, kind="step", step_id=then.step.replace(" ", "_")))
        film = part.films[-1] if part.films else None
        windows: tuple[Interval, ...] = ()
        if before is None and film is not None and film.done_at is not None:
            done = Link(film.slot, key, ((opens, closes),), "then", top.id)
            air = work.airs.get(part.part_id)
            windows = link_windows(done, air, film.started_at, film.done_at, then.takes_s)
            # Too late or not, it still has to be done.
            windows = tuple((a, None) for a, _ in windows[:1]) or ((work.now, None),)
        work.tasks[key] = ToDo(
            key=key,
            kind="step",
            part_id=part.part_id,
            job_id=work.job_id,
            label=f"{facts.part(part.part_id).name}: {then.step}",
            duration_s=then.takes_s,
            windows=windows,
            place_id=part.place_id,
            step=then.step,
        )
        if before is not None:
            work.links.append(Link(before.key, key, ((opens, closes),), "then", top.id))


def _add_unmask(work: Gathered, part: PartState, before: On | None) -> None:
    facts = work.facts
    layers = facts.layers_of(part.part_id)
    if not layers or part.unmasked_at is not None:
        return
    top = facts.sheets[layers[-1].sheet_id]
    top = sheet_at(top, planned_dry_um(layers[-1], top))
    opens, closes = top.points_for("unmask_from"), top.points_for("unmask_to")
    if not opens:
        return
    name = "unmask_from"
    if waits_until_dry(facts, part.part_id, top, "unmask"):
        name = "handle" if top.points_for("handle") else "touch"
        opens, closes = top.points_for(name) or opens, ()
    gate = next((g for g in part.gates if g.name == name), None)
    windows: tuple[Interval, ...] = ()
    if gate is not None and gate.late_at is not None:
        # Past its end the tape still has to come off: the film is cut first, it does not stop.
        windows = ((gate.late_at, None),)
    key = str(TaskKey(part_id=part.part_id, kind="unmask"))
    work.tasks[key] = ToDo(
        key=key,
        kind="unmask",
        part_id=part.part_id,
        job_id=work.job_id,
        label=f"{facts.part(part.part_id).name}: unmasking",
        duration_s=UNMASK_S,
        windows=windows,
        place_id=part.place_id,
    )
    if before is not None:
        to = sheet_pace(top, closes, "max") if closes else None
        links = ((sheet_pace(top, opens, "min"), to),)
        work.links.append(Link(before.key, key, links, "unmask", top.id))
