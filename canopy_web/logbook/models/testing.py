"""Tests that people walk through, and probes held against what is known."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from canopy_web.logbook.models.sensing import Sensor
from canopy_web.planning.models import GrowPlan, PlanState


class GuidedTest(models.Model):
    """A test that is walked through while the log watches: when it was begun, when the fan was switched on again and
    when it ended [s of UTC]; how many watts go in where no meter says so; whether pots and plants were taken out.
    """

    KINDS = ("heater", "co2")
    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="guided_tests")
    space_id = models.CharField(max_length=64)
    kind = models.CharField(max_length=8, choices=[(key, key) for key in KINDS])
    begun = models.BigIntegerField()
    fan_on = models.BigIntegerField(null=True)
    ended = models.BigIntegerField(null=True)
    watts = models.FloatField(null=True)
    emptied = models.BooleanField(default=True)
    struck = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    state = models.ForeignKey(PlanState, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-begun", "-pk"]

    def __str__(self) -> str:
        return f"{self.kind}, {self.begun}"


class ProbeCheck(models.Model):
    """A probe held against what is known: over wet salt, in melting ice, or beside one that is trusted: what it showed,
    and what it should have shown.
    """

    KINDS = ("salt", "ice", "beside")
    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="probe_checks")
    sensor = models.ForeignKey(Sensor, on_delete=models.CASCADE, related_name="checks")
    kind = models.CharField(max_length=8, choices=[(key, key) for key in KINDS])
    showed = models.FloatField()
    true = models.FloatField()
    struck = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.sensor_id}: {self.showed} for {self.true}"
