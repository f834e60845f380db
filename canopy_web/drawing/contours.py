"""Contour bands and lines of a light map, through contourpy."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from math import floor, log10
from typing import cast

import numpy as np
from contourpy import FillType, LineType, contour_generator

from canopy.evaluate.light.lighting import LightMap
from canopy.quantities import LightUnit, significant
from canopy_web.drawing.scene import Band, Isoline

_LABEL_GAP = 26.0
STEPS = 8
# Steps of colour below, inside and above what the plants want; twice the upper end is as dark as it gets.
_BELOW, _INSIDE = 3, 3
# Lines fainter than this say nothing [µmol/m²/s].
_FAINT = 1.0


def step_of(ppfd: float, wanted: tuple[float, float]) -> int:
    """Give the step of colour of a PPFD, 1 to 8: 1 to 3 below what the plants want, 4 to 6 inside, 7 and 8 above."""
    low, high = wanted
    if ppfd < low:
        return 1 + int(_BELOW * max(ppfd, 0.0) / low)
    if ppfd <= high:
        return _BELOW + 1 + min(_INSIDE - 1, int(_INSIDE * (ppfd - low) / max(high - low, 1e-9)))
    return STEPS - 1 if ppfd <= 1.5 * high else STEPS


def figure(ppfd: float, unit: LightUnit) -> str:
    """Write a PPFD [µmol/m²/s] as a map shows it, in a reader's unit."""
    return "0" if ppfd <= 0 else unit.number(ppfd, 0)


def levels(least: float, most: float, edges: tuple[float, ...] = ()) -> list[float]:
    """Give round contour levels over a range, five to nine of them, and the edges that fall inside it."""
    if most <= 0 or most - least < 1e-9:
        return []
    rough = (most - min(least, most * 0.95)) / 8
    power = 10 ** floor(log10(rough))
    step = next(step * power for step in (1, 2, 2.5, 5, 10) if step * power >= rough)
    first = np.ceil(least / step) * step
    inside = [edge for edge in edges if least < edge < most]
    even = [round(float(level), 6) for level in np.arange(first, most, step) if level >= _FAINT]
    return sorted({*inside, *(level for level in even if all(abs(level - edge) > 0.4 * step for edge in inside))})


def _path(points: np.ndarray, place: Callable[[float, float], tuple[float, float]]) -> str:
    moved = [place(float(x), float(y)) for x, y in points]
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in moved)


def draw(
    light: LightMap,
    place: Callable[[float, float], tuple[float, float]],
    wanted: tuple[float, float],
    avoid: Sequence[tuple[float, float]] = (),
) -> tuple[tuple[Band, ...], tuple[Isoline, ...]]:
    """Draw a map: bands coloured by what the plants want [µmol/m²/s], and numbered lines; figures keep off each other
    and off the points to ``avoid`` [px].
    """
    grid = light.ppfd_umol_m2_s
    least, most = float(grid.min()), float(grid.max())
    lines_at = levels(least, most, wanted)
    if not lines_at and most < _FAINT:
        return (), ()
    x, y = _reach(light.x_m), _reach(light.y_m)
    grid, fine_x, fine_y = _smooth(_smooth(grid, 3).T, 3).T, _between(x, 3), _between(y, 3)
    maker = contour_generator(fine_x, fine_y, grid, fill_type=FillType.OuterOffset, line_type=LineType.Separate)
    corners = [place(float(a), float(b)) for a, b in ((x[0], y[0]), (x[-1], y[0]), (x[-1], y[-1]), (x[0], y[-1]))]
    whole = "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in corners) + "Z"
    bands, lines = [Band(path=whole, step=step_of(least, wanted))], []
    taken: list[tuple[float, float]] = list(avoid)
    for level in lines_at:
        step = step_of(level, wanted)
        polygons, offsets = cast("tuple[list[np.ndarray], list[np.ndarray]]", maker.filled(level, np.inf))
        path = "".join(
            _path(points[start:end], place) + "Z"
            for points, cut in zip(polygons, offsets, strict=True)
            for start, end in pairwise(cut)
        )
        bands.append(Band(path=path, step=step))
        for line in sorted(cast("list[np.ndarray]", maker.lines(level)), key=len, reverse=True):
            # Half way along, or where else there is room.
            spots = [place(float(line[k][0]), float(line[k][1])) for k in _along(len(line))]
            clear = [s for s in spots if all(abs(s[0] - x) + abs(s[1] - y) > _LABEL_GAP for x, y in taken)]
            free = len(line) > 5 and bool(clear)
            tx, ty = clear[0] if clear else spots[0]
            if free:
                taken.append((tx, ty))
            lines.append(
                Isoline(
                    path=_path(line, place), text=significant(level), tx=round(tx, 1), ty=round(ty, 1), labelled=free
                )
            )
    return tuple(bands), tuple(lines)


def _along(count: int) -> list[int]:
    """Places along a line where its figure may stand, the middle first."""
    return [min(count - 1, int(count * share)) for share in (0.5, 0.35, 0.65, 0.2, 0.8, 0.1, 0.9)]


def _between(axis: np.ndarray, times: int) -> np.ndarray:
    """Put evenly spread places between the samples of an axis."""
    steps = np.arange((len(axis) - 1) * times + 1) / times
    return np.asarray(np.interp(steps, np.arange(len(axis)), axis))


def _smooth(grid: np.ndarray, times: int) -> np.ndarray:
    """Interpolate along the last axis by Catmull-Rom splines, for round contours; samples keep their values."""
    steps = np.arange((grid.shape[1] - 1) * times + 1) / times
    k = np.minimum(steps.astype(int), grid.shape[1] - 2)
    t = steps - k
    ends = np.concatenate([2 * grid[:, :1] - grid[:, 1:2], grid, 2 * grid[:, -1:] - grid[:, -2:-1]], axis=1)
    a, b, c, d = (ends[:, k + shift] for shift in range(4))
    return np.asarray(b + t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a))) / 2)


def _reach(axis: np.ndarray) -> np.ndarray:
    """Let the outermost samples stand for the strip to the wall."""
    out = axis.copy()
    out[0], out[-1] = 0.0, axis[-1] + axis[0]
    return out
