"""The six inner faces of a space in patches, and how they see each other when nothing stands between.

Between faces of a box every form factor is known in closed form and depends
only on offsets, so the whole exchange matrix is laid out from small tables:
exact, and every row sums to one. An open side is a black face.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from canopy.cache import ContentCache

Array = NDArray[np.float64]
Matrix = NDArray[np.float32]
# face name -> (axis of its normal, 0 at the origin side or 1 at the far side)
FACE_AXES = {"left": (0, 0), "right": (0, 1), "front": (1, 0), "back": (1, 1), "floor": (2, 0), "ceiling": (2, 1)}


@dataclass(frozen=True, kw_only=True)
class Face:
    """One face: its axis and side, the two axes across it, and its patches' place in the arrays."""

    name: str
    axis: int
    side: int
    across: tuple[int, int]
    counts: tuple[int, int]
    first: int

    @property
    def patches(self) -> slice:
        """The face's stretch of the patch arrays."""
        return slice(self.first, self.first + self.counts[0] * self.counts[1])


@dataclass(frozen=True, kw_only=True)
class RoomGrid:
    """A box cut into patches; sizes [m], ``divisions`` patches along x, y, z."""

    size_m: tuple[float, float, float]
    divisions: tuple[int, int, int]

    @classmethod
    def of(cls, size_m: tuple[float, float, float], patches: int, levels_m: tuple[float, ...] = ()) -> RoomGrid:
        """Cut a box into about so many patches, as square as they come.

        Parameters
        ----------
        size_m : width, depth, height [m]
        patches : about how many in all, over six faces
        levels_m : heights of shelves that wall patches should not straddle; the cuts are laid close to them [m]

        Returns
        -------
        RoomGrid : the cut box
        """
        w, d, h = size_m
        pitch = np.sqrt(2 * (w * d + w * h + d * h) / patches)
        upright = max(3, round(h / pitch))
        if levels_m:
            shares = np.array([level / h for level in levels_m])
            tries = range(max(3, round(0.75 * upright)), round(1.5 * upright) + 1)
            upright = min(tries, key=lambda n: float(np.abs(shares * n - np.round(shares * n)).max()))
        return cls(size_m=size_m, divisions=(max(3, round(w / pitch)), max(3, round(d / pitch)), upright))

    @property
    def pitch_m(self) -> Array:
        """Patch size along each axis, shape (3,) [m]."""
        return np.asarray(np.array(self.size_m) / np.array(self.divisions))

    @cached_property
    def faces(self) -> tuple[Face, ...]:
        """The six faces, in the order of their patches."""
        found, first = [], 0
        for name, (axis, side) in FACE_AXES.items():
            b, c = (other for other in range(3) if other != axis)
            counts = (self.divisions[b], self.divisions[c])
            found.append(Face(name=name, axis=axis, side=side, across=(b, c), counts=counts, first=first))
            first += counts[0] * counts[1]
        return tuple(found)

    def _face_points(self, face: Face, fine: int) -> Array:
        """Centres of a face's patches cut fine x fine; shape (patches, fine * fine, 3)."""
        b, c = face.across
        nb, nc = face.counts
        pitch = self.pitch_m
        steps = (np.arange(fine) + 0.5) / fine
        ib, ic, sb, sc = np.meshgrid(np.arange(nb), np.arange(nc), steps, steps, indexing="ij")
        points = np.empty((*ib.shape, 3))
        points[..., face.axis] = self.size_m[face.axis] * face.side
        points[..., b] = (ib + sb) * pitch[b]
        points[..., c] = (ic + sc) * pitch[c]
        return points.reshape(nb * nc, fine * fine, 3)

    def points(self, fine: int = 1) -> Array:
        """Give sample points on every patch.

        Parameters
        ----------
        fine : samples along each side of a patch

        Returns
        -------
        ndarray : shape (patches, fine * fine, 3) [m]
        """
        return _points(self, fine)

    @cached_property
    def normals(self) -> Array:
        """Inward normals, shape (patches, 3)."""
        out = np.zeros((self.count, 3))
        for face in self.faces:
            out[face.patches, face.axis] = 1 - 2 * face.side
        return out

    @cached_property
    def sides(self) -> tuple[Array, Array]:
        """The two side vectors of every patch, each of shape (patches, 3) [m]."""
        u, v = np.zeros((self.count, 3)), np.zeros((self.count, 3))
        for face in self.faces:
            u[face.patches, face.across[0]] = self.pitch_m[face.across[0]]
            v[face.patches, face.across[1]] = self.pitch_m[face.across[1]]
        return u, v

    @cached_property
    def areas(self) -> Array:
        """Patch areas, shape (patches,) [m²]."""
        out = np.empty(self.count)
        for face in self.faces:
            out[face.patches] = self.pitch_m[face.across[0]] * self.pitch_m[face.across[1]]
        return out

    @cached_property
    def count(self) -> int:
        """How many patches there are."""
        nx, ny, nz = self.divisions
        return 2 * (nx * ny + nx * nz + ny * nz)

    @property
    def exchange_m2(self) -> Matrix:
        """Exchange areas A_i F_ij of the empty box, shape (patches, patches) [m²]; symmetric, rows sum to A_i.

        Source: Howell, A Catalog of Radiation Heat Transfer Configuration Factors, C-12 to C-16 (rectangles in
        parallel and in perpendicular planes), as second differences of their corner functions.
        """
        return _exchange.get(self, self._find_exchange)

    def _find_exchange(self) -> Matrix:
        out = np.zeros((self.count, self.count), dtype=np.float32)
        for one, two in combinations(self.faces, 2):
            block = self._parallel(one) if one.axis == two.axis else self._perpendicular(one, two)
            out[one.patches, two.patches] = block
            out[two.patches, one.patches] = block.T
        return out

    def _parallel(self, one: Face) -> Array:
        (b, c), (nb, nc), pitch = one.across, one.counts, self.pitch_m
        z = self.size_m[one.axis]
        x = (np.arange(-nb, nb + 1) * pitch[b])[:, None]
        y = (np.arange(-nc, nc + 1) * pitch[c])[None, :]
        rx, ry = np.sqrt(x * x + z * z), np.sqrt(y * y + z * z)
        g = y * rx * np.arctan(y / rx) + x * ry * np.arctan(x / ry) - z * z / 2 * np.log(x * x + y * y + z * z)
        table = _second(_second(g / (2 * np.pi)).T).T
        db = np.arange(nb)[:, None] - np.arange(nb)[None, :] + nb - 1
        dc = np.arange(nc)[:, None] - np.arange(nc)[None, :] + nc - 1
        return np.asarray(table[db[:, None, :, None], dc[None, :, None, :]].reshape(nb * nc, nb * nc))

    def _perpendicular(self, one: Face, two: Face) -> Array:
        common = 3 - one.axis - two.axis
        n, pitch = self.divisions[common], self.pitch_m
        # Distances from the shared edge: along face one towards two's plane, and the other way about.
        n1, n2 = self.divisions[two.axis], self.divisions[one.axis]
        x = (np.arange(n1 + 1) * pitch[two.axis])[:, None, None]
        xi = (np.arange(n2 + 1) * pitch[one.axis])[None, :, None]
        dy = (np.arange(-n, n + 1) * pitch[common])[None, None, :]
        r2 = x * x + xi * xi
        r = np.sqrt(r2)
        reach = r2 + dy * dy
        log = np.log(reach, out=np.zeros_like(reach), where=reach > 0)
        g = (dy * r * np.arctan2(dy, r) - (r2 - dy * dy) * log / 4) / (2 * np.pi)
        table = _second(np.diff(np.diff(g, axis=0), axis=1).transpose(2, 0, 1)).transpose(1, 2, 0)
        first = np.arange(n1) if two.side == 0 else np.arange(n1)[::-1]
        second = np.arange(n2) if one.side == 0 else np.arange(n2)[::-1]
        shift = np.arange(n)[:, None] - np.arange(n)[None, :] + n - 1
        block = table[first[:, None, None, None], second[None, :, None, None], shift[None, None]]
        # block axes: (one along two.axis, two along one.axis, one along common, two along common)
        order_one = (0, 2) if one.across[0] == two.axis else (2, 0)
        order_two = (1, 3) if two.across[0] == one.axis else (3, 1)
        return np.asarray(block.transpose(*order_one, *order_two).reshape(n1 * n, n2 * n))


_exchange: ContentCache[Matrix] = ContentCache(lambda item: item.nbytes)


@lru_cache(maxsize=64)
def _points(room: RoomGrid, fine: int) -> Array:
    out = np.concatenate([room._face_points(face, fine) for face in room.faces])
    out.setflags(write=False)
    return out


def _second(g: Array) -> Array:
    """2 g(d) - g(d-1) - g(d+1) along the first axis."""
    return np.asarray(2 * g[1:-1] - g[:-2] - g[2:])
