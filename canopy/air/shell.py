"""What a space is to the air: its volume, its walls, what stands open, its leaks and its openings."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from canopy.air.losses import HOLE, SEAM
from canopy.library import find, leaks, materials
from canopy.plan.document import Space
from canopy.plan.learnt import factor_on
from canopy.plan.shell import FACES, Opening
from canopy.schedule import day_share

STILL_FILM_W_M2K = 7.5
GRAVITY = 9.81
_WARM_K = 295.0
# What a room's draughts are worth at an open side, as warmth inside [K].
DRAUGHT_K = 0.5
# Leaks spread over the height of a shell count at these shares of it.
_LOW, _HIGH = 0.1, 0.9


@dataclass(frozen=True, kw_only=True)
class Hole:
    """A way for air through the shell without a fan: effective area C_d A [m²], gross area [m²], height of its
    middle [m].
    """

    opening_id: str
    effective_m2: float
    gross_m2: float
    level_m: float


def volume_m3(space: Space) -> float:
    """Give the inner volume.

    Returns
    -------
    float : volume [m³]
    """
    return space.size.width_m * space.size.depth_m * space.size.height_m


def open_faces(space: Space) -> tuple[str, ...]:
    """Give the faces that stand open.

    Returns
    -------
    tuple of str : open sides, and the door's side while the door stands open
    """
    return tuple(
        face
        for face in FACES
        if find(materials(), getattr(space.faces, face).material_id, "material").open
        or (space.door_open and face == space.door_side)
    )


def is_open(space: Space) -> bool:
    """Say whether a whole side stands open.

    Returns
    -------
    bool : True when any face is an open side
    """
    return bool(open_faces(space))


def envelope_w_k(space: Space) -> float:
    """Give the heat that passes the walls and top per kelvin.

    Returns
    -------
    float : UA [W/K]; the floor is left out, an open side counts as film only

    Notes
    -----
    1/U = 1/h_i + R + 1/h_o with still-air films indoors (ISO 6946).
    """
    w, d, h = space.size.width_m, space.size.depth_m, space.size.height_m
    areas = {"left": d * h, "right": d * h, "front": w * h, "back": w * h, "ceiling": w * d}
    total = 0.0
    for face, area in areas.items():
        material = find(materials(), getattr(space.faces, face).material_id, "material")
        total += area / (1 / material.inner_film_w_m2k + material.resistance_m2k_w + 1 / STILL_FILM_W_M2K)
    return total * factor_on(space, "walls")


def leak_m2(space: Space) -> float:
    """Give the area of seams, zips and slack sleeves.

    Returns
    -------
    float : geometric area [m²]; as typed, or the kind's usual one by the area of its shell; times what was found
    """
    found = factor_on(space, "leak")
    if space.air.leak_cm2 is not None:
        return found * space.air.leak_cm2 / 1e4
    w, d, h = space.size.width_m, space.size.depth_m, space.size.height_m
    return find(leaks(), space.kind, "leak").area_cm2_m2 / 1e4 * found * (2 * (w + d) * h + w * d)


def draught_m3_h(space: Space) -> float:
    """Give what moves through seams by draughts alone.

    Returns
    -------
    float : flow [m³/h], by the kind's usual air changes an hour; times what was found of its seams
    """
    return volume_m3(space) * find(leaks(), space.kind, "leak").draught_per_h * factor_on(space, "leak")


def opening_place_m(space: Space, opening: Opening) -> tuple[float, float, float]:
    """Give where the middle of an opening lies.

    Parameters
    ----------
    opening : one of its openings

    Returns
    -------
    tuple of float : x, y, z in the space [m]
    """
    size, u, v = space.size, opening.u_m, opening.v_m
    return {
        "left": (0.0, u, v),
        "right": (size.width_m, u, v),
        "front": (u, 0.0, v),
        "back": (u, size.depth_m, v),
        "floor": (u, v, 0.0),
        "ceiling": (u, v, size.height_m),
    }[opening.face]


def opening_level_m(space: Space, opening: Opening) -> float:
    """Give how high an opening lies.

    Parameters
    ----------
    opening : one of its openings

    Returns
    -------
    float : height of its middle over the floor [m]
    """
    if opening.face == "floor":
        return 0.0
    return space.size.height_m if opening.face == "ceiling" else opening.v_m


def holes(space: Space, taken: frozenset[str] = frozenset()) -> tuple[Hole, ...]:
    """List what lets air through the shell by itself.

    Parameters
    ----------
    taken : ids of openings that a way of air passes

    Returns
    -------
    tuple of Hole : open intake and exhaust openings that are not taken, and the leaks in two halves, low and high
    """
    height = space.size.height_m
    found = [
        Hole(
            opening_id=o.id,
            effective_m2=HOLE * o.free_area_m2,
            gross_m2=o.free_area_m2 / o.clear_share,
            level_m=opening_level_m(space, o),
        )
        for o in space.openings
        if o.passes_air and o.id not in taken
    ]
    half = leak_m2(space) / 2
    if half > 0:
        found += [
            Hole(opening_id="", effective_m2=SEAM * half, gross_m2=half, level_m=share * height)
            for share in (_LOW, _HIGH)
        ]
    return tuple(found)


def open_side_flow_m3_h(space: Space, rise_k: float) -> float:
    """Give what passes through sides that stand open, warm air out above and cool air in below.

    Parameters
    ----------
    rise_k : how much warmer it is inside [K]

    Returns
    -------
    float : flow [m³/h]

    Notes
    -----
    Q = (C_d A/3) sqrt(g H ΔT/T) (ASHRAE Fundamentals, natural ventilation); an open top as one opening above,
    Q = 0.055 sqrt(g' D⁵) (Epstein 1988, J. Heat Transfer 110). A room's air is never quite still: its draughts count
    as half a kelvin (assumed).
    """
    size, rise_k = space.size, max(rise_k, DRAUGHT_K)
    widths = {"left": size.depth_m, "right": size.depth_m, "front": size.width_m, "back": size.width_m}
    open_now = open_faces(space)
    area = sum(width * size.height_m for face, width in widths.items() if face in open_now)
    flow = one_sided_m3_h(area, size.height_m, rise_k)
    if "ceiling" in open_now:
        reduced = GRAVITY * max(rise_k, 0.0) / _WARM_K
        flow += float(0.055 * sqrt(reduced * sqrt(size.width_m * size.depth_m) ** 5) * 3600)
    return flow


def one_sided_m3_h(area_m2: float, height_m: float, rise_k: float) -> float:
    """Give what passes through one tall opening.

    Parameters
    ----------
    area_m2 : its area [m²]
    height_m : its height [m]
    rise_k : how much warmer it is inside [K]

    Returns
    -------
    float : flow [m³/h]
    """
    return HOLE * area_m2 / 3 * sqrt(GRAVITY * height_m * max(rise_k, 0.0) / _WARM_K) * 3600


def door_flow_m3_h(space: Space, rise_k: float) -> float:
    """Give what a door opened by hand lets through, as a mean over the day.

    Parameters
    ----------
    space : the space, with when and for how long it is opened
    rise_k : how much warmer it is inside [K]

    Returns
    -------
    float : mean flow [m³/h]; 0 when nobody opens it, it stands open anyway, or there is none

    Notes
    -----
    One-sided exchange while it is open; between two openings the air is as stuffy as the seams let it be.
    """
    door, side = space.air.door, space.door_side
    if side is None or space.door_open:
        return 0.0
    size = space.size
    area = (size.depth_m if side in ("left", "right") else size.width_m) * size.height_m
    return one_sided_m3_h(area, size.height_m, rise_k) * day_share(door)
