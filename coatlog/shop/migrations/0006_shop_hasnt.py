"""A shop says yes, no or nothing of each fact: what was left unticked by one that answered stays a no."""

from django.db import migrations, models

ASKED = (
    "air_fed", "exhaust", "booth", "spray_gun", "liner_gun", "compressor", "blast", "spark_free", "capture",
    "permit", "licensed", "signatory", "maker_allows", "burn_evidence",
)  # fmt: skip


def unticked_is_no(apps, schema_editor):
    for shop in apps.get_model("shop", "Shop").objects.exclude(has=None):
        shop.hasnt = [f for f in ASKED if f not in shop.has]
        shop.save(update_fields=["hasnt"])


def nobody_asked(apps, schema_editor):
    apps.get_model("shop", "Shop").objects.filter(has=None).update(has=[])


class Migration(migrations.Migration):
    dependencies = [("shop", "0005_guns_asked")]
    operations = [
        migrations.AddField("shop", "hasnt", models.JSONField(blank=True, default=list)),
        migrations.RunPython(unticked_is_no, migrations.RunPython.noop),
        migrations.RunPython(nobody_asked, migrations.RunPython.noop),
        migrations.AlterField("shop", "has", models.JSONField(blank=True, default=list)),
    ]
