"""Entries of a made-up past, collected and posted in one go.  All times are minutes before loading."""

from __future__ import annotations

import datetime as dt
import uuid
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from coatlog.core.mix import cup_for_total
from coatlog.core.run.amounts import coat_ml
from coatlog.core.run.facts import Facts
from coatlog.core.run.step_list import before_coat, job_work
from coatlog.core.sheet import Sheet
from coatlog.jobs.models import Job
from coatlog.jobs.photos import take_photo
from coatlog.logbook.services import Draft
from coatlog.run import services
from coatlog.run.planning import plan_shop
from coatlog.shop.models import Member

__all__ = ["DAY", "HOUR", "Past"]

MINUTE_S = 60
HOUR = 60.0
DAY = 24 * HOUR


def _can(sheet: Sheet, role: str, now: int) -> dict[str, str]:
    """An invented label: the same can for as long as the shop has it open."""
    number = zlib.crc32(f"{sheet.material_id}/{role}".encode())
    good = dt.datetime.fromtimestamp(now, dt.UTC).date() + dt.timedelta(days=120 + number % 400)
    opened = dt.datetime.fromtimestamp(now, dt.UTC).date() - dt.timedelta(days=20 + number % 30)
    return {
        "lot": f"{role[0].upper()}{number % 90000 + 10000}",
        "expires_on": good.isoformat(),
        "opened_on": opened.isoformat(),
    }


