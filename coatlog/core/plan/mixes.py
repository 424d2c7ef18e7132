"""A coat that outlives its pot is divided into mixes: whole packs where one fits, else by the cup's marks."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..sheet import Sheet

__all__ = ["LEAST_POT_S", "SAFE", "Mixes", "divided"]

SAFE = 0.8  # assumed: of a pot's life that is planned with, as the air changes while a long coat goes on
LEAST_POT_S = 300  # what dies sooner is mixed in the gun
MARK_ML, SMALL_MARK_ML, SMALL_ML = 100.0, 10.0, 400.0  # marks of the usual cups


@dataclass(frozen=True, slots=True)
class Mixes:
    """How a coat is mixed: so many times, so much each but the last [ml]; `pack`: each is a whole one."""

    n: int
    each_ml: float
    pack: bool = False

    def said(self, of: str) -> str:
        """A coat with how it is mixed; as it is, where it is mixed once."""
        if self.n < 2:
            return of
        each = f"{round(self.each_ml / 1000, 1):g} l" if self.each_ml >= 1000 else f"{self.each_ml:g} ml"
        if self.pack:
            return f"{of}, in {self.n} mixes of {each}, whole packs"
        return f"{of}, in {self.n} mixes of {each}"


def divided(sheet: Sheet, volume_ml: float, takes_s: float, lives_s: float) -> Mixes:
    """Into how many mixes a coat of this volume [ml] is divided that takes so long [s] while a pot lives so
    long [s], so that none dies before it is used up.
    """
    if takes_s <= lives_s or lives_s < LEAST_POT_S:
        return Mixes(1, volume_ml)
    most_ml = volume_ml * SAFE * lives_s / takes_s
    packs = [p.makes_ml for p in sheet.packs if most_ml / 2 <= p.makes_ml <= most_ml]
    if packs:
        each_ml = max(packs)
    else:
        mark_ml = MARK_ML if most_ml >= SMALL_ML else SMALL_MARK_ML
        each_ml = max(mark_ml, math.floor(most_ml / mark_ml) * mark_ml)
    return Mixes(math.ceil(volume_ml / each_ml - 1e-9), each_ml, bool(packs))
