"""Power: loads, their hours, the tree of outlets and strips, cost."""

from canopy.power.cost import monthly_cost
from canopy.power.hours import coinciding_w, is_timed, minutes_of
from canopy.power.load import (
    CONTINUOUS_H,
    MONTH_DAYS,
    Load,
    appliance_loads,
    other_loads,
)
from canopy.power.tree import Hung, Node, Tree, tree_of

__all__ = [
    "CONTINUOUS_H",
    "MONTH_DAYS",
    "Hung",
    "Load",
    "Node",
    "Tree",
    "appliance_loads",
    "coinciding_w",
    "is_timed",
    "minutes_of",
    "monthly_cost",
    "other_loads",
    "tree_of",
]
