"""Survey and stack before a job stands on them: areas, rules, what a candidate comes to."""

from __future__ import annotations

from collections.abc import Mapping
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from coatlog.core.area import SHAPES, area_of
from coatlog.core.compare import Summary
from coatlog.core.run.facts import Face
from coatlog.core.sheet import FINISH_GROUPS, FINISHES
from coatlog.core.stack.alternatives import Alternative, alternatives_for
from coatlog.core.stack.builder import Needs, Rejected
from coatlog.core.stack.preps import PREPS, path_words
from coatlog.core.stack.quick_looks import CHECKS, Check
from coatlog.core.stack.rules import Finding
from coatlog.core.stack.step_sequence import Work, step_sequence
from coatlog.core.stack.surfaces import EXPOSURE_GROUPS, EXPOSURES, FEATURES, SUBSTRATES
from coatlog.core.stack.templates import TEMPLATES, Template
from coatlog.core.why import Figure
from coatlog.errors import Refused
from coatlog.shop import clock
from coatlog.shop.auth import member_of
from coatlog.shop.models import Shop

from . import services
from .photos import photo_of, take_photo

router = Router()


class LayerIn(Schema):
    sheet_id: str
    coats: int = Field(ge=1, le=40)
    target_um: float | None = Field(default=None, gt=0, le=20000)


class PartIn(Schema):
    """A part; its area is typed or comes from `shape` and `measures` [m]."""

    id: str | None = None
    name: str = Field(min_length=1, max_length=60)
    area_m2: float | None = Field(default=None, gt=0, le=10000)
    substrate: str
    condition: str = Field(default="", max_length=120)
    count: int = Field(default=1, ge=1, le=1000)
    as_set: bool = False
    shape: str = ""
    measures: dict[str, float] = Field(default_factory=dict, max_length=8)
    faces: list[Face] = Field(default_factory=list, max_length=12)
    must_survive: list[str] = Field(default_factory=list, max_length=12)
    damage: str = Field(default="", max_length=400)
    set_name: str = Field(default="", max_length=60)
    shape_text: str = Field(default="", max_length=200)
    features: list[str] = Field(default_factory=list, max_length=24)
    bare_mm: float | None = Field(default=None, ge=0, le=5000)
    dark: bool = False


class OverruleIn(Schema):
    rule_id: str
    reason: str = Field(max_length=400)


class JudgeIn(Schema):
    parts: list[PartIn] = Field(min_length=1, max_length=200)
    layers: list[LayerIn] = Field(max_length=20)
    prep: str = Field(default="", max_length=80)
    place_id: UUID | None = None


class SuggestIn(Schema):
    """Parts as surveyed and what the finish is to be, in words of the survey.

    `life_s`: how long it must last; `ready_s`: how soon it must be in use [s].
    """

    parts: list[PartIn] = Field(min_length=1, max_length=200)
    wanted: list[str] = Field(max_length=12)
    place_id: UUID | None = None
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
    air_fed: bool
    misses: list[str]
    score: float
    work: list[Work]


class SuggestOut(Schema):
    best: list[CandidateOut]
    legal: int
    rejected: list[Rejected]
    missing: str
    alternatives: list[Alternative]


class JudgeOut(Schema):
    """Findings, and what the stack comes to; no summary where an area is still missing."""

    findings: list[Finding]
    summary: Summary | None


class ChoiceOut(Schema):
    id: str
    name: str


class GroupedOut(ChoiceOut):
    group: str


class FeatureOut(ChoiceOut):
    kind: str


class MeasureOut(Schema):
    name: str
    words: str
    usual: float | None


class ShapeOut(ChoiceOut):
    measures: list[MeasureOut]


class SurveyOut(Schema):
    """What a survey may choose from."""

    substrates: list[GroupedOut]
    exposures: list[GroupedOut]
    features: list[FeatureOut]
    finishes: list[GroupedOut]
    preps: list[ChoiceOut]
    templates: list[Template]
    checks: list[Check]
    shapes: list[ShapeOut]


class PhotoOut(Schema):
    photo_id: str
    width_px: int
    height_px: int


class AreaIn(Schema):
    shape: str
    measures: dict[str, float] = Field(max_length=8)


