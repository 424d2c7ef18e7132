"""The problem: all that is still to do in a shop, with its waits and what it has to share.

Shared are painters, bays in which an object stands until it can be moved, guns that hold one
material at a time, machines, opening hours and the weather of places outdoors.  A coat that is
going on is a task too, locked where it began.  A part that cannot be gone on with is blocked, with
the reason; it does not hold up the others.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from ..drying import Pace
from ..run.recoat_windows import reach_max, reach_min, ripens_from
from ..run.timeline import Timeline
from .rights import Person

__all__ = [
    "DUST_MOST_S",
    "Bay",
    "Edge",
    "Interval",
    "Link",
    "Pot",
    "Problem",
    "TaskKind",
    "ToDo",
    "link_windows",
    "merge",
]

Interval = tuple[int, int | None]
Edge = Pace | int | None
DUST_MOST_S = 12 * 3600  # assumed: in air too cold for it nobody holds the whole shop still any longer
TaskKind = Literal["step", "mix", "setup", "coat", "unmask", "clean", "slot"]


@dataclass(frozen=True, slots=True)
class Link:
    """The wait of one task for another: windows of (minimum, maximum).

    Minima run from the end of the first, maxima from its start, as its first patch ages first.  An
    edge is a pace that depends on the air, or whole seconds, or nothing.  `turned`: the second
    goes over the work the other way, so its last patch is the first one's oldest, and a maximum
    has to hold to its end.
    """

    a_key: str
    b_key: str
    windows: tuple[tuple[Edge, Edge], ...]
    gate: str
    sheet_id: str
    turned: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ToDo:
    """A task of the problem.

    `blocked`: why it cannot be planned; empty where that is told elsewhere. `windows` are absolute
    intervals for its start (empty: any time). `gun` holds one material at a time: another one is cleaned
    out first, then the gun is set up. `uses` are machines held while the task lasts. `dry_s`: how long
    the weather of an outdoor place must hold after it. `leaves`: pace at which its object can be moved
    out of the bay afterwards. `step`: the word a step goes on the log with that no list has; `work`: the
    step of the catalogue it is. `hands`: how many work on it side by side. `by_itself`: it is begun and
    then goes on, also while the shop is closed. `mixes`: into how many pots a coat is divided that lasts
    longer than one of them, `mix_ml` each but the last.  `needs`: what who does it has to be trusted with,
    of RIGHTS.  `dusts`: it fills the air of its place with dust.  `settles`: pace at which a coat gets so far
    that dust does it no harm.
    """

    key: str
    kind: TaskKind
    part_id: str
    label: str
    duration_s: int
    job_id: str = ""
    sheet_id: str | None = None
    volume_ml: float = 0.0
    windows: tuple[Interval, ...] = ()
    blocked: str | None = None
    began_at: int | None = None
    hands: int = 1
    gun: str = ""
    setup_s: int = 0
    clean_s: int = 0
    uses: tuple[str, ...] = ()
    place_id: str = ""
    dry_s: int = 0
    leaves: Pace | None = None
    character: str = ""
    direction: str = ""
    step: str = ""
    work: str = ""
    by_itself: bool = False
    mixes: int = 1
    mix_ml: float = 0.0
    needs: frozenset[str] = frozenset()
    dusts: bool = False
    settles: Pace | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Pot:
    """How a sheet is mixed: time to mix, to stand, to stir again, and the pace at which it dies."""

    mix_s: int
    pace: Pace | None
    use_frac: float
    induction_s: int = 0
    stir_every_s: int | None = None
    most_ml: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Bay:
    """A place that holds so many objects: those in it now, and (object, until) that only dry."""

    name: str
    holds: int
    inside: tuple[str, ...] = ()
    drying: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """Tasks by key in the order of jobs, parts and layers.

    `alive` pots are (batch, ml left, use by) by (job, sheet).  `units`: how many there are of a gun
    or a machine, one unless said.  `weather`: when a place outdoors is fit to coat in.  `due`: when
    a job must be done.  `held`: tasks moved by hand, not to begin before.  `people`: who the painters
    are, what they may do and when they are there; nobody named: anybody may do anything in opening hours.
    `free`: when a gun or a machine is not held by somebody else; not named: always.  `at_it`: who is at
    what is going on; not named: whoever may.  `thinned`: sheets that are mixed with a thinner.
    `lend_s`: a gun not wanted for so long is cleaned out, so that another job has it; None: it waits.
    `wet`, `dusty`: when a film takes dust, and when there is dust, by place under a roof.
    """

    job_id: str
    now: int
    tasks: dict[str, ToDo]
    links: tuple[Link, ...]
    airs: Mapping[str, Timeline] = field(hash=False)
    painters: int
    hours: tuple[tuple[int, int], ...]
    pots: dict[str, Pot]
    alive: dict[tuple[str, str], tuple[str, float, int]]
    names: dict[str, str]
    units: dict[str, int] = field(default_factory=dict)
    bays: dict[str, Bay] = field(default_factory=dict)
    weather: dict[str, tuple[tuple[int, int], ...]] = field(default_factory=dict)
    due: dict[str, int] = field(default_factory=dict)
    held: dict[str, int] = field(default_factory=dict)
    people: tuple[Person, ...] = ()
    free: dict[str, tuple[tuple[int, int], ...]] = field(default_factory=dict)
    at_it: dict[str, tuple[int, ...]] = field(default_factory=dict)
    thinned: frozenset[str] = frozenset()
    lend_s: int | None = None
    wet: Mapping[str, tuple[tuple[int, int], ...]] = field(default_factory=dict, hash=False)
    dusty: Mapping[str, tuple[tuple[int, int], ...]] = field(default_factory=dict, hash=False)

    def wet_span(self, t: ToDo, start_at: int, end_at: int) -> tuple[int, int] | None:
        """From when to when dust would spoil a coat [epoch s]; None: it would not, or it is in the open."""
        if t.settles is None or t.place_id in self.weather or t.part_id not in self.airs:
            return None
        settled = reach_min(self.airs[t.part_id], t.settles, end_at)
        return start_at, end_at + DUST_MOST_S if settled is None else min(settled, end_at + DUST_MOST_S)

    def air_of(self, link: Link) -> Timeline | None:
        """The air a wait ripens in: that of the part it begins on."""
        return self.airs.get(self.tasks[link.a_key].part_id)

    def before(self) -> dict[str, tuple[str, ...]]:
        """The tasks each one waits for; what waits for nothing is not in it."""
        out: dict[str, tuple[str, ...]] = {}
        for x in self.links:
            out[x.b_key] = (*out.get(x.b_key, ()), x.a_key)
        return out

    def links_to(self) -> dict[str, list[Link]]:
        """Links by the task they lead to."""
        out: dict[str, list[Link]] = {}
        for x in self.links:
            out.setdefault(x.b_key, []).append(x)
        return out


def merge(problems: Sequence[Problem]) -> Problem:
    """Several jobs as one: the same painters, bays, guns and hours for all.

    Parts and tasks carry ids of their own; a pot stays with its job.  Of a bay each job knows only
    its own objects, so they are put together.
    """
    first = problems[0]
    tasks: dict[str, ToDo] = {}
    airs: dict[str, Timeline] = {}
    pots: dict[str, Pot] = {}
    alive: dict[tuple[str, str], tuple[str, float, int]] = {}
    names: dict[str, str] = {}
    bays: dict[str, Bay] = {}
    wet: dict[str, tuple[tuple[int, int], ...]] = {}
    due: dict[str, int] = {}
    weather: dict[str, tuple[tuple[int, int], ...]] = {}
    for p in problems:
        tasks |= p.tasks
        airs |= p.airs
        pots |= p.pots
        alive |= p.alive
        names |= p.names
        due |= p.due
        weather |= p.weather
        for place, spans in p.wet.items():
            wet[place] = (*wet.get(place, ()), *spans)
        for place, bay in p.bays.items():
            had = bays.get(place, Bay(name=bay.name, holds=bay.holds))
            inside = tuple(dict.fromkeys(had.inside + bay.inside))
            drying = tuple(dict.fromkeys(had.drying + bay.drying))
            bays[place] = replace(had, inside=inside, drying=drying)
    return replace(
        first,
        job_id="",
        tasks=tasks,
        links=tuple(x for p in problems for x in p.links),
        airs=airs,
        pots=pots,
        alive=alive,
        names=names,
        bays=bays,
        due=due,
        weather=weather,
        wet=wet,
        thinned=frozenset().union(*(p.thinned for p in problems)),
    )


def link_windows(
    link: Link, air: Timeline | None, start_at: int, end_at: int, takes_s: int
) -> tuple[Interval, ...]:
    """When the task a link leads to may start, once the one before ran from `start_at` to `end_at`.

    `takes_s`: how long the task it leads to lasts [s].
    """
    out: list[Interval] = []
    # A coat that goes the same way over a long surface comes to each patch when that is ripe.
    same_way = link.gate == "recoat" and not link.turned
    ripe_from = ripens_from(start_at, end_at, takes_s) if same_way else end_at
    for opens, closes in link.windows:
        at = _min_edge(air, opens, ripe_from)
        at = None if at is None else max(at, end_at)
        end = _max_edge(air, closes, start_at)
        if end is not None and link.turned:
            end -= takes_s
        if at is not None and (end is None or end >= at):
            out.append((at, end))
    return tuple(out)


def _min_edge(air: Timeline | None, edge: Edge, end_at: int) -> int | None:
    if edge is None:
        return end_at
    if isinstance(edge, int):
        return end_at + edge
    assert air is not None
    return reach_min(air, edge, end_at)


def _max_edge(air: Timeline | None, edge: Edge, start_at: int) -> int | None:
    """None: without end.  A maximum that is never reached has no end either."""
    if edge is None:
        return None
    if isinstance(edge, int):
        return start_at + edge
    assert air is not None
    return reach_max(air, edge, start_at)
