"""Opaque flat bodies: lamps' bodies that stand in the way, and what they hide."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from canopy.light.glass import transmittance

Array = NDArray[np.float64]
Matrix = NDArray[np.float32]
_ON_PLANE_M = 1e-7


@dataclass(frozen=True, kw_only=True, eq=False)
class Plate:
    """An opaque flat body: rectangles side by side, or a disc, in one plane.

    ``centre`` (3,) [m]; ``along``, ``across``, ``beam`` unit vectors (3,);
    ``length_m`` x ``width_m`` each rectangle, at ``offsets_m`` across; a disc
    has the diameter ``length_m``. Its back may reflect otherwise than the side of its beam. A ``partition`` (a shelf)
    parts wall patches by where their middle lies: none is seen from both of its sides. A ``screen`` (a shelf, a side
    of a column) also hides other bodies from each other; lamps' bodies are too small for that to count. ``passes`` is
    the share of light from all round that goes through it (a perforated shelf); of clear ``glass`` by its angle, but
    for an ``open_share`` of it that is no glass at all.
    """

    centre: Array
    along: Array
    across: Array
    beam: Array
    length_m: float
    width_m: float
    offsets_m: tuple[float, ...] = (0.0,)
    disc: bool = False
    reflectance: float = 0.5
    back_reflectance: float | None = None
    partition: bool = False
    screen: bool = False
    passes: float = 0.0
    glass: bool = False
    open_share: float = 0.0

    @property
    def sides(self) -> tuple[float, float]:
        """Reflectance of the side of its beam, and of its back."""
        return self.reflectance, self.reflectance if self.back_reflectance is None else self.back_reflectance

    @cached_property
    def key(self) -> bytes:
        """What tells this plate from another, as bytes."""
        shape = [
            self.length_m,
            self.width_m,
            float(self.disc),
            float(self.partition),
            float(self.screen),
            self.passes,
            float(self.glass),
            self.open_share,
            *self.sides,
            *self.offsets_m,
        ]
        return np.concatenate([self.centre, self.along, self.across, shape]).round(9).tobytes()

    @cached_property
    def outline(self) -> Array:
        """Corners of its pieces, uncut, shape (pieces, 4, 3) [m]."""
        return self.tiles(float("inf"))[0]

    @property
    def area_m2(self) -> float:
        """Area of one side [m²]."""
        if self.disc:
            return float(np.pi * self.length_m**2 / 4)
        return self.length_m * self.width_m * len(self.offsets_m)

    def local(self, points: Array) -> Array:
        """Give points in the plate's own frame.

        Parameters
        ----------
        points : shape (..., 3) [m]

        Returns
        -------
        ndarray : shape (..., 3): along, across, and ahead of the plate (positive on the lit side) [m]
        """
        return np.asarray((points - self.centre) @ self._frame)

    @cached_property
    def _frame(self) -> Array:
        return np.stack([self.along, self.across, self.beam], axis=1)

    def _inside(self, u: Array, v: Array) -> NDArray[np.bool_]:
        if self.disc:
            return np.asarray(u * u + v * v <= (self.length_m / 2) ** 2)
        hit = np.zeros(v.shape, dtype=bool)
        for offset in self.offsets_m:
            hit |= np.abs(v - offset) <= self.width_m / 2
        hit &= np.abs(u) <= self.length_m / 2
        return hit

    def hides(self, here: Array, there: Array) -> NDArray[np.bool_]:
        """Say which lines of sight this plate cuts.

        Parameters
        ----------
        here : shape (n, 3) [m]
        there : shape (m, 3) [m]

        Returns
        -------
        ndarray of bool : shape (n, m); a point on the plate's own plane is never hidden by it
        """
        p, q = self.local(here).astype(np.float32), self.local(there).astype(np.float32)
        out: NDArray[np.bool_] | None = None
        for side in (1, -1):
            before, behind = side * p[:, 2] > _ON_PLANE_M, side * q[:, 2] < -_ON_PLANE_M
            if not before.any() or not behind.any():
                continue
            above, below = (p, q) if side > 0 else (p * _TURNED, q * _TURNED)
            if before.all() and behind.all():
                return self.crossed(above, below)
            out = np.zeros((len(here), len(there)), dtype=bool) if out is None else out
            rows, cols = np.flatnonzero(before), np.flatnonzero(behind)
            out[np.ix_(rows, cols)] = self.crossed(above[rows], below[cols])
        return np.zeros((len(here), len(there)), dtype=bool) if out is None else out

    def crossed(self, p: NDArray[np.float32], q: NDArray[np.float32]) -> NDArray[np.bool_]:
        """Say which lines between the plate's two sides pass through it.

        Parameters
        ----------
        p : shape (n, 3), points above the plate, in its own frame [m]
        q : shape (m, 3), points below it, in its own frame [m]

        Returns
        -------
        ndarray of bool : shape (n, m)
        """
        # w u' - w' u over w - w' is where a line meets the plane; within a half length of the middle it is when both
        # differences below have the right sign, each a product of two thin matrices.
        near = _within(p, q, 0, np.float32(0), np.float32(self.length_m / 2))
        flat = np.flatnonzero(near)
        if not self.disc and 3 * len(flat) > near.size:
            hit = np.zeros_like(near)
            for offset in self.offsets_m:
                hit |= _within(p, q, 1, np.float32(offset), np.float32(self.width_m / 2))
            return np.asarray(near & hit)
        # A small body is passed far off by most lines: the rest alone is looked at.
        i, j = np.divmod(flat, len(q))
        scale = 1 / (p[i, 2] - q[j, 2])
        u, v = ((p[i, 2] * q[j, k] - q[j, 2] * p[i, k]) * scale for k in (0, 1))
        near.reshape(-1)[flat] = self._inside(u, v)
        return near

    def tiles(self, pitch_m: float) -> tuple[Array, Array]:
        """Cut the plate into pieces.

        Parameters
        ----------
        pitch_m : about how large a piece may be [m]

        Returns
        -------
        (ndarray, ndarray) : corners, shape (k, 4, 3) [m], and areas, shape (k,) [m²]; a disc is cut as the square of
            its own area
        """
        length = self.length_m * (np.sqrt(np.pi) / 2 if self.disc else 1)
        width = length if self.disc else self.width_m
        return cut_rectangle(self.centre, self.along, self.across, length, width, self.offsets_m, pitch_m)

    def surface(self, pitch_m: float) -> Surface:
        """Cut both its sides into tiles.

        Parameters
        ----------
        pitch_m : about how large a tile may be [m]

        Returns
        -------
        Surface : the side of its beam, then its back
        """
        corners, areas = self.tiles(pitch_m)
        front = np.tile(self.beam, (len(areas), 1))
        # Of what does not pass, so much is given back; the rest of the tile is as good as not there.
        held = 1 - self.passes
        given = tuple(min(0.98, rho / held) for rho in self.sides)
        return Surface(corners=corners, areas=areas * held, normals=(front, -front), reflectances=given)

    def through(self, here: Array, there: Array) -> Matrix:
        """Give the share of light that passes along lines of sight, were this plate to cut them.

        Parameters
        ----------
        here : where lines begin, shape (n, 3) [m]
        there : where lines end, shape (m, 3) [m]

        Returns
        -------
        ndarray : shape (n, m); for glass by the angle at which it is met
        """
        if not self.glass:
            return np.full((len(here), len(there)), self.passes, dtype=np.float32)
        p, q = self.local(here).astype(np.float32), self.local(there).astype(np.float32)
        way = np.square(p).sum(1)[:, None] + np.square(q).sum(1)[None, :] - 2 * (p @ q.T)
        cosine = np.abs(p[:, 2, None] - q[None, :, 2]) / np.sqrt(np.maximum(way, np.float32(1e-12)))
        return (self.open_share + (1 - self.open_share) * transmittance(cosine)).astype(np.float32)


@dataclass(frozen=True, kw_only=True, eq=False)
class Surface:
    """A body's faces in tiles: corners (k, 4, 3) [m], areas (k,) of what light meets there [m²]; for each side that can
    be seen its normals (k, 3) and its reflectance. What tiles see is sampled ``fine`` × ``fine`` times.
    """

    corners: Array
    areas: Array
    normals: tuple[Array, ...]
    reflectances: tuple[float, ...]
    fine: int = 2

    @cached_property
    def middles(self) -> Array:
        """The tiles' middles, shape (k, 3) [m]."""
        return np.asarray(self.corners.mean(axis=1))

    @property
    def nodes(self) -> int:
        """How many tiles there are, each side counted."""
        return len(self.areas) * len(self.normals)

    def ahead(self, side: int, points: Array) -> NDArray[np.bool_]:
        """Say which tiles show a side to which points.

        Parameters
        ----------
        side : which of its sides
        points : shape (n, 3) [m]

        Returns
        -------
        ndarray of bool : shape (n, k)
        """
        normals = self.normals[side]
        return np.asarray(points @ normals.T - (self.middles * normals).sum(1)[None, :] > 1e-9)


