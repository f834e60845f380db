"""Where climbers hold on: plants that climb a wall, a trellis or a column stand at it, whatever place was typed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import atan2, cos, degrees, hypot, radians, sin

from canopy.plan.document import Plan, Space
from canopy.plan.plants import Plant

# The stem of a climber stands so far off what it climbs, or as far as half its pot is wide [m].
_OFF_M = 0.02
# A pot whose width is not known is taken as so many times as wide as it is high.
_POT_SHARE = 1.1
# A place is taken as settled within this [m].
_NEAR_M = 1e-4


@dataclass(frozen=True, kw_only=True)
class Hold:
    """Where a climber's stem stands [m], and the way it grows outward from there [°] (0 = +x, 90 = +y)."""

    x_m: float
    y_m: float
    facing_deg: float


def holds_of(space: Space, x_m: float, y_m: float, off_m: float = _OFF_M) -> Iterator[Hold]:
    """Give the nearest place at each thing that a climber can hold on to.

    Parameters
    ----------
    space : with its walls, trellises and columns
    x_m : where the plant was put, from the left [m]
    y_m : from the front [m]
    off_m : how far its stem stands off what it climbs [m]

    Returns
    -------
    iterator of Hold : the four walls, the back first (an open side holds nothing), then trellises, then columns
    """
    width, depth = space.size.width_m, space.size.depth_m
    faces = space.faces
    if faces.back.material_id != "open":
        yield Hold(x_m=x_m, y_m=depth - off_m, facing_deg=270.0)
    if faces.left.material_id != "open":
        yield Hold(x_m=off_m, y_m=y_m, facing_deg=0.0)
    if faces.right.material_id != "open":
        yield Hold(x_m=width - off_m, y_m=y_m, facing_deg=180.0)
    if faces.front.material_id != "open":
        yield Hold(x_m=x_m, y_m=off_m, facing_deg=90.0)
    for trellis in space.trellises:
        half = trellis.width_m / 2
        if trellis.along == "width":
            x, side = min(max(x_m, trellis.x_m - half), trellis.x_m + half), 1 if y_m > trellis.y_m else -1
            yield Hold(x_m=x, y_m=trellis.y_m + side * off_m, facing_deg=90.0 if side > 0 else 270.0)
        else:
            y, side = min(max(y_m, trellis.y_m - half), trellis.y_m + half), 1 if x_m > trellis.x_m else -1
            yield Hold(x_m=trellis.x_m + side * off_m, y_m=y, facing_deg=0.0 if side > 0 else 180.0)
    for column in space.columns:
        turn = atan2(y_m - column.y_m, x_m - column.x_m)
        reach = column.diameter_m / 2 + off_m
        yield Hold(
            x_m=column.x_m + reach * cos(turn), y_m=column.y_m + reach * sin(turn), facing_deg=degrees(turn) % 360
        )


def held(space: Space, plant: Plant) -> Plant:
    """Put a climber at what it climbs.

    Parameters
    ----------
    space : with what it can climb
    plant : where somebody put it

    Returns
    -------
    Plant : at the nearest wall, trellis or column if it climbs one, facing away from it; else as it was
    """
    if plant.habit != "wall":
        return plant
    wide = plant.pot_width_m or _POT_SHARE * plant.pot_height_m
    off_m = max(_OFF_M, wide / 2)
    found = list(holds_of(space, plant.x_m, plant.y_m, off_m))
    if not found or any(_stands_at(hold, plant) for hold in found):
        return plant
    # Nearest by the wall or trellis itself, not by where the pot then stands.
    bare = list(holds_of(space, plant.x_m, plant.y_m, 0.0))
    far = [hypot(hold.x_m - plant.x_m, hold.y_m - plant.y_m) for hold in bare]
    hold = found[far.index(min(far))]
    return plant.model_copy(
        update={"x_m": round(hold.x_m, 4), "y_m": round(hold.y_m, 4), "facing_deg": round(hold.facing_deg, 1)}
    )


def _stands_at(hold: Hold, plant: Plant) -> bool:
    """Whether a plant stands there already and faces that way: in a corner it then stays at its wall."""
    turn = radians(hold.facing_deg - plant.facing_deg)
    return hypot(hold.x_m - plant.x_m, hold.y_m - plant.y_m) < _NEAR_M and cos(turn) > 1 - 1e-5


def climbers_held(plan: Plan) -> Plan:
    """Put all climbers of a plan at what they climb.

    Parameters
    ----------
    plan : a sound plan

    Returns
    -------
    Plan : the same one where all stand there already
    """
    if not any(plant.habit == "wall" for space in plan.spaces for plant in space.plants):
        return plan
    spaces = []
    for space in plan.spaces:
        plants = tuple(held(space, plant) for plant in space.plants)
        spaces.append(space if plants == space.plants else space.model_copy(update={"plants": plants}))
    return plan if tuple(spaces) == plan.spaces else plan.model_copy(update={"spaces": tuple(spaces)})
