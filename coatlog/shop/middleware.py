"""The server's time on every answer of the API; no NUL in an address, no flood from the unsigned."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

from . import clock

UNSIGNED_BYTES = 64_000


def tell_time(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: header Coat-Now, UTC epoch seconds."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if "\0" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return _refused(422, "Cannot take that", "The address holds a NUL. Expected letters and digits.")
        if _too_long(request):  # a phone whose session has ended is to sign in, not to give its taps up
            status = 413 if request.path in ("/api/session", "/api/shops") else 401
            return _refused(status, "Sign in", "Sign in first: unsigned, at most 64 kB are read.")
        response = get_response(request)
        if request.path.startswith("/api/"):
            response["Coat-Now"] = str(clock.now())
            response.setdefault("Cache-Control", "no-store")
        return response

    return middleware


def _too_long(request: HttpRequest) -> bool:
    """Whether somebody who is not signed in sends more than a name and a password can be."""
    length = request.META.get("CONTENT_LENGTH") or "0"
    long = not length.isdecimal() or int(length) > UNSIGNED_BYTES
    return long and request.path.startswith("/api/") and not request.user.is_authenticated


def _refused(status: int, title: str, detail: str) -> HttpResponse:
    problem = {"type": "about:blank", "title": title, "status": status, "detail": detail, "errors": []}
    return JsonResponse(problem, status=status, content_type="application/problem+json")
