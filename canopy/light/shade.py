"""Light that passes through crowns: weakened by exp(-k a s) along its way s (Beer's law; Monsi & Saeki 1953)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from canopy.light.crowns import Crown
from canopy.light.emitters import Emitter, lamp_samples, sample_terms

Array = NDArray[np.float64]
# Rings of directions: inner and outer radius on the unit disc below the hemisphere, and how many.
_SKY_RINGS = ((0.0, 0.45, 6), (0.45, 0.72, 10), (0.72, 1.0, 14))
_FAR_M = 20.0
_CHUNK = 300_000


def path_through(crown: Crown, here: Array, there: Array) -> Array:
    """Give how far lines of sight run through a crown.

    Parameters
    ----------
    crown : the crown, an ellipsoid
    here : shape (n, 3) [m]
    there : shape (n, m, 3), or (m, 3) for the same ends from everywhere [m]

    Returns
    -------
    ndarray : shape (n, m) [m]
    """
    way = np.asarray(there) - here[:, None, :]
    return _path(crown, here, way, np.linalg.norm(way, axis=-1))


def _path(crown: Crown, here: Array, way: Array, far: Array) -> Array:
    """Give how far ways (n, m, 3) of length ``far`` (n, m) run through a crown."""
    axes = crown.semi_axes
    start, step = (here - crown.middle) / axes, way / axes
    a = np.einsum("nmk,nmk->nm", step, step)
    b = np.einsum("nk,nmk->nm", start, step)
    c = (start * start).sum(-1)[:, None] - 1
    disc = b * b - a * c
    root = np.sqrt(np.maximum(disc, 0))
    a = np.maximum(a, 1e-18)
    enter, leave = np.clip((-b - root) / a, 0, 1), np.clip((-b + root) / a, 0, 1)
    return np.asarray(np.where(disc > 0, leave - enter, 0) * far)


def _weakened(crowns: Sequence[Crown], here: Array, there: Array) -> Array:
    """exp(-Σ k a s) for lines of sight, shape (n, m)."""
    ends = there.shape[-2]
    depth = np.zeros((len(here), ends))
    highest = there[..., 2].max()
    way = there - here[:, None, :]
    far = np.linalg.norm(way, axis=-1)
    for crown in crowns:
        # Light from above cannot pass a crown that ends below the point.
        rows = np.flatnonzero(here[:, 2] < crown.top_m - 1e-6) if highest >= crown.top_m else np.arange(len(here))
        if len(rows):
            depth[rows] += crown.weakening_per_m * _path(crown, here[rows], way[rows], far[rows])
    return np.asarray(np.exp(-depth))


def lamp_share(emitter: Emitter, crowns: Sequence[Crown], points: Array, normals: Array) -> Array:
    """Give what share of a lamp's direct light gets through crowns to points.

    Parameters
    ----------
    emitter : the lamp
    crowns : the crowns; a point inside one is shaded by what lies above it
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals

    Returns
    -------
    ndarray : shape (n,), 0..1; 1 where the lamp gives nothing anyway
    """
    leafy = [crown for crown in crowns if crown.lai > 0]
    out = np.ones(len(points))
    lowest = max((crown.top_m for crown in leafy), default=-1.0)
    rows = np.flatnonzero(points[:, 2] < lowest - 1e-6)
    if not len(rows):
        return out
    samples, share = lamp_samples(emitter)
    step = max(1, _CHUNK // len(samples))
    for start in range(0, len(rows), step):
        part = rows[start : start + step]
        terms = sample_terms(emitter, samples, share, points[part], normals[part])
        total = terms.sum(axis=1)
        passed = (terms * _weakened(leafy, points[part], samples)).sum(axis=1)
        out[part] = np.divide(passed, total, out=np.ones_like(total), where=total > 0)
    return out


def sky_share(crowns: Sequence[Crown], points: Array, normals: Array) -> Array:
    """Give what share of even light from all round gets through crowns to points.

    Parameters
    ----------
    crowns : discs that light must pass; none lets all through
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals

    Returns
    -------
    ndarray : shape (n,), 0..1: the cosine-weighted mean over 30 directions of the hemisphere
    """
    leafy = [crown for crown in crowns if crown.lai > 0]
    out = np.ones(len(points))
    lowest = max((crown.top_m for crown in leafy), default=-1.0)
    rows = np.flatnonzero((points[:, 2] < lowest - 1e-6) | (np.abs(normals[:, 2]) < 0.99))
    if not len(rows) or not leafy:
        return out
    local, weight = _sky()
    step = max(1, _CHUNK // len(local))
    for start in range(0, len(rows), step):
        part = rows[start : start + step]
        ways = _about(normals[part], local)
        out[part] = _weakened(leafy, points[part], points[part][:, None, :] + _FAR_M * ways) @ weight
    return out


def _sky() -> tuple[Array, Array]:
    """Directions about +z and their cosine weights: rings of equal projected area."""
    ways, weights = [], []
    for low, high, count in _SKY_RINGS:
        radius = np.sqrt((low * low + high * high) / 2)
        turn = (np.arange(count) + 0.5) / count * 2 * np.pi
        upright = np.full(count, np.sqrt(1 - radius * radius))
        ways.append(np.stack([radius * np.cos(turn), radius * np.sin(turn), upright], axis=1))
        weights.append(np.full(count, (high * high - low * low) / count))
    return np.concatenate(ways), np.concatenate(weights)


def _about(normals: Array, local: Array) -> Array:
    """Turn directions about +z to stand about normals, shape (n, m, 3)."""
    helper = np.where(np.abs(normals[:, :1]) > 0.9, [[0.0, 1, 0]], [[1.0, 0, 0]])
    a = np.cross(normals, helper)
    a /= np.linalg.norm(a, axis=1, keepdims=True)
    b = np.cross(normals, a)
    return np.asarray(
        local[None, :, :1] * a[:, None, :]
        + local[None, :, 1:2] * b[:, None, :]
        + local[None, :, 2:] * normals[:, None, :]
    )
