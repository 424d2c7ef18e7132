"""Parts that are worked alike go through a step together: all are washed, then all are sanded.

A step that several parts have in the same place of the same list is one task for all of them, as long as
nobody has ticked it on some and not on others.  What is done once (a can warmed, a test piece sprayed) is
done once.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

from ..run.facts import Part
from ..run.task_key import TaskKey, read_key
from ..stack.step_catalogue import STEPS
from ..stack.step_sequence import Work
from .problem import Link, ToDo
from .step_tasks import STINT_S, TOUCHES, Gathered, keyed_by, step_crew

__all__ = ["worked_alike"]


def worked_alike(work: Gathered, day_s: int | None = None) -> None:
    """Put the steps of parts with the same list together, in place.

    What is keyed has to be coated while the key lasts: where all of them cannot be keyed and coated within
    the longest day [s], each is by itself, one after another.
    """
    for listed in work.facts.steps:
        names = [p for p in work.facts.parts if p.id in listed.part_ids and not p.retired]
        if len(names) < 2 or len({p.place_id for p in names}) > 1:
            continue
        keyed = {w.position for w in listed.works if keyed_by([w])}
        first_key = next((i for i, w in enumerate(listed.works) if keyed_by([w])), len(listed.works))
        apart = day_s is not None and _keyed_and_coated_s(work, names, listed.works[first_key:]) > day_s
        for i, w in enumerate(listed.works):
            if apart and i >= first_key:
                break
            known = STEPS.get(w.step)
            # Between coats what touches no surface waits for none of them; before the first it has its place.
            anywhere = known is not None and known.once and w.kind not in TOUCHES and w.position > 0
            if w.position > 0 and w.position not in keyed and not anywhere:
                continue  # the window of the coat below runs on each part by itself
            stints = {p.id: _stints_of(work, p.id, w.key) for p in names}
            having = [p for p in names if stints[p.id]]
            if len(having) < 2 or not _as_free(stints[p.id] for p in having):
                continue
            label = having[0].set_name if {p.set_name for p in having} == {having[0].set_name} else ""
            who = label or " + ".join(p.name for p in having[:3])
            who = f"{who} × {len(having)}" if label else who if len(having) <= 3 else f"{len(having)} parts"
            area_m2 = sum(p.area_m2 * p.count for p in having)
            edge_m = sum(_edge_m(p) * p.count for p in having)
            each = [sum(t.duration_s * max(1, t.hands) for t in stints[p.id]) for p in having]
            takes_s = max(each) if known is not None and (known.once or known.hands_off) else sum(each)
            if known is not None and not (known.once or known.hands_off):
                takes_s = min(takes_s, max(known.takes_s(area_m2, edge_m), max(each)))
            crew = step_crew(replace(w, takes_s=takes_s), area_m2, work.many(stints[having[0].id][0].needs))
            _together(work, [stints[p.id] for p in having], f"{who}: {w.name}", takes_s, crew)
            if anywhere:
                _at_any_time(work, stints[having[0].id][0].key)
        _in_rounds(work, [p.id for p in names])


def _keyed_and_coated_s(work: Gathered, parts: Sequence[Part], works: Sequence[Work]) -> int:
    """How long it takes from the key of these parts to the first coat on the last of them [s]."""
    keys = {w.key for w in works if w.position == 0}
    whole_s = 0
    for p in parts:
        own = [t for t in work.tasks.values() if t.part_id == p.id]
        coat = next((t for t in own if t.kind == "coat"), None)
        steps = [t for k in keys for t in _stints_of(work, p.id, k) if t.hands]
        whole_s += sum(t.duration_s for t in (*steps, *((coat,) if coat is not None else ())))
    return whole_s


def _edge_m(part: Part) -> float:
    return 4 * math.sqrt(part.area_m2) if part.edge_m is None else part.edge_m


def _stints_of(work: Gathered, part_id: str, step_id: str) -> list[ToDo]:
    out = []
    for t in work.tasks.values():
        if t.part_id != part_id or t.kind != "step" or not t.work:
            continue
        key = read_key(t.key)
        if key is not None and key.step_id == step_id:
            out.append(t)
    return out


def _as_free(stints: object) -> bool:
    """Whether all of them may begin at the same times and none is stopped."""
    told = [[(t.windows, t.blocked, t.began_at, t.needs) for t in s[:1]] for s in stints]  # type: ignore[attr-defined]
    return all(x == told[0] for x in told) and all(b is None and a is None for x in told for _, b, a, _ in x)


def _in_rounds(work: Gathered, part_ids: Sequence[str]) -> None:
    """The tasks of these parts coat by coat: the first on all of them, then the second.

    What was prepared together does not wait on one part until another has all its coats.
    """
    stage = dict.fromkeys(part_ids, 0)
    placed: list[tuple[int, bool, int, ToDo]] = []
    for i, t in enumerate(work.tasks.values()):
        if t.part_id in stage:
            placed.append((stage[t.part_id], t.kind == "coat", i, t))
            stage[t.part_id] += t.kind == "coat"
    rows = iter([t for *_, t in sorted(placed, key=lambda x: x[:3])])
    ordered = [next(rows) if t.part_id in stage else t for t in work.tasks.values()]
    work.tasks.clear()
    work.tasks |= {t.key: t for t in ordered}


def _at_any_time(work: Gathered, key: str) -> None:
    """A task that waits for none, and from which nothing ages; what it stood between keeps its order."""
    before = [x for x in work.links if x.b_key == key]
    out: list[Link] = []
    for x in work.links:
        if x.b_key == key:
            continue
        if x.a_key != key:
            out.append(x)
            continue
        out += [Link(b.a_key, x.b_key, ((None, None),), "step", "") for b in before if b.a_key != x.b_key]
        out.append(replace(x, windows=((None, None),), gate="step"))
    work.links[:] = out


def _together(work: Gathered, groups: Sequence[Sequence[ToDo]], label: str, takes_s: int, crew: int) -> None:
    """One task, or one row of stints, in place of those of all the parts."""
    first = groups[0][0]
    key = read_key(first.key)
    assert key is not None
    n = 1 if first.by_itself else max(1, math.ceil(takes_s / crew / STINT_S))
    made = [
        replace(
            first,
            key=str(TaskKey(part_id=key.part_id, kind="step", step_id=key.step_id, stint=i + 1)),
            label=f"{label}{f', {i + 1} of {n}' if n > 1 else ''}",
            duration_s=math.ceil(takes_s / crew / n),
            hands=0 if first.by_itself else crew,
            windows=first.windows if i == 0 else (),
        )
        for i in range(n)
    ]
    gone = {t.key for g in groups for t in g}
    tasks: dict[str, ToDo] = {}
    for k, t in work.tasks.items():
        if k == first.key:
            tasks |= {x.key: x for x in made}
        elif k not in gone:
            tasks[k] = t
    work.tasks.clear()
    work.tasks |= tasks
    links: dict[tuple[object, ...], Link] = {}
    for x in work.links:
        if x.a_key in gone and x.b_key in gone:
            continue
        if x.b_key in gone:
            x = replace(x, b_key=made[0].key)
        elif x.a_key in gone:
            x = replace(x, a_key=made[-1].key)
        links[x.a_key, x.b_key, x.windows, x.gate] = x
    chain = [Link(a.key, b.key, ((None, None),), "step", "") for a, b in itertools.pairwise(made)]
    # Links run from the substrate up: the row stands before what waits for its end.
    kept = list(links.values())
    at = next((i for i, x in enumerate(kept) if x.a_key == made[-1].key), len(kept))
    work.links[:] = [*kept[:at], *chain, *kept[at:]]
