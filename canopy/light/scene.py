"""From a planned space to a scene of light."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.errors import GeometryError
from canopy.library import find, materials
from canopy.light.crowns import Crown
from canopy.light.emitters import Emitter, beam_exponent
from canopy.light.field import LightField
from canopy.light.glass import diffuse as glass_passes
from canopy.light.intensity import IntensityTable
from canopy.light.parts import Scene
from canopy.light.photometry import ppf
from canopy.light.pillars import Pillar
from canopy.light.plates import Plate
from canopy.light.room import RoomGrid
from canopy.plan.document import Fixture, Space
from canopy.plan.furnishing import Column, Daylight, Lid, Shelf
from canopy.plan.learnt import factor_on
from canopy.plan.pose import axes, centre
from canopy.plan.shell import FACES, Surface
from canopy.schedule import Never

Array = NDArray[np.float64]
# A window shines from a hair inside its face.
_INSIDE_M = 1e-3


@dataclass(frozen=True, kw_only=True)
class Quality:
    """How finely a space is cut: about how many wall patches in all, and samples of direct light a patch and side."""

    patches: int
    pieces: int = 2


PREVIEW, DEFAULT = Quality(patches=480, pieces=1), Quality(patches=800)
POINTS, FINE = Quality(patches=1600), Quality(patches=3200)


@lru_cache(maxsize=24)
def _grid(size_m: tuple[float, float, float], patches: int, levels_m: tuple[float, ...]) -> RoomGrid:
    return RoomGrid.of(size_m, patches, levels_m)


def surface_reflectance(space: Space, face: str) -> float:
    """Give the reflectance in force on a face.

    Parameters
    ----------
    face : "left", "right", "front", "back", "floor" or "ceiling"

    Returns
    -------
    float : the person's own figure, or the material's from the library
    """
    if space.door_open and face == space.door_side:
        return 0.0
    return reflectance_of(getattr(space.faces, face))


def is_mirror(space: Space, face: str) -> bool:
    """Say whether a face is a mirror.

    Parameters
    ----------
    face : its name

    Returns
    -------
    bool : by its material; not while a door stands open there
    """
    if space.door_open and face == space.door_side:
        return False
    return find(materials(), getattr(space.faces, face).material_id, "material").mirror


def reflectance_of(surface: Surface) -> float:
    """Give the reflectance in force on a surface.

    Parameters
    ----------
    surface : a face, or a side of a shelf

    Returns
    -------
    float : the person's own figure, or the material's from the library; 0 for an open side
    """
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
            update={
                "id": "lamp",
                "dim": 1.0,
                "ageing": 1.0,
                "in_use_since": None,
                "plug": None,
                "pinned": False,
                "schedule": Never(),
                "enabled": True,
                "chain": "",
            }
        )
    )


@lru_cache(maxsize=1024)
def _emitter(fixture: Fixture) -> Emitter:
    spec, taped = fixture.spec, _taped(fixture)
    plate = _face(fixture, (taped[1], 1.0) if taped and taped[0] == 0 else (0.0, taped[0]) if taped else (0.0, 1.0))
    exponent = beam_exponent(spec.beam_angle_deg) if spec.emission == "beam" else 1.0
    table = IntensityTable.of(spec.photometry) if spec.emission == "photometric" and spec.photometry else None
    around: Literal["", "tube", "bulb"] = (
        "tube" if spec.emission == "tube" else "bulb" if spec.emission == "bulb" else ""
    )
    return Emitter(
        plate=plate,
        ppf_umol_s=ppf(spec) * fixture.open_share,
        exponent=exponent,
        table=table,
        around=around,
        body=not around,
    )


def _taped(fixture: Fixture) -> tuple[float, float] | None:
    """The covered part of a lamp's length, from its start (0) to its end (1)."""
    cover = fixture.cover
    if cover is None or cover.where == "evenly":
        return None
    return (0.0, cover.share) if cover.where == "start" else (1 - cover.share, 1.0)


