"""Somebody asthmatic or sensitised can be said, and is kept away from isocyanates."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("shop", "0006_shop_hasnt")]
    operations = [migrations.AddField("member", "sensitised", models.BooleanField(default=False))]
