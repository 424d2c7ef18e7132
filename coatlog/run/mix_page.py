"""One mix, gathered from a job's facts, its state, the plan and the air."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from coatlog.core.errors import CoreError
from coatlog.core.film import PracticalVolume, practical_volume, spreading_rate
from coatlog.core.mix import Cup, cup_for_component, cup_for_total, pot_life, smallest_batch_ml, voc_g_per_l
from coatlog.core.plan.build_problem import mixed_as_it_goes
from coatlog.core.plan.plan import Plan, PlannedBatch
from coatlog.core.quantity import LEFT_OVER_FRAC
from coatlog.core.run.amounts import coat_ml, planned_dry_um, planned_wet, sheet_solids_frac
from coatlog.core.run.facts import Facts
from coatlog.core.run.states import Batch, JobState
from coatlog.core.run.task_key import TaskKey, read_key
from coatlog.core.run.timeline import Timeline
from coatlog.core.sheet import Component, Sheet
from coatlog.core.stack.rules import SLIPS, Finding, StackLayer, Survey, judge
from coatlog.core.why import Figure
from coatlog.errors import NotFound, Refused

from .lots import CanInUse

__all__ = ["MixPage", "NeedLine", "PotTimes", "mix_page", "pot_times"]

CUP_STEP_ML = 5.0  # a mark read half way between 10 ml lines


@dataclass(frozen=True, slots=True, kw_only=True)
class NeedLine:
    """A coat still to spray with this material."""

    task_key: str
    label: str
    area_m2: float
    dry_um: float | None
    wet: Figure | None
    volume_ml: float


@dataclass(frozen=True, slots=True, kw_only=True)
class AsPoured:
    """A mix as it really is: volume solids, thinner per volume of the rest, and VOC."""

    batch_id: str
    solids_frac: float
    thinner_frac: float
    voc: Figure | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PotTimes:
    """How long a mix that is made now is good, and when it gels, both from the hardener on [s]."""

    use_by_s: int
    gels_s: int


@dataclass(frozen=True, slots=True, kw_only=True)
class MixPage:
    """One mix: what is needed, how it is poured, how long it lives.  `seq`: the newest entry it knows of."""

    seq: int
    sheet: Sheet
    typical: bool
    needs: tuple[NeedLine, ...]
    volume: PracticalVolume | None
    spreading: Figure | None
    cup: Cup
    tint_frac: float
    poured: Batch | None
    next_role: str | None
    mix_degc: float
    pot: Figure | None
    use_by_s: int | None
    smallest_ml: float | None
    too_small: str
    voc: Figure | None
    voc_limit_g_per_l: float | None
    batches: tuple[Batch, ...]
    as_poured: tuple[AsPoured, ...]
    cans: tuple[CanInUse, ...]
    never: tuple[Finding, ...]


def pot_times(facts: Facts, mix_degc: float) -> dict[str, PotTimes]:
    """By sheet, for those whose mix dies: what a phone without network goes by."""
    found = {sheet_id: (sheet, _pot(sheet, mix_degc)) for sheet_id, sheet in facts.sheets.items()}
    return {
        sheet_id: PotTimes(use_by_s=round(pot.value * sheet.use_frac), gels_s=round(pot.value))
        for sheet_id, (sheet, pot) in found.items()
        if pot
    }


def mix_page(
    facts: Facts,
    state: JobState,
    plan: Plan | None,
    air: Timeline,
    *,
    sheet_id: str,
    total_ml: float | None,
    tint_frac: float | None,
    now: int,
    voc_limit_g_per_l: float | None = None,
    voc_less_water: bool = True,
    cans: Sequence[CanInUse] = (),
) -> MixPage:
    """Everything Mix shows for one sheet.

    `total_ml` None: the plan's next batch.  With something in the cup already, what is in it
    decides and the rest moves to match.  Raises NotFound, OutOfRange.
    """
    if sheet_id not in facts.sheets:
        raise NotFound("This job has no such material.")
    sheet = facts.sheets[sheet_id]
    needs = _needs(facts, state, plan, sheet)
    tint = (
        next((c.parts for c in sheet.components if c.role == "tint"), 0.0) if tint_frac is None else tint_frac
    )
    if not 0 <= tint <= 0.5:
        raise Refused.field("tint_frac", tint, "0 to 0.5 of the base")
    batches = tuple(b for b in state.batches if b.sheet_id == sheet_id)
    open_cup = next((b for b in reversed(batches) if not b.mixed and b.closed_at is None and b.poured), None)
    if total_ml is None:
        planned = next((b for b in (plan.batches if plan else ()) if b.sheet_id == sheet_id), None)
        total_ml = _to_mix(facts, needs, planned, air, now)
    if open_cup is not None:
        first = open_cup.poured[0]
        cup = cup_for_component(sheet.components, first.role, first.ml, tint_frac=tint)
    else:
        cup = cup_for_total(sheet.components, total_ml, tint_frac=tint)
    done_roles = {p.role for p in open_cup.poured} if open_cup else set()
    mix_degc = air.at(now).air_degc
    pot = _pot(sheet, mix_degc)
    smallest = _smallest(sheet)
    return MixPage(
        seq=state.through_seq,
        sheet=sheet,
        typical=sheet.grade == "typical",
        needs=needs,
        volume=_volume(facts, sheet, needs),
        spreading=_spreading(sheet, needs),
        cup=cup,
        tint_frac=tint,
        poured=open_cup,
        next_role=next((p.role for p in cup.pours if p.role not in done_roles), None),
        mix_degc=mix_degc,
        pot=pot,
        use_by_s=round(pot.value * sheet.use_frac) if pot else None,
        smallest_ml=smallest,
        too_small=_too_small(cup, smallest),
        voc=_voc(cup, sheet, voc_less_water),
        voc_limit_g_per_l=voc_limit_g_per_l,
        batches=batches,
        as_poured=tuple(x for b in batches if (x := _as_poured(b, sheet, voc_less_water))),
        cans=tuple(cans),
        never=_never(facts, sheet),
    )


def _to_mix(
    facts: Facts, needs: tuple[NeedLine, ...], planned: PlannedBatch | None, air: Timeline, now: int
) -> float:
    """The next mix by the plan, or for what is still to do; no more than is used up while it lives [ml]."""
    wanted = planned.total_ml if planned else sum(n.volume_ml for n in needs)
    whole_ml = math.ceil(max(wanted, 10.0) / (1 - LEFT_OVER_FRAC) / 10) * 10.0
    key = read_key(needs[0].task_key) if needs else None
    if key is None or key.layer_id is None:
        return whole_ml
    _, mixes = mixed_as_it_goes(facts, facts.layer(key.layer_id), air, now, 1)
    if mixes.n == 1:
        return whole_ml
    return min(whole_ml, max(mixes.each_ml, planned.total_ml if planned else 0.0))


def _never(facts: Facts, sheet: Sheet) -> tuple[Finding, ...]:
    """What must not go into this cup, whatever stands on the bench."""
    layer = StackLayer(sheet=sheet, coats=1, extras=tuple(SLIPS))
    on = next((x.part_id for x in facts.layers if x.sheet_id == sheet.id), facts.parts[0].id)
    told = judge(Survey(substrate=facts.part(on).substrate), [layer])
    return tuple(f for f in told if f.rule_id.startswith("mix."))


def _needs(facts: Facts, state: JobState, plan: Plan | None, sheet: Sheet) -> tuple[NeedLine, ...]:
    """Coats of this sheet not yet on, in the plan's order."""
    order = {t.key: i for i, t in enumerate(plan.tasks)} if plan else {}
    out = []
    for part in state.parts:
        p = facts.part(part.part_id)
        for layer in facts.layers_of(part.part_id):
            if layer.sheet_id != sheet.id:
                continue
            on = sum(f.layer_id == layer.id for f in part.films)
            for n in range(on + 1, layer.coats + 1):
                out.append(
                    NeedLine(
                        task_key=str(TaskKey(part_id=p.id, kind="coat", layer_id=layer.id, n=n)),
                        label=f"{p.name}, coat {n} of {layer.coats}",
                        area_m2=facts.area_m2(layer),
                        dry_um=planned_dry_um(layer, sheet),
                        wet=planned_wet(layer, sheet),
                        volume_ml=round(coat_ml(facts, layer).value, 1),
                    )
                )
    return tuple(sorted(out, key=lambda n: order.get(n.task_key, 10_000)))


