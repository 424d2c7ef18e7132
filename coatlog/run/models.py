"""Plans as stored documents, and one projection row a job, rebuildable from the log."""

from __future__ import annotations

from django.db import models
from django.db.models import Q

from coatlog.jobs.models import Job
from coatlog.shop.models import Shop

DUE_AHEAD_S = 7 * 86400


class PlanDoc(models.Model):
    """A solved plan.  Adopted by an entry, never computed inside a replay."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="plans")
    plan_id = models.CharField(max_length=64)
    log_seq = models.BigIntegerField()
    doc = models.JSONField()
    made_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "plan_id"], name="plan_once")]


class ShopPlan(models.Model):
    """The order of work of a whole shop, as planned last: what each job's own plan cannot say of the others.

    `order`: keys of tasks.  `wishes`: what was asked of the plan.  It can be lost without loss of record:
    the plans the jobs adopted say what each was told.
    """

    shop = models.OneToOneField(Shop, on_delete=models.CASCADE, primary_key=True, related_name="plan")
    order = models.JSONField(default=list)
    wishes = models.JSONField(default=dict)
    made_at = models.BigIntegerField()


class JobProjection(models.Model):
    """The state of a job as last replayed, written in the entry's own transaction."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, primary_key=True, related_name="projection")
    state = models.JSONField()
    plan = models.JSONField(null=True)
    through_seq = models.BigIntegerField()
    climate_id = models.CharField(max_length=64)
    core_version = models.CharField(max_length=12)
    next_change_at = models.BigIntegerField(null=True)
    latest_start_at = models.BigIntegerField(null=True)
    cured_at = models.BigIntegerField(null=True)
    next_due_at = models.BigIntegerField(null=True)
    materials = models.TextField(default="", blank=True)

    class Meta:
        indexes = [models.Index(fields=["cured_at", "latest_start_at"])]

    @staticmethod
    def live_q(now: int, prefix: str = "") -> Q:
        """Jobs with something ahead of them at `now`."""
        return Q(**{f"{prefix}cured_at__isnull": True}) | Q(**{f"{prefix}cured_at__gt": now})

    @staticmethod
    def shown_now_q(now: int, prefix: str = "") -> Q:
        """Jobs Now speaks of: live ones, and those with something due in service soon."""
        due = Q(**{f"{prefix}next_due_at__lte": now + DUE_AHEAD_S})
        return JobProjection.live_q(now, prefix) | due

    def is_live(self, now: int) -> bool:
        return self.cured_at is None or self.cured_at > now
