"""Sensible first measures for what is added to a space, to be changed from there."""

from __future__ import annotations

from math import hypot
from typing import Any

from canopy.equipment import DeviceSpec
from canopy.plan import Column, Daylight, Device, HungItem, Opening, Shelf, Space, Trellis
from canopy.plan.furnishing import Lid, WetSurface
from canopy.plan.solids import TOUCH_M, column_solid, free_place, lamp_solid, overlap_m


def fresh_opening(space: Space) -> dict[str, Any]:
    """Make an opening for air low in the right wall, into no other opening.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    size = space.size
    d = min(0.1, size.depth_m / 3, size.height_m / 3)
    made = Opening(
        id="new", face="right", u_m=round(size.depth_m / 2, 3), v_m=round(d, 3), diameter_m=round(d, 3), use="intake"
    )
    return (free_place(space, made) or made).model_dump(mode="json")


def fresh_shelf(space: Space) -> dict[str, Any]:
    """Make a shelf over the whole floor, half way between the highest one and the ceiling.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    highest = max((shelf.z_m for shelf in space.shelves), default=0.0)
    room = space.size.height_m - highest
    made = Shelf(
        id="new",
        name=f"Shelf {len(space.shelves) + 1}",
        z_m=round(highest + room / 2, 2),
        width_m=space.size.width_m,
        depth_m=space.size.depth_m,
    )
    return made.model_dump(mode="json")


def fresh_column(space: Space) -> dict[str, Any]:
    """Make a column near the middle of the floor, clear of lamps, shelves, stems and other columns where there is room.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    d = min(0.2, space.size.width_m / 3, space.size.depth_m / 3)
    made = Column(
        id="new",
        name=f"Column {len(space.columns) + 1}",
        x_m=round(space.size.width_m / 2, 3),
        y_m=round(space.size.depth_m / 2, 3),
        height_m=round(space.size.height_m * 0.8, 2),
        diameter_m=round(d, 3),
    )
    return _clear(space, made).model_dump(mode="json")


# A column keeps so far off stems and other columns, and is tried in so many places along width and depth [m].
_OFF_M, _TRIES = 0.06, 13


def _clear(space: Space, column: Column) -> Column:
    """The place nearest to where a column is that is clear; where it is when none is."""
    r, size = column.diameter_m / 2, space.size
    in_way = [(plant.x_m, plant.y_m, 0.0) for plant in space.plants]
    in_way += [(other.x_m, other.y_m, other.diameter_m / 2) for other in space.columns]
    lamps = [lamp_solid(number, lamp) for number, lamp in enumerate(space.fixtures, 1)]

    def spots(long: float) -> list[float]:
        return [r + (long - 2 * r) * k / (_TRIES - 1) for k in range(_TRIES)]

    tries = [(column.x_m, column.y_m), *((x, y) for x in spots(size.width_m) for y in spots(size.depth_m))]
    for x, y in sorted(tries, key=lambda spot: hypot(spot[0] - column.x_m, spot[1] - column.y_m)):
        moved = column.model_copy(update={"x_m": round(x, 3), "y_m": round(y, 3)})
        if any(hypot(a - x, b - y) < r + wide + _OFF_M for a, b, wide in in_way):
            continue
        if not any(overlap_m(column_solid(moved), lamp) > TOUCH_M for lamp in lamps):
            return moved
    return column


def fresh_trellis(space: Space) -> dict[str, Any]:
    """Make a trellis along the back, a hand's breadth off the wall and up to nine tenths of the height.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    size = space.size
    made = Trellis(
        id="new",
        name=f"Trellis {len(space.trellises) + 1}",
        x_m=round(size.width_m / 2, 3),
        y_m=round(size.depth_m - min(0.1, size.depth_m / 4), 3),
        width_m=round(size.width_m * 0.9, 3),
        height_m=round(size.height_m * 0.9, 3),
    )
    return made.model_dump(mode="json")


def fresh_window(space: Space) -> dict[str, Any]:
    """Make a window over most of the front.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    size = space.size
    made = Daylight(
        id="new",
        face="front",
        u_m=round(size.width_m / 2, 3),
        v_m=round(size.height_m / 2, 3),
        width_m=round(size.width_m * 0.8, 3),
        height_m=round(size.height_m * 0.8, 3),
    )
    return made.model_dump(mode="json")


def fresh_hung(space: Space) -> dict[str, Any]:
    """Make something else that hangs from the frame, of a kilogram.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    return HungItem(id="new", name="Something else", weight_kg=1.0).model_dump(mode="json")


def fresh_device(space: Space) -> dict[str, Any]:
    """Make a small device that runs all the time.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    return Device(id="new", spec=DeviceSpec(name="New device", power_w=10)).model_dump(mode="json")


# What an opening of each shape usually leaves free to the air (insect mesh; a zip or brush seam).
USUAL_CLEAR = {"mesh": 0.6, "seam": 0.5}


def usual_clear(shape: str) -> float:
    """Give what an opening of a shape usually leaves free.

    Parameters
    ----------
    shape : "round", "slit", "mesh" or "seam"

    Returns
    -------
    float : share of its area, 1 for what is simply open
    """
    return USUAL_CLEAR.get(shape, 1.0)


def fresh_lid(space: Space) -> dict[str, Any]:
    """Make a lid over the left front of the floor.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    size = space.size
    made = Lid(
        id="new",
        name=f"Lid {len(space.lids) + 1}",
        width_m=round(min(0.38, size.width_m), 3),
        depth_m=round(min(0.24, size.depth_m), 3),
        height_m=round(min(0.2, size.height_m / 2), 3),
    )
    return made.model_dump(mode="json")


def fresh_wet(space: Space) -> dict[str, Any]:
    """Make a tray of open water.

    Returns
    -------
    dict : the part's data; its id stands for none yet
    """
    made = WetSurface(
        id="new", name="Water tray", area_m2=round(0.1 * space.size.width_m * space.size.depth_m + 0.01, 2)
    )
    return made.model_dump(mode="json")
