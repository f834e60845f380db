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

from canopy.cache import ContentCache
from canopy.light.crowns import Crown, same
from canopy.light.emitters import Emitter, distance_to, in_the_way
from canopy.light.leaves import (
    LEAF_ALBEDO,
    grown,
    joined,
    lamp_through,
    leafy,
)
from canopy.light.mirrors import images, mirror_patches, mirrored_light
from canopy.light.near import near
from canopy.light.parts import Scene
from canopy.light.passing import FEW_SPOTS, between, irradiance
from canopy.light.plates import Body, quad_samples
from canopy.light.radiosity import Exchange, Tiles, exchange, nodes_of, solve
from canopy.light.reading import PointLight, Reading, lamp_key
from canopy.light.room import Matrix, RoomGrid
from canopy.light.spots import note_leaves, spots_of

Array = NDArray[np.float64]
_CLOSE = 4
# Spots of lamps' faces that leaves are weighed with: of all lamps together, and least and most of each.
_LEAF_SPOTS, _SPOTS_EACH = 720, (12, 36)
_CLOSE_TILES = 8
# So many answers are kept with a solved space.
_ASKED = 12
UP = np.array([0.0, 0.0, 1.0])


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


_on_tiles: ContentCache[Array] = ContentCache(lambda item: item.nbytes)
_direct: ContentCache[Array] = ContentCache(lambda item: item.nbytes)


@dataclass(frozen=True, kw_only=True, eq=False)
class _Laid:
    """The exchange among walls, bodies and the crowns that stand there: areas (s, s) and their sums (s,) [m²]."""

    k_m2: Matrix
    areas_m2: Array


@dataclass(frozen=True, kw_only=True, eq=False)
class _Shone:
    """Each lamp's direct light: on the pieces of the walls (patches, pieces²), on all nodes (s,) what leaves let pass
    and what they take [µmol/m²/s; crowns µmol/s], and of its photons those that landed and those lost in mirrors.
    """

    fine: Array
    nodes: Array
    landed: Array
    lost: Array


_bare: ContentCache[Exchange] = ContentCache(lambda item: item.k_m2.nbytes)
# While a lamp is dragged it stays; what was looked at closely is as good as never asked for again.
_laid: ContentCache[_Laid] = ContentCache(lambda item: item.k_m2.nbytes)


def _lay(room: RoomGrid, bodies: list[Body], crowns: tuple[Crown, ...]) -> _Laid:
    # Kept apart: while a plant is moved, walls and bodies stay as they are.
    net = _bare.get((room, tuple(body.key for body in bodies)), lambda: exchange(room, bodies))
    if not crowns:
        return _Laid(k_m2=net.k_m2, areas_m2=net.areas_m2)
    middles = [
        (body.key, tiles.surface.middles, len(tiles.surface.normals))
        for body, tiles in zip(bodies, net.tiles, strict=True)
    ]
    leaves = grown(room, net.k_m2, net.areas_m2, middles, crowns)
    return _Laid(k_m2=leaves.k_m2, areas_m2=leaves.areas_m2)


