"""Usual places of a lamp that does not hang level: upright on a wall, in a corner, along an edge under the ceiling."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from canopy.errors import PlanError, PlanProblem
from canopy.plan.document import Fixture, Space
from canopy.plan.pose import corners

_FREE_M = 0.005
# name, the lamp's three angles [°], and the walls it is pushed against along x, y and z: -1 towards the origin, 1 away
# from it, 0 in the middle.
_Pose = tuple[str, tuple[float, float, float], tuple[int, int, int]]
POSES: dict[str, _Pose] = {
    "hang": ("hanging level", (0, 0, 0), (0, 0, 0)),
    "left": ("upright on the left wall", (0, 90, 0), (-1, 0, 0)),
    "right": ("upright on the right wall", (0, 90, 180), (1, 0, 0)),
    "back": ("upright on the back wall", (0, 90, -90), (0, 1, 0)),
    "front": ("upright on the front wall", (0, 90, 90), (0, -1, 0)),
    "left-back": ("upright in the back left corner, at 45°", (0, 90, -45), (-1, 1, 0)),
    "right-back": ("upright in the back right corner, at 45°", (0, 90, -135), (1, 1, 0)),
    "left-front": ("upright in the front left corner, at 45°", (0, 90, 45), (-1, -1, 0)),
    "right-front": ("upright in the front right corner, at 45°", (0, 90, 135), (1, -1, 0)),
    "top-front": ("along the front top edge, at 45°", (45, 0, 0), (0, -1, 1)),
    "top-back": ("along the back top edge, at 45°", (-45, 0, 0), (0, 1, 1)),
    "top-left": ("along the left top edge, at 45°", (-45, 0, 90), (-1, 0, 1)),
    "top-right": ("along the right top edge, at 45°", (45, 0, 90), (1, 0, 1)),
}


# Poses among which several lamps are shared out.
SHARED: dict[str, tuple[str, tuple[str, ...]]] = {
    "corners": ("upright in the corners, shared out", ("left-back", "right-back", "left-front", "right-front")),
    "sides": ("upright on the side walls, shared out", ("left", "right")),
    "walls": ("upright on side and back walls, shared out", ("left", "right", "back")),
}


def posed_all(space: Space, lamps: Sequence[Fixture], pose: str) -> list[dict[str, float]]:
    """Give several lamps their places in a usual pose, or shared out among some.

    Parameters
    ----------
    lamps : the lamps, each of any size and place
    pose : a key of ``POSES`` or ``SHARED``

    Returns
    -------
    list of dict : values of each lamp to change; those of one wall stand evenly along it, those of one corner one over
        another

    Raises
    ------
    PlanError : a lamp is longer than the space is that way
    """
    poses = SHARED[pose][1] if pose in SHARED else (pose,)
    found = []
    for number, lamp in enumerate(lamps):
        key, rank = poses[number % len(poses)], number // len(poses)
        of = len(range(number % len(poses), len(lamps), len(poses)))
        # In a corner they stand one over another from floor to ceiling; along a wall evenly.
        stacked = of > 1 and "-" in key and not key.startswith("top")
        found.append(posed(space, lamp, key, rank / (of - 1) if stacked else (rank + 0.5) / of))
    return found


def posed(space: Space, lamp: Fixture, pose: str, along: float = 0.5) -> dict[str, float]:
    """Give a lamp's place and angles in one of its usual poses.

    Parameters
    ----------
    lamp : the lamp, of any size and place
    pose : a key of ``POSES``
    along : where it stands along what the pose leaves open, 0..1; in a corner, how high

    Returns
    -------
    dict : values of the lamp to change; along what the pose leaves open it stays in the middle, its height where that
        fits

    Raises
    ------
    PlanError : the lamp is longer than the space is that way
    """
    words, (tilt, pitch, yaw), against = POSES[pose]
    turned = lamp.model_copy(update={"tilt_deg": float(tilt), "pitch_deg": float(pitch), "yaw_deg": float(yaw)})
    at = np.array([lamp.x_m, lamp.y_m, lamp.z_m])
    box = corners(turned)
    low, high = at - box.min(axis=0), box.max(axis=0) - at
    size = np.array([space.size.width_m, space.size.depth_m, space.size.height_m])
    first, last = low + _FREE_M, size - high - _FREE_M
    if (first > last).any():
        raise PlanError([PlanProblem(path="pose", message=f"{lamp.spec.name} is too long to stand {words} here")])
    middle = (first + last) / 2
    open_axis = next((axis for axis in (1, 0, 2) if not against[axis] and (axis < 2 or pose != "hang")), 2)
    middle[open_axis] = first[open_axis] + along * (last[open_axis] - first[open_axis])
    # A lamp that hangs keeps its height; one on a wall stands in the middle of it.
    middle[2] = float(np.clip(lamp.z_m, first[2], last[2])) if pose == "hang" else middle[2]
    place = np.where(np.array(against) < 0, first, np.where(np.array(against) > 0, last, middle))
    return {
        "x_m": round(float(place[0]), 4),
        "y_m": round(float(place[1]), 4),
        "z_m": round(float(place[2]), 4),
        "tilt_deg": float(tilt),
        "pitch_deg": float(pitch),
        "yaw_deg": float(yaw),
    }
