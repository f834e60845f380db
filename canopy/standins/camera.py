"""Pictures from above of known cover: leaves, pots and floor by their reflectances, under a lamp, through a camera.

What a person would photograph where nobody is: for the demo, and to hold measured pictures against.
"""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import gaussian_filter, map_coordinates
from skimage.transform import ProjectiveTransform

from canopy.light.spectra import typical
from canopy.pictures.ground import to_bytes

Array = NDArray[np.float64]
NM = np.arange(400.0, 701.0, 5.0)


def _bell(peak: float, width: float) -> Array:
    return np.asarray(np.exp(-(((NM - peak) / width) ** 2) / 2))


# Sensitivities of a camera of our own: broad, overlapping, red with a small second lobe in the blue.
CAMERA = np.array([_bell(600, 38) + 0.08 * _bell(445, 20), _bell(538, 42), _bell(460, 28)])
# What cameras do to get from their channels to those of a screen: neutral stays neutral, colours grow stronger.
MATRIX = np.array([[1.6, -0.45, -0.15], [-0.25, 1.5, -0.25], [-0.02, -0.45, 1.47]])
LEAF = 0.045 + 0.09 * _bell(552, 32) + 0.25 * np.clip((NM - 685) / 60, 0, 1)
PALE = 0.07 + 0.25 * _bell(560, 42) + 0.06 * np.clip((NM - 560) / 100, 0, 1)
SOIL = 0.04 + 0.09 * (NM - 400) / 300
CLAY = 0.08 + 0.35 / (1 + np.exp(-(NM - 580) / 20))
FILM, GREY, BLACK = (np.full_like(NM, level) for level in (0.8, 0.35, 0.03))
DARK_LEAF = 0.6 * LEAF


def _lit(reflectance: Array, spectrum: Array) -> Array:
    return np.asarray(CAMERA @ (reflectance * spectrum))


def lamp(name: str) -> Array:
    """Give the light of a typical lamp.

    Parameters
    ----------
    name : of its spectrum in the library

    Returns
    -------
    ndarray : relative power at each wavelength of `NM`, shape (61,)
    """
    found = typical(name)
    return np.asarray(np.interp(NM, found.wavelength_nm, found.power))


@dataclass(frozen=True, kw_only=True, eq=False)
class Scene:
    """What lies on the floor from above: which of `NAMES` each point is of, and what is leaf, shapes (rows, columns)
    from the back; the floor's width and depth [m].
    """

    material: NDArray[np.int_]
    leaves: NDArray[np.bool_]
    size_m: tuple[float, float]

    @property
    def cover(self) -> float:
        """The share of the floor that leaves cover."""
        return float(self.leaves.mean())


MATERIALS = (FILM, GREY, BLACK, SOIL, CLAY, LEAF, PALE, DARK_LEAF)
NAMES = ("film", "grey", "black", "soil", "clay", "leaf", "pale", "dark leaf")
_FILM, _GREY, _BLACK, _SOIL, _CLAY, _LEAF, _PALE, _DARK = range(8)


def of(name: str) -> int:
    """Give the number of a material.

    Parameters
    ----------
    name : one of `NAMES`

    Returns
    -------
    int : its place in them
    """
    return NAMES.index(name)


def scene(
    cover: float,
    rng: np.random.Generator,
    *,
    size_m: tuple[float, float] = (1.2, 0.6),
    floor: int = _FILM,
    plants: list[tuple[float, float, float]] | None = None,
    px_m: float = 0.001,
) -> Scene:
    """Lay out rosettes of leaves in pots on a floor.

    Parameters
    ----------
    cover : until leaves cover so much of it, 0 to 1; more than that is overshot by at most a plant
    rng : chance
    size_m : width and depth of the floor [m]
    floor : what it is of, as `of` gives it
    plants : x, y and spread of each [m], instead of chance
    px_m : side of a point [m]

    Returns
    -------
    Scene : what lies where
    """
    wide, deep = size_m
    y, x = np.mgrid[0 : round(deep / px_m), 0 : round(wide / px_m)].astype(float) * px_m
    y = deep - y
    material = np.full(x.shape, floor)
    leaves = np.zeros(x.shape, bool)
    places = plants or [(rng.uniform(0.05, wide - 0.05), rng.uniform(0.05, deep - 0.05), 0.0) for _ in range(400)]
    for px, py, spread in places:
        if plants is None and leaves.mean() >= cover:
            break
        radius = spread / 2 or rng.uniform(0.05, 0.14)
        pot = min(0.06, 0.7 * radius)
        # Only what lies near is drawn upon.
        row, column, reach = round((deep - py) / px_m), round(px / px_m), round(1.1 * max(radius, pot) / px_m)
        near = (slice(max(0, row - reach), row + reach), slice(max(0, column - reach), column + reach))
        dx, dy, on, leafy = x[near] - px, y[near] - py, material[near], leaves[near]
        away = np.hypot(dx, dy)
        on[(away < pot) & ~leafy] = _CLAY if rng.random() < 0.4 else _BLACK
        on[(away < 0.85 * pot) & ~leafy] = _SOIL
        for turn in np.arange(14) * 2.39996:
            long = radius if spread else radius * rng.uniform(0.75, 1.0)
            along, across = dx * np.cos(turn) + dy * np.sin(turn), dy * np.cos(turn) - dx * np.sin(turn)
            blade = ((along - long / 2) / (long / 2)) ** 2 + (across / (0.22 * long)) ** 2 < 1
            on[blade] = rng.choice([_LEAF, _LEAF, _LEAF, _PALE, _DARK])
            leafy |= blade
    return Scene(material=material, leaves=leaves, size_m=size_m)


