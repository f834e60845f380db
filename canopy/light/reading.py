"""The light at points of a solved space: straight from its lamps, and by way of its walls, bodies and leaves.

Nothing here depends on what lamps are set to; what depends on the points is kept row by row.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache, partial
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.light.crowns import Crown
from canopy.light.depths import Depths, crown_boxes, depths
from canopy.light.emitters import Emitter
from canopy.light.gather import gather_factors
from canopy.light.leaves import leaves_key, shared_patches
from canopy.light.mirrors import Image
from canopy.light.parts import Scene
from canopy.light.passing import FEW_SPOTS, SPOTS, between, box_of, irradiance
from canopy.light.plates import Body
from canopy.light.polygons import polygon_factors
from canopy.light.radiosity import Nodes, Tiles, opaque
from canopy.light.room import Matrix
from canopy.light.shafts import lots, met
from canopy.light.sparse import nothing
from canopy.light.spots import Spots, by_rows, earlier, patched

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Array = NDArray[np.float64]
# Beyond so many lines of sight from points to pieces of the walls, points see patches whole.
_MOST_LINES = 4_000_000
# So many points are looked at together for what may stand before them.
_LOT = 16
# Bodies of no more tiles than this are looked at together.
_FEW_TILES = 4


@dataclass(frozen=True, kw_only=True)
class PointLight:
    """PPFD at points for each lamp at full output, shapes (points, lamps) [µmol/m²/s]."""

    direct: Array
    reflected: Array

    @property
    def total(self) -> Array:
        """Direct and reflected together, shape (points, lamps) [µmol/m²/s]."""
        return self.direct + self.reflected


# Most of these are mended where points moved: what they would take afresh [s/MB].
_factors: ContentCache[Matrix] = ContentCache(lambda item: item.nbytes, s_per_mb=0.05)
_passing: ContentCache[Matrix] = ContentCache(lambda item: item.nbytes)
_lost: ContentCache[Array] = ContentCache(lambda item: item.nbytes)
_back: ContentCache[csr_array] = ContentCache(lambda item: item.data.nbytes + item.indices.nbytes)
_blind: ContentCache[NDArray[np.bool_]] = ContentCache(lambda item: item.nbytes)
_cut: ContentCache[NDArray[np.uint32]] = ContentCache(lambda item: item.nbytes, s_per_mb=0.1)
_tile_view: ContentCache[Matrix] = ContentCache(lambda item: item.nbytes, s_per_mb=0.1)
_direct: ContentCache[Array] = ContentCache(lambda item: item.nbytes, s_per_mb=0.2)
_depths: ContentCache[Depths] = ContentCache(lambda item: item.nbytes, s_per_mb=0.05)


@dataclass(frozen=True, kw_only=True, eq=False)
class Reading:
    """A solved space, as points see it: its lamps with their ``images`` in mirrors, its ``bodies`` (where they are
    taken to stand), the nodes of walls and bodies, and what walls, by their pieces, and bodies and crowns give
    back, shapes (pieces, lamps), (nodes, lamps) and (crowns, lamps) [µmol/m²/s].
    """

    scene: Scene
    images: Sequence[Sequence[Image]]
    bodies: Sequence[Body]
    net: Nodes
    walls: Array
    nodes: Array
    leaves: Array

    def light(self, spots: Spots, crowns: tuple[Crown, ...]) -> PointLight:
        """Give the light at points.

        Parameters
        ----------
        spots : the points
        crowns : what weakens it, with leaves

        Returns
        -------
        PointLight : direct and reflected PPFD at full output, shapes (n, lamps) [µmol/m²/s]
        """
        lamps, closely = len(self.scene.emitters), self.scene.pieces > 1
        direct, stand, plates = np.zeros((len(spots.points), lamps)), _Stand.at(spots, crowns), self.scene.plates
        for number, emitter in enumerate(self.scene.emitters):
            shading = between(emitter, plates, spots.points)
            direct[:, number] = _straight(spots, emitter, shading, stand, tuple, closely)
            for image in self.images[number]:
                through = partial(image.through, self.scene)
                direct[:, number] += _straight(spots, image.emitter, image.shading, stand, through, closely)
        return PointLight(direct=direct, reflected=self._reflected(spots, crowns) if lamps else direct.copy())

    def _reflected(self, spots: Spots, crowns: tuple[Crown, ...]) -> Array:
        fine = self._fine(len(spots.points))
        factors = by_rows(_factors, spots, (self.scene.room, fine), partial(gather_factors, self.scene.room, fine))
        passing, wall_share = self._through_leaves(spots, crowns, factors, fine), _sums(factors)
        blind = self._blind(spots, opaque(self.bodies), fine)
        if blind is not None:
            seen = ~blind
            bare = factors * seen
            wall_share, passing = _sums(bare), bare if passing is factors else passing * seen
        wall_share = wall_share - self._lost_in_panes(spots, factors, fine)
        bodies, body_share = self._from_bodies(spots, crowns)
        # In a closed box what is not body is wall: the walls' share makes up the rest.
        rest = np.clip((1 - body_share) / np.maximum(wall_share, 1e-6), 0.7, 1.4)[:, None]
        walls = self.walls
        if fine < self.scene.pieces:
            walls = walls.reshape(self.scene.room.count, -1, walls.shape[1]).mean(axis=1)
        light = passing @ walls.astype(np.float32)
        if crowns:
            light = light + self._taken(spots, factors, crowns, fine) @ self.leaves
        return np.asarray(light * rest + bodies, dtype=np.float64)

    def _fine(self, count: int) -> int:
        """Into how many pieces a side walls are cut for so many points: very many see them whole."""
        pieces = self.scene.pieces
        return pieces if count * self.scene.room.count * pieces**2 <= _MOST_LINES else 1

    def _through_leaves(self, spots: Spots, crowns: tuple[Crown, ...], factors: Matrix, fine: int) -> Matrix:
        """What points see of the walls' pieces through leaves and panes, when nothing else is between, shape (n,
        pieces).
        """
        leaves, panes = self._depths(spots, crowns) if crowns else None, self._panes
        clear = leaves is None or leaves.clear
        if clear and not panes:
            return factors
        room = self.scene.room

        def find() -> Matrix:
            out = factors.copy()
            if leaves is not None and not clear:
                of = np.repeat(shared_patches(room, crowns).of, fine * fine)
                out *= leaves.passing()[:, of]
            for body in panes:
                out.reshape(-1)[self._cut(spots, body, fine)] *= np.float32(body.passes)
            return out

        keys = tuple(body.key for body in panes)
        return _passing.get((room, fine, spots.key, leaves_key(crowns), keys), find)

    @property
    def _panes(self) -> list[Body]:
        """The bodies that let some light pass."""
        return [body for body in self.bodies if body.passes]

    def _lost_in_panes(self, spots: Spots, factors: Matrix, fine: int) -> Array:
        """How much of the walls that points see is lost to bodies which let some light pass, shape (n,)."""
        panes, room = self._panes, self.scene.room

        def find() -> Array:
            lost = np.zeros(len(factors))
            for body in panes:
                cut = self._cut(spots, body, fine)
                seen = factors.reshape(-1)[cut]
                lost += (1 - body.passes) * np.bincount(cut // factors.shape[1], seen, len(factors))
            return lost

        if not panes:
            return np.zeros(len(factors))
        return _lost.get((room, fine, spots.key, tuple(body.key for body in panes)), find)

    def _depths(self, spots: Spots, crowns: tuple[Crown, ...]) -> Depths:
        room = self.scene.room
        middles = shared_patches(room, crowns).middles
        find = partial(depths, crowns, spots.points, middles, spots.normals)
        return _depths.get((room, spots.key, leaves_key(crowns)), find)

    def _blind(self, spots: Spots, bodies: Sequence[Body], fine: int) -> NDArray[np.bool_] | None:
        """Which pieces of the walls bodies hide from points, shape (n, pieces); None when nothing is between."""
        room = self.scene.room

        def add(out: NDArray[np.bool_], some: Sequence[Body]) -> NDArray[np.bool_]:
            for body in some:
                out.reshape(-1)[self._cut(spots, body, fine)] = True
            return out

        def together(some: Sequence[Body]) -> NDArray[np.bool_]:
            return add(np.zeros((len(spots.points), room.count * fine * fine), dtype=bool), some)

        if not bodies:
            return None
        # While one body is moved, what the others hide together is kept.
        fresh = [body for body in bodies if not _cut.holds((room, fine, body.key, spots.key))]
        if len(bodies) > 2 and len(fresh) == 1:
            rest = [body for body in bodies if body is not fresh[0]]
            key = (room, fine, spots.key, tuple(body.key for body in rest))
            return add(_blind.get(key, partial(together, rest)).copy(), fresh)
        return together(bodies)

    def _cut(self, spots: Spots, body: Body, fine: int) -> NDArray[np.uint32]:
        """The lines from points to pieces of the walls that a body cuts, by number."""
        room = self.scene.room
        targets = room.points(fine).reshape(-1, 3)
        return _cut.get((room, fine, body.key, spots.key), partial(_lines, body, spots, targets, (room, fine)))

    def _taken(self, spots: Spots, factors: Matrix, crowns: tuple[Crown, ...], fine: int) -> csr_array:
        """What each crown takes of the walls' light on its way to points, and so gives back of its own, shape (n,
        crowns); lamps' bodies are too small to matter here.
        """
        room = self.scene.room
        shared = shared_patches(room, crowns)

        def find() -> csr_array:
            leaves = self._depths(spots, crowns)
            if leaves.clear:
                return nothing((len(factors), len(crowns)))
            blind = self._blind(spots, opaque(self.scene.bodies), fine)
            seen = factors if blind is None else factors * ~blind
            by_patch = seen.reshape(-1, fine * fine) @ np.ones(fine * fine, dtype=np.float32)
            return leaves.taken(shared.sums(by_patch.reshape(len(factors), room.count)))

        keys = tuple(body.key for body in self.scene.bodies)
        return _back.get((room, fine, spots.key, leaves_key(crowns), keys), find)

    def _from_bodies(self, spots: Spots, crowns: tuple[Crown, ...]) -> tuple[Array, Array]:
        """What bodies give to points, shape (n, lamps), and how much of what points see is body, shape (n,)."""
        out, share = np.zeros((len(spots.points), len(self.scene.emitters))), np.zeros(len(spots.points))
        small = [n for n, tiles in enumerate(self.net.tiles) if len(tiles.surface.areas) <= _FEW_TILES]
        for group in (small, *([n] for n in range(len(self.bodies)) if n not in small)):
            seen = [view for number in group for view in self._views(spots, number)]
            if not seen:
                continue
            factors = np.concatenate([view for _, _, view in seen], axis=1)
            share += factors.sum(axis=1, dtype=np.float64)
            if crowns:
                ends = np.concatenate([self.net.tiles[number].surface.middles for number, _, _ in seen])
                key = spots.key, tuple((self.bodies[n].key, len(ends)) for n, _, _ in seen), leaves_key(crowns)
                leaves = _depths.get(key, partial(depths, crowns, spots.points, ends, spots.normals))
                if not leaves.clear:
                    out += leaves.taken(factors) @ self.leaves
                    factors = factors * leaves.passing()
            out += factors @ np.concatenate([self.nodes[self.net.nodes(number, side)] for number, side, _ in seen])
        return out, share

    def _views(self, spots: Spots, number: int) -> Iterator[tuple[int, int, Matrix]]:
        """The sides of a body that any point sees: its number, the side, and form factors of its tiles (n, tiles)."""
        tiles, body = self.net.tiles[number], self.bodies[number]
        screens = [other for other in opaque(self.scene.bodies) if other is not body]
        keys = (body.key, len(tiles.surface.areas), tuple(other.key for other in screens))
        for side in range(len(tiles.surface.normals)):
            find = partial(_seen_tiles, tiles=tiles, side=side, screens=screens)
            factors = by_rows(_tile_view, spots, (*keys, side), find)
            if factors.any():
                yield number, side, factors * np.float32(1 - body.passes)


@lru_cache(maxsize=32)
def _changed(before: tuple[Crown, ...], now: tuple[Crown, ...]) -> tuple[Crown, ...]:
    """Crowns that stand in one of two lots only."""
    return tuple(set(before) ^ set(now))


@dataclass(frozen=True, kw_only=True, eq=False)
class _Stand:
    """The crowns that stand between lamps and points, what tells them from others, and what is known from before: keys
    of points and of crowns, rows of points that moved since, and crowns that stand there now or stood there then only.
    """

    crowns: tuple[Crown, ...]
    key: bytes
    before: tuple[tuple[bytes, bytes, NDArray[np.intp], tuple[Crown, ...]], ...]

    @classmethod
    def at(cls, spots: Spots, crowns: tuple[Crown, ...]) -> _Stand:
        """Hold crowns against those that stood there when the points were asked at last."""
        past = earlier(spots) if crowns else []
        return cls(
            crowns=crowns,
            key=leaves_key(crowns),
            before=tuple((key, leaves_key(stood), rows, _changed(stood, crowns)) for key, rows, stood in past),
        )


def _straight(
    spots: Spots,
    emitter: Emitter,
    shading: Sequence[Body],
    stand: _Stand,
    through: Callable[[tuple[Crown, ...]], tuple[Crown, ...]],
    closely: bool,
) -> Array:
    """A lamp's direct light at points past bodies and through crowns, with their images where it comes by a mirror.

    While a plant is moved, only points that moved are looked at, and those that its crown stood or stands before.
    """
    key, count = (lamp_key(emitter, shading), closely), SPOTS if closely else FEW_SPOTS
    passed = partial(irradiance, emitter, bodies=shading, edges=closely, spots=count)

    def find() -> Array:
        met_now = through(stand.crowns)
        for place, leaves, rows, changed in stand.before:
            known = _direct.peek((key, place, leaves))
            if known is not None:
                rows = np.union1d(rows, _behind(spots, emitter, through(changed)))
                if 2 * len(rows) < len(known):
                    _direct.forget((key, place, leaves))
                    return patched(known, spots, rows, partial(passed, crowns=met_now))
        return passed(spots.points, spots.normals, crowns=met_now, place=(spots.key, stand.key))

    if not stand.crowns:
        return by_rows(_direct, spots, key, lambda at, facing: passed(at, facing))
    return _direct.get((key, spots.key, stand.key), find)


def _behind(spots: Spots, emitter: Emitter, crowns: tuple[Crown, ...]) -> NDArray[np.intp]:
    """Points that may have one of these crowns between themselves and a lamp."""
    if not crowns:
        return np.empty(0, dtype=np.intp)
    low, high = crown_boxes(crowns)
    ours = lots(spots.points, _LOT)
    near = met((ours.low, ours.high), box_of(emitter.plate), (low[:, None], high[:, None])).any(axis=0)
    return np.unique(ours.members[near][ours.real[near]])


def _sums(matrix: Matrix) -> Array:
    """Its rows, summed up, shape (n,)."""
    return np.asarray(matrix @ np.ones(matrix.shape[1], dtype=np.float32), dtype=np.float64)


def _lines(body: Body, spots: Spots, targets: Array, place: tuple[Hashable, ...]) -> NDArray[np.uint32]:
    """The lines from points to targets that a body cuts, by number: few of all."""
    count = len(targets)

    def among(rows: NDArray[np.intp]) -> NDArray[np.intp]:
        found = np.flatnonzero(body.hides(spots.points[rows], targets))
        return rows[found // count] * count + found % count

    known = _cut.peek((*place, body.key, spots.before)) if spots.before is not None else None
    if known is None:
        return among(np.arange(len(spots.points))).astype(np.uint32)
    _cut.forget((*place, body.key, spots.before))
    stays = np.ones(len(spots.points), dtype=bool)
    stays[spots.moved] = False
    return np.concatenate([known[stays[known // count]], among(spots.moved).astype(np.uint32)])


def lamp_key(emitter: Emitter, shading: Sequence[Body]) -> tuple[object, ...]:
    """Give all that a lamp's direct light depends on.

    Parameters
    ----------
    emitter : the lamp
    shading : what stands in its way

    Returns
    -------
    tuple : to be compared
    """
    return emitter.key, tuple(sorted(body.key for body in shading))


def _seen_tiles(points: Array, normals: Array, tiles: Tiles, side: int, screens: list[Body]) -> Matrix:
    """What points see of one side of a body's tiles past screens, shape (n, tiles)."""
    surface = tiles.surface
    shown = surface.ahead(side, points)
    out = np.zeros(shown.shape, dtype=np.float32)
    rows = np.flatnonzero(shown.any(axis=1))
    if len(rows):
        seen = shown[rows]
        for screen in screens:
            seen &= ~screen.hides(points[rows], surface.middles)
        out[rows] = polygon_factors(points[rows], normals[rows], surface.corners) * seen
    return out
