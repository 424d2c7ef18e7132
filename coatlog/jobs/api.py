"""Judging a stack before a job stands on it."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from coatlog.core.stack.rules import SUBSTRATES, Finding
from coatlog.shop.auth import member_of

from . import services

router = Router()


class LayerIn(Schema):
    sheet_id: str
    coats: int = Field(ge=1, le=40)
    target_um: float | None = Field(default=None, gt=0, le=20000)


class JudgeIn(Schema):
    substrates: list[str]
    layers: list[LayerIn]


class JudgeOut(Schema):
    findings: list[Finding]


class SubstrateOut(Schema):
    id: str
    name: str


@router.get("/substrates", response=list[SubstrateOut], operation_id="list_substrates")
def list_substrates(request: HttpRequest) -> list[SubstrateOut]:
    return [SubstrateOut(id=k, name=v) for k, v in SUBSTRATES.items()]


@router.post("/judge", response=JudgeOut, operation_id="judge_stack")
def judge_stack(request: HttpRequest, data: JudgeIn) -> JudgeOut:
    found = services.judge_stack(member_of(request).shop, data.substrates, draft_layers(data.layers))
    return JudgeOut(findings=list(found))


def draft_layers(layers: list[LayerIn]) -> list[services.LayerDraft]:
    return [services.LayerDraft(sheet_id=x.sheet_id, coats=x.coats, target_um=x.target_um) for x in layers]
