"""What a part's surface is by the steps on its log: soiled, wet, acid, keyed and with which grit.

The steps of the list say what each needs, gives and takes (`step_catalogue`); a word of the log without a
step of the list counts as the plainest step it can be.  Common practice, no published source.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..sheet import Sheet
from ..stack.step_catalogue import AT_FIRST, STEPS
from ..stack.step_sequence import STEP_UP, Work
from .accumulator import Deed
from .states import SurfaceState

__all__ = [
    "AFTER_COAT",
    "DRIES_S",
    "Ground",
    "grit_off",
    "ground_after",
    "ground_listed",
    "keys_or_cleans",
    "surface_now",
]

DRIES_S = 3 * 3600  # assumed: what was wetted is dry after so long, whether somebody ticked it or not
#: a coat that lies on a part is clean, until something is done to it
AFTER_COAT = AT_FIRST | {"degreased", "dustless"}
#: words of the log, as the plainest step of the catalogue each can be
_WORDS = {"wash": "wash", "degrease": "degrease", "abrade": "abrade", "wipe": "wipe", "dry": "dry"}
_WORKED = ("clean", "strip", "abrade")


@dataclass(frozen=True, slots=True)
class Ground:
    """A surface after some steps: words of STATES, the last grit, since when it is wet and was cleaned.

    `ground_in`: it was abraded before it was degreased.
    """

    marks: frozenset[str]
    grit: int | None = None
    wet_at: int | None = None
    wiped_at: int | None = None
    ground_in: bool = False
    worked: bool = False

    def dry_by(self, at: int) -> bool:
        """Whether it is dry at an instant: wiped or blown dry, or left for hours."""
        return "dry" in self.marks or (self.wet_at is not None and at - self.wet_at >= DRIES_S)


def keys_or_cleans(works: Iterable[Work]) -> bool:
    """Whether there is anything in a list that a coat stands on."""
    return any(w.kind in _WORKED for w in works)


def ground_after(deeds: Sequence[Deed], works: Sequence[Work], start: frozenset[str]) -> Ground:
    """The surface after what the log says was done to it, in order."""
    by_key = {w.key: w for w in works}
    on = Ground(start)
    for d in sorted(deeds, key=lambda d: d.at):
        work = by_key.get(d.check_id or "")
        step_id = work.step if work is not None else _WORDS.get(d.word, "")
        if step_id in STEPS:
            on = _stepped(on, step_id, d.grit or (work.grit if work is not None else None), d.at, d.held)
    return on


def ground_listed(works: Sequence[Work], start: frozenset[str]) -> Ground:
    """The surface as the list means it to be."""
    on = Ground(start)
    for w in works:
        if w.step in STEPS:
            on = _stepped(on, w.step, w.grit, 0, True)
    return on


def _stepped(on: Ground, step_id: str, grit: int | None, at: int, held: bool) -> Ground:
    step = STEPS[step_id]
    gives = set(step.gives) if held else set()
    marks = (on.marks - set(step.takes)) | gives
    if not held:
        marks -= set(step.gives)
    ground_in = on.ground_in or (step_id == "abrade" and "degreased" not in on.marks)
    return Ground(
        marks=frozenset(marks),
        grit=grit if "keyed" in gives and grit else on.grit,
        wet_at=at if "dry" in step.takes else on.wet_at,
        wiped_at=at if "degreased" in gives else on.wiped_at,
        ground_in=ground_in,
        worked=on.worked or step.kind in _WORKED,
    )


def grit_off(grit: int | None, listed_grit: int | None, sheet: Sheet) -> str:
    """Whether a key is far too coarse or too fine for a sheet: "coarse", "fine", or "" where it will do.

    `listed_grit`: FEPA P.  Neither what the sheet asks for nor what the list has is held against anybody,
    nor a grit beside it.
    """
    said = [*sheet.properties.key_grit, *([listed_grit] if listed_grit else [])]
    if not grit or not said:
        return ""
    if grit * STEP_UP < min(said):
        return "coarse"
    return "fine" if grit > STEP_UP * max(said) else ""


def surface_now(
    deeds: Sequence[Deed], works: Sequence[Work], due: Sequence[Work], since: int | None
) -> SurfaceState:
    """What the surface is to the next coat; `due`: the steps before it, `since`: when the last was on."""
    own = [d for d in deeds if since is None or d.at >= since]
    at_first = AT_FIRST if since is None else AFTER_COAT
    want, got = ground_listed(due, at_first), ground_after(own, works, at_first)
    wet = "dry" not in got.marks and got.wet_at is not None
    return SurfaceState(
        logged=got.worked,
        soiled="degreased" in want.marks and "degreased" not in got.marks,
        acid="neutral" not in got.marks,
        keyed="keyed" in got.marks,
        wet_until_at=got.wet_at + DRIES_S if wet and got.wet_at is not None else None,
        grit=got.grit,
        wiped_at=got.wiped_at,
    )
