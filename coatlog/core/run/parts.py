"""Freezing: from what the log said of a job to its films, gates, batches, clocks and next tasks."""

from __future__ import annotations

import dataclasses
import math
from collections.abc import Mapping, Sequence
from statistics import fmean, stdev
from typing import Any

from ..film import dry_film_from_draw
from ..sheet import Recoat, Sheet, ThenStep
from ..stack.mending import mend_of
from ..stack.preps import path_of
from ..stack.step_sequence import Work
from ..stack.surfaces import RUSTS, SUBSTRATES
from ..thick_film import recoat_at, sheet_at, solvent_factor
from ..why import Why, computed
from .accumulator import Accumulator, CoatRecord
from .airs import Airs, where_it_stands
from .amounts import coat_ml, planned_dry_um, planned_wet, sheet_solids_frac
from .batches import freeze_batch, pot_clock
from .drawn import drawn_ml, poured_solids_frac
from .facts import Facts, Layer, Part, as_decided
from .heat import heat_spans
from .in_service import freeze_service
from .judged import judge_batch, judge_part, ordered
from .part_log import Held, PartLog
from .places import place_at, weather_through
from .recoat_windows import (
    Edge,
    Opening,
    film_spans,
    openings,
    part_gates,
    reach_max,
    reach_min,
    sheet_pace,
    tacky_at,
)
from .spray_pattern import manner, turned
from .states import (
    Batch,
    Clock,
    Combed,
    Cue,
    CueNext,
    CueStart,
    Dry,
    Film,
    FindingCode,
    GateTime,
    LayerBuild,
    LogFinding,
    NextTask,
    PartState,
    Stay,
    SurfaceState,
)
from .step_list import after_coats, before_coat, tick
from .surface import surface_now
from .task_key import TaskKey
from .timeline import Climate

__all__ = ["freeze_job"]

DOUBTFUL = 4.0  # assumed: so many times more or less than planned is a slip of the reading first
BARES = ("strip_paint", "blast", "steel_grit")
BARE_METAL_S = 4 * 3600  # common practice, no published source


def freeze_job(b: Accumulator, climate: Climate, *, now_ref: int) -> dict[str, Any]:
    """Everything of a JobState that is computed.  `now_ref` is the time of the last entry."""
    if b.facts is None:
        empty: dict[str, Any] = dict.fromkeys(("parts", "batches", "clocks", "next", "cues"), ())
        return {**empty, "ended": b.ended, "flags": tuple(b.flags), "findings": ordered(iter(b.found))}
    b.facts = as_decided(b.facts, b.coats_set)
    airs = Airs(b, climate, now_ref)
    batches = tuple(
        freeze_batch(b, b.batches[k], airs.of_place(where_it_stands(b, b.facts, k)).of_air())
        for k in sorted(b.batches)
    )
    by_id = {x.batch_id: x for x in batches}
    for record in b.coats.values():
        if record.dones and not record.starts:
            at, _, entry_id = record.dones[0]
            b.found.append(_slip("log.no_start", entry_id, at, coat_id=record.coat_id))
    by_part: dict[str, list[CoatRecord]] = {}
    for record in b.coats.values():
        if record.starts and record.removed_at is None:
            by_part.setdefault(record.part_id, []).append(record)
    frozen = [
        _PartFreezer(b, part, airs, by_part.get(part.id, []), by_id, climate).freeze(now_ref)
        for part in b.facts.parts
        if not part.retired
    ]
    judged = [f for part in frozen for f in judge_part(b, part.log, by_id)]
    judged += [f for k, x in by_id.items() for f in judge_batch(b, b.batches[k], x)]
    judged += b.found
    judged = [_with_mend(b, f, frozen) for f in judged]
    pots = tuple(c for c in (pot_clock(b.facts, x) for x in batches) if c is not None)
    runs = b.ended is None  # of what is closed or given up nothing is due any more
    return {
        "parts": tuple(f.state for f in frozen),
        "batches": batches,
        "clocks": tuple(c for f in frozen for c in f.clocks) + pots if runs else (),
        "next": tuple(t for f in frozen for t in f.next) if runs else (),
        "cues": tuple(c for f in frozen for c in f.cues) if runs else (),
        "ended": b.ended,
        "service": tuple(
            freeze_service(p.id, life, [b.facts.sheets[x.sheet_id] for x in b.facts.layers_of(p.id)])
            for p in b.facts.parts
            for life in b.service.get(p.id, ())
        ),
        "findings": ordered(iter(judged)),
        "flags": tuple(sorted(b.flags, key=lambda f: (f.code, f.entry_id or "", f.part_id or "", f.text))),
    }


