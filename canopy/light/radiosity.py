"""Light by way of the walls and of lamps' bodies: exchange areas with things in the way, and the solution.

B = ρ (E_direct + F B). With exchange areas K = A F, symmetric, the system
(A/ρ - K) B = A E_direct is symmetric and positive definite for ρ < 1, so
conjugate gradients solve it, all lamps at once.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.errors import ConvergenceError
from canopy.light.gather import gather_factors
from canopy.light.pillars import Pillar
from canopy.light.plates import Body, Plate, Surface, quad_samples
from canopy.light.polygons import polygon_factors
from canopy.light.room import Matrix, RoomGrid

Array = NDArray[np.float64]
_PAIRING = (2, 3, 0, 1)
_MAX_ITERATIONS = 400


@dataclass(frozen=True, kw_only=True, eq=False)
class Hidden:
    """The wall pairs a body hides, few of all: patch numbers on either side; which of a pair's four sample lines it
    cuts, one bit each; shapes (pairs,).
    """

    rows: NDArray[np.uint16]
    cols: NDArray[np.uint16]
    lines: NDArray[np.uint8]

    @classmethod
    def of(cls, rows: NDArray[np.intp], cols: NDArray[np.intp], lines: NDArray[np.uint8]) -> Hidden:
        """Keep what is cut of lines (rows, cols) between patches of those numbers."""
        i, j = np.nonzero(lines)
        return cls(rows=rows[i].astype(np.uint16), cols=cols[j].astype(np.uint16), lines=lines[i, j])


@dataclass(frozen=True, kw_only=True, eq=False)
class Tiles:
    """A body cut up: its surface, and what each of its sides sees of the walls, each (k, patches) [m²]."""

    surface: Surface
    walls_m2: tuple[Matrix, ...]


@dataclass(frozen=True, kw_only=True, eq=False)
class Passing:
    """The shares that get through between patches, few of them different: these, and each pair's number among them
    (patches, patches).
    """

    values: Matrix
    numbers: NDArray[np.unsignedinteger]

    def whole(self) -> Matrix:
        """The share of each pair, shape (patches, patches)."""
        # Every number is one of them: nothing needs to be looked after.
        return self.values.take(self.numbers, mode="clip")


_hidden: ContentCache[Hidden] = ContentCache(lambda item: 5 * item.lines.nbytes)
_lines: ContentCache[NDArray[np.uint8]] = ContentCache(lambda item: item.nbytes)
_panes: ContentCache[Passing] = ContentCache(lambda item: item.numbers.nbytes)
_pair_sight: ContentCache[NDArray[np.bool_]] = ContentCache(lambda item: item.nbytes)
# What two bodies see of each other: sides of either, and the areas exchanged between their tiles (k, m) [m²].
Views = tuple[tuple[int, int, Matrix], ...]
_views: ContentCache[Views] = ContentCache(lambda item: sum(seen.nbytes for _, _, seen in item))
_tiles: ContentCache[Tiles] = ContentCache(lambda item: sum(part.nbytes for part in item.walls_m2))


def hidden_pairs(room: RoomGrid, body: Body) -> Hidden:
    """Find which lines between wall patches a body cuts, by four sample lines a pair.

    Parameters
    ----------
    room : the box
    body : what stands in it

    Returns
    -------
    Hidden : the pairs and the lines hidden of each
    """
    return _hidden.get((room, body.key), lambda: _find_hidden(room, body))


def _find_hidden(room: RoomGrid, body: Body) -> Hidden:
    # Samples are shaken within their quarter (same every time): bars as narrow as the raster do not beat with it.
    rng = np.random.default_rng(20)
    samples = room.points(2)
    shaken = samples + (rng.random(samples.shape) - 0.5) * room.pitch_m / 2 * (1 - np.abs(room.normals)[:, None, :])
    if not isinstance(body, Plate):
        every = np.arange(room.count)
        lines = np.zeros((room.count, room.count), dtype=np.uint8)
        for k, partner in enumerate(_PAIRING):
            lines |= body.hides(shaken[:, k], shaken[:, partner]).astype(np.uint8) << k
        return Hidden.of(every, every, lines)
    if body.partition:
        # All four samples of a patch stand on the side its middle is on.
        middle = room.points(1)
        shaken = np.where(_side(body, samples) == _side(body, middle), samples, middle)
    local = body.local(shaken).astype(np.float32)
    rows = np.flatnonzero((local[..., 2] > 1e-7).any(axis=1))
    cols = np.flatnonzero((local[..., 2] < -1e-7).any(axis=1))
    lines = np.zeros((len(rows), len(cols)), dtype=np.uint8)
    if len(rows) and len(cols):
        with np.errstate(divide="ignore", invalid="ignore"):
            for k, partner in enumerate(_PAIRING):
                p, q = local[rows, k], local[cols, partner]
                crossed = body.crossed(p, q)
                crossed &= (p[:, 2] > 1e-7)[:, None] & (q[:, 2] < -1e-7)[None, :]
                lines |= crossed.astype(np.uint8) << k
    return Hidden.of(rows, cols, lines)


def _side(plate: Plate, points: Array) -> NDArray[np.bool_]:
    return np.asarray(plate.local(points)[..., 2:] > 0)


def body_tiles(room: RoomGrid, body: Body) -> Tiles:
    """Cut a body into tiles and find what each sees of the walls.

    Parameters
    ----------
    room : the box
    body : what stands in it

    Returns
    -------
    Tiles : the tiles with their exchange areas
    """
    return _tiles.get((room, body.key), lambda: _cut(room, body))


def _cut(room: RoomGrid, body: Body) -> Tiles:
    surface = body.surface(float(room.pitch_m.mean()))
    count = surface.fine**2
    samples = quad_samples(surface.corners, surface.fine).reshape(-1, 3)
    sides = []
    for side, normals in enumerate(surface.normals):
        factors = gather_factors(room, 1, samples, np.repeat(normals, count, axis=0))
        mean = factors.reshape(len(surface.areas), count, room.count).mean(axis=1)
        if body.partition:
            mean = mean * surface.ahead(side, room.points(1)[:, 0]).any(axis=1)
        # What passes through a body goes on from wall to wall, past it: its areas are less by that.
        sides.append((mean * surface.areas[:, None]).astype(np.float32))
    return Tiles(surface=surface, walls_m2=tuple(sides))


@dataclass(frozen=True, kw_only=True, eq=False)
class Nodes:
    """What takes part in the exchange: wall patches, then every side of every body, side by side, from ``starts``; and
    the areas of all (size,) [m²].
    """

    areas_m2: Array
    starts: tuple[int, ...]
    tiles: tuple[Tiles, ...]

    def nodes(self, number: int, side: int) -> slice:
        """Where a body's side lies among the nodes.

        Parameters
        ----------
        number : which body
        side : which of its sides

        Returns
        -------
        slice : its nodes
        """
        count = len(self.tiles[number].surface.areas)
        return slice(self.starts[number] + side * count, self.starts[number] + (side + 1) * count)


@dataclass(frozen=True, kw_only=True, eq=False)
class Exchange(Nodes):
    """Exchange areas among wall patches and every side of every body.

    ``k_m2`` (size, size) symmetric; rows sum to ``areas_m2``.
    """

    k_m2: Matrix


def nodes_of(room: RoomGrid, bodies: Sequence[Body]) -> Nodes:
    """Lay out the nodes of a box with bodies in it.

    Parameters
    ----------
    room : the box
    bodies : what stands in it

    Returns
    -------
    Nodes : walls, then bodies in their order
    """
    pieces = tuple(body_tiles(room, body) for body in bodies)
    starts = np.cumsum([room.count, *(piece.surface.nodes for piece in pieces)])
    areas = [room.areas, *(np.tile(piece.surface.areas, len(piece.surface.normals)) for piece in pieces)]
    return Nodes(areas_m2=np.concatenate(areas), starts=tuple(starts[:-1].tolist()), tiles=pieces)


def exchange(room: RoomGrid, bodies: Sequence[Body]) -> Exchange:
    """Lay out the exchange areas of a box with bodies in it.

    Parameters
    ----------
    room : the box
    bodies : what stands in it

    Returns
    -------
    Exchange : symmetric, rows summing to the areas
    """
    laid = nodes_of(room, bodies)
    size = len(laid.areas_m2)
    k = np.zeros((size, size), dtype=np.float32)
    k[: room.count, : room.count] = _dimmed_by(room, _walls_past(room, opaque(bodies)), bodies)
    net = Exchange(k_m2=k, areas_m2=laid.areas_m2, starts=laid.starts, tiles=laid.tiles)
    for number, (body, piece) in enumerate(zip(bodies, net.tiles, strict=True)):
        others = [other for other in opaque(bodies) if other is not body and not _coplanar(body, other)]
        free_lines = _tiles_sight(room, body, piece, others)
        for side, seen in enumerate(piece.walls_m2):
            rows = net.nodes(number, side)
            block = seen if free_lines is None else seen * free_lines
            k[rows, : room.count] = block
            k[: room.count, rows] = block.T
        for later in range(number + 1, len(bodies)):
            if not _coplanar(body, bodies[later]):
                screens = [b for b in opaque(bodies) if b.screen and b is not body and b is not bodies[later]]
                for side, face, seen in _between(room, body, bodies[later], screens):
                    rows, cols = net.nodes(number, side), net.nodes(later, face)
                    # What passes through the second is as good as not seen.
                    k[rows, cols] = seen * np.float32(1 - bodies[later].passes)
                    k[cols, rows] = k[rows, cols].T
    # What lies under a body has no light to be balanced with.
    open_areas = net.areas_m2.copy()
    open_areas[: room.count] *= _unburied(room, bodies)
    _balance(k, open_areas)
    return net


def opaque(bodies: Sequence[Body]) -> list[Body]:
    """Pick the bodies that let no light through.

    Parameters
    ----------
    bodies : all of them

    Returns
    -------
    list of Body : in the same order
    """
    return [body for body in bodies if not body.passes]


def _dimmed_by(room: RoomGrid, k: Matrix, bodies: Sequence[Body]) -> Matrix:
    """Weaken the exchange between walls along lines that run through bodies which let some light pass."""
    panes = [body for body in bodies if body.passes]
    if not panes:
        return k
    keys = tuple(body.key for body in panes)
    return np.asarray(k * _panes.get((room, keys), lambda: _through_panes(room, panes)).whole(), dtype=np.float32)


def _through_panes(room: RoomGrid, panes: list[Body]) -> Passing:
    """What gets through panes along the lines of each wall pair."""
    values, numbers = np.ones(1, dtype=np.float32), np.zeros((room.count, room.count), dtype=np.uint8)
    for body in panes:
        left = 1 - (1 - _left(np.arange(16, dtype=np.uint8))) * np.float32(1 - body.passes)
        # A pair's number tells what the panes before leave of it and which of its lines this one cuts.
        every = np.outer(values, left).reshape(-1)
        both = numbers.astype(np.min_scalar_type(len(every))) * len(left) + _cut_lines(room, [body])
        there = np.zeros(len(every), dtype=bool)
        there[both.reshape(-1)] = True
        # Panes that leave as much share a number.
        values, places = np.unique(every[there].round(6), return_inverse=True)
        order = np.zeros(len(every), dtype=np.min_scalar_type(len(values)))
        order[there] = places
        numbers = order.take(both, mode="clip")
    return Passing(values=values, numbers=numbers)


def _unburied(room: RoomGrid, bodies: Sequence[Body]) -> Array:
    """Share of each wall patch that no pillar stands on, shape (patches,)."""
    out = np.ones(room.count)
    for body in bodies:
        if isinstance(body, Pillar):
            out -= body.buries(room.points(4)).mean(axis=1)
    return np.maximum(out, 0)


def _walls_past(room: RoomGrid, bodies: Sequence[Body]) -> Matrix:
    """Exchange areas of the walls past all bodies together.

    While one body is moved the others stay: which lines those cut is kept, that of shelves and columns apart.
    """
    standing, hanging = [body for body in bodies if body.screen], [body for body in bodies if not body.screen]
    known = [body for body in hanging if _hidden.holds((room, body.key))]
    kept = _kept_lines(room, standing, None) if standing else None
    if len(known) == len(hanging) - 1 > 1:
        kept = _kept_lines(room, known, kept, standing)
        hanging = [body for body in hanging if body not in known]
    return np.asarray(room.exchange_m2 * _left(_cut_lines(room, hanging, kept)), dtype=np.float32)


def _left(lines: NDArray[np.uint8]) -> Matrix:
    """How much of a pair of patches is left when some of its four sample lines are cut."""
    return np.asarray(np.multiply(4 - np.bitwise_count(lines), 0.25, dtype=np.float32))


def _kept_lines(
    room: RoomGrid, bodies: list[Body], before: NDArray[np.uint8] | None, already: Sequence[Body] = ()
) -> NDArray[np.uint8]:
    """The lines that bodies cut, beside those cut ``before`` by others, kept."""
    key = room, tuple(body.key for body in (*already, *bodies))
    return _lines.get(key, lambda: _cut_lines(room, bodies, before))


def _cut_lines(room: RoomGrid, bodies: Sequence[Body], before: NDArray[np.uint8] | None = None) -> NDArray[np.uint8]:
    """Which of the four sample lines of each wall pair are cut by any body, one bit each."""
    cut = np.zeros((room.count, room.count), dtype=np.uint8) if before is None else before.copy()
    for body in bodies:
        hidden = hidden_pairs(room, body)
        rows, cols = hidden.rows.astype(np.intp), hidden.cols.astype(np.intp)
        cut.reshape(-1)[rows * room.count + cols] |= hidden.lines
        # Seen from the other end a line has its partner's number.
        turned = ((hidden.lines & 3) << 2) | (hidden.lines >> 2)
        cut.reshape(-1)[cols * room.count + rows] |= turned
    return cut


def _tiles_sight(room: RoomGrid, body: Body, piece: Tiles, others: list[Body]) -> NDArray[np.bool_] | None:
    """Which wall patches each tile of a body sees past the other bodies; None when nothing is in the way."""
    out: NDArray[np.bool_] | None = None
    for other in others:
        hides = _pair_sight.get(
            (room, body.key, other.key),
            partial(other.hides, piece.surface.middles, room.points(1)[:, 0]),
        )
        out = hides if out is None else out | hides
    return None if out is None else ~out


def _coplanar(one: Body, two: Body) -> bool:
    """Whether neither can see or hide anything of the other: same plane, same way up or opposite."""
    if not isinstance(one, Plate) or not isinstance(two, Plate):
        return False
    return bool(abs(one.beam @ two.beam) > 1 - 1e-9 and abs((two.centre - one.centre) @ one.beam) < 1e-6)


def _between(room: RoomGrid, one: Body, two: Body, screens: list[Body]) -> Views:
    """What two bodies see of each other past screens; kept: while a third is moved it stays."""
    key = room, one.key, two.key, tuple(screen.key for screen in screens)
    return _views.get(key, lambda: _find_between(body_tiles(room, one).surface, body_tiles(room, two).surface, screens))


def _find_between(a: Surface, b: Surface, screens: list[Body]) -> Views:
    count = a.fine**2
    samples = quad_samples(a.corners, a.fine).reshape(-1, 3)
    free = np.ones((len(a.areas), len(b.areas)), dtype=bool)
    for screen in screens:
        free &= ~screen.hides(a.middles, b.middles)
    found = []
    for side, normals in enumerate(a.normals):
        shown = free & a.ahead(side, b.middles).T
        if not shown.any():
            continue
        factors = polygon_factors(samples, np.repeat(normals, count, axis=0), b.corners)
        area = factors.reshape(len(a.areas), count, -1).mean(axis=1) * a.areas[:, None]
        for face in range(len(b.normals)):
            seen = shown & b.ahead(face, a.middles)
            if seen.any():
                found.append((side, face, (area * seen).astype(np.float32)))
    return tuple(found)


def _balance(k: Matrix, areas: Array, passes: int = 60, within: float = 1e-3) -> None:
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


def solve(k_m2: Matrix, areas_m2: Array, reflectance: Array, direct: Array, tolerance: float = 2e-5) -> Array:
    """Find the light each surface gives back.

    Parameters
    ----------
    k_m2 : exchange areas, shape (s, s) [m²]
    areas_m2 : areas that its rows sum to, shape (s,) [m²]
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
    weight = np.where(live, areas_m2 / np.where(live, reflectance, 1.0), 1.0)[:, None]
    b = np.where(live[:, None], areas_m2[:, None] * direct, 0.0)
    x = b / weight
    mask = live[:, None]

    def apply(v: Array) -> Array:
        return np.asarray(np.where(mask, weight * v - k_m2 @ v.astype(np.float32), 0.0), dtype=np.float64)

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
