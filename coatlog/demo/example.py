"""An invented job to look at in a shop of one's own: brushed enamel, which no shop is asked about first."""

from __future__ import annotations

from django.db import transaction

from coatlog.errors import Refused
from coatlog.jobs.models import Job
from coatlog.jobs.services import LayerDraft, PartDraft, create_job
from coatlog.run.models import JobProjection
from coatlog.shelf.services import latest_sheets
from coatlog.shop.models import Member, Place
from coatlog.shop.preferences import preferences_of

from .example_names import NAMES
from .past import DAY, HOUR, Past

__all__ = ["load_example"]

ENAMEL = "alkyd-enamel"
AREAS_M2 = (1.6, 1.6, 0.9)


@transaction.atomic
def load_example(member: Member, now: int) -> Job:
    """A trailer's boards between their two coats, marked as an example.  Raises Refused, NotPermitted."""
    rows = JobProjection.objects.filter(job__shop=member.shop, job__example=True)
    if rows.exclude(state__archived=True).exists():
        raise Refused("The example is among your jobs already.")
    place = Place.objects.filter(shop=member.shop, retired=False).first()
    sheet = next((s for s in latest_sheets(member.shop) if s.material_id == ENAMEL), None)
    if place is None or sheet is None:
        raise Refused("The example needs a bay, and brushed enamel among the materials.")
    title, asset, parts = NAMES[preferences_of(member).language]
    job, facts = create_job(
        member,
        title=title,
        asset_name=asset,
        asset_kind="road",
        place_id=place.pk,
        parts=[
            PartDraft(
                name=name,
                area_m2=area_m2,
                substrate="sound_paint",
                must_survive=("sun", "rain"),
                features=("none",),
            )
            for name, area_m2 in zip(parts, AREAS_M2, strict=True)
        ],
        layers=[LayerDraft(sheet_id=sheet.id, coats=2, target_um=70.0)],
        now=now - round(2 * DAY * 60),
    )
    Job.objects.filter(pk=job.pk).update(example=True)
    past = Past(job, facts, now)
    past.adopt(2 * DAY)
    past.prepare(28 * HOUR, grit="P240")
    for i, name in enumerate(parts):
        past.coat(name, sheet, 1, 25 * HOUR - 30 * i)
    past.post(member, plan=True)
    return job
