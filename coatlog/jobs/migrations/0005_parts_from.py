from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0004_dates"),
    ]

    operations = [
        migrations.AddField(
            model_name="job",
            name="parts_from",
            field=models.JSONField(blank=True, default=dict),
        ),
    ]
