"""A household's spaces from the front, to one scale, side by side on one floor line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from canopy.plan.pose import corners
from canopy.quantities import LENGTH, show
from canopy.season import Standing

_HEIGHT, _GAP, _LEAST, _WIDEST = 236.0, 46.0, 120.0, 1170.0


@dataclass(frozen=True, kw_only=True)
class Figure:
    """One space as a small drawing."""

    id: str
    name: str
    x: float
    y: float
    w: float
    h: float
    middle: float
    size: str
    crowns: str
    pots: str
    lamps: tuple[tuple[float, float, float, float], ...]
    shelves: tuple[tuple[float, float, float, float], ...] = ()


@dataclass(frozen=True, kw_only=True)
class FloorLine:
    """All spaces on one floor line."""

    width: float
    height: float
    floor_y: float
    figures: tuple[Figure, ...]


def floor_line(spaces: Sequence[Standing], system: str) -> FloorLine:
    """Draw a household."""
    tallest = max((r.space.size.height_m for r in spaces), default=1.0)
    widest = sum(r.space.size.width_m for r in spaces) or 1.0
    scale = min(_HEIGHT / tallest, (_WIDEST - (len(spaces) + 1) * _GAP) / widest, 340.0)
    slots = [max(r.space.size.width_m * scale, _LEAST) for r in spaces]
    gap = max(_GAP, (_WIDEST - sum(slots)) / (len(spaces) + 1))
    floor_y, x, figures = tallest * scale + 16, gap, []
    for here, slot in zip(spaces, slots, strict=True):
        figures.append(_figure(here, system, scale, x + (slot - here.space.size.width_m * scale) / 2, floor_y))
        x += slot + gap
    return FloorLine(
        width=round(x, 1), height=round(floor_y + 44, 1), floor_y=round(floor_y, 1), figures=tuple(figures)
    )


def _rounded(x: float, y: float, wide: float, high: float, round_x: float, round_y: float) -> str:
    """A box with rounded corners as a path; an ellipse where they are as large as they can be."""
    corner = f"a{round_x:.1f} {round_y:.1f} 0 0 1 "
    across, down = wide - 2 * round_x, high - 2 * round_y
    return (
        f"M{x + round_x:.1f} {y:.1f}h{across:.1f}{corner}{round_x:.1f} {round_y:.1f}v{down:.1f}"
        f"{corner}{-round_x:.1f} {round_y:.1f}h{-across:.1f}{corner}{-round_x:.1f} {-round_y:.1f}v{-down:.1f}"
        f"{corner}{round_x:.1f} {-round_y:.1f}z"
    )


def _figure(here: Standing, system: str, scale: float, left: float, floor_y: float) -> Figure:
    space = here.space
    w, h = space.size.width_m * scale, space.size.height_m * scale

    def up(z: float) -> float:
        return round(floor_y - z * scale, 1)

    plants, pots = [], []
    for plant in here.plants:
        cx, rim = left + plant.x_m * scale, plant.rim_m
        rx, ry = plant.half_m[0] * scale, max(1.5, (plant.top_m - plant.bottom_m) / 2 * scale)
        middle = up((plant.top_m + plant.bottom_m) / 2)
        # A box whose corners are as round as it is wide is an ellipse; a tray's leaves stand to its edges.
        round_x, round_y = (min(3.0, rx), min(3.0, ry)) if plant.tray_m else (rx, ry)
        plants.append(_rounded(cx - rx, middle - ry, 2 * rx, 2 * ry, round_x, round_y))
        stem, pot = left + plant.plant.x_m * scale, plant.plant.pot_height_m
        half = max(1.5, min(plant.half_m[0], (plant.plant.pot_width_m or pot) * 0.5) * scale)
        pots.append(f"M{stem - half:.1f} {up(rim):.1f}h{2 * half:.1f}v{pot * scale:.1f}h{-2 * half:.1f}z")
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
        x=round(left, 1),
        y=round(floor_y - h, 1),
        w=round(w, 1),
        h=round(h, 1),
        middle=round(left + w / 2, 1),
        size=size,
        crowns="".join(plants),
        pots="".join(pots),
        lamps=tuple(lamps),
        shelves=tuple(shelves),
    )
