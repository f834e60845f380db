"""What a person chose for themselves."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Preference(models.Model):
    """A person's units, their unit of light, light or dark page, time zone (a name such as "Europe/Lisbon"; empty: not
    known yet), and where alerts are mailed to (nowhere when empty).
    """

    UNITS = [("metric", "Metric"), ("us", "US")]
    LIGHTS = [("ppfd", "PPFD"), ("lux", "Lux"), ("fc", "Foot-candles")]
    THEMES = [("auto", "As the device"), ("light", "Light"), ("dark", "Dark")]

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="preference")
    units = models.CharField(max_length=8, choices=UNITS, default="metric")
    light = models.CharField(max_length=8, choices=LIGHTS, default="ppfd")
    theme = models.CharField(max_length=8, choices=THEMES, default="auto")
    time_zone = models.CharField(max_length=64, default="", blank=True)
    mail = models.EmailField(default="", blank=True)

    def __str__(self) -> str:
        return f"{self.units}, {self.theme}"
