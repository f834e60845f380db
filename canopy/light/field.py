"""The light in one space: solved once for its walls, then asked at any point.

Because light adds, everything is kept per lamp at full output; dimming,
ageing and switching are weights on the last axis.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from canopy.cache import ContentCache
from canopy.light.crowns import Crown
from canopy.light.depths import Depths, depths
from canopy.light.emitters import Emitter, distance_to
from canopy.light.gather import gather_factors
from canopy.light.leaves import (
    LEAF_ALBEDO,
    grown,
    joined,
    lamp_through,
    leafy,
    leaves_key,
    shared_patches,
)
from canopy.light.mirrors import images, mirror_patches, mirrored_light
from canopy.light.near import near
from canopy.light.parts import Scene
from canopy.light.passing import FEW_SPOTS, SPOTS, between, irradiance
from canopy.light.plates import Body, quad_samples
from canopy.light.polygons import polygon_factors
from canopy.light.radiosity import Exchange, Tiles, exchange, opaque, solve
from canopy.light.room import Matrix, RoomGrid

Array = NDArray[np.float64]
_CLOSE = 4
_CLOSE_TILES = 8
# So many answers are kept with a solved space.
_ASKED = 12
# Beyond so many lines of sight from points to pieces of the walls, points see patches whole.
_MOST_LINES = 4_000_000
UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, kw_only=True)
class PointLight:
    """PPFD at points for each lamp at full output, shapes (points, lamps) [µmol/m²/s]."""

    direct: Array
    reflected: Array

    @property
    def total(self) -> Array:
        """Direct and reflected together, shape (points, lamps) [µmol/m²/s]."""
        return self.direct + self.reflected


@dataclass(frozen=True, kw_only=True)
class EnergyBook:
    """Where each lamp's photons end [µmol/s], shapes (lamps,)."""

    emitted: Array
    absorbed_walls: Array
    absorbed_bodies: Array
    absorbed_crowns: Array

    @property
    def absorbed(self) -> Array:
        """All that ended somewhere [µmol/s]."""
        return self.absorbed_walls + self.absorbed_bodies + self.absorbed_crowns


@dataclass(frozen=True, kw_only=True, eq=False)
class _Sight:
    """Form factors from points to the walls' pieces, shape (n, pieces), what of them gets through leaves, and sums."""

    factors: Matrix
    passing: Matrix
    share: Array


_gather: ContentCache[_Sight] = ContentCache(
    lambda item: item.factors.nbytes * (1 + (item.passing is not item.factors))
)
_back: ContentCache[csr_array] = ContentCache(lambda item: item.data.nbytes + item.indices.nbytes)
_blind: ContentCache[NDArray[np.bool_]] = ContentCache(lambda item: item.nbytes)
_cut: ContentCache[NDArray[np.uint32]] = ContentCache(lambda item: item.nbytes)
_tile_view: ContentCache[Array] = ContentCache(lambda item: item.nbytes)
_on_tiles: ContentCache[Array] = ContentCache(lambda item: item.nbytes)
_direct: ContentCache[Array] = ContentCache(lambda item: item.nbytes)
_depths: ContentCache[Depths] = ContentCache(lambda item: item.nbytes)


@dataclass(frozen=True, kw_only=True, eq=False)
class _Laid:
    """The exchange among walls and bodies, and with the crowns that stand in it: areas (s, s) and their sums (s,)."""

    net: Exchange
    k_m2: Matrix
    areas_m2: Array


_bare: ContentCache[Exchange] = ContentCache(lambda item: item.k_m2.nbytes)
_laid: ContentCache[_Laid] = ContentCache(lambda item: item.k_m2.nbytes if item.k_m2 is not item.net.k_m2 else 0)


