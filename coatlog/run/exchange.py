"""A job as one document that leaves a shop and comes back byte for byte, and its log as a table.

The document carries ids, so it is taken in once: where they are free, or where the same job already
stands unchanged.  People are carried by name, as a claim: the one who takes a job in signs for it.
"""

from __future__ import annotations

import base64
import csv
import datetime as dt
import io
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any, Literal
from uuid import UUID

from django.db import transaction
from pydantic import TypeAdapter

from coatlog.core.codec import LATER, canonical, content_id, from_plain, to_plain
from coatlog.core.errors import CoreError, Underspecified
from coatlog.core.plain import read_json
from coatlog.core.plan.plan import Plan
from coatlog.core.plan.slots import SlotFor
from coatlog.core.run.bounds import check_facts
from coatlog.core.run.entries import parse_body
from coatlog.core.run.facts import Facts, PartSteps
from coatlog.errors import NotPermitted, Refused
from coatlog.jobs.frozen_facts import freeze_step_lists
from coatlog.jobs.models import Asset, FactsDoc, Job, Photo, StepListDoc
from coatlog.jobs.photos import keep_photo
from coatlog.logbook.models import ClimateReading, LogEntry
from coatlog.logbook.services import OWNER_KINDS, batch_ids_of, entries_of_job
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Member, Place, Shop

from . import projection
from .models import PlanDoc
from .reflow import reflow

__all__ = ["JobDocument", "entries_csv", "export_job", "import_job", "job_schema"]

DAY_S = 86400
FORECAST_S = 60 * DAY_S
FAR_AT = 2**40
FAR_S = 20 * 366 * DAY_S
MOST_N = 2**53
#: what one document may hold: a job of years, not a flood
MOST = {"facts": 500, "plans": 5000, "entries": 20_000, "places": 200, "readings": 500_000, "photos": 500}


