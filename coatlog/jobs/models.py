"""Assets, jobs and the frozen facts of a job."""

from __future__ import annotations

import uuid

from django.db import models
from django.db.models import Q

from coatlog.shop.models import Place, Shop


class Asset(models.Model):
    """A vehicle, vessel or aircraft."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="assets")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=12, default="road")
    mark = models.CharField(max_length=60, default="", blank=True)  # plate, hull or tail number
    paint_code = models.CharField(max_length=60, default="", blank=True)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(kind__in=["road", "vessel", "aircraft"]), name="asset_kind")
        ]


class Job(models.Model):
    """A piece of work on an asset.  What it is stands in its facts, what happened in the log."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="jobs")
    asset = models.ForeignKey(Asset, on_delete=models.PROTECT, related_name="jobs")
    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="jobs")
    title = models.CharField(max_length=120)
    customer = models.CharField(max_length=60, default="", blank=True)
    created_at = models.BigIntegerField()
    due_at = models.BigIntegerField(null=True, blank=True)  # must be done by then
    ready_at = models.BigIntegerField(null=True, blank=True)  # its parts are there from then on
    parts_from = models.JSONField(default=dict, blank=True)  # a part that is there later, by its id
    slot_at = models.BigIntegerField(null=True, blank=True)  # launched or handed over at that hour
    slot_for = models.CharField(max_length=10, default="", blank=True)  # what for: see SlotFor
    example = models.BooleanField(default=False)  # invented, to look at: counts in no record


class FactsDoc(models.Model):
    """One frozen version of a job's facts."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="facts")
    facts_id = models.CharField(max_length=64)
    version = models.PositiveIntegerField()
    doc = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "facts_id"], name="facts_once")]
        ordering = ["version"]


class Photo(models.Model):
    """A picture, named by the hash of its content."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="photos")
    photo_id = models.CharField(max_length=64)
    content = models.BinaryField()
    width_px = models.PositiveIntegerField()
    height_px = models.PositiveIntegerField()
    created_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "photo_id"], name="photo_once")]


class StepListDoc(models.Model):
    """The step lists of facts from before facts carried any, as they stood when that changed."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="step_lists")
    facts_id = models.CharField(max_length=64)
    doc = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "facts_id"], name="step_lists_once")]
