"""Opaque flat bodies: lamps' bodies that stand in the way, and what they hide."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
_ON_PLANE_M = 1e-7


@dataclass(frozen=True, kw_only=True, eq=False)
class Plate:
    """An opaque flat body: rectangles side by side, or a disc, in one plane.

    ``centre`` (3,) [m]; ``along``, ``across``, ``beam`` unit vectors (3,);
    ``length_m`` x ``width_m`` each rectangle, at ``offsets_m`` across; a disc
    has the diameter ``length_m``. Its back may reflect otherwise than the side of its beam. A ``partition`` (a shelf)
    parts wall patches by where their middle lies: none is seen from both of its sides. A ``screen`` (a shelf, a side
    of a column) also hides other bodies from each other; lamps' bodies are too small for that to count.
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
        return np.asarray((points - self.centre) @ np.stack([self.along, self.across, self.beam], axis=1))

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
        out = np.zeros((len(here), len(there)), dtype=bool)
        p, q = self.local(here).astype(np.float32), self.local(there).astype(np.float32)
        for side in (1, -1):
            rows = np.flatnonzero(side * p[:, 2] > _ON_PLANE_M)
            cols = np.flatnonzero(side * q[:, 2] < -_ON_PLANE_M)
            if len(rows) and len(cols):
                out[np.ix_(rows, cols)] = self.crossed(p[rows], q[cols])
        return out

    def crossed(self, p: NDArray[np.float32], q: NDArray[np.float32]) -> NDArray[np.bool_]:
        """Say which lines between the plate's two sides pass through it.

        Parameters
        ----------
        p : shape (n, 3), points on one side, in the plate's own frame [m]
        q : shape (m, 3), points on the other side, in the plate's own frame [m]

        Returns
        -------
        ndarray of bool : shape (n, m)
        """
        wp, wq = p[:, 2:3], q[None, :, 2]
        scale = 1 / (wp - wq)
        u = (wp * q[None, :, 0] - wq * p[:, 0:1]) * scale
        v = (wp * q[None, :, 1] - wq * p[:, 1:2]) * scale
        return self._inside(u, v)

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
        nu, nv = max(1, round(length / pitch_m)), max(1, round(width / pitch_m))
        us, vs = np.linspace(-length / 2, length / 2, nu + 1), np.linspace(-width / 2, width / 2, nv + 1)
        quads = [
            [(us[i], vs[j] + o), (us[i + 1], vs[j] + o), (us[i + 1], vs[j + 1] + o), (us[i], vs[j + 1] + o)]
            for o in self.offsets_m
            for i in range(nu)
            for j in range(nv)
        ]
        flat = np.array(quads)
        corners = self.centre + flat[..., :1] * self.along + flat[..., 1:] * self.across
        return corners, np.full(len(quads), length * width / (nu * nv))


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
