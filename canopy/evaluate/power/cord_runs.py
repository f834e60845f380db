"""Cords as they run: out of which hole of the space, and how long each has to be, measured on the drawing."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.plan.airways import Stirrer
from canopy.plan.document import Device, Plan, Space
from canopy.plan.plugs import Carrier, Outlet
from canopy.plan.shell import Opening
from canopy.power import Tree

# What is added for corners, hangers and plugs, and for the loop below the outlet [share, m].
_SLACK, _LOOP_M = 0.1, 0.3
Point = tuple[float, float, float]


@dataclass(frozen=True, kw_only=True)
class CordRun:
    """A cord of one thing: through which hole, how long inside, from there to the outlet, and in all [m].

    ``outside_m`` is None where nobody said how far the outlet is, ``hole`` where the space has none for cords;
    ``given_m`` is what the strip's own cord spans of it.
    """

    part_id: str
    name: str
    hole: Opening | None
    inside_m: float
    outside_m: float | None
    outlet: str
    given_m: float = 0.0

    @property
    def needs_m(self) -> float:
        """How long its cord has to be, as far as is known [m]."""
        along = self.inside_m + max(0.0, (self.outside_m or 0.0) - self.given_m)
        return (1 + _SLACK) * along + _LOOP_M


def cord_runs(plan: Plan, space: Space, tree: Tree) -> tuple[CordRun, ...]:
    """Measure the cords of a space.

    Parameters
    ----------
    plan : the household
    space : one of its spaces
    tree : of the household

    Returns
    -------
    tuple of CordRun : of lamps, circulation fans and devices whose place is known; a lamp's cord goes up to the ceiling
        and over to its hole, the others along the walls; linked lamps but the first need none
    """
    holes = [opening for opening in space.openings if opening.use == "cable"]
    found, linked = [], set[str]()
    for lamp in space.fixtures:
        if not lamp.enabled or (lamp.chain and lamp.chain in linked):
            continue
        linked.add(lamp.chain)
        at = (lamp.x_m, lamp.y_m, lamp.z_m)
        found.append(_run(space, tree, holes, lamp.id, lamp.spec.name, lamp.plug, at, over=True))
    others: tuple[Stirrer | Device, ...] = (*space.stirrers, *space.devices)
    for item in others:
        if item.x_m is not None and item.y_m is not None and item.z_m is not None:
            at = (item.x_m, item.y_m, item.z_m)
            found.append(_run(space, tree, holes, item.id, item.spec.name, item.plug, at, over=False))
    return tuple(found)


def point_of(space: Space, opening: Opening) -> Point:
    """Give where a hole is.

    Parameters
    ----------
    space : whose hole it is
    opening : in one of its faces

    Returns
    -------
    tuple of float : x, y, z of its middle [m]
    """
    size, u, v = space.size, opening.u_m, opening.v_m
    if opening.face in ("left", "right"):
        return (0.0 if opening.face == "left" else size.width_m, u, v)
    if opening.face in ("front", "back"):
        return (u, 0.0 if opening.face == "front" else size.depth_m, v)
    return (u, v, 0.0 if opening.face == "floor" else size.height_m)


def _run(
    space: Space,
    tree: Tree,
    holes: list[Opening],
    part_id: str,
    name: str,
    plug: str | None,
    at: Point,
    *,
    over: bool,
) -> CordRun:
    def inside(hole: Opening) -> float:
        x, y, z = point_of(space, hole)
        flat = abs(at[0] - x) + abs(at[1] - y)
        up = (space.size.height_m - at[2]) + (space.size.height_m - z) if over else abs(at[2] - z)
        return flat + up

    hole = min(holes, key=inside, default=None)
    way = list(tree.way(plug)) if plug in tree.nodes else []
    outlet = next((node.item for node in way if isinstance(node.item, Outlet)), None)
    given = sum(node.item.length_m or 0.0 for node in way if isinstance(node.item, Carrier))
    outside = None
    if outlet is not None and outlet.reach_m is not None:
        low = point_of(space, hole)[2] if hole is not None else 0.0
        outside = outlet.reach_m + abs(low - (outlet.height_m or 0.0))
    return CordRun(
        part_id=part_id,
        name=name,
        hole=hole,
        inside_m=inside(hole) if hole is not None else _to_the_floor(space, at, over=over),
        outside_m=outside,
        outlet=outlet.name if outlet is not None else "",
        given_m=given,
    )


def _to_the_floor(space: Space, at: Point, *, over: bool) -> float:
    """Without a hole for cords: to the nearest side and down to the floor, where the door leaves a gap."""
    side = min(at[0], space.size.width_m - at[0], at[1], space.size.depth_m - at[1])
    return side + (2 * space.size.height_m - at[2] if over else at[2])