class LightField:
    """The solved light of a scene."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self._asked: dict[tuple[bytes, bool], PointLight] = {}
        room, lamps = scene.room, len(scene.emitters)
        # A quick look takes bodies where they nearly are for all that goes by way of walls.
        self._near = scene if scene.pieces > 1 else near(scene)
        self._bodies: list[Body] = self._near.plates
        self._crowns = same(leafy(scene.crowns))
        balanced = same(joined(self._crowns))
        self._net = nodes_of(room, self._bodies)
        self._images = [images(scene, emitter) for emitter in scene.emitters]
        # What leaves take of many lamps together is as sure with fewer spots of each.
        self._spots = int(np.clip(_LEAF_SPOTS // max(lamps, 1), *_SPOTS_EACH))
        laid, shone = self._lay(balanced), self._shine(balanced)
        k, areas, size = laid.k_m2, laid.areas_m2, len(self._net.areas_m2)
        sides = [(tiles, rho) for tiles in self._net.tiles for rho in tiles.surface.reflectances]
        leaves = [np.full(len(balanced), LEAF_ALBEDO)]
        self._rho = np.concatenate(
            [scene.reflectance, *(np.full(len(tiles.surface.areas), rho) for tiles, rho in sides), *leaves]
        )
        # What sampling left out or counted twice is spread back, so that no photon is lost on the way to the walls.
        emitted = np.array([emitter.ppf_umol_s for emitter in scene.emitters], dtype=np.float64)
        self.sampling_error = np.divide(shone.landed, emitted, out=np.ones_like(emitted), where=emitted > 0) - 1
        mend = np.divide(emitted, shone.landed, out=np.ones_like(emitted), where=shone.landed > 0)
        direct = shone.nodes * mend
        direct[size:] /= areas[size:, None]
        self._areas, self._in_mirrors = areas, shone.lost * mend
        self._radiosity = solve(k, areas, self._rho, direct)
        self._arriving = direct + (k @ self._radiosity) / areas[:, None]
        indirect = self._arriving[: room.count, None, :] - direct[: room.count, None, :]
        self._wall_radiosity = (scene.reflectance[:, None, None] * (shone.fine * mend + indirect)).reshape(
            room.count * scene.pieces**2, lamps
        )
        self._reading = Reading(
            scene=scene,
            images=self._images,
            bodies=self._bodies,
            net=self._net,
            walls=self._wall_radiosity,
            nodes=self._radiosity,
            leaves=self._each_crown(balanced, self._radiosity[size:]),
        )

    @property
    def nbytes(self) -> int:
        """What it holds of its own in arrays [bytes]; what it shares with others is weighed where that is kept."""
        own = (self._rho, self._radiosity, self._arriving, self._wall_radiosity, self._reading.leaves)
        asked = sum(3 * item.direct.nbytes for item in self._asked.values())
        return sum(part.nbytes for part in own) + asked + 1_000_000

    def _lay(self, balanced: tuple[Crown, ...]) -> _Laid:
        lay = partial(_lay, self.scene.room, self._bodies, balanced)
        if self.scene.pieces > 1:
            return lay()
        return _laid.get((self.scene.room, tuple(body.key for body in self._bodies), balanced), lay)

    def _shine(self, balanced: tuple[Crown, ...]) -> _Shone:
        """Direct light: what would meet walls and bodies without leaves; then what is left, and what leaves take."""
        scene, lamps, room = self.scene, len(self.scene.emitters), self.scene.room
        fine = np.zeros((room.count, scene.pieces**2, lamps))
        direct, landed = np.zeros((len(self._net.areas_m2) + len(balanced), lamps)), np.zeros(lamps)
        mirror, lost = mirror_patches(scene), np.zeros(lamps)
        for number, emitter in enumerate(scene.emitters):
            own = _wall_direct(scene, number, self._near)
            parts, lost[number] = mirrored_light(scene, self._images[number], own, mirror)
            for source, crowns, light in ((emitter, balanced, parts[0]), *self._mirrored(number, parts, balanced)):
                self._land(number, source, crowns, light, fine, direct)
                landed[number] += (light.mean(axis=1) * room.areas).sum()
            landed[number] += self._light_bodies(number, balanced, direct) + lost[number]
        return _Shone(fine=fine, nodes=direct, landed=landed, lost=lost)

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
            passed, taken = lamp_through(source, crowns, room.points(1)[:, 0], room.normals, room, self._spots)
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
        lit = in_the_way(emitter, self._bodies)
        for place, (tiles, body) in enumerate(zip(self._net.tiles, self._bodies, strict=True)):
            if body not in lit:
                continue
            surface = tiles.surface
            screens = [other for other in self.scene.bodies if other is not body]
            keys = (emitter.key, body.key, len(surface.areas), tuple(other.key for other in screens))
            for side, normals in enumerate(surface.normals):
                light = _on_tiles.get((*keys, side), partial(_tile_light, emitter, tiles, side, screens))
                if not light.any():
                    continue
                landed += float(light @ surface.areas)
                if crowns:
                    passed, taken = lamp_through(
                        emitter, crowns, surface.middles, normals, (body.key, side, len(light)), self._spots
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
        spots, crowns = spots_of(points, facing), self._crowns if shaded else ()
        found = self._asked.get((spots.key, shaded))
        if found is None:
            while len(self._asked) >= _ASKED:
                self._asked.pop(next(iter(self._asked)), None)
            found = self._asked[spots.key, shaded] = self._reading.light(spots, crowns)
            if crowns:
                note_leaves(spots, crowns)
        return found


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


def _wall_direct(scene: Scene, number: int, others: Scene) -> Array:
    """Direct light of one lamp on every wall piece past the bodies of ``others``, shape (patches, pieces²)
    [µmol/m²/s].
    """
    emitter, own = scene.emitters[number], others.emitters[number].plate
    targets = scene.room.points(scene.pieces).reshape(-1, 3)
    shading = [body for body in between(emitter, others.plates, targets) if body is not own]
    key = (scene.room, scene.pieces, lamp_key(emitter, shading))
    return _direct.get(key, lambda: _find_wall_direct(scene.room, scene.pieces, emitter, shading))


def _find_wall_direct(room: RoomGrid, fine: int, emitter: Emitter, others: Sequence[Body]) -> Array:
    # Shadows on walls are spread again by all that walls give back: their edges need not be sharp.
    points = room.points(fine).reshape(-1, 3)
    normals = np.repeat(room.normals, fine * fine, axis=0)
    spot = hashlib.blake2b(repr((room, fine)).encode(), digest_size=16).digest()
    out = irradiance(emitter, points, normals, others, edges=False, spots=FEW_SPOTS, place=(spot, b""))
    piece = float(room.pitch_m.max()) / fine
    close = np.flatnonzero(distance_to(emitter.plate, points) < 2 * piece)
    if len(close):
        u, v = (np.repeat(step, fine * fine, axis=0)[close] / fine for step in room.sides)
        steps = (np.arange(_CLOSE) + 0.5) / _CLOSE - 0.5
        shifted = [points[close] + a * u + b * v for a in steps for b in steps]
        facing, near = np.tile(normals[close], (len(shifted), 1)), (b"close" + spot, b"")
        samples = irradiance(emitter, np.concatenate(shifted), facing, others, edges=False, spots=FEW_SPOTS, place=near)
        out[close] = samples.reshape(len(shifted), -1).mean(axis=0)
    return out.reshape(room.count, fine * fine)
