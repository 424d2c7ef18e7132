"""The shelf: the sheets of a shop."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from coatlog.core.run.facts import METHODS
from coatlog.core.run.parts import sheet_solids_frac
from coatlog.core.sheet import Sheet
from coatlog.shop.auth import member_of

from . import services

router = Router()


class SheetOut(Schema):
    """A sheet with the figures the shelf shows beside it."""

    sheet: Sheet
    solids_frac: float
    method_name: str


@router.get("/shelf", response=list[SheetOut], operation_id="list_sheets")
def list_sheets(request: HttpRequest) -> list[SheetOut]:
    return [
        SheetOut(sheet=s, solids_frac=sheet_solids_frac(s), method_name=METHODS[s.method_id].name)
        for s in services.latest_sheets(member_of(request).shop)
    ]
