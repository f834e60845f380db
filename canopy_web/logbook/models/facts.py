"""What was surveyed, done and ticked."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

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


class CareMark(models.Model):
    """What became of work that was due on a day: done, skipped, or put off to a day; by whom and when it was written.

    ``family`` names the work, ``state`` the plan as it stood then. Struck ones are kept.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="care_marks")
    family = models.CharField(max_length=160)
    title = models.CharField(max_length=200, blank=True)
    due = models.DateField()
    what = models.CharField(max_length=10, choices=[(key, key) for key in ("done", "skipped", "postponed")])
    on = models.DateField()
    struck = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    state = models.ForeignKey(PlanState, null=True, on_delete=models.SET_NULL, related_name="+")
    written = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["plan", "family"])]

    def __str__(self) -> str:
        return f"{self.title or self.family}, {self.due}: {self.what}"


class CalendarFeed(models.Model):
    """The private address at which a plan's calendar can be fetched; a new token makes the old address dead."""

    plan = models.OneToOneField(GrowPlan, on_delete=models.CASCADE, related_name="calendar_feed")
    token = models.CharField(max_length=64, unique=True)
    made = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"Calendar of {self.plan_id}"


class Tick(models.Model):
    """A line of the kit one has, or a step of the build that is done; ``stamp`` is what of the plan it was made from.

    ``price`` is what one paid or was asked for a line. One that is taken back is off, and kept. ``written`` is when a
    person said so, on whatever device, however late it came.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="ticks")
    what = models.CharField(max_length=6, choices=[("have", "have"), ("done", "done")])
    key = models.CharField(max_length=200)
    on = models.BooleanField(default=True)
    stamp = models.CharField(max_length=12, blank=True)
    price = models.FloatField(null=True)
    note = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    written = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["plan", "what", "key"], name="one_tick_a_line")]

    def __str__(self) -> str:
        return f"{self.key}: {self.what if self.on else 'not'}"
