"""Photographs of spaces, kept beside the plan."""

from __future__ import annotations

from django.db import models

from canopy_web.planning.models import GrowPlan


class SpacePhoto(models.Model):
    """A photograph as this program encoded it: JPEG without any of the camera's notes, and a small one for lists.

    ``day`` is when it was taken, ``taken`` when it came to us; ``step`` is the step of the build that it shows, if any.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="photos")
    space_id = models.CharField(max_length=64)
    caption = models.CharField(max_length=120, blank=True)
    step = models.CharField(max_length=160, blank=True)
    image = models.BinaryField()
    small = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    day = models.DateField()
    taken = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-day", "-taken", "-pk"]

    def __str__(self) -> str:
        return self.caption or f"Photograph {self.pk}"