def photograph(
    what: Scene,
    spectrum: Array,
    rng: np.random.Generator,
    *,
    size: tuple[int, int] = (1800, 1350),
    corners: tuple[tuple[float, float], ...] | None = None,
    balance: float = 0.5,
    noise: float = 0.01,
) -> tuple[NDArray[np.uint8], tuple[tuple[float, float], ...]]:
    """Take a picture of it as a camera would: uneven light, exposure, white balance, noise, blur, JPEG.

    Parameters
    ----------
    what : the floor
    spectrum : of the lamp, as `lamp` gives it
    rng : chance
    size : width and height of the picture [px]
    corners : where the floor's are in it [px], back left first, clockwise; by default seen slightly from the front
    balance : how far the camera takes the lamp's colour out, 0 to 1
    noise : of a pixel in full light, as a share of it

    Returns
    -------
    (ndarray, tuple) : sRGB, shape (height, width, 3); and the corners
    """
    wide, tall = size
    corners = corners or (
        (0.12 * wide, 0.27 * tall),
        (0.9 * wide, 0.25 * tall),
        (0.95 * wide, 0.8 * tall),
        (0.05 * wide, 0.83 * tall),
    )
    rows, columns = what.material.shape
    lit = np.array([_lit(m, spectrum) for m in MATERIALS])
    level = gaussian_filter(rng.normal(size=(30, 30)), 8)
    level = 1 + 0.25 * level / float(np.abs(level).max())
    tiles = np.clip(rng.normal(1.0, 0.12, size=(rows // 24 + 1, columns // 24 + 1)), 0.6, 1.4)
    shade = np.kron(tiles, np.ones((24, 24)))[:rows, :columns]
    colour = lit[what.material] * shade[..., None]
    grid = ProjectiveTransform.from_estimate(
        np.array(corners), np.array([(0, 0), (columns, 0), (columns, rows), (0, rows)], dtype=float)
    )
    yy, xx = np.mgrid[0:tall, 0:wide]
    at = grid(np.column_stack([xx.ravel() + 0.5, yy.ravel() + 0.5]))
    seen = np.stack(
        [
            map_coordinates(colour[..., k], [at[:, 1] - 0.5, at[:, 0] - 0.5], order=1, mode="constant", cval=0.0)
            for k in range(3)
        ],
        axis=-1,
    ).reshape(tall, wide, 3)
    outside = ((at < 0) | (at > (columns, rows))).any(axis=1).reshape(tall, wide)
    seen[outside] = lit[_FILM] * 0.7
    light = map_coordinates(level, [yy * 29 / tall, xx * 29 / wide], order=1)
    seen = np.asarray(seen * light[..., None])
    white = _lit(np.ones_like(NM), spectrum)
    seen *= (white.max() / white) ** balance
    seen = np.clip(seen @ MATRIX.T, 0, None)
    seen *= 0.75 / np.percentile(seen, 98)
    seen = gaussian_filter(seen, (0.8, 0.8, 0))
    seen += rng.normal(size=seen.shape) * noise * np.sqrt(np.clip(seen, 0.02, 1))
    out = io.BytesIO()
    Image.fromarray(to_bytes(seen)).save(out, "JPEG", quality=85)
    return np.asarray(Image.open(out)), corners
