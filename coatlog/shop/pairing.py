"""A phone signs in by a code that its person shows on a screen where they are signed in already."""

from __future__ import annotations

import hashlib
import secrets

from django.conf import settings
from django.contrib.auth.models import User
from django.http import HttpRequest

from coatlog.errors import Refused

from . import clock
from .models import Member, Pairing

__all__ = ["LIVES_S", "code_for", "reached_by", "user_of"]

LIVES_S = 120
HERE = ("127.0.0.1", "localhost", "::1", "[::1]")


def reached_by(request: HttpRequest) -> str:
    """The address a phone reaches this server by.  Raises Refused where none can."""
    if settings.LAN:
        return str(settings.LAN)
    if request.get_host().rsplit(":", 1)[0] not in HERE:
        return request.build_absolute_uri("/")
    raise Refused(
        "This server is reached from this machine alone. Start it with ./coat start --lan, then pair phones."
    )


def code_for(member: Member) -> tuple[str, int]:
    """A code for a phone of this person, good once, and until when [epoch s]; the one before it is void."""
    code = secrets.token_urlsafe(24)
    until_at = clock.now() + LIVES_S
    Pairing.objects.update_or_create(
        user=member.user, defaults={"digest": _digest(code), "until_at": until_at}
    )
    return code, until_at


def user_of(code: str) -> User | None:
    """Whose code it is, used up now; None: nobody's, or too old."""
    good = Pairing.objects.filter(digest=_digest(code), until_at__gte=clock.now())
    found = good.select_related("user").first()
    # Of two phones that show the same code at once one takes it away, and the other finds nothing.
    if found is None or not good.filter(pk=found.pk).delete()[0]:
        return None
    return found.user if found.user.is_active else None


def _digest(code: str) -> str:
    return hashlib.sha256(code.encode()).hexdigest()
