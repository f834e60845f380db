"""Light held against the crops: what each plant gets, and the map at a height."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import sqrt
from statistics import median

import numpy as np
from numpy.typing import NDArray

from canopy.light.crowns import POINTS_PER_CROWN, Crown, leaf_normals, leaf_points
from canopy.light.field import LightField
from canopy.light.photometry import fixture_load, given_ppf
from canopy.light.reading import PointLight
from canopy.light.scene import DEFAULT, Quality, field_of, hours, inside, weights
from canopy.season import Growing, Standing
from canopy.season.standing import CropStage

Array = NDArray[np.float64]
_MAP_ACROSS = 22


@dataclass(frozen=True, kw_only=True)
class PlantLight:
    """Light on one plant's outer leaves; ``by_source`` are lamps, then windows."""

    plant: Growing
    ppfd_umol_m2_s: float
    least_ppfd_umol_m2_s: float
    most_ppfd_umol_m2_s: float
    dli_mol_m2_d: float
    reflected_share: float
    by_source_umol_m2_s: tuple[float, ...]


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
    canopy_umol_s: float = 0.0

    @cached_property
    def by_kind(self) -> Mapping[CropStage, tuple[PlantLight, ...]]:
        """The plants' light by crop and stage, in their own order."""
        found: dict[CropStage, list[PlantLight]] = {}
        for light in self.plants:
            found.setdefault(light.plant.kind, []).append(light)
        return {kind: tuple(group) for kind, group in found.items()}

    @property
    def delivered_umol_per_j(self) -> float:
        """Lamps' photons that land on leaves' outer faces per joule at the wall [µmol/J]."""
        return self.canopy_umol_s / self.power_w if self.power_w > 0 else 0.0

    @property
    def canopy_share(self) -> float:
        """Share of the lamps' photons that land on leaves' outer faces."""
        return self.canopy_umol_s / self.ppf_umol_s if self.ppf_umol_s > 0 else 0.0


def crown_of(plant: Growing) -> Crown:
    """Give a plant's crown as light sees it.

    Parameters
    ----------
    plant : the plant on a day

    Returns
    -------
    Crown : its crown
    """
    return Crown(
        x_m=plant.x_m,
        y_m=plant.y_m,
        bottom_m=plant.bottom_m,
        top_m=plant.top_m,
        radius_m=sqrt(plant.half_m[0] * plant.half_m[1]),
        half_m=plant.half_m if plant.tray_m else None,
        facing=plant.facing,
        reach_m=plant.height_m / 2 if plant.plant.habit == "outward" else 0.0,
        lai=plant.lai,
        extinction=plant.crop.extinction,
        climbs=plant.climbs,
        away=plant.away,
    )


def crowns_of(here: Standing) -> tuple[Crown, ...]:
    """Give the crowns of all that stands in a space.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    tuple of Crown : in the order of its plants
    """
    return tuple(crown_of(plant) for plant in here.plants)


def map_height_m(here: Standing) -> float:
    """Give the height at which a space's map is drawn unless another is asked for.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    float : the middle height of the plants' tops, or a fifth of the space's height [m]
    """
    if here.plants:
        return min(median(plant.top_m for plant in here.plants), here.space.size.height_m - 0.01)
    return here.space.size.height_m / 5


def light_map(here: Standing, field: LightField, height_m: float, across: int = _MAP_ACROSS) -> LightMap:
    """Draw up the PPFD on a level.

    Parameters
    ----------
    here : the space on a day
    field : its solved light
    height_m : height above the floor [m]
    across : points along the longer side

    Returns
    -------
    LightMap : at evenly spread points that reach to 1 % from the walls
    """
    space = here.space
    w, d = space.size.width_m, space.size.depth_m
    nx = max(6, round(across * w / max(w, d)))
    ny = max(6, round(across * d / max(w, d)))
    x, y = np.linspace(0.01 * w, 0.99 * w, nx), np.linspace(0.01 * d, 0.99 * d, ny)
    gx, gy = np.meshgrid(x, y)
    points = inside(space, np.stack([gx.ravel(), gy.ravel(), np.full(gx.size, height_m)], axis=1))
    ppfd = field.at(points).total @ weights(space, here.day)
    return LightMap(height_m=height_m, x_m=x, y_m=y, ppfd_umol_m2_s=ppfd.reshape(ny, nx))


