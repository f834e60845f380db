"""How each lamp is borne, and the bars that a space needs to hang things from."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians
from typing import Literal

from canopy.library import fixtures
from canopy.plan.document import Fixture, Space
from canopy.plan.furnishing import Shelf

Mount = Literal["ropes", "bars", "shelf", "ceiling", "wall", "rim", "holder", "clip", "foot"]
# A lamp as near under a board, and as light, is fixed to it; turned by so much it is fixed to a wall.
_NEAR_M, _LIGHT_KG, _TURNED_DEG = 0.15, 1.5, 45.0
# Two ropes hold a lamp at so much of its length from its middle; bars nearer than this are one.
_ROPE_AT, _SAME_M = 0.4, 0.06
_BARRED = ("closet", "cabinet")


def mount_of(space: Space, lamp: Fixture) -> Mount:
    """Say how a lamp is borne.

    Parameters
    ----------
    space : the space in which it is
    lamp : one of its lamps

    Returns
    -------
    str : "ropes" to a frame that is there, "bars" for ropes to bars that are put in, under a "shelf" or the "ceiling",
        to a "wall", across the "rim" of a case, in a "holder", by its "clip", on its "foot"
    """
    row = fixtures().get(lamp.spec.class_id)
    if row is not None and row.mount != "hung":
        return row.mount
    if abs(lamp.tilt_deg) >= _TURNED_DEG or abs(lamp.pitch_deg) >= _TURNED_DEG:
        return "wall"
    light = (lamp.spec.weight_kg or 0.0) <= _LIGHT_KG
    if light and shelf_over(space, lamp) is not None:
        return "shelf"
    if space.kind == "glass-case":
        return "rim"
    if space.kind in _BARRED:
        near = space.size.height_m - lamp.z_m - lamp.spec.thickness_m <= _NEAR_M
        return "ceiling" if light and near else "bars"
    return "ropes"


def shelf_over(space: Space, lamp: Fixture) -> Shelf | None:
    """Find the shelf right above a lamp.

    Parameters
    ----------
    space : the space in which it is
    lamp : one of its lamps

    Returns
    -------
    Shelf : the nearest within a hand's breadth over its middle; None where there is none
    """
    found = [
        shelf
        for shelf in space.shelves
        if lamp.z_m <= shelf.z_m - shelf.thickness_m + 1e-6
        and shelf.z_m - shelf.thickness_m - lamp.z_m <= _NEAR_M
        and shelf.x_m <= lamp.x_m <= shelf.x_m + shelf.width_m
        and shelf.y_m <= lamp.y_m <= shelf.y_m + shelf.depth_m
    ]
    return min(found, key=lambda shelf: shelf.z_m, default=None)


@dataclass(frozen=True, kw_only=True)
class HangingBar:
    """A bar between two walls: "x" runs along the width, "y" along the depth; ``at_m`` from the front or the left,
    ``length_m`` from wall to wall, and the numbers of the lamps that hang from it.
    """

    along: Literal["x", "y"]
    at_m: float
    length_m: float
    lamps: tuple[int, ...] = ()


def bars_of(space: Space) -> tuple[HangingBar, ...]:
    """Lay out the bars from which lamps, fans and filters hang where the space brings no frame.

    Parameters
    ----------
    space : with its lamps and ways of air

    Returns
    -------
    tuple of HangingBar : two across each row of lamps, which bear fan and filter too; two along the width where there
        are no lamps; none in a tent or rack
    """
    if space.kind not in _BARRED:
        return ()
    found: dict[tuple[Literal["x", "y"], int], list[int]] = {}
    for number, lamp in enumerate(space.fixtures, 1):
        if not lamp.enabled or mount_of(space, lamp) != "bars":
            continue
        lies_along_x = abs(cos(radians(lamp.yaw_deg))) >= 0.5**0.5
        middle, most = (lamp.x_m, space.size.width_m) if lies_along_x else (lamp.y_m, space.size.depth_m)
        off = _ROPE_AT * max(lamp.spec.length_m, 4 * _SAME_M)
        for at in (middle - off, middle + off):
            across: Literal["x", "y"] = "y" if lies_along_x else "x"
            place = round(min(max(at, _SAME_M), most - _SAME_M) / _SAME_M)
            found.setdefault((across, place), []).append(number)
    inside = any(
        way.is_inside(part.id) for way in space.airways for part in way.parts if part.kind in ("fan", "filter")
    )
    if inside and space.air.hung and len(found) < 2:
        for share in (0.35, 0.65):
            found[("x", round(share * space.size.depth_m / _SAME_M))] = []
    size = space.size
    return tuple(
        HangingBar(
            along=along,
            at_m=steps * _SAME_M,
            length_m=size.width_m if along == "x" else size.depth_m,
            lamps=tuple(dict.fromkeys(numbers)),
        )
        for (along, steps), numbers in sorted(found.items())
    )
