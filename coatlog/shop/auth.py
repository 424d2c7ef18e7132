"""Who asks: a signed-in member of a shop.  Cookie sessions, so writes need the CSRF token."""

from __future__ import annotations

from django.http import HttpRequest, JsonResponse
from ninja.security import SessionAuth

from .models import Member

__all__ = ["MemberAuth", "locked_out", "member_of"]


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


def locked_out(request: HttpRequest, response: object = None, credentials: object = None) -> JsonResponse:
    """What a person sees after too many wrong passwords."""
    body = {
        "type": "about:blank",
        "title": "Wait",
        "status": 429,
        "detail": "Too many wrong passwords. Wait 15 minutes, or ask the owner.",
        "errors": [],
    }
    return JsonResponse(body, status=429, content_type="application/problem+json")
