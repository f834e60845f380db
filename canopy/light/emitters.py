"""Light straight from a lamp to a surface, near and far.

A Lambertian rectangle is taken exactly (polygon form factor); discs and
narrower beams as cells, each under a fifth of its distance to the receiver.
What other lamps' bodies hide is taken out as a share, weighed cell by cell.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import cos, log, pi, radians
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.errors import GeometryError
from canopy.light.intensity import IntensityTable
from canopy.light.plates import Plate, quad_samples
from canopy.light.polygons import polygon_factors

Array = NDArray[np.float64]
_CELL_SHARE = 0.2
_MAX_CELLS = 96
_SHADOW_CELL_M = 0.05


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


def irradiance(emitter: Emitter, points: Array, normals: Array, others: list[Plate]) -> Array:
    """Give the PPFD that comes straight from one lamp.

    Parameters
    ----------
    emitter : the lamp
    points : shape (n, 3) [m]
    normals : shape (n, 3), unit normals of the receiving surface
    others : bodies that may stand in the way

    Returns
    -------
    ndarray : shape (n,) [µmol/m²/s] at full output

    Notes
    -----
    Points behind the emitting face get nothing.
    """
    ahead = emitter.plate.local(points)[:, 2] > 1e-9
    if emitter.both_sides:
        ahead[:] = True
    out = np.zeros(len(points))
    if not ahead.any():
        return out
    seen, facing = points[ahead], normals[ahead]
    if emitter.exact:
        corners = emitter.plate.outline
        exitance = emitter.ppf_umol_s / emitter.plate.area_m2
        value = exitance * polygon_factors(seen, facing, corners).sum(axis=1)
    else:
        value = _by_cells(emitter, seen, facing)
    for shading in in_the_way(emitter, others):
        value = value * _visible_share(emitter, shading, seen, facing)
    out[ahead] = value
    return out


def shaders(own: Plate, others: list[Plate]) -> list[Plate]:
    """Pick the bodies that can stand in the way of a lamp.

    Parameters
    ----------
    own : the lamp's plate
    others : all other bodies

    Returns
    -------
    list of Plate : those that reach ahead of the lamp's face
    """
    return [other for other in others if own.local(other.outline.reshape(-1, 3))[:, 2].max() > 1e-6]


def in_the_way(emitter: Emitter, plates: list[Plate]) -> list[Plate]:
    """Pick the bodies that can stand in the way of a lamp.

    Parameters
    ----------
    emitter : the lamp
    plates : all bodies

    Returns
    -------
    list of Plate : without its own
    """
    others = [plate for plate in plates if plate is not emitter.plate]
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


def _cells(plate: Plate, cell_m: float) -> tuple[Array, Array]:
    """Cell centres (k, 3) and their shares of the plate (k,)."""
    if not plate.disc:
        size = max(cell_m, plate.length_m / _MAX_CELLS)
        nu, nv = max(1, int(np.ceil(plate.length_m / size))), max(1, int(np.ceil(plate.width_m / size)))
        us = ((np.arange(nu) + 0.5) / nu - 0.5) * plate.length_m
        vs = np.add.outer(np.array(plate.offsets_m), ((np.arange(nv) + 0.5) / nv - 0.5) * plate.width_m).ravel()
        u, v = (grid.ravel() for grid in np.meshgrid(us, vs, indexing="ij"))
        share = np.full(len(u), 1 / len(u))
    else:
        rings = max(2, min(_MAX_CELLS // 2, int(np.ceil(plate.length_m / 2 / cell_m))))
        edges = np.arange(rings + 1) / rings * plate.length_m / 2
        rings_u: list[Array] = []
        rings_v: list[Array] = []
        shares: list[Array] = []
        for k in range(rings):
            count = max(6, int(np.ceil(2 * pi * (k + 0.5))))
            angle = (np.arange(count) + 0.5 * (k % 2)) / count * 2 * pi
            r = 2 / 3 * (edges[k + 1] ** 3 - edges[k] ** 3) / (edges[k + 1] ** 2 - edges[k] ** 2)
            rings_u.append(r * np.cos(angle))
            rings_v.append(r * np.sin(angle))
            shares.append(np.full(count, (edges[k + 1] ** 2 - edges[k] ** 2) / edges[-1] ** 2 / count))
        u, v, share = np.concatenate(rings_u), np.concatenate(rings_v), np.concatenate(shares)
    return plate.centre + u[:, None] * plate.along + v[:, None] * plate.across, share


def _cell_terms(emitter: Emitter, cells: Array, share: Array, points: Array, normals: Array) -> Array:
    """PPFD from each cell at each point, shape (n, k)."""
    dx, dy, dz = (points[:, axis, None] - cells[None, :, axis] for axis in range(3))
    r2 = dx * dx + dy * dy + dz * dz
    beam = emitter.plate.beam
    r = np.sqrt(r2)
    emit = np.maximum((dx * beam[0] + dy * beam[1] + dz * beam[2]) / r, 0)
    receive = np.maximum(-(dx * normals[:, :1] + dy * normals[:, 1:2] + dz * normals[:, 2:]) / r, 0)
    return np.asarray(emitter.ppf_umol_s * share * _spread(emitter, dx, dy, dz, r, emit) * receive / r2)


_SAMPLE_M, _MOST_SAMPLES = 0.12, 40


def lamp_samples(emitter: Emitter) -> tuple[Array, Array]:
    """Give a few points that stand for a lamp's face when what lies between is weighed.

    Parameters
    ----------
    emitter : the lamp

    Returns
    -------
    (ndarray, ndarray) : points, shape (k, 3) [m], and their shares of its photons, shape (k,)
    """
    pitch = _SAMPLE_M
    corners, areas = emitter.plate.tiles(pitch)
    while len(corners) > _MOST_SAMPLES and pitch < 1:
        pitch *= 1.4
        corners, areas = emitter.plate.tiles(pitch)
    return corners.mean(axis=1), areas / areas.sum()


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
    return _cell_terms(emitter, samples, share, points, normals)


def _spread(emitter: Emitter, dx: Array, dy: Array, dz: Array, r: Array, emit: Array) -> Array:
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


def _by_cells(emitter: Emitter, points: Array, normals: Array) -> Array:
    distance = np.maximum(distance_to(emitter.plate, points), 1e-4)
    narrow = emitter.table.narrow if emitter.table else emitter.exponent
    wanted = _CELL_SHARE * distance / max(1.0, np.sqrt(narrow / 2))
    band = np.floor(np.log2(wanted)).astype(int)
    out = np.zeros(len(points))
    for level in np.unique(band):
        members = np.flatnonzero(band == level)
        cells, share = _cells(emitter.plate, 2.0**level)
        step = max(1, 400_000 // len(share))
        for start in range(0, len(members), step):
            part = members[start : start + step]
            out[part] = _cell_terms(emitter, cells, share, points[part], normals[part]).sum(axis=1)
    return out


def _visible_share(emitter: Emitter, shading: Plate, points: Array, normals: Array) -> Array:
    corners, _ = emitter.plate.tiles(_SHADOW_CELL_M)
    cells = quad_samples(corners, 2 if len(corners) < 60 else 1).reshape(-1, 3)
    share = np.full(len(cells), 1 / len(cells))
    out = np.ones(len(points))
    step = max(1, 1_000_000 // len(cells))
    for start in range(0, len(points), step):
        part = slice(start, start + step)
        hidden = shading.hides(points[part], cells)
        rows = hidden.any(axis=1)
        if rows.any():
            terms = _cell_terms(emitter, cells, share, points[part][rows], normals[part][rows])
            total = terms.sum(axis=1)
            lost = np.divide((terms * hidden[rows]).sum(axis=1), total, out=np.zeros_like(total), where=total > 0)
            block = out[part]
            block[rows] = 1 - lost
            out[part] = block
    return out
