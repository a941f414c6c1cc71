from django.db import migrations, models


class Migration(migrations.Migration):
    """The document stays the JSON that it is; it is read where it is wanted."""

    dependencies = [("studies", "0004_formats_and_tokens")]

    operations = [
        migrations.AlterField("revision", "document", models.TextField()),
        migrations.RenameField("revision", "document", "text"),
    ]
