"""The API, assembled: the resources, one map from refusals to problem+json, strict JSON."""

from __future__ import annotations

import json
import logging
import math
from typing import Any

from django.core.exceptions import RequestDataTooBig
from django.db import DataError, OperationalError
from django.http import HttpRequest, HttpResponse
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError
from ninja.parser import Parser
from ninja.renderers import BaseRenderer
from ninja.responses import NinjaJSONEncoder

from coatlog.api import (
    damage,
    dossier,
    entries,
    exchange,
    formulas,
    gauge,
    job_page,
    jobs,
    leave,
    mix,
    now,
    photos,
    plans,
    quantity,
    record,
    shelf,
    shops,
    stacks,
    step_lists,
    surveys,
    weather,
)
from coatlog.api.guard import MemberAuth
from coatlog.core.errors import CoreError
from coatlog.core.plain import read_json
from coatlog.errors import AppError

from .document import Documented


class StrictJSON(BaseRenderer):
    """JSON without NaN or infinities: a browser could not read them."""

    media_type = "application/json"

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> str:
        return json.dumps(data, cls=NinjaJSONEncoder, allow_nan=False, separators=(",", ":"))


class ReadStrictly(Parser):
    """Nothing comes in that could not be kept."""

    def parse_body(self, request: HttpRequest) -> Any:
        return read_json(request.body)


api = Documented(
    title="Coat Log",
    version="1",
    renderer=StrictJSON(),
    parser=ReadStrictly(),
    auth=MemberAuth(),
    docs_url=None,
    openapi_url=None,
)
for resource, tag in (
    (shops, "shop"),
    (shelf, "shelf"),
    (surveys, "jobs"),
    (stacks, "jobs"),
    (photos, "jobs"),
    (exchange, "exchange"),
    (jobs, "jobs"),
    (now, "run"),
    (job_page, "run"),
    (entries, "run"),
    (mix, "run"),
    (gauge, "run"),
    (quantity, "run"),
    (step_lists, "run"),
    (damage, "run"),
    (leave, "run"),
    (plans, "run"),
    (record, "record"),
    (weather, "weather"),
    (dossier, "record"),
    (formulas, "run"),
):
    api.add_router("", resource.router, tags=[tag])


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


@api.exception_handler(Throttled)
def _too_often(request: HttpRequest, error: Throttled) -> HttpResponse:
    minutes = max(1, math.ceil((error.wait or 60) / 60))
    return _problem(429, "Wait", f"Too many tries from here. Wait {minutes} min.")


@api.exception_handler(RequestDataTooBig)
def _too_big(request: HttpRequest, error: RequestDataTooBig) -> HttpResponse:
    return _problem(413, "Too big", "Larger than 8 MB. Send a smaller file.")


@api.exception_handler(DataError)
def _beyond(request: HttpRequest, error: DataError) -> HttpResponse:
    # What no check at the door has thought of is still the sender's to mend, and ours to hear of.
    logging.getLogger("coatlog").error("refused by the database: %s", error, exc_info=error)
    return _problem(
        422, "Cannot take that", "Something in it is beyond what can be stored. Nothing was saved."
    )


@api.exception_handler(OperationalError)
def _busy(request: HttpRequest, error: OperationalError) -> HttpResponse:
    # The database is away, or somebody held what was needed for too long: the same again may go through.
    logging.getLogger("coatlog").error("the database did not answer: %s", error)
    text = "The server is busy or its database is away. Nothing was saved: try again in a minute."
    response = _problem(503, "Try again", text)
    response["Retry-After"] = "5"
    return response


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    if isinstance(error.__cause__, CoreError):  # what the parser said about the body
        return _core_error(request, error.__cause__)
    return _problem(error.status_code, "Refused", str(error))
