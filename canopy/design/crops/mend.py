"""What mends a plant that comes to touch its lamp: room above it, or holding it down."""

from __future__ import annotations

from canopy.design.change import Remedy
from canopy.design.light.mend import hung_at, lit_lamps
from canopy.evaluate.crops.outlook import first_touch, hold_height_m, raise_to_m
from canopy.evaluate.space import SpaceReport
from canopy.margin import Amount, Margin, sentence
from canopy.plan.changes import Add
from canopy.plan.levels import roof_m
from canopy.season import cast_of


def mend_touch(report: SpaceReport, margin: Margin) -> Remedy | None:
    """Raise the lamps above what comes, where there is room; else hold the plants under them from today.

    Parameters
    ----------
    report : the space's report, with its light
    margin : one of its margins, of this kind

    Returns
    -------
    Remedy : None where nothing of the kind mends it
    """
    here = report.here
    touch = first_touch(here, cast_of(report.plan))
    if touch is None or touch.plant.planting is None:
        return None
    lamps = lit_lamps(here.space)
    top = roof_m(here.space, touch.plant.x_m, touch.plant.y_m, touch.plant.plant.base_m)
    z = raise_to_m(touch)
    highest = max((lamp.spec.thickness_m for lamp in lamps), default=0.0) + 0.02
    if touch.lamp and lamps and z + highest <= top and z > min(lamp.z_m for lamp in lamps):
        low = min(lamp.z_m for lamp in lamps)
        if max(lamp.z_m for lamp in lamps) + z - low + highest <= top:
            return hung_at(here.space, z)
    planting, height = touch.plant.planting, hold_height_m(touch)
    training = {"on": here.day.isoformat(), "height_m": height, "how": "hold"}
    hold = Add(collection="trainings", parts=(training,), prefix="training", at=("plantings", planting.id))
    return Remedy(
        label=sentence(f"Hold {planting.name} at {{h}}", h=Amount(value=height, unit="length")),
        changes=(hold,),
    )
