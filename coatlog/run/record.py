"""The shop's record: how long coats have held against what was claimed, what came of them, what it costs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from coatlog.core.lifetimes import claim_held, log_rank, weibull
from coatlog.core.run.facts import Facts
from coatlog.core.run.in_service import PartService
from coatlog.core.stack.builder import cost_per_m2
from coatlog.core.stack.findings import StackLayer
from coatlog.core.survival import Lasting, Life, Step, kept_of, lasting
from coatlog.jobs.frozen_facts import read_facts
from coatlog.jobs.models import FactsDoc
from coatlog.shelf.services import prices_of
from coatlog.shop.models import Shop

from . import projection
from .models import JobProjection

__all__ = [
    "Comparison",
    "Group",
    "MaterialLine",
    "RecordLine",
    "compared",
    "groups_of",
    "lived_s",
    "material_lines",
    "record_lines",
]

YEAR_S = 365 * 86_400


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordLine:
    """One part through one service; `held_s` runs on while it is in use.

    `surface`: what it lies on; `cost_per_m2`: of its paint at today's prices, None where one is not known.
    """

    job_id: UUID
    title: str
    asset: str
    part: str
    material: str
    material_id: str
    in_service_at: int
    held_s: int
    claim_s: int | None
    claim_text: str
    ended_at: int | None
    ended_how: str
    ended_was: str
    rating: int | None
    next_due_at: int | None
    surface: str = ""
    cost_per_m2: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class MaterialLine:
    """A finish over all its services.  Taken off while sound is no failure.

    `median_s`: the time half of them last [s], between `low_s` and `high_s` by 95 %; None: too few failures,
    or more than half still hold.  `expected_s`: that time by the law the failures follow, where they follow
    one and more than half still hold.  `wear`: whether failures come early, at any time, or by wear; "" where
    there are too few.  `claim_share`: of those that hold at the claimed life, `claim_verdict` what it shows.
    `cost_a_year`: of the paint of a square metre, by the time it is known or claimed to last.
    """

    material: str
    running: int
    failed: int
    sound: int
    longest_s: int
    claim_s: int | None
    median_s: int | None
    low_s: int | None
    high_s: int | None
    said: str
    expected_s: int | None = None
    wear: str = ""
    claim_share: float | None = None
    claim_verdict: str = ""
    cost_a_year: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Finishes that are told together: a material, or a material on one surface, under `key`.

    `steps`: the share that still holds from each failure on; `held_s`: how long each of the sound ones has.
    """

    key: str
    material: str
    surface: str
    counted: int
    failed: int
    longest_s: int
    steps: tuple[Step, ...] = ()
    held_s: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Two groups held against each other; `chance`: of so great a difference where there is none."""

    groups: tuple[Group, ...]
    chance: float | None = None
    few: bool = False
    shown: bool = False
    lasts_longer: str = ""


def lived_s(shop: Shop, now: int) -> dict[str, int]:
    """How long finishes lasted here [s], by material id, where there is enough to say so.

    Enough is five failures: the time half of them last, what is still sound counted in, or what is
    sure of it while more than half hold; or none, and one that has held longer than was claimed.
    """
    out: dict[str, int] = {}
    for key, own in _by_material(record_lines(shop, now)).items():
        told = _lasting(own)
        longest = max(own, key=lambda x: x.held_s)
        if not told.few:
            out[key] = told.safe_s
        elif not told.failures and longest.claim_s is not None and longest.held_s > longest.claim_s:
            out[key] = longest.held_s
    return out


def _by_material(lines: list[RecordLine]) -> dict[str, list[RecordLine]]:
    out: dict[str, list[RecordLine]] = {}
    for x in lines:
        out.setdefault(x.material_id, []).append(x)
    return out


def _lasting(own: list[RecordLine]) -> Lasting:
    """Taken off while sound is no failure: it has held at least so long."""
    return lasting(_lives(own))


def _lives(own: Sequence[RecordLine]) -> list[Life]:
    return [Life(x.held_s, x.ended_was == "failed") for x in own]


def _cost_a_year(newest: RecordLine, told: Lasting, claim_s: int | None) -> float | None:
    """By what lasted here where that is enough to say so, else by what is claimed."""
    life_s = claim_s if told.few else told.safe_s
    return None if newest.cost_per_m2 is None or not life_s else newest.cost_per_m2 * YEAR_S / life_s


def groups_of(lines: Sequence[RecordLine]) -> list[Group]:
    """What can be held against each other: each material, and each on each surface it lies on."""
    found: dict[tuple[str, str], list[RecordLine]] = {}
    for x in lines:
        for surface in ("", x.surface):
            found.setdefault((x.material_id, surface), []).append(x)
    told = [_group(k, own) for k, own in found.items()]
    # A material on its only surface is that material.
    return sorted(
        (g for g in told if not g.surface or g.counted < len(found[g.key.partition("|")[0], ""])),
        key=lambda g: (g.material, g.surface),
    )


def _group(key: tuple[str, str], own: Sequence[RecordLine], *, whole: bool = False) -> Group:
    lives = _lives(own)
    return Group(
        key="|".join(filter(None, key)),
        material=max(own, key=lambda x: x.in_service_at).material,
        surface=key[1],
        counted=len(own),
        failed=sum(x.failed for x in lives),
        longest_s=max(x.held_s for x in lives),
        steps=kept_of(lives) if whole else (),
        held_s=tuple(sorted(x.held_s for x in lives if not x.failed)) if whole else (),
    )


def compared(lines: Sequence[RecordLine], keys: Sequence[str]) -> Comparison | None:
    """One group, or two held against each other, by their keys; None where nothing goes by one of them."""
    picked: list[list[RecordLine]] = []
    groups: list[Group] = []
    for key in keys:
        material_id, _, surface = key.partition("|")
        own = [x for x in lines if x.material_id == material_id and surface in ("", x.surface)]
        if not own:
            return None
        picked.append(own)
        groups.append(_group((material_id, surface), own, whole=True))
    if len(picked) < 2:
        return Comparison(groups=tuple(groups))
    told = log_rank(_lives(picked[0]), _lives(picked[1]))
    longer = groups[0] if told.failures[0] < told.expected else groups[1]
    return Comparison(
        groups=tuple(groups),
        chance=told.chance,
        few=told.few,
        shown=told.shown,
        lasts_longer=longer.key if told.shown else "",
    )


def record_lines(shop: Shop, now: int) -> list[RecordLine]:
    rows = list(
        JobProjection.objects.filter(job__shop=shop, job__example=False, state__service__0__isnull=False)
        .select_related("job__asset")
        .order_by("-job__created_at")
    )
    wanted = [r.state["facts_id"] for r in rows]
    docs = read_facts(FactsDoc.objects.filter(job__shop=shop, facts_id__in=wanted))
    prices = prices_of(shop)
    lines = []
    for row in rows:
        facts = docs[row.job_id, row.state["facts_id"]]
        for life in projection.state_from(row).service:
            lines.append(_line(row, life, facts, prices, now))
    return lines


def _line(
    row: JobProjection, life: PartService, facts: Facts, prices: Mapping[str, Mapping[str, float]], now: int
) -> RecordLine:
    layers = facts.layers_of(life.part_id)
    sheet = facts.sheets[layers[-1].sheet_id]
    stack = [
        StackLayer(sheet=facts.sheets[x.sheet_id], coats=x.coats, target_um=x.target_um)
        for x in layers
        if x.patches is None
    ]
    ratings = [i.rating for i in life.inspections if i.rating is not None]
    return RecordLine(
        job_id=row.job_id,
        title=row.job.title,
        asset=row.job.asset.name,
        part=facts.part(life.part_id).name,
        material=sheet.name,
        material_id=sheet.material_id,
        in_service_at=life.in_service_at,
        held_s=max(0, (life.ended_at or now) - life.in_service_at),
        claim_s=None if life.claim_until_at is None else life.claim_until_at - life.in_service_at,
        claim_text=life.claim_text,
        ended_at=life.ended_at,
        ended_how=life.ended_how,
        ended_was=life.ended_was,
        rating=ratings[-1] if ratings else None,
        next_due_at=min((d.due_at for d in life.due if d.due_at is not None and not d.usual), default=None),
        surface=facts.part(life.part_id).substrate,
        cost_per_m2=cost_per_m2(stack, prices),
    )


def material_lines(lines: list[RecordLine]) -> list[MaterialLine]:
    """Each finish by its material, as its sheet is named now."""
    out = []
    for own in _by_material(lines).values():
        told = _lasting(own)
        claims = [x.claim_s for x in own if x.claim_s]
        newest = max(own, key=lambda x: x.in_service_at)
        lives, claim_s = _lives(own), min(claims, default=None)
        law = None if told.few else weibull(lives)
        borne = None if claim_s is None else claim_held(lives, claim_s)
        expected = law.median_s() if law is not None and law.fits and told.median_s is None else None
        out.append(
            MaterialLine(
                material=newest.material,
                running=sum(x.ended_at is None for x in own),
                failed=told.failures,
                sound=sum(x.ended_was == "sound" for x in own),
                longest_s=told.at_least_s,
                claim_s=claim_s,
                median_s=None if told.few else told.median_s,
                low_s=None if told.few else told.low_s,
                high_s=None if told.few else told.high_s,
                said=_said(told),
                expected_s=None if expected is None else round(expected),
                wear=law.kind if law is not None and law.fits else "",
                claim_share=None if borne is None else borne.share,
                claim_verdict="" if borne is None else borne.verdict,
                cost_a_year=_cost_a_year(newest, told, claim_s),
            )
        )
    return sorted(out, key=lambda x: x.material)


def _said(told: Lasting) -> str:
    if told.failures == 0:
        return "no failures yet"
    if told.few:
        return f"{told.failures} failed: too few to say how long it lasts"
    return f"{told.failures} of {told.counted} failed"
