"""Light straight from a lamp to a surface, near and far.

A Lambertian rectangle is taken exactly (polygon form factor); discs, narrower
beams and measured intensities by quadrature that crowds towards the receiver.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from math import cos, log, pi, radians
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.errors import GeometryError
from canopy.light.intensity import IntensityTable
from canopy.light.plates import Body, Plate
from canopy.light.polygons import polygon_factors

Array = NDArray[np.float64]
Floats = NDArray[np.floating]
_MOST_NODES = 72


@dataclass(frozen=True, kw_only=True, eq=False)
class Emitter:
    """A lamp's emitting face: its plate, its photons at full output, and how narrow its beam is.

    ``exponent`` is n of I = PPF (n+1)/(2π) cosⁿθ; 1 is Lambertian. A ``table`` goes before it. ``around`` is "tube"
    (I = PPF/π² sin of the angle from its length) or "bulb" (alike in all directions). A window, a bare tube and a bulb
    have no ``body`` that stands in the way.
    """

    plate: Plate
    ppf_umol_s: float
    exponent: float = 1.0
    body: bool = True
    table: IntensityTable | None = None
    around: Literal["", "tube", "bulb"] = ""

    @cached_property
    def key(self) -> tuple[object, ...]:
        """All that its light depends on."""
        table = self.table.values.tobytes() if self.table else b""
        return self.plate.key, self.ppf_umol_s, self.exponent, self.body, self.around, table

    @property
    def both_sides(self) -> bool:
        """Whether it shines behind its face too."""
        return bool(self.around) or (self.table is not None and self.table.shines_back)

    @property
    def exact(self) -> bool:
        """Whether the polygon form holds (Lambertian rectangles)."""
        return not (self.plate.disc or self.around or self.table) and abs(self.exponent - 1.0) < 1e-9


def beam_exponent(beam_angle_deg: float) -> float:
    """Give the exponent of a cosine-power beam.

    Parameters
    ----------
    beam_angle_deg : full angle between the directions of half intensity [°], 4 to 170

    Returns
    -------
    float : n = ln 0.5 / ln cos(half the angle)

    Raises
    ------
    GeometryError : the angle is outside 4..170°
    """
    if not 4 <= beam_angle_deg <= 170:
        raise GeometryError(f"a beam angle of {beam_angle_deg:.0f}° cannot be computed: give 4° to 170°")
    return log(0.5) / log(cos(radians(beam_angle_deg / 2)))


def unhindered(emitter: Emitter, points: Array, normals: Array) -> Array:
    """Give the PPFD that comes straight from one lamp when nothing is between.

    Parameters
    ----------
    emitter : the lamp
    points : shape (n, 3), on its shining side [m]
    normals : shape (n, 3), unit normals of the receiving surface

    Returns
    -------
    ndarray : shape (n,) [µmol/m²/s] at full output
    """
    if emitter.exact:
        exitance = emitter.ppf_umol_s / emitter.plate.area_m2
        return np.asarray(exitance * polygon_factors(points, normals, emitter.plate.outline).sum(axis=1))
    return _graded(emitter, points, normals)


def shaders(own: Plate, others: Sequence[Body]) -> list[Body]:
    """Pick the bodies that can stand in the way of a lamp.

    Parameters
    ----------
    own : the lamp's plate
    others : all other bodies

    Returns
    -------
    list of Body : those that reach ahead of the lamp's face
    """
    if not others:
        return []
    corners = [other.outline.reshape(-1, 3) for other in others]
    starts = np.cumsum([0, *(len(part) for part in corners[:-1])])
    ahead = np.maximum.reduceat(own.local(np.concatenate(corners))[:, 2], starts) > 1e-6
    return [others[k] for k in np.flatnonzero(ahead)]


def in_the_way(emitter: Emitter, bodies: Sequence[Body]) -> list[Body]:
    """Pick the bodies that can stand in the way of a lamp.

    Parameters
    ----------
    emitter : the lamp
    bodies : all bodies

    Returns
    -------
    list of Body : without its own
    """
    others = [body for body in bodies if body is not emitter.plate]
    return others if emitter.both_sides else shaders(emitter.plate, others)


def distance_to(plate: Plate, points: Array) -> Array:
    """Give the distance of points from a plate.

    Parameters
    ----------
    plate : the plate; bars side by side count as one sheet
    points : shape (n, 3) [m]

    Returns
    -------
    ndarray : shape (n,) [m]
    """
    local = plate.local(points)
    reach = plate.length_m / 2
    side = reach if plate.disc else plate.width_m / 2 + max(abs(o) for o in plate.offsets_m)
    du = np.maximum(np.abs(local[:, 0]) - reach, 0)
    dv = np.maximum(np.abs(local[:, 1]) - side, 0)
    return np.asarray(np.sqrt(du**2 + dv**2 + local[:, 2] ** 2))


def face_samples(plate: Plate, count: int) -> tuple[Array, Array]:
    """Give points spread evenly over a lamp's face (a Hammersley set), for weighing what lies between.

    Parameters
    ----------
    plate : the face; bars side by side count as one strip after the other
    count : how many points

    Returns
    -------
    (ndarray, ndarray) : points, shape (count, 3) [m], and their shares of its photons, shape (count,)
    """
    first, second = _hammersley(count)
    if plate.disc:
        # Equal areas: as many points within half the area as outside it.
        r, turn = plate.length_m / 2 * np.sqrt(first), 2 * pi * second
        u, v = r * np.cos(turn), r * np.sin(turn)
    else:
        bars, wide = len(plate.offsets_m), plate.width_m * len(plate.offsets_m)
        if plate.length_m < wide:
            first, second = second, first
        u, strip = (first - 0.5) * plate.length_m, second * bars
        bar = np.minimum(strip.astype(int), bars - 1)
        v = np.array(plate.offsets_m)[bar] + (strip - bar - 0.5) * plate.width_m
    return plate.centre + u[:, None] * plate.along + v[:, None] * plate.across, np.full(count, 1 / count)


@lru_cache(maxsize=16)
def _hammersley(count: int) -> tuple[Array, Array]:
    """Even steps, and the digits of their numbers turned about (van der Corput)."""
    number, second = np.arange(count), np.zeros(count)
    half = 0.5
    while number.any():
        second += half * (number % 2)
        number //= 2
        half /= 2
    return (np.arange(count) + 0.5) / count, second + half


def sample_terms(emitter: Emitter, samples: Array, share: Array, points: Array, normals: Array) -> Array:
    """Give what each sample of a lamp contributes at points, with nothing between.

    Parameters
    ----------
    emitter : the lamp
    samples : shape (k, 3) [m]
    share : shape (k,), shares of its photons
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals

    Returns
    -------
    ndarray : shape (n, k) [µmol/m²/s]
    """
    near, far = points.astype(np.float32), samples.astype(np.float32)
    facing, beam = normals.astype(np.float32), emitter.plate.beam.astype(np.float32)
    dx, dy, dz = (near[:, axis, None] - far[None, :, axis] for axis in range(3))
    r2 = dx * dx + dy * dy + dz * dz
    r = np.sqrt(r2)
    emit = np.maximum(dx * beam[0] + dy * beam[1] + dz * beam[2], 0) / r
    receive = np.maximum(-(dx * facing[:, :1] + dy * facing[:, 1:2] + dz * facing[:, 2:]), 0)
    weight = np.float32(emitter.ppf_umol_s) * share.astype(np.float32)
    return np.asarray(weight * _spread(emitter, dx, dy, dz, r, emit) * receive / (r2 * r), dtype=np.float64)


def _spread(emitter: Emitter, dx: Floats, dy: Floats, dz: Floats, r: Floats, emit: Floats) -> Floats:
    """Share of an emitter's photons that go into a direction [1/sr]."""
    n = emitter.exponent
    if emitter.around == "bulb":
        return np.full(r.shape, 1 / (4 * pi))
    along = emitter.plate.along
    if emitter.around == "tube":
        axial = (dx * along[0] + dy * along[1] + dz * along[2]) / r
        return np.asarray(np.sqrt(np.maximum(1 - axial * axial, 0)) / pi**2)
    if emitter.table is None:
        return np.asarray((n + 1) / (2 * pi) * emit**n)
    beam, across = emitter.plate.beam, emitter.plate.across
    a = dx * along[0] + dy * along[1] + dz * along[2]
    c = dx * across[0] + dy * across[1] + dz * across[2]
    down = np.clip((dx * beam[0] + dy * beam[1] + dz * beam[2]) / r, -1, 1)
    return emitter.table.at(np.degrees(np.arctan2(c, a)) % 360, np.degrees(np.arccos(down)))


