"""The light in one space: solved once for its walls, then asked at any point.

Because light adds, everything is kept per lamp at full output; dimming,
ageing and switching are weights on the last axis.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.light.emitters import Emitter, distance_to, in_the_way, irradiance
from canopy.light.gather import gather_factors
from canopy.light.mirrors import images, mirror_patches, mirrored_light
from canopy.light.parts import Scene
from canopy.light.plates import Plate, quad_samples
from canopy.light.polygons import polygon_factors
from canopy.light.radiosity import Exchange, Tiles, exchange, solve
from canopy.light.room import Matrix, RoomGrid
from canopy.light.shade import lamp_share, sky_share

Array = NDArray[np.float64]
_CLOSE = 4
_CLOSE_TILES = 8
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


_gather: ContentCache[Matrix] = ContentCache(160_000_000, lambda item: item.nbytes)
_blind: ContentCache[NDArray[np.bool_]] = ContentCache(120_000_000, lambda item: item.nbytes)
_tile_view: ContentCache[Array] = ContentCache(80_000_000, lambda item: item.nbytes)
_direct: ContentCache[Array] = ContentCache(60_000_000, lambda item: item.nbytes)
_shade: ContentCache[Array] = ContentCache(30_000_000, lambda item: item.nbytes)


class LightField:
    """The solved light of a scene."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        room, lamps = scene.room, len(scene.emitters)
        self._net: Exchange = exchange(room, scene.plates)
        fine = np.stack([_wall_direct(scene, number) for number in range(lamps)], axis=-1) if lamps else None
        self._fine_direct = fine if fine is not None else np.zeros((room.count, scene.pieces**2, 0))
        direct = np.zeros((len(self._net.areas_m2), lamps))
        direct[: room.count] = self._fine_direct.mean(axis=1)
        self._images = [images(scene, emitter) for emitter in scene.emitters]
        emitted = np.array([emitter.ppf_umol_s for emitter in scene.emitters], dtype=np.float64)
        mirrored, lost = mirrored_light(scene, self._images, self._fine_direct, mirror_patches(scene))
        self._fine_direct = mirrored
        if scene.mirrors:
            direct[: room.count] = mirrored.mean(axis=1)
        self._rho = np.concatenate(
            [scene.reflectance, *(np.full(len(t.areas), rho) for t, p in self._bodies() for rho in p.sides)]
        )
        self._light_bodies(direct)
        # A mirror swallows its own share of what meets it; the rest has gone on to other faces.
        landed = self._net.areas_m2 @ direct + lost
        # What sampling left out or counted twice is spread back, so that no photon is lost on the way to the walls.
        self.sampling_error = np.divide(landed, emitted, out=np.ones_like(emitted), where=emitted > 0) - 1
        mend = np.divide(emitted, landed, out=np.ones_like(emitted), where=landed > 0)
        self._direct = direct * mend
        self._in_mirrors = lost * mend
        self._radiosity = solve(self._net, self._rho, self._direct)
        arriving = self._direct + (self._net.k_m2 @ self._radiosity) / self._net.areas_m2[:, None]
        self._arriving = arriving
        indirect = arriving[: room.count, None, :] - self._direct[: room.count, None, :]
        self._wall_radiosity = (scene.reflectance[:, None, None] * (self._fine_direct * mend + indirect)).reshape(
            room.count * scene.pieces**2, lamps
        )

    def _bodies(self) -> list[tuple[Tiles, Plate]]:
        return list(zip(self._net.tiles, self.scene.plates, strict=True))

    def _light_bodies(self, direct: Array) -> None:
        """Fill in the direct light on bodies, past screens; a lamp between is left out, light on bodies is small
        already.
        """
        for (tiles, plate), start in zip(self._bodies(), self._net.starts, strict=True):
            middle, count = tiles.corners.mean(axis=1), len(tiles.areas)
            coarse = 2 * float(np.sqrt(tiles.areas.max()))
            for number, emitter in enumerate(self.scene.emitters):
                ahead = emitter.plate.local(tiles.corners.reshape(-1, 3))[:, 2]
                if emitter.plate is plate or (ahead.max() <= 1e-6 and not emitter.both_sides):
                    continue
                # One sample a tile will do, unless the lamp is so close that its light changes within the tile.
                fine = _CLOSE_TILES if distance_to(emitter.plate, middle).min() < coarse else 1
                points = quad_samples(tiles.corners, fine).reshape(-1, 3)
                screens = [body for body in self.scene.bodies if body is not plate]
                for side, normal in enumerate((plate.beam, -plate.beam)):
                    rows = slice(start + side * count, start + (side + 1) * count)
                    light = irradiance(emitter, points, np.tile(normal, (len(points), 1)), screens)
                    direct[rows, number] = light.reshape(count, fine * fine).mean(axis=1)

    def energy(self) -> EnergyBook:
        """Book where the photons of each lamp end, open sides counted as walls that swallow all.

        Returns
        -------
        EnergyBook : emitted, and absorbed by walls and by bodies [µmol/s]
        """
        swallowed = (self._net.areas_m2 * (1 - self._rho))[:, None] * self._arriving
        walls = self.scene.room.count
        return EnergyBook(
            emitted=np.array([emitter.ppf_umol_s for emitter in self.scene.emitters], dtype=np.float64),
            absorbed_walls=swallowed[:walls].sum(axis=0) + self._in_mirrors,
            absorbed_bodies=swallowed[walls:].sum(axis=0),
        )

    def at(self, points: Array, normals: Array | None = None, *, shaded: bool = True) -> PointLight:
        """Give the light at points, lamp by lamp.

        Parameters
        ----------
        points : shape (n, 3), inside the box [m]
        normals : shape (n, 3), unit normals of the receiving surface; straight up when None
        shaded : weaken the light by the crowns it passes; False gives it as without leaves

        Returns
        -------
        PointLight : direct and reflected PPFD at full output, shapes (n, lamps) [µmol/m²/s]
        """
        facing = np.tile(UP, (len(points), 1)) if normals is None else normals
        lamps, place = len(self.scene.emitters), _digest(points, facing)
        direct = np.zeros((len(points), lamps))
        for number, emitter in enumerate(self.scene.emitters):
            shading = self._shaders(emitter)
            direct[:, number] = _direct.get(
                (place, _lamp_key(emitter, shading)), partial(irradiance, emitter, points, facing, shading)
            )
            for image in self._images[number]:
                direct[:, number] += _direct.get(
                    (place, _lamp_key(image.emitter, image.shading)),
                    partial(irradiance, image.emitter, points, facing, image.shading),
                )
        reflected = self._reflected(points, facing, place) if lamps else direct.copy()
        crowns = tuple(crown for crown in self.scene.crowns if crown.lai > 0)
        if crowns and lamps and shaded:
            for number, emitter in enumerate(self.scene.emitters):
                direct[:, number] *= _shade.get(
                    (place, emitter.key, crowns), partial(lamp_share, emitter, crowns, points, facing)
                )
            reflected *= _shade.get((place, crowns), lambda: sky_share(crowns, points, facing))[:, None]
        return PointLight(direct=direct, reflected=reflected)

    def _shaders(self, emitter: Emitter) -> list[Plate]:
        return in_the_way(emitter, self.scene.plates)

    def _reflected(self, points: Array, normals: Array, place: bytes) -> Array:
        room = self.scene.room
        fine = self.scene.pieces
        factors = _gather.get((room, fine, place), lambda: gather_factors(room, fine, points, normals))
        targets = room.points(fine).reshape(-1, 3)
        blind: NDArray[np.bool_] | None = None
        for plate in self.scene.plates:
            hides = _blind.get((room, fine, place, plate.key), lambda plate=plate: plate.hides(points, targets))  # type: ignore[misc]
            blind = hides if blind is None else blind | hides
        seen = factors if blind is None else np.where(blind, np.float32(0), factors)
        walls = seen @ self._wall_radiosity.astype(np.float32)
        bodies, body_share = self._from_bodies(points, normals, place)
        wall_share = seen.sum(axis=1)
        # In a closed box what is not body is wall: the walls' share makes up the rest.
        rest = np.clip((1 - body_share) / np.maximum(wall_share, 1e-6), 0.7, 1.4)
        return np.asarray(walls * rest[:, None] + bodies, dtype=np.float64)

    def _from_bodies(self, points: Array, normals: Array, place: bytes) -> tuple[Array, Array]:
        out, share = np.zeros((len(points), len(self.scene.emitters))), np.zeros(len(points))
        for (tiles, plate), start in zip(self._bodies(), self._net.starts, strict=True):
            count, ahead = len(tiles.areas), plate.local(points)[:, 2]
            for side, sign in enumerate((1, -1)):
                rows = np.flatnonzero(ahead * sign > 1e-9)
                if len(rows):
                    screens = [body for body in self.scene.bodies if body is not plate]
                    factors = _tile_view.get(
                        (place, plate.key, len(tiles.areas), sign, tuple(body.key for body in screens)),
                        partial(_seen_tiles, points[rows], normals[rows], tiles, screens),
                    )
                    given = self._radiosity[start + side * count : start + (side + 1) * count]
                    out[rows] += factors @ given
                    share[rows] += factors.sum(axis=1)
        return out, share


