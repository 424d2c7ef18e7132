"""Data sheets on a shop's shelf: immutable documents named by the hash of their content."""

from __future__ import annotations

from django.db import models

from coatlog.shop.models import Shop


class SheetDoc(models.Model):
    """One version of one material's sheet.  Editing makes a new row."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="sheets")
    sheet_id = models.CharField(max_length=64)
    material_id = models.CharField(max_length=80)
    name = models.CharField(max_length=120)
    grade = models.CharField(max_length=12)
    doc = models.JSONField()
    created_at = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "sheet_id"], name="sheet_once")]
        indexes = [models.Index(fields=["shop", "material_id", "created_at"])]


class Price(models.Model):
    """What a shop pays for one pack of a material, in its own currency."""

    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="prices")
    material_id = models.CharField(max_length=80)
    pack = models.CharField(max_length=80)
    amount = models.FloatField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["shop", "material_id", "pack"], name="price_once"),
            models.CheckConstraint(condition=models.Q(amount__gte=0), name="price_not_negative"),
        ]