def _with_mend(b: Accumulator, f: LogFinding, frozen: Sequence[_Frozen]) -> LogFinding:
    """The finding with how a coat of what it is about is put right."""
    part = next((x for x in frozen if x.state.part_id == f.part_id), None)
    if part is None or not part.log.sheets:
        return f
    at = next((i for i, r in enumerate(part.log.records) if r.coat_id == f.coat_id), -1)
    return dataclasses.replace(f, mend=mend_of(part.log.sheets[at], part.log.part.substrate))


@dataclasses.dataclass(slots=True)
class _Frozen:
    state: PartState
    clocks: tuple[Clock, ...]
    next: tuple[NextTask, ...]
    cues: tuple[Cue, ...]
    log: PartLog


class _PartFreezer:
    """One part: slots, films, what is due, gates, clocks, next task and cues."""

    def __init__(
        self,
        b: Accumulator,
        part: Part,
        airs: Airs,
        records: list[CoatRecord],
        batches: Mapping[str, Batch],
        climate: Climate,
    ) -> None:
        assert b.facts is not None
        self.b, self.facts, self.part, self.batches = b, b.facts, part, batches
        self.air, self.bay, self.climate = airs.of_part(part), airs.unheated(part), climate
        self.stays = airs.stays(part)
        self.heat = heat_spans(b.heat.get(part.id, ()))
        self.records = self._merged(sorted(records, key=lambda r: (r.started_at, r.coat_id)))
        self.steps = [
            (at, step)
            for i, (at, step, part_ids) in enumerate(b.steps)
            if part.id in part_ids and i >= b.failed.get((part.id, step), 0)  # failed later: not done
        ]
        self.deeds = [d for d in b.deeds if part.id in d.part_ids]
        self.layers = self.facts.layers_of(part.id)
        self.listed = self.facts.steps_of(part.id)
        listed = self.facts.steps_of(part.id)
        told = [(key, held) for key, held, ids in b.step_checks if part.id in ids]
        self.checks = dict(tick(told, listed))
        # Old jobs plan their coats alone; a list of ports holds those too.
        holds = self.facts.plans_steps or "ports" in part.features
        self.works: tuple[Work, ...] = listed if holds else ()

    def freeze(self, now_ref: int) -> _Frozen:
        films = []
        opens: tuple[Opening, ...] = ()
        keyed_until = None
        counts: dict[str, int] = {}
        lower_um = self._lies_there_um()
        due = self._due(counts)
        self.held: list[Held | None] = []
        for i, record in enumerate(self.records):
            counts[record.layer_id] = counts.get(record.layer_id, 0) + 1
            covered_at = self.records[i + 1].started_at if i + 1 < len(self.records) else None
            due = self._due(counts)
            film, opens, keyed_until = self._film(
                record, counts[record.layer_id], covered_at, i, due, lower_um
            )
            # What is on patches lies under no reading of the rest.
            everywhere = all(x.patches is None for x in self.facts.layers if x.id == record.layer_id)
            lower_um += film.dry_um.likely if film.dry_um and everywhere else 0.0
            films.append(film)
        if films and films[-1].done_at is None:
            opens, keyed_until = (), None
        gates: tuple[GateTime, ...] = ()
        if films and due is None and films[-1].done_at is not None:
            done = [
                (self._sheet_of(r, f.dry_um), r.done_at or f.started_at, f.started_at)
                for r, f in zip(self.records, films, strict=True)
            ]
            gates = part_gates(self.air, done, self.b.checks.get(self.part.id, {}))
        heat = self.heat[-1] if self.heat and self.heat[-1][1] > now_ref else None
        state = PartState(
            part_id=self.part.id,
            place_id=self.stays[-1][1],
            stays=tuple(Stay(from_at=at, place_id=place) for at, place in self.stays),
            films=tuple(films),
            due_layer_id=due.id if due else None,
            keyed_until_at=keyed_until,
            unmasked_at=self.b.unmasked.get(self.part.id),
            gates=gates,
            steps_done=self._steps_done(films),
            checks=self.checks,
            must_after=self._missing(after_coats(self.works)) if films and due is None else (),
            builds=tuple(x for layer in self.layers if (x := _build(layer, films))),
            heat_degc=heat[2] if heat else None,
            heat_until_at=heat[1] if heat else None,
            surface=self._surface(films, due, counts),
            mend=mend_of(self._sheet(self.records[-1]), self.part.substrate) if films else "",
        )
        unticked = self._missing(before_coat(self.works, 0)) if films else ()
        running = bool(films) and films[-1].done_at is None
        tasks = () if running else self._next(state, opens, counts)
        log = PartLog(
            part=self.part,
            state=state,
            records=self.records,
            weather=weather_through(self.stays, self.climate),
            hand=[r for place, r in self.b.hand if place == place_at(self.stays, r.at)],
            sheets=[self._sheet_of(r, f.dry_um) for r, f in zip(self.records, films, strict=True)],
            held=self.held,
            steps=self.steps,
            deeds=self.deeds,
            listed=self.listed if self.facts.plans_steps and self.facts.logs_steps else (),
            all_works=self.listed,
            ground_id=_ground_id(self.facts, self.part),
            stays=self.stays,
            moves=[(at, place, entry) for at, part, place, entry in self.b.moves if part == self.part.id],
            outdoors=self.climate.outdoors,
            air=self.air,
            bay=self.bay,
            heat=self.heat,
            checks=self.checks,
            unticked=unticked,
        )
        cues = self._cues(tasks, counts, running, films, now_ref)
        return _Frozen(state, self._clocks(state, opens, due), tasks, cues, log)

    def _surface(self, films: Sequence[Film], due: Layer | None, counts: dict[str, int]) -> SurfaceState:
        """What the part is to its next coat, by the steps on the log."""
        if due is None or not (self.facts.plans_steps and self.facts.logs_steps):
            return SurfaceState()
        works = before_coat(self.listed, due.position) if not counts.get(due.id) else ()
        since = films[-1].done_at or films[-1].started_at if films else None
        return surface_now(self.deeds, self.listed, works, since)

    def _lies_there_um(self) -> float:
        """Film from before this job that the gauge reads along [um]: none once it was taken off."""
        bared = any(w.step in BARES and self.checks.get(w.key) for w in self.works)
        return 0.0 if bared else self.part.there_um or 0.0

    def _missing(self, works: Sequence[Work]) -> tuple[str, ...]:
        """The names of steps that must be ticked and are not."""
        return tuple(w.name for w in works if w.must and not self.checks.get(w.key))

    def _steps_done(self, films: Sequence[Film]) -> tuple[str, ...]:
        """Steps logged since the top coat was done; before any coat, all of them."""
        since = films[-1].done_at if films else 0
        if since is None:
            return ()
        return tuple(dict.fromkeys(step for at, step in sorted(self.steps) if at >= since))

    def _merged(self, records: list[CoatRecord]) -> list[CoatRecord]:
        """Two records of one slot that overlap in time are one coat, told twice: a clash."""
        out: list[CoatRecord] = []
        told: dict[tuple[str, int], CoatRecord] = {}
        for r in records:
            twin = told.get((r.layer_id, r.n))
            if twin is not None and (twin.done_at is None or r.started_at < twin.done_at):
                twin.absorb(r)
            else:
                twin = r.copy()
                told[r.layer_id, r.n] = twin
                out.append(twin)
            if len(twin.starts) > 1 or len(twin.dones) > 1:
                self._flag_clash(twin)
        return out

    def _flag_clash(self, record: CoatRecord) -> None:
        if len(record.starts) > 1:
            at, entry_id = max(record.starts)
        else:
            at, _, entry_id = max(record.dones)
        slip = _slip("log.twice", entry_id, at, part_id=self.part.id, coat_id=record.coat_id)
        if slip not in self.b.found:
            self.b.found.append(slip)

    def _sheet(self, record: CoatRecord) -> Sheet:
        facts = self.b.known.get(record.facts_id, self.facts)
        return facts.sheets[record.sheet_id]

    def _due(self, counts: dict[str, int]) -> Layer | None:
        return next((x for x in self.layers if counts.get(x.id, 0) < x.coats), None)

    def _film(
        self,
        record: CoatRecord,
        n: int,
        covered_at: int | None,
        index: int,
        due: Layer | None,
        lower_um: float,
    ) -> tuple[Film, tuple[Opening, ...], int | None]:
        sheet, facts = self._sheet(record), self.b.known.get(record.facts_id, self.facts)
        done_at = record.done_at
        if done_at is None and covered_at is not None:
            done_at = covered_at
            at, entry_id = record.starts[0]
            self.b.found.append(
                _slip("log.no_end", entry_id, at, part_id=self.part.id, coat_id=record.coat_id)
            )
        upper = (
            self.records[index + 1].sheet_id if covered_at is not None else (due.sheet_id if due else None)
        )
        wet, dry, dry_from = self._thickness(record, sheet, index, lower_um)
        self._flag_doubtful(record, sheet, dry, dry_from)
        solvent_x, plain = self._more_solvent(record, sheet), sheet
        sheet = self._sheet_of(record, dry)
        um = dry.likely if dry else None
        recoat = recoat_at(self._recoat(facts, plain, upper), plain, um, solvent_x)
        lead_s = self.facts.lead_s(due) if due else 0
        opens: tuple[Opening, ...] = ()
        keyed_until = last_close = None
        if recoat is not None and done_at is not None:
            fixes = [(at, step) for at, step in self.steps if at >= done_at]
            opens, last_close = openings(
                self.air,
                sheet,
                recoat,
                done_at=done_at,
                started_at=record.started_at,
                lead_s=lead_s,
                fixes=fixes,
                next_s=self._next_s(record, n, index, due),
            )
            keyed = [o.to_at for o in opens if o.word == "open_sanded"]
            keyed_until = max((t for t in keyed if t is not None), default=None)
        self.held.append(
            None
            if covered_at is None
            else self._held(record, sheet, recoat, covered_at, lead_s, self._next_s(record, n, index, due))
        )
        spans = film_spans(
            self.air,
            sheet,
            recoat,
            opens,
            last_close,
            started_at=record.started_at,
            done_at=done_at,
            covered_at=covered_at,
        )
        aim_wet_um = self._aim_wet_um(record, plain)
        film = Film(
            coat_id=record.coat_id,
            slot=str(TaskKey(part_id=self.part.id, kind="coat", layer_id=record.layer_id, n=n)),
            layer_id=record.layer_id,
            sheet_id=sheet.id,
            n=n,
            started_at=record.started_at,
            done_at=done_at,
            paused=record.paused,
            aim_wet_um=aim_wet_um,
            wet_um=wet,
            dry_um=dry,
            dry_from=dry_from,  # type: ignore[arg-type]
            spans=spans,
            combed=_combed(record, aim_wet_um),
            takes_s=facts.coat_s(next(x for x in facts.layers if x.id == record.layer_id)),
            waits_x=(waits_x := _waits_x(plain, sheet, recoat, self._recoat(facts, plain, upper))),
            waits_why=None if waits_x <= 1 else _waits_why(dry, solvent_x),
        )
        return film, opens, keyed_until

    def _held(
        self,
        record: CoatRecord,
        sheet: Sheet,
        recoat: Recoat | None,
        covered_at: int,
        lead_s: int,
        next_s: int,
    ) -> Held:
        """What may be held against whoever coated over it."""
        facts = self.b.known.get(record.facts_id, self.facts)
        layer = next(x for x in facts.layers if x.id == record.layer_id)
        done_at = record.done_at
        if done_at is None or done_at > covered_at:
            # Nobody said when it was on: as long as such a coat takes.
            done_at = min(covered_at, record.started_at + facts.coat_s(layer))
        fixes = [(at, step) for at, step in self.steps if at >= done_at]

        def opens(edge: Edge) -> tuple[tuple[Opening, ...], int | None]:
            if recoat is None:
                return (), None
            return openings(
                self.air, sheet, recoat, done_at=done_at, started_at=record.started_at, lead_s=lead_s,
                fixes=fixes, next_s=next_s, edge=edge,
            )  # fmt: skip

        fair, last_close = opens("fair")
        return Held(
            opens=fair,
            last_close=last_close,
            real=opens("real")[0],
            tacky_at=tacky_at(self.air, sheet, recoat, done_at, edge="fair")[0],
            done_at=done_at,
            wet_in_wet=recoat is not None and recoat.windows[0].tacky,
            silent=recoat is None,
        )

    def _flag_doubtful(self, record: CoatRecord, sheet: Sheet, dry: Dry | None, dry_from: str) -> None:
        """A film many times what was planned, or a small part of it, is a slip of the reading more often."""
        facts = self.b.known.get(record.facts_id, self.facts)
        planned_um = planned_dry_um(next(x for x in facts.layers if x.id == record.layer_id), sheet)
        if dry is None or not planned_um or dry_from == "plan":
            return
        if planned_um / DOUBTFUL <= dry.likely <= DOUBTFUL * planned_um:
            return
        at, entry_id = record.starts[0]
        slip = _slip("film.doubtful", entry_id, at, part_id=self.part.id, coat_id=record.coat_id)
        values: dict[str, float | int | str] = {"um": dry.likely, "nominal_um": planned_um, "by": dry_from}
        self.b.found.append(dataclasses.replace(slip, values=values))

    def _aim_wet_um(self, record: CoatRecord, sheet: Sheet) -> float | None:
        facts = self.b.known.get(record.facts_id, self.facts)
        layer = next(x for x in facts.layers if x.id == record.layer_id)
        wet = planned_wet(layer, sheet, poured_solids_frac(record, self.batches))
        return None if wet is None else round(wet.value, 2)

    def _recoat(self, facts: Facts, sheet: Sheet, upper_id: str | None) -> Recoat | None:
        if upper_id is None:
            return None
        return facts.join(sheet.id, upper_id) or self.facts.join(sheet.id, upper_id)

    def _next_s(self, record: CoatRecord, n: int, index: int, due: Layer | None) -> int:
        """How long the coat after this one takes, or took, where it goes over the work the same way [s]."""
        after = self.records[index + 1] if index + 1 < len(self.records) else None
        layer_id = after.layer_id if after is not None else due.id if due is not None else ""
        layer = next((x for x in self.layers if x.id == layer_id), None)
        below = next((x for x in self.layers if x.id == record.layer_id), None)
        if layer is None or below is None:
            return 0
        m = n + 1 if layer.id == below.id else 1
        lower, upper = self._sheet(record), self.facts.sheets[layer.sheet_id]
        if turned(lower, below.method_id, n, upper, layer.method_id, m, self.part.shape):
            return 0
        if after is not None and after.done_at is not None:
            return after.done_at - after.started_at
        return self.facts.coat_s(layer)

    def _thickness(
        self, record: CoatRecord, sheet: Sheet, index: int, lower_um: float
    ) -> tuple[Dry | None, Dry | None, str]:
        """Wet and dry film [um] from the best there is: gauge, comb, volume drawn, plan."""
        solids = poured_solids_frac(record, self.batches) or sheet_solids_frac(sheet)
        facts = self.b.known.get(record.facts_id, self.facts)
        layer = next(x for x in facts.layers if x.id == record.layer_id)
        planned_um = planned_dry_um(layer, sheet)
        if planned_um is None:
            return None, None, "plan"
        cv = facts.methods[layer.method_id].spread_cv
        wet = None
        if record.combs:
            low, high = (fmean(pair[i] for pair in record.combs) for i in (0, 1))
            wet = Dry(low=round(low, 2), likely=round((low + high) / 2, 2), high=round(high, 2))
        read = self._gauge_read(record, index)
        if read and fmean(read) > lower_um:
            um, spread = fmean(read) - lower_um, max((max(read) - min(read)) / 2, 0.05 * fmean(read))
            return wet, _dry(um - spread, um, um + spread), "gauge"
        if wet is not None:
            return wet, _dry(wet.low * solids, wet.likely * solids, wet.high * solids), "wet"
        drawn = drawn_ml(self.b, record, self.batches)
        if drawn:
            lands = facts.methods[layer.method_id].lands_frac
            area = facts.area_m2(layer)
            um = dry_film_from_draw(drawn, area, solids, lands).value
            return wet, _dry(um * (1 - cv), um, um * (1 + cv)), "draw"
        um = planned_um
        return wet, _dry(um * (1 - cv), um, um * (1 + cv)), "plan"

    def _gauge_read(self, record: CoatRecord, index: int) -> list[float]:
        """What the gauge said of all that lies on the part while this coat was the top one [um].

        Before any coat has dried it read what was there already, and says nothing of it.
        """
        done_at = record.done_at
        if done_at is None:
            return []
        last = index == len(self.records) - 1
        until = None if last else self.records[index + 1].started_at
        return [
            um
            for at, read in self.b.totals.get(self.part.id, ())
            if at >= done_at and (until is None or at <= until)
            for um in read
        ]

    def _solids_ready(self, sheet: Sheet) -> float | None:
        """Volume solids of the mix that stands ready for a coat: the one that lasts longest."""
        ready = [x for x in self.batches.values() if x.mixed and x.closed_at is None]
        ready = [x for x in ready if x.sheet_id == sheet.id and x.solids_frac]
        lasts = max(ready, key=lambda x: (x.use_by_at is None, x.use_by_at or 0), default=None)
        return lasts.solids_frac if lasts else None

    def _more_solvent(self, record: CoatRecord, sheet: Sheet) -> float:
        """How many times more there is to evaporate than the sheet's own mix has."""
        poured, usual = poured_solids_frac(record, self.batches), sheet_solids_frac(sheet)
        return solvent_factor(poured, usual) if poured and 0 < usual <= 1 else 1.0

    def _sheet_of(self, record: CoatRecord, dry: Dry | None) -> Sheet:
        """The sheet of a coat with its waits as they are for this film and this thinner."""
        sheet = self._sheet(record)
        return sheet_at(sheet, dry.likely if dry else None, self._more_solvent(record, sheet))

    def _clocks(self, state: PartState, opens: Sequence[Opening], due: Layer | None) -> tuple[Clock, ...]:
        out = []
        if due is not None and state.films:
            lead = self.facts.lead_s(due)
            for o in opens:
                out.append(
                    Clock(
                        kind="window",
                        subject=self.part.id,
                        label=f"{self.part.name}: {self.facts.sheets[due.sheet_id].name}",
                        opens_at=o.from_at,
                        closes_at=o.to_at,
                        latest_start_at=None if o.to_at is None else o.to_at - lead,
                        why=computed("plan.lead", lead_s=lead),
                    )
                )
        then = self._then_task(state) if due is None else None
        if then is not None:
            out.append(
                Clock(
                    kind="then",
                    subject=self.part.id,
                    label=f"{self.part.name}: {then.steps[0]}",
                    opens_at=then.opens_at,
                    closes_at=then.closes_at,
                    latest_start_at=then.latest_start_at,
                    why=then.why,
                )
            )
        for g in state.gates:
            unmask = g.name == "unmask_from"
            if unmask and state.unmasked_at is not None:
                continue
            out.append(
                Clock(
                    kind="unmask" if unmask else "gate",
                    subject=self.part.id,
                    label=f"{self.part.name}: {'tape off' if unmask else g.name}",
                    opens_at=g.late_at,
                    closes_at=g.closes_at,
                    latest_start_at=g.closes_at,
                    why=g.why,
                )
            )
        return tuple(out)

    def _next(
        self, state: PartState, opens: Sequence[Opening], counts: dict[str, int]
    ) -> tuple[NextTask, ...]:
        due = self._due(counts)
        if self.b.out_of_service(self.part.id):
            return ()
        if due is None:
            if (then := self._then_task(state)) is not None:
                return (then,)
            gate = next((g for g in state.gates if g.name == "unmask_from"), None)
            if gate is None or state.unmasked_at is not None or self.b.service.get(self.part.id):
                return ()
            return (self._unmask_task(gate.late_at, gate.closes_at, gate.why),)
        sheet, n = self.facts.sheets[due.sheet_id], counts.get(due.id, 0) + 1
        dry_um, volume = planned_dry_um(due, sheet), coat_ml(self.facts, due)
        wet = planned_wet(due, sheet, self._solids_ready(sheet))
        hint = manner(sheet, due.method_id, n, self.part.shape)
        recoat = (
            self._recoat(self.facts, self._sheet(self.records[-1]), due.sheet_id) if state.films else None
        )
        closes = opens[-1].to_at if opens else self._bare_metal_until(state)
        lead = self.facts.lead_s(due)
        lower = self._sheet(self.records[-1]).name if state.films else ""
        works = before_coat(self.works, due.position) if n == 1 else ()
        task = NextTask(
            task_key=str(TaskKey(part_id=self.part.id, kind="coat", layer_id=due.id, n=n)),
            kind="coat",
            part_id=self.part.id,
            layer_id=due.id,
            n=n,
            opens_at=opens[0].from_at if opens else None,
            closes_at=closes,
            latest_start_at=None if closes is None else closes - lead,
            duration_s=self.facts.coat_s(due),
            wet_um=None if wet is None else round(wet.value, 2),
            dry_um=None if dry_um is None else round(dry_um, 2),
            volume_ml=round(volume.value, 1),
            character=hint.character,
            direction=hint.direction,
            waits_for=f"{lower} to flash" if lower else "",
            steps=recoat.fix if recoat else (() if closes is None else ("abrade", "wipe")),
            why=volume.why,
            before=tuple(w.key for w in works if not self.checks.get(w.key))
            if self.facts.plans_steps
            else (),
            must=self._missing(works),
        )
        return (task,)

    def _bare_metal_until(self, state: PartState) -> int | None:
        """Until when abraded bare metal may still be primed; None: not bare, or nobody abraded it."""
        ground = SUBSTRATES.get(_ground_id(self.facts, self.part))
        keyed = [at for at, step in self.steps if step == "abrade"]
        if state.films or not keyed or ground is None or ground.metal not in RUSTS or ground.rust:
            return None
        return max(keyed) + BARE_METAL_S

    def _then_task(self, state: PartState) -> NextTask | None:
        """What the sheet wants done to the last coat in its time, until somebody has done it."""
        if not state.films or state.films[-1].done_at is None or self.b.service.get(self.part.id):
            return None
        sheet = self._sheet(self.records[-1])
        then = next((x for x in sheet.then if x.step not in state.steps_done), None)
        if then is None:
            return None
        opens, closes = self._then_window(then, state.films[-1])
        step_id = then.step.replace(" ", "_")
        return NextTask(
            task_key=str(TaskKey(part_id=self.part.id, kind="step", step_id=step_id)),
            kind="then",
            part_id=self.part.id,
            layer_id=None,
            n=1,
            opens_at=opens,
            closes_at=closes,
            latest_start_at=None if closes is None else closes - then.takes_s,
            duration_s=then.takes_s,
            wet_um=None,
            dry_um=None,
            volume_ml=None,
            waits_for="the coat to work",
            steps=(then.step,),
            why=Why(kind="sheet", ref=f"{sheet.name}: {then.step}"),
        )

    def _then_window(self, then: ThenStep, film: Film) -> tuple[int | None, int | None]:
        """From its end to so long after its start, as the sheet says at the air there was."""
        assert film.done_at is not None
        sheet = self._sheet(self.records[-1])
        opens = reach_min(self.air, sheet_pace(sheet, ((then.at_degc, then.from_s),), "min"), film.done_at)
        if then.to_s is None:
            return opens, None
        pace = sheet_pace(sheet, ((then.at_degc, then.to_s),), "max")
        return opens, reach_max(self.air, pace, film.started_at)

    def _unmask_task(self, opens_at: int | None, closes_at: int | None, why: Why) -> NextTask:
        return NextTask(
            task_key=str(TaskKey(part_id=self.part.id, kind="unmask")),
            kind="unmask",
            part_id=self.part.id,
            layer_id=None,
            n=1,
            opens_at=opens_at,
            closes_at=closes_at,
            latest_start_at=closes_at,
            duration_s=300,
            wet_um=None,
            dry_um=None,
            volume_ml=None,
            waits_for="last coat to dry",
            steps=(),
            why=why,
        )

    def _cues(
        self,
        tasks: Sequence[NextTask],
        counts: dict[str, int],
        running: bool,
        films: Sequence[Film],
        now_ref: int,
    ) -> tuple[Cue, ...]:
        """At the temperature of the last entry: what a tap on coat done starts."""
        if running:
            film = films[-1]
            return (self._done_cue(film.slot, film.sheet_id, counts, now_ref),)
        out = []
        for task in tasks:
            if task.kind != "coat" or task.layer_id is None:
                continue
            after = {**counts, task.layer_id: task.n}
            sheet_id = self.facts.layer(task.layer_id).sheet_id
            out.append(Cue(task_key=task.task_key, on_kind="coat_started", starts=(), next_key=task.task_key))
            out.append(self._done_cue(task.task_key, sheet_id, after, now_ref))
        return tuple(out)

    def _done_cue(self, key: str, sheet_id: str, after: dict[str, int], now_ref: int) -> Cue:
        due = self._due(after)
        if due is None and sheet_id in self.facts.sheets and self.facts.sheets[sheet_id].then:
            return self._then_cue(key, self.facts.sheets[sheet_id], now_ref)
        if due is None or sheet_id not in self.facts.sheets:
            return Cue(task_key=key, on_kind="coat_done", starts=(), next_key=None)
        sheet = self.facts.sheets[sheet_id]
        usual = next((planned_dry_um(x, sheet) for x in self.layers if x.sheet_id == sheet_id), None)
        recoat = recoat_at(self.facts.join(sheet_id, due.sheet_id), sheet, usual, 1.0)
        starts = []
        for w in recoat.windows if recoat else ():
            opens = 0 if w.from_s == 0 else self._steady_s(sheet, (w.at_degc, w.from_s), "min", now_ref)
            closes = None if w.to_s is None else self._steady_s(sheet, (w.at_degc, w.to_s), "max", now_ref)
            starts.append(CueStart(clock_kind="window", opens_s=opens, closes_s=closes))
        n = after.get(due.id, 0) + 1
        next_key = str(TaskKey(part_id=self.part.id, kind="coat", layer_id=due.id, n=n))
        then = CueNext(kind="coat", layer_id=due.id, n=n)
        return Cue(task_key=key, on_kind="coat_done", starts=tuple(starts), next_key=next_key, next=then)

    def _then_cue(self, key: str, sheet: Sheet, now_ref: int) -> Cue:
        then = sheet.then[0]
        opens = self._steady_s(sheet, (then.at_degc, then.from_s), "min", now_ref)
        closes = None
        if then.to_s is not None:
            closes = self._steady_s(sheet, (then.at_degc, then.to_s), "max", now_ref)
        next_key = TaskKey(part_id=self.part.id, kind="step", step_id=then.step.replace(" ", "_"))
        starts = (CueStart(clock_kind="then", opens_s=opens, closes_s=closes),)
        then_next = CueNext(kind="then", layer_id=None, n=1, steps=(then.step,))
        return Cue(task_key=key, on_kind="coat_done", starts=starts, next_key=str(next_key), next=then_next)

    def _steady_s(self, sheet: Sheet, point: tuple[float, int], edge: str, now_ref: int) -> int | None:
        at = self.air.reach(sheet_pace(sheet, (point,), edge), now_ref, 1.0, -1 if edge == "min" else 1)
        return None if at is None else round(at - now_ref)