def _lay(room: RoomGrid, bodies: list[Body], crowns: tuple[Crown, ...]) -> _Laid:
    # Kept apart: while a plant is moved, walls and bodies stay as they are.
    net = _bare.get((room, tuple(body.key for body in bodies)), lambda: exchange(room, bodies))
    if not crowns:
        return _Laid(net=net, k_m2=net.k_m2, areas_m2=net.areas_m2)
    # Each body's key and the middles of its nodes, side by side.
    middles = [
        (body.key, np.tile(tiles.surface.middles, (len(tiles.surface.normals), 1)))
        for body, tiles in zip(bodies, net.tiles, strict=True)
    ]
    leaves = grown(room, net.k_m2, net.areas_m2, middles, crowns)
    return _Laid(net=net, k_m2=leaves.k_m2, areas_m2=leaves.areas_m2)


class LightField:
    """The solved light of a scene."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self._asked: dict[tuple[bytes, bool], PointLight] = {}
        room, lamps = scene.room, len(scene.emitters)
        # A quick look takes bodies where they nearly are for all that goes by way of walls.
        self._near = scene if scene.pieces > 1 else near(scene)
        self._bodies: list[Body] = self._near.plates
        self._crowns = leafy(scene.crowns)
        balanced = joined(self._crowns)
        laid = _laid.get(
            (room, tuple(body.key for body in self._bodies), balanced), partial(_lay, room, self._bodies, balanced)
        )
        self._net, k, areas = laid.net, laid.k_m2, laid.areas_m2
        self._images = [images(scene, emitter) for emitter in scene.emitters]
        self._rho = np.concatenate(
            [
                scene.reflectance,
                *(
                    np.full(len(tiles.surface.areas), rho)
                    for tiles in self._net.tiles
                    for rho in tiles.surface.reflectances
                ),
            ]
        )
        if balanced:
            self._rho = np.concatenate([self._rho, np.full(len(balanced), LEAF_ALBEDO)])
        # Direct light: what would meet walls and bodies without leaves; then what is left, and what leaves take.
        size = len(self._net.areas_m2)
        fine = np.zeros((room.count, scene.pieces**2, lamps))
        direct, landed = np.zeros((len(areas), lamps)), np.zeros(lamps)
        emitted = np.array([emitter.ppf_umol_s for emitter in scene.emitters], dtype=np.float64)
        mirror, lost = mirror_patches(scene), np.zeros(lamps)
        for number, emitter in enumerate(scene.emitters):
            own = _wall_direct(scene, number, self._near)
            parts, lost[number] = mirrored_light(scene, self._images[number], own, mirror)
            for source, crowns, light in ((emitter, balanced, parts[0]), *self._mirrored(number, parts, balanced)):
                self._land(number, source, crowns, light, fine, direct)
                landed[number] += (light.mean(axis=1) * room.areas).sum()
            landed[number] += self._light_bodies(number, balanced, direct) + lost[number]
        # What sampling left out or counted twice is spread back, so that no photon is lost on the way to the walls.
        self.sampling_error = np.divide(landed, emitted, out=np.ones_like(emitted), where=emitted > 0) - 1
        mend = np.divide(emitted, landed, out=np.ones_like(emitted), where=landed > 0)
        direct[size:] /= areas[size:, None]
        direct *= mend
        self._areas, self._in_mirrors = areas, lost * mend
        self._radiosity = solve(k, areas, self._rho, direct)
        self._arriving = direct + (k @ self._radiosity) / areas[:, None]
        indirect = self._arriving[: room.count, None, :] - direct[: room.count, None, :]
        self._wall_radiosity = (scene.reflectance[:, None, None] * (fine * mend + indirect)).reshape(
            room.count * scene.pieces**2, lamps
        )
        self._crown_radiosity = self._each_crown(balanced, self._radiosity[size:])

    @property
    def nbytes(self) -> int:
        """What it holds of its own in arrays [bytes]; what it shares with others is weighed where that is kept."""
        own = (self._rho, self._radiosity, self._arriving, self._wall_radiosity, self._crown_radiosity)
        asked = sum(3 * item.direct.nbytes for item in self._asked.values())
        return sum(part.nbytes for part in own) + asked + 1_000_000

    def _mirrored(
        self, number: int, parts: list[Array], crowns: tuple[Crown, ...]
    ) -> list[tuple[Emitter, tuple[Crown, ...], Array]]:
        """A lamp's images with the crowns that their light passes, and what it is on the walls."""
        return [
            (image.emitter, image.through(self.scene, crowns), light)
            for image, light in zip(self._images[number], parts[1:], strict=True)
        ]

    def _land(
        self, number: int, source: Emitter, crowns: tuple[Crown, ...], light: Array, fine: Array, direct: Array
    ) -> None:
        """Book a lamp's direct light on the walls (patches, pieces), and what crowns take of it on the way."""
        room, count = self.scene.room, self.scene.room.count
        mean = light.mean(axis=1)
        passed = np.ones(count)
        if crowns:
            passed, taken = lamp_through(source, crowns, room.points(1)[:, 0], room.normals, room)
            # A lamp and its images are weakened by one real crown each, however often it is mirrored.
            flux = (mean * room.areas) @ taken
            direct[len(self._net.areas_m2) :, number] += flux.reshape(-1, len(direct) - len(self._net.areas_m2)).sum(0)
        fine[..., number] += light * passed[:, None]
        direct[:count, number] += mean * passed

    def _light_bodies(self, number: int, crowns: tuple[Crown, ...], direct: Array) -> float:
        """Fill in a lamp's direct light on bodies, past screens; a lamp between is left out, light on bodies is small
        already. Gives what would land on them without leaves [µmol/s].
        """
        emitter, size, landed = self._near.emitters[number], len(self._net.areas_m2), 0.0
        for place, (tiles, body) in enumerate(zip(self._net.tiles, self._bodies, strict=True)):
            surface = tiles.surface
            ahead = emitter.plate.local(surface.corners.reshape(-1, 3))[:, 2]
            if emitter.plate is body or (ahead.max() <= 1e-6 and not emitter.both_sides):
                continue
            screens = [other for other in self.scene.bodies if other is not body]
            keys = (emitter.key, body.key, len(surface.areas), tuple(other.key for other in screens))
            for side, normals in enumerate(surface.normals):
                light = _on_tiles.get((*keys, side), partial(_tile_light, emitter, tiles, side, screens))
                if not light.any():
                    continue
                landed += float(light @ surface.areas)
                if crowns:
                    passed, taken = lamp_through(
                        emitter, crowns, surface.middles, normals, (body.key, side, len(light))
                    )
                    direct[size:, number] += (light * surface.areas) @ taken
                    light = light * passed
                direct[self._net.nodes(place, side), number] = light
        return landed

    def _each_crown(self, balanced: tuple[Crown, ...], radiosity: Array) -> Array:
        """What each real crown gives back, shape (crowns, lamps): that of the joined one nearest to it."""
        if len(balanced) == len(self._crowns):
            return radiosity
        theirs = np.array([crown.middle for crown in balanced])
        nearest = [int(np.linalg.norm(theirs - crown.middle, axis=1).argmin()) for crown in self._crowns]
        return np.asarray(radiosity[nearest])

    def energy(self) -> EnergyBook:
        """Book where the photons of each lamp end, open sides counted as walls that swallow all.

        Returns
        -------
        EnergyBook : emitted, and absorbed by walls, by bodies and by leaves [µmol/s]
        """
        swallowed = (self._areas * (1 - self._rho))[:, None] * self._arriving
        walls, size = self.scene.room.count, len(self._net.areas_m2)
        return EnergyBook(
            emitted=np.array([emitter.ppf_umol_s for emitter in self.scene.emitters], dtype=np.float64),
            absorbed_walls=swallowed[:walls].sum(axis=0) + self._in_mirrors,
            absorbed_bodies=swallowed[walls:size].sum(axis=0),
            absorbed_crowns=swallowed[size:].sum(axis=0),
        )

    def at(self, points: Array, normals: Array | None = None, *, shaded: bool = True) -> PointLight:
        """Give the light at points, lamp by lamp.

        Parameters
        ----------
        points : shape (n, 3), inside the box [m]
        normals : shape (n, 3), unit normals of the receiving surface; straight up when None
        shaded : weaken the light by the crowns it passes; False gives it as without leaves on its way

        Returns
        -------
        PointLight : direct and reflected PPFD at full output, shapes (n, lamps) [µmol/m²/s]
        """
        facing = np.tile(UP, (len(points), 1)) if normals is None else normals
        place = _digest(points, facing)
        found = self._asked.get((place, shaded))
        if found is None:
            while len(self._asked) >= _ASKED:
                self._asked.pop(next(iter(self._asked)), None)
            found = self._asked[place, shaded] = self._find(points, facing, place, self._crowns if shaded else ())
        return found

    def _find(self, points: Array, facing: Array, place: bytes, crowns: tuple[Crown, ...]) -> PointLight:
        lamps, closely = len(self.scene.emitters), self.scene.pieces > 1
        direct = np.zeros((len(points), lamps))
        for number, emitter in enumerate(self.scene.emitters):
            shading = between(emitter, self.scene.plates, points)
            direct[:, number] = _at(place, emitter, shading, crowns, points, facing, closely)
            for image in self._images[number]:
                through = image.through(self.scene, crowns)
                direct[:, number] += _at(place, image.emitter, image.shading, through, points, facing, closely)
        reflected = self._reflected(points, facing, place, crowns) if lamps else direct.copy()
        return PointLight(direct=direct, reflected=reflected)

    def _reflected(self, points: Array, normals: Array, place: bytes, crowns: tuple[Crown, ...]) -> Array:
        fine = self._fine(len(points))
        seen = self._sight(points, normals, place, crowns, fine)
        blind = self._blind(points, place, opaque(self._bodies), fine)
        passing, wall_share = seen.passing, seen.share
        if blind is not None:
            hidden = np.flatnonzero(blind)
            lost = np.bincount(hidden // blind.shape[1], seen.factors.reshape(-1)[hidden], len(points))
            wall_share, passing = wall_share - lost, passing.copy()
            passing.reshape(-1)[hidden] = 0
        for body in self._bodies:
            if body.passes:
                cut = self._blind(points, place, [body], fine)
                assert cut is not None
                weaker = np.where(cut, np.float32(body.passes), np.float32(1))
                wall_share = wall_share - (seen.factors * (1 - weaker)).sum(axis=1, dtype=np.float64)
                passing = passing * weaker
        bodies, body_share = self._from_bodies(points, normals, place, crowns)
        # In a closed box what is not body is wall: the walls' share makes up the rest.
        rest = np.clip((1 - body_share) / np.maximum(wall_share, 1e-6), 0.7, 1.4)[:, None]
        radiosity = self._wall_radiosity
        if fine < self.scene.pieces:
            radiosity = radiosity.reshape(self.scene.room.count, -1, radiosity.shape[1]).mean(axis=1)
        walls = passing @ radiosity.astype(np.float32)
        if crowns:
            walls = walls + self._taken(points, normals, seen, place, crowns, fine) @ self._crown_radiosity
        return np.asarray(walls * rest + bodies, dtype=np.float64)

    def _fine(self, count: int) -> int:
        """Into how many pieces a side walls are cut for so many points: very many see them whole."""
        pieces = self.scene.pieces
        return pieces if count * self.scene.room.count * pieces**2 <= _MOST_LINES else 1

    def _sight(self, points: Array, normals: Array, place: bytes, crowns: tuple[Crown, ...], fine: int) -> _Sight:
        """What points see of the walls' pieces when no body is between."""
        room = self.scene.room

        def find() -> _Sight:
            factors = gather_factors(room, fine, points, normals)
            passing = factors
            leaves = self._depths(points, normals, place, crowns) if crowns else None
            if leaves and not leaves.clear:
                of = np.repeat(shared_patches(room, crowns).of, fine * fine)
                passing = factors * leaves.passing()[:, of]
            return _Sight(factors=factors, passing=passing, share=factors.sum(axis=1, dtype=np.float64))

        return _gather.get((room, fine, place, leaves_key(crowns)), find)

    def _depths(self, points: Array, normals: Array, place: bytes, crowns: tuple[Crown, ...]) -> Depths:
        room = self.scene.room
        middles = shared_patches(room, crowns).middles
        return _depths.get((room, place, leaves_key(crowns)), partial(depths, crowns, points, middles, normals))

    def _blind(self, points: Array, place: bytes, bodies: Sequence[Body], fine: int) -> NDArray[np.bool_] | None:
        """Which pieces of the walls bodies hide from points; None when nothing is between."""
        room = self.scene.room
        targets = room.points(fine).reshape(-1, 3)

        def lines(body: Body) -> NDArray[np.uint32]:
            """The lines it cuts, by number: few of all."""
            return np.flatnonzero(body.hides(points, targets)).astype(np.uint32)

        def add(out: NDArray[np.bool_], some: Sequence[Body]) -> NDArray[np.bool_]:
            for body in some:
                out.reshape(-1)[_cut.get((room, fine, place, body.key), partial(lines, body))] = True
            return out

        def together(some: Sequence[Body]) -> NDArray[np.bool_]:
            return add(np.zeros((len(points), len(targets)), dtype=bool), some)

        if not bodies:
            return None
        # While one body is moved, what the others hide together is kept.
        fresh = [body for body in bodies if not _cut.holds((room, fine, place, body.key))]
        if len(bodies) > 2 and len(fresh) == 1:
            rest = [body for body in bodies if body is not fresh[0]]
            key = (room, fine, place, tuple(body.key for body in rest))
            return add(_blind.get(key, partial(together, rest)).copy(), fresh)
        return together(bodies)

    def _taken(
        self, points: Array, normals: Array, seen: _Sight, place: bytes, crowns: tuple[Crown, ...], fine: int
    ) -> csr_array:
        """What each crown takes of the walls' light on its way to points, and so gives back of its own; lamps' bodies
        are too small to matter here.
        """
        room = self.scene.room
        shared = shared_patches(room, crowns)

        def find() -> csr_array:
            blind = self._blind(points, place, opaque(self.scene.bodies), fine)
            factors = seen.factors if blind is None else np.where(blind, np.float32(0), seen.factors)
            by_patch = factors.reshape(len(points), room.count, fine * fine).sum(axis=2)
            return self._depths(points, normals, place, crowns).taken(shared.sums(by_patch))

        return _back.get((room, fine, place, leaves_key(crowns), tuple(body.key for body in self.scene.bodies)), find)

    def _from_bodies(
        self, points: Array, normals: Array, place: bytes, crowns: tuple[Crown, ...]
    ) -> tuple[Array, Array]:
        out, share = np.zeros((len(points), len(self.scene.emitters))), np.zeros(len(points))
        for number, (tiles, body) in enumerate(zip(self._net.tiles, self._bodies, strict=True)):
            surface = tiles.surface
            screens = [other for other in opaque(self.scene.bodies) if other is not body]
            keys = (place, body.key, len(surface.areas), tuple(other.key for other in screens))
            for side in range(len(surface.normals)):
                factors = _tile_view.get((*keys, side), partial(_seen_tiles, points, normals, tiles, side, screens))
                if not factors.any():
                    continue
                factors = factors * (1 - body.passes)
                share += factors.sum(axis=1)
                if crowns:
                    leaves = _depths.get(
                        (place, body.key, len(surface.areas), leaves_key(crowns)),
                        partial(depths, crowns, points, surface.middles, normals),
                    )
                    if not leaves.clear:
                        out += leaves.taken(factors) @ self._crown_radiosity
                        factors = factors * leaves.passing()
                out += factors @ self._radiosity[self._net.nodes(number, side)]
        return out, share


def _at(
    place: bytes,
    emitter: Emitter,
    shading: Sequence[Body],
    crowns: tuple[Crown, ...],
    points: Array,
    normals: Array,
    closely: bool,
) -> Array:
    """A lamp's direct light at points past bodies and through crowns, kept."""
    spot = place, leaves_key(crowns)
    key = spot, _lamp_key(emitter, shading), closely
    spots = SPOTS if closely else FEW_SPOTS
    find = partial(irradiance, emitter, points, normals, shading, crowns, edges=closely, spots=spots, place=spot)
    return _direct.get(key, find)


def _tile_light(emitter: Emitter, tiles: Tiles, side: int, screens: list[Body]) -> Array:
    """A lamp's direct light on one side of a body's tiles, past screens, shape (tiles,) [µmol/m²/s]."""
    surface = tiles.surface
    if not surface.ahead(side, emitter.plate.outline.reshape(-1, 3)).any():
        return np.zeros(len(surface.areas))
    # One sample a tile will do, unless the lamp is so close that its light changes within the tile.
    coarse = 2 * float(np.sqrt(surface.areas.max()))
    fine = _CLOSE_TILES if distance_to(emitter.plate, surface.middles).min() < coarse else 1
    points = quad_samples(surface.corners, fine).reshape(-1, 3)
    facing = np.repeat(surface.normals[side], fine * fine, axis=0)
    light = irradiance(emitter, points, facing, screens, edges=False)
    return np.asarray(light.reshape(-1, fine * fine).mean(axis=1))


def _seen_tiles(points: Array, normals: Array, tiles: Tiles, side: int, screens: list[Body]) -> Array:
    """What points see of one side of a body's tiles past screens, shape (n, tiles)."""
    surface = tiles.surface
    shown = surface.ahead(side, points)
    out = np.zeros(shown.shape)
    rows = np.flatnonzero(shown.any(axis=1))
    if len(rows):
        seen = shown[rows]
        for screen in screens:
            seen &= ~screen.hides(points[rows], surface.middles)
        out[rows] = polygon_factors(points[rows], normals[rows], surface.corners) * seen
    return out


def _digest(*arrays: Array) -> bytes:
    sha = hashlib.blake2b(digest_size=16)
    for array in arrays:
        sha.update(np.ascontiguousarray(array).tobytes())
    return sha.digest()


def _wall_direct(scene: Scene, number: int, others: Scene) -> Array:
    """Direct light of one lamp on every wall piece past the bodies of ``others``, shape (patches, pieces²)
    [µmol/m²/s].
    """
    emitter, own = scene.emitters[number], others.emitters[number].plate
    targets = scene.room.points(scene.pieces).reshape(-1, 3)
    shading = [body for body in between(emitter, others.plates, targets) if body is not own]
    key = (scene.room, scene.pieces, _lamp_key(emitter, shading))
    return _direct.get(key, lambda: _find_wall_direct(scene.room, scene.pieces, emitter, shading))


def _lamp_key(emitter: Emitter, shading: Sequence[Body]) -> tuple[object, ...]:
    """All that a lamp's direct light depends on."""
    return emitter.key, tuple(sorted(body.key for body in shading))


def _find_wall_direct(room: RoomGrid, fine: int, emitter: Emitter, others: Sequence[Body]) -> Array:
    points = room.points(fine).reshape(-1, 3)
    normals = np.repeat(room.normals, fine * fine, axis=0)
    spot = hashlib.blake2b(repr((room, fine)).encode(), digest_size=16).digest()
    spots = SPOTS if fine > 1 else FEW_SPOTS
    out = irradiance(emitter, points, normals, others, edges=False, spots=spots, place=(spot, b""))
    piece = float(room.pitch_m.max()) / fine
    close = np.flatnonzero(distance_to(emitter.plate, points) < 2 * piece)
    if len(close):
        u, v = (np.repeat(step, fine * fine, axis=0)[close] / fine for step in room.sides)
        steps = (np.arange(_CLOSE) + 0.5) / _CLOSE - 0.5
        shifted = [points[close] + a * u + b * v for a in steps for b in steps]
        facing, near = np.tile(normals[close], (len(shifted), 1)), (b"close" + spot, b"")
        samples = irradiance(emitter, np.concatenate(shifted), facing, others, edges=False, spots=spots, place=near)
        out[close] = samples.reshape(len(shifted), -1).mean(axis=0)
    return out.reshape(room.count, fine * fine)
