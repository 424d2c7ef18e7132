"""Making a job: asset, parts, stack, frozen facts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID, uuid4

from django.db import transaction

from coatlog.core.codec import from_plain, to_plain
from coatlog.core.errors import CoreError
from coatlog.core.run.facts import Facts, Layer, Part, make_facts
from coatlog.core.sheet import Sheet
from coatlog.core.stack.rules import SUBSTRATES, Finding, StackLayer, judge
from coatlog.errors import NotFound, NotPermitted, Refused, Stopped
from coatlog.shelf.services import sheets_by_id
from coatlog.shop.models import Member, Place, Shop

from .models import Asset, FactsDoc, Job

__all__ = ["LayerDraft", "PartDraft", "create_job", "facts_of", "judge_stack"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartDraft:
    name: str
    area_m2: float
    substrate: str
    condition: str = ""
    count: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class LayerDraft:
    sheet_id: str
    coats: int
    target_um: float | None = None


def judge_stack(shop: Shop, substrates: Sequence[str], layers: Sequence[LayerDraft]) -> tuple[Finding, ...]:
    """What the rules say of a stack on each of the substrates.  Raises Refused, NotFound."""
    for s in substrates:
        if s not in SUBSTRATES:
            raise Refused.field("substrate", s, "one of " + ", ".join(SUBSTRATES))
    sheets = _sheets(shop, layers)
    stack = [StackLayer(sheet=sheets[x.sheet_id], coats=x.coats, target_um=x.target_um) for x in layers]
    found: dict[tuple[str, int], Finding] = {}
    for s in dict.fromkeys(substrates):
        for f in judge(s, stack):
            found[f.rule_id, f.position] = f
    return tuple(found.values())


def _sheets(shop: Shop, layers: Sequence[LayerDraft]) -> dict[str, Sheet]:
    sheets = sheets_by_id(shop, (x.sheet_id for x in layers))
    for x in layers:
        if x.sheet_id not in sheets:
            raise NotFound("One of these materials is not on this shop's shelf.")
    return sheets


@transaction.atomic
def create_job(
    member: Member,
    *,
    title: str,
    asset_name: str,
    asset_kind: str,
    place_id: UUID,
    parts: Sequence[PartDraft],
    layers: Sequence[LayerDraft],
    now: int,
) -> tuple[Job, Facts]:
    """Create a job with its first facts.  The caller adopts them by an entry.

    Raises Refused (a field), Stopped (a rule), NotFound, NotPermitted.
    """
    if not member.may_write:
        raise NotPermitted("A viewer may look, not start a job.")
    shop = member.shop
    place = Place.objects.filter(shop=shop, pk=place_id).first()
    if place is None:
        raise NotFound("No such place in this shop.")
    for field, text in (("title", title), ("asset", asset_name)):
        if not text.strip() or len(text) > 120:
            raise Refused.field(field, text, "1 to 120 letters")
    if not parts:
        raise Refused.field("parts", 0, "at least one part")
    if not layers:
        raise Refused.field("layers", 0, "at least one layer")
    stops = [f for f in judge_stack(shop, [p.substrate for p in parts], layers) if f.severity == "stop"]
    if stops:
        raise Stopped(stops[0].what + " " + stops[0].why, errors=[to_plain(f) for f in stops])
    asset, _ = Asset.objects.get_or_create(shop=shop, name=asset_name.strip(), kind=asset_kind)
    job = Job.objects.create(shop=shop, asset=asset, place=place, title=title.strip(), created_at=now)
    facts = _first_facts(job, parts, layers, _sheets(shop, layers))
    FactsDoc.objects.create(job=job, facts_id=facts.id, version=1, doc=to_plain(facts))
    return job, facts


def _first_facts(
    job: Job, parts: Sequence[PartDraft], layers: Sequence[LayerDraft], sheets: dict[str, Sheet]
) -> Facts:
    made_parts, made_layers = [], []
    for i, p in enumerate(parts):
        if not p.name.strip():
            raise Refused.field(f"parts[{i}].name", p.name, "a name")
        part = Part(
            id=str(uuid4()),
            name=p.name.strip()[:60],
            count=p.count,
            area_m2=p.area_m2,
            substrate=p.substrate,
            condition=p.condition,
            place_id=str(job.place_id),
        )
        made_parts.append(part)
        for k, x in enumerate(layers):
            sheet = sheets[x.sheet_id]
            target = x.target_um
            if target is None:
                target = x.coats * (sheet.film.dry_um_min + sheet.film.dry_um_max) / 2
            made_layers.append(
                Layer(
                    id=str(uuid4()),
                    part_id=part.id,
                    position=k,
                    sheet_id=x.sheet_id,
                    target_um=target,
                    tol_um=round(0.1 * target, 1),
                    coats=x.coats,
                    method_id=sheet.method_id,
                )
            )
    try:
        return make_facts(
            job_id=str(job.pk), version=1, parts=tuple(made_parts), layers=tuple(made_layers), sheets=sheets
        )
    except CoreError as refusal:
        raise Refused.field(refusal.field, refusal.given, refusal.expected) from None


def facts_of(job: Job) -> dict[str, Facts]:
    """Every version of a job's facts, by id."""
    return {d.facts_id: from_plain(Facts, d.doc) for d in FactsDoc.objects.filter(job=job)}
