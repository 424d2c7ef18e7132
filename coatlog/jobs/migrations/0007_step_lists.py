"""Step lists are frozen with a job.  Those of the jobs there are get the list they have today."""

from __future__ import annotations

from typing import Any

import django.db.models.deletion
from django.db import migrations, models

from coatlog.shop.guard import append_only_sql, drop_guard_sql


def freeze(apps: Any, schema_editor: Any) -> None:
    from coatlog.core.codec import from_plain
    from coatlog.core.run.facts import Facts
    from coatlog.jobs.frozen_facts import plain_lists

    facts_docs = apps.get_model("jobs", "FactsDoc")
    step_lists = apps.get_model("jobs", "StepListDoc")
    for job_id, facts_id, doc in facts_docs.objects.values_list("job_id", "facts_id", "doc").iterator():
        facts = from_plain(Facts, doc)
        if not facts.steps:
            step_lists.objects.create(job_id=job_id, facts_id=facts_id, doc=plain_lists(facts))


class Migration(migrations.Migration):
    dependencies = [("jobs", "0006_photo")]
    operations = [
        migrations.CreateModel(
            name="StepListDoc",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("facts_id", models.CharField(max_length=64)),
                ("doc", models.JSONField()),
                (
                    "job",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="step_lists", to="jobs.job"
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=["job", "facts_id"], name="step_lists_once")]
            },
        ),
        migrations.RunPython(freeze, migrations.RunPython.noop),
        migrations.RunSQL(append_only_sql("jobs_steplistdoc"), drop_guard_sql("jobs_steplistdoc")),
    ]
