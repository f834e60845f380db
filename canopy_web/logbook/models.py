"""Facts beside the plans, one table a kind."""

from __future__ import annotations

from django.db import models

from canopy_web.planning.models import GrowPlan, PlanState


class LightSurvey(models.Model):
    """Readings taken in a space on a day, and what the meter shows. ``state`` is the plan as it stood then."""

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="light_surveys")
    space_id = models.CharField(max_length=64)
    state = models.ForeignKey(PlanState, null=True, on_delete=models.SET_NULL, related_name="+")
    taken_on = models.DateField()
    unit = models.CharField(max_length=8, default="ppfd")
    source_id = models.CharField(max_length=64, default="white-led")
    cct_k = models.FloatField(default=4000)
    begun = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["plan", "space_id"])]

    def __str__(self) -> str:
        return f"Light survey of {self.taken_on}"


class LightReading(models.Model):
    """One reading of a light meter held level at a point [m], in its survey's unit. Struck ones are kept."""

    survey = models.ForeignKey(LightSurvey, on_delete=models.CASCADE, related_name="readings")
    number = models.PositiveIntegerField()
    x_m = models.FloatField()
    y_m = models.FloatField()
    z_m = models.FloatField()
    value = models.FloatField()
    struck = models.BooleanField(default=False)
    taken = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["survey", "number"], name="one_reading_a_number")]

    def __str__(self) -> str:
        return f"Reading {self.number}"
