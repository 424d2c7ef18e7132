"""What a walk along an order holds: hands, machines, pots, where a task can go, and marks to go back to."""

from __future__ import annotations

from dataclasses import dataclass, field

from .plan import Binding, PlannedBatch
from .problem import ToDo

__all__ = ["Hand", "Live", "Mark", "Placed", "Push", "Slot", "Unit", "Wants"]


@dataclass(slots=True)
class Hand:
    """Somebody who works: free from when [epoch s], after which task, and when they were busy."""

    free_at: int
    last: str = ""
    busy: list[tuple[int, int]] = field(default_factory=list)


@dataclass(slots=True)
class Wants:
    """What a task takes: painter, gun, machines, and what comes before it [s]."""

    i: int | None
    hand: Hand | None
    others: tuple[int, ...]
    gun: Unit | None
    machines: list[Unit]
    mix_s: int
    stand_s: int
    clean_s: int
    setup_s: int
    helper: int | None = None

    def helped(self, helper: int) -> Wants:
        """The same with somebody else to mix for it: the number of who does, `helper`."""
        # Many thousand times a plan, as below.
        return Wants(
            self.i,
            self.hand,
            self.others,
            self.gun,
            self.machines,
            self.mix_s,
            self.stand_s,
            self.clean_s,
            self.setup_s,
            helper,
        )

    @property
    def front_s(self) -> int:
        """Just before it, by who does it: cleaning out, setting up, and mixing where it need not stand."""
        mixes = not self.stand_s and self.helper is None
        return self.clean_s + self.setup_s + (self.mix_s if mixes else 0)

    @property
    def own_s(self) -> int:
        """From the first move for it until it begins, of who does it."""
        return self.front_s + (self.mix_s + self.stand_s if self.stand_s else 0)

    @property
    def lead_s(self) -> int:
        """The same of whoever moves first: somebody else may mix."""
        return self.own_s + (self.mix_s if self.helper is not None else 0)


@dataclass(slots=True)
class Unit:
    """A gun or a machine: what it holds, of which batch, and the coat that used it last."""

    name: str
    free_at: int
    holds: str = ""
    batch: int | None = None
    last: str = ""
    dirty: bool = False
    clean_s: int = 0
    was: tuple[str, int | None] = ("", None)

    def copy(self) -> Unit:
        """The same, to be changed by itself."""
        # Many thousand times a plan: the general way to copy takes ten times as long.
        return Unit(
            self.name, self.free_at, self.holds, self.batch, self.last, self.dirty, self.clean_s, self.was
        )


@dataclass(frozen=True, slots=True)
class Live:
    """A pot that can be drawn from; `index` None: it stood there before the plan.  Marks share it."""

    index: int | None
    left_ml: float
    ready_at: int
    use_by_at: int | None


@dataclass(slots=True)
class Slot:
    """Where a task can go: its start, what is done before it and by whom."""

    start: int
    hand: int | None
    others: tuple[int, ...]
    gun: Unit | None
    machines: list[Unit]
    clean_s: int
    mix_s: int
    setup_s: int
    mix_end: int | None
    fresh: bool
    open_until: int | None
    calm_until: int | None
    binding: Binding
    waits_key: str | None
    mixer: int | None = None

    @property
    def front_s(self) -> int:
        """What the painter does directly before the start [s]."""
        return self.clean_s + self.setup_s + (self.mix_s if self.mix_end is None else 0)


@dataclass(slots=True)
class Placed:
    """A task with its time; no slot: it is going on already."""

    todo: ToDo
    start_at: int
    end_at: int
    hand: int
    slot: Slot | None
    opens_at: int | None = None
    closes_at: int | None = None


@dataclass(slots=True)
class Mark:
    """What a walk has to know to go on from before one of its tasks."""

    hands: list[tuple[int, str, int]]
    units: dict[str, list[Unit]]
    live: dict[tuple[str, str], Live]
    batches: list[PlannedBatch]
    lasts: set[str]
    needless: set[str]
    out: dict[tuple[str, str], int]
    left: dict[tuple[str, str], int]
    leaves: dict[str, dict[str, int]]
    airs: dict[str, tuple[int, int]]
    done: int
    extra: int


@dataclass(slots=True)
class Push:
    """A task cannot be placed: which one must move, to when; or nothing can be done.

    `start_at`: the earliest the task itself could begin as things stand.
    """

    victim: str | None
    to: int
    why: str
    keys: tuple[str, ...]
    start_at: int = 0
