"""Reading a step list: what is due before a coat and after the last, and what its ticks come to.

The list itself is frozen in the facts.  The same objects stand in the list a painter ticks, in the
plan, and in what holds a coat back.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from ..sheet import Sheet
from ..stack.alternatives import Alternative, Way, alternatives_for
from ..stack.findings import Survey
from ..stack.step_sequence import Work
from .facts import Facts

__all__ = ["after_coats", "before_coat", "chosen_wait_s", "job_work", "tick", "waits_until_dry"]


def chosen_wait_s(facts: Facts, part_id: str, lower: Sheet) -> int:
    """The least wait [s] after a coat of a material that somebody chose, where painters differ; 0: none."""
    return max((w.wait_s for _, w in _ways_taken(facts, part_id, lower)), default=0)


def waits_until_dry(facts: Facts, part_id: str, top: Sheet, step: str) -> bool:
    """Whether a step after the last coat waits until that is dry, by the way somebody chose."""
    return any(a.step == step and w.until_dry for a, w in _ways_taken(facts, part_id, top))


def _ways_taken(facts: Facts, part_id: str, sheet: Sheet) -> list[tuple[Alternative, Way]]:
    """What was chosen where painters differ over a material."""
    chosen = facts.choices_of(part_id)
    taken = {k.removeprefix("way."): v for k, v in chosen.items() if k.startswith("way.")}
    asked = alternatives_for(Survey(substrate=facts.part(part_id).substrate), [sheet])
    return [(a, w) for a in asked for w in a.ways if taken.get(a.id) == w.name]


def job_work(facts: Facts) -> dict[str, tuple[Work, ...]]:
    """The step list of each part of a job that is not retired."""
    return {p.id: facts.steps_of(p.id) for p in facts.parts if not p.retired}


def before_coat(works: Sequence[Work], position: int) -> tuple[Work, ...]:
    """The steps before the first coat of the layer at `position` (from 0), in working order."""
    end = next((i for i, w in enumerate(works) if w.step == "coat" and w.position == position), len(works))
    return tuple(w for w in works[:end] if w.position == (position or -1) and w.step != "coat")


def after_coats(works: Sequence[Work]) -> tuple[Work, ...]:
    """The steps after the last coat, in working order."""
    last = max((i for i, w in enumerate(works) if w.step == "coat"), default=-1)
    return tuple(works[last + 1 :]) if last >= 0 else ()


def tick(ticked: Iterable[tuple[str, bool]], works: Sequence[Work]) -> Mapping[str, bool]:
    """What stands of checks ticked and failed, told in order, by the id of the step.

    A check that fails takes back what was ticked after its step on the same surface: what was wiped
    before it was abraded again is to be wiped again.  Tape stays where it is, and a list of ports that
    is not whole takes no cleaning back.  A tick of a step the list no longer has stays on record.
    """
    place = {w.key: i for i, w in enumerate(works)}
    held: dict[str, bool] = {}
    for key, right in ticked:
        held[key] = right
        failed = works[place[key]] if key in place else None
        if right or failed is None or not _on_the_surface(failed):
            continue
        for w in works[place[key] + 1 :]:
            if w.position == failed.position and held.get(w.key) and _on_the_surface(w):
                del held[w.key]
    return held


def _on_the_surface(work: Work) -> bool:
    return work.kind in ("clean", "strip", "abrade")
