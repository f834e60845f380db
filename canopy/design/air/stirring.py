"""A circulation fan put where it reaches the plants."""

from __future__ import annotations

from collections.abc import Callable
from itertools import product
from math import atan2, degrees, dist, hypot

from canopy.equipment import StirSpec
from canopy.evaluate.air.places import stuck
from canopy.evaluate.air.stir_margins import PlantAir, least_m_s, most_m_s, stirred
from canopy.library import stirrers
from canopy.plan.airways import Stirrer
from canopy.plan.edit import fresh_id
from canopy.plan.runs import stirrer_body
from canopy.season import Standing

# Where a circulation fan is tried: shares of width and depth, and heights over the tops as shares of the height.
_CORNERS = ((0.0, 0.5), (0.0, 0.85), (0.0, 0.15), (1.0, 0.5), (1.0, 0.85), (1.0, 0.15))
_LEVELS = (0.25, 0.15, 0.35, 0.08, 0.45)


def aimed(here: Standing, spec: StirSpec) -> Stirrer:
    """Put a circulation fan high at a wall, where it hangs free, aimed at the middle of the plants' tops.

    Parameters
    ----------
    here : the space on a day
    spec : the fan

    Returns
    -------
    Stirrer : with an id that is not taken; on the left if it is free there, aimed level across an empty space
    """
    size, number = here.space.size, len(here.space.stirrers) + 1
    first: Stirrer | None = None
    for level in _LEVELS:
        for x_share, y_share in _CORNERS:
            made = _at(here, spec, x_share, y_share * size.depth_m, level)
            first = first or made
            if not stuck(here, (stirrer_body(number, made),)):
                return made
    assert first is not None
    return first


def _at(here: Standing, spec: StirSpec, x_share: float, y: float, level: float) -> Stirrer:
    size, plants = here.space.size, here.plants
    count = max(1, len(plants))
    top = max((plant.top_m for plant in plants), default=0.4 * size.height_m)
    aim_x = sum(plant.x_m for plant in plants) / count if plants else size.width_m / 2
    aim_y = sum(plant.y_m for plant in plants) / count if plants else size.depth_m / 2
    aim_z = sum(plant.top_m for plant in plants) / count if plants else top
    reach = min(spec.diameter_m / 2 + 0.01, size.width_m / 2, size.depth_m / 2, size.height_m / 2)
    off = min(max(0.06 * size.width_m, reach), size.width_m / 2)
    x = off if x_share < 0.5 else size.width_m - off
    y = min(max(y, reach), size.depth_m - reach)
    z = max(reach, min(top + level * size.height_m, 0.92 * size.height_m, size.height_m - reach))
    return Stirrer(
        id=fresh_id("stirrer", (fan.id for fan in here.space.stirrers)),
        spec=spec,
        x_m=round(x, 3),
        y_m=round(y, 3),
        z_m=round(z, 3),
        yaw_deg=round(degrees(atan2(aim_y - y, aim_x - x)), 0)
        if hypot(aim_x - x, aim_y - y) > 0.01
        else 0.0
        if x_share < 0.5
        else 180.0,
        pitch_deg=-round(degrees(atan2(max(z - aim_z, 0.0), max(hypot(aim_x - x, aim_y - y), 0.05))), 0)
        if plants
        else 0.0,
        swings=spec.sweep_deg > 0,
    )


def freed(here: Standing, stirrer: Stirrer) -> Stirrer | None:
    """Move a circulation fan to the nearest place where it hangs free, aimed as it is.

    Parameters
    ----------
    here : the space on a day
    stirrer : one of its circulation fans

    Returns
    -------
    Stirrer : None where it finds no room
    """
    size = here.space.size
    number = 1 + next(n for n, fan in enumerate(here.space.stirrers) if fan.id == stirrer.id)
    body = stirrer_body(number, stirrer)
    half = [(high - low) / 2 for low, high in zip(body.low, body.high, strict=True)]
    most = (size.width_m, size.depth_m, size.height_m)
    place = (stirrer.x_m, stirrer.y_m, stirrer.z_m)
    if any(2 * h > m for h, m in zip(half, most, strict=True)):
        return None
    axes = [
        sorted({min(max(at, h), m - h), *(h + (m - 2 * h) * k / _TRIED for k in range(_TRIED + 1))})
        for at, h, m in zip(place, half, most, strict=True)
    ]
    crowns = {plant.id for plant in here.plants}
    for spot in sorted(product(*axes), key=lambda spot: dist(spot, place)):
        keys = zip(("x_m", "y_m", "z_m"), spot, strict=True)
        moved = stirrer.model_copy(update={key: round(value, 3) for key, value in keys})
        if all(item.other_id in crowns for item in stuck(here, (stirrer_body(number, moved),))):
            return moved
    return None


_TRIED = 10


def suggest_stirrer(here: Standing) -> Stirrer | None:
    """Find the smallest circulation fan of the library that reaches every plant without blowing too hard.

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
