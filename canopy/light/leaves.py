"""Leaves between surfaces: what crowns take of the light that passes through them, and what they give back.

A crown is an ellipsoid filled evenly with leaves; light is weakened by exp(-k a s) along its way s through it (Beer's
law; Monsi & Saeki 1953). In the balance of a space each crown is one node beside walls and bodies: with τ the optical
depth between two surfaces, exchange areas become K e^(-τ), and what is missing is exchanged with the crowns in
proportion to their parts of τ. A crown gives back the share `LEAF_ALBEDO` of what it takes, alike in all directions.
"""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache, partial
from itertools import pairwise
from threading import Lock
from weakref import ref

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.light.crowns import Crown
from canopy.light.emitters import Emitter, face_samples, sample_terms
from canopy.light.room import Matrix, RoomGrid

Array = NDArray[np.float64]
Index = NDArray[np.intp]
# Reflected and transmitted by a green leaf in 400-700 nm: absorptance 0.85 to 0.89 (Gates, Keegan, Schleter & Weidner
# 1965, "Spectral properties of plants"; McCree 1972, mean of 22 crops 0.87).
LEAF_ALBEDO = 0.13
# Two by two wall patches share a line of sight through leaves, where they are no larger than this [m].
_SHARED_M = 0.14
# More crowns than this are joined with their neighbours, for the balance only.
_MOST_CROWNS = 100
_CHUNK, _BATCH = 1_500_000, 600_000
_SAMPLES = 36