def _volume(facts: Facts, sheet: Sheet, needs: tuple[NeedLine, ...]) -> PracticalVolume | None:
    if not needs or sheet.film is None:
        return None
    method = facts.methods[next(x.method_id for x in facts.layers if x.sheet_id == sheet.id)]
    area = sum(n.area_m2 for n in needs)
    return practical_volume(
        area,
        sum(n.area_m2 * (n.dry_um or 0.0) for n in needs) / area,
        sheet_solids_frac(sheet),
        lands_frac=method.lands_frac,
        left_over_frac=LEFT_OVER_FRAC,
        fixed_ml=method.fixed_ml,
    )


def _spreading(sheet: Sheet, needs: tuple[NeedLine, ...]) -> Figure | None:
    if not needs or needs[0].dry_um is None:
        return None
    return spreading_rate(needs[0].dry_um, sheet_solids_frac(sheet))


def _voc(cup: Cup, sheet: Sheet, less_water: bool) -> Figure | None:
    """VOC of what is in the cup; None where a component does not say."""
    by_role: dict[str, Component] = {c.role: c for c in sheet.components}
    parts = [by_role[p.role] for p in cup.pours]
    return voc_g_per_l(parts, [p.ml for p in cup.pours], less_water=less_water)


def _as_poured(batch: Batch, sheet: Sheet, less_water: bool) -> AsPoured | None:
    """None: nothing was poured in steps, or something the sheet does not know."""
    by_role: dict[str, Component] = {c.role: c for c in sheet.components}
    if batch.solids_frac is None or not batch.poured or any(p.role not in by_role for p in batch.poured):
        return None
    thinner_ml = sum(p.ml for p in batch.poured if p.role == "thinner")
    rest_ml = sum(p.ml for p in batch.poured) - thinner_ml
    parts = [by_role[p.role] for p in batch.poured]
    return AsPoured(
        batch_id=batch.batch_id,
        solids_frac=batch.solids_frac,
        thinner_frac=thinner_ml / rest_ml if rest_ml > 0 else 0.0,
        voc=voc_g_per_l(parts, [p.ml for p in batch.poured], less_water=less_water),
    )


def _pot(sheet: Sheet, mix_degc: float) -> Figure | None:
    if not sheet.pot:
        return None
    try:
        return pot_life(sheet.pot, mix_degc)
    except CoreError:
        return None


def _smallest(sheet: Sheet) -> float | None:
    roles = {c.role for c in sheet.components}
    if not {"base", "hardener"} <= roles:
        return None
    return smallest_batch_ml(sheet.components, CUP_STEP_ML)


def _too_small(cup: Cup, smallest: float | None) -> str:
    if smallest is None or cup.total_ml >= smallest:
        return ""
    return (
        f"By the marks this ratio can be off by more than 5 %. Mix {smallest:.0f} ml or more, "
        "or pour by the scale."
    )
