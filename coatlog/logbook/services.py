"""Writing to the log, and reading it back as the core's entries."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import Q

from coatlog.core.codec import canonical
from coatlog.core.errors import CoreError, Underspecified
from coatlog.core.run.entries import CoatStarted, Entry, FactsAdopted, read_body
from coatlog.jobs.frozen_facts import facts_of
from coatlog.jobs.models import Job
from coatlog.shop.lock import hold_shop
from coatlog.shop.models import Member, Place, Shop

from .models import LogEntry

__all__ = ["OWNER_KINDS", "Draft", "Outcome", "batch_ids_of", "entries_of_job", "store", "to_core"]

SKEW_IGNORED_S = 5
EARLIEST = 631_152_000  # 1990: what is said to be older was never meant
OWNER_KINDS = ("overruled",)


@dataclass(frozen=True, slots=True, kw_only=True)
class Draft:
    """An entry as a client sends it."""

    id: UUID
    job_id: UUID | None
    kind: str
    v: int
    at: int
    at_from: str
    device_id: str
    n: int
    group_id: UUID | None
    body: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What became of one entry: stored, already, differs or refused, and why.

    `with_another`: what is wrong is in another entry of its group.
    """

    id: UUID
    result: str
    why: str = ""
    field: str = ""
    with_another: bool = False
    seq: int | None = None
    stored: dict[str, Any] | None = None


class _GroupRefused(Exception):
    pass


def store(
    member: Member,
    drafts: Sequence[Draft],
    *,
    sent_at: int,
    now: int,
    after: Callable[[Shop, set[UUID]], None],
) -> list[Outcome]:
    """Store entries; each group whole or not at all, a refused one does not hold up the others.

    `after` is called in the same transaction with the jobs the entries concern, so that a
    projection never lags behind the log.  Sending the same entries again changes nothing.
    """
    outcomes: list[Outcome] = []
    touched: set[UUID] = set()
    with transaction.atomic():
        # The counter row is locked until commit: commit order is seq order.
        shop = hold_shop(member.shop_id)
        for group in _groups(drafts):
            outcomes += _store_group(member, shop, group, sent_at, now, touched)
        shop.save(update_fields=["entry_seq"])
        if touched:
            after(shop, touched)
    return outcomes


def _groups(drafts: Sequence[Draft]) -> list[list[Draft]]:
    groups: dict[object, list[Draft]] = {}
    for d in drafts:
        groups.setdefault(d.group_id or d.id, []).append(d)
    return list(groups.values())


def _store_group(
    member: Member, shop: Shop, group: list[Draft], sent_at: int, now: int, touched: set[UUID]
) -> list[Outcome]:
    outcomes: list[Outcome] = []
    seq_before = shop.entry_seq
    try:
        with transaction.atomic():
            for draft in group:
                outcome = _store_one(member, shop, draft, sent_at, now)
                outcomes.append(outcome)
                if outcome.result in ("refused", "differs"):
                    raise _GroupRefused
    except _GroupRefused:
        shop.entry_seq = seq_before
        culprit = outcomes[-1]
        whole = "not stored: it belongs together with an entry that was not taken"
        return [
            culprit
            if d.id == culprit.id
            else Outcome(id=d.id, result="refused", why=whole, with_another=True)
            for d in group
        ]
    for draft, outcome in zip(group, outcomes, strict=True):
        if outcome.result == "stored":
            touched |= _jobs_concerned(shop, draft)
    return outcomes


