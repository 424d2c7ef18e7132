"""The one clock door.  Everything that asks for the time asks here."""

from __future__ import annotations

import time

from django.conf import settings

__all__ = ["now", "release", "set_now"]

_fixed: int | None = None


class ClockRefused(RuntimeError):
    """The clock may be set in tests and shots only."""


def now() -> int:
    """UTC epoch seconds."""
    return int(time.time()) if _fixed is None else _fixed


def set_now(at: int) -> None:
    """Hold the clock at an instant.  Raises ClockRefused outside tests and shots."""
    global _fixed
    if not settings.CLOCK_SETTABLE:
        raise ClockRefused("The clock cannot be set here.")
    _fixed = at


def release() -> None:
    """Let the clock run again."""
    global _fixed
    _fixed = None
