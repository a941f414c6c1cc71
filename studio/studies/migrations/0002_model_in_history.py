"""The model's state moves into the history, files as received get rows of their own; what there was is kept."""

import django.db.models.deletion
from django.db import migrations, models


def carry_over(apps, schema_editor):
    Study = apps.get_model("studies", "Study")
    Revision = apps.get_model("studies", "Revision")
    ModelFile = apps.get_model("studies", "ModelFile")
    for study in Study.objects.all():
        about = dict(study.about_model)
        version = study.model_version
        name = about.pop("source", "")
        file = ModelFile.objects.create(study=study, number=1, name=name, base_version=version, last_version=version)
        # The model was kept in metres, Z up, and says nothing of what its file was in.
        about |= {"geometry": version, "origin": [0.0, 0.0, 0.0], "units": "m", "up": "z"}
        Revision.objects.filter(study=study).update(model_version=version, about_model=about, file=file)


class Migration(migrations.Migration):
    dependencies = [("studies", "0001_initial")]

    operations = [
        migrations.CreateModel(
            name="RuleBook",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120, unique=True)),
                ("rules", models.JSONField(default=list)),
            ],
            options={"ordering": ["name"]},
        ),
        migrations.CreateModel(
            name="ModelFile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveIntegerField()),
                ("name", models.CharField(max_length=255)),
                ("folder", models.CharField(blank=True, max_length=40)),
                ("format", models.CharField(blank=True, max_length=60)),
                ("base_version", models.CharField(max_length=40)),
                ("last_version", models.CharField(max_length=40)),
                ("report", models.JSONField(default=dict)),
                ("notes", models.JSONField(default=list)),
                ("received", models.DateTimeField(auto_now_add=True)),
                ("job", models.PositiveBigIntegerField(null=True, unique=True)),
                ("study", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="files", to="studies.study")),
            ],
            options={"ordering": ["number"]},
        ),
        migrations.AddConstraint(
            model_name="modelfile",
            constraint=models.UniqueConstraint(fields=("study", "number"), name="one_file_per_number"),
        ),
        migrations.AddField("revision", "model_version", models.CharField(default="", max_length=40), preserve_default=False),
        migrations.AddField("revision", "about_model", models.JSONField(default=dict)),
        migrations.AddField(
            "revision",
            "file",
            models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="+", to="studies.modelfile"),
        ),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.RemoveField("study", "model_version"),
        migrations.RemoveField("study", "about_model"),
    ]