def _face(fixture: Fixture, part: tuple[float, float]) -> Plate:
    """A part of a lamp's face, from one share of its length to another."""
    spec, frame = fixture.spec, axes(fixture)
    disc, (low, high) = spec.shape == "disc", part
    return Plate(
        centre=centre(fixture) + frame.length * spec.length_m * ((low + high) / 2 - 0.5),
        along=frame.length,
        across=frame.width,
        beam=frame.beam,
        length_m=spec.length_m * (high - low),
        width_m=spec.length_m if disc else spec.width_m,
        offsets_m=(0.0,) if disc else tuple((k - (spec.bars - 1) / 2) * spec.bar_pitch_m for k in range(spec.bars)),
        disc=disc,
        reflectance=spec.body_reflectance,
    )


def _tape(fixture: Fixture) -> tuple[Plate, ...]:
    """The covered end of a lamp: a body that gives no light."""
    taped = _taped(fixture)
    return (_face(fixture, taped),) if taped and fixture.spec.emission not in ("tube", "bulb") else ()


def window_emitter(space: Space, window: Daylight) -> Emitter:
    """Turn a window into what shines in: Lambertian, 1 µmol/m²/s just inside, without a body.

    Parameters
    ----------
    window : the window on one of its faces

    Returns
    -------
    Emitter : to be weighed with the daylight's PPFD
    """
    size = np.array([space.size.width_m, space.size.depth_m, space.size.height_m])
    axis, side = {"left": (0, 0), "right": (0, 1), "front": (1, 0), "back": (1, 1), "floor": (2, 0), "ceiling": (2, 1)}[
        window.face
    ]
    b, c = (other for other in range(3) if other != axis)
    middle, along, across, beam = np.zeros(3), np.zeros(3), np.zeros(3), np.zeros(3)
    middle[axis] = size[axis] - _INSIDE_M if side else _INSIDE_M
    middle[b], middle[c] = window.u_m, window.v_m
    along[b], across[c], beam[axis] = 1.0, 1.0, -1.0 if side else 1.0
    plate = Plate(
        centre=middle,
        along=along,
        across=across,
        beam=beam,
        length_m=window.width_m,
        width_m=window.height_m,
        reflectance=0.0,
    )
    return Emitter(plate=plate, ppf_umol_s=plate.area_m2, body=False)


def _shelf_plate(shelf: Shelf) -> Plate:
    """A shelf seen from below (its beam) and above (its back); glass and holes let light through."""
    passes, back = glass_passes() if shelf.kind == "glass" else (0.0, 0.0)
    if shelf.kind == "perforated":
        passes = shelf.open_share
    closed = 1 - passes if shelf.kind == "perforated" else 1.0
    under, top = (back, back) if shelf.kind == "glass" else (reflectance_of(shelf.under), reflectance_of(shelf.top))
    middle = np.array([shelf.x_m + shelf.width_m / 2, shelf.y_m + shelf.depth_m / 2, shelf.z_m - shelf.thickness_m / 2])
    return Plate(
        centre=middle,
        along=np.array([1.0, 0, 0]),
        across=np.array([0, 1.0, 0]),
        beam=np.array([0, 0, -1.0]),
        length_m=shelf.width_m,
        width_m=shelf.depth_m,
        reflectance=under * closed,
        back_reflectance=top * closed,
        partition=True,
        screen=True,
        passes=passes,
        glass=shelf.kind == "glass",
    )


def lid_panes(lid: Lid) -> tuple[Plate, ...]:
    """Give the panes of a propagator lid, cloche or jar: clear plastic, whose index is near that of glass, or glass.

    Parameters
    ----------
    lid : as it stands

    Returns
    -------
    tuple of Plate : its top, partly open, and four sides
    """
    passes, back = glass_passes()
    x, y, z = np.eye(3)
    low = np.array([lid.x_m, lid.y_m, lid.z_m])
    half = np.array([lid.width_m, lid.depth_m, lid.height_m]) / 2

    def pane(along: int, across: int, beam: int, side: int, gap: float = 0.0) -> Plate:
        axes_of, middle = np.stack([x, y, z]), low + half
        middle[beam] += side * half[beam]
        return Plate(
            centre=middle,
            along=axes_of[along],
            across=axes_of[across],
            beam=side * axes_of[beam],
            length_m=2 * half[along],
            width_m=2 * half[across],
            reflectance=back * (1 - gap),
            passes=gap + (1 - gap) * passes,
            glass=True,
            open_share=gap,
        )

    sides = (pane(1, 2, 0, -1), pane(1, 2, 0, 1), pane(0, 2, 1, -1), pane(0, 2, 1, 1))
    return (*((pane(0, 1, 2, 1, lid.open_share),) if lid.open_share < 1 else ()), *sides)


