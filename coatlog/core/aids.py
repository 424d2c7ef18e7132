"""What the steps of a job use up besides paint: cleaners, strippers, abrasives, cloths, tape."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .quantity import Purchase, buy
from .run.facts import Facts
from .run.step_list import job_work
from .sheet import Pack, Sheet
from .stack.preps import path_of
from .stack.step_sequence import Work
from .stack.surfaces import SUBSTRATES, Substrate
from .why import Why

__all__ = ["AidNeed", "Lack", "aids_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class AidNeed:
    """How much of an aid a job takes, in its units, for which steps, and what to buy."""

    sheet_id: str
    name: str
    unit: str
    amount: float
    steps: tuple[str, ...]
    hazards: tuple[str, ...]
    dwell_s: int
    purchase: Purchase | None
    why: Why


@dataclass(frozen=True, slots=True, kw_only=True)
class Lack:
    """A step for which the shelf has aids, and none that may be used on this surface."""

    step: str
    why: str


def aids_of(
    facts: Facts, shelf: Sequence[Sheet], prices: Mapping[str, Mapping[str, float]]
) -> tuple[tuple[AidNeed, ...], tuple[Lack, ...]]:
    """What the whole step list of a job uses up, and steps for which nothing on the shelf will do.

    For each step one aid of every unit that serves it: the grit nearest to the step's, and never one
    barred on the ground it meets.  `prices` by material id, then by pack.
    """
    aids = [s for s in shelf if s.aid is not None]
    area: dict[str, float] = {}
    steps: dict[str, list[str]] = {}
    lacks: dict[str, Lack] = {}
    for part_id, works in job_work(facts).items():
        part = facts.part(part_id)
        grounds = _grounds(facts, part_id)
        for w in works:
            serving = [s for s in aids if s.aid is not None and w.step in s.aid.serves]
            fit = [s for s in serving if not any(_barred(s, g) for g in grounds)]
            if serving and not fit:
                names = ", ".join(s.name for s in serving)
                lacks[w.step] = Lack(step=w.name, why=f"{names}: not on {grounds[-1].name}")
            for sheet in _one_of_each(fit, w):
                area[sheet.id] = area.get(sheet.id, 0.0) + part.area_m2 * part.count
                if w.name not in steps.setdefault(sheet.id, []):
                    steps[sheet.id].append(w.name)
    needs = [_need(s, area[s.id], steps[s.id], prices) for s in aids if s.id in area]
    return tuple(sorted(needs, key=lambda n: (n.unit, n.name))), tuple(lacks.values())


def _grounds(facts: Facts, part_id: str) -> list[Substrate]:
    """The surface as found and what its preparation leads through."""
    part = facts.part(part_id)
    path = path_of(part.substrate, facts.choices_of(part_id).get("prep", ""), part.features) or ()
    return [SUBSTRATES[k] for k in (part.substrate, *(p.to for p in path)) if k in SUBSTRATES]


def _barred(sheet: Sheet, ground: Substrate) -> bool:
    never = sheet.aid.never_on if sheet.aid is not None else ()
    return bool({ground.metal, ground.hull_metal, ground.group, ground.id} & {*never})


def _one_of_each(fit: Sequence[Sheet], work: Work) -> list[Sheet]:
    chosen: dict[str, Sheet] = {}
    for s in sorted(fit, key=lambda s: (_off(s, work), s.name)):
        assert s.aid is not None
        chosen.setdefault("grit" if s.aid.grit else s.aid.unit, s)  # one grit does it, disc or sheet
    return list(chosen.values())


def _off(sheet: Sheet, work: Work) -> float:
    """How far its grit is from the one the step wants, as a ratio."""
    grit = sheet.aid.grit if sheet.aid is not None else None
    if grit is None or work.grit is None:
        return 1.0
    return max(grit, work.grit) / min(grit, work.grit)


def _need(
    sheet: Sheet, area_m2: float, steps: Sequence[str], prices: Mapping[str, Mapping[str, float]]
) -> AidNeed:
    aid = sheet.aid
    assert aid is not None
    amount = area_m2 / aid.covers_m2
    packs = [Pack(name=p.name, makes_ml=p.holds) for p in aid.packs]
    return AidNeed(
        sheet_id=sheet.id,
        name=sheet.name,
        unit=aid.unit,
        amount=amount,
        steps=tuple(steps),
        hazards=sheet.hazards,
        dwell_s=aid.dwell_s,
        purchase=buy(amount, packs, prices.get(sheet.material_id, {})),
        why=_why(sheet),
    )


def _why(sheet: Sheet) -> Why:
    aid = sheet.aid
    assert aid is not None
    goes = f"one {aid.unit} does {aid.covers_m2:g} m²"
    if sheet.grade == "typical":
        return Why(kind="assumed", ref=f"{goes}, assumed")
    return Why(kind="sheet", ref=f"{sheet.name}: {goes}")
