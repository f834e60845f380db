"""Light by way of the walls and of lamps' bodies: exchange areas with things in the way, and the solution.

B = ρ (E_direct + F B). With exchange areas K = A F, symmetric, the system
(A/ρ - K) B = A E_direct is symmetric and positive definite for ρ < 1, so
conjugate gradients solve it, all lamps at once.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.errors import ConvergenceError
from canopy.light.gather import gather_factors
from canopy.light.plates import Plate, quad_samples
from canopy.light.polygons import polygon_factors
from canopy.light.room import Matrix, RoomGrid

Array = NDArray[np.float64]
_PAIRING = (2, 3, 0, 1)
_MAX_ITERATIONS = 400


@dataclass(frozen=True, kw_only=True, eq=False)
class Hidden:
    """The wall pairs a plate may hide: patch numbers on either side and the share hidden, shape (rows, cols)."""

    rows: NDArray[np.intp]
    cols: NDArray[np.intp]
    share: Matrix


@dataclass(frozen=True, kw_only=True, eq=False)
class Tiles:
    """A plate cut up: corners (k, 4, 3) [m], areas (k,) [m²], exchange areas of its lit side and its back with the
    walls, each (k, patches) [m²].
    """

    corners: Array
    areas: Array
    front_m2: Matrix
    back_m2: Matrix


_hidden: ContentCache[Hidden] = ContentCache(120_000_000, lambda item: item.share.nbytes)
_walls: ContentCache[Matrix] = ContentCache(60_000_000, lambda item: item.nbytes)
_pair_sight: ContentCache[NDArray[np.bool_]] = ContentCache(60_000_000, lambda item: item.nbytes)
_tiles: ContentCache[Tiles] = ContentCache(120_000_000, lambda item: item.front_m2.nbytes * 2)


def hidden_pairs(room: RoomGrid, plate: Plate) -> Hidden:
    """Find which lines between wall patches a plate cuts, by four sample lines a pair.

    Parameters
    ----------
    room : the box
    plate : the body

    Returns
    -------
    Hidden : the pairs and the share hidden of each
    """
    return _hidden.get((room, plate.key), lambda: _find_hidden(room, plate))


def _find_hidden(room: RoomGrid, plate: Plate) -> Hidden:
    # Samples are shaken within their quarter (same every time): bars as narrow as the raster do not beat with it.
    rng = np.random.default_rng(20)
    samples = room.points(2)
    shake = (rng.random(samples.shape) - 0.5) * room.pitch_m / 2 * (1 - np.abs(room.normals)[:, None, :])
    if plate.partition:
        # All four samples of a patch stand on the side its middle is on.
        middle, shake = room.points(1), 0.0
        samples = np.where(_side(plate, samples) == _side(plate, middle), samples, middle)
    local = plate.local(samples + shake).astype(np.float32)
    rows = np.flatnonzero((local[..., 2] > 1e-7).any(axis=1))
    cols = np.flatnonzero((local[..., 2] < -1e-7).any(axis=1))
    share = np.zeros((len(rows), len(cols)), dtype=np.float32)
    if len(rows) and len(cols):
        with np.errstate(divide="ignore", invalid="ignore"):
            for k, partner in enumerate(_PAIRING):
                p, q = local[rows, k], local[cols, partner]
                crossed = plate.crossed(p, q)
                crossed &= (p[:, 2] > 1e-7)[:, None] & (q[:, 2] < -1e-7)[None, :]
                share += crossed
        share *= 0.25
    return Hidden(rows=rows, cols=cols, share=share)


def _side(plate: Plate, points: Array) -> NDArray[np.bool_]:
    return np.asarray(plate.local(points)[..., 2:] > 0)


def plate_tiles(room: RoomGrid, plate: Plate) -> Tiles:
    """Cut a plate into tiles and find what each sees of the walls.

    Parameters
    ----------
    room : the box
    plate : the body

    Returns
    -------
    Tiles : the tiles with their exchange areas
    """
    return _tiles.get((room, plate.key), lambda: _cut(room, plate))


def _cut(room: RoomGrid, plate: Plate) -> Tiles:
    corners, areas = plate.tiles(float(room.pitch_m.mean()))
    samples = quad_samples(corners, 2).reshape(-1, 3)
    sides = []
    for normal in (plate.beam, -plate.beam):
        factors = gather_factors(room, 1, samples, np.tile(normal, (len(samples), 1)))
        mean = factors.reshape(len(corners), 4, room.count).mean(axis=1)
        if plate.partition:
            ahead = ((room.points(1)[:, 0] - plate.centre) @ normal) > 0
            mean = mean * ahead
        sides.append((mean * areas[:, None]).astype(np.float32))
    return Tiles(corners=corners, areas=areas, front_m2=sides[0], back_m2=sides[1])


@dataclass(frozen=True, kw_only=True, eq=False)
class Exchange:
    """Exchange areas among wall patches and both sides of every body.

    ``k_m2`` (size, size) symmetric; rows sum to ``areas_m2``; bodies follow the walls, each its lit side, then its
    back, from ``starts``.
    """

    k_m2: Matrix
    areas_m2: Array
    starts: tuple[int, ...]
    tiles: tuple[Tiles, ...]


def exchange(room: RoomGrid, plates: list[Plate]) -> Exchange:
    """Lay out the exchange areas of a box with bodies in it.

    Parameters
    ----------
    room : the box
    plates : the bodies

    Returns
    -------
    Exchange : symmetric, rows summing to the areas
    """
    pieces = [plate_tiles(room, plate) for plate in plates]
    starts, size = [], room.count
    for piece in pieces:
        starts.append(size)
        size += 2 * len(piece.areas)
    k = np.zeros((size, size), dtype=np.float32)
    k[: room.count, : room.count] = _walls_past(room, plates)
    areas = np.concatenate([room.areas, *(np.tile(piece.areas, 2) for piece in pieces)])
    for number, (plate, piece, start) in enumerate(zip(plates, pieces, starts, strict=True)):
        others = [other for other in plates if other is not plate and not _coplanar(plate, other)]
        count = len(piece.areas)
        free_lines = _tiles_sight(room, plate, piece, others)
        for side, seen in enumerate((piece.front_m2, piece.back_m2)):
            rows = slice(start + side * count, start + (side + 1) * count)
            block = seen if free_lines is None else seen * free_lines
            k[rows, : room.count] = block
            k[: room.count, rows] = block.T
        for later in range(number + 1, len(plates)):
            if not _coplanar(plate, plates[later]):
                screens = [p for p in plates if p.screen and p is not plate and p is not plates[later]]
                _between(k, plate, piece, start, plates[later], pieces[later], starts[later], screens)
    return Exchange(k_m2=_balance(k, areas), areas_m2=areas, starts=tuple(starts), tiles=tuple(pieces))


def _walls_past(room: RoomGrid, plates: list[Plate]) -> Matrix:
    """Exchange areas of the walls past all bodies.

    While one body is moved the others stay: what those leave of the walls' exchange is kept.
    """
    known = [plate for plate in plates if _hidden.holds((room, plate.key))]
    if len(known) != len(plates) - 1:
        return _cut_out(room, room.exchange_m2, plates)
    kept = _walls.get((room, tuple(plate.key for plate in known)), lambda: _cut_out(room, room.exchange_m2, known))
    return _cut_out(room, kept, [plate for plate in plates if plate not in known])


def _cut_out(room: RoomGrid, exchange_m2: Matrix, plates: list[Plate]) -> Matrix:
    walls = exchange_m2.copy()
    for plate in plates:
        hidden = hidden_pairs(room, plate)
        free = 1 - hidden.share
        walls[np.ix_(hidden.rows, hidden.cols)] *= free
        walls[np.ix_(hidden.cols, hidden.rows)] *= free.T
    return walls


def _tiles_sight(room: RoomGrid, plate: Plate, piece: Tiles, others: list[Plate]) -> NDArray[np.bool_] | None:
    """Which wall patches each tile of a body sees past the other bodies; None when nothing is in the way."""
    out: NDArray[np.bool_] | None = None
    for other in others:
        hides = _pair_sight.get(
            (room, plate.key, other.key),
            partial(other.hides, piece.corners.mean(axis=1), room.points(1)[:, 0]),
        )
        out = hides if out is None else out | hides
    return None if out is None else ~out


def _coplanar(one: Plate, two: Plate) -> bool:
    """Whether neither can see or hide anything of the other: same plane, same way up or opposite."""
    return bool(abs(one.beam @ two.beam) > 1 - 1e-9 and abs((two.centre - one.centre) @ one.beam) < 1e-6)


def _between(
    k: Matrix, one: Plate, a: Tiles, start_a: int, two: Plate, b: Tiles, start_b: int, screens: list[Plate]
) -> None:
    """Fill in what two bodies see of each other past screens."""
    samples = quad_samples(a.corners, 2)
    middle_a, middle_b = a.corners.mean(axis=1), b.corners.mean(axis=1)
    side_of_a = one.local(middle_b)[:, 2]
    side_of_b = two.local(middle_a)[:, 2]
    free = np.ones((len(a.areas), len(b.areas)))
    for screen in screens:
        free = free * ~screen.hides(middle_a, middle_b)
    for side, sign in enumerate((1, -1)):
        normals = np.tile(one.beam * sign, (samples.shape[0] * 4, 1))
        factors = polygon_factors(samples.reshape(-1, 3), normals, b.corners)
        area = factors.reshape(len(a.areas), 4, -1).mean(axis=1) * a.areas[:, None]
        area = area * free * (side_of_a[None, :] * sign > 0)
        for face, way in enumerate((1, -1)):
            block = area * (side_of_b[:, None] * way > 0)
            rows = slice(start_a + side * len(a.areas), start_a + (side + 1) * len(a.areas))
            cols = slice(start_b + face * len(b.areas), start_b + (face + 1) * len(b.areas))
            k[rows, cols] = block
            k[cols, rows] = block.T


def _balance(k: Matrix, areas: Array, passes: int = 60, within: float = 1e-3) -> Matrix:
    """Scale rows and columns alike until every row sums to its area: nothing leaves a closed box unaccounted.

    Bodies that nearly touch take many passes, others three or four.
    """
    scale = np.ones(len(areas), dtype=np.float32)
    for _ in range(passes):
        rows = scale * (k @ scale)
        off = np.divide(areas, rows, out=np.ones_like(areas), where=rows > 1e-12)
        if np.abs(off - 1).max() < within:
            break
        scale *= np.clip(np.sqrt(off), 0.5, 2.0).astype(np.float32)
    k *= scale[:, None]
    k *= scale[None, :]
    return k


def solve(net: Exchange, reflectance: Array, direct: Array, tolerance: float = 2e-5) -> Array:
    """Find the light each surface gives back.

    Parameters
    ----------
    net : exchange areas, size s
    reflectance : shape (s,), 0 <= ρ < 1
    direct : shape (s, lamps), direct irradiance [µmol/m²/s]
    tolerance : relative residual to reach

    Returns
    -------
    ndarray : shape (s, lamps), radiosity [µmol/m²/s]

    Raises
    ------
    ConvergenceError : conjugate gradients did not settle
    """
    live = reflectance > 1e-6
    weight = np.where(live, net.areas_m2 / np.where(live, reflectance, 1.0), 1.0)[:, None]
    b = np.where(live[:, None], net.areas_m2[:, None] * direct, 0.0)
    x = b / weight
    mask = live[:, None]

    def apply(v: Array) -> Array:
        return np.asarray(np.where(mask, weight * v - net.k_m2 @ v.astype(np.float32), 0.0), dtype=np.float64)

    r = b - apply(x)
    z = r / weight
    p = z.copy()
    rz = (r * z).sum(axis=0)
    goal = tolerance * np.sqrt((b * b / weight).sum(axis=0))
    for _ in range(_MAX_ITERATIONS):
        if (np.sqrt(np.abs(rz)) <= goal).all():
            return np.asarray(x)
        ap = apply(p)
        curve = (p * ap).sum(axis=0)
        alpha = np.divide(rz, curve, out=np.zeros_like(rz), where=curve > 0)
        x = x + alpha * p
        r = r - alpha * ap
        z = r / weight
        fresh = (r * z).sum(axis=0)
        p = z + np.divide(fresh, rz, out=np.zeros_like(rz), where=rz > 0) * p
        rz = fresh
    raise ConvergenceError("the light between the walls did not settle")
