"""Where a sheet of paper lies in a picture is looked for when that is taken in."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("stock", "0001_initial")]

    operations = [migrations.AddField(model_name="stockpicture", name="corners", field=models.JSONField(default=list))]
