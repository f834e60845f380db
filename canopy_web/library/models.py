"""Crops of a person's own."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class OwnCrop(models.Model):
    """A copy of a crop that its owner changed: the whole record as JSON, as a plan file holds it."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="own_crops")
    key = models.CharField(max_length=64)
    name = models.CharField(max_length=120)
    document = models.JSONField()
    updated = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["owner", "key"], name="one_key_each")]

    def __str__(self) -> str:
        return self.name
