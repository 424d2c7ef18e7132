"""What a survey may choose from, and areas from measures."""

from __future__ import annotations

from collections.abc import Mapping

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from coatlog.core.area import SHAPES, Taken, area_of, doubts
from coatlog.core.sheet import FAMILIES, FINISH_GROUPS, FINISHES
from coatlog.core.stack.preps import PREPS
from coatlog.core.stack.quick_looks import CHECKS, Check
from coatlog.core.stack.surfaces import EXPOSURE_GROUPS, EXPOSURES, FEATURES, SUBSTRATES
from coatlog.core.stack.templates import TEMPLATES, Template
from coatlog.core.why import Figure

router = Router()


class ChoiceOut(Schema):
    id: str
    name: str


class GroupedOut(ChoiceOut):
    group: str


class FeatureOut(GroupedOut):
    kind: str


class MeasureOut(Schema):
    """`usual` [m, or a plain number]; `taken`: how it is measured, so in what unit it is asked."""

    name: str
    words: str
    usual: float | None
    taken: Taken


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
    families: dict[str, str]


class AreaIn(Schema):
    shape: str
    measures: dict[str, float] = Field(max_length=8)


@router.get("/survey", response=SurveyOut, operation_id="get_survey")
def get_survey(request: HttpRequest) -> SurveyOut:
    return SurveyOut(
        substrates=[GroupedOut(id=s.id, name=s.name, group=s.group) for s in SUBSTRATES.values()],
        exposures=_grouped(EXPOSURES, EXPOSURE_GROUPS),
        features=[FeatureOut(id=k, name=v.name, kind=v.kind, group=v.group) for k, v in FEATURES.items()],
        finishes=_grouped(FINISHES, FINISH_GROUPS),
        preps=[ChoiceOut(id=p.id, name=p.name) for p in PREPS],
        templates=list(TEMPLATES),
        checks=list(CHECKS),
        shapes=[
            ShapeOut(
                id=s.id,
                name=s.name,
                measures=[
                    MeasureOut(name=m.name, words=m.words, usual=m.usual, taken=m.taken) for m in s.asks
                ],
            )
            for s in SHAPES.values()
        ],
        families=FAMILIES,
    )


def _grouped(words: Mapping[str, str], groups: Mapping[str, tuple[str, ...]]) -> list[GroupedOut]:
    return [GroupedOut(id=k, name=words[k], group=g) for g, keys in groups.items() for k in keys]


class AreaOut(Schema):
    """`doubts`: measures that hardly can be so."""

    figure: Figure
    doubts: list[str]


@router.post("/area", response=AreaOut, operation_id="get_area")
def get_area(request: HttpRequest, data: AreaIn) -> AreaOut:
    return AreaOut(figure=area_of(data.shape, data.measures), doubts=list(doubts(data.shape, data.measures)))
