"""Where somebody is signed in: listed for them, and ended by them."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import User
from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils import timezone

from coatlog.errors import NotFound

from . import clock
from .models import Member, SignedIn

__all__ = ["Device", "devices_of", "end_device", "end_others", "key_changed", "remember"]

_SYSTEMS = ("Android", "iPhone", "iPad", "Windows", "Macintosh", "Linux")
_BROWSERS = ("Firefox", "Edg", "OPR", "Chrome", "Safari")  # the more particular first


@dataclass(frozen=True, slots=True)
class Device:
    """One sign-in: what it calls itself, and since when [epoch s].  `here`: the one that asks."""

    id: int
    name: str
    began_at: int
    here: bool


def remember(request: HttpRequest, user: User) -> None:
    """Note a sign-in that somebody has just made."""
    key = request.session.session_key
    if key is None:
        request.session.save()
        key = request.session.session_key
    agent = request.headers.get("User-Agent", "")
    SignedIn.objects.update_or_create(
        session_key=key, defaults={"user": user, "began_at": clock.now(), "name": _named(agent)}
    )


def key_changed(old_key: str | None, request: HttpRequest, user: User) -> None:
    """The same sign-in under a new key, as after a change of password; all others are out."""
    SignedIn.objects.filter(user=user).exclude(session_key=old_key).delete()
    SignedIn.objects.filter(session_key=old_key).update(session_key=request.session.session_key)


def devices_of(member: Member, request: HttpRequest) -> list[Device]:
    """Where somebody is signed in now, the newest first."""
    rows = list(SignedIn.objects.filter(user=member.user).order_by("-began_at", "-id"))
    keys = [r.session_key for r in rows]
    alive = set(
        Session.objects.filter(session_key__in=keys, expire_date__gt=timezone.now()).values_list(
            "session_key", flat=True
        )
    )
    here = request.session.session_key
    return [Device(r.pk, r.name, r.began_at, r.session_key == here) for r in rows if r.session_key in alive]


def end_device(member: Member, device_id: int) -> None:
    """Sign a device out.  Raises NotFound, also for somebody else's."""
    row = SignedIn.objects.filter(user=member.user, pk=device_id).first()
    if row is None:
        raise NotFound("No such sign-in of yours.")
    Session.objects.filter(session_key=row.session_key).delete()
    row.delete()


def end_others(member: Member, request: HttpRequest) -> None:
    """Sign all of somebody's devices out but the one that asks."""
    rows = SignedIn.objects.filter(user=member.user).exclude(session_key=request.session.session_key)
    Session.objects.filter(session_key__in=[r.session_key for r in rows]).delete()
    rows.delete()


def _named(agent: str) -> str:
    """A device in two words, as its owner would know it; not the whole line it sends."""
    system = next((s for s in _SYSTEMS if s in agent), "")
    browser = next((b for b in _BROWSERS if b in agent), "")
    return ", ".join(x for x in (browser.replace("Edg", "Edge").replace("OPR", "Opera"), system) if x)
