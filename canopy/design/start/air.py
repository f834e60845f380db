"""A first exhaust with its intake, sized for what a space is asked."""

from __future__ import annotations

from canopy.design.air.building import exhaust_parts, settled, sized, smallest_fan
from canopy.design.air.openings import intake_opening, with_port
from canopy.design.air.stirring import suggest_stirrer
from canopy.equipment import FanSpec
from canopy.evaluate.air.breathing import breathing
from canopy.evaluate.air.excess import usual_flow_m3_h
from canopy.evaluate.light.lighting import lighting
from canopy.light.scene import PREVIEW
from canopy.plan.airways import Airway
from canopy.plan.document import Plan, Space
from canopy.plan.site import Site
from canopy.season import Standing


def suggest_air(here: Standing) -> Space:
    """Fit the smallest fan of the library that delivers what a space needs with a fifth to spare, and something that
    stirs.

    Parameters
    ----------
    here : the space, lit and planted

    Returns
    -------
    Space : with an exhaust, its port, an intake and a circulation fan; without a fan where it breathes enough by itself
    """
    space = here.space
    around = here.around
    plan = Plan.model_construct(
        name="-", date=here.day, spaces=(space,), rooms=(around.room,), site=Site(altitude_m=around.altitude_m)
    )
    light = lighting(here, PREVIEW, with_map=False)
    found = breathing(plan, here, light)
    # Nobody knows yet what else will stand there: a first fan changes the air as often as is usual.
    wanted = _FAN_TO_SPARE * usual_flow_m3_h(found)
    if found.delivered_m3_h < wanted:
        space = sized(plan, here, light, lambda flow: _vented(plan, here, flow), wanted, _FAN_TO_SPARE) or space
    stirrer = suggest_stirrer(here.moved(space))
    return space.model_copy(update={"stirrers": (stirrer,)}) if stirrer and space.kind in _STIRRED else space


_FAN_TO_SPARE = 1.25


_STIRRED = ("tent", "closet", "cabinet", "shelf")


def _vented(plan: Plan, here: Standing, flow_m3_h: float) -> Space | None:
    """Fit the smallest fan that gives a flow, with its port and an intake."""
    space = here.space

    def make(spec: FanSpec) -> tuple[Space, Airway]:
        airway = Airway(id="exhaust-1", name="Exhaust", parts=exhaust_parts(spec, None))
        made = with_port(space, airway, spec.diameter_m, here)
        intake = intake_opening(made, flow_m3_h)
        if intake:
            made = made.model_copy(update={"openings": (*made.openings, intake)})
        return made, made.airways[-1]

    found = smallest_fan(plan, make, flow_m3_h)
    return settled(plan, found[0], found[1].id, flow_m3_h) if found else None
