"""Best results, one a person and scenario."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class BestResult(models.Model):
    """How well a person has held a scenario, 0..100, at their best, and the moves of that."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="trainer_results")
    scenario = models.CharField(max_length=64)
    score = models.FloatField()
    moves = models.JSONField(default=list)
    times = models.PositiveIntegerField(default=1)
    played = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "scenario"], name="one_best_result_a_scenario")]

    def __str__(self) -> str:
        return f"{self.scenario}: {self.score:.0f}"
