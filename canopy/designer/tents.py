"""Which size of tent: inner sizes as tents are sold, the smallest floor first."""

from __future__ import annotations

from collections.abc import Iterable

from canopy.library import Crop

# Width, depth and height inside [m]: the steps in which tents are usually sold, whoever makes them.
TENTS_M: tuple[tuple[float, float, float], ...] = (
    (0.6, 0.4, 1.2),
    (0.6, 0.6, 1.6),
    (0.8, 0.8, 1.6),
    (0.9, 0.6, 1.6),
    (1.0, 1.0, 2.0),
    (1.2, 0.6, 1.8),
    (1.2, 1.2, 2.0),
    (1.5, 1.5, 2.0),
    (2.4, 1.2, 2.0),
    (2.4, 2.4, 2.0),
    (3.0, 3.0, 2.0),
)
# What part of a floor is taken up where plants stand at their spacing in a tent of right angles.
_FILLED = 0.7


def tents_for(wanted: Iterable[tuple[Crop, int]]) -> tuple[tuple[float, float, float], ...]:
    """List the tents whose floor has room for what is to grow.

    Parameters
    ----------
    wanted : crops with how many of each; 0 counts as one

    Returns
    -------
    tuple : width, depth and height of each, the smallest floor first [m]; empty where not even the largest has room
    """
    area = sum(max(1, count) * crop.spacing_m**2 for crop, count in wanted) / _FILLED
    able = [size for size in TENTS_M if size[0] * size[1] >= area]
    return tuple(sorted(able, key=lambda size: (size[0] * size[1], size[2])))