def _ground_id(facts: Facts, part: Part) -> str:
    """The surface the first coat goes on: as found, or as its preparation leaves it."""
    path = path_of(part.substrate, facts.choices_of(part.id).get("prep", ""), part.features)
    return path[-1].to if path else part.substrate


def _slip(code: FindingCode, entry_id: str, at: int, *, part_id: str = "", coat_id: str = "") -> LogFinding:
    """A note that the log itself does not hold together here."""
    why = Why(kind="practice", ref="common practice, no published source")
    return LogFinding(
        code=code, severity="note", entry_id=entry_id, at=at, part_id=part_id, coat_id=coat_id, why=why
    )


def _dry(low: float, likely: float, high: float) -> Dry:
    return Dry(low=round(max(0.0, low), 2), likely=round(likely, 2), high=round(high, 2))


def _build(layer: Layer, films: Sequence[Film]) -> LayerBuild | None:
    """How far a layer is by its films; None: nobody measured any of them, or it builds none."""
    own = [f for f in films if f.layer_id == layer.id and f.dry_um is not None and f.done_at is not None]
    if not layer.target_um or all(f.dry_from == "plan" for f in own):
        return None
    so_far = sum(f.dry_um.likely for f in own if f.dry_um)
    missing = layer.target_um - layer.tol_um - so_far
    each = layer.target_um / layer.coats
    return LayerBuild(
        layer_id=layer.id,
        so_far_um=round(so_far, 1),
        target_um=layer.target_um,
        coats_to_go=max(0, math.ceil(missing / each - 1e-9)),
        planned_to_go=max(0, layer.coats - len(own)),
    )


