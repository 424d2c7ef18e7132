"""The demo shop: an estuary airfield's finishing shop with a load bed in the middle of its run.

Everything is invented.  All times are relative to the moment of loading, so the job is always live.
"""

from __future__ import annotations

import datetime as dt
import uuid
from dataclasses import dataclass, field
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction

from coatlog.core.mix import cup_for_total
from coatlog.core.run.amounts import sheet_solids_frac
from coatlog.core.run.facts import Facts
from coatlog.core.sheet import Sheet
from coatlog.devices.probe import SimulatedProbe
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.logbook.models import ClimateReading
from coatlog.logbook.services import Draft
from coatlog.run import services
from coatlog.shelf.services import load_typical
from coatlog.shop.models import Member, Place, Shop

__all__ = ["PASSWORD", "PEOPLE", "load_estuary"]

PASSWORD = "estuary-demo"
PEOPLE = (("demo", Member.OWNER), ("painter", Member.PAINTER), ("viewer", Member.VIEWER))
PARTS = (
    ("Tailgate", 0.9),
    ("Left side", 1.3),
    ("Right side", 1.3),
    ("Floor", 2.2),
    ("Headboard", 0.8),
)
MINUTE = 60


@dataclass
class _Log:
    """Collects entries of the past and posts them in one go."""

    job: Job
    facts: Facts
    now: int
    drafts: list[Draft] = field(default_factory=list)

    def add(self, minutes_ago: float, kind: str, **body: Any) -> None:
        self.drafts.append(
            Draft(
                id=uuid.uuid4(),
                job_id=self.job.pk,
                kind=kind,
                v=1,
                at=self.now - round(minutes_ago * MINUTE),
                at_from="typed",
                device_id="demo-tablet",
                n=len(self.drafts) + 1,
                group_id=None,
                body=body,
            )
        )

    def coat(
        self, part_name: str, sheet: Sheet, n: int, started: float, batch_id: str, *, done: bool = True
    ) -> None:
        """One coat that began `started` minutes ago and took its time."""
        part = next(p for p in self.facts.parts if p.name == part_name)
        layer = next(x for x in self.facts.layers if x.part_id == part.id and x.sheet_id == sheet.id)
        coat_id = str(uuid.uuid4())
        ref = {"coat_id": coat_id, "part_id": part.id, "layer_id": layer.id, "n": n}
        place = {"place_id": part.place_id, "batch_ids": [batch_id], "facts_id": self.facts.id}
        self.add(started, "coat_started", coats=[ref], **place)
        if not done:
            return
        takes = self.facts.coat_s(layer) / MINUTE
        per_coat = (layer.target_um or 0.0) / layer.coats
        ml = (
            part.area_m2
            * per_coat
            / sheet_solids_frac(sheet)
            / self.facts.methods[layer.method_id].lands_frac
        )
        self.add(
            started - takes,
            "coat_done",
            coat_ids=[coat_id],
            draws=[{"batch_id": batch_id, "ml": round(ml, 1)}],
        )

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
            )
        parts = [{"role": p.role, "ml": round(p.ml, 1), "g": round(p.g, 1)} for p in cup.pours]
        at_s = self.now - round(hardener_in * MINUTE)
        self.add(
            hardener_in, "batch_mixed", batch_id=batch_id, sheet_id=sheet.id, parts=parts, hardener_in_at=at_s
        )
        return batch_id


@transaction.atomic
def load_estuary(now: int) -> Shop:
    """Make the demo shop with its people, places, shelf and job."""
    shop = Shop.objects.create(
        name="Saltmarsh Airfield Finishing",
        is_demo=True,
        opens=dt.time(0, 1),
        closes=dt.time(23, 59),
        default_air_degc=20.0,
    )
    users = get_user_model().objects
    members = []
    for name, role in PEOPLE:
        user = users.create_user(username=name, password=PASSWORD)
        members.append(Member.objects.create(user=user, shop=shop, role=role))
    bay = Place.objects.create(shop=shop, name="Bay 1", has_probe=True)
    Place.objects.create(shop=shop, name="Bay 2", has_probe=True)
    Place.objects.create(shop=shop, name="Yard")
    sheets = {s.material_id: s for s in load_typical(shop, now=now)}
    _probe_history(bay, now)
    owner = Member.objects.select_related("shop", "user").get(pk=members[0].pk)
    _load_bed(owner, bay, sheets["epoxy-primer-2k"], sheets["textured-liner-2k"], now)
    return shop


def _probe_history(place: Place, now: int) -> None:
    probe = SimulatedProbe()
    readings = [probe.read(str(place.pk), now - 900 * i) for i in range(48, -1, -1)]
    ClimateReading.objects.bulk_create(
        [
            ClimateReading(
                place=place,
                at=r.at,
                air_degc=r.air_degc,
                surface_degc=r.surface_degc,
                rh_frac=r.rh_frac,
                source="probe",
            )
            for r in readings
        ]
    )


def _load_bed(owner: Member, bay: Place, epoxy: Sheet, liner: Sheet, now: int) -> None:
    job, facts = create_job(
        owner,
        title="Load bed",
        asset_name="Fire-service pickup",
        asset_kind="road",
        place_id=bay.pk,
        parts=[
            PartDraft(name=n, area_m2=a, substrate="bare_steel", condition="abraded P80") for n, a in PARTS
        ],
        layers=[
            LayerDraft(sheet_id=epoxy.id, coats=2, target_um=100.0),
            LayerDraft(sheet_id=liner.id, coats=2, target_um=700.0),
        ],
        now=now - 10 * 3600,
    )
    log = _Log(job, facts, now)
    everything = [p.id for p in facts.parts]
    log.add(560, "facts_adopted", facts_id=facts.id, reason="job created")
    log.add(540, "step_done", part_ids=everything, step="abrade", grit="P80")
    log.add(520, "step_done", part_ids=everything, step="wipe")
    primer = log.batch(epoxy, 2000.0, 500)
    order = ("Tailgate", "Headboard", "Left side", "Right side", "Floor")
    for i, name in enumerate(order):
        log.coat(name, epoxy, 1, 495 - 6 * i, primer)
        log.coat(name, epoxy, 2, 408 - 6 * i, primer)
    log.add(370, "batch_closed", batch_id=primer, left_ml=120.0, why="used")
    a = log.batch(liner, 1340.0, 145)
    log.coat("Headboard", liner, 1, 140, a)
    log.coat("Left side", liner, 1, 134, a)
    b = log.batch(liner, 2260.0, 86)
    log.coat("Right side", liner, 1, 80, b)
    log.coat("Floor", liner, 1, 47, b)
    log.add(30, "batch_closed", batch_id=b, left_ml=150.0, why="died")
    log.add(96, "batch_closed", batch_id=a, left_ml=70.0, why="died")
    c = log.batch(liner, 1400.0, 13)
    log.coat("Headboard", liner, 2, 9, c)
    outcomes = services.post_entries(owner, log.drafts, sent_at=now)
    refused = [o.why for o in outcomes if o.result != "stored"]
    if refused:
        raise RuntimeError(f"demo entries refused: {refused[:3]}")
    services.plan_job(owner, job)
