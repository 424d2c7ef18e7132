"""What a task of a plan is called: one maker and one reader of its key.

A key says the part and what is done on it.  Plans, entries and cues of a phone carry keys as text, and
those of stored plans must stay readable: the written form does not change.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["TaskKey", "clean_key", "mix_key", "read_key"]


@dataclass(frozen=True, slots=True, kw_only=True)
class TaskKey:
    """A coat (`layer_id`, `n` from 1), a step (`step_id`, `stint` from 1), tape off, or a slot."""

    part_id: str
    kind: Literal["coat", "step", "unmask", "slot"]
    layer_id: str = ""
    n: int = 1
    step_id: str = ""
    stint: int = 1

    def __str__(self) -> str:
        if self.kind == "coat":
            return f"{self.part_id}/{self.layer_id}/{self.n}"
        if self.kind == "step":
            more = f"~{self.stint}" if self.stint > 1 else ""
            return f"{self.part_id}/step/{self.step_id}{more}"
        return f"{self.part_id}/{self.kind}/{self.n}"


def read_key(text: str) -> TaskKey | None:
    """The key back from its text; None for what is no key of a task on a part."""
    part_id, _, rest = text.partition("/")
    what, _, tail = rest.partition("/")
    if not part_id or not what or not tail:
        return None
    if what == "step":
        step_id, _, stint = tail.partition("~")
        return TaskKey(
            part_id=part_id, kind="step", step_id=step_id, stint=int(stint) if stint.isdecimal() else 1
        )
    if not tail.isdecimal():
        return None
    if what == "unmask":
        return TaskKey(part_id=part_id, kind="unmask", n=int(tail))
    if what == "slot":
        return TaskKey(part_id=part_id, kind="slot", n=int(tail))
    return TaskKey(part_id=part_id, kind="coat", layer_id=what, n=int(tail))


def clean_key(coat: str) -> str:
    """The cleaning of the gun a coat was put on with."""
    return f"{coat}/clean"


def mix_key(coat: str) -> str:
    """The mix made for a coat."""
    return f"{coat}/mix"
