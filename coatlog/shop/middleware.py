"""The server's time on every answer of the API, from which browsers take their offset."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from . import clock


def tell_time(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: header Coat-Now, UTC epoch seconds."""

    def middleware(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        if request.path.startswith("/api/"):
            response["Coat-Now"] = str(clock.now())
            response.setdefault("Cache-Control", "no-store")
        return response

    return middleware
