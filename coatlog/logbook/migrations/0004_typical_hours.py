"""Hours of a typical year are told apart from hours that happened: they are a guess."""

from django.db import migrations

from coatlog.shop.guard import append_only_sql, drop_guard_sql

TABLE = "logbook_climatereading"
#: what an import of a typical year said of itself
RENAME = """
UPDATE logbook_climatereading r SET source = 'typical'
FROM logbook_weatherimport i
WHERE r.weather_import_id = i.id AND r.source = 'import' AND i.notes::text LIKE '%Typical year laid onto%';
"""


class Migration(migrations.Migration):
    dependencies = [("logbook", "0003_every_step")]
    operations = [
        migrations.RunSQL(drop_guard_sql(TABLE), append_only_sql(TABLE)),
        migrations.RunSQL(RENAME, migrations.RunSQL.noop),
        migrations.RunSQL(append_only_sql(TABLE), drop_guard_sql(TABLE)),
    ]
