"""Stacks before a job stands on them: judged, suggested, and what a candidate comes to."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from coatlog.core.compare import Summary
from coatlog.core.stack.alternatives import Alternative, alternatives_for
from coatlog.core.stack.answers import Before, before_any_coat
from coatlog.core.stack.builder import Needs, Rejected
from coatlog.core.stack.local import across_mm
from coatlog.core.stack.preps import path_words
from coatlog.core.stack.rules import Finding, StackLayer, Survey
from coatlog.core.stack.step_sequence import Work, step_sequence
from coatlog.core.stack.warrants import Warrant
from coatlog.errors import Refused
from coatlog.jobs import services
from coatlog.run.record import lived_s
from coatlog.shop import clock

from .drafts import LayerIn, PartIn, PatchesIn, draft_layers, draft_parts
from .guard import member_of

router = Router()


class JudgeIn(Schema):
    parts: list[PartIn] = Field(min_length=1, max_length=200)
    layers: list[LayerIn] = Field(max_length=20)
    prep: str = Field(default="", max_length=80)
    place_id: UUID | None = None
    asset_kind: str = Field(default="", pattern="^(|road|vessel|aircraft)$")


class SuggestIn(Schema):
    """Parts as surveyed and what the finish is to be, in words of the survey.

    `life_s`: how long it must last; `ready_s`: how soon it must be in use [s].
    """

    parts: list[PartIn] = Field(min_length=1, max_length=200)
    wanted: list[str] = Field(max_length=12)
    place_id: UUID | None = None
    asset_kind: str = Field(default="", pattern="^(|road|vessel|aircraft)$")
    life_s: int | None = Field(default=None, gt=0, le=2**31)
    ready_s: int | None = Field(default=None, gt=0, le=2**31)


class CandidateOut(Schema):
    """A stack that no rule stops, with its steps and what it comes to.

    `prep` is how the surface is prepared, as a job keeps it.
    """

    prep: str
    prep_words: list[str]
    layers: list[LayerIn]
    findings: list[Finding]
    gives: list[str]
    ready_s: int
    life_s: int | None
    lived: bool
    cost_per_m2: float | None
    cost_a_year: float | None
    air_fed: bool
    misses: list[str]
    warrants: list[Warrant]
    usual: bool
    score: float
    work: list[Work]


class SuggestOut(Schema):
    """`before`: what may do instead of a coat, or must come before one, by its word."""

    best: list[CandidateOut]
    legal: int
    rejected: list[Rejected]
    missing: str
    before: list[Before]
    alternatives: list[Alternative]


class JudgeOut(Schema):
    """Findings, and what the stack comes to; no summary where an area is still missing."""

    findings: list[Finding]
    summary: Summary | None


def _layer(x: StackLayer, survey: Survey) -> LayerIn:
    """A layer of an offer; on damaged places alone with how many and how wide it lies over each."""
    patches = None
    if x.patches_m2 is not None:
        patches = PatchesIn(n=survey.patch_n or 1, across_mm=across_mm(survey))
    return LayerIn(sheet_id=x.sheet.id, coats=x.coats, target_um=x.target_um, patches=patches)


@router.post("/judge", response=JudgeOut, operation_id="judge_stack")
def judge_stack(request: HttpRequest, data: JudgeIn) -> JudgeOut:
    shop, parts, layers = member_of(request).shop, draft_parts(data.parts), draft_layers(data.layers)
    place = services.place_of(shop, data.place_id)
    found = services.judge_stack(shop, parts, layers, data.prep, place, data.asset_kind)
    try:
        summary = services.candidate(shop, parts, layers) if layers else None
    except Refused:
        summary = None  # an area that is not typed yet stops no rule from speaking
    return JudgeOut(findings=list(found), summary=summary)


@router.post("/suggest", response=SuggestOut, operation_id="suggest_stacks")
def suggest_stacks(request: HttpRequest, data: SuggestIn) -> SuggestOut:
    """The best few stacks the shelf holds for these parts, and why others were set aside.

    What lasted here counts before what is claimed.
    """
    shop = member_of(request).shop
    record = lived_s(shop, clock.now())
    parts = draft_parts(data.parts)
    place = services.place_of(shop, data.place_id)
    needs = Needs(life_s=data.life_s, ready_s=data.ready_s)
    survey = services.surveys_of(shop, parts)[0]
    found = services.suggest_stacks(
        shop, parts, data.wanted, record, place=place, craft=data.asset_kind, needs=needs
    )
    return SuggestOut(
        best=[
            CandidateOut(
                prep=path_words(c.path),
                prep_words=[p.name for p in c.path],
                layers=[_layer(x, survey) for x in c.layers],
                findings=list(c.findings),
                gives=list(c.gives),
                ready_s=c.ready_s,
                life_s=c.life_s,
                lived=c.lived,
                cost_per_m2=c.cost,
                cost_a_year=c.cost_a_year,
                air_fed=c.air_fed,
                misses=list(c.misses),
                warrants=list(c.warrants),
                usual=c.usual,
                score=c.score,
                work=list(step_sequence(survey, c.path, c.layers)),
            )
            for c in found.best
        ],
        legal=found.legal,
        rejected=list(found.rejected),
        missing=found.missing,
        before=list(before_any_coat(survey, data.wanted)),
        alternatives=list(alternatives_for(survey, [x.sheet for c in found.best for x in c.layers])),
    )
