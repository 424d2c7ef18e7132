"""What the log said, before any clock is computed: private to replay, thrown away after freezing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple

from .entries import CanBody
from .facts import Facts, Layer
from .in_service import ServiceRecord
from .states import Ended, Flag, LogFinding
from .timeline import Reading

__all__ = ["Accumulator", "BatchRecord", "CoatRecord", "Deed", "PourRecord"]


@dataclass(slots=True)
class CoatRecord:
    """What entries said of one coat: starts, ends, draws and pauses, in the order told."""

    coat_id: str
    part_id: str = ""
    layer_id: str = ""
    sheet_id: str = ""
    facts_id: str = ""
    n: int = 0
    starts: list[tuple[int, str]] = field(default_factory=list)
    dones: list[tuple[int, int, str]] = field(default_factory=list)
    draws: list[tuple[tuple[str, ...], str, float]] = field(default_factory=list)
    batch_ids: set[str] = field(default_factory=set)
    pauses: list[tuple[tuple[int, str, int, str], bool]] = field(default_factory=list)
    masks: list[tuple[str | None, bool]] = field(default_factory=list)
    combs: list[tuple[float, float]] = field(default_factory=list)
    removed_at: int | None = None

    @property
    def started_at(self) -> int:
        """Maximum bounds count from the earliest start said."""
        return min(at for at, _ in self.starts)

    @property
    def done_at(self) -> int | None:
        """Minimum bounds count from the latest end said, and never before the start."""
        if not self.dones:
            return None
        return max(self.started_at, max(late for _, late, _ in self.dones))

    @property
    def paused(self) -> bool:
        """Whether the last word on it is a pause, and it has not ended."""
        return bool(self.pauses) and max(self.pauses)[1] and not self.dones

    def copy(self) -> CoatRecord:
        """A record that can absorb others without changing this one."""
        return replace(
            self,
            starts=list(self.starts),
            dones=list(self.dones),
            draws=list(self.draws),
            batch_ids=set(self.batch_ids),
            pauses=list(self.pauses),
            masks=list(self.masks),
            combs=list(self.combs),
        )

    def absorb(self, other: CoatRecord) -> None:
        """Take over what another record says of the same coat."""
        self.starts += other.starts
        self.dones += other.dones
        self.draws += other.draws
        self.batch_ids |= other.batch_ids
        self.pauses += other.pauses
        self.masks += other.masks
        self.combs += other.combs


class PourRecord(NamedTuple):
    """One pour as it was told: ml poured, or what the scale shows of all that is in the cup [g]."""

    role: str
    ml: float | None
    scale_g: float | None
    at: int
    entry_id: str
    can: CanBody | None = None


class Deed(NamedTuple):
    """A step as it was told: when, its id in the list or a word, with what grit, and whether it held."""

    at: int
    part_ids: tuple[str, ...]
    word: str
    check_id: str | None
    grit: int | None
    held: bool


@dataclass(slots=True)
class BatchRecord:
    """What entries said of one batch: pours, when it was mixed and closed [epoch s], what was left."""

    batch_id: str
    sheet_id: str
    pours: list[PourRecord] = field(default_factory=list)
    mixed: Any = None
    mixed_at: int | None = None
    closed_at: int | None = None
    left_ml: float | None = None
    left_g: float | None = None


@dataclass(slots=True)
class Accumulator:
    """Everything the entries said, before any clock is computed.  Thrown away after freezing."""

    job_id: str
    known: Mapping[str, Facts]
    facts: Facts | None = None
    plan_id: str | None = None
    coats: dict[str, CoatRecord] = field(default_factory=dict)
    batches: dict[str, BatchRecord] = field(default_factory=dict)
    steps: list[tuple[int, str, tuple[str, ...]]] = field(default_factory=list)
    deeds: list[Deed] = field(default_factory=list)
    #: where a part was told to be: (when, place) in order; before the first the place of its facts
    places: dict[str, list[tuple[int, str]]] = field(default_factory=dict)
    moves: list[tuple[int, str, str, str]] = field(default_factory=list)
    failed: dict[tuple[str, str], int] = field(default_factory=dict)
    step_checks: list[tuple[str, bool, tuple[str, ...]]] = field(default_factory=list)
    checks: dict[str, dict[str, tuple[int, bool]]] = field(default_factory=dict)
    coats_set: dict[str, int] = field(default_factory=dict)
    heat: dict[str, list[tuple[int, float | None]]] = field(default_factory=dict)
    archived: bool = False
    unmasked: dict[str, int] = field(default_factory=dict)
    hand: list[tuple[str, Reading]] = field(default_factory=list)
    totals: dict[str, list[tuple[int, tuple[float, ...]]]] = field(default_factory=dict)
    service: dict[str, list[ServiceRecord]] = field(default_factory=dict)
    flags: list[Flag] = field(default_factory=list)
    found: list[LogFinding] = field(default_factory=list)
    ended: Ended | None = None

    def coat(self, coat_id: str) -> CoatRecord:
        """The record of a coat, begun where there is none yet."""
        return self.coats.setdefault(coat_id, CoatRecord(coat_id=coat_id))

    def stands(self, part_id: str, at: int, place_id: str) -> None:
        """A part is in a place from an instant on; said again where it is, nothing changes."""
        told = self.places.setdefault(part_id, [])
        if not told or told[-1][1] != place_id:
            told.append((at, place_id))
            told.sort(key=lambda x: x[0])

    def life(self, part_id: str) -> ServiceRecord | None:
        """The service a part is in now."""
        lives = self.service.get(part_id, [])
        return lives[-1] if lives and lives[-1].ended is None else None

    def out_of_service(self, part_id: str) -> bool:
        """The part has been in service, was stripped, and nothing is on it since."""
        lives = self.service.get(part_id, [])
        return bool(lives) and lives[-1].ended is not None and not self.has_coats(part_id)

    def has_coats(self, part_id: str) -> bool:
        """Whether a coat was started on the part and not taken off again."""
        return any(c.part_id == part_id and c.starts and c.removed_at is None for c in self.coats.values())

    def batch(self, batch_id: str, sheet_id: str) -> BatchRecord:
        """The record of a batch, begun where there is none yet; the first material said is its own."""
        record = self.batches.setdefault(batch_id, BatchRecord(batch_id, sheet_id))
        record.sheet_id = record.sheet_id or sheet_id
        return record

    def layer(self, facts_id: str, layer_id: str) -> Layer | None:
        """A layer of the facts named, or of those adopted; None: neither has it."""
        for facts in (self.known.get(facts_id), self.facts):
            if facts is not None:
                for x in facts.layers:
                    if x.id == layer_id:
                        return x
        return None
