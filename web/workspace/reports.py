"""Reports of spaces, kept while nothing they depend on has changed."""

from __future__ import annotations

from canopy.cache import ContentCache
from canopy.evaluate import SpaceReport, evaluate_space
from canopy.light.scene import DEFAULT, Quality
from canopy.plan import Plan, Space

_kept: ContentCache[SpaceReport] = ContentCache(64, lambda report: 1)


def report_of(
    plan: Plan, space: Space, *, quality: Quality = DEFAULT, map_height_m: float | None = None
) -> SpaceReport:
    """Evaluate a space, or find it evaluated: the key is all that its report depends on."""
    others = tuple(
        (other.name, other.circuit_id, other.fixtures, other.devices, other.air)
        for other in plan.spaces
        if other.id != space.id and other.circuit_id == space.circuit_id
    )
    key = (space, plan.tariff, plan.circuits, others, quality.patches, map_height_m)
    return _kept.get(key, lambda: evaluate_space(plan, space, quality=quality, map_height_m=map_height_m))
