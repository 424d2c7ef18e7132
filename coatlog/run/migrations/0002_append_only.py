"""Guard against UPDATE, DELETE and TRUNCATE."""

from django.db import migrations

from coatlog.shop.guard import append_only_sql, drop_guard_sql

TABLES = ("run_plandoc", )


class Migration(migrations.Migration):
    dependencies = [("run", "0001_initial")]
    operations = [migrations.RunSQL(append_only_sql(t), drop_guard_sql(t)) for t in TABLES]
