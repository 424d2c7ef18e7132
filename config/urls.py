"""One API and one page; the page finds its way by the part of the address after #."""

from django.conf import settings
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


urlpatterns = [path("api/", api.urls), path("", page)]
