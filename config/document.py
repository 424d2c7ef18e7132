"""The API document: it names what each operation may refuse, so that a client or a fuzzer can trust it."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema

__all__ = ["Documented"]

#: What any answer but a good one looks like, and when there is one.
PROBLEM = {
    "type": "object",
    "title": "Problem",
    "required": ["type", "title", "status", "detail", "errors"],
    "properties": {
        "type": {"type": "string"},
        "title": {"type": "string"},
        "status": {"type": "integer"},
        "detail": {"type": "string"},
        "errors": {"type": "array", "items": {"type": "object", "additionalProperties": True}},
    },
}
COUNTED = (("/api/session", "post"), ("/api/shops", "post"), ("/api/password", "post"))
REFUSALS = {
    401: "Nobody is signed in.",
    403: "Not for this role, or the page is too old to send from.",
    404: "Not there, or another shop's.",
    409: "A rule stops it, or what it names has changed.",
    413: "Larger than is taken.",
    422: "Something in it cannot be taken: which field, what stood there, what was expected.",
    429: "Too many tries; how long to wait.",
    503: "The database is away or busy; nothing was saved.",
}


class Documented(NinjaAPI):
    """The API whose document names its refusals too, so that a client or a fuzzer can trust it."""

    def get_openapi_schema(self, **how: Any) -> OpenAPISchema:
        """The document, with what each operation may refuse."""
        document = super().get_openapi_schema(**how)
        parts = document.setdefault("components", {})
        parts.setdefault("schemas", {})["Problem"] = PROBLEM
        told = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
        parts["responses"] = {
            f"Refused{status}": {"description": why, "content": told} for status, why in REFUSALS.items()
        }
        for path, operations in document["paths"].items():
            for method, operation in operations.items():
                for status in _refusals(path, method, operation):
                    answer = {"$ref": f"#/components/responses/Refused{status}"}
                    operation["responses"].setdefault(status, answer)
        return document


def _refusals(path: str, method: str, operation: dict[str, Any]) -> list[int]:
    """What an operation may answer when it does not do what was asked."""
    out = [503]
    out += [401] if operation.get("security") or path == "/api/session" else []
    out += [403] if method != "get" else []
    out += [404] if "{" in path or method != "get" else []
    takes = "requestBody" in operation or bool(operation.get("parameters"))
    out += [422] if takes or method != "get" else []
    out += [409, 413] if "requestBody" in operation else []
    out += [429] if (path, method) in COUNTED else []
    return sorted(out)
