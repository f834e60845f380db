"""Sensors, their readings, and the ways in which readings come in."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from canopy_web.planning.models import GrowPlan


class Source(models.Model):
    """A way in which readings come in by themselves: sent here (``token_digest`` is what is kept of its token), asked
    for at an ``address``, or listened to at a broker. ``shape`` says where values stand in what comes.

    ``asked`` is the second of UTC at which it was asked last, ``fails`` how often in a row it failed.
    """

    KINDS = ("push", "pull", "mqtt")
    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="sources")
    kind = models.CharField(max_length=8, choices=[(key, key) for key in KINDS])
    name = models.CharField(max_length=80)
    space_id = models.CharField(max_length=64, blank=True)
    token_digest = models.CharField(max_length=64, unique=True, null=True)
    token_begins = models.CharField(max_length=8, blank=True)
    address = models.CharField(max_length=500, blank=True)
    shape = models.JSONField(default=dict)
    asked = models.BigIntegerField(default=0)
    fails = models.PositiveIntegerField(default=0)
    made = models.DateTimeField(default=timezone.now)
    last_seen = models.DateTimeField(null=True)
    trouble = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class Switching(models.Model):
    """A plug that was switched from here: by whom, whether on, for how long [min], and what it said."""

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="switchings")
    space_id = models.CharField(max_length=64)
    source = models.ForeignKey(Source, null=True, on_delete=models.SET_NULL, related_name="switchings")
    name = models.CharField(max_length=80)
    feeds = models.CharField(max_length=16)
    on = models.BooleanField()
    for_min = models.FloatField(null=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    trouble = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.name} {'on' if self.on else 'off'}"


class Sensor(models.Model):
    """Something that measures one quantity somewhere: in a space, in its room, or outdoors.

    ``label`` is what its source calls it; ``feeds`` what a power meter's plug feeds: "fan", "lamps" or a device's id;
    "none" for nothing of the space's. One that was struck is kept with its readings, and shown nowhere.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="sensors")
    space_id = models.CharField(max_length=64)
    place = models.CharField(max_length=8, default="space")
    quantity = models.CharField(max_length=20)
    name = models.CharField(max_length=80)
    source = models.ForeignKey(Source, null=True, on_delete=models.SET_NULL, related_name="sensors")
    label = models.CharField(max_length=120, blank=True)
    feeds = models.CharField(max_length=64, blank=True, default="")
    struck = models.BooleanField(default=False)
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["plan", "space_id", "quantity", "name"], name="one_sensor_a_name"),
        ]

    def __str__(self) -> str:
        return self.name


class Reading(models.Model):
    """What a sensor showed at a second of UTC, in the unit in which its quantity is kept."""

    sensor = models.ForeignKey(Sensor, on_delete=models.CASCADE, related_name="readings", db_index=False)
    at = models.BigIntegerField()
    value = models.FloatField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sensor", "at"], name="one_reading_a_second")]

    def __str__(self) -> str:
        return f"{self.at}: {self.value}"


class Rollup(models.Model):
    """Readings of a sensor drawn together over a span of so many seconds from ``at`` on: how many, lowest, sum and
    highest. Always those of the readings that are there: renewed with them.
    """

    sensor = models.ForeignKey(Sensor, on_delete=models.CASCADE, related_name="rollups", db_index=False)
    span = models.PositiveIntegerField()
    at = models.BigIntegerField()
    n = models.PositiveIntegerField()
    low = models.FloatField()
    total = models.FloatField()
    high = models.FloatField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sensor", "span", "at"], name="one_rollup_a_span")]

    def __str__(self) -> str:
        return f"{self.at} + {self.span} s"


class CsvShape(models.Model):
    """How a table with this header was read the last time."""

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="csv_shapes")
    digest = models.CharField(max_length=32)
    shape = models.JSONField()
    used = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["plan", "digest"], name="one_shape_a_header")]

    def __str__(self) -> str:
        return self.digest


class ImportJob(models.Model):
    """A table that is taken in, piece by piece: each piece's readings and how far it has come are one transaction.

    ``offset`` is how many of its bytes are in; ``line``, ``last`` and ``fold`` are where its reader stands.
    """

    STATES = ("looked", "going", "done", "stopped", "failed")
    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="imports")
    space_id = models.CharField(max_length=64)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    name = models.CharField(max_length=200)
    path = models.CharField(max_length=300)
    size = models.BigIntegerField()
    digest = models.CharField(max_length=32, blank=True)
    shape = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=[(key, key) for key in STATES], default="looked")
    offset = models.BigIntegerField(default=0)
    line = models.PositiveIntegerField(default=0)
    last = models.CharField(max_length=32, blank=True)
    fold = models.PositiveSmallIntegerField(default=0)
    rows = models.PositiveIntegerField(default=0)
    taken = models.PositiveIntegerField(default=0)
    doubled = models.PositiveIntegerField(default=0)
    wrong = models.PositiveIntegerField(default=0)
    wrong_lines = models.JSONField(default=list)
    gaps = models.JSONField(default=list)
    words = models.CharField(max_length=300, blank=True)
    begun = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name


class AlertEvent(models.Model):
    """An alert that rang: by which rule and sensor, from when on, how bad it got, who saw it, and when it was over.

    ``told`` is when the household was told by mail.
    ``stamp`` is what the ``rule`` was: one that was changed since is over. Seconds are of UTC.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="alert_events")
    space_id = models.CharField(max_length=64)
    rule_id = models.CharField(max_length=64)
    stamp = models.CharField(max_length=12)
    sensor = models.ForeignKey(Sensor, null=True, on_delete=models.SET_NULL, related_name="+")
    begin = models.BigIntegerField()
    rang = models.BigIntegerField()
    end = models.BigIntegerField(null=True)
    worst = models.FloatField()
    words = models.CharField(max_length=200)
    rule = models.JSONField(default=dict)
    seen_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    seen = models.DateTimeField(null=True)
    told = models.DateTimeField(null=True)
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-rang", "-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["plan", "space_id", "rule_id", "stamp", "sensor", "begin"], name="one_event"
            ),
        ]
        indexes = [models.Index(fields=["plan", "end"])]

    def __str__(self) -> str:
        return self.words
