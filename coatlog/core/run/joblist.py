"""The step list of a job: what its facts say is to be done on each part, and what of it is still due.

The same objects stand in the list a painter ticks, in the plan, and in what holds a coat back.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Protocol

from ..sheet import Sheet
from ..stack.findings import StackLayer, Survey
from ..stack.preps import path_of
from ..stack.schools import SCHOOLS, schools_for
from ..stack.steps import STEPS
from ..stack.surfaces import SUBSTRATES
from ..stack.worklist import Work, with_steps, worklist
from .facts import Facts, Part

__all__ = [
    "PLANNED",
    "after_coats",
    "before_coat",
    "chosen_wait_s",
    "job_work",
    "plans_steps",
    "survey_of",
    "tick",
    "work_on",
]

#: What a job's choice `steps` says where its steps are planned like its coats.
PLANNED = "planned"


def plans_steps(facts: Facts) -> bool:
    """Whether the plan holds the steps of this job, or its coats alone."""
    return facts.choices.get("steps") == PLANNED


class Surveyed(Protocol):
    """A part as a survey says it, frozen or still being written down."""

    @property
    def substrate(self) -> str: ...
    @property
    def must_survive(self) -> tuple[str, ...]: ...
    @property
    def features(self) -> tuple[str, ...]: ...
    @property
    def bare_mm(self) -> float | None: ...
    @property
    def dark(self) -> bool: ...


def survey_of(part: Surveyed, has: Sequence[str] | None = None, *, outdoors: bool = False) -> Survey:
    """What is known of a part, in the words of the rules.  `has`, `outdoors`: see Survey."""
    return Survey(
        substrate=part.substrate,
        must_survive=part.must_survive,
        features=part.features,
        bare_mm=part.bare_mm,
        dark=part.dark,
        outdoors=outdoors,
        has=None if has is None else tuple(has),
    )


def work_on(facts: Facts, part: Part) -> tuple[Work, ...]:
    """Everything to do on one part in working order; nothing without layers or on an unknown surface."""
    survey = survey_of(part)
    path = path_of(part.substrate, facts.choices.get("prep", ""), part.features) or ()
    stack = [
        StackLayer(sheet=facts.sheets[x.sheet_id], coats=x.coats, target_um=x.target_um)
        for x in facts.layers_of(part.id)
    ]
    if not stack or part.substrate not in SUBSTRATES:
        return ()
    works = worklist(survey, path, with_steps(survey, path, stack), part.area_m2 * part.count)
    return tuple(x for w in works if (x := _as_chosen(facts, w)) is not None)


def _as_chosen(facts: Facts, work: Work) -> Work | None:
    """The step in the way taken here, where painters differ and somebody chose; None: it is left out."""
    for school in SCHOOLS:
        chosen = facts.choices.get(f"way.{school.id}")
        way = next((w for w in school.ways if w.name == chosen), None)
        if way is not None and school.step == work.step:
            return None if way.skips else replace(work, name=f"{work.name}: {way.name}")
    return work


def chosen_wait_s(facts: Facts, lower: Sheet) -> int:
    """The least wait [s] after a coat of a material that somebody chose, where painters differ; 0: none."""
    taken = {k.removeprefix("way."): v for k, v in facts.choices.items() if k.startswith("way.")}
    asked = schools_for(Survey(substrate=facts.parts[0].substrate), [lower])
    return max((w.wait_s for s in asked for w in s.ways if taken.get(s.id) == w.name), default=0)


def job_work(facts: Facts) -> dict[str, tuple[Work, ...]]:
    """The step list of each part of a job that is not retired."""
    return {p.id: work_on(facts, p) for p in facts.parts if not p.retired}


def before_coat(works: Sequence[Work], position: int) -> tuple[Work, ...]:
    """The steps before the first coat of the layer at `position` (from 0), in working order."""
    end = next((i for i, w in enumerate(works) if w.step == "coat" and w.position == position), len(works))
    return tuple(w for w in works[:end] if w.position == (position or -1) and w.step != "coat")


def after_coats(works: Sequence[Work]) -> tuple[Work, ...]:
    """The steps after the last coat, in working order."""
    last = max((i for i, w in enumerate(works) if w.step == "coat"), default=-1)
    return tuple(works[last + 1 :]) if last >= 0 else ()


def tick(ticked: Iterable[tuple[str, bool]]) -> Mapping[str, bool]:
    """What stands of checks ticked and failed, told in order, by key.

    A check that fails takes back what was ticked after its step on the same surface: what was wiped
    before it was abraded again is to be wiped again.  Tape stays where it is, and a list of ports that
    is not whole takes no cleaning back.
    """
    held: dict[str, bool] = {}
    for key, right in ticked:
        held[key] = right
        at, failed, n = _place(key)
        if right or not _on_the_surface(failed):
            continue
        for other in [k for k, v in held.items() if v]:
            there, step, i = _place(other)
            if there == at and i > n and _on_the_surface(step):
                del held[other]
    return held


def _on_the_surface(step: str) -> bool:
    return step in STEPS and STEPS[step].kind in ("clean", "strip", "abrade")


def _place(key: str) -> tuple[str, str, int]:
    """(position, step, index) of a key of the list; an unknown one is nowhere."""
    at, _, rest = key.partition("/")
    step, _, n = rest.rpartition("/")
    return (at, step, int(n)) if n.isdecimal() else (key, "", -1)