def light_section(here: Standing, y_m: float, quality: Quality = DEFAULT, across: int = 20) -> LightMap:
    """Draw up the PPFD on an upright plane across the space, as it falls off down through the leaves.

    Parameters
    ----------
    here : the space on a day
    y_m : distance of the plane from the front [m]
    quality : how finely to cut the walls
    across : points along the longer side

    Returns
    -------
    LightMap : ``x_m`` along the width, ``y_m`` up from the floor; level surfaces facing up; ``height_m`` is ``y_m``
    """
    space = here.space
    w, h = space.size.width_m, space.size.height_m
    nx, nz = max(6, round(across * w / max(w, h))), max(6, round(across * h / max(w, h)))
    x, z = np.linspace(0.01 * w, 0.99 * w, nx), np.linspace(0.01 * h, 0.99 * h, nz)
    gx, gz = np.meshgrid(x, z)
    points = inside(space, np.stack([gx.ravel(), np.full(gx.size, y_m), gz.ravel()], axis=1))
    ppfd = field_of(space, quality, crowns_of(here)).at(points).total @ weights(space, here.day)
    return LightMap(height_m=y_m, x_m=x, y_m=z, ppfd_umol_m2_s=ppfd.reshape(nz, nx))


@dataclass(frozen=True, kw_only=True)
class Probe:
    """The light at one point: PPFD from each lamp, then each window, directly; and by way of walls and bodies."""

    direct_umol_m2_s: tuple[float, ...]
    reflected_umol_m2_s: float

    @property
    def total(self) -> float:
        """All of it [µmol/m²/s]."""
        return sum(self.direct_umol_m2_s) + self.reflected_umol_m2_s


def probe(here: Standing, x_m: float, y_m: float, z_m: float, quality: Quality = DEFAULT) -> Probe:
    """Read the light at a point, on a level surface facing up.

    Parameters
    ----------
    here : the space on a day
    x_m : from the left [m]
    y_m : from the front [m]
    z_m : from the floor [m]
    quality : how finely to cut the walls

    Returns
    -------
    Probe : by lamp and by way of the walls

    Raises
    ------
    GeometryError : the point lies outside the space
    """
    point = inside(here.space, np.array([[x_m, y_m, z_m]]))
    light, share = field_of(here.space, quality, crowns_of(here)).at(point), weights(here.space, here.day)
    return Probe(
        direct_umol_m2_s=tuple(float(value) for value in light.direct[0] * share),
        reflected_umol_m2_s=float(light.reflected[0] @ share),
    )


def lighting(
    here: Standing, quality: Quality = DEFAULT, height_m: float | None = None, *, with_map: bool = True
) -> Lighting:
    """Compute a space's light: every plant's, and the map.

    Parameters
    ----------
    here : the space on a day
    quality : how finely to cut the walls
    height_m : height of the map; the plants' middle top when None [m]
    with_map : draw up the map too; without plants it is always drawn, as the figures come from it

    Returns
    -------
    Lighting : with zero light when there are no lamps
    """
    space = here.space
    field = field_of(space, quality, crowns_of(here))
    level = map_height_m(here) if height_m is None else min(max(height_m, 0.0), space.size.height_m - 0.005)
    drawn = light_map(here, field, level) if with_map or not here.plants else None
    plants = _plants(here, field)
    if plants or drawn is None:
        mean = float(np.mean([p.ppfd_umol_m2_s for p in plants]))
        least = min(p.least_ppfd_umol_m2_s for p in plants)
        dli = float(np.mean([p.dli_mol_m2_d for p in plants]))
    else:
        mean, least = float(drawn.ppfd_umol_m2_s.mean()), float(drawn.ppfd_umol_m2_s.min())
        dli = mean * float(hours(space).max(initial=0.0)) * 0.0036
    on = [fixture for fixture in space.fixtures if fixture.enabled]
    return Lighting(
        ppf_umol_s=sum(given_ppf(f) for f in on),
        power_w=sum(fixture_load(f) for f in on),
        mean_ppfd_umol_m2_s=mean,
        min_ppfd_umol_m2_s=least,
        evenness=least / mean if mean > 0 else 0.0,
        dli_mol_m2_d=dli,
        plants=plants,
        map=drawn,
        canopy_umol_s=_on_leaves(plants, len(space.fixtures), space.size.width_m * space.size.depth_m),
    )


def _on_leaves(plants: tuple[PlantLight, ...], lamps: int, floor_m2: float) -> float:
    """Lamps' photons on crowns; crowns that overlap count the ground they cover once, as far as that goes."""
    areas = [light.plant.ground_m2 for light in plants]
    total = sum(areas)
    photons = sum(a * sum(light.by_source_umol_m2_s[:lamps]) for a, light in zip(areas, plants, strict=True))
    return photons * min(1.0, floor_m2 / total) if total > 0 else 0.0


@dataclass(frozen=True, kw_only=True)
class LeafLight:
    """The light at the points that stand for crowns' leaves: points and the normals they were read at, both
    (crowns × 7, 3) [m].
    """

    points: Array
    normals: Array
    light: PointLight


