"""What a plan is: tasks in time, the batches they draw from, and what each start waits for."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass, field, replace
from typing import Literal

from ..codec import LATER
from ..why import Why
from .problem import TaskKind

__all__ = [
    "SIDE_KINDS",
    "Binding",
    "Conflict",
    "Objective",
    "Plan",
    "PlannedBatch",
    "Speed",
    "Task",
    "Wishes",
    "slice_of",
]

#: What is done for a coat rather than on a part.
SIDE_KINDS = ("mix", "setup", "clean")

Objective = Literal["finish", "mixes", "due", "waiting"]
Speed = Literal["sheet", "fast", "slow"]
Binding = Literal[
    "now",
    "link",
    "painter",
    "gun",
    "machine",
    "bay",
    "mix",
    "hours",
    "away",
    "weather",
    "air",
    "held",
    "later",
    "going",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Task:
    """A task at its time.  `waits_key` is the task it waits for, `binding` in what way.

    `slack_s`: how much later it could begin with every window and every deadline still met; None
    where nothing ends.  `others`: painters who work on it beside the first; `hands` 0: it goes on by itself.
    """

    key: str
    job_id: str
    kind: TaskKind
    label: str
    part_id: str
    painter: int
    start_at: int
    end_at: int
    opens_at: int | None
    closes_at: int | None
    binds: Why
    slack_s: int | None
    locked: bool = False
    binding: Binding = "now"
    waits_key: str | None = None
    character: str = ""
    direction: str = ""
    step: str = field(default="", metadata=LATER)
    others: tuple[int, ...] = field(default=(), metadata=LATER)
    hands: int = field(default=1, metadata=LATER)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedBatch:
    """A pot: when it is mixed, stirred and dead, and the coats that draw from it."""

    key: str
    sheet_id: str
    total_ml: float
    mix_at: int
    use_by_at: int | None
    draws: tuple[str, ...]
    job_id: str = ""
    stir_at: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """What was asked of a plan beyond the log; a reflow keeps to it.

    `painters` None: as many as the shop has.  `warm_degc`: the bays are heated to it from `now` on.
    `hardener`, `thinner`: drying, and pots, as with a faster or slower one (assumed factors).  `airflow`:
    air is moved over what dries of water.  `held`: tasks moved by hand, not to begin before.  `keyed`:
    coats before which the one below is abraded and wiped.  `stay_s`: how much longer the shop stays open.
    `backwards`: begin as late as the deadlines allow.
    """

    objective: Objective = "finish"
    start_at: int | None = None
    leave_at: int | None = None
    painters: int | None = None
    warm_degc: float | None = None
    hardener: Speed = "sheet"
    thinner: Speed = field(default="sheet", metadata=LATER)
    airflow: bool = field(default=False, metadata=LATER)
    held: dict[str, int] = field(default_factory=dict)
    keyed: tuple[str, ...] = ()
    stay_s: int = 0
    backwards: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Conflict:
    """Something that cannot be met: the tasks it is between, and why."""

    keys: tuple[str, ...]
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A laid-out plan.  status in words of the solver; `conflicts` say what cannot be met and why.

    `ranks`: in a job's share of a shop's plan, the place of its tasks in the order of all.
    `people`: the names of the painters, by the number tasks have of them; empty: nobody is named.
    """

    id: str = ""
    job_id: str
    made_at: int
    status: Literal["optimal", "feasible", "infeasible", "timed_out"]
    tasks: tuple[Task, ...]
    batches: tuple[PlannedBatch, ...]
    order: tuple[str, ...]
    finish_at: int | None
    bound_s: int
    conflicts: tuple[Conflict, ...] = ()
    wishes: Wishes = Wishes()
    ranks: dict[str, int] = field(default_factory=dict)
    people: tuple[str, ...] = field(default=(), metadata=LATER)

    @property
    def conflict(self) -> str:
        """What cannot be met, in words."""
        return "; ".join(c.why for c in self.conflicts)


def slice_of(plan: Plan, job_id: str, keys: Container[str]) -> Plan:
    """What a shop's plan says of one job, whose tasks have these keys; its conflicts stay with it."""
    tasks = tuple(t for t in plan.tasks if t.job_id == job_id)
    conflicts = tuple(c for c in plan.conflicts if any(k in keys for k in c.keys))
    status = plan.status
    if status == "infeasible" and not conflicts and plan.tasks:
        status = "feasible"
    return replace(
        plan,
        id="",
        job_id=job_id,
        status=status,
        tasks=tasks,
        batches=tuple(b for b in plan.batches if b.job_id == job_id),
        order=tuple(k for k in plan.order if k in keys),
        ranks={k: i for i, k in enumerate(plan.order) if k in keys},
        finish_at=max((t.end_at for t in tasks if t.kind not in SIDE_KINDS), default=None),
        conflicts=conflicts,
        wishes=replace(plan.wishes, held={k: at for k, at in plan.wishes.held.items() if k in keys}),
    )
