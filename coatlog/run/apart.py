"""What fails by itself: a plan or a panel that cannot be worked out stops neither the log nor the page."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import TypeVar

from django.db import Error

from coatlog.errors import AppError

__all__ = ["Panels", "apart"]

T = TypeVar("T")
_log = logging.getLogger(__name__)


def apart(what: str, work: Callable[[], T], otherwise: T) -> tuple[T, bool]:
    """What `work` answers, or `otherwise` where it fails, and whether it did; the failure goes on the log.

    Refusals and the database's own errors pass: those have somebody who answers them.
    """
    try:
        return work(), False
    except (AppError, Error):
        raise
    except Exception:
        _log.exception("%s could not be worked out", what)
        return otherwise, True


class Panels:
    """The panels of a page, each worked out by itself; `failed` names those that could not be."""

    def __init__(self) -> None:
        self.failed: list[str] = []

    def get(self, name: str, work: Callable[[], T], otherwise: T) -> T:
        """What the panel shows, or `otherwise`."""
        answer, failed = apart(name, work, otherwise)
        if failed and name not in self.failed:
            self.failed.append(name)
        return answer
