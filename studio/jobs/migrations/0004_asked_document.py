"""The documents that jobs are about are kept apart from them, each once."""

import django.db.models.deletion
from django.db import migrations, models


def drop_ended(apps, editor):
    """Jobs that ended long ago need not know what they were about."""
    jobs = apps.get_model("jobs", "Job").objects.exclude(state__in=("waiting", "working"))
    for number in list(jobs.values_list("pk", flat=True)):
        arguments = jobs.values_list("arguments", flat=True).get(pk=number)
        if {"document", "of"} & arguments.keys():
            jobs.filter(pk=number).update(arguments={n: v for n, v in arguments.items() if n not in ("document", "of")})


class Migration(migrations.Migration):
    dependencies = [("jobs", "0003_format_of_arguments")]

    operations = [
        migrations.CreateModel(
            name="AskedDocument",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64, unique=True)),
                ("text", models.TextField()),
            ],
        ),
        migrations.AddField(
            model_name="job",
            name="document",
            field=models.ForeignKey(
                blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="jobs", to="jobs.askeddocument"
            ),
        ),
        migrations.RunPython(drop_ended, migrations.RunPython.noop),
    ]
