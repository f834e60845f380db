from __future__ import annotations

import numpy as np

from canopy.light.emitters import Emitter
from canopy.light.field import LightField
from canopy.light.parts import Scene
from canopy.light.plates import Plate
from canopy.light.room import RoomGrid

X, Y, DOWN = np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), np.array([0, 0, -1.0])


def panel(x, y, z, length, width, ppf, *, rho=0.5, n=1.0, offsets=(0.0,), tilt=0.0, disc=False):
    """A lamp shining down (tilted about x), its length along x."""
    c, s = np.cos(np.radians(tilt)), np.sin(np.radians(tilt))
    plate = Plate(
        centre=np.array([x, y, z]),
        along=X,
        across=np.array([0, c, s]),
        beam=np.array([0, s, -c]),
        length_m=length,
        width_m=width,
        reflectance=rho,
        offsets_m=offsets,
        disc=disc,
    )
    return Emitter(plate=plate, ppf_umol_s=float(ppf), exponent=n)


def solve(size, rho, lamps, patches=800):
    """A solved box; ``rho`` in the order left, right, front, back, floor, ceiling."""
    room = RoomGrid.of(size, patches)
    reflectance = np.empty(room.count)
    for face, value in zip(room.faces, rho, strict=True):
        reflectance[face.patches] = value
    return LightField(Scene(room=room, reflectance=reflectance, emitters=tuple(lamps)))


def level(size, z, cells, fine=1):
    """Middle points of an even grid on a level."""
    g = (np.arange(cells * fine) + 0.5) / (cells * fine)
    gx, gy = np.meshgrid(g * size[0], g * size[1], indexing="ij")
    return np.stack([gx.ravel(), gy.ravel(), np.full(gx.size, z)], axis=1)
