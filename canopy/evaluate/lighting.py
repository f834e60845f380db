"""Light held against the crops: what each plant gets, and the map at a height."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

import numpy as np
from numpy.typing import NDArray

from canopy.errors import LibraryError
from canopy.library import StageTargets, crops, find
from canopy.light.field import LightField
from canopy.light.photometry import drawn_power, ppf
from canopy.light.scene import DEFAULT, Quality, crown_points, field_of, inside, weights
from canopy.plan.document import Fixture, Plant, Space

Array = NDArray[np.float64]
_MAP_ACROSS = 22


@dataclass(frozen=True, kw_only=True)
class PlantLight:
    """Light on one plant's top."""

    plant: Plant
    ppfd_umol_m2_s: float
    least_ppfd_umol_m2_s: float
    most_ppfd_umol_m2_s: float
    dli_mol_m2_d: float
    reflected_share: float
    by_fixture_umol_m2_s: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class LightMap:
    """PPFD on a level, facing up: ``ppfd`` (ny, nx) at ``x_m`` (nx,) and ``y_m`` (ny,) [µmol/m²/s]."""

    height_m: float
    x_m: Array
    y_m: Array
    ppfd_umol_m2_s: Array


@dataclass(frozen=True, kw_only=True)
class Lighting:
    """All that is said of a space's light."""

    ppf_umol_s: float
    power_w: float
    mean_ppfd_umol_m2_s: float
    min_ppfd_umol_m2_s: float
    evenness: float
    dli_mol_m2_d: float
    plants: tuple[PlantLight, ...]
    map: LightMap | None


def targets_of(plant: Plant) -> StageTargets:
    """Give what a plant wants at its stage.

    Parameters
    ----------
    plant : the plant, of a sound plan

    Returns
    -------
    StageTargets : its targets

    Raises
    ------
    LibraryError : the crop or its stage is not in the library
    """
    stage = find(crops(), plant.crop_id, "crop").stage(plant.stage)
    if stage is None:
        raise LibraryError(f"the library holds no stage “{plant.stage}” of {plant.crop_id}")
    return stage


def map_height_m(space: Space) -> float:
    """Give the height at which a space's map is drawn unless another is asked for.

    Parameters
    ----------
    space : the space

    Returns
    -------
    float : the middle height of the plants' tops, or a fifth of the space's height [m]
    """
    if space.plants:
        return min(median(plant.top_m for plant in space.plants), space.size.height_m - 0.01)
    return space.size.height_m / 5


def fixture_load(fixture: Fixture) -> float:
    """Give what a lamp draws as it is set.

    Parameters
    ----------
    fixture : the lamp

    Returns
    -------
    float : power [W]
    """
    return drawn_power(fixture.spec, fixture.dim) if fixture.enabled else 0.0


def light_map(space: Space, field: LightField, height_m: float, across: int = _MAP_ACROSS) -> LightMap:
    """Draw up the PPFD on a level.

    Parameters
    ----------
    space : the space
    field : its solved light
    height_m : height above the floor [m]
    across : points along the longer side

    Returns
    -------
    LightMap : at evenly spread points that reach to 1 % from the walls
    """
    w, d = space.size.width_m, space.size.depth_m
    nx = max(6, round(across * w / max(w, d)))
    ny = max(6, round(across * d / max(w, d)))
    x, y = np.linspace(0.01 * w, 0.99 * w, nx), np.linspace(0.01 * d, 0.99 * d, ny)
    gx, gy = np.meshgrid(x, y)
    points = inside(space, np.stack([gx.ravel(), gy.ravel(), np.full(gx.size, height_m)], axis=1))
    ppfd = field.at(points).total @ weights(space)
    return LightMap(height_m=height_m, x_m=x, y_m=y, ppfd_umol_m2_s=ppfd.reshape(ny, nx))


def lighting(
    space: Space, quality: Quality = DEFAULT, height_m: float | None = None, *, with_map: bool = True
) -> Lighting:
    """Compute a space's light: every plant's, and the map.

    Parameters
    ----------
    space : the space
    quality : how finely to cut the walls
    height_m : height of the map; the plants' middle top when None [m]
    with_map : draw up the map too; without plants it is always drawn, as the figures come from it

    Returns
    -------
    Lighting : with zero light when there are no lamps
    """
    field = field_of(space, quality)
    level = map_height_m(space) if height_m is None else min(max(height_m, 0.0), space.size.height_m - 0.005)
    drawn = light_map(space, field, level) if with_map or not space.plants else None
    plants = _plants(space, field)
    hours = np.array([fixture.hours for fixture in space.fixtures])
    if plants or drawn is None:
        mean = float(np.mean([p.ppfd_umol_m2_s for p in plants]))
        least = min(p.least_ppfd_umol_m2_s for p in plants)
        dli = float(np.mean([p.dli_mol_m2_d for p in plants]))
    else:
        mean, least = float(drawn.ppfd_umol_m2_s.mean()), float(drawn.ppfd_umol_m2_s.min())
        dli = mean * float(hours.max(initial=0.0)) * 0.0036
    on = [fixture for fixture in space.fixtures if fixture.enabled]
    return Lighting(
        ppf_umol_s=sum(ppf(f.spec) * f.dim * f.ageing for f in on),
        power_w=sum(fixture_load(f) for f in on),
        mean_ppfd_umol_m2_s=mean,
        min_ppfd_umol_m2_s=least,
        evenness=least / mean if mean > 0 else 0.0,
        dli_mol_m2_d=dli,
        plants=plants,
        map=drawn,
    )


def _plants(space: Space, field: LightField) -> tuple[PlantLight, ...]:
    if not space.plants:
        return ()
    points = np.concatenate([crown_points(space, plant) for plant in space.plants])
    light = field.at(points)
    share = weights(space)
    by_lamp = (light.total * share).reshape(len(space.plants), -1, len(share))
    reflected = (light.reflected @ share).reshape(len(space.plants), -1)
    hours = np.array([fixture.hours for fixture in space.fixtures])
    found = []
    for number, plant in enumerate(space.plants):
        at_points = by_lamp[number].sum(axis=1)
        lamps = by_lamp[number].mean(axis=0)
        mean = float(at_points.mean())
        found.append(
            PlantLight(
                plant=plant,
                ppfd_umol_m2_s=mean,
                least_ppfd_umol_m2_s=float(at_points.min()),
                most_ppfd_umol_m2_s=float(at_points.max()),
                dli_mol_m2_d=float((lamps * hours).sum() * 0.0036),
                reflected_share=float(reflected[number].mean() / mean) if mean > 0 else 0.0,
                by_fixture_umol_m2_s=tuple(float(value) for value in lamps),
            )
        )
    return tuple(found)
