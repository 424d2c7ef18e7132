"""The formulas behind computed numbers, with their sources."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.core.why import FORMULAS

router = Router()


class FormulaOut(Schema):
    id: str
    text: str
    source: str


@router.get("/formulas", response=list[FormulaOut], operation_id="list_formulas")
def list_formulas(request: HttpRequest) -> list[FormulaOut]:
    return [FormulaOut(id=k, text=f.text, source=f.source) for k, f in FORMULAS.items()]
