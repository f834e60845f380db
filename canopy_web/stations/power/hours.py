"""The tab of hours: every circuit of this space through a day, minute by minute, as schedules and controls run."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

from canopy.evaluate import SpaceReport
from canopy.evaluate.climate.days import Simulated
from canopy.evaluate.power.loads import household_tree
from canopy.evaluate.power.profile import day_of_circuits, followed_by_minute
from canopy.plan.document import Circuit
from canopy.plan.rooms import Season
from canopy.power.cost import minutes_on
from canopy_web.drawing.load_day import load_day
from canopy_web.workspace.where import Where

SEASONS = [("day", "a usual day"), ("coldest", "the coldest day"), ("hottest", "the hottest day")]


def _clock_change(where: Where) -> str:
    """What the day's clock does, where it is put forward or back on it."""
    hours = len(minutes_on(where.day, where.plan.site.time_zone)) / 60
    if hours == 24:
        return ""
    what = "an hour of the night is left out" if hours < 24 else "an hour of the night comes twice"
    return f"This day has {hours:g} hours: {what}. What runs all day draws accordingly; timers want their clocks set."


def hours_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the tab; devices of this space run as they were followed, those of others where it is asked for."""
    chosen = where.look.more.get("season", "day")
    season = cast(Season, chosen if chosen in dict(SEASONS) else "day")
    tree = household_tree(where.plan)
    circuits = {node.id for node in tree.touching(where.space.id) if isinstance(node.item, Circuit)}
    whole = where.look.more.get("whose") == "household"
    found: dict[str, Simulated | None] = {} if whole else {space.id: None for space in where.plan.spaces}
    if not whole:
        found[where.space.id] = followed_by_minute(where.plan, where.space, season)
    days = [day for day in day_of_circuits(where.plan, season, found=found, tree=tree) if day.circuit.id in circuits]
    scenes = [load_day(day) for day in days]
    return {
        "as_on": season,
        "clock_change": _clock_change(where),
        "whole": whole,
        "seasons": SEASONS,
        "circuit_days": scenes,
        "scrub": [
            {
                "id": scene.id,
                "name": scene.name,
                "may": scene.may_w,
                "loads": [{"name": band.name, "watts": band.watts} for band in scene.bands],
            }
            for scene in scenes
        ],
    }
