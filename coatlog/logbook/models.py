"""The log and the climate readings: both append-only, guarded by triggers."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import Q

from coatlog.jobs.models import Job
from coatlog.shop.models import Place, Shop


class LogEntry(models.Model):
    """One fact.  `seq` rises in commit order within a shop; `at_true` is fixed at insert."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="entries")
    entry_id = models.UUIDField()
    seq = models.BigIntegerField()
    job = models.ForeignKey(Job, null=True, on_delete=models.PROTECT, related_name="entries")
    kind = models.CharField(max_length=40)
    v = models.PositiveSmallIntegerField(default=1)
    at = models.BigIntegerField()
    at_from = models.CharField(max_length=8)
    at_true = models.BigIntegerField()
    skew_s = models.BigIntegerField()
    sent_at = models.BigIntegerField()
    received_at = models.BigIntegerField()
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    signed_as = models.CharField(max_length=150, default="", blank=True)  # who, where it was imported
    device_id = models.CharField(max_length=64)
    n = models.BigIntegerField()
    group_id = models.UUIDField(null=True)
    batch_ids = models.JSONField(default=list)
    target_id = models.UUIDField(null=True)
    body = models.JSONField()

    @property
    def told_by(self) -> str:
        """Who did it; of an imported entry who the file says did, and who took the file in."""
        name = self.actor.get_username()
        if self.signed_as in ("", name):
            return name
        return f"{self.signed_as}, imported by {name}"

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shop", "seq"], name="entry_seq_once"),
            models.UniqueConstraint(fields=["shop", "entry_id"], name="entry_id_once"),
            models.CheckConstraint(condition=Q(at_from__in=["tap", "typed", "import"]), name="entry_at_from"),
        ]
        indexes = [
            models.Index(fields=["job", "seq"]),
            models.Index(fields=["shop", "target_id"]),
            GinIndex(fields=["batch_ids"], opclasses=["jsonb_path_ops"], name="entry_batches"),
        ]


class WeatherImport(models.Model):
    """A weather file taken in for a place."""

    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="imports")
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    file_name = models.CharField(max_length=200)
    format = models.CharField(max_length=12)
    rows = models.PositiveIntegerField()
    from_at = models.BigIntegerField()
    to_at = models.BigIntegerField()
    at = models.BigIntegerField()
    notes = models.JSONField(default=list)


class ClimateReading(models.Model):
    """Air at a place, by probe or import.  Hand readings are entries of the log."""

    place = models.ForeignKey(Place, on_delete=models.PROTECT, related_name="readings")
    at = models.BigIntegerField()
    air_degc = models.FloatField()
    surface_degc = models.FloatField(null=True)
    rh_frac = models.FloatField()
    wind_m_s = models.FloatField(null=True)
    rain_mm = models.FloatField(null=True)
    source = models.CharField(max_length=10)
    weather_import = models.ForeignKey(WeatherImport, null=True, on_delete=models.PROTECT)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(rh_frac__gt=0, rh_frac__lte=1), name="reading_rh_frac"),
            models.CheckConstraint(condition=Q(air_degc__gte=-60, air_degc__lte=60), name="reading_air_degc"),
        ]
        indexes = [models.Index(fields=["place", "at"])]