def column_body(column: Column, room_m: float) -> Pillar:
    """Turn a round column into what stands in light's way.

    Parameters
    ----------
    room_m : the space's height [m]

    Returns
    -------
    Pillar : solid, with its ends
    """
    return Pillar(
        x_m=column.x_m,
        y_m=column.y_m,
        low_m=column.z_m,
        high_m=column.z_m + column.height_m,
        radius_m=column.diameter_m / 2,
        room_m=room_m,
        reflectance=column.reflectance,
    )


def scene_of(space: Space, quality: Quality = DEFAULT, crowns: tuple[Crown, ...] = ()) -> Scene:
    """Turn a planned space into a scene of light.

    Parameters
    ----------
    space : the space; lamps that are switched off stay as bodies without light
    quality : how finely to cut it
    crowns : what grows there

    Returns
    -------
    Scene : the cut box with its reflectances, its lamps, then its windows, and its shelves, columns and lids as bodies
    """
    size = space.size
    shelves = [shelf for shelf in sorted(space.shelves, key=lambda s: -s.z_m) if shelf.kind != "wire"]
    levels = tuple(shelf.z_m - shelf.thickness_m / 2 for shelf in shelves)
    room = _grid((size.width_m, size.depth_m, size.height_m), quality.patches, levels)
    reflectance = np.empty(room.count)
    for face in room.faces:
        reflectance[face.patches] = surface_reflectance(space, face.name)
    return Scene(
        room=room,
        reflectance=reflectance,
        emitters=(*(emitter_of(lamp) for lamp in space.fixtures), *(window_emitter(space, w) for w in space.daylight)),
        bodies=(
            *(_shelf_plate(shelf) for shelf in shelves),
            *(column_body(column, size.height_m) for column in space.columns),
            *(tape for lamp in space.fixtures for tape in _tape(lamp)),
            *(pane for lid in space.lids for pane in lid_panes(lid)),
        ),
        crowns=crowns,
        mirrors=tuple(face for face in FACES if is_mirror(space, face)),
        pieces=quality.pieces,
    )


_fields: ContentCache[LightField] = ContentCache(lambda field: field.nbytes)


def field_of(space: Space, quality: Quality = DEFAULT, crowns: tuple[Crown, ...] = ()) -> LightField:
    """Solve a planned space's light, or find it solved.

    Parameters
    ----------
    quality : how finely to cut it
    crowns : what grows there

    Returns
    -------
    LightField : ready to be asked at points; dimmers, hours and switches do not enter
    """
    scene = scene_of(space, quality, crowns)
    lamps = tuple(e.key for e in scene.emitters)
    key = (
        scene.room,
        scene.reflectance.tobytes(),
        lamps,
        tuple(body.key for body in scene.bodies),
        crowns,
        scene.mirrors,
        scene.pieces,
    )
    return _fields.get(key, lambda: LightField(scene))


def weights(space: Space, day: dt.date | None = None) -> Array:
    """Give what share of its full output each lamp runs at, then what PPFD each window gives while it is light.

    Parameters
    ----------
    day : the day, for daylight by month; the first of June's when None

    Returns
    -------
    ndarray : shape (lamps + windows,): dim x ageing x what a survey and a log say, zero when switched off; windows
        [µmol/m²/s]
    """
    when = day or dt.date(2026, 6, 1)
    read = space.survey
    shines = factor_on(space, "lamp-light")
    lamps = [
        shines * f.dim * f.ageing * (read.factor_of(f.id) if read else 1.0) if f.enabled else 0.0
        for f in space.fixtures
    ]
    windows = [window.dli_on(when) / (window.hours * 0.0036) for window in space.daylight]
    return np.array([*lamps, *windows], dtype=np.float64)


def hours(space: Space) -> Array:
    """Give how long each lamp and each window shines in a day.

    Returns
    -------
    ndarray : shape (lamps + windows,) [h]
    """
    return np.array([*(f.full_hours for f in space.fixtures), *(w.hours for w in space.daylight)], dtype=np.float64)


def inside(space: Space, points: Array) -> Array:
    """Move points a hair inside the walls.

    Parameters
    ----------
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
