"""Upright round bodies: columns, exactly round in their shadow, many-sided in what they give back."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from canopy.light.plates import Matrix, Surface, cut_rectangle

Array = NDArray[np.float64]
# What such a body gives back is taken from the faces of a prism of so many sides and the same girth.
_SIDES = 16
# A way through it that is shorter than this only grazes it, or begins on its face [m].
_GRAZE_M = 1e-6
# An end this close to floor or ceiling has no light on it [m].
_FLUSH_M = 2e-3


@dataclass(frozen=True, kw_only=True, eq=False)
class Pillar:
    """A solid upright cylinder with both its ends: axis at ``x_m, y_m``, from ``low_m`` to ``high_m`` [m].

    An end that touches floor or ceiling (``room_m`` high) has no face of its own.
    """

    x_m: float
    y_m: float
    low_m: float
    high_m: float
    radius_m: float
    room_m: float
    reflectance: float = 0.5
    partition: bool = False
    screen: bool = True
    passes: float = 0.0

    @cached_property
    def key(self) -> bytes:
        """What tells this body from another, as bytes."""
        shape = (self.x_m, self.y_m, self.low_m, self.high_m, self.radius_m, self.reflectance, self.room_m)
        return b"pillar" + np.array(shape).round(9).tobytes()

    @cached_property
    def outline(self) -> Array:
        """Corners of the upright box round it, shape (2, 4, 3) [m]."""
        r = self.radius_m
        ring = np.array([self.x_m, self.y_m]) + np.array([(-r, -r), (r, -r), (r, r), (-r, r)])
        return np.stack([np.column_stack([ring, np.full(4, z)]) for z in (self.low_m, self.high_m)])

    def hides(self, here: Array, there: Array) -> NDArray[np.bool_]:
        """Say which lines of sight this body cuts.

        Parameters
        ----------
        here : shape (n, 3) [m]
        there : shape (m, 3) [m]

        Returns
        -------
        ndarray of bool : shape (n, m); a line that only touches its face is not cut
        """
        p, q = here[:, :2] - [self.x_m, self.y_m], there[:, :2] - [self.x_m, self.y_m]
        pp, qq, pq = (p * p).sum(1)[:, None], (q * q).sum(1)[None, :], p @ q.T
        a, b, c = np.maximum(pp + qq - 2 * pq, 1e-18), pq - pp, pp - self.radius_m**2
        out = b * b - a * c > 0
        n, m = np.nonzero(out)
        if not len(n):
            return np.asarray(out)
        a, b, c = a[n, m], b[n, m], c[n, 0]
        root = np.sqrt(b * b - a * c)
        enter, leave = np.clip((-b - root) / a, 0, 1), np.clip((-b + root) / a, 0, 1)
        low, rise = here[n, 2], there[m, 2] - here[n, 2]
        ends = np.stack([low + enter * rise, low + leave * rise])
        within = (ends.min(0) < self.high_m - _GRAZE_M) & (ends.max(0) > self.low_m + _GRAZE_M)
        out[n, m] = within & ((leave - enter) * np.sqrt(a + rise * rise) > _GRAZE_M)
        return np.asarray(out)

    def through(self, here: Array, there: Array) -> Matrix:
        """Give the share of light that passes along lines of sight that it cuts.

        Parameters
        ----------
        here : shape (n, 3) [m]
        there : shape (m, 3) [m]

        Returns
        -------
        ndarray : shape (n, m), nothing
        """
        return np.zeros((len(here), len(there)), dtype=np.float32)

    def buries(self, points: Array) -> NDArray[np.bool_]:
        """Say which points lie under or in it.

        Parameters
        ----------
        points : shape (..., 3) [m]

        Returns
        -------
        ndarray of bool : shape (...)
        """
        away = (points[..., 0] - self.x_m) ** 2 + (points[..., 1] - self.y_m) ** 2
        level = (points[..., 2] > self.low_m - _FLUSH_M) & (points[..., 2] < self.high_m + _FLUSH_M)
        return np.asarray((away < self.radius_m**2) & level)

    def surface(self, pitch_m: float) -> Surface:
        """Cut its faces into tiles.

        Parameters
        ----------
        pitch_m : about how large a tile may be [m]

        Returns
        -------
        Surface : its sides and its free ends, seen from outside only
        """
        tall, side = self.high_m - self.low_m, 2 * np.pi * self.radius_m / _SIDES
        inner = side / 2 / np.tan(np.pi / _SIDES)
        axis = np.array([self.x_m, self.y_m, (self.low_m + self.high_m) / 2])
        corners, areas, normals = [], [], []
        for k in range(_SIDES):
            turn = 2 * np.pi * k / _SIDES
            out, along = np.array([np.cos(turn), np.sin(turn), 0.0]), np.array([-np.sin(turn), np.cos(turn), 0.0])
            quads, area = cut_rectangle(axis + inner * out, np.array([0, 0, 1.0]), along, tall, side, (0.0,), pitch_m)
            corners.append(quads)
            areas.append(area)
            normals.append(np.tile(out, (len(area), 1)))
        square = np.sqrt(np.pi) * self.radius_m
        for z, up, free in (
            (self.low_m, -1.0, self.low_m > _FLUSH_M),
            (self.high_m, 1.0, self.high_m < self.room_m - _FLUSH_M),
        ):
            if free:
                middle = np.array([self.x_m, self.y_m, z])
                quads, area = cut_rectangle(
                    middle, np.array([1.0, 0, 0]), np.array([0, 1.0, 0]), square, square, (0.0,), pitch_m
                )
                corners.append(quads)
                areas.append(area)
                normals.append(np.tile([0.0, 0, up], (len(area), 1)))
        return Surface(
            corners=np.concatenate(corners),
            areas=np.concatenate(areas),
            normals=(np.concatenate(normals),),
            reflectances=(self.reflectance,),
            # Its tiles are narrow: their middles say enough.
            fine=1,
        )
