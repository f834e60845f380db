"""Levels of a space: which shelf something stands on, and what is above it."""

from __future__ import annotations

from canopy.plan.document import Fixture, Space
from canopy.plan.furnishing import Shelf
from canopy.plan.pose import axes

_SLACK_M = 0.02
_DOWNWARD = 0.7


def covers(shelf: Shelf, x_m: float, y_m: float) -> bool:
    """Say whether a shelf lies over or under a point.

    Parameters
    ----------
    x_m : from the left [m]
    y_m : from the front [m]

    Returns
    -------
    bool : True within 2 cm of its outline
    """
    inside_x = shelf.x_m - _SLACK_M <= x_m <= shelf.x_m + shelf.width_m + _SLACK_M
    return inside_x and shelf.y_m - _SLACK_M <= y_m <= shelf.y_m + shelf.depth_m + _SLACK_M


def shelf_under(space: Space, x_m: float, y_m: float, z_m: float) -> Shelf | None:
    """Find what something stands on.

    Parameters
    ----------
    x_m : from the left [m]
    y_m : from the front [m]
    z_m : height of its foot [m]

    Returns
    -------
    Shelf : the highest shelf under it; None for the floor
    """
    under = [shelf for shelf in space.shelves if shelf.z_m <= z_m + _SLACK_M and covers(shelf, x_m, y_m)]
    return max(under, key=lambda shelf: shelf.z_m, default=None)


def roof_m(space: Space, x_m: float, y_m: float, z_m: float) -> float:
    """Give the height of what is above a point.

    Parameters
    ----------
    x_m : from the left [m]
    y_m : from the front [m]
    z_m : its height [m]

    Returns
    -------
    float : underside of the lowest shelf above it, or the ceiling [m]
    """
    above = [s.z_m - s.thickness_m for s in space.shelves if s.z_m > z_m + _SLACK_M and covers(s, x_m, y_m)]
    return min(above, default=space.size.height_m)


def shines_down(fixture: Fixture) -> bool:
    """Say whether a lamp shines more down than sideways.

    Parameters
    ----------
    fixture : the lamp

    Returns
    -------
    bool : True for lamps that hang over plants
    """
    return bool(-axes(fixture).beam[2] > _DOWNWARD)
