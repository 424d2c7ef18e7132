"""Refusals of the application, in the words the user is shown."""

from __future__ import annotations

__all__ = ["AppError", "NotFound", "NotPermitted", "Refused", "Stopped"]


class AppError(Exception):
    """A refusal with a status and the fields it is about: what, why, what to do instead."""

    status = 400
    title = "Refused"

    def __init__(self, detail: str, *, errors: list[dict[str, object]] | None = None) -> None:
        self.detail = detail
        self.errors = errors or []
        super().__init__(detail)


class Refused(AppError):
    """Input that cannot be taken: names field, given, expected."""

    status = 422
    title = "Invalid input"

    @classmethod
    def field(cls, field: str, given: object, expected: str, detail: str = "") -> Refused:
        shown = given if isinstance(given, (int, float, bool)) or given is None else str(given)[:200]
        text = detail or f"{field}: {shown!r} entered, expected {expected}."
        return cls(text, errors=[{"field": field, "given": shown, "expected": expected}])


class NotPermitted(AppError):
    """The role does not allow it."""

    status = 403
    title = "Not allowed for your role"


class NotFound(AppError):
    """Not there, or another shop's."""

    status = 404
    title = "Not found"


class Stopped(AppError):
    """A rule stops the act; `errors` hold the findings."""

    status = 409
    title = "Stop"
