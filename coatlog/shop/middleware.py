"""The server's time on every answer of the API, and no NUL in an address."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse, JsonResponse

from . import clock


def tell_time(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: header Coat-Now, UTC epoch seconds."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if "\0" in request.path or "%00" in request.META.get("QUERY_STRING", ""):
            return _not_an_address()
        response = get_response(request)
        if request.path.startswith("/api/"):
            response["Coat-Now"] = str(clock.now())
            response.setdefault("Cache-Control", "no-store")
        return response

    return middleware


def _not_an_address() -> HttpResponse:
    problem = {
        "type": "about:blank",
        "title": "Cannot take that",
        "status": 422,
        "detail": "The address holds a NUL, which no text here can. Expected letters and digits.",
        "errors": [],
    }
    return JsonResponse(problem, status=422, content_type="application/problem+json")
