"""Power: loads, circuits, cost. The tree of strips and the hours of the day will live here."""

from canopy.power.load import (
    CONTINUOUS_H,
    MONTH_DAYS,
    Load,
    appliance_loads,
    monthly_cost,
    other_loads,
    spaces_on,
)

__all__ = [
    "CONTINUOUS_H",
    "MONTH_DAYS",
    "Load",
    "appliance_loads",
    "monthly_cost",
    "other_loads",
    "spaces_on",
]
