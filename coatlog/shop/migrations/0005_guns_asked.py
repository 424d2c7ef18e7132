"""Guns, booth, sparks and wash-down are asked of a shop too: one that answered before goes on as it did."""

from django.db import migrations

ASKED_NOW = ("booth", "spray_gun", "liner_gun", "compressor", "blast", "spark_free", "capture")


def keep_what_was_used(apps, schema_editor):
    shops = apps.get_model("shop", "Shop")
    for shop in shops.objects.exclude(has=None):
        shop.has = [*shop.has, *(f for f in ASKED_NOW if f not in shop.has)]
        shop.save(update_fields=["has"])


class Migration(migrations.Migration):
    dependencies = [("shop", "0004_shop_has")]
    operations = [migrations.RunPython(keep_what_was_used, migrations.RunPython.noop)]