@router.get("/survey", response=SurveyOut, operation_id="get_survey")
def get_survey(request: HttpRequest) -> SurveyOut:
    return SurveyOut(
        substrates=[GroupedOut(id=s.id, name=s.name, group=s.group) for s in SUBSTRATES.values()],
        exposures=_grouped(EXPOSURES, EXPOSURE_GROUPS),
        features=[FeatureOut(id=k, name=v.name, kind=v.kind) for k, v in FEATURES.items()],
        finishes=_grouped(FINISHES, FINISH_GROUPS),
        preps=[ChoiceOut(id=p.id, name=p.name) for p in PREPS],
        templates=list(TEMPLATES),
        checks=list(CHECKS),
        shapes=[
            ShapeOut(
                id=s.id,
                name=s.name,
                measures=[MeasureOut(name=n, words=w, usual=u) for n, w, u in s.asks],
            )
            for s in SHAPES.values()
        ],
    )


def _grouped(words: Mapping[str, str], groups: Mapping[str, tuple[str, ...]]) -> list[GroupedOut]:
    return [GroupedOut(id=k, name=words[k], group=g) for g, keys in groups.items() for k in keys]


@router.post("/area", response=Figure, operation_id="get_area")
def get_area(request: HttpRequest, data: AreaIn) -> Figure:
    return area_of(data.shape, data.measures)


@router.post("/photos", response=PhotoOut, operation_id="add_photo")
def add_photo(request: HttpRequest, file: File[UploadedFile]) -> PhotoOut:
    """A picture, sent before the entry that names it.  What a camera adds to it is not kept."""
    member = member_of(request)
    if file.size is None or file.size > settings.UPLOAD_LIMIT_BYTES:
        raise Refused.field("file", f"{(file.size or 0) / 1e6:.1f} MB", "8 MB at most")
    return PhotoOut.from_orm(take_photo(member, file.read(), file.name or "file", now=clock.now()))


@router.get("/photos/{photo_id}", response=bytes, operation_id="get_photo")
def get_photo(request: HttpRequest, photo_id: str) -> HttpResponse:
    photo = photo_of(member_of(request).shop, photo_id)
    response = HttpResponse(bytes(photo.content), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@router.post("/judge", response=JudgeOut, operation_id="judge_stack")
def judge_stack(request: HttpRequest, data: JudgeIn) -> JudgeOut:
    shop, parts, layers = member_of(request).shop, draft_parts(data.parts), draft_layers(data.layers)
    place = services.place_of(shop, data.place_id)
    found = services.judge_stack(shop, parts, layers, data.prep, place)
    try:
        summary = services.candidate(shop, parts, layers) if layers else None
    except Refused:
        summary = None  # an area that is not typed yet stops no rule from speaking
    return JudgeOut(findings=list(found), summary=summary)


def suggested(shop: Shop, data: SuggestIn, record: Mapping[str, int]) -> SuggestOut:
    """The best few stacks the shelf holds for these parts, and why others were set aside."""
    parts = draft_parts(data.parts)
    place = services.place_of(shop, data.place_id)
    needs = Needs(life_s=data.life_s, ready_s=data.ready_s)
    found = services.suggest_stacks(shop, parts, data.wanted, record, place=place, needs=needs)
    survey = services.surveys_of(shop, parts)[0]
    return SuggestOut(
        best=[
            CandidateOut(
                prep=path_words(c.path),
                prep_words=[p.name for p in c.path],
                layers=[LayerIn(sheet_id=x.sheet.id, coats=x.coats, target_um=x.target_um) for x in c.layers],
                findings=list(c.findings),
                gives=list(c.gives),
                ready_s=c.ready_s,
                life_s=c.life_s,
                lived=c.lived,
                cost_per_m2=c.cost,
                air_fed=c.air_fed,
                misses=list(c.misses),
                score=c.score,
                work=list(step_sequence(survey, c.path, c.layers)),
            )
            for c in found.best
        ],
        legal=found.legal,
        rejected=list(found.rejected),
        missing=found.missing,
        alternatives=list(alternatives_for(survey, [x.sheet for c in found.best for x in c.layers])),
    )


def draft_layers(layers: list[LayerIn]) -> list[services.LayerDraft]:
    return [services.LayerDraft(sheet_id=x.sheet_id, coats=x.coats, target_um=x.target_um) for x in layers]


def draft_parts(parts: list[PartIn]) -> list[services.PartDraft]:
    return [
        services.PartDraft(
            **{
                **p.dict(exclude={"faces", "must_survive", "features"}),
                "features": tuple(p.features),
                "faces": tuple(p.faces),
                "must_survive": tuple(p.must_survive),
            }
        )
        for p in parts
    ]


def draft_overrules(rows: list[OverruleIn]) -> list[services.OverruleDraft]:
    return [services.OverruleDraft(rule_id=o.rule_id, reason=o.reason) for o in rows]
