"""How rules name where they found something."""

from __future__ import annotations

from ...sheet import Sheet
from ..findings import Stack

__all__ = ["on", "over"]


def over(lower: Sheet, upper: Sheet) -> str:
    """A layer over another."""
    return f"{upper.name} over {lower.name}."


def on(stack: Stack, sheet: Sheet) -> str:
    """A layer on the ground itself."""
    return f"{sheet.name} straight on {stack.ground.name}."