def _graded(emitter: Emitter, points: Array, normals: Array) -> Array:
    """Sum over a face whose nodes crowd towards each point's foot: u = foot + d sinh(s), Gauss points along s.

    Close by the integrand is as wide as the distance d, narrower still in a narrow beam; along s it is smooth.
    """
    plate = emitter.plate
    local = plate.local(points)
    narrow = emitter.table.narrow if emitter.table else emitter.exponent
    scale = np.maximum(distance_to(plate, points), 1e-4) / np.sqrt(max(1.0, narrow / 2))
    reach = plate.length_m / 2
    side = reach if plate.disc else plate.width_m / 2
    out = np.zeros(len(points))
    for band in np.unique(level := np.floor(np.log2(scale)).astype(int)):
        members = np.flatnonzero(level == band)
        nodes = [_node_count(half / 2.0**band) for half in (reach, side)]
        step = max(1, 400_000 // (nodes[0] * nodes[1]))
        for start in range(0, len(members), step):
            part = members[start : start + step]
            out[part] = sum(
                _one_face(emitter, points[part], normals[part], local[part], scale[part], offset, nodes)
                for offset in plate.offsets_m
            )
    return out


def _node_count(reaches: float) -> int:
    """How many nodes along a side that reaches so many times the scale to either side."""
    return int(np.clip(np.ceil(3 + 7 * np.arcsinh(reaches)), 4, _MOST_NODES))


def _one_face(
    emitter: Emitter, points: Array, normals: Array, local: Array, scale: Array, offset: float, nodes: list[int]
) -> Array:
    plate = emitter.plate
    reach = plate.length_m / 2
    u, wu = _nodes(local[:, 0], scale, np.full(len(local), reach), nodes[0])
    # A disc is as wide at u as its chord there.
    half = np.sqrt(np.maximum(reach**2 - u * u, 0)) if plate.disc else np.full_like(u, plate.width_m / 2)
    spread = np.broadcast_to(scale[:, None], u.shape)
    v, wv = _nodes(np.broadcast_to((local[:, 1] - offset)[:, None], u.shape), spread, half, nodes[1])
    du, dv, dw = local[:, 0, None, None] - u[..., None], local[:, 1, None, None] - offset - v, local[:, 2, None, None]
    frame = np.stack([plate.along, plate.across, plate.beam])
    dx, dy, dz = (du * frame[0, k] + dv * frame[1, k] + dw * frame[2, k] for k in range(3))
    r2 = dx * dx + dy * dy + dz * dz
    r = np.sqrt(r2)
    emit = np.maximum(dw / r, 0)
    nx, ny, nz = (normals[:, k, None, None] for k in range(3))
    receive = np.maximum(-(dx * nx + dy * ny + dz * nz) / r, 0)
    light = _spread(emitter, dx, dy, dz, r, emit) * receive / r2
    return np.asarray(emitter.ppf_umol_s / plate.area_m2 * np.einsum("nuv,nuv,nu->n", light, wv, wu))


def _nodes(foot: Array, scale: Array, half: Array, count: int) -> tuple[Array, Array]:
    """Gauss nodes from -half to half that crowd at the foot, and their weights; shapes (..., count)."""
    at, weight = _gauss(count)
    first, last = np.arcsinh((-half - foot) / scale), np.arcsinh((half - foot) / scale)
    s = first[..., None] + (last - first)[..., None] * at
    grown = (last - first)[..., None] * weight * scale[..., None] * np.cosh(s)
    return foot[..., None] + scale[..., None] * np.sinh(s), grown


@lru_cache(maxsize=128)
def _gauss(count: int) -> tuple[Array, Array]:
    """Gauss-Legendre nodes and weights from 0 to 1."""
    at, weight = np.polynomial.legendre.leggauss(count)
    return (at + 1) / 2, weight / 2
