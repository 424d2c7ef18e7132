"""Refusals that say what was given, where, and what was expected."""

from __future__ import annotations

__all__ = ["CoreError", "NoConvergence", "OutOfRange", "Underspecified", "require"]


class CoreError(ValueError):
    """Base of every refusal of the core. Carries the field, the value and the expectation."""

    def __init__(self, field: str, given: object, expected: str) -> None:
        self.field, self.given, self.expected = field, given, expected
        super().__init__(f"{field}: got {given!r}, expected {expected}")


class OutOfRange(CoreError):
    """A value lies outside the limits in which the calculation means anything."""


class Underspecified(CoreError):
    """Something needed was not given, or has the wrong shape."""


class NoConvergence(CoreError):
    """An iteration ran out of steps."""


def require(ok: bool, field: str, given: object, expected: str) -> None:
    """Raises OutOfRange unless `ok`: what was `given` in which field, and what was expected."""
    if not ok:
        raise OutOfRange(field, given, expected)