def _store_one(member: Member, shop: Shop, d: Draft, sent_at: int, now: int) -> Outcome:
    seen = LogEntry.objects.filter(shop=shop, entry_id=d.id).first()
    if seen is not None:
        same = (seen.kind, seen.job_id, seen.v) == (d.kind, d.job_id, d.v)
        if same and canonical(seen.body) == canonical(d.body):
            return Outcome(id=d.id, result="already", seq=seen.seq)
        stored = {"kind": seen.kind, "at": seen.at, "body": seen.body}
        return Outcome(
            id=d.id, result="differs", why="another entry has this id", stored=stored, seq=seen.seq
        )
    if not member.may_write:
        return Outcome(id=d.id, result="refused", why="A viewer can look, not write.")
    if d.kind in OWNER_KINDS and not member.is_owner:
        return Outcome(id=d.id, result="refused", why="Only the owner can override a stop.")
    if d.kind == "strike" and not member.is_owner and _struck_in_the_end(shop, d) in OWNER_KINDS:
        return Outcome(
            id=d.id, result="refused", why="Only the owner can take back what the owner has overridden."
        )
    try:
        body = read_body(d.kind, d.body)
        _check_known(shop, d, body)
    except CoreError as refusal:
        text = f"{refusal.field}: {refusal.given!r} given, expected {refusal.expected}"
        return Outcome(id=d.id, result="refused", why=text[:400], field=refusal.field)
    if d.at_from != "tap" and d.at > now + SKEW_IGNORED_S:
        text = f"at: {d.at} given, expected a time that has come"
        return Outcome(id=d.id, result="refused", why=text, field="at")
    skew = now - sent_at
    shifts = d.at_from == "tap" and abs(skew) > SKEW_IGNORED_S
    # A device whose clock is a second ahead: nothing is true later than it was received.
    at_true = min(d.at + skew if shifts else d.at, now)
    if at_true < EARLIEST:
        text = f"at: {d.at} given at {sent_at} of the device, expected a time after 1990"
        return Outcome(id=d.id, result="refused", why=text, field="at")
    shop.entry_seq += 1
    LogEntry.objects.create(
        shop=shop,
        entry_id=d.id,
        seq=shop.entry_seq,
        job_id=d.job_id,
        kind=d.kind,
        v=d.v,
        at=d.at,
        at_from=d.at_from,
        at_true=at_true,
        skew_s=skew,
        sent_at=sent_at,
        received_at=now,
        actor_id=member.user_id,
        device_id=d.device_id,
        n=d.n,
        group_id=d.group_id,
        batch_ids=sorted(batch_ids_of(d.body)),
        target_id=getattr(body, "target_id", None),
        body=d.body,
    )
    return Outcome(id=d.id, result="stored", seq=shop.entry_seq)


def _check_known(shop: Shop, d: Draft, body: Any) -> None:
    """Ids of another shop are as good as unknown.  Raises CoreError."""
    job = None
    if d.job_id is not None:
        job = Job.objects.filter(shop=shop, pk=d.job_id).first()
        if job is None:
            raise Underspecified("job_id", str(d.job_id), "a job of this shop")
        _check_of_job(job, body)
    place_id = getattr(body, "place_id", None)
    if place_id is not None and not _is_place(shop, place_id):
        raise Underspecified("body.place_id", place_id, "a place of this shop")
    target = getattr(body, "target_id", None)
    if target is not None and not _is_uuid(target):
        raise Underspecified("body.target_id", target, "the id of an entry")


def _check_of_job(job: Job, body: Any) -> None:
    """Parts, layers and coats an entry names are those of its job, in any version.  Raises CoreError."""
    versions = facts_of(job)
    parts = {p.id for f in versions.values() for p in f.parts}
    named = [*getattr(body, "part_ids", ())]
    if getattr(body, "part_id", None) is not None:
        named.append(body.part_id)
    if isinstance(body, CoatStarted):
        layers = {(x.part_id, x.id) for f in versions.values() for x in f.layers}
        for i, ref in enumerate(body.coats):
            if (ref.part_id, ref.layer_id) not in layers:
                raise Underspecified(f"body.coats[{i}]", ref.layer_id, "a part and a layer of this job")
    if isinstance(body, FactsAdopted) and body.facts_id not in versions:
        raise Underspecified("body.facts_id", body.facts_id, "facts of this job")
    for part_id in named:
        if part_id not in parts:
            raise Underspecified("body.part_id", part_id, "a part of this job")
    coats = [*getattr(body, "coat_ids", ())]
    if getattr(body, "coat_id", None) is not None:
        coats.append(body.coat_id)
    started = LogEntry.objects.filter(job=job, kind="coat_started")
    for coat_id in coats:
        if not started.filter(body__coats__contains=[{"coat_id": coat_id}]).exists():
            raise Underspecified("body.coat_id", coat_id, "a coat that was started on this job")


