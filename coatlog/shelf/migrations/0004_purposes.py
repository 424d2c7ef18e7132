"""Typical sheets now say what they are for: shelves that hold the older ones get the newer beside them.

Sheets a shop entered itself stay as they are, and so do jobs, which keep the sheets they were made with.
"""

import time

from django.db import migrations


def renew(apps, schema_editor):
    from coatlog.shelf.services import renewed

    docs = apps.get_model("shelf", "SheetDoc")
    for shop_id in docs.objects.values_list("shop_id", flat=True).distinct():
        newest = docs.objects.filter(shop_id=shop_id).order_by("material_id", "-created_at", "-id")
        held = {r.material_id: (r.sheet_id, r.grade) for r in newest.distinct("material_id")}
        docs.objects.bulk_create(
            [docs(shop_id=shop_id, **row) for row in renewed(held, now=int(time.time()))],
            ignore_conflicts=True,
        )


class Migration(migrations.Migration):
    dependencies = [("shelf", "0003_every_step")]
    operations = [migrations.RunPython(renew, migrations.RunPython.noop)]
