"""Light down through each plant: top, middle, bottom and mean, what neighbours take, and leaves not worth keeping."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.light.lighting import crowns_of, leaf_light
from canopy.library import leaf_lights
from canopy.light.crowns import POINTS_PER_CROWN, Crown
from canopy.light.scene import DEFAULT, Quality, field_of, hours, inside, weights
from canopy.season import Growing, Standing

Array = NDArray[np.float64]
# Depth below the crown's outer face as a share of its height, and how much of the leaves each level stands for.
DEPTHS = (0.02, 0.25, 0.5, 0.75, 0.95)
# Of a climber's seven heights, from the tip down, those that stand for the levels.
_FLANK_LEVELS = (0, 1, 3, 5, 6)
_LEAF_SHARE = (0.08, 0.24, 0.36, 0.24, 0.08)


@dataclass(frozen=True, kw_only=True)
class LeafLevels:
    """PPFD [µmol/m²/s] at a plant's levels from the outer leaves inward, and what follows from it.

    ``levels`` (5,) at DEPTHS; ``mean`` weighed by leaves; ``lost_share`` what neighbours take of the light on its outer
    leaves; ``idle_share`` the share of leaves that live below their compensation light.
    """

    plant: Growing
    levels: tuple[float, ...]
    mean_umol_m2_s: float
    mean_dli_mol_m2_d: float
    lost_share: float
    idle_share: float
    compensation_umol_m2_s: float

    @property
    def top(self) -> float:
        """At the outer leaves [µmol/m²/s]."""
        return self.levels[0]

    @property
    def middle(self) -> float:
        """Half way [µmol/m²/s]."""
        return self.levels[2]

    @property
    def bottom(self) -> float:
        """At the innermost or lowest leaves [µmol/m²/s]."""
        return self.levels[-1]


def compensation_of(plant: Growing) -> float:
    """Give the light below which a plant's leaves cost more than they bring in.

    Returns
    -------
    float : by its group of crops [µmol/m²/s]
    """
    return next(row.compensation_umol_m2_s for row in leaf_lights().values() if plant.crop.group in row.groups)


def level_points(crown: Crown, depth: float) -> Array:
    """Give points within a crown at a depth below its outer face.

    Parameters
    ----------
    depth : share of its height (outward: of its reach), 0..1

    Returns
    -------
    ndarray : shape (5, 3): the middle and four half way out to the crown's rim there [m]
    """
    half = crown.semi_axes
    way = np.array(crown.facing)
    along = half[2] if crown.upward else max(half[0], half[1]) if crown.reach_m >= crown.radius_m else crown.reach_m
    middle = crown.middle + way * along * (1 - 2 * depth)
    rim = 0.5 * crown.radius_m * np.sqrt(max(0.0, 1 - (1 - 2 * depth) ** 2))
    side = np.array([1.0, 0, 0]) if crown.upward else np.array([-way[1], way[0], 0.0])
    other = np.array([0, 1.0, 0]) if crown.upward else np.array([0, 0, 1.0])
    return np.stack([middle, middle + rim * side, middle - rim * side, middle + rim * other, middle - rim * other])


def leaf_levels(here: Standing, quality: Quality = DEFAULT) -> tuple[LeafLevels, ...]:
    """Compute the light down through every plant of a space.

    Parameters
    ----------
    here : the space on a day
    quality : how finely to cut the walls

    Returns
    -------
    tuple of LeafLevels : in the order of its plants
    """
    crowns = crowns_of(here)
    if not crowns:
        return ()
    space, share, lit = here.space, weights(here.space, here.day), hours(here.space)
    field = field_of(space, quality, crowns)
    size = (space.size.width_m, space.size.depth_m, space.size.height_m)
    points = np.concatenate([level_points(crown, depth) for crown in crowns for depth in DEPTHS])
    limit = np.array(size)
    points = inside(space, np.clip(points, 1e-3, limit - 1e-3))
    normals = np.repeat(np.array([crown.facing for crown in crowns]), len(DEPTHS) * 5, axis=0)
    light = (field.at(points, normals).total * share).reshape(len(crowns), len(DEPTHS), 5, -1).mean(axis=2)
    outer = leaf_light(field, crowns, size, share)
    shaded, free = (
        (field.at(outer.points, outer.normals, shaded=s).total @ share).reshape(len(crowns), -1).mean(axis=1)
        for s in (True, False)
    )
    for number, crown in enumerate(crowns):
        if crown.climbs:
            # Down its flank, whose leaves turn to the light.
            flank = (outer.light.total * share).reshape(len(crowns), POINTS_PER_CROWN, -1)[number]
            light[number] = flank[list(_FLANK_LEVELS)]
    found = []
    for number, plant in enumerate(here.plants):
        by_level = light[number].sum(axis=-1)
        daily = (light[number] * lit).sum(axis=-1) * 0.0036
        least = compensation_of(plant)
        found.append(
            LeafLevels(
                plant=plant,
                levels=tuple(float(value) for value in by_level),
                mean_umol_m2_s=float(np.average(by_level, weights=_LEAF_SHARE)),
                mean_dli_mol_m2_d=float(np.average(daily, weights=_LEAF_SHARE)),
                lost_share=float(1 - shaded[number] / free[number]) if free[number] > 0 else 0.0,
                idle_share=_idle(by_level, least),
                compensation_umol_m2_s=least,
            )
        )
    return tuple(found)


def _idle(by_level: Array, least: float) -> float:
    """Share of leaves below a light, between the levels in proportion to depth."""
    grid = np.linspace(DEPTHS[0], DEPTHS[-1], 94)
    light = np.interp(grid, DEPTHS, by_level)
    leaves = np.interp(grid, DEPTHS, _LEAF_SHARE)
    return float(leaves[light < least].sum() / leaves.sum())


# A strip lower than this is not worth a pair of scissors [m]; leaves are left on at least this share of the height.
_LEAST_STRIP_M, _LEFT = 0.03, 0.4


def strip_to_m(levels: LeafLevels) -> float:
    """Give up to where a plant's leaves are best taken off.

    Parameters
    ----------
    levels : its light by level

    Returns
    -------
    float : height above the pot's rim [m]: all leaves below their compensation light; of a crop that fruits from a
        certain height on, up to that first node once some leaves below it do not pay; 0 where none should go. What
        was taken off already counts, and two fifths of the height keep their leaves. None go from a plant that is short
        of light all over: it needs light, not scissors.

    Notes
    -----
    A leaf below its compensation light costs more than it brings in; that growers of fruit strip up to the first node
    that bears, no higher, is practice.
    """
    plant = levels.plant
    if plant.plant.habit in ("hang", "outward") or levels.idle_share <= 0.02:
        return 0.0
    best = max(levels.levels)
    daily = best * levels.mean_dli_mol_m2_d / levels.mean_umol_m2_s if levels.mean_umol_m2_s > 0 else 0.0
    if best < plant.want.ppfd_umol_m2_s.low or daily < plant.want.dli_mol_m2_d.low:
        return 0.0
    grid = np.linspace(DEPTHS[0], DEPTHS[-1], 94)
    dark = grid[np.interp(grid, DEPTHS, levels.levels) < levels.compensation_umol_m2_s]
    leaves_m = plant.top_m - plant.bottom_m
    low_m = plant.bottom_m - plant.rim_m
    wanted = low_m + leaves_m * (1 - float(dark.min()))
    if plant.crop.first_fruit_m is not None and plant.stage in ("flower", "fruit"):
        wanted = plant.crop.first_fruit_m
    wanted = min(wanted, (1 - _LEFT) * plant.height_m)
    return round(wanted, 2) if wanted > low_m + _LEAST_STRIP_M else 0.0
