"""Who asks, and what they may: every handler of the API gets its shop, its job and its role here.

Cookie sessions, so writes need the CSRF token.
"""

from __future__ import annotations

from uuid import UUID

from django.conf import settings
from django.http import HttpRequest
from ninja.files import UploadedFile
from ninja.security import SessionAuth

from coatlog.errors import NotFound, NotPermitted, Refused
from coatlog.jobs.models import Job
from coatlog.run import services
from coatlog.shop.models import Member, Place

__all__ = ["MemberAuth", "content_of", "job_of", "member_of", "place_of", "writer_of"]


class MemberAuth(SessionAuth):
    """Answers the Member; a user without a shop is as good as signed out."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Member | None:
        if not request.user.is_authenticated:
            return None
        return Member.objects.select_related("shop", "user").filter(user=request.user).order_by("id").first()


def member_of(request: HttpRequest) -> Member:
    """The member that authenticated this request."""
    member = request.auth  # type: ignore[attr-defined]
    assert isinstance(member, Member)
    return member


def writer_of(request: HttpRequest, act: str) -> Member:
    """The member, who may do more than look.  `act`: what is asked for.  Raises NotPermitted."""
    member = member_of(request)
    if not member.may_write:
        raise NotPermitted(f"A viewer can look, not {act}.")
    return member


def job_of(request: HttpRequest, job_id: UUID) -> Job:
    """A job of the member's shop.  Raises NotFound, also for another shop's."""
    return services.job_of(member_of(request), job_id)


def place_of(request: HttpRequest, place_id: UUID) -> Place:
    """A place of the member's shop.  Raises NotFound, also for another shop's."""
    shop_id = member_of(request).shop_id
    place = Place.objects.select_related("shop").filter(shop_id=shop_id, pk=place_id).first()
    if place is None:
        raise NotFound("No such place in this shop.")
    return place


def content_of(file: UploadedFile, most_bytes: int | None = None) -> tuple[bytes, str]:
    """What is in a file sent here, and its name.  Raises Refused where it is too large."""
    most = settings.UPLOAD_LIMIT_BYTES if most_bytes is None else most_bytes
    name = file.name or "file"
    if file.size is None or file.size > most:
        size, expected = f"{(file.size or 0) / 1e6:.1f} MB", f"{most / 1e6:.0f} MB at most"
        raise Refused.field("file", size, expected, f"{name} is {size}. Expected {expected}.")
    return file.read(), name
