"""Shops and who works there: founding one, signing in and out, people, places, preferences."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from typing import Literal
from uuid import UUID

import segno
from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.db import transaction
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Body, Router, Schema, Status
from ninja.utils import check_csrf
from pydantic import Field

from coatlog.core.plan.rights import RIGHTS
from coatlog.core.stack.rules import FACTS
from coatlog.demo.present import bring_to_present, has_lapsed
from coatlog.errors import AppError, NotPermitted, Refused
from coatlog.run.reflow import reflow
from coatlog.run.services import refresh_shop
from coatlog.shelf.services import load_typical
from coatlog.shop import clock, services
from coatlog.shop.crew import Away, CrewDraft, set_crew
from coatlog.shop.devices import devices_of, end_device, end_others, key_changed, remember
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Member, Place
from coatlog.shop.pairing import code_for, reached_by, user_of
from coatlog.shop.preferences import Preferences, preferences_of, set_preferences

from .guard import MemberAuth, member_of, writer_of
from .throttle import Often

router = Router()


class SignIn(Schema):
    username: str
    password: str


class ShopOut(Schema):
    """What a shop says of itself."""

    name: str
    time_zone: str
    opens: dt.time
    closes: dt.time
    painters: int
    guns: int = 2
    default_air_degc: float
    default_rh_frac: float
    currency: str = "EUR"
    voc_limit_g_per_l: float | None = None
    voc_less_water: bool = True
    has: list[str] = []
    hasnt: list[str] = []
    logs_steps: bool = True


class ShopIn(Schema):
    shop: str
    time_zone: str
    username: str
    password: str
    language: Literal["en", "de"] = "en"


class AwayOut(Schema):
    """When somebody is away [epoch s], and why."""

    from_at: int
    to_at: int
    why: str = ""


class CrewOut(Schema):
    """What somebody in the plan may do, on which weekdays (0 is Monday; none: all) and at what hours."""

    may: list[str] = Field(default_factory=list, max_length=10)
    days: list[int] = Field(default_factory=list, max_length=7)
    starts: dt.time | None = None
    ends: dt.time | None = None
    away: list[AwayOut] = Field(default_factory=list, max_length=100)


class CrewIn(CrewOut):
    in_plan: bool


class PersonOut(Schema):
    """`sensitised`: asthmatic or sensitised, kept away from isocyanates.  `crew`: None, not in the plan."""

    username: str
    role: str
    sensitised: bool = False
    crew: CrewOut | None = None


class PersonChange(Schema):
    """What changes about somebody; what is left out stays.  Role and password are the owner's to set."""

    sensitised: bool | None = None
    role: str | None = None
    password: str | None = None


class ShopPage(Schema):
    shop: ShopOut
    people: list[PersonOut]
    is_demo: bool
    fact_words: dict[str, str]
    right_words: dict[str, str]


class PersonIn(Schema):
    username: str
    password: str
    role: str


class PasswordIn(Schema):
    old: str
    new: str


class PlaceIn(Schema):
    name: str
    has_probe: bool = False
    outdoors: bool = False
    holds: int | None = None


class PlaceOut(Schema):
    id: UUID
    name: str
    has_probe: bool
    outdoors: bool
    holds: int | None = None
    retired: bool = False


class SessionOut(Schema):
    """Who is signed in.  `now_at` gives the browser its offset from the server's clock."""

    user: str
    role: str
    sensitised: bool
    shop: str
    time_zone: str
    now_at: int
    csrf: str
    currency: str
    preferences: Preferences
    places: list[PlaceOut]
    works_on: list[str]
    demo_lapsed: bool


class SignedOut(AppError):
    status = 401
    title = "Sign in"


def session_of(request: HttpRequest, member: Member) -> SessionOut:
    return SessionOut(
        user=member.user.get_username(),
        role=member.role,
        sensitised=member.sensitised,
        shop=member.shop.name,
        time_zone=member.shop.time_zone,
        now_at=clock.now(),
        csrf=get_token(request),
        currency=member.shop.currency,
        preferences=preferences_of(member),
        places=[PlaceOut.from_orm(p) for p in Place.objects.filter(shop=member.shop)],
        works_on=member.shop.works_on,
        demo_lapsed=has_lapsed(member.shop, clock.now()),
    )


@router.post("/demo/present", response=SessionOut, operation_id="demo_to_present")
def post_present(request: HttpRequest) -> SessionOut:
    """A demo nobody has touched, whose windows have passed, loaded anew as of now."""
    member = writer_of(request, "load the demo anew")
    bring_to_present(member.shop, clock.now())
    return session_of(request, Member.objects.select_related("shop", "user").get(user=member.user))


