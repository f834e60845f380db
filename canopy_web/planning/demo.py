"""What a visitor of the demo finds set in the household: hours of quiet, and limits that are watched."""

from __future__ import annotations

from canopy.plan import Plan
from canopy.plan.controls import Alert
from canopy.plan.document import Quiet

QUIET = Quiet(start="22:30", hours=7.5)
_WATCHED = {
    "berry-tent": (
        Alert(id="alert-1", figure="rh_pct", most=True, value=80, for_min=30, back=3, why="grey mould on the fruit"),
        Alert(id="alert-2", figure="air_c", most=False, value=12, for_min=30, back=1, in_quiet=True),
        Alert(id="alert-3", figure="air_c", most=False, value=0, silent=True, for_min=60),
        Alert(id="alert-4", figure="trap_rise", most=True, value=1, for_min=0, why="thrips"),
    ),
    "fern-case": (Alert(id="alert-1", figure="rh_pct", most=False, value=60, for_min=120, back=3),),
}


def watched(plan: Plan) -> Plan:
    """Give the demo household with hours of quiet and watched limits."""
    spaces = tuple(space.model_copy(update={"alerts": _WATCHED.get(space.id, ())}) for space in plan.spaces)
    return plan.model_copy(update={"spaces": spaces, "quiet": QUIET})