@dataclass(frozen=True, kw_only=True, eq=False)
class Depths:
    """Optical depth of leaves between points: all together, shape (n, m); each crown's part where it is met, as places
    in that array, laid flat, and depths there.
    """

    total: Matrix
    parts: tuple[tuple[Index, Matrix], ...]

    @property
    def nbytes(self) -> int:
        """What it takes up [bytes]."""
        return self.total.nbytes + sum(where.nbytes + depth.nbytes for where, depth in self.parts)

    def passing(self) -> Matrix:
        """Share of light that gets through, shape (n, m)."""
        return np.asarray(np.exp(-self.total))

    def taken(self, weight: NDArray[np.floating]) -> Array:
        """Sum up what each crown takes of light on its way to the first points.

        Parameters
        ----------
        weight : shape (n, m), the light between each two when nothing is between

        Returns
        -------
        ndarray : shape (n, crowns)
        """
        n, m = self.total.shape
        flat, total = np.ascontiguousarray(weight).reshape(-1), self.total.reshape(-1)
        # What is taken for each unit of depth, (1 - e^-τ)/τ: all of them together, to be parted by depth.
        gone = np.divide(-np.expm1(-total), total, out=np.ones_like(total), where=total > 1e-6)
        out = np.zeros((n, len(self.parts)))
        for k, (where, depth) in enumerate(self.parts):
            if len(where):
                share = flat[where] * gone[where] * depth
                out[:, k] = np.bincount(where // m, weights=share, minlength=n)
        return out


@lru_cache(maxsize=64)
def _boxes(crowns: tuple[Crown, ...]) -> tuple[Array, Array]:
    """Lowest and highest corners of the boxes round crowns, shapes (crowns, 3) [m]."""
    middles = np.array([crown.middle for crown in crowns]).reshape(-1, 3)
    axes = np.array([crown.semi_axes for crown in crowns]).reshape(-1, 3)
    return middles - axes, middles + axes


def _near(here: Array, there: Array, low: Array, high: Array) -> Index:
    """Points that do not lie, with all at the other end, beyond one face of a box."""
    out = np.ones(len(here), dtype=bool)
    least, most = there.min(axis=0), there.max(axis=0)
    for axis in range(3):
        if least[axis] > high[axis]:
            out &= here[:, axis] <= high[axis]
        if most[axis] < low[axis]:
            out &= here[:, axis] >= low[axis]
    return np.flatnonzero(out)


def depths(crowns: Sequence[Crown], here: Array, there: Array) -> Depths:
    """Find how deep leaves lie between points, crown by crown.

    Parameters
    ----------
    crowns : with or without leaves
    here : shape (n, 3) [m]
    there : shape (m, 3) [m]

    Returns
    -------
    Depths : optical depths; between points that were asked about just before, only crowns that are new are looked at
    """
    place, shape = (_digest(here), _digest(there)), (len(here), len(there))
    known = _LATEST.of(place) if len(crowns) > 1 else {}
    fresh = [crown for crown in crowns if crown not in known]
    met = dict(zip(fresh, _each(fresh, here, there), strict=True))
    parts = tuple(met[crown] if crown in met else known[crown] for crown in crowns)
    total = np.zeros(shape[0] * shape[1], dtype=np.float32)
    for where, depth in parts:
        total[where] += depth
    found = Depths(total=total.reshape(shape), parts=parts)
    _LATEST.note(place, tuple(crowns), found)
    return found


def _digest(points: Array) -> bytes:
    return hashlib.blake2b(np.ascontiguousarray(points).tobytes(), digest_size=12).digest()


class _Latest:
    """What was found last between points, as long as somebody keeps it: while one crown is moved the others stay."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._held: OrderedDict[Hashable, tuple[tuple[Crown, ...], ref[Depths]]] = OrderedDict()

    def of(self, place: Hashable) -> dict[Crown, tuple[Index, Matrix]]:
        """Each crown's part, as far as it is known."""
        with self._lock:
            crowns, alive = self._held.get(place, ((), None))
        found = alive() if alive is not None else None
        return dict(zip(crowns, found.parts, strict=True)) if found is not None else {}

    def note(self, place: Hashable, crowns: tuple[Crown, ...], found: Depths) -> None:
        """Remember what was found, without keeping it alive."""
        with self._lock:
            self._held[place] = (crowns, ref(found))
            self._held.move_to_end(place)
            while len(self._held) > self._most:
                self._held.popitem(last=False)


_LATEST = _Latest(128)


def depth(crowns: Sequence[Crown], here: Array, there: Array) -> Matrix:
    """Find how deep leaves lie between points, all crowns together.

    Parameters
    ----------
    crowns : with or without leaves
    here : shape (n, 3) [m]
    there : shape (m, 3) [m]

    Returns
    -------
    ndarray : shape (n, m), optical depth
    """
    return depths(crowns, here, there).total


def _each(crowns: Sequence[Crown], here: Array, there: Array) -> Iterator[tuple[Index, Matrix]]:
    """Crown by crown, where lines of sight (n, m), laid flat, run through it, and the depth of leaves there."""
    if not crowns or not len(here) or not len(there):
        yield from ((np.empty(0, dtype=np.intp), np.empty(0, dtype=np.float32)) for _ in crowns)
        return
    lows, highs = _boxes(tuple(crowns))
    at_once = max(1, _BATCH // (len(here) * len(there)))
    # Neighbours in height stay together, so that little is looked at that none of them can meet.
    order = np.argsort(highs[:, 2], kind="stable")
    found: dict[int, tuple[Index, Matrix]] = {}
    for start in range(0, len(order), at_once):
        group = order[start : start + at_once]
        rows = _near(here, there, lows[group].min(axis=0), highs[group].max(axis=0))
        cols = _near(there, here, lows[group].min(axis=0), highs[group].max(axis=0))
        parts = _met([crowns[k] for k in group], here, there, rows, cols)
        found.update(zip(group.tolist(), parts, strict=True))
    yield from (found[k] for k in range(len(crowns)))


def _met(crowns: list[Crown], here: Array, there: Array, rows: Index, cols: Index) -> list[tuple[Index, Matrix]]:
    """What `_each` gives, for a few crowns at once, among some rows and columns."""
    middles = np.array([crown.middle for crown in crowns])[:, None, :]
    axes = np.array([crown.semi_axes for crown in crowns])[:, None, :]
    p, q = (((points[None] - middles) / axes).astype(np.float32) for points in (here[rows], there[cols]))
    pp, qq = np.einsum("knc,knc->kn", p, p), np.einsum("knc,knc->kn", q, q)
    pq = p @ q.transpose(0, 2, 1)
    # D = b² - a c of the way's quadratic, written with what both ends share.
    disc = np.square(1 - pq)
    disc -= (pp - 1)[:, :, None] * (qq - 1)[:, None, :]
    flat = np.flatnonzero(disc.reshape(-1) > 0)
    owner, pair = np.divmod(flat, len(rows) * len(cols))
    i, j = np.divmod(pair, len(cols))
    root, dot, first = np.sqrt(disc.reshape(-1)[flat]), pq.reshape(-1)[flat], pp[owner, i]
    a, b = np.maximum(first + qq[owner, j] - 2 * dot, np.float32(1e-12)), dot - first
    within = np.clip((root - b) / a, 0, 1) - np.clip((-b - root) / a, 0, 1)
    hit = np.flatnonzero(within > 0)
    owner, i, j = owner[hit], rows[i[hit]], cols[j[hit]]
    way = there[j] - here[i]
    dense = np.array([crown.weakening_per_m for crown in crowns])
    deep = (dense[owner] * within[hit] * np.sqrt(np.einsum("kc,kc->k", way, way))).astype(np.float32)
    where = i * len(there) + j
    edges = np.searchsorted(owner, np.arange(len(crowns) + 1))
    return [(where[a:b], deep[a:b]) for a, b in pairwise(edges)]


def leafy(crowns: Sequence[Crown]) -> tuple[Crown, ...]:
    """Pick the crowns that have leaves.

    Parameters
    ----------
    crowns : all of them

    Returns
    -------
    tuple of Crown : those that weaken light
    """
    return tuple(crown for crown in crowns if crown.lai > 0)


def joined(crowns: tuple[Crown, ...]) -> tuple[Crown, ...]:
    """Join many crowns with their neighbours into fewer that take as much light.

    Parameters
    ----------
    crowns : with leaves

    Returns
    -------
    tuple of Crown : at most 100; each as dense as those it stands for, on as much ground
    """
    most = int(np.ceil(len(crowns) / _MOST_CROWNS))
    if most < 2:
        return crowns
    places = np.array([(round(c.top_m, 1), c.x_m, c.y_m) for c in crowns])
    lanes = max(1, round(np.sqrt(_MOST_CROWNS)))
    lane = np.floor((places[:, 1] - places[:, 1].min()) / max(np.ptp(places[:, 1]), 1e-9) * (lanes - 1e-9))
    order = np.lexsort((np.where(lane % 2, -places[:, 2], places[:, 2]), lane, places[:, 0]))
    return tuple(_one([crowns[k] for k in order[start : start + most]]) for start in range(0, len(order), most))


def _one(group: list[Crown]) -> Crown:
    ground = np.array([crown.radius_m**2 for crown in group])
    share = ground / ground.sum()

    def mean(name: str) -> float:
        return float(share @ np.array([getattr(crown, name) for crown in group]))

    return replace(
        group[0],
        x_m=mean("x_m"),
        y_m=mean("y_m"),
        bottom_m=mean("bottom_m"),
        top_m=mean("top_m"),
        radius_m=float(np.sqrt(ground.sum())),
        half_m=None,
        lai=mean("lai"),
        extinction=mean("extinction"),
    )


def leaves_key(crowns: Sequence[Crown]) -> bytes:
    """Give what tells crowns from others, as bytes.

    Parameters
    ----------
    crowns : with leaves

    Returns
    -------
    bytes : empty without crowns
    """
    if not crowns:
        return b""
    values = [
        (
            *(c.x_m, c.y_m, c.bottom_m, c.top_m, c.radius_m, c.reach_m, c.lai, c.extinction, *c.facing),
            *(c.half_m or (0.0, 0.0)),
        )
        for c in crowns
    ]
    return hashlib.blake2b(np.array(values).tobytes(), digest_size=16).digest()


@dataclass(frozen=True, kw_only=True, eq=False)
class Shared:
    """Wall patches that share lines of sight: which of them each patch belongs to (patches,), and their middles."""

    of: Index
    middles: Array

    def sums(self, values: NDArray[np.floating]) -> Array:
        """Add up columns of patches that belong together.

        Parameters
        ----------
        values : shape (n, patches)

        Returns
        -------
        ndarray : shape (n, shared)
        """
        if len(self.middles) == len(self.of):
            # Nothing is shared: every patch stands for itself, in another order.
            return np.asarray(values[:, self._order], dtype=np.float64)
        return np.asarray(np.add.reduceat(values[:, self._order], self._starts, axis=1), dtype=np.float64)

    @cached_property
    def _order(self) -> Index:
        return np.argsort(self.of, kind="stable")

    @cached_property
    def _starts(self) -> Index:
        return np.searchsorted(self.of[self._order], np.arange(len(self.middles)))


def shared_patches(room: RoomGrid, crowns: Sequence[Crown]) -> Shared:
    """Say which wall patches share lines of sight through leaves.

    Parameters
    ----------
    room : the box
    crowns : with leaves

    Returns
    -------
    Shared : two by two of each face above all leaves, where patches are small; else each for itself
    """
    highest = max((crown.top_m for crown in crowns), default=0.0)
    return _shared.get((room, highest), lambda: _share(room, highest))


def _share(room: RoomGrid, highest_m: float) -> Shared:
    middles = room.points(1)[:, 0]
    step = 2 if float(room.pitch_m.max()) < _SHARED_M else 1
    alone = middles[:, 2] < highest_m + float(room.pitch_m[2])
    names = np.empty((room.count, 3), dtype=np.intp)
    for number, face in enumerate(room.faces):
        b, c = np.divmod(np.arange(face.counts[0] * face.counts[1]), face.counts[1])
        names[face.patches] = np.column_stack([np.full(len(b), number), b // step, c // step])
    names[alone] = np.column_stack([np.full(alone.sum(), -1), np.flatnonzero(alone), np.zeros(alone.sum())])
    of = np.unique(names, axis=0, return_inverse=True)[1].reshape(-1)
    sums = np.zeros((of.max() + 1, 3))
    np.add.at(sums, of, middles)
    return Shared(of=of, middles=sums / np.bincount(of)[:, None])


@dataclass(frozen=True, kw_only=True, eq=False)
class WallLeaves:
    """Leaves between the walls of a box: the share that passes between shared patches, and how what is lost from each
    is parted among crowns (rows sum to one, or to nothing).
    """

    passing: Matrix
    shares: Array


def _stacked(parts: Sequence[Depths]) -> Depths:
    """Depths from several lots of points to the same ends, one lot below the other."""
    m = parts[0].total.shape[1]
    starts = np.cumsum([0, *(len(part.total) for part in parts)])
    by_crown = zip(*(part.parts for part in parts), strict=True)
    return Depths(
        total=np.concatenate([part.total for part in parts]),
        parts=tuple(
            (
                np.concatenate([where + start * m for (where, _), start in zip(lots, starts, strict=False)]),
                np.concatenate([depth_there for _, depth_there in lots]),
            )
            for lots in by_crown
        ),
    )


_shared: ContentCache[Shared] = ContentCache(lambda item: item.middles.nbytes)
_between_walls: ContentCache[WallLeaves] = ContentCache(lambda item: item.passing.nbytes)
_to_walls: ContentCache[Depths] = ContentCache(lambda item: item.nbytes)
_from_lamp: ContentCache[tuple[Array, Array]] = ContentCache(lambda item: item[1].nbytes)


def _walls(room: RoomGrid, shared: Shared, crowns: tuple[Crown, ...]) -> WallLeaves:
    def find() -> WallLeaves:
        # Kept, so that the next look at it has only what moved to look at.
        between = _to_walls.get(
            (room, "walls", leaves_key(crowns)), partial(depths, crowns, shared.middles, shared.middles)
        )
        exchange = shared.sums(shared.sums(room.exchange_m2).T)
        return WallLeaves(passing=between.passing(), shares=_parted(between.taken(exchange)))

    return _between_walls.get((room, leaves_key(crowns)), find)


def _parted(taken: Array) -> Array:
    total = taken.sum(axis=1, keepdims=True)
    return np.asarray(np.divide(taken, total, out=np.zeros_like(taken), where=total > 0))


@dataclass(frozen=True, kw_only=True, eq=False)
class Grown:
    """Exchange areas with leaves between, crowns as the last nodes (size, size) [m²], and all nodes' areas [m²]."""

    k_m2: Matrix
    areas_m2: Array


def grown(
    room: RoomGrid,
    k_m2: Matrix,
    areas_m2: Array,
    middles: Sequence[tuple[bytes, Array]],
    crowns: tuple[Crown, ...],
) -> Grown:
    """Let crowns take part in the exchange among walls and bodies.

    Parameters
    ----------
    room : the box
    k_m2 : exchange areas without leaves, walls first, then bodies; shape (size, size) [m²]
    areas_m2 : shape (size,) [m²]
    middles : each body's key and the middles of its nodes, shape (nodes, 3) [m]
    crowns : with leaves

    Returns
    -------
    Grown : exchange with the crowns behind the bodies; rows sum to the areas
    """
    shared, walls, size = shared_patches(room, crowns), room.count, len(areas_m2)
    leaves = _walls(room, shared, crowns)
    out = np.zeros((size + len(crowns),) * 2, dtype=np.float32)
    out[:walls, :walls] = k_m2[:walls, :walls] * leaves.passing[shared.of][:, shared.of]
    shares = np.zeros((size, len(crowns)))
    shares[:walls] = leaves.shares[shared.of]
    if size > walls:
        known = leaves_key(crowns)
        parts = [
            _to_walls.get((room, key, len(part), known), partial(depths, crowns, part, shared.middles))
            for key, part in middles
        ]
        to_walls, at = _stacked(parts), np.concatenate([part for _, part in middles])
        among = depths(crowns, at, at)
        block = k_m2[walls:, :walls] * to_walls.passing()[:, shared.of]
        out[walls:size, :walls], out[:walls, walls:size] = block, block.T
        out[walls:size, walls:size] = k_m2[walls:, walls:] * among.passing()
        shares[walls:] = _parted(to_walls.taken(shared.sums(k_m2[walls:, :walls])) + among.taken(k_m2[walls:, walls:]))
    lost = k_m2.sum(axis=1, dtype=np.float64) - out[:size, :size].sum(axis=1, dtype=np.float64)
    lost = np.maximum(lost, 0) * (shares.sum(axis=1) > 0)
    to_crowns = lost[:, None] * shares
    met = to_crowns.sum(axis=0)
    full = np.array([4 * crown.weakening_per_m * crown.volume_m3 for crown in crowns])
    crown_areas = np.maximum(np.maximum(full, met), 1e-9)
    out[:size, size:], out[size:, :size] = to_crowns, to_crowns.T
    out[range(size, len(out)), range(size, len(out))] = crown_areas - met
    return Grown(k_m2=out, areas_m2=np.concatenate([areas_m2, crown_areas]))


def lamp_through(
    emitter: Emitter, crowns: tuple[Crown, ...], points: Array, normals: Array, place: object
) -> tuple[Array, Array]:
    """Give what share of a lamp's light gets through crowns to surfaces, and what each crown takes of it.

    Parameters
    ----------
    emitter : the lamp
    crowns : with leaves
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals
    place : what tells these points from others

    Returns
    -------
    (ndarray, ndarray) : shares that pass, shape (n,), and shares that crowns take, shape (n, crowns); the crown that is
        nearer to the lamp takes first
    """
    return _from_lamp.get((emitter.key, leaves_key(crowns), place), lambda: _through(emitter, crowns, points, normals))


def _through(emitter: Emitter, crowns: tuple[Crown, ...], points: Array, normals: Array) -> tuple[Array, Array]:
    samples, share = face_samples(emitter.plate, _SAMPLES)
    passed, taken = np.ones(len(points)), np.zeros((len(points), len(crowns)))
    if min(points[:, 2].min(), samples[:, 2].min()) > max(crown.top_m for crown in crowns):
        return passed, taken
    order = np.argsort([np.linalg.norm(crown.middle - emitter.plate.centre) for crown in crowns], kind="stable")
    step = max(1, _CHUNK // len(samples))
    for start in range(0, len(points), step):
        rows = slice(start, start + step)
        terms = sample_terms(emitter, samples, share, points[rows], normals[rows])
        total = terms.sum(axis=1)
        left = terms.reshape(-1).copy()
        met = tuple(_each(crowns, points[rows], samples))
        for k in order:
            where, depth_there = met[k]
            if not len(where):
                continue
            gone = left[where] * -np.expm1(-depth_there)
            left[where] -= gone
            taken[rows, k] = np.bincount(where // len(samples), weights=gone, minlength=len(terms))
        lit = total > 0
        passed[rows] = np.divide(left.reshape(terms.shape).sum(axis=1), total, out=np.ones_like(total), where=lit)
        taken[rows] = np.divide(taken[rows], total[:, None], out=np.zeros_like(taken[rows]), where=lit[:, None])
    return passed, taken
