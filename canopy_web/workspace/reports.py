"""Reports of spaces, kept while nothing they depend on has changed."""

from __future__ import annotations

import datetime as dt

from canopy.cache import ContentCache
from canopy.evaluate import SpaceReport, evaluate_space
from canopy.light.scene import DEFAULT, Quality
from canopy.plan import Plan, Space

_kept: ContentCache[SpaceReport] = ContentCache(96, lambda report: 1)


def report_of(
    plan: Plan,
    space: Space,
    *,
    day: dt.date | None = None,
    quality: Quality = DEFAULT,
    map_height_m: float | None = None,
) -> SpaceReport:
    """Evaluate a space on a day, or find it evaluated: the key is all that its report depends on."""
    others = tuple(
        (other.name, other.circuit_id, other.fixtures, other.devices, other.air)
        for other in plan.spaces
        if other.id != space.id and other.circuit_id == space.circuit_id
    )
    grown = {plant.planting_id for plant in space.plants}
    plantings = tuple(item.model_dump_json() for item in plan.plantings if item.id in grown)
    heights = tuple((other.id, other.name, other.size.height_m) for other in plan.spaces) if plantings else ()
    # Without plantings and daylight by month one day is as another.
    dated = (
        day or plan.date
        if plantings or space.daylight or any(p.from_day or p.until_day for p in space.plants)
        else None
    )
    key = (
        space,
        plan.tariff,
        plan.circuits,
        plan.crops,
        others,
        plantings,
        heights,
        dated,
        quality.patches,
        map_height_m,
    )
    return _kept.get(key, lambda: evaluate_space(plan, space, day=day, quality=quality, map_height_m=map_height_m))
