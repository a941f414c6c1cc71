import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):
    """Pictures of one's own, each once, with what is known of it."""

    initial = True
    dependencies: list = []

    operations = [
        migrations.CreateModel(
            name="StockPicture",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64, unique=True)),
                ("name", models.CharField(max_length=120)),
                ("kind", models.CharField(max_length=10)),
                ("width", models.PositiveIntegerField()),
                ("height", models.PositiveIntegerField()),
                ("laid", models.JSONField(default=dict)),
                ("notes", models.JSONField(default=list)),
                ("added", models.DateTimeField(default=django.utils.timezone.now)),
            ],
            options={"ordering": ["name", "id"]},
        )
    ]
