"""From a planned space to a scene of light."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.errors import GeometryError
from canopy.library import find, materials
from canopy.light.emitters import Emitter, beam_exponent
from canopy.light.field import LightField, Scene
from canopy.light.photometry import ppf
from canopy.light.plates import Plate
from canopy.light.room import RoomGrid
from canopy.plan.document import Fixture, Plant, Space
from canopy.plan.pose import axes, centre

Array = NDArray[np.float64]
# A canopy counts as a floor of this reflectance (physics: 0.05-0.10 in 400-700 nm).
CANOPY_REFLECTANCE = 0.08


@dataclass(frozen=True, kw_only=True)
class Quality:
    """How finely a space is cut: about how many wall patches in all."""

    patches: int


PREVIEW, DEFAULT, POINTS, FINE = (Quality(patches=count) for count in (420, 800, 1600, 3200))


@lru_cache(maxsize=24)
def _grid(size_m: tuple[float, float, float], patches: int) -> RoomGrid:
    return RoomGrid.of(size_m, patches)


def surface_reflectance(space: Space, face: str) -> float:
    """Give the reflectance in force on a face.

    Parameters
    ----------
    space : the space
    face : "left", "right", "front", "back", "floor" or "ceiling"

    Returns
    -------
    float : the person's own figure, or the material's from the library
    """
    surface = getattr(space.faces, face)
    material = find(materials(), surface.material_id, "material")
    if material.open:
        return 0.0
    return float(material.reflectance if surface.reflectance is None else surface.reflectance)


def emitter_of(fixture: Fixture) -> Emitter:
    """Turn a placed fixture into what gives light and stands in the way.

    Parameters
    ----------
    fixture : the placed fixture

    Returns
    -------
    Emitter : its face, body and photons at full output
    """
    # Dimmer and hours do not enter: the key is the lamp as it hangs.
    return _emitter(
        fixture.model_copy(
            update={"id": "lamp", "dim": 1.0, "ageing": 1.0, "on_at": "00:00", "hours": 0.0, "enabled": True}
        )
    )


@lru_cache(maxsize=1024)
def _emitter(fixture: Fixture) -> Emitter:
    spec, frame = fixture.spec, axes(fixture)
    disc = spec.shape == "disc"
    plate = Plate(
        centre=centre(fixture),
        along=frame.length,
        across=frame.width,
        beam=frame.beam,
        length_m=spec.length_m,
        width_m=spec.length_m if disc else spec.width_m,
        offsets_m=(0.0,) if disc else tuple((k - (spec.bars - 1) / 2) * spec.bar_pitch_m for k in range(spec.bars)),
        disc=disc,
        reflectance=spec.body_reflectance,
    )
    exponent = 1.0 if spec.emission == "lambertian" else beam_exponent(spec.beam_angle_deg)
    return Emitter(plate=plate, ppf_umol_s=ppf(spec), exponent=exponent)


def _cover(room: RoomGrid, plants: tuple[Plant, ...]) -> Array:
    """Share of each floor patch under a canopy, shape (floor patches,)."""
    floor = next(face for face in room.faces if face.name == "floor")
    points = room.points(3)[floor.patches]
    covered = np.zeros(points.shape[:2], dtype=bool)
    for plant in plants:
        away = (points[..., 0] - plant.x_m) ** 2 + (points[..., 1] - plant.y_m) ** 2
        covered |= away <= (plant.spread_m / 2) ** 2
    return np.asarray(covered.mean(axis=1))


def scene_of(space: Space, quality: Quality = DEFAULT) -> Scene:
    """Turn a planned space into a scene of light.

    Parameters
    ----------
    space : the space; lamps that are switched off stay as bodies without light
    quality : how finely to cut it

    Returns
    -------
    Scene : the cut box with its reflectances and all its lamps
    """
    size = space.size
    room = _grid((size.width_m, size.depth_m, size.height_m), quality.patches)
    reflectance = np.empty(room.count)
    for face in room.faces:
        reflectance[face.patches] = surface_reflectance(space, face.name)
        if face.name == "floor" and space.plants:
            cover = _cover(room, space.plants)
            reflectance[face.patches] = reflectance[face.patches] * (1 - cover) + CANOPY_REFLECTANCE * cover
    return Scene(room=room, reflectance=reflectance, emitters=tuple(emitter_of(fixture) for fixture in space.fixtures))


_fields: ContentCache[LightField] = ContentCache(200_000_000, lambda field: 12_000_000)


def field_of(space: Space, quality: Quality = DEFAULT) -> LightField:
    """Solve a planned space's light, or find it solved.

    Parameters
    ----------
    space : the space
    quality : how finely to cut it

    Returns
    -------
    LightField : ready to be asked at points; dimmers, hours and switches do not enter
    """
    scene = scene_of(space, quality)
    lamps = tuple((e.plate.key, e.ppf_umol_s, e.exponent) for e in scene.emitters)
    key = (scene.room, scene.reflectance.tobytes(), lamps)
    return _fields.get(key, lambda: LightField(scene))


def weights(space: Space) -> Array:
    """Give what share of its full output each lamp runs at.

    Parameters
    ----------
    space : the space

    Returns
    -------
    ndarray : shape (lamps,): dim x ageing, zero when switched off
    """
    return np.array([f.dim * f.ageing if f.enabled else 0.0 for f in space.fixtures], dtype=np.float64)


def inside(space: Space, points: Array) -> Array:
    """Move points a hair inside the walls.

    Parameters
    ----------
    space : the space
    points : shape (n, 3) [m]

    Returns
    -------
    ndarray : shape (n, 3), at least 1 mm from every face [m]

    Raises
    ------
    GeometryError : a point lies outside the space by more than 1 mm
    """
    size = np.array([space.size.width_m, space.size.depth_m, space.size.height_m])
    outside = ((points < -1e-3) | (points > size + 1e-3)).any(axis=1)
    if outside.any():
        number = int(np.flatnonzero(outside)[0])
        x, y, z = points[number]
        w, d, h = size
        raise GeometryError(
            f"point {number + 1} ({x:.3f}, {y:.3f}, {z:.3f} m) lies outside “{space.name}”, "
            f"which is {w:.3f} × {d:.3f} × {h:.3f} m"
        )
    return np.clip(points, 1e-4, size - 1e-4)


def crown_points(space: Space, plant: Plant) -> Array:
    """Give the points that stand for a plant's top: its middle and six round it.

    Parameters
    ----------
    space : the space
    plant : the plant

    Returns
    -------
    ndarray : shape (7, 3), inside the walls [m]
    """
    angle = np.arange(6) / 6 * 2 * np.pi
    ring = 0.36 * plant.spread_m
    x = np.concatenate([[0.0], ring * np.cos(angle)]) + plant.x_m
    y = np.concatenate([[0.0], ring * np.sin(angle)]) + plant.y_m
    size = space.size
    top = min(plant.top_m, size.height_m - 1e-3)
    points = np.stack([np.clip(x, 0, size.width_m), np.clip(y, 0, size.depth_m), np.full(7, top)], axis=1)
    return inside(space, points)
