"""Plans and the history of their states."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from canopy_web.planning.querysets import GrowPlanQuerySet


class GrowPlan(models.Model):
    """A person's plan; its content is the state at its head. ``serial`` is the next number for an id: it never goes
    back, not even with an undo.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="plans")
    name = models.CharField(max_length=120)
    head = models.ForeignKey("PlanState", null=True, on_delete=models.RESTRICT, related_name="+")
    serial = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)

    objects = GrowPlanQuerySet.as_manager()

    class Meta:
        ordering = ["created", "pk"]

    def __str__(self) -> str:
        return self.name


class PlanState(models.Model):
    """One state of a plan: the whole document (compressed JSON), and the state it came from."""

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="states")
    parent = models.ForeignKey("self", null=True, on_delete=models.CASCADE, related_name="children")
    label = models.CharField(max_length=200)
    document = models.BinaryField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.label


class PlanVariant(models.Model):
    """A space as it stood once, kept under a name to be held against others; ``price`` is what it would cost to buy."""

    plan = models.ForeignKey(GrowPlan, on_delete=models.CASCADE, related_name="variants")
    name = models.CharField(max_length=120)
    space_id = models.CharField(max_length=64)
    price = models.FloatField(null=True)
    document = models.BinaryField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name