def leaf_light(
    field: LightField, crowns: tuple[Crown, ...], size_m: tuple[float, float, float], share: Array
) -> LeafLight:
    """Read the light on crowns' leaves.

    Parameters
    ----------
    field : the solved light
    crowns : whose leaves
    size_m : inner size of the space [m]
    share : shape (sources,), how strongly each source shines, for climbers, whose leaves turn to the better light

    Returns
    -------
    LeafLight : seven points a crown; of a climber each turned up or to a side, whichever gets more
    """
    points = np.concatenate([leaf_points(crown, size_m) for crown in crowns])
    ways = [leaf_normals(crown) for crown in crowns]
    normals = np.concatenate([way[0] for way in ways])
    light = field.at(points, normals)
    if max(len(way) for way in ways) == 1:
        return LeafLight(points=points, normals=normals, light=light)
    direct, reflected = light.direct.copy(), light.reflected.copy()
    for turn in range(1, max(len(way) for way in ways)):
        able = [n for n, way in enumerate(ways) if len(way) > turn]
        at = np.concatenate([np.arange(POINTS_PER_CROWN) + n * POINTS_PER_CROWN for n in able])
        other_way = np.concatenate([ways[n][turn] for n in able])
        other = field.at(points[at], other_way)
        better = (other.total @ share) > ((direct + reflected)[at] @ share)
        direct[at[better]], reflected[at[better]] = other.direct[better], other.reflected[better]
        normals[at[better]] = other_way[better]
    return LeafLight(points=points, normals=normals, light=replace(light, direct=direct, reflected=reflected))


# Of seven heights of a climber so many count, the best lit: the better half of its leaves carries it.
_BETTER_LIT = 4


def judged_points(plant: Growing, at_points: Array) -> NDArray[np.intp]:
    """Say which of a plant's points its light is judged by.

    Parameters
    ----------
    plant : as it stands, which says whether it climbs
    at_points : shape (7,), PPFD at its points [µmol/m²/s]

    Returns
    -------
    ndarray : their numbers: all seven of its top; of a climber the four best lit of its height, as neither a tip above
        the lamp nor leaves low in the shade say how the plant is lit
    """
    if not plant.climbs:
        return np.arange(len(at_points))
    return np.sort(np.argsort(-at_points, kind="stable")[:_BETTER_LIT])


def judged_means(plants: Sequence[Growing], by_source: Array, at_points: Array) -> Array:
    """Give the light that each plant is judged by, source by source.

    Parameters
    ----------
    plants : in the order of the rows
    by_source : shape (plants, 7, sources) [µmol/m²/s]
    at_points : shape (plants, 7), what decides which points count [µmol/m²/s]

    Returns
    -------
    ndarray : shape (plants, sources), means over each plant's judged points [µmol/m²/s]
    """
    rows = [by_source[n][judged_points(plant, at_points[n])].mean(axis=0) for n, plant in enumerate(plants)]
    return np.stack(rows)


def _plants(here: Standing, field: LightField) -> tuple[PlantLight, ...]:
    if not here.plants:
        return ()
    space, crowns = here.space, crowns_of(here)
    size = (space.size.width_m, space.size.depth_m, space.size.height_m)
    share, lit_hours = weights(space, here.day), hours(space)
    light = leaf_light(field, crowns, size, share).light
    by_source = (light.total * share).reshape(len(crowns), POINTS_PER_CROWN, len(share))
    reflected = (light.reflected @ share).reshape(len(crowns), POINTS_PER_CROWN)
    found = []
    for number, plant in enumerate(here.plants):
        at_points = by_source[number].sum(axis=1)
        brightest = float(at_points.max())
        judged = judged_points(plant, at_points)
        at_points, sources = at_points[judged], by_source[number][judged].mean(axis=0)
        mean = float(at_points.mean())
        found.append(
            PlantLight(
                plant=plant,
                ppfd_umol_m2_s=mean,
                least_ppfd_umol_m2_s=float(at_points.min()),
                most_ppfd_umol_m2_s=brightest,
                dli_mol_m2_d=float((sources * lit_hours).sum() * 0.0036),
                reflected_share=float(reflected[number][judged].mean() / mean) if mean > 0 else 0.0,
                by_source_umol_m2_s=tuple(float(value) for value in sources),
            )
        )
    return tuple(found)


# Without plants: from what leafy greens begin to grow well in to what fruiting plants can use (the library's windows).
_USUAL_PPFD = (150.0, 600.0)


def wanted_ppfd(here: Standing) -> tuple[float, float]:
    """Give what the plants of a space want of PPFD, all together.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    (float, float) : the lowest lower end and the highest upper end of their windows; a usual window without plants
        [µmol/m²/s]
    """
    windows = [plant.want.ppfd_umol_m2_s for plant in here.plants]
    if not windows:
        return _USUAL_PPFD
    return min(window.low for window in windows), max(window.high for window in windows)


def survey_level_m(here: Standing) -> float:
    """Give the height at which a meter is best held: above all leaves, among which a hand's breadth changes a reading.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    float : the highest top; a quarter of the height where nothing grows [m]
    """
    return round(max((plant.top_m for plant in here.plants), default=here.space.size.height_m / 4), 2)
