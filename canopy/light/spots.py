"""Points that light is asked at, and what they have in common with those asked at before.

While a plant is moved all other plants' points stay where they are; what was worked out for them stays true, row by
row. Points are compared with those of the same number that were asked at lately.
"""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from threading import Lock
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.light.crowns import Crown

Array = NDArray[np.float64]
Index = NDArray[np.intp]
# So many sets of points are remembered; where more than this share of points has moved, nothing is taken over.
_REMEMBERED, _MOVED = 24, 0.6
# What a lamp, a body or a wall gives to points, row by row: points and their normals in, an array out.
T = TypeVar("T", bound=np.generic)
Find = Callable[[Array, Array], NDArray[T]]


@dataclass(frozen=True, kw_only=True, eq=False)
class Spots:
    """Points (n, 3) [m] with unit normals (n, 3), the ``key`` that tells them from others, and ``before``: the key of
    points asked at before them, of which only the rows ``moved`` were elsewhere; None without such.
    """

    points: Array
    normals: Array
    key: bytes
    before: bytes | None = None
    moved: Index = field(default_factory=lambda: np.empty(0, dtype=np.intp))


class _Seen:
    """The points asked at lately, and the leaves that stood there."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._held: OrderedDict[bytes, Spots] = OrderedDict()
        self._crowns: OrderedDict[bytes, tuple[Crown, ...]] = OrderedDict()

    def spots(self, points: Array, normals: Array) -> Spots:
        """Compare points with those seen before, and remember them."""
        key = _digest(points, normals)
        with self._lock:
            if self._held and next(reversed(self._held)) == key:
                return self._held[key]
            # Points that come back, as after an undo, are held against those asked at since.
            self._held.pop(key, None)
            earlier = [item for item in reversed(self._held.values()) if len(item.points) == len(points)]
        best, moved = None, np.empty(0, dtype=np.intp)
        for item in earlier:
            away = np.flatnonzero((item.points != points).any(axis=1) | (item.normals != normals).any(axis=1))
            if len(away) <= _MOVED * len(points) and (best is None or len(away) < len(moved)):
                best, moved = item.key, away
        found = Spots(points=points, normals=normals, key=key, before=best, moved=moved)
        with self._lock:
            self._held[key] = found
            while len(self._held) > _REMEMBERED:
                self._held.popitem(last=False)
        return found

    def leaves_at(self, key: bytes) -> tuple[Crown, ...]:
        """The crowns that stood there when points were asked at last."""
        with self._lock:
            return self._crowns.get(key, ())

    def note(self, key: bytes, crowns: tuple[Crown, ...]) -> None:
        """Remember which crowns stood there."""
        with self._lock:
            self._crowns[key] = crowns
            self._crowns.move_to_end(key)
            while len(self._crowns) > _REMEMBERED:
                self._crowns.popitem(last=False)


_SEEN = _Seen()


def spots_of(points: Array, normals: Array) -> Spots:
    """Compare points with those that were asked at lately.

    Parameters
    ----------
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals

    Returns
    -------
    Spots : the points, and which of them moved
    """
    return _SEEN.spots(points, normals)


def earlier(spots: Spots) -> list[tuple[bytes, Index, tuple[Crown, ...]]]:
    """Give where light through leaves may be known from.

    Returns
    -------
    list of (bytes, ndarray, tuple of Crown) : keys of points, these themselves and those before them; the rows that
        were elsewhere; and the crowns that stood there when they were asked at last
    """
    found = [(spots.key, np.empty(0, dtype=np.intp))]
    if spots.before is not None:
        found.append((spots.before, spots.moved))
    return [(key, rows, crowns) for key, rows in found if (crowns := _SEEN.leaves_at(key))]


def note_leaves(spots: Spots, crowns: tuple[Crown, ...]) -> None:
    """Remember which crowns stand there while points are asked at.

    Parameters
    ----------
    crowns : with leaves
    """
    _SEEN.note(spots.key, crowns)


def by_rows(store: ContentCache[NDArray[T]], spots: Spots, key: Hashable, find: Find[T]) -> NDArray[T]:
    """Give what something gives to points, looking only at those that moved; what it gave before they moved is let go.

    Parameters
    ----------
    store : where it is kept
    key : what it depends on besides the points
    find : works it out for some points

    Returns
    -------
    ndarray : as ``find`` gives it for all points; to be treated as read-only
    """

    def make() -> NDArray[T]:
        known = store.peek((key, spots.before)) if spots.before is not None else None
        if known is None:
            return find(spots.points, spots.normals)
        store.forget((key, spots.before))
        return patched(known, spots, spots.moved, find)

    return store.get((key, spots.key), make)


def patched(known: NDArray[T], spots: Spots, rows: Index, find: Find[T]) -> NDArray[T]:
    """Put fresh rows into what is known.

    Parameters
    ----------
    known : what ``find`` gave for points that differ in these rows only
    rows : which to look at, shape (rows,)
    find : works it out for some points

    Returns
    -------
    ndarray : a copy with those rows renewed
    """
    out = known.copy()
    if len(rows):
        out[rows] = find(spots.points[rows], spots.normals[rows])
    return out


def _digest(*arrays: Array) -> bytes:
    sha = hashlib.blake2b(digest_size=16)
    for array in arrays:
        sha.update(np.ascontiguousarray(array).tobytes())
    return sha.digest()
