"""How one person likes to read and enter things.  Nothing here changes what is stored."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any, Literal

from coatlog.core.codec import from_plain, to_plain
from coatlog.core.errors import CoreError
from coatlog.errors import Refused

from .models import Member

__all__ = ["Preferences", "preferences_of", "set_preferences"]

COMB_UM = (*(25.0 * k for k in range(1, 17)), *(50.0 * k for k in range(9, 21)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Preferences:
    """Language, clock, units for reading and entry, light, letter keys, teeth of the own gauge [um]."""

    language: Literal["en", "de"] = "en"
    clock: Literal["24", "12"] = "24"
    units: Literal["metric", "us"] = "metric"
    theme: Literal["system", "light", "dark"] = "system"
    letter_keys: bool = True
    comb_um: tuple[float, ...] = COMB_UM


def preferences_of(member: Member) -> Preferences:
    """A person's preferences; what was never said has its usual value."""
    try:
        return from_plain(Preferences, member.preferences or {})
    except CoreError:  # kept by an older version: the usual values serve
        return Preferences()


def set_preferences(member: Member, wanted: Preferences) -> Preferences:
    """Keep them.  Raises Refused naming the field."""
    teeth = wanted.comb_um
    rising = all(a < b for a, b in itertools.pairwise(teeth))
    if not (2 <= len(teeth) <= 40 and rising and teeth[0] > 0 and teeth[-1] <= 20_000):
        raise Refused.field("comb_um", list(teeth), "2 to 40 teeth in µm, each larger than the one before")
    plain: dict[str, Any] = to_plain(wanted)
    member.preferences = plain
    member.save(update_fields=["preferences"])
    return wanted
