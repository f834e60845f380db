"""A stirring fan put where it reaches the plants."""

from __future__ import annotations

from collections.abc import Callable
from math import atan2, degrees, hypot

from canopy.equipment import StirSpec
from canopy.evaluate.air.stir_margins import PlantAir, least_m_s, most_m_s, stirred
from canopy.library import stirrers
from canopy.plan.airways import Stirrer
from canopy.plan.edit import fresh_id
from canopy.season import Standing


def aimed(here: Standing, spec: StirSpec) -> Stirrer:
    """Put a stirring fan high on the left, aimed at the middle of the plants' tops.

    Parameters
    ----------
    here : the space on a day
    spec : the fan

    Returns
    -------
    Stirrer : with an id that is not taken; aimed level across an empty space
    """
    size, plants = here.space.size, here.plants
    count = max(1, len(plants))
    top = max((plant.top_m for plant in plants), default=0.4 * size.height_m)
    aim_x = sum(plant.x_m for plant in plants) / count if plants else size.width_m / 2
    aim_y = sum(plant.y_m for plant in plants) / count if plants else size.depth_m / 2
    aim_z = sum(plant.top_m for plant in plants) / count if plants else top
    x, y, z = 0.06 * size.width_m, 0.5 * size.depth_m, min(top + 0.25 * size.height_m, 0.92 * size.height_m)
    return Stirrer(
        id=fresh_id("stirrer", (fan.id for fan in here.space.stirrers)),
        spec=spec,
        x_m=round(x, 3),
        y_m=round(y, 3),
        z_m=round(z, 3),
        yaw_deg=round(degrees(atan2(aim_y - y, max(aim_x - x, 0.01))), 0),
        pitch_deg=-round(degrees(atan2(max(z - aim_z, 0.0), max(hypot(aim_x - x, aim_y - y), 0.05))), 0)
        if plants
        else 0.0,
        swings=spec.sweep_deg > 0,
    )


def suggest_stirrer(here: Standing) -> Stirrer | None:
    """Find the smallest stirring fan of the library that reaches every plant without blowing too hard.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    Stirrer : high on the left, aimed at the middle of the tops; the one that leaves fewest out where none reaches all;
        None without plants
    """
    if not here.plants:
        return None

    best: tuple[float, float, Stirrer] | None = None
    for row in sorted(stirrers().values(), key=lambda row: row.spec.flow_m3_h):
        if row.spec.kind not in ("usb", "clip"):
            continue
        made = aimed(here, row.spec)
        for speed in row.spec.steps or (1.0,):
            set_to = made.model_copy(update={"speed": speed})
            found = stirred(here.moved(here.space.model_copy(update={"stirrers": (*here.space.stirrers, set_to)})))
            missed = _missed(found.plants, least_m_s, most_m_s)
            if best is None or missed < best[0]:
                best = (missed, row.spec.power_w * speed**3, set_to)
            if missed == 0:
                return set_to
    return best[2] if best else None


def _missed(
    plants: tuple[PlantAir, ...], least: Callable[[PlantAir], float], most: Callable[[PlantAir], float]
) -> float:
    """How many plants lie outside what they stand, and a little for those below what they like."""
    out = sum(1.0 for item in plants if not least(item) <= item.speed_m_s <= most(item))
    return out + 0.01 * sum(1 for item in plants if item.speed_m_s < item.plant.want.air_speed_m_s.low)
