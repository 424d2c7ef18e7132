"""The shelf: the sheets of a shop."""

from __future__ import annotations

from django.contrib.auth import login
from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.utils import check_csrf

from coatlog.core.run.amounts import sheet_solids_frac
from coatlog.core.run.facts import METHODS
from coatlog.core.sheet import Sheet
from coatlog.errors import NotPermitted
from coatlog.shop import clock
from coatlog.shop import services as shop_services
from coatlog.shop.api import SessionOut, session_of
from coatlog.shop.auth import member_of

from . import services

router = Router()


class SheetOut(Schema):
    """A sheet with the figures the shelf shows beside it."""

    sheet: Sheet
    solids_frac: float
    method_name: str
    prices: dict[str, float]


class ShopIn(Schema):
    shop: str
    time_zone: str
    username: str
    password: str


@router.post("/shops", auth=None, response=SessionOut, operation_id="found_shop")
def found_shop(request: HttpRequest, data: ShopIn) -> SessionOut:
    """A shop of one's own: owner, first place and the typical shelf; signs the owner in."""
    if check_csrf(request) is not None:
        raise NotPermitted("The page is too old to start a shop from. Load it again.")
    with transaction.atomic():
        member = shop_services.found_shop(
            name=data.shop, time_zone=data.time_zone, username=data.username, password=data.password
        )
        services.load_typical(member.shop, now=clock.now())
    login(request, member.user, backend="django.contrib.auth.backends.ModelBackend")
    return session_of(request, member)


class PriceIn(Schema):
    material_id: str
    pack: str
    amount: float | None = None


@router.get("/shelf", response=list[SheetOut], operation_id="list_sheets")
def list_sheets(request: HttpRequest) -> list[SheetOut]:
    shop = member_of(request).shop
    prices = services.prices_of(shop)
    return [
        SheetOut(
            sheet=s,
            solids_frac=sheet_solids_frac(s),
            method_name=METHODS[s.method_id].name,
            prices=prices.get(s.material_id, {}),
        )
        for s in services.latest_sheets(shop)
    ]


@router.put("/prices", response={204: None}, operation_id="set_price")
def put_price(request: HttpRequest, data: PriceIn) -> Status[None]:
    services.set_price(member_of(request), **data.dict())
    return Status(204, None)