@dataclass
class Past:
    """What happened on one job, until now."""

    job: Job
    facts: Facts
    now: int
    drafts: list[Draft] = field(default_factory=list)
    coat_ids: list[str] = field(default_factory=list)

    def add(self, minutes_ago: float, kind: str, **body: Any) -> None:
        self.drafts.append(
            Draft(
                id=uuid.uuid4(),
                job_id=self.job.pk,
                kind=kind,
                v=1,
                at=self.now - round(minutes_ago * MINUTE_S),
                at_from="typed",
                device_id="demo-tablet",
                n=len(self.drafts) + 1,
                group_id=None,
                body=body,
            )
        )

    def adopt(self, minutes_ago: float) -> None:
        self.add(minutes_ago, "facts_adopted", facts_id=self.facts.id, reason="job created")

    @property
    def everything(self) -> list[str]:
        return [p.id for p in self.facts.parts]

    def prepare(self, minutes_ago: float, *, grit: str | None = None) -> None:
        """Everything on the list before the first coat, ticked: abraded then, wiped twenty minutes later."""
        lists = {p: before_coat(works, 0) for p, works in job_work(self.facts).items()}
        first = next(iter(lists.values()))
        keyed = next((k for k, w in enumerate(first) if w.step == "abrade"), len(first))
        if any([w.key for w in works] != [w.key for w in first] for works in lists.values()):
            raise RuntimeError("the parts of a demo job are prepared alike")
        for k, w in enumerate(first):
            at = minutes_ago + 7 * (keyed - k) if k <= keyed else minutes_ago - 20 - 4 * (k - keyed - 1)
            self.add(
                at,
                "step_done",
                part_ids=self.everything,
                step=w.log,
                check_id=w.key,
                grit=grit if k == keyed else None,
            )

    def damage(
        self,
        minutes_ago: float,
        part: str,
        text: str,
        picture: bytes | None = None,
        owner: Member | None = None,
        at: tuple[float, float] = (0.5, 0.5),
    ) -> None:
        """Damage found before work, with a pin on a picture where there is one."""
        body: dict[str, Any] = {
            "part_id": next(p.id for p in self.facts.parts if p.name == part),
            "text": text,
        }
        if picture is not None and owner is not None:
            photo = take_photo(owner, picture, "demo.png", now=self.now)
            body |= {"photo_id": photo.photo_id, "across_frac": at[0], "down_frac": at[1]}
        self.add(minutes_ago, "damage_found", **body)

    def sand(self, minutes_ago: float, *, grit: str) -> None:
        """A coat abraded for the next, and wiped twenty minutes later."""
        self.add(minutes_ago, "step_done", part_ids=self.everything, step="abrade", grit=grit)
        self.add(minutes_ago - 20, "step_done", part_ids=self.everything, step="wipe")

    def coat(
        self,
        names: str | Sequence[str],
        sheet: Sheet,
        n: int,
        started: float,
        batch_id: str | None = None,
        *,
        done: bool = True,
    ) -> list[str]:
        """One tap for the named parts that began `started` minutes ago; answers the coats' ids."""
        wanted = [names] if isinstance(names, str) else list(names)
        parts = [next(p for p in self.facts.parts if p.name == name) for name in wanted]
        layers = [
            next(x for x in self.facts.layers if x.part_id == p.id and x.sheet_id == sheet.id) for p in parts
        ]
        ids = [str(uuid.uuid4()) for _ in parts]
        refs = [
            {"coat_id": c, "part_id": p.id, "layer_id": x.id, "n": n}
            for c, p, x in zip(ids, parts, layers, strict=True)
        ]
        self.coat_ids += ids
        hint = sheet.hint(n)
        self.add(
            started,
            "coat_started",
            coats=refs,
            place_id=parts[0].place_id,
            batch_ids=[batch_id] if batch_id else [],
            facts_id=self.facts.id,
            character=hint.character or None,
            direction=hint.direction or None,
            breathing="air_fed" if sheet.properties.needs_air_fed_mask else None,
        )
        if done:
            takes = sum(self.facts.coat_s(x) for x in layers) / MINUTE_S
            ml = sum(coat_ml(self.facts, x).value for x in layers)
            draws = [{"batch_id": batch_id, "ml": round(ml, 1)}] if batch_id else []
            self.add(started - takes, "coat_done", coat_ids=ids, draws=draws)
        return ids

    def batch(self, sheet: Sheet, total_ml: float, hardener_in: float) -> str:
        """A batch poured component by component, hardener last."""
        batch_id = str(uuid.uuid4())
        cup = cup_for_total(sheet.components, total_ml)
        for i, pour in enumerate(cup.pours):
            at = hardener_in + (len(cup.pours) - 1 - i)
            self.add(
                at,
                "pour",
                batch_id=batch_id,
                sheet_id=sheet.id,
                component=pour.role,
                ml=round(pour.ml, 1),
                scale_g=round(pour.scale_g, 1),
                can=_can(sheet, pour.role, self.now),
            )
        parts = [{"role": p.role, "ml": round(p.ml, 1), "g": round(p.g, 1)} for p in cup.pours]
        two_pack = any(p.role == "hardener" for p in cup.pours)
        at_s = self.now - round(hardener_in * MINUTE_S) if two_pack else None
        self.add(
            hardener_in, "batch_mixed", batch_id=batch_id, sheet_id=sheet.id, parts=parts, hardener_in_at=at_s
        )
        return batch_id

    def service(self, days_ago: float, *, months: float | None = None, text: str = "") -> None:
        life_s = None if months is None else round(months * 30.4375 * 86400)
        self.add(
            days_ago * DAY, "in_service", part_ids=self.everything, claim={"life_s": life_s, "text": text}
        )

    def look(self, days_ago: float, rating: int, note: str = "", care: str | None = None) -> None:
        """A check-up with its rating."""
        self.add(
            days_ago * DAY,
            "inspected",
            part_ids=self.everything,
            ratings=[{"scale_id": "look", "value": rating}],
            note=note,
            care_key=care,
        )

    def clean(self, days_ago: float, care: str) -> None:
        self.add(days_ago * DAY, "cleaned", part_ids=self.everything, care_key=care)

    def post(self, owner: Member, *, plan: bool) -> None:
        """Send it all; with `plan`, plan what is left by the list rules.  Raises RuntimeError."""
        outcomes = services.post_entries(owner, self.drafts, sent_at=self.now)
        refused = [o.why for o in outcomes if o.result != "stored"]
        if refused:
            raise RuntimeError(f"demo entries refused: {refused[:3]}")
        if plan:
            plan_shop(owner, asked_for=self.job, limit_s=0.0)
