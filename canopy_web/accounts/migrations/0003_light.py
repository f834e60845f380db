"""How each person reads light."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """Add the unit of light: PPFD unless a person chooses otherwise."""

    dependencies = [("accounts", "0002_time_zone")]

    operations = [
        migrations.AddField(
            model_name="preference",
            name="light",
            field=models.CharField(
                choices=[("ppfd", "PPFD"), ("lux", "Lux"), ("fc", "Foot-candles")], default="ppfd", max_length=8
            ),
        ),
    ]
