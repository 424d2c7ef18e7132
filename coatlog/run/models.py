"""Plans as stored documents, and one projection row a job, rebuildable from the log."""

from __future__ import annotations

from uuid import uuid4

from django.db import models
from django.db.models import Q

from coatlog.jobs.models import Job
from coatlog.shop.models import Member, Shop

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


class PlanWork(models.Model):
    """What the planner of a full shop has been asked for and has done, by count: the newest asking wins.

    `since_at`: when the first asking came that is not answered yet.  All of it can be lost.
    """

    shop = models.OneToOneField(Shop, on_delete=models.CASCADE, primary_key=True, related_name="plan_work")
    wanted = models.BigIntegerField(default=0)
    done = models.BigIntegerField(default=0)
    since_at = models.BigIntegerField(default=0)
    done_at = models.BigIntegerField(null=True)


class PlanAsk(models.Model):
    """Something asked of the planner that takes longer than anybody waits at a button, and its answer."""

    id = models.UUIDField(primary_key=True, default=uuid4)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="plan_asks")
    member = models.ForeignKey(Member, on_delete=models.CASCADE, related_name="plan_asks")
    kind = models.CharField(max_length=12)
    asked = models.JSONField(default=dict)
    asked_at = models.BigIntegerField()
    began_at = models.BigIntegerField(null=True)
    done_at = models.BigIntegerField(null=True)
    answer = models.JSONField(null=True)
    refusal = models.TextField(default="", blank=True)

    class Meta:
        indexes = [models.Index(fields=["asked_at"])]


class JobProjection(models.Model):
    """The state of a job as last replayed, written in the entry's own transaction."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, primary_key=True, related_name="projection")
    state = models.JSONField()
    plan = models.JSONField(null=True)
    tasks_left = models.PositiveIntegerField(default=0)  # of its problem, planned or not
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
    def due_q(now: int) -> Q:
        """Jobs with something due in service soon."""
        return Q(next_due_at__lte=now + DUE_AHEAD_S)

    def is_live(self, now: int) -> bool:
        return self.cured_at is None or self.cured_at > now
