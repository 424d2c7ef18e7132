"""The guard of append-only tables yields to no role that could not drop it anyway."""

from django.db import migrations

from coatlog.shop.guard import FUNCTION_SQL


class Migration(migrations.Migration):
    dependencies = [("logbook", "0005_batches_indexed")]

    operations = [migrations.RunSQL(FUNCTION_SQL, migrations.RunSQL.noop)]
