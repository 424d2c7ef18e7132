"""One API and one page; the page finds its way by the part of the address after #."""

from pathlib import Path

from django.conf import settings
from django.db import OperationalError, connection
from django.http import HttpRequest, HttpResponse
from django.urls import path
from django.views.decorators.csrf import ensure_csrf_cookie

from config.api import api


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The built front end."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The interface is not built yet. Run ./coat start.", status=503)
    return HttpResponse(index.read_text(encoding="utf-8"))


def worker(request: HttpRequest) -> HttpResponse:
    """The service worker: it answers for what lies beside it and below, so it stands at the top."""
    script = settings.WEB_DIST / "sw.js"
    if not script.exists():
        return HttpResponse(status=404)
    return HttpResponse(
        script.read_text(encoding="utf-8"),
        content_type="text/javascript; charset=utf-8",
        headers={"Cache-Control": "no-cache"},
    )


def authority(request: HttpRequest) -> HttpResponse:
    """The certificate that phones on the shop's network are to trust."""
    if not settings.LAN_AUTHORITY:
        return HttpResponse(status=404)
    return HttpResponse(Path(settings.LAN_AUTHORITY).read_bytes(), content_type="application/x-x509-ca-cert")


def healthz(request: HttpRequest) -> HttpResponse:
    """For whoever watches the server: 200 while it reaches its database, 503 while not."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except OperationalError:
        return HttpResponse("no database\n", status=503, content_type="text/plain")
    return HttpResponse("ok\n", content_type="text/plain")


urlpatterns = [
    path("api/", api.urls),
    path("healthz", healthz),
    path("sw.js", worker),
    path("authority.crt", authority),
    path("", page),
]
