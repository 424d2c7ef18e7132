"""From the coats of one part and its climate to states with their times, and to gates.

Minimum bounds take the slow edge of what is known about temperature, maximum bounds the fast edge.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from ..drying import DEFAULT_EA_J_PER_MOL, Pace
from ..sheet import Recoat, Sheet
from ..why import Why, computed
from .states import GateTime, Span
from .timeline import Timeline

__all__ = [
    "PATCH_S",
    "Edge",
    "Opening",
    "film_spans",
    "openings",
    "part_gates",
    "reach_max",
    "reach_min",
    "ripens_from",
    "sheet_pace",
    "tacky_at",
]

GATE_SPREAD = 0.10  # assumed: a sheet's drying times are good to about a tenth
CLOSING_SHARE, CLOSING_MAX_S = 0.25, 7200  # assumed
FIX_VALID_S = 24 * 3600  # assumed, where a sheet is silent
PATCH_S = 1800  # assumed: a surface that takes longer is worked patch by patch, each as old as it is
_MAX_GATES = ("unmask_to", "immerse_to")


def sheet_pace(sheet: Sheet, points: tuple[tuple[float, int], ...], edge: str) -> Pace:
    """The pace of a sheet towards a gate with these points."""
    return Pace(
        points=points,
        law=sheet.law,
        ea_j_per_mol=sheet.ea_j_per_mol or DEFAULT_EA_J_PER_MOL[sheet.law],
        stops_below_degc=sheet.stops_below_degc,
        edge="min" if edge == "min" else "max",
        stated_to_degc=max((p.at_degc for p in sheet.points), default=None) if edge == "min" else None,
    )


#: sure: who obeys it is right whatever the air really was.  fair: who broke it was wrong whatever it was.
#: real: as fair, and warmer than the sheet's temperature a minimum shortens, as it does in fact.
Edge = Literal["sure", "fair", "real"]


def reach_min(
    air: Timeline, pace: Pace, start_at: int, amount: float = 1.0, *, edge: Edge = "sure"
) -> int | None:
    """First whole second at which a minimum is surely over; fair: at which it may be."""
    if edge == "real":
        pace = replace(pace, stated_to_degc=None)
    at = air.reach(pace, start_at, amount, -1 if edge == "sure" else +1)
    return None if at is None else math.ceil(at - 1e-3) if edge == "sure" else math.floor(at + 1e-3)


def reach_max(
    air: Timeline, pace: Pace, start_at: int, amount: float = 1.0, *, edge: Edge = "sure"
) -> int | None:
    """Last whole second at which a maximum has surely not passed; fair: at which it need not have."""
    at = air.reach(pace, start_at, amount, +1 if edge == "sure" else -1)
    return None if at is None else math.floor(at + 1e-3) if edge == "sure" else math.ceil(at - 1e-3)


def ripens_from(started_at: int, done_at: int, next_s: int) -> int:
    """From when a minimum counts, where the next coat goes the same way over the work in `next_s` [s].

    On a long surface the first patch is as old as the coat took.  The next coat, as slow, comes to each
    patch when that is ripe; so it need not wait for the last one.
    """
    return done_at - max(0, min(done_at - started_at, next_s) - PATCH_S)


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """An interval in which the next coat may go on."""

    from_at: int
    to_at: int | None
    closing_at: int | None
    word: str


def openings(
    air: Timeline,
    sheet: Sheet,
    recoat: Recoat,
    *,
    done_at: int,
    started_at: int,
    lead_s: int,
    fixes: Sequence[tuple[int, str]],
    next_s: int = 0,
    edge: Edge = "sure",
) -> tuple[tuple[Opening, ...], int | None]:
    """Intervals open to the next coat, and when the last of the sheet's own windows closes.

    A window whose end comes before its beginning (too cold, too hot) never opens.  A complete set
    of fix steps opens the film anew for as long as the key is good.  `next_s`: how long the next coat
    takes where it goes over the work the same way; see `ripens_from`.
    """
    ripe_from = ripens_from(started_at, done_at, next_s)
    out: list[Opening] = []
    last: int | None = None
    for i, w in enumerate(recoat.windows):
        opens = (
            done_at
            if w.from_s == 0
            else reach_min(air, sheet_pace(sheet, ((w.at_degc, w.from_s),), "min"), ripe_from, edge=edge)
        )
        if opens is not None:
            opens = max(opens, done_at)
        closes = None
        if w.to_s is not None:
            closes = reach_max(air, sheet_pace(sheet, ((w.at_degc, w.to_s),), "max"), started_at, edge=edge)
        last = closes  # windows stand in order; one without an end is the last
        if opens is None or (closes is not None and closes <= opens):
            continue
        ends_last = i == len(recoat.windows) - 1
        word = "open_tacky" if w.tacky else "open"
        closing_at = _closing_at(opens, closes, lead_s) if ends_last else None
        out.append(Opening(from_at=opens, to_at=closes, closing_at=closing_at, word=word))
    for at in _keyed_at(recoat.fix, fixes):
        end = at + (FIX_VALID_S if recoat.key_valid_s is None else recoat.key_valid_s)
        word = "open_sanded"
        out.append(Opening(from_at=at, to_at=end, closing_at=_closing_at(at, end, lead_s), word=word))
    return tuple(out), last


def _closing_at(opens: int, closes: int | None, lead_s: int) -> int | None:
    if closes is None:
        return None
    length = max(lead_s, min(CLOSING_SHARE * (closes - opens), CLOSING_MAX_S))
    return max(opens, math.ceil(closes - length))


def _keyed_at(fix: Sequence[str], done: Sequence[tuple[int, str]]) -> list[int]:
    """Instants at which a full set of fix steps was complete."""
    have: set[str] = set()
    out = []
    for at, step in sorted(done):
        if step in fix:
            have.add(step)
        if fix and have >= set(fix):
            out.append(at)
            have = set()
    return out


def film_spans(
    air: Timeline,
    sheet: Sheet,
    recoat: Recoat | None,
    opens: Sequence[Opening],
    last_close: int | None,
    *,
    started_at: int,
    done_at: int | None,
    covered_at: int | None,
) -> tuple[Span, ...]:
    """States of one film from its start until it is covered, without gaps.

    `last_close` is the end of the sheet's last window, also of one that never opened.
    """
    if done_at is None:
        return (_span("wet", started_at, covered_at, "wet", Why(kind="measured", ref="coat started")),)
    tack_at, tacky_why = tacky_at(air, sheet, recoat, done_at)
    if recoat is None:
        touch = _gate_min(air, sheet, "touch", done_at, tack_at)
        full = _gate_min(air, sheet, "full", done_at, None, 1 + GATE_SPREAD)
        marks: list[tuple[int | None, str, str, Why]] = [
            (started_at, "wet", "wet", tacky_why),
            (tack_at, "flash", "flash", tacky_why),
            (touch, "curing", "curing", _integral(sheet, "touch")),
            (full, "cured", "cured", _integral(sheet, "full")),
        ]
        return _chain(marks, covered_at)
    edges = {started_at, *(t for t in (tack_at, last_close) if t is not None and t >= started_at)}
    for o in opens:
        edges |= {t for t in (o.from_at, o.to_at, o.closing_at) if t is not None and t >= started_at}
    window_why = Why(kind="sheet", ref=f"{sheet.name}: recoat, {recoat.next}")
    out: list[tuple[int | None, str, str, Why]] = []
    for at in sorted(edges):
        state, word = _state_at(at, opens, tack_at, last_close)
        out.append((at, state, word, tacky_why if state == "wet" else window_why))
    return _chain(out, covered_at)


def _state_at(
    at: int, opens: Sequence[Opening], tacky_at: int | None, last_close: int | None
) -> tuple[str, str]:
    inside = [o for o in opens if o.from_at <= at and (o.to_at is None or at < o.to_at)]
    for o in inside:
        if o.closing_at is None or at < o.closing_at:
            return "open", o.word
    if inside:
        tacky = inside[-1].word == "open_tacky"
        return "closing", "closing_tacky" if tacky else "closing"
    if last_close is not None and at >= last_close:
        return "over_age", "over_age"
    if tacky_at is None or at < tacky_at:
        return "wet", "wet"
    return "flash", "flash"


def _chain(marks: Sequence[tuple[int | None, str, str, Why]], end: int | None) -> tuple[Span, ...]:
    """Spans that follow one another; a mark that never comes ends the list, empty ones are left out."""
    reached: list[tuple[int, str, str, Why]] = []
    for at, state, word, why in marks:
        if at is None or (end is not None and at >= end and reached):
            break
        if reached and at <= reached[-1][0]:
            reached[-1] = (reached[-1][0], state, word, why)
        elif not reached or (state, word) != reached[-1][1:3]:
            reached.append((at, state, word, why))
    out = []
    for i, (at, state, word, why) in enumerate(reached):
        to = reached[i + 1][0] if i + 1 < len(reached) else end
        out.append(_span(state, at, to, word, why))
    return tuple(out)


def _span(state: str, from_at: int, to_at: int | None, word: str, why: Why) -> Span:
    return Span(state=state, from_at=from_at, to_at=to_at, word=word, why=why)  # type: ignore[arg-type]


def tacky_at(
    air: Timeline, sheet: Sheet, recoat: Recoat | None, done_at: int, *, edge: Edge = "sure"
) -> tuple[int | None, Why]:
    """When a film is no longer wet, and by what; where its sheet is silent, a third of its first wait."""
    points = sheet.points_for("tacky")
    if points:
        at = reach_min(air, sheet_pace(sheet, points, "min"), done_at, edge=edge)
        return at, _integral(sheet, "tacky")
    assumed = Why(kind="assumed", ref="a third of the first recoat minimum")
    first = None
    if recoat is not None:
        first = (recoat.windows[0].at_degc, recoat.windows[0].from_s)
    elif sheet.points_for("touch"):
        first = sheet.points_for("touch")[0]
    if first is None or first[1] == 0:
        return done_at, assumed
    return reach_min(air, sheet_pace(sheet, (first,), "min"), done_at, 1 / 3, edge=edge), assumed


def _gate_min(
    air: Timeline, sheet: Sheet, gate: str, done_at: int, otherwise: int | None, amount: float = 1.0
) -> int | None:
    points = sheet.points_for(gate)
    if not points:
        return otherwise
    return reach_min(air, sheet_pace(sheet, points, "min"), done_at, amount)


def _integral(sheet: Sheet, gate: str) -> Why:
    why = computed("drying.integral", gate=gate, sheet=sheet.name)
    return Why(
        kind=why.kind, ref=f"{sheet.name} ({sheet.grade})", formula_id=why.formula_id, inputs=why.inputs
    )


def part_gates(
    air: Timeline,
    films: Sequence[tuple[Sheet, int, int]],
    checks: dict[str, tuple[int, bool]],
) -> tuple[GateTime, ...]:
    """Gates of a part whose coats are all on: those its top coat has, each the latest over all films.

    `films` are (sheet, done at, started at); `checks` the last thumb test of a gate, which beats
    the formula.
    """
    top = films[-1][0]
    names = sorted({p.gate for p in top.points if p.gate not in _MAX_GATES and p.gate != "tacky"})
    return tuple(_part_gate(air, films, name, checks.get(name)) for name in names)


def _part_gate(
    air: Timeline, films: Sequence[tuple[Sheet, int, int]], name: str, check: tuple[int, bool] | None
) -> GateTime:
    band: list[list[int | None]] = [[], [], []]
    first_done = max(done for _, done, _ in films)
    ref = ""
    for sheet, done, _ in films:
        points = sheet.points_for(name)
        if not points:
            continue
        pace = sheet_pace(sheet, points, "min")
        ref = f"{sheet.name} ({sheet.grade})"
        for slot, (amount, shift) in enumerate(((1 - GATE_SPREAD, +1), (1.0, 0), (1 + GATE_SPREAD, -1))):
            at = air.reach(pace, done, amount, shift)
            band[slot].append(None if at is None else math.ceil(at - 1e-3))
    early, likely, late = (_latest(times) for times in band)
    closes = _closes(air, films, name)
    by, failed_at = "computed", None
    if check is not None and check[0] >= max(started for _, _, started in films):
        # A thumb on what lies under a later coat says nothing of that coat.
        at, passed = check
        if passed:
            early = likely = late = at
            by = "checked"
        elif likely is None or likely <= at:
            early = likely = late = None
            by, failed_at = "checked", at
    end = likely if likely is not None else first_done
    return GateTime(
        name=name,
        early_at=early,
        likely_at=likely,
        late_at=late,
        closes_at=closes,
        by=by,  # type: ignore[arg-type]
        failed_at=failed_at,
        assumed_s=air.assumed_s(first_done, end),
        why=Why(kind="computed", ref=ref, formula_id="drying.integral", inputs={"gate": name}),
    )


def _latest(times: Sequence[int | None]) -> int | None:
    known = [t for t in times if t is not None]
    return max(known) if known and len(known) == len(times) else None


def _closes(air: Timeline, films: Sequence[tuple[Sheet, int, int]], name: str) -> int | None:
    """End of the pair: unmask_to of the last coat, immerse_to the earliest over all films."""
    if not name.endswith("_from"):
        return None
    ends = []
    for sheet, _, started in films[-1:] if name == "unmask_from" else films:
        points = sheet.points_for(name.replace("_from", "_to"))
        if points:
            at = reach_max(air, sheet_pace(sheet, points, "max"), started)
            if at is not None:
                ends.append(at)
    return min(ends) if ends else None
