"""Crowns of plants as light sees them, and the points that stand for their leaves."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
POINTS_PER_CROWN = 7
_RING = 0.72
# Where a tray's leaves are read: its middle, the middles of its quarters, and its two ends, as shares of half of it.
_IN_TRAY = ((0, 0), (-0.6, -0.6), (0.6, -0.6), (-0.6, 0.6), (0.6, 0.6), (-0.85, 0), (0.85, 0))


@dataclass(frozen=True, kw_only=True)
class Crown:
    """A plant's crown: its middle [m], its lowest and highest leaves [m], its radius [m], and the way it faces.

    A crown that faces outward is a disc of that radius at its outer end, ``reach_m`` beyond the middle. Its leaves
    (``lai`` over its own ground, ``extinction`` k) weaken light that passes through; none with ``lai`` 0. A crown that
    ``climbs`` has its leaves on its flank all the way down: on the side that faces ``away`` from a wall or trellis, all
    round where that is (0, 0). A tray of plants reaches ``half_m`` to the right and back; None for a round crown.
    """

    x_m: float
    y_m: float
    bottom_m: float
    top_m: float
    radius_m: float
    facing: tuple[float, float, float] = (0.0, 0.0, 1.0)
    reach_m: float = 0.0
    lai: float = 0.0
    extinction: float = 0.6
    climbs: bool = False
    away: tuple[float, float] = (0.0, 0.0)
    half_m: tuple[float, float] | None = None

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        # Found once: crowns are looked up by the thousand.
        return hash(tuple(getattr(self, field.name) for field in fields(self)))

    @cached_property
    def middle(self) -> Array:
        """Middle of its ellipsoid, shape (3,) [m]."""
        return np.array([self.x_m, self.y_m, (self.bottom_m + self.top_m) / 2])

    @cached_property
    def semi_axes(self) -> Array:
        """Half its extent along x, y and z, shape (3,) [m]."""
        upright = max((self.top_m - self.bottom_m) / 2, 1e-3)
        if self.half_m is not None:
            return np.array([*self.half_m, upright])
        if self.upward:
            return np.array([self.radius_m, self.radius_m, upright])
        reach, along = max(self.reach_m, 1e-3), abs(self.facing[0]) > abs(self.facing[1])
        return np.array([reach, self.radius_m, upright] if along else [self.radius_m, reach, upright])

    @cached_property
    def weakening_per_m(self) -> float:
        """How strongly leaves weaken light along its way: extinction times leaf area density [1/m].

        The leaves, LAI over the crown's own ground, fill an ellipsoid of that ground and height evenly.
        """
        a, b, c = self.semi_axes
        depth = 4 / 3 * (c if self.upward else min(a, b))
        return self.extinction * self.lai / float(depth)

    @cached_property
    def volume_m3(self) -> float:
        """Volume of its ellipsoid [m³]."""
        return float(4 / 3 * np.pi * np.prod(self.semi_axes))

    @property
    def upward(self) -> bool:
        """Whether it faces up."""
        return self.facing[2] > 0.5


@lru_cache(maxsize=32)
def same(crowns: tuple[Crown, ...]) -> tuple[Crown, ...]:
    """Give crowns as they were met before, if they were: those are told to be the same at a glance.

    Parameters
    ----------
    crowns : any, the same or others in any order

    Returns
    -------
    tuple of Crown : equal to these
    """
    return crowns


def leaf_points(crown: Crown, size_m: tuple[float, float, float]) -> Array:
    """Give the points that stand for a crown's outer face.

    Parameters
    ----------
    size_m : inner size of the space; points are drawn in to lie inside [m]

    Returns
    -------
    ndarray : shape (7, 3): its middle and six round it, or spread over a tray; of a climber seven down its flank, from
        the tip to the lowest leaves, each for a seventh of its height [m]
    """
    angle = np.arange(6) / 6 * 2 * np.pi
    ring = _RING * crown.radius_m
    a = np.concatenate([[0.0], ring * np.cos(angle)])
    b = np.concatenate([[0.0], ring * np.sin(angle)])
    if crown.half_m is not None:
        spots = np.array(_IN_TRAY) * crown.half_m
        points = np.column_stack([spots + np.array([crown.x_m, crown.y_m]), np.full(POINTS_PER_CROWN, crown.top_m)])
    elif crown.climbs:
        points = _flank(crown)
    elif crown.upward:
        points = np.stack([crown.x_m + a, crown.y_m + b, np.full(POINTS_PER_CROWN, crown.top_m)], axis=1)
    else:
        way = np.array(crown.facing)
        side = np.array([-way[1], way[0], 0.0])
        middle = np.array([crown.x_m, crown.y_m, (crown.bottom_m + crown.top_m) / 2]) + way * crown.reach_m
        points = middle + a[:, None] * side + b[:, None] * np.array([0.0, 0.0, 1.0])
    limit = np.array(size_m)
    return np.asarray(np.clip(points, 1e-3, limit - 1e-3))


def leaf_normals(crown: Crown) -> tuple[Array, ...]:
    """Give the ways that leaves at a crown's points can turn to the light.

    Returns
    -------
    tuple of ndarray : unit vectors, shape (7, 3) each: the way the crown faces; of a climber also away from its wall or
        trellis, or along a pole to all four sides
    """
    ways = [crown.facing]
    if crown.climbs and crown.away != (0.0, 0.0):
        ways.append((*crown.away, 0.0))
    elif crown.climbs:
        ways += [(1.0, 0.0, 0.0), (-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, -1.0, 0.0)]
    return tuple(np.tile(np.array(way), (POINTS_PER_CROWN, 1)) for way in ways)


# A climber's seven heights, as shares of its own height down from the tip.
_DOWN = (np.arange(POINTS_PER_CROWN) + 0.5) / POINTS_PER_CROWN


def _flank(crown: Crown) -> Array:
    """Points down a climber: on the side away from its wall; along the middle of one that light reaches all round."""
    wide = crown.radius_m * np.sqrt(1 - (1 - 2 * _DOWN) ** 2)
    z = crown.top_m - _DOWN * (crown.top_m - crown.bottom_m)
    return np.stack([crown.x_m + wide * crown.away[0], crown.y_m + wide * crown.away[1], z], axis=1)
