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
