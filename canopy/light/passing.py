"""What gets from a lamp to a point past bodies and through leaves, weighed spot by spot of the lamp's face.

A spot is seen or not past all bodies together: shadows are joined, never multiplied.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache
from canopy.light.crowns import Crown
from canopy.light.depths import crown_boxes, depth
from canopy.light.emitters import Emitter, face_samples, in_the_way, sample_terms, unhindered
from canopy.light.leaves import leafy
from canopy.light.plates import Body
from canopy.light.room import Matrix
from canopy.light.shafts import lots, met

Array = NDArray[np.float64]
# Spots of a lamp: to begin with, and where a shadow's edge crosses it.
SPOTS, _EDGE_SPOTS = 64, 384
# While something is dragged fewer will do.
FEW_SPOTS = 24
_CHUNK = 1_000_000
# So many points are looked at together; so far from a body a line already counts as meeting it [m].
_LOT, _SKIN_M = 16, 1e-5
# What tells the points, and the leaves before them, from others; without it nothing is kept.
Place = tuple[bytes, bytes]


@dataclass(frozen=True, kw_only=True, eq=False)
class Rays:
    """A lamp's light at points without bodies between: the whole of it, shape (n,) [µmol/m²/s]; and the shares of it
    that come from each of its spots, through the leaves, shape (n, spots). What leaves take is missing from the shares.
    """

    value: Array
    shares: Matrix


_value: ContentCache[Array] = ContentCache(lambda item: item.nbytes)
_rays: ContentCache[Rays] = ContentCache(lambda item: item.shares.nbytes)
_shadow: ContentCache[NDArray[np.bool_]] = ContentCache(lambda item: item.nbytes)


def irradiance(
    emitter: Emitter,
    points: Array,
    normals: Array,
    bodies: Sequence[Body] = (),
    crowns: Sequence[Crown] = (),
    *,
    edges: bool = True,
    spots: int = SPOTS,
    place: Place | None = None,
) -> Array:
    """Give the PPFD that comes straight from one lamp.

    Parameters
    ----------
    emitter : the lamp
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals of the receiving surface
    bodies : what may stand in the way
    crowns : what may weaken the light; a point inside one is shaded by what lies between it and the lamp
    edges : look more closely where a shadow's edge crosses the lamp
    spots : how many spots of the lamp's face are weighed to begin with
    place : what tells the points, and the leaves, from others; nothing is kept without it

    Returns
    -------
    ndarray : shape (n,) [µmol/m²/s] at full output

    Notes
    -----
    Points behind the emitting face get nothing.
    """
    leaves, near = leafy(crowns), in_the_way(emitter, bodies)
    if place is None:
        value = _unhindered(emitter, points, normals)
    else:
        value = _value.get((place[0], emitter.key), lambda: _unhindered(emitter, points, normals))
    rows, near, leaves = _concerned(emitter, near, leaves, points)
    if not len(rows):
        return value
    if len(rows) < len(points):
        place = None if place is None else (place[0], place[1] + _digest(rows))
        out = value.copy()
        out[rows] = _past(emitter, points[rows], normals[rows], value[rows], (near, leaves), edges, spots, place)
        return out
    return _past(emitter, points, normals, value, (near, leaves), edges, spots, place)


def _digest(rows: NDArray[np.intp]) -> bytes:
    return hashlib.blake2b(rows.tobytes(), digest_size=12).digest()


def _concerned(
    emitter: Emitter, bodies: list[Body], crowns: tuple[Crown, ...], points: Array
) -> tuple[NDArray[np.intp], list[Body], tuple[Crown, ...]]:
    """Points that may have anything between themselves and a lamp, by boxes: all where most have; and which bodies, and
    whether leaves, they may have.
    """
    if not len(points) or not (bodies or crowns):
        return np.empty(0, dtype=np.intp), [], ()
    ours, lamp = lots(points, _LOT), box_of(emitter.plate)
    ends = ours.low, ours.high
    found = np.zeros(len(ours.low), dtype=bool)
    if bodies:
        low, high = (np.array(part)[:, None] for part in zip(*(box_of(body) for body in bodies), strict=True))
        reached = met(ends, lamp, (low, high))
        found |= reached.any(axis=0)
        bodies = [bodies[k] for k in np.flatnonzero(reached.any(axis=1))]
    if crowns:
        low, high = crown_boxes(crowns)
        leafy_lots = met((points.min(axis=0), points.max(axis=0)), lamp, (low, high))
        shaded = met(ends, lamp, (low[leafy_lots, None], high[leafy_lots, None])).any(axis=0)
        found |= shaded
        crowns = crowns if shaded.any() else ()
    if 2 * found.sum() > len(found):
        return np.arange(len(points)), bodies, crowns
    return np.unique(ours.members[found][ours.real[found]]), bodies, crowns


def _past(
    emitter: Emitter,
    points: Array,
    normals: Array,
    value: Array,
    between_them: tuple[list[Body], tuple[Crown, ...]],
    edges: bool,
    spots: int,
    place: Place | None,
) -> Array:
    """What is left of a lamp's light (n,) past bodies and through leaves."""
    near, leaves = between_them

    def find() -> Rays:
        return _cast(emitter, points, normals, leaves, spots, value)

    # Kept for when a body is moved next: where none is near, its sum is all that will be asked for.
    rays = find() if place is None or not near else _rays.get((place, emitter.key, spots), find)
    opaque, clear = [body for body in near if not body.passes], [body for body in near if body.passes]
    hidden = _hidden(emitter, opaque, points, spots, place)
    shares = _dimmed(emitter, clear, points, spots, rays.shares)
    if hidden is None:
        return np.asarray(rays.value * shares.sum(axis=1))
    out = rays.value * np.einsum("ns,ns->n", shares, ~hidden, dtype=np.float32, casting="unsafe")
    if edges:
        rows = np.flatnonzero(hidden.any(axis=1) & ~hidden.all(axis=1) & (rays.value > 0))
        for start in range(0, len(rows), _CHUNK // _EDGE_SPOTS):
            part = rows[start : start + _CHUNK // _EDGE_SPOTS]
            closer = _cast(emitter, points[part], normals[part], leaves, _EDGE_SPOTS, rays.value[part])
            shade = _hidden(emitter, opaque, points[part], _EDGE_SPOTS, None)
            left = _dimmed(emitter, clear, points[part], _EDGE_SPOTS, closer.shares)
            seen = left if shade is None else np.where(shade, np.float32(0), left)
            out[part] = closer.value * seen.sum(axis=1)
    return np.asarray(out)


def between(emitter: Emitter, bodies: Sequence[Body], points: Array) -> list[Body]:
    """Pick the bodies that any line from a lamp to any of the points can meet, by the boxes round them.

    Parameters
    ----------
    emitter : the lamp
    bodies : what may stand in the way
    points : shape (n, 3) [m]

    Returns
    -------
    list of Body : in the same order
    """
    near = in_the_way(emitter, bodies)
    if not near or not len(points):
        return near
    boxes = [box_of(body) for body in near]
    low, high = (np.array([box[end] for box in boxes])[:, None] for end in (0, 1))
    ours = lots(points, _LOT)
    reached = met((ours.low, ours.high), box_of(emitter.plate), (low, high)).any(axis=1)
    return [near[k] for k in np.flatnonzero(reached)]


@lru_cache(maxsize=1024)
def box_of(body: Body) -> tuple[Array, Array]:
    """Give the box round a body, a little larger than it.

    Parameters
    ----------
    body : what stands or hangs there

    Returns
    -------
    (ndarray, ndarray) : lowest and highest corners, shapes (3,) [m]
    """
    corners = body.outline.reshape(-1, 3)
    return corners.min(axis=0) - _SKIN_M, corners.max(axis=0) + _SKIN_M


def passing_share(emitter: Emitter, crowns: Sequence[Crown], points: Array, normals: Array) -> Array:
    """Give what share of a lamp's direct light gets through crowns to points.

    Parameters
    ----------
    emitter : the lamp
    crowns : what weakens it
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals

    Returns
    -------
    ndarray : shape (n,), 0..1; 1 where the lamp gives nothing anyway
    """
    rays = _cast(emitter, points, normals, leafy(crowns), SPOTS)
    return np.asarray(np.where(rays.value > 0, rays.shares.sum(axis=1), 1.0))


def _unhindered(emitter: Emitter, points: Array, normals: Array) -> Array:
    ahead = emitter.plate.local(points)[:, 2] > 1e-9
    if emitter.both_sides:
        ahead[:] = True
    out = np.zeros(len(points))
    if ahead.any():
        out[ahead] = unhindered(emitter, points[ahead], normals[ahead])
    return out


def _cast(
    emitter: Emitter,
    points: Array,
    normals: Array,
    leaves: tuple[Crown, ...],
    spots: int,
    value: Array | None = None,
) -> Rays:
    """Weigh a lamp's spots at points, and let leaves take their part."""
    samples, share = face_samples(emitter.plate, spots)
    found = _unhindered(emitter, points, normals) if value is None else value
    shares = np.zeros((len(points), spots), dtype=np.float32)
    rows, step = np.flatnonzero(found > 0), max(1, _CHUNK // spots)
    for start in range(0, len(rows), step):
        part = rows[start : start + step]
        terms = sample_terms(emitter, samples, share, points[part], normals[part])
        total = terms.sum(axis=1, keepdims=True)
        # A point so near an edge that no spot lights it is lit by all alike.
        terms = np.divide(terms, total, out=np.full_like(terms, 1 / spots), where=total > 0)
        shares[part] = terms * np.exp(-depth(leaves, points[part], samples, normals[part])) if leaves else terms
    return Rays(value=found, shares=shares)


def _hidden(
    emitter: Emitter, bodies: Sequence[Body], points: Array, spots: int, place: Place | None
) -> NDArray[np.bool_] | None:
    """Which spots any of the bodies hides from which points; None where nothing is hidden."""
    samples = face_samples(emitter.plate, spots)[0]
    out: NDArray[np.bool_] | None = None
    for body in bodies:
        find = partial(_behind, body, points, samples)
        shadow = find() if place is None else _shadow.get((place, emitter.key, body.key, spots), find)
        if len(shadow):
            out = shadow if out is None else out | shadow
    return out


def _dimmed(emitter: Emitter, bodies: Sequence[Body], points: Array, spots: int, shares: Matrix) -> Matrix:
    """Shares of a lamp's spots after bodies that let some light through."""
    samples, out = face_samples(emitter.plate, spots)[0], shares
    for body in bodies:
        crossed = body.hides(points, samples)
        if crossed.any():
            out = np.where(crossed, out * body.through(points, samples), out)
    return out


def _behind(body: Body, points: Array, samples: Array) -> NDArray[np.bool_]:
    """Which spots a body hides; an empty array where it hides none."""
    step = max(1, _CHUNK // len(samples))
    parts = [body.hides(points[start : start + step], samples) for start in range(0, len(points), step)]
    found = parts[0] if len(parts) == 1 else np.concatenate(parts)
    return found if found.any() else np.zeros((0, len(samples)), dtype=bool)
