"""What stands in a space that is simulated: its faces, its pots, open water, and what stands under lids."""

from __future__ import annotations

from dataclasses import replace
from math import pi, sqrt

import numpy as np
from numpy.typing import NDArray

from canopy.air.shell import STILL_FILM_W_M2K, open_faces
from canopy.climate.system import Face, Pots
from canopy.library import find, materials
from canopy.plan.document import Space
from canopy.plan.furnishing import Lid
from canopy.plan.learnt import factor_on
from canopy.plan.plants import standing_room_m
from canopy.plan.shell import FACES
from canopy.season import Growing, Standing

Shares = NDArray[np.float32]
# What passes from pots to the floor under them [W/m²K], and through insulation [W/mK].
_FLOOR_W_M2K, _FOAM_W_MK = {"concrete": 9.0, "wood": 4.0, "shelf": 3.0}, 0.035
# Wet medium [J/m³K], solution [J/m³K]; how wet what lies open of it is.
_MEDIUM_J_M3K, _SOLUTION_J_M3K, _WET = 2.9e6, 4.18e6, 0.2
_SHALLOW_M = 0.04
# Open water, and moss that is kept wet (it holds back a fifth; rough); water that stands in either [m].
_WETNESS, _WATER_M = {"water": 1.0, "moss": 0.8}, 0.015


def under_lids(there: Standing) -> list[tuple[Lid, tuple[Growing, ...]]]:
    """Say which plants stand under which lid.

    Parameters
    ----------
    there : a space on a day

    Returns
    -------
    list of (Lid, tuple of Growing) : lids with at least one plant, each plant under the first that covers its stem
    """
    left, found = list(there.plants), []
    for lid in there.space.lids:
        mine = tuple(p for p in left if lid.covers(p.plant.x_m, p.plant.y_m, p.plant.base_m))
        if mine:
            found.append((lid, mine))
            left = [plant for plant in left if plant not in mine]
    return found


def in_the_open(there: Standing) -> tuple[Growing, ...]:
    """Give the plants that stand in the space's own air.

    Parameters
    ----------
    there : a space on a day

    Returns
    -------
    tuple of Growing : those under no lid
    """
    hidden = {plant.id for _, plants in under_lids(there) for plant in plants}
    return tuple(plant for plant in there.plants if plant.id not in hidden)


def wetted(pots: Pots, space: Space) -> Pots:
    """Add open water and wet moss to what gives off water beside leaves.

    Parameters
    ----------
    pots : what plants root in
    space : with its wet surfaces

    Returns
    -------
    Pots : of the area of all, as wet as they are together; a centimetre and a half of water takes up heat
    """
    area = sum(item.area_m2 for item in space.wet)
    if area <= 0:
        return pots
    wet = sum(item.area_m2 * _WETNESS[item.kind] for item in space.wet)
    return replace(
        pots,
        area_m2=pots.area_m2 + area,
        wet=min(1.0, (pots.wet * pots.area_m2 + wet) / (pots.area_m2 + area)),
        holds_j_k=pots.holds_j_k + _WATER_M * _SOLUTION_J_M3K * area,
    )


def after_lights(lit: Shares, steps: int) -> Shares:
    """Say when so many steps after the lamps go out are.

    Parameters
    ----------
    lit : shape (steps,), for how much of each step a lamp is on
    steps : how many steps each time

    Returns
    -------
    ndarray : 1 in them, shape (steps,)
    """
    out = np.zeros_like(lit)
    for at in np.flatnonzero((lit[:-1] > 0.5) & (lit[1:] <= 0.5)):
        out[at + 1 : at + 1 + steps] = 1.0
    return out


def faces_of(there: Standing) -> tuple[Face, ...]:
    """List the sheet round a space: walls and top by their material, and the floor that no pot stands on.

    Returns
    -------
    tuple of Face : open sides are no sheet
    """
    space = there.space
    w, d, h = space.size.width_m, space.size.depth_m, space.size.height_m
    areas = {"left": d * h, "right": d * h, "front": w * h, "back": w * h, "ceiling": w * d}
    found, passes = [], factor_on(space, "walls")
    for face in FACES:
        if face not in areas or face in open_faces(space):
            continue
        material = find(materials(), getattr(space.faces, face).material_id, "material")
        found.append(
            Face(
                area_m2=areas[face],
                # What was found of the whole sheet counts at all it consists of: how cold its surface is stays.
                inner_film_w_m2k=passes * material.inner_film_w_m2k,
                resistance_m2k_w=material.resistance_m2k_w / passes,
                outer_film_w_m2k=passes * STILL_FILM_W_M2K,
                holds_j_m2k=material.holds_j_m2k,
            )
        )
    bare = max(w * d - footprint_m2(there.plants, w * d), 0.05 * w * d)
    found.append(
        Face(
            area_m2=bare,
            inner_film_w_m2k=6.0,
            outer_film_w_m2k=_under_w_m2k(there),
            holds_j_m2k=3000.0,
        )
    )
    return tuple(found)


def _under_w_m2k(there: Standing) -> float:
    """What passes to the floor below for each m² of it."""
    ground, room = there.space.ground, there.around.room
    under = _FLOOR_W_M2K["shelf" if ground.stands_on == "shelf" else room.floor]
    return 1 / (1 / under + ground.insulation_m / _FOAM_W_MK)


def _size_of(plant: Growing) -> tuple[float, float, float]:
    """Top [m²], sides [m²] and volume [m³] of what a plant roots in."""
    standing = plant.plant
    height = max(standing.pot_height_m, _SHALLOW_M)
    litres = standing.pot_volume_l or plant.crop.container_l.low
    if standing.pot_kind in ("tray", "mount") or plant.tray_m is not None:
        wide, deep = standing_room_m(standing)
        return wide * deep, 2 * (wide + deep) * _SHALLOW_M, wide * deep * _SHALLOW_M
    top = litres / 1000 / height
    return top, 2 * sqrt(pi * top) * height, litres / 1000


def footprint_m2(plants: tuple[Growing, ...], floor_m2: float) -> float:
    """Give the floor that pots stand on.

    Parameters
    ----------
    plants : in them
    floor_m2 : the space's floor [m²]

    Returns
    -------
    float : at most nineteen twentieths of it [m²]
    """
    return min(sum(_size_of(plant)[0] for plant in plants), 0.95 * floor_m2)


def pots_of(there: Standing) -> Pots:
    """Sum up what plants root in.

    Returns
    -------
    Pots : as one; a little of the floor without plants, for what stands there
    """
    space = there.space
    floor = space.size.width_m * space.size.depth_m
    if not there.plants:
        return Pots(area_m2=0.05 * floor, wet=0.0, holds_j_k=2000.0 * floor, floor_w_k=0.05 * floor * 3.0)
    area = footprint_m2(there.plants, floor)
    sizes = [_size_of(plant) for plant in there.plants]
    # Pots that stand side by side show half of their sides to the air.
    sides = sum(side for _, side, _ in sizes) / 2
    wet = [plant.plant.pot_kind == "bucket" for plant in there.plants]
    holds = sum(v * (_SOLUTION_J_M3K if w else _MEDIUM_J_M3K) for (_, _, v), w in zip(sizes, wet, strict=True))
    low = all(plant.plant.base_m < 0.05 for plant in there.plants)
    under = _under_w_m2k(there) if low else min(_under_w_m2k(there), _FLOOR_W_M2K["shelf"])
    return Pots(area_m2=area + sides, wet=_WET * area / (area + sides), holds_j_k=holds, floor_w_k=under * area)