def _is_uuid(text: str) -> bool:
    try:
        UUID(text)
    except ValueError:
        return False
    return True


def _is_place(shop: Shop, place_id: str) -> bool:
    return _is_uuid(place_id) and Place.objects.filter(shop=shop, pk=UUID(place_id)).exists()


def batch_ids_of(body: dict[str, Any]) -> set[str]:
    """Batches an entry's body speaks of."""
    ids = {body["batch_id"]} if isinstance(body.get("batch_id"), str) else set()
    ids |= {b for b in body.get("batch_ids", ()) if isinstance(b, str)}
    ids |= {d["batch_id"] for d in body.get("draws", ()) if isinstance(d, dict) and "batch_id" in d}
    return ids


def _struck_in_the_end(shop: Shop, d: Draft) -> str:
    """The kind of what a strike takes back, or gives back where it strikes a strike."""
    target_id, seen = d.body.get("target_id"), set()
    while isinstance(target_id, str) and target_id not in seen and _is_uuid(target_id):
        seen.add(target_id)
        target = LogEntry.objects.filter(shop=shop, entry_id=target_id).first()
        if target is None:
            return ""
        if target.kind != "strike":
            return target.kind
        target_id = target.body.get("target_id")
    return ""


def _jobs_concerned(shop: Shop, d: Draft) -> set[UUID]:
    """The entry's own job, jobs that draw from its batches, and those of all a strike leads to.

    A strike of a strike gives back what that one took, so it concerns whom the entry at the end concerns.
    """
    jobs, batches = {d.job_id}, batch_ids_of(d.body)
    target_id, seen = d.body.get("target_id") if d.kind == "strike" else None, set()
    while target_id is not None and target_id not in seen:
        seen.add(target_id)
        target = LogEntry.objects.filter(shop=shop, entry_id=target_id).first()
        if target is None:
            break
        jobs.add(target.job_id)
        batches |= batch_ids_of(target.body)
        target_id = target.body.get("target_id") if target.kind == "strike" else None
    if batches:
        match = Q()
        for b in batches:
            match |= Q(batch_ids__contains=[b])
        jobs |= set(
            LogEntry.objects.filter(match, shop=shop, job__isnull=False).values_list("job_id", flat=True)
        )
    return {j for j in jobs if j is not None}


def entries_of_job(job: Job) -> list[LogEntry]:
    """The job's own entries, those of batches it draws from, and strikes on any of them."""
    own = list(LogEntry.objects.filter(job=job).select_related("actor").order_by("seq"))
    batches = {b for e in own for b in e.batch_ids}
    found = {e.entry_id: e for e in own}
    if batches:
        match = Q()
        for b in batches:
            match |= Q(batch_ids__contains=[b])
        for e in LogEntry.objects.filter(match, shop_id=job.shop_id).exclude(job=job):
            if e.kind in ("pour", "batch_mixed", "batch_closed"):
                found[e.entry_id] = e
    frontier: Iterable[UUID] = list(found)
    while frontier:
        strikes = LogEntry.objects.filter(shop_id=job.shop_id, kind="strike", target_id__in=list(frontier))
        fresh = [e for e in strikes if e.entry_id not in found]
        found |= {e.entry_id: e for e in fresh}
        frontier = [e.entry_id for e in fresh]
    return sorted(found.values(), key=lambda e: e.seq)


def to_core(row: LogEntry) -> Entry:
    """A row as the core's entry."""
    return Entry(
        id=str(row.entry_id),
        job_id=str(row.job_id) if row.job_id else None,
        kind=row.kind,
        v=row.v,
        at=row.at,
        at_from=row.at_from,  # type: ignore[arg-type]
        at_true=row.at_true,
        actor_id=str(row.actor_id),
        device_id=row.device_id,
        n=row.n,
        seq=row.seq,
        group_id=str(row.group_id) if row.group_id else None,
        body=row.body,
    )
