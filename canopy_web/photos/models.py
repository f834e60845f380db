"""Photographs of spaces, kept beside the plan."""

from __future__ import annotations

from django.db import models

from canopy_web.planning.models import GrowPlan


class SpacePhoto(models.Model):
    """A photograph as this program encoded it: JPEG without any of the camera's notes, and a small one for lists.

    ``day`` is when it was taken, ``taken`` when it came to us; ``step`` is the step of the build that it shows, if any,
    ``plant_id`` the plant, if only one. ``lens_mm`` is the focal length as on 36 × 24 mm, where the camera noted it.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="photos")
    space_id = models.CharField(max_length=64)
    caption = models.CharField(max_length=120, blank=True)
    step = models.CharField(max_length=160, blank=True)
    plant_id = models.CharField(max_length=64, blank=True)
    lens_mm = models.FloatField(null=True)
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


class PictureMeasure(models.Model):
    """What was marked in a photograph, and what that says; the floor laid flat, and what is leaf in it (PNG)."""

    photo = models.OneToOneField(SpacePhoto, on_delete=models.CASCADE, related_name="measure")
    marks = models.JSONField()
    reading = models.JSONField()
    flat = models.BinaryField()
    mask = models.BinaryField()
    made = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"Measured: {self.photo}"
