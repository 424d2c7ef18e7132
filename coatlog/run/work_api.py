"""What would go on a job, what is done on it, and what was found: stacks, steps with checks, damage."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.core.codec import from_plain
from coatlog.core.run.entries import DamageFound
from coatlog.core.run.step_list import job_work
from coatlog.core.stack.alternatives import Alternative, alternatives_for
from coatlog.core.stack.preps import path_of
from coatlog.core.stack.step_sequence import Work
from coatlog.jobs.api import SuggestIn, SuggestOut, suggested
from coatlog.jobs.frozen_facts import latest_facts
from coatlog.jobs.services import surveys_of
from coatlog.shop import clock
from coatlog.shop.auth import member_of

from . import services
from .projection import current, ground_of, state_from
from .record_api import lived_s

router = Router()


class WorkOut(Schema):
    """A step, and its check: held, failed, or nobody has looked (None)."""

    work: Work
    held: bool | None


class PartWork(Schema):
    """The steps of parts that are worked alike, their times together; `waits_for`: the step that failed."""

    part_ids: list[str]
    names: list[str]
    prep: list[str]
    steps: list[WorkOut]
    waits_for: str
    alternatives: list[Alternative]


def _alike(a: list[WorkOut], b: list[WorkOut]) -> bool:
    """Whether two parts have the same steps to do and the same checks, whatever time they take."""
    told = [[(s.work.key, s.work.name, s.held) for s in steps] for steps in (a, b)]
    return told[0] == told[1]


@router.post("/suggest", response=SuggestOut, operation_id="suggest_stacks")
def suggest_stacks(request: HttpRequest, data: SuggestIn) -> SuggestOut:
    """The best few stacks the shelf holds for these parts; what lasted here counts before what is claimed."""
    shop = member_of(request).shop
    return suggested(shop, data, lived_s(shop, clock.now()))


@router.get("/jobs/{job_id}/work", response=list[PartWork], operation_id="get_work")
def get_work(request: HttpRequest, job_id: UUID) -> list[PartWork]:
    """What is to be done, part by part; parts with the same steps and checks stand together."""
    member = member_of(request)
    job = services.job_of(member, job_id)
    state = state_from(current(job, now=clock.now()))
    facts = latest_facts(job)
    checks = {p.part_id: p.checks for p in state.parts}
    out: list[PartWork] = []
    for part_id, works in job_work(facts).items():
        part, held = facts.part(part_id), checks.get(part_id, {})
        steps = [WorkOut(work=w, held=held.get(w.key)) for w in works]
        failed = next((s.work for s in steps if s.held is False), None)
        same = next((x for x in out if _alike(x.steps, steps)), None)
        if same is not None:
            same.part_ids.append(part_id)
            same.names.append(part.name)
            for line, more in zip(same.steps, steps, strict=True):
                line.work = replace(line.work, takes_s=line.work.takes_s + more.work.takes_s)
            continue
        path = path_of(part.substrate, facts.choices.get("prep", ""), part.features) or ()
        sheets = [facts.sheets[x.sheet_id] for x in facts.layers_of(part_id)]
        out.append(
            PartWork(
                part_ids=[part_id],
                names=[part.name],
                prep=[p.name for p in path],
                steps=steps,
                waits_for="" if failed is None else failed.if_failed or f"{failed.name}: do it again.",
                alternatives=list(alternatives_for(surveys_of(member.shop, [part])[0], sheets)),
            )
        )
    return out


class DamageOut(Schema):
    """Damage found before any work: a note, and a pin on a picture where there is one."""

    entry_id: str
    at: int
    part_id: str
    part: str
    text: str
    photo_id: str | None
    across_frac: float | None
    down_frac: float | None
    before_work: bool


@router.get("/jobs/{job_id}/damage", response=list[DamageOut], operation_id="get_damage")
def get_damage(request: HttpRequest, job_id: UUID) -> list[DamageOut]:
    """The damage register.  `before_work`: it was written down before the first coat."""
    job = services.job_of(member_of(request), job_id)
    state = state_from(current(job, now=clock.now()))
    stands = {x.entry_id for x in state.ledger if x.outcome == "applied"}
    names = {p.id: p.name for p in latest_facts(job).parts}
    first = min((f.started_at for p in state.parts for f in p.films), default=None)
    out = []
    for e in ground_of(job).entries:
        if e.kind != "damage_found" or e.id not in stands:
            continue
        found = from_plain(DamageFound, e.body)
        out.append(
            DamageOut(
                entry_id=e.id,
                at=e.at_true,
                part_id=found.part_id,
                part=names.get(found.part_id, "part"),
                text=found.text,
                photo_id=found.photo_id,
                across_frac=found.across_frac,
                down_frac=found.down_frac,
                before_work=first is None or e.at_true < first,
            )
        )
    return out
