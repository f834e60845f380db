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
_CHUNK = 24_000
# A corner no further than this above an element's horizon counts as below it [m].
_TINY = 1e-12


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


def _dot(a: Array, b: Array) -> Array:
    """Scalar product of vectors whose three components come first."""
    out = a[0] * b[0]
    out += a[1] * b[1]
    out += a[2] * b[2]
    return np.asarray(out)


def _angle_term(a: Array, b: Array, normal: Array) -> Array:
    """Θ n·(a×b)/|a×b| for vectors a, b, shapes (3, ...)."""
    cross = np.stack([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])
    size = np.sqrt(_dot(cross, cross))
    theta = np.arctan2(size, _dot(a, b))
    theta *= _dot(normal, cross)
    return np.asarray(np.divide(theta, size, out=np.zeros_like(size), where=size > 1e-18))


def _factors(points: Array, normals: Array, quads: Array) -> Array:
    # To each of the four corners, components first: (3, n, m).
    rays = [np.ascontiguousarray((quads[None, :, k] - points[:, None]).transpose(2, 0, 1)) for k in range(4)]
    facing = np.ascontiguousarray(normals.T)[:, :, None]
    above = [_dot(ray, facing) > _TINY for ray in rays]
    some, every = np.logical_or.reduce(above), np.logical_and.reduce(above)
    if every.all():
        return _whole(rays, facing)
    # Most are seen whole or not at all: only those that the horizon parts are clipped.
    out = np.zeros(some.shape)
    for which, find in ((every, _whole), (some & ~every, _clipped)):
        n, m = np.nonzero(which)
        if len(n):
            out[n, m] = find([ray[:, n, m] for ray in rays], facing[:, n, 0])
    return out


def _whole(rays: list[Array], normal: Array) -> Array:
    """Factors of quads above the horizon, by the rays to their corners."""
    total = _angle_term(rays[3], rays[0], normal)
    for k in range(3):
        total += _angle_term(rays[k], rays[k + 1], normal)
    return np.asarray(np.abs(total) / (2 * np.pi))


def _clipped(rays: list[Array], normal: Array) -> Array:
    """Factors of quads that the horizon parts, by the rays (3, quads) to their corners."""
    heights = [_dot(ray, normal) for ray in rays]
    above = [height > _TINY for height in heights]
    total, leave, enter = np.zeros_like(heights[0]), np.zeros_like(rays[0]), np.zeros_like(rays[0])
    for k in range(4):
        after = (k + 1) % 4
        a, b, ha, hb, ua, ub = rays[k], rays[after], heights[k], heights[after], above[k], above[after]
        share = np.divide(ha, ha - hb, out=np.zeros_like(ha), where=ua != ub)
        cut = a + share * (b - a)
        total += np.where(ua | ub, _angle_term(np.where(ua, a, cut), np.where(ub, b, cut), normal), 0.0)
        np.copyto(leave, cut, where=ua & ~ub)
        np.copyto(enter, cut, where=~ua & ub)
    total += _angle_term(leave, enter, normal)
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
