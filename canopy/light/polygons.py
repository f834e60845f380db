"""Exact form factors from a point to flat pieces of a surface.

The factor from a surface element with normal n to a uniform diffuse polygon is
(1/2π) Σ Θ_e n·(a×b)/|a×b| over its edges, after clipping at the element's
horizon (Lambert 1760; Baum, Rushmeier & Winget 1989, "Improving radiosity
solutions through the use of analytically determined form-factors").
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
_CHUNK = 60_000


def polygon_factors(points: Array, normals: Array, quads: Array) -> Array:
    """Give the form factor from points to convex four-sided polygons.

    Parameters
    ----------
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals of the receiving elements
    quads : shape (m, 4, 3), corners in order round each polygon [m]

    Returns
    -------
    ndarray : shape (n, m), 0..1; parts below an element's horizon do not count. Either face of a polygon counts:
        the caller masks what shows its back.
    """
    n, m = len(points), len(quads)
    out = np.zeros((n, m))
    if not n or not m:
        return out
    step = max(1, _CHUNK // m)
    for start in range(0, n, step):
        part = slice(start, start + step)
        out[part] = _factors(points[part], normals[part], quads)
    return out


def _angle_term(a: Array, b: Array, normals: Array) -> Array:
    """Θ n·(a×b)/|a×b| for vectors a, b of shape (n, m, 3)."""
    cx = a[..., 1] * b[..., 2] - a[..., 2] * b[..., 1]
    cy = a[..., 2] * b[..., 0] - a[..., 0] * b[..., 2]
    cz = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    size = np.sqrt(cx * cx + cy * cy + cz * cz)
    theta = np.arctan2(size, (a * b).sum(-1))
    facing = normals[:, None, 0] * cx + normals[:, None, 1] * cy + normals[:, None, 2] * cz
    return np.asarray(np.divide(theta * facing, size, out=np.zeros_like(size), where=size > 1e-18))


def _factors(points: Array, normals: Array, quads: Array) -> Array:
    rays = quads[None] - points[:, None, None, :]
    heights = np.einsum("nmkc,nc->nmk", rays, normals)
    tiny = 1e-12
    above = heights > tiny
    total = np.zeros(heights.shape[:2])
    if above.all():
        for k in range(4):
            total += _angle_term(rays[:, :, k], rays[:, :, (k + 1) % 4], normals)
        return np.asarray(np.abs(total) / (2 * np.pi))
    leave, enter = np.zeros_like(rays[:, :, 0]), np.zeros_like(rays[:, :, 0])
    for k in range(4):
        a, b = rays[:, :, k], rays[:, :, (k + 1) % 4]
        ha, hb = heights[:, :, k], heights[:, :, (k + 1) % 4]
        ua, ub = above[:, :, k], above[:, :, (k + 1) % 4]
        crossing = ua != ub
        share = np.divide(ha, ha - hb, out=np.zeros_like(ha), where=crossing)[..., None]
        cut = a + share * (b - a)
        start = np.where(ua[..., None], a, cut)
        end = np.where(ub[..., None], b, cut)
        total += np.where(ua | ub, _angle_term(start, end, normals), 0.0)
        leave = np.where((ua & ~ub)[..., None], cut, leave)
        enter = np.where((~ua & ub)[..., None], cut, enter)
    total += _angle_term(leave, enter, normals)
    return np.asarray(np.abs(total) / (2 * np.pi))


def parallel_corner(a: Array, b: Array, c: Array) -> Array:
    """Corner function of an element facing a rectangle in a parallel plane.

    Parameters
    ----------
    a : signed extent along one side, from the element's foot [m]
    b : signed extent along the other side [m]
    c : distance of the planes, above zero [m]

    Returns
    -------
    ndarray : broadcast shape; a rectangle's factor is its second difference in a and b.
        Source: Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-4.
    """
    ra, rb = np.sqrt(a * a + c * c), np.sqrt(b * b + c * c)
    return np.asarray((a / ra * np.arctan(b / ra) + b / rb * np.arctan(a / rb)) / (2 * np.pi))


def upright_corner(x: Array, z: Array, c: Array) -> Array:
    """Corner function of an element and a rectangle in a plane at right angles to it.

    Parameters
    ----------
    x : signed extent along the foot of that plane [m]
    z : height above the element's horizon, zero or more [m]
    c : distance of the element from the plane, zero or more [m]

    Returns
    -------
    ndarray : broadcast shape; a rectangle's factor is its second difference in x and z.
        Source: Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-5.
    """
    r = np.sqrt(c * c + z * z)
    near = np.divide(c, r, out=np.ones(np.broadcast(c, r).shape), where=r > 1e-15)
    return np.asarray((np.arctan2(x, c) - near * np.arctan2(x, r)) / (2 * np.pi))