@router.post("/shops", auth=None, response=SessionOut, operation_id="found_shop", throttle=[Often("sign_up")])
def found_shop(request: HttpRequest, data: ShopIn) -> SessionOut:
    """A shop of one's own: owner, first place and the typical shelf; signs the owner in."""
    if check_csrf(request) is not None:
        raise NotPermitted("The page is too old to start a shop from. Load it again.")
    if not settings.SIGN_UP:
        raise NotPermitted(
            "New shops are closed on this server. Ask whoever runs it, or a shop's owner to add you."
        )
    with transaction.atomic():
        member = services.found_shop(
            name=data.shop, time_zone=data.time_zone, username=data.username, password=data.password
        )
        load_typical(member.shop, now=clock.now())
        set_preferences(member, replace(preferences_of(member), language=data.language))
    login(request, member.user, backend="django.contrib.auth.backends.ModelBackend")
    remember(request, member.user)
    return session_of(request, member)


@router.post("/session", auth=None, response=SessionOut, operation_id="sign_in", throttle=[Often("sign_in")])
def sign_in(request: HttpRequest, data: SignIn) -> SessionOut:
    if check_csrf(request) is not None:
        raise NotPermitted("This page has expired. Reload it.")
    user = authenticate(request, username=data.username, password=data.password)
    if user is None:
        raise SignedOut("Wrong user name or password. After 8 failed tries you must wait 15 minutes.")
    member = Member.objects.select_related("shop", "user").filter(user=user).order_by("id").first()
    if member is None:
        raise SignedOut("Your account belongs to no shop. Ask the shop owner.")
    login(request, user)
    remember(request, member.user)
    return session_of(request, member)


class CodeIn(Schema):
    code: str = Field(min_length=1, max_length=80)


class PairingOut(Schema):
    """What a screen shows to a phone: an address as a code, row by row, 1 is dark; `until_at`: epoch s."""

    address: str
    rows: list[str]
    until_at: int


@router.post("/pairing", response=PairingOut, operation_id="show_pairing_code")
def post_pairing(request: HttpRequest) -> PairingOut:
    """A code by which a phone of one's own signs in, once, within two minutes."""
    at = reached_by(request)
    code, until_at = code_for(member_of(request))
    rows = segno.make(f"{at}#/pair/{code}", error="m", micro=False).matrix
    return PairingOut(
        address=at, rows=["".join("1" if x else "0" for x in r) for r in rows], until_at=until_at
    )


@router.post(
    "/session/code", auth=None, response=SessionOut, operation_id="pair", throttle=[Often("sign_in")]
)
def post_code(request: HttpRequest, data: CodeIn) -> SessionOut:
    """Sign in by a code that is shown on another screen."""
    if check_csrf(request) is not None:
        raise NotPermitted("This page has expired. Reload it.")
    user = user_of(data.code)
    member = Member.objects.select_related("shop", "user").filter(user=user).order_by("id").first()
    if user is None or member is None:
        raise SignedOut("This code is used up or too old. Show a new one: it is good once, for two minutes.")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    remember(request, member.user)
    return session_of(request, member)


@router.get("/session", auth=None, response={200: SessionOut, 204: None}, operation_id="get_session")
def get_session(request: HttpRequest) -> Status[SessionOut] | Status[None]:
    """Who is signed in; no content when nobody is.  Hands out the token that writing asks for."""
    get_token(request)  # the page itself may come out of the phone's own store
    member = MemberAuth().authenticate(request, None)
    return Status(204, None) if member is None else Status(200, session_of(request, member))


@router.delete("/session", response={204: None}, operation_id="sign_out")
def sign_out(request: HttpRequest) -> Status[None]:
    logout(request)
    return Status(204, None)


@router.get("/shop", response=ShopPage, operation_id="get_shop")
def get_shop(request: HttpRequest) -> ShopPage:
    shop = member_of(request).shop
    people = Member.objects.filter(shop=shop).select_related("user", "crew").order_by("id")
    return ShopPage(
        shop=ShopOut.from_orm(shop),
        people=[_person(m) for m in people],
        is_demo=shop.is_demo,
        fact_words=FACTS,
        right_words=RIGHTS,
    )


@router.put("/shop", response=ShopOut, operation_id="set_shop")
def put_shop(request: HttpRequest, data: ShopOut) -> ShopOut:
    """What the shop says of itself; its jobs are projected anew where its usual air is another."""
    member, now = member_of(request), clock.now()
    with transaction.atomic():
        was = hold_shop(member.shop_id)
        shop = services.set_shop(member, services.ShopDraft(**data.dict()))
        air = (shop.default_air_degc, shop.default_rh_frac)
        if air != (was.default_air_degc, was.default_rh_frac):
            refresh_shop(shop, now=now)
        else:
            reflow(shop, now)
    return ShopOut.from_orm(shop)


class FirstIn(Schema):
    """A shop's first answers; None: not said."""

    units: Literal["metric", "us"]
    works_on: list[Literal["road", "vessel", "aircraft"]] = Field(max_length=3)
    sprays: Literal["guns", "cans"] | None = None
    air_fed: bool | None = None


@router.put("/shop/first", response=SessionOut, operation_id="begin_shop")
def put_first(request: HttpRequest, data: FirstIn) -> SessionOut:
    """Units for who asks, and three answers for the shop, whole or not at all."""
    member = member_of(request)
    with transaction.atomic():
        member.shop = services.begin(member, works_on=data.works_on, sprays=data.sprays, air_fed=data.air_fed)
        set_preferences(member, replace(preferences_of(member), units=data.units))
    return session_of(request, member)


