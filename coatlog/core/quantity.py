"""What a job takes: film to aim at, coats, litres with every loss named, packs and cost."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .errors import require
from .film import PracticalVolume, practical_volume
from .run.amounts import planned_dry_um, sheet_solids_frac
from .run.facts import Facts
from .sheet import Pack, Sheet
from .why import Figure, Why, computed

__all__ = ["PackLine", "Purchase", "SheetNeed", "acceptance", "aim_factor", "buy", "coats_for", "needs_of"]

LEFT_OVER_FRAC = 0.05  # assumed: what stays in cup and gun
READINGS = 20  # of a gauge, on a job that is measured
WANTED_CHANCE = 0.9


def acceptance(mean_over_nominal: float, cv: float, readings: int) -> float:
    """Chance that gauge readings pass: each at least 80 % of nominal, fewer than 20 % under nominal.

    `mean_over_nominal` [-], `readings`: how many.  They are taken as normal about the mean with a standard
    deviation of `cv` × mean.
    Source of the rule: ISO 19840.
    """
    if cv <= 0:
        return 1.0 if mean_over_nominal >= 1 else 0.0
    sd = cv * mean_over_nominal
    p80 = _normal((mean_over_nominal - 0.8) / sd)
    below = (_normal((1 - mean_over_nominal) / sd) - (1 - p80)) / p80
    most = max(k for k in range(readings) if k < 0.2 * readings)
    few = sum(math.comb(readings, k) * below**k * (1 - below) ** (readings - k) for k in range(most + 1))
    return float(p80**readings * few)


def _normal(z: float) -> float:
    return 0.5 * math.erfc(-z / math.sqrt(2))


def aim_factor(cv: float, *, readings: int = READINGS) -> Figure:
    """By what the mean film must exceed nominal so that nine inspections in ten pass [-].

    `readings`: how many an inspection takes.

    Raises OutOfRange for a scatter outside 0 to 0.35.
    """
    require(0 <= cv <= 0.35, "cv", cv, "a scatter of 0 to 0.35")
    require(5 <= readings <= 200, "readings", readings, "5 to 200 readings")
    low, high = 1.0, 20.0
    for _ in range(60):
        middle = (low + high) / 2
        if acceptance(middle, cv, readings) >= WANTED_CHANCE:
            high = middle
        else:
            low = middle
    return Figure(value=high, unit="frac", why=computed("film.aim", cv=cv, readings=readings))


def coats_for(film_um: float, sheet: Sheet) -> int | None:
    """Fewest coats of a sheet that make a film [um]; None when its limits do not reach it."""
    if sheet.film is None:
        return None
    # A guard before rounding up: 3.0000000001 coats are 3.
    coats = max(1, math.ceil(film_um / sheet.film.dry_um_max - 1e-9))
    reachable = coats <= sheet.film.coats_max and film_um <= sheet.film.total_max_um + 1e-9
    return coats if reachable and film_um / coats >= sheet.film.dry_um_min - 1e-9 else None


@dataclass(frozen=True, slots=True, kw_only=True)
class PackLine:
    """So many of one pack."""

    name: str
    count: int
    makes_ml: float
    price: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Purchase:
    """What to buy.  `cost` None: a price is missing."""

    lines: tuple[PackLine, ...]
    makes_ml: float
    spare_ml: float
    cost: float | None


def buy(need_ml: float, packs: Sequence[Pack], prices: Mapping[str, float]) -> Purchase | None:
    """Whole packs that make at least `need_ml` [ml]; None when the sheet names no pack.

    With every price known the cheapest, else the one with least left over; then the fewest packs.
    Raises OutOfRange for a need under 0.
    """
    require(need_ml >= 0, "need_ml", need_ml, "0 ml or more")
    if not packs:
        return None
    priced = all(p.name in prices for p in packs)
    sizes = sorted(packs, key=lambda p: -p.makes_ml)
    ranges = [range(math.ceil(need_ml / p.makes_ml - 1e-9) + 1) for p in sizes[:-1]]
    best: tuple[tuple[float, float, int], tuple[int, ...]] | None = None
    for head in itertools.product(*ranges):
        open_ml = need_ml - sum(n * p.makes_ml for n, p in zip(head, sizes, strict=False))
        counts = (*head, max(0, math.ceil(open_ml / sizes[-1].makes_ml - 1e-9)))
        made = sum(n * p.makes_ml for n, p in zip(counts, sizes, strict=True))
        cost = sum(n * prices.get(p.name, 0.0) for n, p in zip(counts, sizes, strict=True))
        rank = (float(cost if priced else made), float(made), sum(counts))
        if best is None or rank < best[0]:
            best = (rank, counts)
    assert best is not None
    lines = tuple(
        PackLine(name=p.name, count=n, makes_ml=p.makes_ml, price=prices.get(p.name))
        for n, p in zip(best[1], sizes, strict=True)
        if n
    )
    made = sum(x.count * x.makes_ml for x in lines)
    known = all(x.price is not None for x in lines)
    spent = sum(x.count * (x.price or 0.0) for x in lines)
    return Purchase(lines=lines, makes_ml=made, spare_ml=made - need_ml, cost=spent if known else None)


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetNeed:
    """One material of a job, from film to packs.

    For a film: nominal and aimed mean [um].  `inspected` is the mean that passes inspection,
    `breaks` says why it cannot be reached.  `volume` is for a film, `plain_ml` for what builds none.
    """

    sheet_id: str
    name: str
    coats: int
    area_m2: float
    nominal_um: float | None
    inspected: Figure | None
    aim_um: float | None
    breaks: str
    volume: PracticalVolume | None
    plain_ml: float | None
    total_ml: float
    purchase: Purchase | None
    why: Why


def needs_of(
    facts: Facts,
    prices: Mapping[str, Mapping[str, float]],
    *,
    inspected: bool = False,
    dead_um: float = 0.0,
) -> tuple[SheetNeed, ...]:
    """What every material of a job takes, from the substrate up, losses named.

    `prices` by material id, then by pack.  `inspected` aims so that nine inspections in ten pass;
    `dead_um` is the film that disappears in a blast profile under the first layer [um].
    """
    order: dict[str, None] = {}
    for x in sorted(facts.layers, key=lambda x: x.position):
        order.setdefault(x.sheet_id, None)
    return tuple(_need(facts, facts.sheets[k], prices, inspected, dead_um) for k in order)


def _need(
    facts: Facts, sheet: Sheet, prices: Mapping[str, Mapping[str, float]], inspected: bool, dead_um: float
) -> SheetNeed:
    kept = {p.id for p in facts.parts if not p.retired}
    layers = [x for x in facts.layers if x.sheet_id == sheet.id and x.part_id in kept]
    area = sum(facts.area_m2(x) for x in layers)
    coats = max((x.coats for x in layers), default=0)
    method = facts.methods[layers[0].method_id] if layers else next(iter(facts.methods.values()))
    nominal = aim = None
    figure = volume = plain_ml = None
    breaks = ""
    if sheet.film is not None and area > 0:
        film_m2_um = sum(facts.area_m2(x) * (planned_dry_um(x, sheet) or 0) * x.coats for x in layers)
        nominal = film_m2_um / area
        factor = aim_factor(method.spread_cv)
        figure = Figure(value=nominal * factor.value, unit="um", why=factor.why)
        if figure.value > sheet.film.total_max_um:
            breaks = (
                f"To pass inspection the mean would have to be {figure.value:.0f} µm, over the sheet's "
                f"{sheet.film.total_max_um:.0f} µm. Use a more even method rather than more paint."
            )
        aim = figure.value if inspected and not breaks else nominal
        wanted = coats_for(aim, sheet)
        if inspected and not breaks and wanted != coats:
            breaks = (
                f"{aim:.0f} µm needs {wanted} coats by the data sheet, {coats} planned: change the system."
                if wanted is not None
                else f"No number of coats the sheet allows makes {aim:.0f} µm: change the film or the method."
            )
        first = bool(layers) and min(x.position for x in layers) == 0
        volume = practical_volume(
            area,
            aim,
            sheet_solids_frac(sheet),
            lands_frac=method.lands_frac,
            left_over_frac=LEFT_OVER_FRAC,
            dead_um=dead_um if first else 0.0,
            fixed_ml=method.fixed_ml,
        )
        total, why = volume.total_ml, volume.why
    else:
        goes = sheet.coverage.m2_per_l if sheet.coverage else 1.0
        plain_ml = sum(1000 * facts.area_m2(x) * x.coats / goes for x in layers)
        total = plain_ml + method.fixed_ml
        why = Why(kind="sheet", ref=f"{sheet.name}: {goes:g} m² per litre a coat")
    return SheetNeed(
        sheet_id=sheet.id,
        name=sheet.name,
        coats=coats,
        area_m2=area,
        nominal_um=nominal,
        inspected=figure,
        aim_um=aim,
        breaks=breaks,
        volume=volume,
        plain_ml=plain_ml,
        total_ml=total,
        purchase=buy(total, sheet.packs, prices.get(sheet.material_id, {})),
        why=why,
    )
