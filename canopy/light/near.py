"""A scene with its lamps' bodies moved to the nearest places of a raster.

While a lamp is dragged a little, what goes by way of walls and bodies then stays as it was worked out last.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from canopy.light.emitters import Emitter
from canopy.light.parts import Scene

Array = NDArray[np.float64]
# The raster [m], and how far from walls a body stays [m].
_RASTER_M, _FREE_M = 0.03, 1e-3


def near(scene: Scene) -> Scene:
    """Move lamps' bodies to a raster.

    Parameters
    ----------
    scene : as it stands

    Returns
    -------
    Scene : each lamp within half a raster of its place along each axis, inside the box; where shelves or columns stand
        along the floor alone, and windows and bare lamps not at all
    """
    size = np.array(scene.room.size_m)
    axes = np.array([True, True, not scene.bodies])
    return replace(scene, emitters=tuple(_near(emitter, size, axes) for emitter in scene.emitters))


def _near(emitter: Emitter, size: Array, axes: NDArray[np.bool_]) -> Emitter:
    if not emitter.body:
        return emitter
    plate = emitter.plate
    shift = np.where(axes, np.round(plate.centre / _RASTER_M) * _RASTER_M - plate.centre, 0.0)
    outline = plate.outline.reshape(-1, 3) + shift
    shift += np.clip(_FREE_M - outline.min(axis=0), 0, None) - np.clip(outline.max(axis=0) - size + _FREE_M, 0, None)
    return replace(emitter, plate=replace(plate, centre=plate.centre + np.where(axes, shift, 0.0)))
