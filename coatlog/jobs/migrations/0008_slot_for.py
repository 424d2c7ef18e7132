"""What a launch or hand-over is for: in water, on the road, loaded, handled."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0007_step_lists")]
    operations = [
        migrations.AddField(
            model_name="job", name="slot_for", field=models.CharField(blank=True, default="", max_length=10)
        )
    ]