def _combed(record: CoatRecord, aim_wet_um: float | None) -> Combed | None:
    """The readings of the wet film gauge together; None: nobody used it."""
    um = [(low + high) / 2 for low, high in record.combs]
    if not um:
        return None
    return Combed(
        n=len(um),
        mean_um=round(fmean(um), 2),
        sd_um=round(stdev(um), 2) if len(um) > 1 else None,
        lowest_um=min(um),
        under_aim=sum(high < aim_wet_um for _, high in record.combs) if aim_wet_um else 0,
    )


def _waits_why(dry: Dry | None, solvent_x: float) -> Why:
    return computed("drying.thick", dry_um=dry.likely if dry else 0.0, solvent_x=round(solvent_x, 2))


def _waits_x(plain: Sheet, sheet: Sheet, recoat: Recoat | None, plain_recoat: Recoat | None) -> float:
    """By how much the longest stretched wait of a coat was stretched."""
    pairs = [(p.s, q.s) for p, q in zip(plain.points, sheet.points, strict=True)]
    if recoat is not None and plain_recoat is not None:
        pairs += [(p.from_s, q.from_s) for p, q in zip(plain_recoat.windows, recoat.windows, strict=True)]
    return round(max((after / before for before, after in pairs if before > 0), default=1.0), 2)
