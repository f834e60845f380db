"""What a person chose for themselves."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Preference(models.Model):
    """A person's units and light or dark page."""

    UNITS = [("metric", "Metric"), ("us", "US")]
    THEMES = [("auto", "As the device"), ("light", "Light"), ("dark", "Dark")]

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="preference")
    units = models.CharField(max_length=8, choices=UNITS, default="metric")
    theme = models.CharField(max_length=8, choices=THEMES, default="auto")

    def __str__(self) -> str:
        return f"{self.units}, {self.theme}"