class Body(Protocol):
    """What stands in light's way and gives some of it back.

    A ``partition`` parts wall patches by where their middle lies; a ``screen`` also hides other bodies from each other.
    """

    def __hash__(self) -> int:
        """It is itself: two bodies alike are two."""

    @property
    def key(self) -> bytes:
        """What tells it from another."""

    @property
    def partition(self) -> bool:
        """Whether no wall patch is seen from both of its sides."""

    @property
    def screen(self) -> bool:
        """Whether it is large enough to hide other bodies from each other."""

    @property
    def passes(self) -> float:
        """Share of light from all round that goes through it; 0 when it is opaque."""

    def through(self, here: Array, there: Array) -> Matrix:
        """Share of light that passes along lines of sight, were it to cut them, shape (n, m)."""

    @property
    def outline(self) -> Array:
        """Corners that hold it, shape (pieces, 4, 3) [m]."""

    def hides(self, here: Array, there: Array) -> NDArray[np.bool_]:
        """Say which lines of sight it cuts, shape (n, m)."""

    def surface(self, pitch_m: float) -> Surface:
        """Cut its faces into tiles about so large [m]."""


def cut_rectangle(
    centre: Array,
    along: Array,
    across: Array,
    length_m: float,
    width_m: float,
    offsets_m: tuple[float, ...],
    pitch_m: float,
) -> tuple[Array, Array]:
    """Cut rectangles side by side into pieces.

    Parameters
    ----------
    centre : shape (3,) [m]
    along : unit vector of their length, shape (3,)
    across : unit vector of their width, shape (3,)
    length_m : of each [m]
    width_m : of each [m]
    offsets_m : how far across each lies [m]
    pitch_m : about how large a piece may be [m]

    Returns
    -------
    (ndarray, ndarray) : corners, shape (k, 4, 3) [m], and areas, shape (k,) [m²]
    """
    nu, nv = max(1, round(length_m / pitch_m)), max(1, round(width_m / pitch_m))
    us, vs = np.linspace(-length_m / 2, length_m / 2, nu + 1), np.linspace(-width_m / 2, width_m / 2, nv + 1)
    quads = [
        [(us[i], vs[j] + o), (us[i + 1], vs[j] + o), (us[i + 1], vs[j + 1] + o), (us[i], vs[j + 1] + o)]
        for o in offsets_m
        for i in range(nu)
        for j in range(nv)
    ]
    flat = np.array(quads)
    corners = centre + flat[..., :1] * along + flat[..., 1:] * across
    return corners, np.full(len(quads), length_m * width_m / (nu * nv))


