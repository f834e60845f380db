"""What a fan is likely to deliver, and what a space breathes without one."""

from __future__ import annotations

from math import sqrt

from canopy.library import air_paths, find, materials
from canopy.plan.document import Space
from canopy.plan.shell import FACES

STILL_FILM_W_M2K = 7.5
_GRAVITY = 9.81
_ORIFICE = 0.60
# Air changes an hour through seams, by kind of space (zipped fabric, loose doors, lids).
_SEAMS_PER_H = {"tent": 0.5, "closet": 1.0, "cabinet": 1.0, "shelf": 1.0, "glass-case": 0.35}


def volume_m3(space: Space) -> float:
    """Give the inner volume.

    Parameters
    ----------
    space : the space

    Returns
    -------
    float : volume [m³]
    """
    return space.size.width_m * space.size.depth_m * space.size.height_m


def open_faces(space: Space) -> tuple[str, ...]:
    """Give the faces that stand open.

    Parameters
    ----------
    space : the space

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

    Parameters
    ----------
    space : the space

    Returns
    -------
    bool : True when any face is an open side
    """
    return bool(open_faces(space))


def envelope_w_k(space: Space) -> float:
    """Give the heat that passes the walls and top per kelvin.

    Parameters
    ----------
    space : the space

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
    return total


def delivered_share(space: Space) -> float:
    """Give the share of a fan's free-air flow that comes out.

    Parameters
    ----------
    space : the space

    Returns
    -------
    float : the person's own figure, or the air path's from the library
    """
    if space.air.delivered_share is not None:
        return space.air.delivered_share
    return find(air_paths(), space.air.path_id, "air path").delivered_share


def fan_flow_m3_h(space: Space) -> float:
    """Give what the space's fan is likely to deliver.

    Parameters
    ----------
    space : the space

    Returns
    -------
    float : flow [m³/h]; zero without a fan

    Notes
    -----
    Flow goes with speed (fan affinity laws, ASHRAE Handbook: HVAC Systems and Equipment, ch. Fans).
    """
    air = space.air
    return air.fan.free_flow_m3_h * air.fan_speed * delivered_share(space) if air.fan else 0.0


def passive_flow_m3_h(space: Space, rise_k: float) -> float:
    """Give what a space breathes without a fan: seams, open sides, and warm air rising between openings.

    Parameters
    ----------
    space : the space
    rise_k : how much warmer it is inside [K]

    Returns
    -------
    float : flow [m³/h]

    Notes
    -----
    Stack flow Q = C_d A* sqrt(2 g h ΔT/T), 1/A*² = 1/A_low² + 1/A_high²; an open side as one large opening,
    Q = (C_d A/3) sqrt(g H ΔT/T) (ASHRAE Fundamentals, natural ventilation).
    """
    flow = volume_m3(space) * _SEAMS_PER_H[space.kind] + _open_side_flow_m3_h(space, rise_k)
    holes = [
        (0.0 if o.face == "floor" else space.size.height_m if o.face == "ceiling" else o.v_m, o.free_area_m2)
        for o in space.openings
        if o.passes_air
    ]
    if len(holes) > 1 and rise_k > 0:
        middle = sum(level * area for level, area in holes) / sum(area for _, area in holes)
        low = [(level, area) for level, area in holes if level < middle - 0.02]
        high = [(level, area) for level, area in holes if level > middle + 0.02]
        if low and high:
            area_low, area_high = sum(a for _, a in low), sum(a for _, a in high)
            gap = sum(z * a for z, a in high) / area_high - sum(z * a for z, a in low) / area_low
            area = 1 / sqrt(1 / area_low**2 + 1 / area_high**2)
            flow += _ORIFICE * area * sqrt(2 * _GRAVITY * gap * rise_k / 295.0) * 3600
    return flow


def _open_side_flow_m3_h(space: Space, rise_k: float) -> float:
    size = space.size
    widths = {"left": size.depth_m, "right": size.depth_m, "front": size.width_m, "back": size.width_m}
    area = sum(width * size.height_m for face, width in widths.items() if face in open_faces(space))
    flow = _ORIFICE * area / 3 * sqrt(_GRAVITY * size.height_m * max(rise_k, 0.0) / 295.0) * 3600
    return flow + (_open_top_m3_h(size.width_m * size.depth_m, rise_k) if "ceiling" in open_faces(space) else 0.0)


def _open_top_m3_h(area_m2: float, rise_k: float) -> float:
    """Warm air out and cool air in through one opening above: Q = 0.055 sqrt(g' D⁵) (Epstein 1988, J. Heat Transfer 110)."""
    reduced = _GRAVITY * max(rise_k, 0.0) / 295.0
    return float(0.055 * sqrt(reduced * sqrt(area_m2) ** 5) * 3600)
