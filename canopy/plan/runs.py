"""What of a way of air hangs inside, and where: in a straight line from its port inwards, as it is drawn."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin, sqrt

import numpy as np

from canopy.plan.airways import Airway, Stirrer, part_length_m, part_width_m
from canopy.plan.document import Space
from canopy.plan.shell import Opening
from canopy.plan.solids import Solid

# Over these axes each face looks inwards: axis and sign.
_INWARDS = {"left": (0, 1), "right": (0, -1), "front": (1, 1), "back": (1, -1), "floor": (2, 1), "ceiling": (2, -1)}
# A circulation fan is about so deep [m].
_STIR_DEEP_M = 0.06


@dataclass(frozen=True, kw_only=True)
class Body:
    """A box along the axes: its part's id and name, lowest and highest corner [m]."""

    part_id: str
    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]

    @property
    def solid(self) -> Solid:
        """The same as a convex solid."""
        low, high = np.array(self.low), np.array(self.high)
        points = low + (high - low) * np.array([[a, b, c] for a in (0, 1) for b in (0, 1) for c in (0, 1)])
        return Solid(part_id=self.part_id, name=self.name, points=points, normals=np.eye(3), edges=np.eye(3))


def inside_run(space: Space, airway: Airway, hole: Opening | None = None) -> tuple[Body, ...]:
    """Give what of a way of air hangs inside.

    Parameters
    ----------
    airway : one of its ways
    hole : the port, where it is looked at in another place than its own

    Returns
    -------
    tuple of Body : fans, filters and fittings from the port inwards, drawn in between the walls across; no further than
        the wall across the space. None without a port, and of ducts, bends and cones, which give way
    """
    port = airway.port
    hole = hole or next((o for o in space.openings if port and o.id == port.opening_id), None)
    if hole is None:
        return ()
    parts = [part for part in airway.parts if airway.is_inside(part.id) and part.kind != "port"]
    if airway.way == "out":
        parts.reverse()
    axis, sign = _INWARDS[hole.face]
    size = np.array([space.size.width_m, space.size.depth_m, space.size.height_m])
    across = [k for k in range(3) if k != axis]
    middle = np.zeros(3)
    middle[across[0]], middle[across[1]] = hole.u_m, hole.v_m
    found, at = [], 0.0
    for part in parts:
        long, half = part_length_m(part), part_width_m(part) / 2
        ends = (min(at, float(size[axis])), min(at + long, float(size[axis])))
        at += long
        if part.kind not in ("fan", "filter", "fitting") or ends[1] - ends[0] < 0.01:
            continue
        low, high = middle.copy(), middle.copy()
        for k in across:
            centre = float(np.clip(middle[k], min(half, size[k] / 2), max(size[k] - half, size[k] / 2)))
            low[k], high[k] = centre - half, centre + half
        along = sorted(end if sign > 0 else float(size[axis]) - end for end in ends)
        low[axis], high[axis] = along
        found.append(Body(part_id=part.id, name=part.spec.name, low=_triple(low), high=_triple(high)))
    return tuple(found)


def mouth(space: Space, hole: Opening) -> Body:
    """Give the short stub that a duct through an opening needs inside.

    Returns
    -------
    Body : as wide as the opening, half as deep
    """
    axis, sign = _INWARDS[hole.face]
    size = (space.size.width_m, space.size.depth_m, space.size.height_m)
    low, high = np.zeros(3), np.zeros(3)
    across = [k for k in range(3) if k != axis]
    for k, centre, wide in zip(across, (hole.u_m, hole.v_m), (hole.across_m, hole.up_m), strict=True):
        low[k], high[k] = max(0.0, centre - wide / 2), min(size[k], centre + wide / 2)
    deep = min(hole.across_m / 2, size[axis])
    low[axis], high[axis] = (0.0, deep) if sign > 0 else (size[axis] - deep, size[axis])
    return Body(part_id=hole.id, name="the port", low=_triple(low), high=_triple(high))


def _triple(values: np.ndarray) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def stirrer_body(number: int, stirrer: Stirrer) -> Body:
    """Give the box around a circulation fan.

    Parameters
    ----------
    number : its number in the space's list, for its name
    stirrer : in its place

    Returns
    -------
    Body : as wide as its blades across its aim, a hand deep along it
    """
    pitch, yaw = radians(stirrer.pitch_deg), radians(stirrer.yaw_deg)
    aim = (cos(pitch) * cos(yaw), cos(pitch) * sin(yaw), sin(pitch))
    half = [
        stirrer.spec.diameter_m / 2 * sqrt(max(0.0, 1 - part * part)) + _STIR_DEEP_M / 2 * abs(part) for part in aim
    ]
    place = (stirrer.x_m, stirrer.y_m, stirrer.z_m)
    low, high = (tuple(p + sign * h for p, h in zip(place, half, strict=True)) for sign in (-1, 1))
    return Body(
        part_id=stirrer.id,
        name=f"circulation fan {number}, {stirrer.spec.name}",
        low=(low[0], low[1], low[2]),
        high=(high[0], high[1], high[2]),
    )


def beyond_walls_m(space: Space, body: Body) -> float:
    """Say how far a body reaches through a wall, floor or ceiling.

    Returns
    -------
    float : 0 where it is inside [m]
    """
    size = (space.size.width_m, space.size.depth_m, space.size.height_m)
    return max(0.0, *(-low for low in body.low), *(high - most for high, most in zip(body.high, size, strict=True)))
