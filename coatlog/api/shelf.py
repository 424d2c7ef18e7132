"""The shelf: the sheets of a shop."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Body, File, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from coatlog.core.codec import to_plain
from coatlog.core.label import Told
from coatlog.core.label_text import Proposal
from coatlog.core.run.amounts import sheet_solids_frac
from coatlog.core.run.facts import METHODS
from coatlog.core.sheet import Sheet
from coatlog.core.shelving import Group, group_of
from coatlog.core.stack.step_sequence import usual_layer
from coatlog.errors import NotFound
from coatlog.run.lots import LotLine, traced
from coatlog.shelf import services
from coatlog.shelf.papers import read_paper
from coatlog.shelf.table import write_table
from coatlog.shop import clock

from .guard import content_of, member_of

router = Router()


class SheetOut(Schema):
    """A sheet with the figures the shelf shows beside it.

    `usual_coats`, `usual_um`: what it is usually put on with, coats and dry film in all [um]; `coat_um`:
    what one coat usually leaves [um].  No film where it builds none.  `group`: where it is looked for.
    """

    sheet: Sheet
    usual_coats: int
    usual_um: float | None
    coat_um: float | None
    solids_frac: float
    method_name: str
    prices: dict[str, float]
    group: Group


@router.post("/sheets", response=SheetOut, operation_id="put_sheet")
def post_sheet(request: HttpRequest, data: Body[dict[str, Any]]) -> SheetOut:
    """The can's own sheet, as a whole document: the newest of its material from now on."""
    member = member_of(request)
    return _sheet_out(services.take_sheet(member, data, now=clock.now()), services.prices_of(member.shop))


@router.post("/sheets/import", response=SheetOut, operation_id="import_sheet")
def post_sheet_file(request: HttpRequest, file: File[UploadedFile]) -> SheetOut:
    member = member_of(request)
    data = services.read_sheet(member, *content_of(file))
    return _sheet_out(services.take_sheet(member, data, now=clock.now()), services.prices_of(member.shop))


class LabelIn(Schema):
    """A product by its label: like which material of the shelf, and what the label says, by field.

    `replaces`: it takes that one's place; else it stands beside it.
    """

    like: str
    name: str = Field(min_length=1, max_length=80)
    says: dict[str, Told] = Field(max_length=20)
    replaces: bool = False


@router.post("/sheets/label", response=SheetOut, operation_id="take_label")
def post_label(request: HttpRequest, data: LabelIn) -> SheetOut:
    """The can's own sheet from its label; what the label does not say stays typical, and is marked so."""
    member = member_of(request)
    sheet = services.take_label(
        member, data.like, data.name, data.says, replaces=data.replaces, now=clock.now()
    )
    return _sheet_out(sheet, services.prices_of(member.shop))


@router.post("/sheets/read", response=list[Proposal], operation_id="read_paper")
def post_paper(request: HttpRequest, file: File[UploadedFile]) -> tuple[Proposal, ...]:
    """What a maker's data sheet seems to say, each with the line it was read from.  Nothing is kept."""
    return read_paper(member_of(request), *content_of(file))


@router.post("/sheets/table", response=list[SheetOut], operation_id="import_table")
def post_table(request: HttpRequest, file: File[UploadedFile]) -> list[SheetOut]:
    """Many sheets as CSV, all of them or none."""
    member = member_of(request)
    taken = services.take_table(member, *content_of(file), now=clock.now())
    prices = services.prices_of(member.shop)
    return [_sheet_out(s, prices) for s in taken]


@router.post("/sheets/typical", response=list[SheetOut], operation_id="add_typical")
def post_typical(request: HttpRequest) -> list[SheetOut]:
    """Typical sheets of every material this shelf has none of."""
    member = member_of(request)
    prices = services.prices_of(member.shop)
    return [_sheet_out(s, prices) for s in services.add_missing(member, now=clock.now())]


@router.get("/sheets/table", response=str, operation_id="export_table")
def get_table(request: HttpRequest) -> HttpResponse:
    """The newest sheet of every material as CSV, to be changed and taken in again."""
    text = write_table(services.latest_sheets(member_of(request).shop, aids=True))
    response = HttpResponse(text, content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="shelf.csv"'
    return response


@router.get("/sheets/{sheet_id}", response=dict[str, Any], operation_id="export_sheet")
def get_sheet(request: HttpRequest, sheet_id: str) -> HttpResponse:
    """One sheet as a document, to be changed and taken in again."""
    sheet = services.sheets_by_id(member_of(request).shop, [sheet_id]).get(sheet_id)
    if sheet is None:
        raise NotFound("No such material in this shop.")
    text = json.dumps(to_plain(sheet), indent=1, ensure_ascii=False)
    response = HttpResponse(text, content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="{sheet.material_id}.sheet.json"'
    return response


class PriceIn(Schema):
    material_id: str
    pack: str
    amount: float | None = None


@router.get("/shelf", response=list[SheetOut], operation_id="list_sheets")
def list_sheets(request: HttpRequest, aids: bool = False) -> list[SheetOut]:
    """The newest sheet of every material; with `aids` also cleaners, abrasives, cloths, masking."""
    shop = member_of(request).shop
    prices = services.prices_of(shop)
    return [_sheet_out(s, prices) for s in services.latest_sheets(shop, aids=aids)]


def _sheet_out(s: Sheet, prices: dict[str, dict[str, float]]) -> SheetOut:
    usual = usual_layer(s) if s.aid is None else None
    return SheetOut(
        sheet=s,
        usual_coats=usual.coats if usual else 0,
        usual_um=usual.target_um if usual else None,
        coat_um=s.usual_um(),
        solids_frac=sheet_solids_frac(s) if s.components else 0.0,
        method_name=METHODS[s.method_id].name,
        prices=prices.get(s.material_id, {}),
        group=group_of(s),
    )


@router.get("/lots/{material_id}", response=list[LotLine], operation_id="trace_lots")
def get_lots(request: HttpRequest, material_id: str) -> tuple[LotLine, ...]:
    """Every lot of a material that was poured, with the jobs it went into."""
    return traced(member_of(request).shop, material_id)


@router.put("/prices", response={204: None}, operation_id="set_price")
def put_price(request: HttpRequest, data: PriceIn) -> Status[None]:
    services.set_price(member_of(request), **data.dict())
    return Status(204, None)
