"""What a person sees after too many wrong passwords."""

from __future__ import annotations

from django.http import HttpRequest, JsonResponse

__all__ = ["locked_out"]


def locked_out(request: HttpRequest, response: object = None, credentials: object = None) -> JsonResponse:
    """The refusal, in the form all others have."""
    body = {
        "type": "about:blank",
        "title": "Wait",
        "status": 429,
        "detail": "Too many wrong passwords. Wait 15 minutes, or ask the owner.",
        "errors": [],
    }
    return JsonResponse(body, status=429, content_type="application/problem+json")
