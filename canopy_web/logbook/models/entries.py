"""What people write down."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from canopy_web.planning.models import GrowPlan, PlanState


class LogEntry(models.Model):
    """An entry of the log: when it was, of which kind, its figures, the plants it is about, and words.

    ``key`` is its own within the plan for good, so that one that is sent twice is taken in once; ``state`` is the plan
    as it stood then. One that was struck is kept; ``corrects`` is the key of the one in whose place it stands.
    """

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="log_entries")
    key = models.CharField(max_length=64)
    space_id = models.CharField(max_length=64)
    kind = models.CharField(max_length=12)
    at = models.DateTimeField()
    data = models.JSONField(default=dict)
    plants = models.JSONField(default=list)
    note = models.CharField(max_length=1000, blank=True)
    struck = models.BooleanField(default=False)
    corrects = models.CharField(max_length=64, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    state = models.ForeignKey(PlanState, null=True, on_delete=models.SET_NULL, related_name="+")
    written = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [models.UniqueConstraint(fields=["plan", "key"], name="one_entry_a_key")]
        indexes = [models.Index(fields=["plan", "space_id", "at"])]

    def __str__(self) -> str:
        return f"{self.kind}, {self.at:%Y-%m-%d %H:%M}"
