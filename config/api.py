"""The API, assembled: routers of the apps, one map from refusals to problem+json, strict JSON."""

from __future__ import annotations

import json
from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.renderers import BaseRenderer
from ninja.responses import NinjaJSONEncoder

from coatlog.core.errors import CoreError
from coatlog.errors import AppError
from coatlog.jobs.api import router as jobs
from coatlog.run.api import router as run
from coatlog.run.dossier_api import router as dossier
from coatlog.run.exchange_api import router as exchange
from coatlog.run.jobs_api import router as made_jobs
from coatlog.run.leave_api import router as leave
from coatlog.run.plan_api import router as plan
from coatlog.run.record_api import router as record
from coatlog.run.weather_api import router as weather
from coatlog.run.work_api import router as work
from coatlog.shelf.api import router as shelf
from coatlog.shop.api import router as shop
from coatlog.shop.auth import MemberAuth


class StrictJSON(BaseRenderer):
    """JSON without NaN or infinities: a browser could not read them."""

    media_type = "application/json"

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> str:
        return json.dumps(data, cls=NinjaJSONEncoder, allow_nan=False, separators=(",", ":"))


api = NinjaAPI(
    title="Coat Log",
    version="1",
    renderer=StrictJSON(),
    auth=MemberAuth(),
    docs_url=None,
    openapi_url=None,
)
api.add_router("", shop, tags=["shop"])
api.add_router("", shelf, tags=["shelf"])
api.add_router("", jobs, tags=["jobs"])
api.add_router("", exchange, tags=["exchange"])
api.add_router("", made_jobs, tags=["jobs"])
api.add_router("", run, tags=["run"])
api.add_router("", leave, tags=["run"])
api.add_router("", plan, tags=["run"])
api.add_router("", record, tags=["record"])
api.add_router("", weather, tags=["weather"])
api.add_router("", work, tags=["run"])
api.add_router("", dossier, tags=["record"])


def _problem(
    status: int, title: str, detail: str, errors: list[dict[str, Any]] | None = None
) -> HttpResponse:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, "errors": errors or []}
    text = json.dumps(body, allow_nan=False, default=str)
    return HttpResponse(text, status=status, content_type="application/problem+json")


@api.exception_handler(AppError)
def _app_error(request: HttpRequest, error: AppError) -> HttpResponse:
    return _problem(error.status, error.title, error.detail, error.errors)


@api.exception_handler(CoreError)
def _core_error(request: HttpRequest, error: CoreError) -> HttpResponse:
    one = {"field": error.field, "given": str(error.given)[:200], "expected": error.expected}
    return _problem(
        422, "Cannot take that", f"{error.field}: {one['given']} given, expected {error.expected}.", [one]
    )


@api.exception_handler(ValidationError)
def _validation(request: HttpRequest, error: ValidationError) -> HttpResponse:
    errors = []
    for e in error.errors:
        where = [str(p) for p in e["loc"] if p not in ("body", "query", "path", "data")]
        errors.append(
            {"field": ".".join(where[-4:]), "given": str(e.get("input", ""))[:200], "expected": e["msg"]}
        )
    detail = "; ".join(f"{e['field']}: {e['expected']}" for e in errors[:3])
    return _problem(422, "Cannot take that", detail, errors)


@api.exception_handler(AuthenticationError)
def _signed_out(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _problem(401, "Sign in", "You are signed out. Sign in again; what is on this device is kept.")


@api.exception_handler(RequestDataTooBig)
def _too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
    return _problem(413, "Too big", "Larger than 8 MB. Send a smaller file.")


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    return _problem(error.status_code, "Refused", str(error))
