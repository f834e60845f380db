"""The tab of timers: what to set on each, in the order of the plugs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.care.watering import water_timer
from canopy.evaluate import SpaceReport
from canopy.evaluate.power.timers import timer_sheet
from canopy.plan.care import WATERING
from canopy_web.workspace.where import Where


def timers_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab."""
    return {
        "places": timer_sheet(where.plan, where.space, where.day),
        "water": water_timer(report),
        "water_way": WATERING[where.space.watering.way],
    }
