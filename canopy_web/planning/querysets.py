"""Reads of plans."""

from __future__ import annotations

from typing import Any

from django.db import models


class GrowPlanQuerySet(models.QuerySet[Any]):
    """Plans, by who may see them."""

    def for_owner(self, user: Any) -> GrowPlanQuerySet:
        """Plans of one person, each with its present state."""
        return self.filter(owner=user).select_related("head")
