"""The step list of a job as it stands: parts that are worked alike together, each check with its answer."""

from __future__ import annotations

from dataclasses import dataclass, replace

from coatlog.core.run.facts import Facts
from coatlog.core.run.states import JobState
from coatlog.core.run.step_list import job_work
from coatlog.core.stack.alternatives import Alternative, alternatives_for
from coatlog.core.stack.findings import survey_of
from coatlog.core.stack.preps import path_of
from coatlog.core.stack.step_catalogue import STEPS
from coatlog.core.stack.step_sequence import Work

__all__ = ["PartWork", "WorkLine", "part_works"]


@dataclass(slots=True, kw_only=True)
class WorkLine:
    """A step, and its check: held, failed, or nobody has looked (None)."""

    work: Work
    held: bool | None


@dataclass(slots=True, kw_only=True)
class PartWork:
    """The steps of parts that are worked alike, their times together; `waits_for`: the step that failed."""

    part_ids: list[str]
    names: list[str]
    prep: list[str]
    steps: list[WorkLine]
    waits_for: str
    alternatives: list[Alternative]


def part_works(facts: Facts, state: JobState) -> list[PartWork]:
    """What is to be done, part by part; parts with the same steps and checks stand together."""
    checks = {p.part_id: p.checks for p in state.parts}
    out: list[PartWork] = []
    for part_id, works in job_work(facts).items():
        part, held = facts.part(part_id), checks.get(part_id, {})
        steps = [WorkLine(work=w, held=held.get(w.key)) for w in works]
        same = next((x for x in out if _alike(x.steps, steps)), None)
        if same is not None:
            same.part_ids.append(part_id)
            same.names.append(part.name)
            for line, more in zip(same.steps, steps, strict=True):
                line.work = replace(line.work, takes_s=_together_s(line.work, more.work))
            continue
        failed = next((s.work for s in steps if s.held is False), None)
        path = path_of(part.substrate, facts.choices_of(part_id).get("prep", ""), part.features) or ()
        sheets = [facts.sheets[x.sheet_id] for x in facts.layers_of(part_id)]
        out.append(
            PartWork(
                part_ids=[part_id],
                names=[part.name],
                prep=[p.name for p in path],
                steps=steps,
                waits_for="" if failed is None else failed.if_failed or f"{failed.name}: do it again.",
                alternatives=list(alternatives_for(survey_of(part), sheets)),
            )
        )
    return out


def _together_s(a: Work, b: Work) -> int:
    """How long a step takes on parts together: a can that warms, warms for all of them at once."""
    known = STEPS.get(a.step)
    at_once = known is not None and (known.once or known.hands_off)
    return max(a.takes_s, b.takes_s) if at_once else a.takes_s + b.takes_s


def _alike(a: list[WorkLine], b: list[WorkLine]) -> bool:
    """Whether two parts have the same steps to do and the same checks, whatever time they take."""
    told = [[(s.work.key, s.work.name, s.held) for s in steps] for steps in (a, b)]
    return told[0] == told[1]
