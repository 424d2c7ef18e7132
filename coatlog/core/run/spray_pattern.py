"""How a coat goes on: its character from the sheet, its direction by rule where the sheet is silent.

Where a sheet names directions they are followed, and go on in turn after its last: out-in, in-out,
out-in.  A peelable film is sprayed from another angle each coat, so that side faces are hit; any
other sprayed film of several coats is crossed.  Common practice, no published source.
"""

from __future__ import annotations

from ..sheet import CoatHint, Sheet

__all__ = ["ANGLES", "angles", "manner", "turned"]

ANGLES = ("from the left", "from the right", "from above", "from below")
CROSSED = ("lengthwise", "crosswise")
#: Shapes with side faces all round: every coat is sprayed from two angles.
RELIEF = ("wheel", "wheel_face", "letters")
SPRAYED = ("spray_gun", "liner_gun", "aerosol")


PAIRS = ("from the left, then the right", "from above, then below")


def manner(sheet: Sheet, method_id: str, n: int, shape: str = "") -> CoatHint:
    """Character and direction of coat `n` (from 1) of a sheet put on a part of a shape by a method."""
    hint = sheet.hint(n)
    if n <= len(sheet.hints) and hint.direction:
        return hint
    named = [h.direction for h in sheet.hints if h.direction]
    turns = tuple(dict.fromkeys(named))
    if len(turns) > 1 and len(named) == len(sheet.hints):
        return CoatHint(character=hint.character, direction=_next_turn(named, turns, n))
    if named or method_id not in SPRAYED:
        return hint
    if _relief(shape):
        return CoatHint(character=hint.character, direction=PAIRS[(n - 1) % len(PAIRS)])
    cycle = ANGLES if sheet.properties.peelable else CROSSED
    return CoatHint(character=hint.character, direction=cycle[(n - 1) % len(cycle)])


def turned(
    lower: Sheet, lower_method: str, n: int, upper: Sheet, upper_method: str, m: int, shape: str
) -> bool:
    """Whether coat `m` of the upper goes over the work another way than coat `n` of the lower did."""
    was = manner(lower, lower_method, n, shape).direction
    then = manner(upper, upper_method, m, shape).direction
    return bool(was and then) and was != then


def _next_turn(named: list[str], turns: tuple[str, ...], n: int) -> str:
    """After the named directions the turns go on where they stopped."""
    at = turns.index(named[-1])
    return turns[(at + n - len(named)) % len(turns)]


def angles(shape: str, method_id: str) -> int:
    """From how many angles one coat is sprayed, so how often the gun goes over the part."""
    return 2 if _relief(shape) and method_id in SPRAYED else 1


def _relief(shape: str) -> bool:
    """Whether a part has side faces all round; a shape is kept with its measures after a colon."""
    return shape.partition(":")[0] in RELIEF
