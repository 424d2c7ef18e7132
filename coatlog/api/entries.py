"""Entries of the log, as devices send them."""

from __future__ import annotations

import dataclasses
from typing import Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from coatlog.errors import Stopped
from coatlog.logbook.services import Draft
from coatlog.run import services

from .guard import member_of

router = Router()
MAX_ENTRIES = 200


class EntryIn(Schema):
    """One entry as a device sends it.  `body` is checked by its kind."""

    id: UUID
    job_id: UUID | None = None
    kind: str = Field(max_length=40)
    v: int = Field(default=1, ge=1, le=1000)
    at: int = Field(ge=0, le=2**40)
    at_from: str = Field(default="tap", pattern="^(tap|typed|import)$")
    device_id: str = Field(min_length=1, max_length=64)
    n: int = Field(ge=0, le=2**53)
    group_id: UUID | None = None
    body: dict[str, Any]


class EntriesIn(Schema):
    """`by`: whose taps these are, where the device knows; they go in under no other name."""

    sent_at: int = Field(ge=0, le=2**40)
    by: str | None = Field(default=None, max_length=150)
    entries: list[EntryIn] = Field(min_length=1, max_length=MAX_ENTRIES)


class OutcomeOut(Schema):
    """What became of one entry; `with_another`: refused for what is wrong with another of its group."""

    id: UUID
    result: str
    why: str = ""
    field: str = ""
    with_another: bool = False
    seq: int | None = None
    stored: dict[str, Any] | None = None


@router.post("/entries", response=list[OutcomeOut], operation_id="post_entries")
def post_entries(request: HttpRequest, data: EntriesIn) -> list[OutcomeOut]:
    member = member_of(request)
    name = member.user.get_username()
    if data.by is not None and data.by != name:
        raise Stopped(
            f"These entries are {data.by}'s and {name} is signed in. They wait until {data.by} signs in."
        )
    drafts = [Draft(**e.dict()) for e in data.entries]
    outcomes = services.post_entries(member, drafts, sent_at=data.sent_at)
    return [OutcomeOut(**dataclasses.asdict(o)) for o in outcomes]