_TURNED = np.array([1, 1, -1], dtype=np.float32)


def _within(
    p: NDArray[np.float32], q: NDArray[np.float32], axis: int, middle: np.float32, half: np.float32
) -> NDArray[np.bool_]:
    """Whether lines from p (above a plane) to q (below it) meet it within ``half`` of a middle along one axis."""
    depth = -q[:, 2]
    out = None
    for edge, sign in ((middle - half, 1), (middle + half, -1)):
        off = np.column_stack([p[:, 2], p[:, axis] - edge]) @ np.stack([q[:, axis] - edge, depth])
        inside = off >= 0 if sign > 0 else off <= 0
        out = inside if out is None else out & inside
    assert out is not None
    return np.asarray(out)


def quad_samples(corners: Array, fine: int) -> Array:
    """Give sample points inside four-cornered tiles.

    Parameters
    ----------
    corners : shape (k, 4, 3) [m]
    fine : samples along each side

    Returns
    -------
    ndarray : shape (k, fine * fine, 3) [m]
    """
    steps = (np.arange(fine) + 0.5) / fine
    s, t = (grid.ravel()[None, :, None] for grid in np.meshgrid(steps, steps, indexing="ij"))
    a, b, c, d = (corners[:, None, k] for k in range(4))
    return np.asarray((1 - s) * (1 - t) * a + s * (1 - t) * b + s * t * c + (1 - s) * t * d)
