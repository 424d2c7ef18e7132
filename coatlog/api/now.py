"""Now: what every live job of the shop waits for."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from coatlog.core.plan.plan import Plan
from coatlog.core.run.facts import Facts, as_decided, as_placed
from coatlog.core.run.states import Clock, JobState
from coatlog.core.run.view import View, view
from coatlog.run import projection, services
from coatlog.run.apart import Panels
from coatlog.run.doing import Doing, doing
from coatlog.run.models import DUE_AHEAD_S, JobProjection
from coatlog.run.reflow import plans_as_of
from coatlog.shop import clock

from .guard import member_of
from .summaries import JobHead, job_head, without_lists

router = Router()
DUE_JOBS = 40


class NowQuery(Schema):
    due_jobs: int = Field(default=DUE_JOBS, ge=1, le=400)


class NowLine(Schema):
    head: JobHead
    view: View
    facts: Facts
    state: JobState
    plan: Plan | None
    doing: list[Doing] = []


class DueLine(Schema):
    """Something due in service; the same thing on several parts is one line."""

    job_id: UUID
    asset: str
    part: str
    parts: int
    what: str
    due_at: int


class NowPage(Schema):
    """`due` in service, so many jobs at a time; `due_left`: how many jobs have more of it.

    `failed`: the names of jobs that could not be worked out; the others stand.
    """

    now_at: int
    due: list[DueLine]
    due_left: int
    lines: list[NowLine]
    clocks: list[Clock]
    failed: list[str]


@router.get("/now", response=NowPage, operation_id="get_now")
def get_now(request: HttpRequest, q: Query[NowQuery]) -> NowPage:
    """Live jobs with what they wait for, and what is due in service on `due_jobs` of the others."""
    member, now = member_of(request), clock.now()
    lines: list[NowLine] = []
    due: list[DueLine] = []
    live = services.heads(member, now)
    served, waiting = services.due_rows(member, now, q.due_jobs)
    facts = services.facts_of_rows([*live, *served])
    plans = plans_as_of(member.shop, live, now)
    panels = Panels()
    nothing: tuple[NowLine | None, list[DueLine]] = (None, [])
    for row in (*live, *served):
        line, own = panels.get(row.job.title, partial(_line, row, facts, plans, now), nothing)
        due += own
        if line is not None:
            lines.append(line)
    on = doing((x.head.id, x.state) for x in lines)
    for line in lines:
        line.doing = list(on.get(line.head.id, ()))
    lines.sort(key=lambda x: (x.view.latest_start_at is None, x.view.latest_start_at or 0))
    clocks = sorted(
        (c for x in lines for c in x.view.clocks),
        key=lambda c: (c.latest_start_at is None, c.latest_start_at or c.opens_at or 0),
    )
    due.sort(key=lambda d: (d.due_at, d.asset, d.what))
    return NowPage(
        now_at=now, due=due, due_left=waiting - len(served), lines=lines, clocks=clocks, failed=panels.failed
    )


def _line(
    row: JobProjection, facts: Mapping[str, Facts], plans: Mapping[UUID, Plan | None], now: int
) -> tuple[NowLine | None, list[DueLine]]:
    """One job as Today has it, where it is live, and what is due on it in service."""
    state = projection.state_from(row)
    if state.facts_id is None or state.facts_id not in facts:
        return None, []
    its_facts = as_decided(facts[state.facts_id], state.coats)
    its_facts = as_placed(its_facts, {p.part_id: p.place_id for p in state.parts})
    due = _due(row, state, its_facts, now)
    if not row.is_live(now):
        return None, due
    picked = view(state, now)
    line = NowLine(
        head=job_head(row.job, row, state, picked, its_facts),
        view=picked,
        facts=without_lists(its_facts),
        state=state,
        plan=plans[row.job_id],
    )
    return line, due


def _due(row: JobProjection, state: JobState, facts: Facts, now: int) -> list[DueLine]:
    """What is due in service on one job within a week; the same thing on several parts is one line."""
    lines: dict[tuple[str, int], DueLine] = {}
    for life in state.service:
        for d in life.due:
            if d.usual or d.due_at is None or d.due_at > now + DUE_AHEAD_S:
                continue
            line = lines.setdefault(
                (d.key, d.due_at),
                DueLine(
                    job_id=row.job_id,
                    asset=row.job.asset.name,
                    part=facts.part(life.part_id).name,
                    parts=0,
                    what=d.what,
                    due_at=d.due_at,
                ),
            )
            line.parts += 1
    return list(lines.values())
