"""A time zone for each person."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """Add the time zone, not known yet."""

    dependencies = [("accounts", "0001_initial")]

    operations = [
        migrations.AddField(
            model_name="preference",
            name="time_zone",
            field=models.CharField(blank=True, default="", max_length=64),
        ),
    ]
