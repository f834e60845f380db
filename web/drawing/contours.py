"""Contour bands and lines of a light map, through contourpy."""

from __future__ import annotations

from collections.abc import Callable
from math import floor, log10

import numpy as np
from contourpy import FillType, LineType, contour_generator

from canopy.evaluate.lighting import LightMap
from canopy.quantities import significant
from web.drawing.scene import Band, Isoline

_LABEL_GAP = 26.0
STEPS = 8


def levels(least: float, most: float) -> list[float]:
    """Give round contour levels over a range, five to nine of them."""
    if most <= 0 or most - least < 1e-9:
        return []
    rough = (most - min(least, most * 0.95)) / 6
    power = 10 ** floor(log10(rough))
    step = next(step * power for step in (1, 2, 2.5, 5, 10) if step * power >= rough)
    first = np.ceil(least / step) * step
    return [round(float(level), 6) for level in np.arange(first, most, step) if level > 0]


def _path(points: np.ndarray, place: Callable[[float, float], tuple[float, float]]) -> str:
    moved = [place(float(x), float(y)) for x, y in points]
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in moved)


def draw(
    light: LightMap, place: Callable[[float, float], tuple[float, float]]
) -> tuple[tuple[Band, ...], tuple[Isoline, ...]]:
    """Draw a map: filled bands from dim to bright, and numbered lines."""
    grid = light.ppfd_umol_m2_s
    wanted = levels(float(grid.min()), float(grid.max()))
    if not wanted:
        return (), ()
    maker = contour_generator(
        _reach(light.x_m), _reach(light.y_m), grid, fill_type=FillType.OuterOffset, line_type=LineType.Separate
    )
    bands, lines, taken = [], [], []
    for number, level in enumerate(wanted):
        step = min(STEPS, 1 + round(number * STEPS / max(1, len(wanted))))
        polygons, offsets = maker.filled(level, np.inf)
        path = "".join(
            _path(points[start:end], place) + "Z"
            for points, cut in zip(polygons, offsets, strict=True)
            for start, end in zip(cut[:-1], cut[1:], strict=True)
        )
        bands.append(Band(path=path, step=step))
        for line in sorted(maker.lines(level), key=len, reverse=True):
            middle = line[len(line) // 2]
            tx, ty = place(float(middle[0]), float(middle[1]))
            free = len(line) > 5 and all(abs(tx - x) + abs(ty - y) > _LABEL_GAP for x, y in taken)
            if free:
                taken.append((tx, ty))
            lines.append(
                Isoline(path=_path(line, place), text=significant(level), tx=round(tx, 1), ty=round(ty, 1), labelled=free)
            )
    return tuple(bands), tuple(lines)


def _reach(axis: np.ndarray) -> np.ndarray:
    """Let the outermost samples stand for the strip to the wall."""
    out = axis.copy()
    out[0], out[-1] = 0.0, axis[-1] + axis[0]
    return out
