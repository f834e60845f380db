"""Which boxes lines of sight between two lots of points can meet.

Between the boxes round two lots all lines run in a shaft; a third box that the shaft never meets is passed over
(Haines & Wallace 1991, "Shaft culling for efficient ray-cast radiosity").
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.intp]
# How much of its way a line must be able to spend in a box.
_TOUCH = 1e-9


class Lots:
    """Points in lots of neighbours.

    ``members`` numbers the points of each lot, shape (lots, size), padded with its first; ``real`` tells which are no
    padding; ``at`` gives their places (lots, size, 3), ``low`` and ``high`` each lot's box (lots, 3) [m].

    Parameters
    ----------
    points : shape (n, 3), at least one [m]
    size : how many points a lot holds at most
    """

    def __init__(self, points: Array, size: int) -> None:
        self.count = len(points)
        halvings = max(0, int(np.ceil(np.log2(self.count / size))))
        order = _halved(points, halvings)
        starts = self.count * np.arange(2**halvings + 1) // 2**halvings
        places = starts[:-1, None] + np.arange(np.diff(starts).max())
        self.real = places < starts[1:, None]
        self.members = order[np.where(self.real, places, places[:, :1])]
        self.at = points[self.members]
        self.low, self.high = self.at.min(axis=1), self.at.max(axis=1)


def lots(points: Array, size: int) -> Lots:
    """Part points into lots of neighbours; those asked about last are kept.

    Parameters
    ----------
    points : shape (n, 3), at least one [m]
    size : how many points a lot holds at most

    Returns
    -------
    Lots : the lots
    """
    return _parted(np.ascontiguousarray(points, dtype=np.float64).tobytes(), size)


@lru_cache(maxsize=32)
def _parted(points: bytes, size: int) -> Lots:
    return Lots(np.frombuffer(points).reshape(-1, 3), size)


def _halved(points: Array, times: int) -> Index:
    """An order in which neighbours follow each other: halved again and again, each part across its longest side."""
    order, count = np.arange(len(points)), len(points)
    for turn in range(times):
        starts = count * np.arange(2**turn + 1) // 2**turn
        part = np.repeat(np.arange(2**turn), np.diff(starts))
        at = points[order]
        sides = np.maximum.reduceat(at, starts[:-1]) - np.minimum.reduceat(at, starts[:-1])
        order = order[np.lexsort((at[np.arange(count), sides.argmax(axis=1)[part]], part))]
    return order


def met(ours: tuple[Array, Array], theirs: tuple[Array, Array], box: tuple[Array, Array]) -> NDArray[np.bool_]:
    """Say which shafts can meet which boxes.

    Parameters
    ----------
    ours : lowest and highest corners of the boxes at one end, shapes (..., 3) [m]
    theirs : those at the other end, likewise
    box : those that may lie between, likewise

    Returns
    -------
    ndarray of bool : shape (...), all three spread against each other; False only where no line can spend any part of
        its way inside
    """
    shape = np.broadcast_shapes(*(part[0].shape[:-1] for part in (ours, theirs, box)))
    enter, leave = np.zeros(shape), np.ones(shape)
    for axis in range(3):
        # At a share s of the way lines lie between a + s (b - a), least and most: both must reach the box.
        for end, sign in ((0, 1.0), (1, -1.0)):
            a, b, edge = ours[end][..., axis], theirs[end][..., axis], box[1 - end][..., axis]
            left, pace = sign * (edge - a), sign * (b - a)
            with np.errstate(divide="ignore", invalid="ignore"):
                at = left / pace
            leave = np.minimum(leave, np.where(pace > 0, at, np.where((pace == 0) & (left <= 0), -1.0, np.inf)))
            enter = np.maximum(enter, np.where(pace < 0, at, -np.inf))
    return np.asarray(leave - enter > _TOUCH)


def faced(ours: Lots, normals: Array, low: Array, high: Array) -> NDArray[np.bool_]:
    """Say which lots have a point that looks towards a box.

    Parameters
    ----------
    ours : those that look
    normals : the way each of their points faces, shape (n, 3), in the points' order
    low : lowest corners of the boxes, shape (boxes, 3) [m]
    high : highest corners, shape (boxes, 3) [m]

    Returns
    -------
    ndarray of bool : shape (lots, boxes)
    """
    way = normals[ours.members]
    reach = np.maximum(way, 0) @ high.T + np.minimum(way, 0) @ low.T
    return np.asarray((reach > np.einsum("lkc,lkc->lk", way, ours.at)[..., None] + _TOUCH).any(axis=1))
