"""Shops, their people and their places."""

from __future__ import annotations

import datetime as dt
import uuid

from django.conf import settings
from django.db import models
from django.db.models import F, Q


class Shop(models.Model):
    """A tenant.  `entry_seq` is the counter of its log, locked by whoever writes to it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    time_zone = models.CharField(max_length=60, default="Europe/London")
    opens = models.TimeField(default=dt.time(7, 30))
    closes = models.TimeField(default=dt.time(18, 45))
    painters = models.PositiveSmallIntegerField(default=1)
    #: whether steps are ticked here: where nobody does, a job is not told of each that is missing
    logs_steps = models.BooleanField(default=True)
    guns = models.PositiveSmallIntegerField(default=2)  # of each kind that has to be cleaned out
    default_air_degc = models.FloatField(default=18.0)
    default_rh_frac = models.FloatField(default=0.6)
    currency = models.CharField(max_length=3, default="EUR")
    voc_limit_g_per_l = models.FloatField(null=True, blank=True)
    voc_less_water = models.BooleanField(default=True)
    has = models.JSONField(default=list, blank=True)  # facts somebody said yes to
    hasnt = models.JSONField(default=list, blank=True)  # and no to; in neither: nobody answered
    works_on = models.JSONField(
        default=list, blank=True
    )  # kinds of object, the usual one first; empty: unsaid
    is_demo = models.BooleanField(default=False)
    demo_seq = models.BigIntegerField(null=True)  # of a demo: how far its log went when it was loaded
    demo_at = models.BigIntegerField(null=True)  # and when that was
    entry_seq = models.BigIntegerField(default=0)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(closes__gt=F("opens")), name="shop_closes_after_opens"),
            models.CheckConstraint(
                condition=Q(default_rh_frac__gt=0, default_rh_frac__lte=1), name="shop_rh_frac"
            ),
        ]


class Member(models.Model):
    """A person in a shop, with one role."""

    OWNER, PAINTER, VIEWER = "owner", "painter", "viewer"

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="members")
    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="members")
    role = models.CharField(max_length=12)
    preferences = models.JSONField(default=dict, blank=True)
    sensitised = models.BooleanField(default=False)  # asthmatic or sensitised: away from isocyanates

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["user", "shop"], name="member_once"),
            models.CheckConstraint(condition=Q(role__in=["owner", "painter", "viewer"]), name="member_role"),
        ]

    @property
    def may_write(self) -> bool:
        return self.role in (self.OWNER, self.PAINTER)

    @property
    def is_owner(self) -> bool:
        return self.role == self.OWNER


class SignedIn(models.Model):
    """A sign-in, so that its person can list and end it.  Without its session it is nothing."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="signed_in")
    session_key = models.CharField(max_length=40, unique=True)
    name = models.CharField(max_length=60, blank=True)
    began_at = models.BigIntegerField()


class Pairing(models.Model):
    """A code somebody shows on their screen, by which a phone of theirs signs in once.

    `digest`: of the code, which is kept nowhere.
    """

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="pairing")
    digest = models.CharField(max_length=64, unique=True)
    until_at = models.BigIntegerField()


class Crew(models.Model):
    """What somebody does in the plan; without a row here they are not counted on.

    `may`: what they are trusted with, keys of the core's RIGHTS.  `days`: weekdays, 0 is Monday; empty: every
    day.  `starts`, `ends`: their hours, within the shop's; None: the shop's own.
    """

    member = models.OneToOneField(Member, on_delete=models.CASCADE, primary_key=True, related_name="crew")
    may = models.JSONField(default=list)
    days = models.JSONField(default=list, blank=True)
    starts = models.TimeField(null=True, blank=True)
    ends = models.TimeField(null=True, blank=True)


class Absence(models.Model):
    """When somebody of the crew is away [epoch s]."""

    crew = models.ForeignKey(Crew, on_delete=models.CASCADE, related_name="absences")
    from_at = models.BigIntegerField()
    to_at = models.BigIntegerField()
    why = models.CharField(max_length=80, default="", blank=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=Q(to_at__gt=F("from_at")), name="absence_ends")]
        ordering = ["from_at"]


class Place(models.Model):
    """A bay or a yard: where a part stands and climate is measured."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="places")
    name = models.CharField(max_length=60)
    has_probe = models.BooleanField(default=False)
    outdoors = models.BooleanField(default=False)
    holds = models.PositiveSmallIntegerField(null=True, blank=True)  # objects at once; None: no limit
    retired = models.BooleanField(default=False)  # nothing new is put there

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="place_name_once")]
        ordering = ["name"]
