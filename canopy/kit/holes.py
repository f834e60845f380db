"""What is drilled into each face: where, how large, what goes through, and what to mind."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import get_args

from canopy.plan.document import Space
from canopy.plan.shell import Face, Opening

# Hole saws as they are sold [mm].
SAWS_MM = (16, 20, 25, 32, 38, 44, 51, 57, 64, 68, 76, 83, 92, 102, 114, 127, 140, 152, 168, 210)
# So much is left between holes, and to an edge, for the material to hold [m].
_EDGE_M = 0.02
# Faces of glass: drilled wet, if at all.
GLASSY = ("glass", "mirror")
_USES = {"exhaust": "air out", "intake": "air in", "cable": "cords", "closed": "nothing yet"}


@dataclass(frozen=True, kw_only=True)
class Hole:
    """A hole in a face: its middle from the left (or front) edge and from the lower edge, its diameter [m], the hole
    saw that cuts it [mm] (None for what is cut out by a blade), what goes through, and what is wrong or to be minded.
    """

    opening: Opening
    face: Face
    from_side_m: float
    from_foot_m: float
    wide_m: float
    high_m: float
    saw_mm: int | None
    through: str
    grommet: bool
    notes: tuple[str, ...] = ()


def holes_of(space: Space) -> dict[Face, tuple[Hole, ...]]:
    """Lay out what is cut into each face.

    Parameters
    ----------
    space : with its openings

    Returns
    -------
    dict : faces with at least one hole, in order; holes from the lower left
    """
    found: dict[Face, tuple[Hole, ...]] = {}
    faces: tuple[Face, ...] = get_args(Face)
    for face in faces:
        mine = [opening for opening in space.openings if opening.face == face and opening.shape != "seam"]
        if mine:
            ordered = sorted(mine, key=lambda opening: (opening.v_m, opening.u_m))
            clash = _close(ordered)
            found[face] = tuple(_hole(space, opening, clash.get(opening.id, ())) for opening in ordered)
    return found


def face_m(space: Space, face: Face) -> tuple[float, float]:
    """Give the width and height of a face as one stands before it.

    Parameters
    ----------
    face : one of its six

    Returns
    -------
    tuple of float : along the floor and up, or width and depth for floor and ceiling [m]
    """
    size = space.size
    if face in ("floor", "ceiling"):
        return size.width_m, size.depth_m
    return (size.width_m if face in ("front", "back") else size.depth_m), size.height_m


def next_saw_mm(diameter_m: float) -> int | None:
    """Give the hole saw for a diameter.

    Parameters
    ----------
    diameter_m : what has to go through, over 0 [m]

    Returns
    -------
    int : the next size that is sold [mm]; None where none is as large: marked with a compass, cut with a jigsaw
    """
    return next((saw for saw in SAWS_MM if saw >= 1000 * diameter_m - 0.5), None)


def _hole(space: Space, opening: Opening, clash: tuple[str, ...]) -> Hole:
    wide, high = face_m(space, opening.face)
    notes = list(clash)
    half_u, half_v = opening.across_m / 2, opening.up_m / 2
    over = (
        opening.u_m - half_u < 0
        or opening.v_m - half_v < 0
        or opening.u_m + half_u > wide
        or opening.v_m + half_v > high
    )
    near = min(opening.u_m - half_u, opening.v_m - half_v, wide - opening.u_m - half_u, high - opening.v_m - half_v)
    if over:
        notes.append("reaches over the edge of the face: move it")
    elif near < _EDGE_M:
        notes.append("less than 2 cm from an edge: the material may break out")
    material = getattr(space.faces, opening.face).material_id
    if material in GLASSY:
        notes.append("glass: a diamond bit, water and slow turns; tempered glass bursts and cannot be drilled")
    round_one = opening.shape == "round"
    return Hole(
        opening=opening,
        face=opening.face,
        from_side_m=opening.u_m,
        from_foot_m=opening.v_m,
        wide_m=opening.across_m,
        high_m=opening.up_m,
        saw_mm=next_saw_mm(opening.across_m) if round_one else None,
        through=_through(space, opening),
        grommet=opening.use == "cable",
        notes=tuple(notes),
    )


def _through(space: Space, opening: Opening) -> str:
    for way in space.airways:
        if way.port is not None and way.port.opening_id == opening.id:
            return way.name
    return _USES[opening.use]


def _close(openings: list[Opening]) -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = {}
    for one, two in combinations(openings, 2):
        across = abs(one.u_m - two.u_m) - (one.across_m + two.across_m) / 2
        up = abs(one.v_m - two.v_m) - (one.up_m + two.up_m) / 2
        gap = max(across, up)
        if one.shape == two.shape == "round":
            middles = ((one.u_m - two.u_m) ** 2 + (one.v_m - two.v_m) ** 2) ** 0.5
            gap = middles - (one.across_m + two.across_m) / 2
        if gap < 0:
            note = "lies over another hole: move one of them"
        elif gap < _EDGE_M:
            note = "less than 2 cm from another hole: the bridge may break"
        else:
            continue
        for opening in (one, two):
            found[opening.id] = (*found.get(opening.id, ()), note)
    return found