@dataclass(frozen=True, slots=True, kw_only=True)
class AssetDoc:
    id: str
    name: str
    kind: Literal["road", "vessel", "aircraft"]
    mark: str
    paint_code: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceDoc:
    id: str
    name: str
    has_probe: bool
    outdoors: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanVersion:
    plan: Plan
    log_seq: int
    made_at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class EntryDoc:
    """One line of the log, in order; `actor` is who did it."""

    id: str
    job_id: str | None
    kind: str
    v: int
    at: int
    at_from: Literal["tap", "typed", "import"]
    at_true: int
    skew_s: int
    sent_at: int
    received_at: int
    actor: str
    device_id: str
    n: int
    group_id: str | None
    body: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingDoc:
    """Air at a place: epoch s, degC, fraction, m/s, mm."""

    place_id: str
    at: int
    air_degc: float
    surface_degc: float | None
    rh_frac: float
    wind_m_s: float | None
    rain_mm: float | None
    source: Literal["probe", "import", "forecast", "typical"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoDoc:
    """A picture of damage, named by the hash of its bytes."""

    photo_id: str
    jpeg_base64: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StepLists:
    """The step lists of facts from before facts carried any."""

    facts_id: str
    steps: tuple[PartSteps, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class JobDocument:
    """One job with all its state stands on."""

    format: Literal["coatlog-job"] = "coatlog-job"
    version: Literal[1] = 1
    id: str
    title: str
    customer: str
    created_at: int
    place_id: str
    default_air_degc: float
    default_rh_frac: float
    asset: AssetDoc
    places: tuple[PlaceDoc, ...]
    facts: tuple[Facts, ...]
    plans: tuple[PlanVersion, ...]
    entries: tuple[EntryDoc, ...]
    readings: tuple[ReadingDoc, ...]
    due_at: int | None = None
    ready_at: int | None = None
    slot_at: int | None = None
    slot_for: SlotFor = field(default="", metadata=LATER)
    parts_from: dict[str, int] = field(default_factory=dict)
    photos: tuple[PhotoDoc, ...] = ()
    step_lists: tuple[StepLists, ...] = field(default=(), metadata=LATER)


def export_job(job: Job) -> JobDocument:
    """The document of a job: facts, plans, log and the air it stood in."""
    facts = tuple(from_plain(Facts, d.doc) for d in FactsDoc.objects.filter(job=job))
    rows = entries_of_job(job)
    place_ids = {p.place_id for f in facts for p in f.parts} | {str(job.place_id)}
    place_ids |= set(LogEntry.objects.filter(job=job, kind="moved").values_list("body__place_id", flat=True))
    since = min([job.created_at, *(e.at_true for e in rows)]) - DAY_S
    readings = ClimateReading.objects.filter(
        place_id__in=place_ids, place__shop_id=job.shop_id, at__gte=since
    ).order_by("id")
    names = {e.pk: e.signed_as or e.actor.get_username() for e in rows}
    return JobDocument(
        id=str(job.pk),
        title=job.title,
        customer=job.customer,
        due_at=job.due_at,
        ready_at=job.ready_at,
        slot_at=job.slot_at,
        slot_for=job.slot_for,  # type: ignore[arg-type]
        parts_from=job.parts_from,
        created_at=job.created_at,
        place_id=str(job.place_id),
        default_air_degc=job.shop.default_air_degc,
        default_rh_frac=job.shop.default_rh_frac,
        asset=AssetDoc(
            id=str(job.asset_id),
            name=job.asset.name,
            kind=job.asset.kind,  # type: ignore[arg-type]
            mark=job.asset.mark,
            paint_code=job.asset.paint_code,
        ),
        places=tuple(
            PlaceDoc(id=str(p.pk), name=p.name, has_probe=p.has_probe, outdoors=p.outdoors)
            for p in Place.objects.filter(pk__in=place_ids, shop_id=job.shop_id).order_by("id")
        ),
        facts=facts,
        step_lists=tuple(
            StepLists(facts_id=x.facts_id, steps=tuple(from_plain(PartSteps, s) for s in x.doc))
            for x in StepListDoc.objects.filter(job=job).order_by("id")
        ),
        plans=tuple(
            PlanVersion(plan=from_plain(Plan, p.doc), log_seq=p.log_seq, made_at=p.made_at)
            for p in PlanDoc.objects.filter(job=job).order_by("id")
        ),
        entries=tuple(_entry_doc(e, names[e.pk]) for e in rows),
        readings=tuple(
            ReadingDoc(
                place_id=str(r.place_id),
                at=r.at,
                air_degc=r.air_degc,
                surface_degc=r.surface_degc,
                rh_frac=r.rh_frac,
                wind_m_s=r.wind_m_s,
                rain_mm=r.rain_mm,
                source=r.source,  # type: ignore[arg-type]
            )
            for r in readings
        ),
        photos=tuple(
            PhotoDoc(photo_id=p.photo_id, jpeg_base64=base64.b64encode(bytes(p.content)).decode("ascii"))
            for p in Photo.objects.filter(shop_id=job.shop_id, photo_id__in=_named(rows)).order_by("photo_id")
        ),
    )


def _named(rows: Iterable[LogEntry]) -> set[str]:
    """The pictures entries name."""
    one = {e.body["photo_id"] for e in rows if e.kind == "damage_found" and e.body.get("photo_id")}
    return one.union(*(e.body.get("photo_ids") or () for e in rows))


def _entry_doc(e: LogEntry, actor: str) -> EntryDoc:
    return EntryDoc(
        id=str(e.entry_id),
        job_id=str(e.job_id) if e.job_id else None,
        kind=e.kind,
        v=e.v,
        at=e.at,
        at_from=e.at_from,  # type: ignore[arg-type]
        at_true=e.at_true,
        skew_s=e.skew_s,
        sent_at=e.sent_at,
        received_at=e.received_at,
        actor=actor,
        device_id=e.device_id,
        n=e.n,
        group_id=str(e.group_id) if e.group_id else None,
        body=e.body,
    )


@transaction.atomic
def import_job(member: Member, data: bytes, file_name: str, *, now: int) -> Job:
    """Take a document in, whole or not at all.

    Raises Refused naming what stands where and what was expected, NotPermitted.
    """
    if not member.may_write:
        raise NotPermitted("A viewer can look, not import.")
    doc = _read(data, file_name, now)
    shop = hold_shop(member.shop_id)
    known = Job.objects.filter(pk=_uuid(doc.id, "id")).select_related("shop", "asset", "place").first()
    if known is not None:
        if known.shop_id == shop.pk and _as_told(known, doc):
            return known
        where = "in this shop, and it has gone on since" if known.shop_id == shop.pk else "in another shop"
        raise Refused.field("id", doc.id, "a job not here yet", f"{file_name}: this job is already {where}.")
    _check_overrules(member, doc)
    job = _store(member, shop, doc, file_name)
    projection.project(job, now=now)
    reflow(shop, now)
    return job


def _as_told(job: Job, doc: JobDocument) -> bool:
    """Whether a job still stands as a document has it; one from before has no step lists to compare."""
    now = export_job(job)
    if not doc.step_lists:
        now = replace(now, step_lists=())
    return canonical(now) == canonical(doc)


def _read(data: bytes, file_name: str, now: int) -> JobDocument:
    try:
        plain = read_json(data)
        doc = from_plain(JobDocument, plain)
        _check(doc)
        _check_times(doc, now)
    except CoreError as refusal:
        if refusal.field == "JSON":
            told = f"{file_name}: not JSON in UTF-8. {refusal.given}"
            raise Refused.field("file", refusal.given, "a job exported as JSON", told) from None
        stands = "nothing" if refusal.given is None else repr(str(refusal.given)[:80])
        raise Refused.field(
            refusal.field,
            refusal.given,
            refusal.expected,
            f"{file_name}, {refusal.field}: {stands} stands there, expected "
            f"{refusal.expected}. Nothing was imported.",
        ) from None
    return doc


def _check(doc: JobDocument) -> None:
    """Hashes, references and bodies.  Raises CoreError or Refused."""
    for name, most in MOST.items():
        given = len(getattr(doc, name))
        if given > most:
            raise Refused.field(name, given, f"at most {most}")
    if not doc.facts:
        raise Refused.field("facts", 0, "what the job is: at least one version of its facts")
    for name in ("facts", "entries", "places"):
        ids = [x.id for x in getattr(doc, name)]
        twice = (
            next((i for i, x in enumerate(ids) if x in ids[:i]), None) if len(set(ids)) < len(ids) else None
        )
        if twice is not None:
            raise Refused.field(f"{name}[{twice}].id", ids[twice], "each id once")
    places = {p.id for p in doc.places}
    if doc.place_id not in places:
        raise Refused.field("place_id", doc.place_id, "one of the document's places")
    for i, f in enumerate(doc.facts):
        plain = to_plain(f)
        plain.pop("id")
        if content_id(plain) != f.id:
            raise Refused.field(f"facts[{i}].id", f.id, "the hash of its content: it was changed by hand")
        try:
            check_facts(f)
        except CoreError as refusal:
            raise Refused.field(f"facts[{i}].{refusal.field}", refusal.given, refusal.expected) from None
        for p in f.parts:
            if p.place_id not in places:
                raise Refused.field(f"facts[{i}].parts", p.place_id, "one of the document's places")
    bare = {f.id for f in doc.facts if not f.steps}
    for i, x in enumerate(doc.step_lists):
        if x.facts_id not in bare or x.facts_id in {y.facts_id for y in doc.step_lists[:i]}:
            raise Refused.field(f"step_lists[{i}].facts_id", x.facts_id, "facts without lists, each once")
    for i, e in enumerate(doc.entries):
        _uuid(e.id, f"entries[{i}].id")
        if e.job_id not in (None, doc.id):
            raise Refused.field(f"entries[{i}].job_id", e.job_id, "this job, or none")
        try:
            parse_body(e.kind, e.body)
            if e.kind == "moved" and e.body["place_id"] not in places:
                raise Underspecified("body.place_id", e.body["place_id"], "one of the document's places")
        except CoreError as refusal:
            raise Refused.field(f"entries[{i}].{refusal.field}", refusal.given, refusal.expected) from None
    for i, r in enumerate(doc.readings):
        ok = r.place_id in places and -60 <= r.air_degc <= 60 and 0 < r.rh_frac <= 1
        if not ok:
            raise Refused.field(
                f"readings[{i}]", f"{r.air_degc:g} °C, {r.rh_frac:g}", "-60 to 60 °C, humidity above 0 to 1"
            )


def _check_times(doc: JobDocument, now: int) -> None:
    """A record tells what has been: no time in it lies ahead, and none before there were clocks."""
    told = {"created_at": doc.created_at}
    for i, e in enumerate(doc.entries):
        for name in ("at_true", "received_at"):
            told[f"entries[{i}].{name}"] = getattr(e, name)
        for name in ("at", "sent_at"):  # a device's own clock may be years off
            if not 0 <= getattr(e, name) <= FAR_AT:
                raise Refused.field(f"entries[{i}].{name}", getattr(e, name), "0 to 2^40 s since 1970")
        if abs(e.skew_s) > FAR_AT:
            raise Refused.field(f"entries[{i}].skew_s", e.skew_s, "how far off the clock was, up to 2^40 s")
        if not 0 <= e.n <= MOST_N or not 1 <= len(e.device_id) <= 64 or not 0 <= e.v <= 1000:
            raise Refused.field(f"entries[{i}].n", e.n, "a count of its device, 0 to 2^53")
        if e.group_id is not None:
            _uuid(e.group_id, f"entries[{i}].group_id")
    for i, p in enumerate(doc.plans):
        told[f"plans[{i}].made_at"] = p.made_at
    for where, at in told.items():
        if not 0 <= at <= now + DAY_S:
            raise Refused.field(where, at, "a time that has come, in seconds since 1970")
    for i, r in enumerate(doc.readings):
        if not 0 <= r.at <= now + FORECAST_S:
            raise Refused.field(f"readings[{i}].at", r.at, "a time up to a forecast's, in seconds since 1970")
    dates = {name: getattr(doc, name) for name in ("due_at", "ready_at", "slot_at")}
    for name, at in {**dates, **{f"parts_from.{k}": v for k, v in doc.parts_from.items()}}.items():
        if at is not None and not 0 <= at <= now + FAR_S:
            raise Refused.field(name, at, "a time within twenty years, in seconds since 1970")


def _check_overrules(member: Member, doc: JobDocument) -> None:
    """What only an owner may say is not said by a file.  Raises NotPermitted."""
    says = any(f.overrules for f in doc.facts) or any(e.kind in OWNER_KINDS for e in doc.entries)
    if says and not member.is_owner:
        raise NotPermitted("This job holds stops an owner has overridden: the owner has to import it.")


def _uuid(text: str, where: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise Refused.field(where, text, "an id") from None


def _store(member: Member, shop: Shop, doc: JobDocument, file_name: str) -> Job:
    for p in doc.places:
        row = Place.objects.filter(pk=_uuid(p.id, "places.id")).first()
        if row is not None and row.shop_id != shop.pk:
            raise Refused.field("places", p.name, "places not in another shop here")
        if row is None:
            taken = Place.objects.filter(shop=shop, name=p.name).exists()
            name = f"{p.name} (imported)"[:60] if taken else p.name
            Place.objects.create(id=p.id, shop=shop, name=name, has_probe=p.has_probe, outdoors=p.outdoors)
    held = LogEntry.objects.filter(shop=shop, entry_id__in=[e.id for e in doc.entries]).count()
    if held:
        raise Refused.field("entries", held, "entries not in this shop's log yet")
    asset, _ = Asset.objects.get_or_create(
        id=_uuid(doc.asset.id, "asset.id"),
        defaults={
            "shop": shop,
            "name": doc.asset.name[:120],
            "kind": doc.asset.kind,
            "mark": doc.asset.mark[:60],
            "paint_code": doc.asset.paint_code[:60],
        },
    )
    if asset.shop_id != shop.pk:
        raise Refused.field("asset", doc.asset.name, "an object not in another shop here")
    job = Job.objects.create(
        id=doc.id,
        shop=shop,
        asset=asset,
        place_id=doc.place_id,
        title=doc.title[:120],
        customer=doc.customer[:60],
        created_at=doc.created_at,
        due_at=doc.due_at,
        ready_at=doc.ready_at,
        slot_at=doc.slot_at,
        slot_for=doc.slot_for,
        parts_from=doc.parts_from,
    )
    FactsDoc.objects.bulk_create(
        FactsDoc(job=job, facts_id=f.id, version=f.version, doc=to_plain(f)) for f in doc.facts
    )
    told = {x.facts_id for x in doc.step_lists}
    StepListDoc.objects.bulk_create(
        StepListDoc(job=job, facts_id=x.facts_id, doc=to_plain(x.steps)) for x in doc.step_lists
    )
    freeze_step_lists(job, [f for f in doc.facts if f.id not in told])
    PlanDoc.objects.bulk_create(
        PlanDoc(job=job, plan_id=p.plan.id, log_seq=p.log_seq, doc=to_plain(p.plan), made_at=p.made_at)
        for p in doc.plans
    )
    _store_entries(member, shop, job, doc)
    for i, photo in enumerate(doc.photos):
        try:
            content = base64.b64decode(photo.jpeg_base64, validate=True)
        except ValueError:
            raise Refused.field(f"photos[{i}].jpeg_base64", photo.jpeg_base64[:20], "base64") from None
        keep_photo(shop, photo.photo_id, content, f"photos[{i}]", now=doc.created_at)
    ClimateReading.objects.bulk_create((ClimateReading(**to_plain(r)) for r in doc.readings), batch_size=2000)
    return job


def _store_entries(member: Member, shop: Shop, job: Job, doc: JobDocument) -> None:
    rows = []
    for e in doc.entries:
        shop.entry_seq += 1
        target = e.body.get("target_id") if e.kind == "strike" else None
        rows.append(
            LogEntry(
                shop=shop,
                entry_id=e.id,
                seq=shop.entry_seq,
                job=job if e.job_id else None,
                kind=e.kind,
                v=e.v,
                at=e.at,
                at_from=e.at_from,
                at_true=e.at_true,
                skew_s=e.skew_s,
                sent_at=e.sent_at,
                received_at=e.received_at,
                # A file can name anybody: who takes it in answers for it, the name stays as what it says.
                actor_id=member.user_id,
                signed_as=e.actor[:150],
                device_id=e.device_id,
                n=e.n,
                group_id=e.group_id,
                batch_ids=sorted(batch_ids_of(e.body)),
                target_id=target,
                body=e.body,
            )
        )
    LogEntry.objects.bulk_create(rows)
    shop.save(update_fields=["entry_seq"])


def job_schema() -> dict[str, Any]:
    """The JSON Schema of an exported job."""
    schema: dict[str, Any] = TypeAdapter(JobDocument).json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}


def entries_csv(job: Job) -> str:
    """The log of a job as a table, one line an entry, times in UTC and as epoch seconds."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["at_utc", "at_true_s", "kind", "who", "device", "entry_id", "body_json"])
    for e in entries_of_job(job):
        stamp = _utc(e.at_true)
        told = [_cell(e.told_by), _cell(e.device_id), e.entry_id, canonical(e.body)]
        writer.writerow([stamp, e.at_true, e.kind, *told])
    return out.getvalue()


def _utc(at: int) -> str:
    return dt.datetime.fromtimestamp(at, dt.UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _cell(text: str) -> str:
    """A table program must not take a name for a formula."""
    return f"'{text}" if text[:1] in "=+-@\t\r" else text