def _seen_tiles(points: Array, normals: Array, tiles: Tiles, screens: list[Plate]) -> Array:
    """What points see of a body's tiles past screens, shape (n, tiles)."""
    factors = polygon_factors(points, normals, tiles.corners)
    middle = tiles.corners.mean(axis=1)
    for screen in screens:
        factors = np.where(screen.hides(points, middle), 0.0, factors)
    return factors


def _digest(*arrays: Array) -> bytes:
    sha = hashlib.blake2b(digest_size=16)
    for array in arrays:
        sha.update(np.ascontiguousarray(array).tobytes())
    return sha.digest()


def _wall_direct(scene: Scene, number: int) -> Array:
    """Direct light of one lamp on every wall piece, shape (patches, pieces²) [µmol/m²/s]."""
    emitter = scene.emitters[number]
    shading = in_the_way(emitter, scene.plates)
    key = (scene.room, scene.pieces, _lamp_key(emitter, shading))
    return _direct.get(key, lambda: _find_wall_direct(scene.room, scene.pieces, emitter, shading))


def _lamp_key(emitter: Emitter, shading: list[Plate]) -> tuple[object, ...]:
    """All that a lamp's direct light depends on."""
    return emitter.key, tuple(sorted(plate.key for plate in shading))


def _find_wall_direct(room: RoomGrid, fine: int, emitter: Emitter, others: list[Plate]) -> Array:
    points = room.points(fine).reshape(-1, 3)
    normals = np.repeat(room.normals, fine * fine, axis=0)
    out = irradiance(emitter, points, normals, others)
    piece = float(room.pitch_m.max()) / fine
    close = np.flatnonzero(distance_to(emitter.plate, points) < 2 * piece)
    if len(close):
        u, v = (np.repeat(step, fine * fine, axis=0)[close] / fine for step in room.sides)
        steps = (np.arange(_CLOSE) + 0.5) / _CLOSE - 0.5
        shifted = [points[close] + a * u + b * v for a in steps for b in steps]
        samples = irradiance(emitter, np.concatenate(shifted), np.tile(normals[close], (len(shifted), 1)), others)
        out[close] = samples.reshape(len(shifted), -1).mean(axis=0)
    return out.reshape(room.count, fine * fine)