class AnswerIn(Schema):
    """Whether the shop has it, or the fact holds."""

    yes: bool


@router.put("/shop/facts/{fact}", response=ShopOut, operation_id="answer_fact")
def answer_fact(request: HttpRequest, fact: str, data: AnswerIn) -> ShopOut:
    return ShopOut.from_orm(services.answer(member_of(request), fact, data.yes))


@router.post("/people", response=PersonOut, operation_id="add_person")
def post_person(request: HttpRequest, data: PersonIn) -> PersonOut:
    member = services.add_member(member_of(request), **data.dict())
    return _person(member)


@router.put("/people/{username}", response=PersonOut, operation_id="set_person")
def put_person(request: HttpRequest, username: str, data: PersonChange) -> PersonOut:
    member, changed = member_of(request), None
    with transaction.atomic():
        if data.sensitised is not None:
            changed = services.set_sensitised(member, username, data.sensitised)
        if data.role is not None:
            changed = services.set_role(member, username, data.role)
        if data.password is not None:
            changed = services.reset_password(member, username, data.password)
    if changed is None:
        raise Refused.field("sensitised", None, "something to change: sensitised, role or password")
    return _person(changed)


@router.delete("/people/{username}", response={204: None}, operation_id="remove_person")
def delete_person(request: HttpRequest, username: str) -> Status[None]:
    """Somebody has left: they cannot sign in, what they logged stays."""
    services.remove_member(member_of(request), username)
    return Status(204, None)


@router.put("/people/{username}/crew", response=PersonOut, operation_id="set_crew")
def put_crew(request: HttpRequest, username: str, data: CrewIn) -> PersonOut:
    """Whether the plan counts on somebody, what they may do and when they are there; the plan follows."""
    member, now = member_of(request), clock.now()
    away = [Away(**a.dict()) for a in data.away]
    draft = CrewDraft(**{**data.dict(), "away": away})
    with transaction.atomic():
        shop = hold_shop(member.shop_id)
        changed = set_crew(member, username, draft, now)
        reflow(shop, now)
    return _person(Member.objects.select_related("user", "crew").get(pk=changed.pk))


def _person(m: Member) -> PersonOut:
    crew = getattr(m, "crew", None)
    told = None
    if crew is not None:
        away = [AwayOut(from_at=a.from_at, to_at=a.to_at, why=a.why) for a in crew.absences.all()]
        told = CrewOut(may=crew.may, days=crew.days, starts=crew.starts, ends=crew.ends, away=away)
    return PersonOut(username=m.user.get_username(), role=m.role, sensitised=m.sensitised, crew=told)


@router.post("/places", response=PlaceOut, operation_id="add_place")
def post_place(request: HttpRequest, data: PlaceIn) -> PlaceOut:
    return PlaceOut.from_orm(services.add_place(member_of(request), **data.dict()))


class PlaceChange(Schema):
    """What changes about a place; what is left out stays.  `retired`: nothing new is put there."""

    name: str | None = None
    holds: int | None = None
    retired: bool | None = None


@router.put("/places/{place_id}", response=PlaceOut, operation_id="change_place")
def put_place(request: HttpRequest, place_id: UUID, data: PlaceChange) -> PlaceOut:
    changes = data.dict(exclude_unset=True)
    return PlaceOut.from_orm(services.change_place(member_of(request), place_id, changes))


@router.put("/preferences", response=Preferences, operation_id="set_preferences")
def put_preferences(request: HttpRequest, data: Body[Preferences]) -> Preferences:
    return set_preferences(member_of(request), data)


@router.post("/password", response={204: None}, operation_id="change_password", throttle=[Often("password")])
def post_password(request: HttpRequest, data: PasswordIn) -> Status[None]:
    member = member_of(request)
    services.change_password(member, old=data.old, new=data.new)
    was = request.session.session_key
    update_session_auth_hash(request, member.user)  # this device stays signed in, all others are out
    key_changed(was, request, member.user)
    return Status(204, None)


class DeviceOut(Schema):
    """Where one is signed in.  `here`: on the device that asks; `name`: browser and system, if they say."""

    id: int
    name: str
    began_at: int
    here: bool


@router.get("/devices", response=list[DeviceOut], operation_id="get_devices")
def get_devices(request: HttpRequest) -> list[DeviceOut]:
    """Where one is signed in oneself, the newest first."""
    return [DeviceOut.from_orm(d) for d in devices_of(member_of(request), request)]


@router.delete("/devices/{device_id}", response={204: None}, operation_id="end_device")
def delete_device(request: HttpRequest, device_id: int) -> Status[None]:
    """Sign one of one's own devices out: a lost phone is a stranger from its next tap on."""
    end_device(member_of(request), device_id)
    return Status(204, None)


@router.delete("/devices", response={204: None}, operation_id="end_other_devices")
def delete_devices(request: HttpRequest) -> Status[None]:
    """Sign all of one's own devices out but this one."""
    end_others(member_of(request), request)
    return Status(204, None)
