"""Sign in and out, who am I, places."""

from __future__ import annotations

from uuid import UUID

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.utils import check_csrf

from coatlog.errors import AppError, NotPermitted

from . import clock
from .auth import MemberAuth
from .models import Member, Place

router = Router()


class SignIn(Schema):
    username: str
    password: str


class PlaceOut(Schema):
    id: UUID
    name: str
    has_probe: bool


class SessionOut(Schema):
    """Who is signed in.  `now_at` gives the browser its offset from the server's clock."""

    user: str
    role: str
    shop: str
    time_zone: str
    now_at: int
    csrf: str
    places: list[PlaceOut]


class SignedOut(AppError):
    status = 401
    title = "Sign in"


def _session(request: HttpRequest, member: Member) -> SessionOut:
    return SessionOut(
        user=member.user.get_username(),
        role=member.role,
        shop=member.shop.name,
        time_zone=member.shop.time_zone,
        now_at=clock.now(),
        csrf=get_token(request),
        places=[PlaceOut.from_orm(p) for p in Place.objects.filter(shop=member.shop)],
    )


@router.post("/session", auth=None, response=SessionOut, operation_id="sign_in")
def sign_in(request: HttpRequest, data: SignIn) -> SessionOut:
    if check_csrf(request) is not None:
        raise NotPermitted("The page is too old to sign in from. Load it again.")
    user = authenticate(request, username=data.username, password=data.password)
    if user is None:
        raise SignedOut("Name or password is wrong, or there were too many tries; after 8 wait 15 minutes.")
    member = Member.objects.select_related("shop", "user").filter(user=user).order_by("id").first()
    if member is None:
        raise SignedOut("This person belongs to no shop. Ask the owner to add them.")
    login(request, user)
    return _session(request, member)


@router.get("/session", auth=None, response={200: SessionOut, 204: None}, operation_id="get_session")
def get_session(request: HttpRequest) -> Status[SessionOut] | Status[None]:
    """Who is signed in; no content when nobody is."""
    member = MemberAuth().authenticate(request, None)
    return Status(204, None) if member is None else Status(200, _session(request, member))


@router.delete("/session", response={204: None}, operation_id="sign_out")
def sign_out(request: HttpRequest) -> Status[None]:
    logout(request)
    return Status(204, None)
