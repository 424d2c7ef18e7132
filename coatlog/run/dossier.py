"""What goes with the object when it leaves: checks and who ticked them, coats, film and air, what was said.

Everything is read from the log; what was struck is left out.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from coatlog.core.care_plans import care_of
from coatlog.core.climate import dew_margin
from coatlog.core.codec import canonical
from coatlog.core.film_acceptance import (
    Beneath,
    FilmInspection,
    SpotInspection,
    beneath,
    inspect_film,
    inspect_spots,
)
from coatlog.core.run.amounts import planned_dry_um
from coatlog.core.run.facts import Facts, Layer
from coatlog.core.run.states import Combed, Film, JobState, PartState, PouredPart
from coatlog.core.run.step_list import job_work
from coatlog.core.stack.step_sequence import Work
from coatlog.core.stack.surfaces import FERROUS, SUBSTRATES
from coatlog.devices.gauge import SIMULATED_GAUGE
from coatlog.jobs.frozen_facts import latest_facts
from coatlog.jobs.models import Job
from coatlog.logbook.models import LogEntry

from .projection import Ground, timeline_of

__all__ = [
    "BeforeAfter",
    "CareLine",
    "CheckLine",
    "CoatLine",
    "FilmLine",
    "MixLine",
    "SaidLine",
    "before_after",
    "care_lines",
    "check_lines",
    "coat_lines",
    "film_lines",
    "hash_of",
    "mix_lines",
    "said_line",
]

BLASTED = ("blast", "steel_grit")
PROFILE_UM = 25.0  # taken off each reading over a blast profile nobody measured: ISO 19840, from memory


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckLine:
    """A step of the list as it was last looked at; `held` None: nobody did."""

    part: str
    step: str
    check: str
    held: bool | None
    at: int | None
    who: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CoatLine:
    """A coat with its dry film [um] and the air when it was begun [degC, fraction, K above dew point].

    `planned_um`: what it was to build; the film itself is empty where nobody measured it.
    """

    part: str
    material: str
    n: int
    started_at: int
    done_at: int | None
    who: str
    dry_low_um: float | None
    dry_likely_um: float | None
    dry_high_um: float | None
    dry_from: str
    planned_um: float | None
    air_degc: float
    surface_degc: float
    rh_frac: float
    margin_k: float
    air_from: str
    coat_id: str
    combed: Combed | None
    gun: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MixLine:
    """A mix as it was poured: amounts with their lots, what was left of it [ml] where somebody looked.

    `solids_frac`: volume solids as poured; None: not known.
    """

    batch_id: str
    material: str
    at: int
    poured: tuple[PouredPart, ...]
    total_ml: float
    solids_frac: float | None
    left_ml: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmLine:
    """What the gauge found on a part after its last coat.

    Without a verdict where the gauge reads more than was put on, or nothing put on builds any.
    `steelwork`: the rule was made for it, and only stands in on anything else.  `unfinished`: coats of the
    system are still to come; what is meant is of those that are on.
    """

    part: str
    at: int
    read: int
    inspection: FilmInspection | None
    spots: SpotInspection | None
    unjudged: Beneath | Literal["no_film", "simulated"]
    steelwork: bool
    unfinished: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SaidLine:
    """What somebody said: a stop overruled, a defect, a note, tape off."""

    kind: str
    text: str
    at: int
    who: str
    part_id: str
    photo_ids: tuple[str, ...]


def hash_of(log: Sequence[LogEntry]) -> str:
    """SHA-256 of the entries as they are stored, in their order: what, when, by whom."""
    told = hashlib.sha256()
    for e in sorted(log, key=lambda x: x.seq):
        told.update(canonical([e.seq, str(e.entry_id), e.kind, e.at_true, e.told_by, e.body]).encode())
    return told.hexdigest()


def check_lines(job: Job, rows: list[LogEntry]) -> list[CheckLine]:
    facts = latest_facts(job)
    looked: dict[tuple[str, str], LogEntry] = {}
    for e in rows:
        if e.kind in ("step_done", "step_failed") and e.body.get("check_id"):
            for part_id in e.body["part_ids"]:
                looked[part_id, e.body["check_id"]] = e
    # What has a button of its own is signed by that one: tape off, and what did not soak in wiped off.
    own: dict[tuple[str, str], LogEntry] = {}
    for e in rows:
        step = "unmask" if e.kind == "unmasked" else "wipe_excess"
        if e.kind == "unmasked" or (e.kind == "step_done" and e.body.get("step") == "wipe off"):
            own |= {(part_id, step): e for part_id in e.body["part_ids"]}
    out = []
    for part_id, works in job_work(facts).items():
        for w in works:
            seen = looked.get((part_id, w.key)) or own.get((part_id, w.step))
            if w.step == "coat" or (w.kind == "tools" and seen is None):
                continue  # tools are nobody's to sign: they are cleaned for the next coat
            out.append(
                CheckLine(
                    part=facts.part(part_id).name,
                    step=w.name,
                    check=w.check,
                    held=None if seen is None else seen.kind != "step_failed",
                    at=None if seen is None else seen.at_true,
                    who="" if seen is None else seen.told_by,
                )
            )
    return out


def coat_lines(ground: Ground, state: JobState, rows: list[LogEntry]) -> list[CoatLine]:
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        return []
    began = {c["coat_id"]: e for e in rows if e.kind == "coat_started" for c in e.body["coats"]}
    films = [(p.part_id, f) for p in state.parts for f in p.films]
    films.sort(key=lambda x: x[1].started_at)
    return [_coat(ground, facts, state, part_id, f, began.get(f.coat_id)) for part_id, f in films]


def _coat(
    ground: Ground, facts: Facts, state: JobState, part_id: str, film: Film, began: LogEntry | None
) -> CoatLine:
    air = timeline_of(ground, state, part_id).at(film.started_at)
    sheets = {k: s for f in ground.facts.values() for k, s in f.sheets.items()}
    measured = None if film.dry_from == "plan" else film.dry_um
    return CoatLine(
        coat_id=film.coat_id,
        combed=film.combed,
        gun="" if began is None else str(began.body.get("gun") or ""),
        part=facts.part(part_id).name,
        material=sheets[film.sheet_id].name,
        n=film.n,
        started_at=film.started_at,
        done_at=film.done_at,
        who="" if began is None else str(began.body.get("painter") or "") or began.told_by,
        dry_low_um=measured.low if measured else None,
        dry_likely_um=measured.likely if measured else None,
        dry_high_um=measured.high if measured else None,
        dry_from=film.dry_from,
        planned_um=next(
            (planned_dry_um(x, sheets[film.sheet_id]) for x in _layers(ground) if x.id == film.layer_id), None
        ),
        air_degc=air.air_degc,
        surface_degc=air.surface_degc,
        rh_frac=air.rh_frac,
        margin_k=dew_margin(air.surface_degc, air.air_degc, air.rh_frac).value,
        air_from=air.source,
    )


def _layers(ground: Ground) -> list[Layer]:
    """Every layer the job has or had, the newest version first."""
    return [x for f in sorted(ground.facts.values(), key=lambda f: -f.version) for x in f.layers]


def mix_lines(ground: Ground, state: JobState) -> list[MixLine]:
    """Mixes in the order they were poured."""
    names = {k: s.name for f in ground.facts.values() for k, s in f.sheets.items()}
    lines = [
        MixLine(
            batch_id=b.batch_id,
            material=names.get(b.sheet_id, b.sheet_id),
            at=min(p.at for p in b.poured),
            poured=b.poured,
            total_ml=b.total_ml,
            solids_frac=b.solids_frac,
            left_ml=b.left_ml if b.left_told else None,
        )
        for b in state.batches
        if b.poured
    ]
    return sorted(lines, key=lambda x: (x.at, x.batch_id))


def film_lines(ground: Ground, state: JobState, rows: list[LogEntry]) -> list[FilmLine]:
    """A line for each part whose dry film was read once its last coat was on."""
    facts = ground.facts.get(state.facts_id or "")
    if facts is None:
        return []
    works = job_work(facts)
    lines = []
    for part in state.parts:
        done_at = part.films[-1].done_at if part.films else None
        read = [
            e
            for e in rows
            if e.kind == "film_read" and e.body["what"] == "dry_total" and e.body["part_id"] == part.part_id
            if done_at is not None and e.at_true >= done_at
        ]
        if read:
            lines.append(_film_line(facts, part, read, works.get(part.part_id, ())))
    return lines


def _film_line(facts: Facts, part: PartState, read: list[LogEntry], works: Sequence[Work]) -> FilmLine:
    survey, um = facts.part(part.part_id), [float(x) for e in read for x in e.body["um"]]
    surface = SUBSTRATES[survey.substrate]
    unfinished = part.due_layer_id is not None
    nominal_um = _nominal_um(facts, part, so_far=unfinished)
    profiled = surface.profiled or any(w.step in (*BLASTED, "sweep_blast") for w in works)
    bared = any(w.step in (*BLASTED, "strip_paint") and part.checks.get(w.key) for w in works)
    lies_there_um = 0.0 if bared else survey.there_um or 0.0
    unjudged: Beneath | Literal["no_film", "simulated"] = beneath(surface, bared=bared) or (
        "" if nominal_um else "no_film"
    )
    if unjudged == "old_film" and lies_there_um:
        unjudged = ""  # what lay there was measured first, and is taken off each reading
    if any(e.body.get("device") == SIMULATED_GAUGE for e in read):
        unjudged = "simulated"
    area_m2, correction_um = survey.area_m2 * survey.count, (PROFILE_UM if profiled else 0.0) + lies_there_um
    seen = None
    if not unjudged:
        seen = inspect_film(um, nominal_um, area_m2=area_m2, correction_um=correction_um)
    return FilmLine(
        part=survey.name,
        at=max(e.at_true for e in read),
        read=len(um),
        inspection=seen,
        spots=inspect_spots(um, nominal_um, seen.most_um, area_m2=area_m2, correction_um=correction_um)
        if seen is not None and len(um) >= 3
        else None,
        unjudged=unjudged,
        unfinished=unfinished,
        steelwork=surface.metal in FERROUS or surface.hull_metal == "steel",
    )


def _nominal_um(facts: Facts, part: PartState, *, so_far: bool) -> float:
    """What the system is to build [um], or its coats that are on `so_far`.

    One coat more than planned raises no target, and one left out lowers none.
    """
    if not so_far:
        layers_of = [x for x in facts.layers_of(part.part_id) if x.patches is None]
        whole = [(x.coats, planned_dry_um(x, facts.sheets[x.sheet_id])) for x in layers_of]
        return sum(n * um for n, um in whole if um is not None)
    layers = {x.id: x for x in facts.layers}
    meant = [
        planned_dry_um(layers[f.layer_id], facts.sheets[f.sheet_id])
        for f in part.films
        if f.layer_id in layers and f.n <= layers[f.layer_id].coats and layers[f.layer_id].patches is None
    ]
    return sum(x for x in meant if x is not None)


def said_line(e: LogEntry) -> SaidLine | None:
    body = e.body
    match e.kind:
        case "overruled":
            text = f"{body['rule_id'].replace('.', ' ').replace('_', ' ')}: {body['reason']}"
        case "defect":
            text = body["type"]
        case "note":
            text = body["text"]
        case "coats_set":
            text = f"{body['coats']} coats of it{': ' + body['reason'] if body.get('reason') else ''}"
        case "unmasked":
            text = f"masking removed, {body['result']}"
        case _:
            return None
    photos = tuple(body.get("photo_ids") or ())
    about = str(body.get("part_id") or "")
    return SaidLine(kind=e.kind, text=text, at=e.at_true, who=e.told_by, part_id=about, photo_ids=photos)


@dataclass(frozen=True, slots=True, kw_only=True)
class BeforeAfter:
    """A part as it came and as it went: the first picture before its first coat, the last after its last."""

    part: str
    before_id: str
    before_at: int
    after_id: str
    after_at: int


def before_after(facts: Facts, state: JobState, rows: Sequence[LogEntry]) -> list[BeforeAfter]:
    """The parts that have both pictures."""
    seen: dict[str, list[tuple[int, str]]] = {}
    for e in rows:
        shown = [e.body["photo_id"]] if e.body.get("photo_id") else list(e.body.get("photo_ids") or ())
        about = e.body.get("part_ids") or ([e.body["part_id"]] if e.body.get("part_id") else [])
        for part_id in about:
            seen.setdefault(part_id, []).extend((e.at_true, photo) for photo in shown)
    out = []
    for p in state.parts:
        done = [f.done_at for f in p.films]
        if not done or None in done or p.due_layer_id is not None:
            continue
        pictures = sorted(seen.get(p.part_id, ()))
        first, last = min(f.started_at for f in p.films), max(at for at in done if at is not None)
        before = next((x for x in pictures if x[0] < first), None)
        after = next((x for x in reversed(pictures) if x[0] >= last), None)
        if before is not None and after is not None:
            out.append(
                BeforeAfter(
                    part=facts.part(p.part_id).name,
                    before_id=before[1],
                    before_at=before[0],
                    after_id=after[1],
                    after_at=after[0],
                )
            )
    return out


@dataclass(frozen=True, slots=True, kw_only=True)
class CareLine:
    """What a material asks for in service; `usual`: its sheet says nothing, and this is the usual."""

    what: str
    sheet: str
    after_s: int
    every_s: int | None
    usual: bool


def care_lines(facts: Facts) -> list[CareLine]:
    """What everything on the parts asks for, each once; of a finish without a word the usual."""
    out: dict[tuple[str, str], CareLine] = {}
    for part in facts.parts:
        layers = [] if part.retired else facts.layers_of(part.id)
        for i, layer in enumerate(layers):
            sheet = facts.sheets[layer.sheet_id]
            cares, usual = care_of(sheet) if i == len(layers) - 1 else (sheet.care, False)
            for c in cares:
                line = CareLine(
                    what=c.what, sheet=sheet.name, after_s=c.after_s, every_s=c.every_s, usual=usual
                )
                out.setdefault((sheet.id, c.key), line)
    return list(out.values())
