"""Leaves between surfaces: what crowns take of the light that passes through them, and what they give back.

In the balance of a space each crown is one node beside walls and bodies: with τ the optical
depth between two surfaces, exchange areas become K e^(-τ), and what is missing is exchanged with the crowns in
proportion to their parts of τ. A crown gives back the share `LEAF_ALBEDO` of what it takes, alike in all directions.
"""

from __future__ import annotations

import hashlib
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache, partial
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.light.crowns import Crown
from canopy.light.depths import Depths, crown_boxes, depths
from canopy.light.emitters import Emitter, face_samples, sample_terms
from canopy.light.room import Matrix, RoomGrid
from canopy.light.sparse import gathered, nothing

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Array = NDArray[np.float64]
Index = NDArray[np.intp]
# Reflected and transmitted by a green leaf in 400-700 nm: absorptance 0.85 to 0.89 (Gates, Keegan, Schleter & Weidner
# 1965, "Spectral properties of plants"; McCree 1972, mean of 22 crops 0.87).
LEAF_ALBEDO = 0.13
# Two by two wall patches share a line of sight through leaves, where they are no larger than this [m].
_SHARED_M = 0.14
# More crowns than this are joined with their neighbours, for the balance only.
_MOST_CROWNS = 100


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


@lru_cache(maxsize=128)
def leaves_key(crowns: tuple[Crown, ...]) -> bytes:
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
        return np.asarray((self._adding @ values.T).T, dtype=np.float64)

    @cached_property
    def _adding(self) -> csr_array:
        """One for each patch that belongs to a shared one, shape (shared, patches)."""
        count = len(self.of)
        return gathered(np.ones(count), self.of, np.arange(count), (len(self.middles), count))


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


_shared: ContentCache[Shared] = ContentCache(lambda item: item.middles.nbytes)
_between_walls: ContentCache[WallLeaves] = ContentCache(lambda item: item.passing.nbytes)
_to_walls: ContentCache[Depths] = ContentCache(lambda item: item.nbytes, s_per_mb=0.05)
_to_lamp: ContentCache[Depths] = ContentCache(lambda item: item.nbytes, s_per_mb=0.05)
_from_lamp: ContentCache[tuple[Array, csr_array]] = ContentCache(lambda item: item[0].nbytes + 12 * item[1].nnz)


def _walls(room: RoomGrid, shared: Shared, crowns: tuple[Crown, ...]) -> WallLeaves:
    def find() -> WallLeaves:
        # Kept, so that the next look at it has only what moved to look at.
        between = _to_walls.get(
            (room, "walls", leaves_key(crowns)), partial(depths, crowns, shared.middles, shared.middles)
        )
        exchange = shared.sums(shared.sums(room.exchange_m2).T)
        return WallLeaves(passing=between.passing(), shares=_parted(between.taken(exchange).toarray()))

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
    middles: Sequence[tuple[bytes, Array, int]],
    crowns: tuple[Crown, ...],
) -> Grown:
    """Let crowns take part in the exchange among walls and bodies.

    Parameters
    ----------
    room : the box
    k_m2 : exchange areas without leaves, walls first, then bodies; shape (size, size) [m²]
    areas_m2 : shape (size,) [m²]
    middles : each body's key, the middles of its tiles, shape (tiles, 3) [m], and how many sides these have: side by
        side they are its nodes
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
        at, keys = np.concatenate([part for _, part, _ in middles]), tuple((key, len(part)) for key, part, _ in middles)
        starts = np.cumsum([0, *(len(part) for _, part, _ in middles)])
        ranges, sides = pairwise(starts), [sides for _, _, sides in middles]
        node = np.concatenate([np.tile(np.arange(a, b), n) for (a, b), n in zip(ranges, sides, strict=True)])
        # Kept, so that the next look at it has only what moved to look at.
        lines = _to_walls.get((room, keys, leaves_key(crowns)), partial(depths, crowns, at, shared.middles))
        to_walls, among = lines.spread(node), depths(crowns, at, at).spread(node, node)
        block = k_m2[walls:, :walls] * to_walls.passing()[:, shared.of]
        out[walls:size, :walls], out[:walls, walls:size] = block, block.T
        out[walls:size, walls:size] = k_m2[walls:, walls:] * among.passing()
        taken = to_walls.taken(shared.sums(k_m2[walls:, :walls])) + among.taken(k_m2[walls:, walls:])
        shares[walls:] = _parted(taken.toarray())
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
    emitter: Emitter, crowns: tuple[Crown, ...], points: Array, normals: Array, place: Hashable, spots: int
) -> tuple[Array, csr_array]:
    """Give what share of a lamp's light gets through crowns to surfaces, and what each crown takes of it.

    Parameters
    ----------
    emitter : the lamp
    crowns : with leaves
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals
    place : what tells these points from others
    spots : how many spots of its face are weighed

    Returns
    -------
    (ndarray, csr_array) : shares that pass, shape (n,), and shares that crowns take, shape (n, crowns); the crown that
        is nearer to the lamp takes first
    """
    find = partial(_through, emitter, crowns, points, normals, place, spots)
    return _from_lamp.get((emitter.key, leaves_key(crowns), place, spots), find)


def _through(
    emitter: Emitter, crowns: tuple[Crown, ...], points: Array, normals: Array, place: Hashable, spots: int
) -> tuple[Array, csr_array]:
    shape = len(points), len(crowns)
    samples, share = face_samples(emitter.plate, spots)
    key = emitter.plate.key, place, leaves_key(crowns), spots
    between = _to_lamp.get(key, partial(depths, crowns, points, samples, normals))
    if between.clear:
        return np.ones(len(points)), nothing(shape)
    where, owner, deep = between.where, between.owner, between.deep
    terms = sample_terms(emitter, samples, share, points, normals)
    total = terms.sum(axis=1, keepdims=True)
    weights = np.divide(terms, total, out=np.zeros_like(terms), where=total > 0).reshape(-1)
    # Along each line, the crown that is nearer to the lamp first.
    low, high = crown_boxes(crowns)
    rank = np.argsort(np.argsort(np.linalg.norm((low + high) / 2 - emitter.plate.centre, axis=1)))
    order = np.lexsort((rank[owner], where))
    where, owner, deep = where[order], owner[order], deep[order].astype(np.float64)
    before = np.cumsum(deep) - deep
    first = np.flatnonzero(np.diff(where, prepend=-1))
    before -= np.repeat(before[first], np.diff(first, append=len(where)))
    gone = weights[where] * np.exp(-before) * -np.expm1(-deep)
    taken = gathered(gone, where // len(samples), owner, shape)
    return 1 - taken.sum(axis=1), taken
