"""What replay answers: the timeline of a job's states, past and coming, valid until the next entry."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ..why import Why
from .entries import CanBody
from .in_service import PartService

__all__ = [
    "Batch",
    "Clock",
    "Combed",
    "Cue",
    "CueNext",
    "CueStart",
    "Dry",
    "Ended",
    "Film",
    "FindingCode",
    "Flag",
    "GateTime",
    "JobState",
    "LayerBuild",
    "LedgerLine",
    "LogFinding",
    "NextTask",
    "PartState",
    "PouredPart",
    "Span",
    "Stay",
    "SurfaceState",
]

#: what a reader is told of it; the interface has the words, in each language
FilmWord = Literal[
    "wet",
    "flash",
    "open",
    "open_tacky",
    "open_sanded",
    "closing",
    "closing_tacky",
    "over_age",
    "curing",
    "cured",
]  # fmt: skip
FilmState = Literal["wet", "flash", "open", "closing", "over_age", "curing", "cured"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """A state of a film from one instant to another (None: without end)."""

    state: FilmState
    from_at: int
    to_at: int | None
    word: FilmWord
    why: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class Dry:
    """Dry film [um]."""

    low: float
    likely: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Combed:
    """Readings of the wet film gauge on one coat, each taken as the middle of its two teeth [um]."""

    n: int
    mean_um: float
    sd_um: float | None
    lowest_um: float
    under_aim: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Film:
    """A coat as it lies on a part: when it was put on [epoch s], how thick it is, its states in time.

    `takes_s`: how long such a coat takes by its method.  `waits_x`: how many times longer than its sheet
    says it waits, for its thickness and its thinner.
    """

    coat_id: str
    slot: str
    layer_id: str
    sheet_id: str
    n: int
    started_at: int
    done_at: int | None
    paused: bool
    aim_wet_um: float | None
    wet_um: Dry | None
    dry_um: Dry | None
    dry_from: Literal["plan", "draw", "wet", "gauge"]
    spans: tuple[Span, ...]
    combed: Combed | None = None
    takes_s: int = 0
    waits_x: float = 1.0
    waits_why: Why | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GateTime:
    """When a part passes a gate; None: not at the temperatures known and assumed."""

    name: str
    early_at: int | None
    likely_at: int | None
    late_at: int | None
    closes_at: int | None
    by: Literal["computed", "checked"]
    failed_at: int | None
    assumed_s: int
    why: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class SurfaceState:
    """What the surface of a part is now, as far as its steps are on the log [epoch s].

    `logged`: some of them are.  `soiled`: it was not degreased since.  `wet_until_at`: until when what was
    wetted counts as wet.  `grit`: of the last key (FEPA P).  `wiped_at`: when it was last cleaned.
    """

    logged: bool = False
    soiled: bool = False
    acid: bool = False
    keyed: bool = False
    wet_until_at: int | None = None
    grit: int | None = None
    wiped_at: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LayerBuild:
    """A layer that was measured: its film so far and meant [um], and how many coats that still takes.

    `coats_to_go` is by what was measured, `planned_to_go` by counting.
    """

    layer_id: str
    so_far_um: float
    target_um: float
    coats_to_go: int
    planned_to_go: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Stay:
    """A place a part is in, and from when on [epoch s]."""

    from_at: int
    place_id: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PartState:
    """Where a part stands.  `must_after`: in words, what has to be ticked before it goes into service.

    `heat_degc`: heat that is on as far as the log knows, and until when it counts.  `surface`: what it is to
    the next coat.  `stays`: from when on it was where, the first from the beginning.  `mend`: how the coat on
    top is taken off, a key of MENDS.
    """

    part_id: str
    place_id: str
    films: tuple[Film, ...]
    due_layer_id: str | None
    keyed_until_at: int | None
    unmasked_at: int | None
    gates: tuple[GateTime, ...]
    steps_done: tuple[str, ...] = ()
    checks: dict[str, bool] = field(default_factory=dict)
    must_after: tuple[str, ...] = ()
    builds: tuple[LayerBuild, ...] = ()
    heat_degc: float | None = None
    heat_until_at: int | None = None
    stays: tuple[Stay, ...] = ()
    surface: SurfaceState = SurfaceState()
    mend: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PouredPart:
    """A component that is in the cup [ml, g] and since when [epoch s]."""

    role: str
    ml: float
    g: float
    at: int
    entry_id: str
    can: CanBody | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Batch:
    """A batch: what was poured, how much is left [ml], until when it is good [epoch s]; None: it lasts.

    `left_told`: somebody looked what was left.  `solids_frac`: volume solids as it was really poured.
    """

    batch_id: str
    sheet_id: str
    poured: tuple[PouredPart, ...]
    mixed: bool
    total_ml: float
    left_ml: float
    left_told: bool = False
    solids_frac: float | None = None
    hardener_in_at: int | None
    use_by_at: int | None
    gels_at: int | None
    closed_at: int | None
    coat_ids: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Clock:
    """Something that runs: from when to when it is open, and the latest safe start in it [epoch s]."""

    kind: Literal["window", "pot", "unmask", "gate", "then"]
    subject: str
    label: str
    opens_at: int | None
    closes_at: int | None
    latest_start_at: int | None
    why: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class NextTask:
    """A task that is due, when it may start and what it waits for.

    kind then: what the sheet wants done to the last coat within its time (wipe off what did not soak in);
    `steps` is what it is.

    `before`: keys of the step list that are due before it; `must`: in words, those without which
    nothing goes on.
    """

    task_key: str
    kind: Literal["coat", "fix", "unmask", "then"]
    part_id: str
    layer_id: str | None
    n: int
    opens_at: int | None
    closes_at: int | None
    latest_start_at: int | None
    duration_s: int
    wet_um: float | None
    dry_um: float | None
    volume_ml: float | None
    character: str = ""
    direction: str = ""
    waits_for: str
    steps: tuple[str, ...]
    why: Why
    before: tuple[str, ...] = ()
    must: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class CueStart:
    """A clock a tap starts: how long after the tap it opens and closes [s]."""

    clock_kind: str
    opens_s: int | None
    closes_s: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CueNext:
    """The task a cue shows: a coat of a layer, or what is then done to the last one."""

    kind: Literal["coat", "then"]
    layer_id: str | None
    n: int
    steps: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Cue:
    """On this tap start these clocks, then show that task: what a phone plays without network."""

    task_key: str
    on_kind: str
    starts: tuple[CueStart, ...]
    next_key: str | None
    next: CueNext | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag:
    """Something to look at, with the entry and the part it is about."""

    code: str
    text: str
    entry_id: str | None = None
    part_id: str | None = None


FindingCode = Literal[
    "coat.early",
    "coat.on_wet",
    "coat.late",
    "coat.wrong_material",
    "pot.old",
    "pot.gelled",
    "mix.ratio",
    "mix.thinned",
    "mix.overdrawn",
    "film.volume",
    "film.thin",
    "film.thick",
    "film.total",
    "film.coats",
    "can.expired",
    "can.lots_differ",
    "air.wind",
    "air.rain",
    "painter.air",
    "painter.sensitised",
    "edge.ragged",
    "edge.lifted",
    "film.doubtful",
    "log.twice",
    "log.no_start",
    "log.no_end",
    "log.clock",
    "metal.bare",
    "sanded.early",
    "coats.fewer",
    "heat.early",
    "steps.unticked",
    "air.cold",
    "air.hot",
    "air.humid",
    "air.dew",
    "unmasked.early",
    "unmasked.late",
    "service.early",
    "prep.none",
    "prep.acid",
    "prep.wet",
    "prep.soiled",
    "prep.ground_in",
    "prep.dusty",
    "prep.not_keyed",
    "prep.coarse",
    "prep.fine",
    "mix.short",
    "mix.unlogged",
    "mix.induction",
    "pour.wrong_product",
    "polished.early",
    "cure.cold",
    "painter.unsaid",
    "layer.skipped",
    "system.unfinished",
    "moved.early",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class LogFinding:
    """Something that went wrong by the log: what, where, by how much against what limit and from where.

    `values` go with the code; the interface has the words.  `until_at`: until when what mends it helps.
    `met_at`: since when it is mended.  `mend`: how a coat of it is put right, a key of MENDS.
    """

    code: FindingCode
    severity: Literal["ruins", "risks", "note"]
    part_id: str = ""
    coat_id: str = ""
    batch_id: str = ""
    entry_id: str = ""
    at: int
    values: dict[str, float | int | str] = field(default_factory=dict)
    why: Why
    until_at: int | None = None
    met_at: int | None = None
    mend: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerLine:
    """What became of an entry in replay, and why."""

    entry_id: str
    outcome: Literal["applied", "struck", "flagged", "unknown_kind"]
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ended:
    """When a job was closed or given up [epoch s], and why."""

    at: int
    how: Literal["closed", "abandoned"]
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobState:
    """What replay answers: parts, batches, clocks, what is next, and what became of each entry.

    `coats`: by layer, where the log has decided on more or fewer than the facts; see `as_decided`.
    """

    job_id: str
    core_version: str
    through_seq: int
    facts_id: str | None
    plan_id: str | None
    climate_id: str
    parts: tuple[PartState, ...]
    batches: tuple[Batch, ...]
    clocks: tuple[Clock, ...]
    next: tuple[NextTask, ...]
    cues: tuple[Cue, ...]
    flags: tuple[Flag, ...]
    service: tuple[PartService, ...] = ()
    findings: tuple[LogFinding, ...] = ()
    coats: dict[str, int] = field(default_factory=dict)
    archived: bool = False
    ended: Ended | None = None
    ledger: tuple[LedgerLine, ...] = ()
