"""How wide single plants are in a picture laid flat, and how many layers of leaves that speaks for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log, pi, sqrt

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
# Leaves belong to a plant up to so many times its planned half spread from its stem, and at least so far [m].
_REACH, _LEAST_REACH_M = 1.8, 0.06
# Less leaf than this is none [m²]; a plant of whose rim more than this share lies at a neighbour's or the floor's edge
# is at least as wide as what is seen; leaves that let less ground through than this hide how deep they stand.
_LEAST_M2, _TOUCHING, _DENSE = 2e-5, 0.12, 0.05


@dataclass(frozen=True, kw_only=True)
class Stem:
    """Where a plant stands [m], how wide it is planned to be [m], and the extinction of light that falls straight down
    through its leaves.
    """

    id: str
    x_m: float
    y_m: float
    spread_m: float
    extinction: float = 0.6


@dataclass(frozen=True, kw_only=True)
class Seen:
    """A plant in a picture: how wide [m], the leaf seen of it [m²], whether it runs into others or out of the picture
    (then it is at least so wide), and its leaf area index over the ground of its crown with its standard error; None
    where leaves hide each other.
    """

    id: str
    spread_m: float
    leaf_m2: float
    touching: bool
    lai: float | None
    lai_error: float | None


def plants_seen(mask: Mask, size_m: tuple[float, float], stems: Sequence[Stem]) -> tuple[Seen, ...]:
    """Measure each plant.

    Parameters
    ----------
    mask : what is leaf, shape (rows, columns), the first row at the back
    size_m : width and depth of the floor [m]
    stems : plants where they should stand

    Returns
    -------
    tuple of Seen : those of which leaves were found. The spread is the diameter of a disc as large as the convex hull
        of its leaves; a patch of leaves shared by several is parted by whose stem is nearer for its planned spread

    Notes
    -----
    Of a crown with leaf area index L a share exp(-k L) of the ground is seen from above, so that L = -ln(1 - cover)/k.

    References
    ----------
    Monsi & Saeki 1953 (translated 2005), "On the factor light in plant communities", equation 1.
    """
    if not stems:
        return ()
    step = size_m[0] / mask.shape[1]
    owner = _owners(mask, step, size_m[1], stems)
    found = []
    for k, stem in enumerate(stems):
        mine = owner == k
        leaf = float(mine.sum()) * step**2
        if leaf < _LEAST_M2:
            continue
        hull = _hull_m2(mine, step)
        ground = max(leaf, hull)
        cover = leaf / ground
        layers = -log(1 - cover) / stem.extinction if cover < 1 - _DENSE else None
        found.append(
            Seen(
                id=stem.id,
                spread_m=2 * sqrt(ground / pi),
                leaf_m2=leaf,
                touching=_touching(mine, owner, k),
                lai=layers,
                # How leaves hang and clump is not seen: about a fifth; and two points of cover.
                lai_error=None
                if layers is None
                else sqrt((0.2 * layers) ** 2 + (0.02 / (1 - cover) / stem.extinction) ** 2),
            )
        )
    return tuple(found)


def _owners(mask: Mask, step: float, depth: float, stems: Sequence[Stem]) -> NDArray[np.int_]:
    """Whose each pixel of leaf is; -1 for none."""
    from skimage.measure import label

    patches, many = label(mask, return_num=True)
    rows, columns = np.nonzero(mask)
    x, y = (columns + 0.5) * step, depth - (rows + 0.5) * step
    reach = np.array([max(_LEAST_REACH_M, _REACH * stem.spread_m / 2) for stem in stems])
    away = np.stack([np.hypot(x - stem.x_m, y - stem.y_m) for stem in stems]) / reach[:, None]
    nearest = np.argmin(away, axis=0)
    whose = np.where(away.min(axis=0) <= 1, nearest, -1)
    # A patch of which nearly all is one plant's is all of it its own.
    patch = patches[rows, columns] - 1
    votes = np.zeros((many, len(stems) + 1))
    np.add.at(votes, (patch, whose), 1)
    most = votes[:, :-1].argmax(axis=1)
    sure = votes[:, :-1].max(axis=1) > 0.85 * votes.sum(axis=1)
    whose = np.where(sure[patch], most[patch], whose)
    owner = np.full(mask.shape, -1)
    owner[rows, columns] = whose
    return owner


def _hull_m2(mine: Mask, step: float) -> float:
    from scipy.spatial import ConvexHull, QhullError

    rows, columns = np.nonzero(mine)
    try:
        # The corners of each pixel, not its middle.
        corners = np.concatenate([np.column_stack([columns + dx, rows + dy]) for dx in (0, 1) for dy in (0, 1)])
        return float(ConvexHull(corners).volume) * step**2
    except QhullError:
        return 0.0


def _touching(mine: Mask, owner: NDArray[np.int_], k: int) -> bool:
    """Whether it runs into a neighbour or out of the floor over a good part of its rim."""
    padded = np.pad(owner, 1, constant_values=-2)
    inner = np.pad(mine, 1)
    rim = beside = 0
    for way in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        next_to = np.roll(padded, way, axis=(0, 1))[inner]
        rim += int((next_to != k).sum())
        beside += int(((next_to >= 0) & (next_to != k)).sum() + (next_to == -2).sum())
    return bool(rim and beside / rim > _TOUCHING)
