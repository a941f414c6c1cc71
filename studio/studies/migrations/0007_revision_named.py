"""What a revision names of the data folder is kept with it."""

import re

from django.db import migrations, models


def fill(apps, editor):
    revisions = apps.get_model("studies", "Revision").objects
    for number in list(revisions.values_list("pk", flat=True)):
        text = revisions.values_list("text", flat=True).get(pk=number)
        revisions.filter(pk=number).update(named=" ".join(sorted(set(re.findall(r"[0-9a-f]{32,64}", text)))))


class Migration(migrations.Migration):
    dependencies = [("studies", "0006_file_source")]

    operations = [
        migrations.AddField(model_name="revision", name="named", field=models.TextField(default="")),
        migrations.RunPython(fill, migrations.RunPython.noop),
    ]
