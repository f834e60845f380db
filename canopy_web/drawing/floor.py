"""A household's spaces from the front, to one scale, side by side on one floor line."""

from __future__ import annotations

from dataclasses import dataclass

from canopy.evaluate import SpaceReport
from canopy.plan.pose import corners
from canopy.quantities import LENGTH, show

_HEIGHT, _GAP, _LEAST, _WIDEST = 236.0, 46.0, 120.0, 1170.0


@dataclass(frozen=True, kw_only=True)
class Figure:
    """One space as a small drawing."""

    id: str
    name: str
    verdict: str
    x: float
    y: float
    w: float
    h: float
    middle: float
    size: str
    plants: tuple[tuple[float, float, float, float, float, float], ...]
    pots: tuple[tuple[float, float, float, float], ...]
    lamps: tuple[tuple[float, float, float, float], ...]
    shelves: tuple[tuple[float, float, float, float], ...] = ()


@dataclass(frozen=True, kw_only=True)
class FloorLine:
    """All spaces on one floor line."""

    width: float
    height: float
    floor_y: float
    figures: tuple[Figure, ...]


def floor_line(reports: list[SpaceReport], system: str) -> FloorLine:
    """Draw a household."""
    tallest = max((r.space.size.height_m for r in reports), default=1.0)
    widest = sum(r.space.size.width_m for r in reports) or 1.0
    scale = min(_HEIGHT / tallest, (_WIDEST - (len(reports) + 1) * _GAP) / widest, 340.0)
    slots = [max(r.space.size.width_m * scale, _LEAST) for r in reports]
    gap = max(_GAP, (_WIDEST - sum(slots)) / (len(reports) + 1))
    floor_y, x, figures = tallest * scale + 16, gap, []
    for report, slot in zip(reports, slots, strict=True):
        figures.append(_figure(report, system, scale, x + (slot - report.space.size.width_m * scale) / 2, floor_y))
        x += slot + gap
    return FloorLine(
        width=round(x, 1), height=round(floor_y + 44, 1), floor_y=round(floor_y, 1), figures=tuple(figures)
    )


def _figure(report: SpaceReport, system: str, scale: float, left: float, floor_y: float) -> Figure:
    space = report.space
    w, h = space.size.width_m * scale, space.size.height_m * scale

    def up(z: float) -> float:
        return round(floor_y - z * scale, 1)

    plants, pots = [], []
    for plant in report.here.plants:
        cx, rim = left + plant.x_m * scale, plant.rim_m
        rx, ry = plant.half_m[0] * scale, max(1.5, (plant.top_m - plant.bottom_m) / 2 * scale)
        middle = up((plant.top_m + plant.bottom_m) / 2)
        # A box whose corners are as round as it is wide is an ellipse; a tray's leaves stand to its edges.
        round_x, round_y = (min(3.0, rx), min(3.0, ry)) if plant.tray_m else (rx, ry)
        x, y, wide, high, round_x, round_y = (
            round(value, 1) for value in (cx - rx, middle - ry, 2 * rx, 2 * ry, round_x, round_y)
        )
        plants.append((x, y, wide, high, round_x, round_y))
        stem, pot = left + plant.plant.x_m * scale, plant.plant.pot_height_m
        half = max(1.5, min(plant.half_m[0], (plant.plant.pot_width_m or pot) * 0.5) * scale)
        pots.append((round(stem - half, 1), up(rim), round(2 * half, 1), round(pot * scale, 1)))
    shelves = [
        (round(left + shelf.x_m * scale, 1), up(shelf.z_m), round(shelf.width_m * scale, 1), 2.0)
        for shelf in space.shelves
    ]
    lamps = []
    for lamp in space.fixtures:
        box = corners(lamp)
        (low_x, _, low_z), (high_x, _, high_z) = box.min(axis=0), box.max(axis=0)
        wide, tall = ((float(span) * scale) for span in (high_x - low_x, high_z - low_z))
        lamps.append(
            (
                round(left + float(low_x) * scale, 1),
                up(float(high_z)),
                round(max(2.5, wide), 1),
                round(max(2.5, tall), 1),
            )
        )
    size = " × ".join(show(v, LENGTH, system) for v in (space.size.width_m, space.size.depth_m, space.size.height_m))
    return Figure(
        id=space.id,
        name=space.name,
        verdict=report.verdict,
        x=round(left, 1),
        y=round(floor_y - h, 1),
        w=round(w, 1),
        h=round(h, 1),
        middle=round(left + w / 2, 1),
        size=size,
        plants=tuple(plants),
        pots=tuple(pots),
        lamps=tuple(lamps),
        shelves=tuple(shelves),
    )
