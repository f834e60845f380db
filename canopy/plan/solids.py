"""What takes up room in a space, as convex solids, and how deep two of them stand in each other."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from canopy.plan.document import Fixture, Space
from canopy.plan.furnishing import Column, Shelf
from canopy.plan.pose import axes, corners
from canopy.plan.shell import Opening

Array = NDArray[np.float64]
_SIDES = 16
# An opening that is placed keeps so far from the edges of its face [m].
_RIM_M = 0.02
# Bodies may touch, and figures are typed to the millimetre [m].
TOUCH_M = 0.004


@dataclass(frozen=True, kw_only=True, eq=False)
class Solid:
    """A convex body: its part's id and name, corners (n, 3) [m], unit normals of its faces (k, 3) and ways of its edges
    (m, 3).
    """

    part_id: str
    name: str
    points: Array
    normals: Array
    edges: Array


def lamp_solid(number: int, lamp: Fixture) -> Solid:
    """Give a lamp's body.

    Parameters
    ----------
    number : its number in the space's list, for its name
    lamp : as it hangs

    Returns
    -------
    Solid : a box; of a frame of bars the whole frame
    """
    frame = np.stack(axes(lamp))
    return Solid(
        part_id=lamp.id, name=f"lamp {number}, {lamp.spec.name}", points=corners(lamp), normals=frame, edges=frame
    )


def shelf_solid(shelf: Shelf) -> Solid:
    """Give a shelf's body.

    Returns
    -------
    Solid : a level box
    """
    low = np.array([shelf.x_m, shelf.y_m, shelf.z_m - shelf.thickness_m])
    size = np.array([shelf.width_m, shelf.depth_m, max(shelf.thickness_m, 1e-3)])
    points = low + size * np.array([[a, b, c] for a in (0, 1) for b in (0, 1) for c in (0, 1)])
    return Solid(part_id=shelf.id, name=shelf.name, points=points, normals=np.eye(3), edges=np.eye(3))


def column_solid(column: Column) -> Solid:
    """Give a column's body.

    Returns
    -------
    Solid : an upright prism of sixteen sides, as wide as the column
    """
    turn = (np.arange(_SIDES) + 0.5) * 2 * np.pi / _SIDES
    reach = column.diameter_m / 2 / np.cos(np.pi / _SIDES)
    ring = np.stack([column.x_m + reach * np.cos(turn), column.y_m + reach * np.sin(turn)], axis=1)
    points = np.concatenate(
        [np.column_stack([ring, np.full(_SIDES, z)]) for z in (column.z_m, column.z_m + column.height_m)]
    )
    sides = np.arange(_SIDES // 2) * 2 * np.pi / _SIDES
    normals = np.stack([np.cos(sides), np.sin(sides), np.zeros(len(sides))], axis=1)
    along = np.stack([-np.sin(sides), np.cos(sides), np.zeros(len(sides))], axis=1)
    up = np.array([[0.0, 0.0, 1.0]])
    return Solid(
        part_id=column.id,
        name=column.name,
        points=points,
        normals=np.concatenate([normals, up]),
        edges=np.concatenate([along, up]),
    )


def overlap_m(one: Solid, two: Solid) -> float:
    """Say how deep two bodies stand in each other.

    Parameters
    ----------
    one : a convex body
    two : another

    Returns
    -------
    float : the shortest way by which one could be moved out of the other; 0 or less where they stand apart [m]

    Notes
    -----
    Separating axes: faces' normals of both, and the cross products of their edges. Exact for convex polyhedra.
    """
    crossed = np.cross(one.edges[:, None], two.edges[None]).reshape(-1, 3)
    length = np.linalg.norm(crossed, axis=1)
    ways = np.concatenate([one.normals, two.normals, crossed[length > 1e-6] / length[length > 1e-6, None]])
    a, b = one.points @ ways.T, two.points @ ways.T
    ahead = a.max(axis=0) - b.min(axis=0)
    behind = b.max(axis=0) - a.min(axis=0)
    return float(np.minimum(ahead, behind).min())


@dataclass(frozen=True, kw_only=True)
class Clash:
    """Two things that stand in each other: their ids and names, and how deep [m]."""

    one_id: str
    two_id: str
    one: str
    two: str
    depth_m: float


def clashes(space: Space) -> Iterator[Clash]:
    """Find lamps that stand in each other, in a shelf or in a column.

    Parameters
    ----------
    space : with its lamps, shelves and columns

    Returns
    -------
    iterator of Clash : pairs that overlap by more than they may touch; the second is always a lamp
    """
    lamps = [lamp_solid(number, lamp) for number, lamp in enumerate(space.fixtures, 1)]
    fixed = [*map(shelf_solid, space.shelves), *map(column_solid, space.columns)]
    pairs = [*combinations(lamps, 2), *((body, lamp) for body in fixed for lamp in lamps)]
    for one, two in pairs:
        if (one.points.min(axis=0) > two.points.max(axis=0)).any() or (
            two.points.min(axis=0) > one.points.max(axis=0)
        ).any():
            continue
        depth = overlap_m(one, two)
        if depth > TOUCH_M:
            yield Clash(one_id=one.part_id, two_id=two.part_id, one=one.name, two=two.name, depth_m=depth)


def holes_overlap(one: Opening, two: Opening) -> bool:
    """Say whether two openings of a face are cut into each other.

    Parameters
    ----------
    one : of any shape
    two : of any shape, on any face

    Returns
    -------
    bool : by circles and rectangles; a door's seam runs where it will and cuts nothing
    """
    if one.face != two.face or "seam" in (one.shape, two.shape):
        return False
    if one.shape == two.shape == "round":
        return bool(np.hypot(one.u_m - two.u_m, one.v_m - two.v_m) < (one.across_m + two.across_m) / 2 - TOUCH_M)
    if "round" in (one.shape, two.shape):
        disc, box = (one, two) if one.shape == "round" else (two, one)
        du = max(0.0, abs(disc.u_m - box.u_m) - box.across_m / 2)
        dv = max(0.0, abs(disc.v_m - box.v_m) - box.up_m / 2)
        return bool(np.hypot(du, dv) < disc.across_m / 2 - TOUCH_M)
    beside = abs(one.u_m - two.u_m) - (one.across_m + two.across_m) / 2
    above = abs(one.v_m - two.v_m) - (one.up_m + two.up_m) / 2
    return max(beside, above) < -TOUCH_M


def cut_into(space: Space) -> Iterator[tuple[Opening, Opening]]:
    """Find openings that are cut into each other.

    Returns
    -------
    iterator of (Opening, Opening) : in the order of the space's list
    """
    yield from ((a, b) for a, b in combinations(space.openings, 2) if holes_overlap(a, b))


def free_place(space: Space, hole: Opening, blocked: Callable[[Opening], bool] | None = None) -> Opening | None:
    """Find the nearest place on its face where an opening is cut into no other.

    Parameters
    ----------
    space : with its openings, the one itself among them or not
    hole : as it is
    blocked : says of the opening in another place whether something else is in its way there

    Returns
    -------
    Opening : where it is if that is free; None where its face has no room
    """
    others = [other for other in space.openings if other.id != hole.id and other.face == hole.face]
    wide = space.size.depth_m if hole.face in ("left", "right") else space.size.width_m
    high = space.size.depth_m if hole.face in ("floor", "ceiling") else space.size.height_m
    first = (hole.across_m / 2, hole.up_m / 2)
    last = (wide - first[0], high - first[1])
    if last[0] < first[0] or last[1] < first[1]:
        return None
    # A rim holds a flange, and lets a port grow by a size.
    rim = [min(_RIM_M, (most - least) / 2) for least, most in zip(first, last, strict=True)]
    first, last = (first[0] + rim[0], first[1] + rim[1]), (last[0] - rim[0], last[1] - rim[1])
    spots = [(hole.u_m, hole.v_m)]
    spots += [
        (float(u), float(v)) for u in np.linspace(first[0], last[0], 33) for v in np.linspace(first[1], last[1], 33)
    ]
    for u, v in sorted(spots, key=lambda spot: (spot[0] - hole.u_m) ** 2 + (spot[1] - hole.v_m) ** 2):
        moved = hole.model_copy(update={"u_m": round(u, 4), "v_m": round(v, 4)})
        if any(holes_overlap(moved, other) for other in others):
            continue
        if blocked is None or not blocked(moved):
            return moved
    return None
