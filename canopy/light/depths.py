"""How deep leaves lie along lines of sight: crown by crown, looked for only where a line can meet it.

A crown is an ellipsoid filled evenly with leaves; light is weakened by exp(-k a s) along its way s through it (Beer's
law; Monsi & Saeki 1953). Points are taken in lots; crowns that no line between two lots can meet are passed over.
"""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from threading import Lock
from typing import TYPE_CHECKING
from weakref import ref

import numpy as np
from numpy.typing import NDArray

from canopy.light.crowns import Crown
from canopy.light.room import Matrix
from canopy.light.shafts import Lots, faced, lots, met
from canopy.light.sparse import gathered, nothing

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Array = NDArray[np.float64]
Index = NDArray[np.intp]
# Points of a lot, at either end; shafts and lines looked at in one go.
_LOT = 16
_SHAFTS, _LINES = 500_000, 600_000
# Where more than this share of points has moved, all are looked at again.
_MOVED = 0.8


@dataclass(frozen=True, kw_only=True, eq=False)
class Asked:
    """What depths were asked for: the first points (n, 3) [m], the way they look (n, 3), and crowns."""

    here: Array
    looks: Array
    crowns: tuple[Crown, ...]


@dataclass(frozen=True, kw_only=True, eq=False)
class Depths:
    """Optical depth of leaves along lines between n and m points, ``shape`` (n, m), as the meetings of lines with
    ``crowns`` so many crowns.

    ``where`` (places in that array, laid flat), ``owner`` (which crown) and ``deep`` (optical depth) tell each meeting
    apart; shape (meetings,) all. ``asked`` tells what it is the answer to, where that is known.
    """

    shape: tuple[int, int]
    crowns: int
    where: NDArray[np.integer]
    owner: NDArray[np.integer]
    deep: Matrix
    asked: Asked | None = None

    @property
    def nbytes(self) -> int:
        """What it takes up [bytes]."""
        asked = 0 if self.asked is None else self.asked.here.nbytes + self.asked.looks.nbytes
        return self.where.nbytes + self.owner.nbytes + self.deep.nbytes + asked

    @property
    def clear(self) -> bool:
        """Whether no line meets any leaf."""
        return not len(self.where)

    @property
    def total(self) -> Array:
        """Optical depth of all crowns together, shape (n, m)."""
        n, m = self.shape
        return np.asarray(np.bincount(self.where, self.deep, n * m).reshape(n, m), dtype=np.float64)

    def passing(self) -> Matrix:
        """Share of light that gets through, shape (n, m)."""
        return np.exp(-self.total.astype(np.float32))

    def spread(self, rows: Index, cols: Index | None = None) -> Depths:
        """Give the same depths for points of which several stand in one place.

        Parameters
        ----------
        rows : which of the first points each stands for, shape (more,)
        cols : which of the other points each stands for; as they are when None

        Returns
        -------
        Depths : between those, shape (more rows, more or as many columns)
        """
        n, m = self.shape
        i, j = np.divmod(self.where, max(m, 1))
        at, pick = _each_of(rows, i, n)
        i, j, owner, deep = at, j[pick], self.owner[pick], self.deep[pick]
        if cols is not None:
            at, pick = _each_of(cols, j, m)
            i, j, owner, deep, m = i[pick], at, owner[pick], deep[pick], len(cols)
        return Depths(shape=(len(rows), m), crowns=self.crowns, where=i * m + j, owner=owner, deep=deep)

    def taken(self, weight: NDArray[np.floating]) -> csr_array:
        """Sum up what each crown takes of light on its way to the first points.

        Parameters
        ----------
        weight : shape (n, m), the light between each two when nothing is between

        Returns
        -------
        csr_array : shape (n, crowns), mostly nothing
        """
        n, m = self.shape
        if self.clear:
            return nothing((n, self.crowns))
        total = self.total.reshape(-1)[self.where]
        # What is taken for each unit of depth, (1 - e^-τ)/τ: all of them together, to be parted by depth.
        gone = np.divide(-np.expm1(-total), total, out=np.ones_like(total), where=total > 1e-6)
        share = np.ascontiguousarray(weight).reshape(-1)[self.where] * gone * self.deep
        return gathered(share, self.where // m, self.owner, (n, self.crowns))


def _each_of(stands_for: Index, place: NDArray[np.integer], count: int) -> tuple[Index, Index]:
    """For each place, all that stand for it: their numbers, and which of the places that is."""
    order = np.argsort(stands_for, kind="stable")
    starts = np.searchsorted(stands_for[order], np.arange(count + 1))
    many = np.diff(starts)[place]
    pick = np.repeat(np.arange(len(place)), many)
    step = np.arange(len(pick)) - np.repeat(np.cumsum(many) - many, many)
    return order[starts[place][pick] + step], pick


def depths(crowns: Sequence[Crown], here: Array, there: Array, facing: Array | None = None) -> Depths:
    """Find how deep leaves lie between points, crown by crown.

    Parameters
    ----------
    crowns : with or without leaves
    here : shape (n, 3) [m]
    there : shape (m, 3) [m]
    facing : the way each of the first points looks, shape (n, 3); leaves before what lies behind it may be left out

    Returns
    -------
    Depths : optical depths; between points that were asked about just before, only crowns that are new are looked at
    """
    stand, looks = tuple(crowns), np.zeros_like(here) if facing is None else facing
    place = _digest(there), len(here), facing is None
    # Twins cannot be told apart.
    before = _LATEST.of(place) if not _twins(stand) else None
    every, fresh, parts = np.arange(len(here)), np.arange(len(stand)), []
    if before is not None and before.asked is not None:
        away = (before.asked.here != here).any(axis=1) | (before.asked.looks != looks).any(axis=1)
        if away.sum() <= _MOVED * len(here):
            stays = _renumbered(before.asked.crowns, stand)
            owner = stays[before.owner]
            left = (owner >= 0) & ~away[before.where // max(len(there), 1)]
            parts.append((before.where[left], owner[left], before.deep[left]))
            fresh, known = np.setdiff1d(fresh, stays), np.unique(stays[stays >= 0]).astype(np.intp)
            parts.append(_some(stand, known, here, there, facing, np.flatnonzero(away)))
    parts.append(_some(stand, fresh, here, there, facing, every))
    where, owner, deep = (np.concatenate(part) for part in zip(*parts, strict=True))
    found = Depths(
        shape=(len(here), len(there)),
        crowns=len(stand),
        where=where.astype(np.int32),
        owner=owner.astype(np.int32),
        deep=deep,
        asked=Asked(here=here, looks=looks, crowns=stand),
    )
    _LATEST.note(place, found)
    return found


@lru_cache(maxsize=32)
def _twins(crowns: tuple[Crown, ...]) -> bool:
    return len(set(crowns)) < len(crowns)


@lru_cache(maxsize=32)
def _renumbered(before: tuple[Crown, ...], now: tuple[Crown, ...]) -> NDArray[np.int32]:
    """The number each crown has now; -1 for those that are gone."""
    number = {crown: k for k, crown in enumerate(now)}
    return np.array([number.get(crown, -1) for crown in before], dtype=np.int32)


def _some(
    crowns: tuple[Crown, ...], which: Index, here: Array, there: Array, facing: Array | None, rows: Index
) -> tuple[Index, Index, Matrix]:
    """What `meetings` gives of some crowns and some of the first points, numbered as among all."""
    if not len(rows) or not len(which):
        return np.empty(0, dtype=np.intp), np.empty(0, dtype=np.intp), np.empty(0, dtype=np.float32)
    looks = None if facing is None else facing[rows]
    where, owner, deep = meetings([crowns[k] for k in which], here[rows], there, looks)
    i, j = np.divmod(where, max(len(there), 1))
    return rows[i] * len(there) + j, which[owner], deep


def depth(crowns: Sequence[Crown], here: Array, there: Array, facing: Array | None = None) -> Array:
    """Find how deep leaves lie between points, all crowns together.

    Parameters
    ----------
    crowns : with or without leaves
    here : shape (n, 3) [m]
    there : shape (m, 3) [m]
    facing : the way each of the first points looks, as in `depths`

    Returns
    -------
    ndarray : shape (n, m), optical depth
    """
    return depths(crowns, here, there, facing).total


@lru_cache(maxsize=64)
def crown_boxes(crowns: tuple[Crown, ...]) -> tuple[Array, Array]:
    """Give the boxes round crowns.

    Parameters
    ----------
    crowns : at least one

    Returns
    -------
    (ndarray, ndarray) : lowest and highest corners, shapes (crowns, 3) [m]
    """
    middles = np.array([crown.middle for crown in crowns])
    axes = np.array([crown.semi_axes for crown in crowns])
    return middles - axes, middles + axes


def _digest(points: Array) -> bytes:
    return hashlib.blake2b(np.ascontiguousarray(points).tobytes(), digest_size=12).digest()


class _Latest:
    """What was found last between points, as long as somebody keeps it: while one crown is moved the others stay."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._held: OrderedDict[Hashable, ref[Depths]] = OrderedDict()

    def of(self, place: Hashable) -> Depths | None:
        """What was found, as far as it is still there."""
        with self._lock:
            alive = self._held.get(place)
        return None if alive is None else alive()

    def note(self, place: Hashable, found: Depths) -> None:
        """Remember what was found, without keeping it alive."""
        with self._lock:
            self._held[place] = ref(found)
            self._held.move_to_end(place)
            while len(self._held) > self._most:
                self._held.popitem(last=False)


_LATEST = _Latest(256)


def meetings(
    crowns: Sequence[Crown], here: Array, there: Array, facing: Array | None = None
) -> tuple[Index, Index, Matrix]:
    """Find where lines of sight run through crowns, and how deep the leaves are there.

    Parameters
    ----------
    crowns : with or without leaves
    here : shape (n, 3) [m]
    there : shape (m, 3) [m]
    facing : the way each of the first points looks, shape (n, 3); what lies behind it is left out

    Returns
    -------
    (ndarray, ndarray, ndarray) : places among the lines (n, m), laid flat; which crown; its optical depth; shapes
        (meetings,)
    """
    none = np.empty(0, dtype=np.intp), np.empty(0, dtype=np.intp), np.empty(0, dtype=np.float32)
    if not len(crowns) or not len(here) or not len(there):
        return none
    ours = lots(here, _LOT)
    # What nobody looks at is left out first: a lot that reaches a little above the horizon is then small.
    ends = np.arange(len(there)) if facing is None else np.flatnonzero(faced(ours, facing, there, there).any(axis=0))
    if not len(ends):
        return none
    theirs = lots(there[ends], _LOT)
    low, high = crown_boxes(tuple(crowns))
    middles, axes = (low + high) / 2, (high - low) / 2
    dense = np.array([crown.weakening_per_m for crown in crowns])
    seen = (
        np.ones((len(ours.low), len(theirs.low)), dtype=bool)
        if facing is None
        else faced(ours, facing, theirs.low, theirs.high)
    )
    shafts = _shafts(ours, theirs, low, high, seen)
    at_once = max(1, _LINES // (ours.members.shape[1] * theirs.members.shape[1]))
    found = []
    for start in range(0, len(shafts[0]), at_once):
        owner, one, two = (part[start : start + at_once] for part in shafts)
        where, way, share = _met(ours, theirs, (middles[owner], axes[owner]), one, two)
        k, i, j = where
        if facing is not None:
            ahead = np.einsum("kc,kc->k", way, facing[i]) > 0
            k, i, j, way, share = k[ahead], i[ahead], j[ahead], way[ahead], share[ahead]
        deep = dense[owner[k]] * share * np.sqrt(np.einsum("kc,kc->k", way, way))
        found.append((i * len(there) + ends[j], owner[k], deep.astype(np.float32)))
    return tuple(np.concatenate(part) for part in zip(*found, strict=True)) if found else none


def _shafts(ours: Lots, theirs: Lots, low: Array, high: Array, seen: NDArray[np.bool_]) -> tuple[Index, Index, Index]:
    """Which crowns' boxes, shapes (crowns, 3), may be met on the way from which lots to which: numbers of each."""
    whole, ends = ((lot.low.min(axis=0), lot.high.max(axis=0)) for lot in (ours, theirs))
    crowns, found = np.flatnonzero(met(whole, ends, (low, high))), [np.zeros((0, 2), dtype=np.intp)]
    at_once = max(1, _SHAFTS // len(ours.low))
    for start in range(0, len(crowns), at_once):
        some = crowns[start : start + at_once]
        near = met((ours.low, ours.high), ends, (low[some, None], high[some, None])) & seen.any(axis=1)
        k, one = np.nonzero(near)
        found.append(np.column_stack([some[k], one]))
    pairs = np.concatenate(found)
    triples, at_once = [], max(1, _SHAFTS // len(theirs.low))
    for start in range(0, len(pairs), at_once):
        owner, one = pairs[start : start + at_once].T
        near = met(
            (ours.low[one, None], ours.high[one, None]),
            (theirs.low, theirs.high),
            (low[owner, None], high[owner, None]),
        )
        k, two = np.nonzero(near & seen[one])
        triples.append(np.stack([owner[k], one[k], two]))
    owner, one, two = np.concatenate(triples, axis=1) if triples else np.zeros((3, 0), dtype=np.intp)
    return owner, one, two


def _met(
    ours: Lots, theirs: Lots, shapes: tuple[Array, Array], one: Index, two: Index
) -> tuple[tuple[Index, Index, Index], Array, Matrix]:
    """Where lines between two lots each run through an ellipsoid each, given by middles and half axes: which of these,
    and the line's two points; its way from end to end (meetings, 3) [m]; and the share of that inside.
    """
    middle, axis = (part[:, None, :] for part in shapes)
    p = ((ours.at[one] - middle) / axis).astype(np.float32)
    q = ((theirs.at[two] - middle) / axis).astype(np.float32)
    pp, qq = np.einsum("knc,knc->kn", p, p), np.einsum("knc,knc->kn", q, q)
    pq = p @ q.transpose(0, 2, 1)
    # D = b² - a c of the way's quadratic, written with what both ends share.
    disc = np.square(1 - pq)
    disc -= (pp - 1)[:, :, None] * (qq - 1)[:, None, :]
    if not ours.real.all():
        disc[~ours.real[one]] = -1
    if not theirs.real.all():
        disc.transpose(0, 2, 1)[~theirs.real[two]] = -1
    flat = np.flatnonzero(disc.reshape(-1) > 0)
    line, j = np.divmod(flat, disc.shape[2])
    k, i = np.divmod(line, disc.shape[1])
    root, dot, first = np.sqrt(disc.reshape(-1)[flat]), pq.reshape(-1)[flat], pp.reshape(-1)[line]
    a, b = np.maximum(first + qq[k, j] - 2 * dot, np.float32(1e-12)), dot - first
    within = np.clip((root - b) / a, 0, 1) - np.clip((-b - root) / a, 0, 1)
    hit = np.flatnonzero(within > 0)
    k, i, j = k[hit], i[hit], j[hit]
    points = k, ours.members[one[k], i], theirs.members[two[k], j]
    return points, theirs.at[two[k], j] - ours.at[one[k], i], within[hit]
