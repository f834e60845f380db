"""Places for plants: in an even grid, in line, round a column, on a wall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, cos, degrees, pi, radians, sin

from canopy.errors import GeometryError
from canopy.plan.furnishing import Column


@dataclass(frozen=True, kw_only=True)
class Rect:
    """A piece of ground: its low left corner and its extent [m]."""

    x_m: float = 0.0
    y_m: float = 0.0
    width_m: float
    depth_m: float


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place for a plant: x, y and height of its stand [m], and for outward plants the way it faces [°]."""

    x_m: float
    y_m: float
    base_m: float = 0.0
    facing_deg: float = 270.0


def grid(ground: Rect, count: int, *, columns: int | None = None, spacing_m: float | None = None) -> list[Place]:
    """Spread places evenly over a ground.

    Parameters
    ----------
    ground : where
    count : how many
    columns : how many side by side; as square as it comes when None
    spacing_m : distance from stem to stem; as far apart as the ground allows when None [m]

    Returns
    -------
    list of Place : row by row from the front; with a spacing they stand in the middle of the ground

    Raises
    ------
    GeometryError : so many do not fit at that spacing
    """
    if count < 1:
        return []
    across = min(columns or _columns(ground, count), count)
    rows = ceil(count / across)
    if spacing_m is not None:
        wide, deep = (across - 1) * spacing_m, (rows - 1) * spacing_m
        if wide > ground.width_m or deep > ground.depth_m:
            raise GeometryError(
                f"{across} × {rows} places {spacing_m * 100:.0f} cm apart need {wide * 100:.0f} × {deep * 100:.0f} cm; "
                f"there are {ground.width_m * 100:.0f} × {ground.depth_m * 100:.0f} cm"
            )
    made = []
    for number in range(count):
        row, column = divmod(number, across)
        in_row = min(across, count - row * across)
        if spacing_m is None:
            x = ground.width_m * (column + 0.5) / in_row
            y = ground.depth_m * (row + 0.5) / rows
        else:
            x = ground.width_m / 2 + (column - (in_row - 1) / 2) * spacing_m
            y = ground.depth_m / 2 + (row - (rows - 1) / 2) * spacing_m
        made.append(Place(x_m=round(ground.x_m + x, 4), y_m=round(ground.y_m + y, 4)))
    return made


# How much an empty place in the last row weighs against cells that are longer than wide.
_EMPTY = 1.5


def _columns(ground: Rect, count: int) -> int:
    """How many side by side: full rows of cells as square as they come (six on a wide floor: three by two)."""

    def cost(across: int) -> float:
        rows = ceil(count / across)
        wide, deep = ground.width_m / across, ground.depth_m / rows
        return max(wide / deep, deep / wide) * (1 + _EMPTY * (rows * across - count) / count)

    return min(range(1, count + 1), key=cost)


def most_side_by_side(ground: Rect, width_m: float, depth_m: float) -> int:
    """Say how many trays fit side by side, turned all one way or the other.

    Parameters
    ----------
    ground : where
    width_m : width of one [m]
    depth_m : depth of one [m]

    Returns
    -------
    int : 0 where none does
    """
    ways = ((width_m, depth_m), (depth_m, width_m))
    return max(int(ground.width_m / wide + 1e-6) * int(ground.depth_m / deep + 1e-6) for wide, deep in ways)


def side_by_side(ground: Rect, count: int, width_m: float, depth_m: float) -> tuple[list[Place], bool]:
    """Set trays side by side, evenly, turned by a quarter where only so they fit.

    Parameters
    ----------
    ground : where
    count : how many, 1 or more
    width_m : width of one [m]
    depth_m : depth of one [m]

    Returns
    -------
    (list of Place, bool) : their middles, and whether they are turned

    Raises
    ------
    GeometryError : so many do not fit; says how many do
    """
    for turned, (wide, deep) in enumerate(((width_m, depth_m), (depth_m, width_m))):
        across, behind = int(ground.width_m / wide + 1e-6), int(ground.depth_m / deep + 1e-6)
        if across * behind >= count:
            rows = ceil(count / across)
            return grid(ground, count, columns=ceil(count / rows)), bool(turned)
    most = most_side_by_side(ground, width_m, depth_m)
    sizes = f"{width_m * 100:.0f} × {depth_m * 100:.0f} cm"
    here = f"{ground.width_m * 100:.0f} × {ground.depth_m * 100:.0f} cm"
    fit = f"at most {most} fit" if most else "none fits"
    raise GeometryError(f"{count} trays of {sizes} do not fit side by side on {here}: {fit}; take another level too")


def round_column(column: Column, count: int, rings: int) -> list[Place]:
    """Set places round a column, facing outward, every second ring turned by half a step.

    Parameters
    ----------
    count : how many plants in all
    rings : on how many levels

    Returns
    -------
    list of Place : on the column's surface
    """
    each, made = ceil(count / max(1, rings)), []
    for number in range(count):
        ring, place = divmod(number, each)
        turn = 2 * pi * (place + (ring % 2) / 2) / each
        z = column.z_m + column.height_m * (ring + 0.5) / max(1, rings)
        made.append(
            Place(
                x_m=round(column.x_m + column.diameter_m / 2 * cos(turn), 4),
                y_m=round(column.y_m + column.diameter_m / 2 * sin(turn), 4),
                base_m=round(z, 4),
                facing_deg=round(degrees(turn), 1),
            )
        )
    return made


_WALLS = {"back": 270.0, "front": 90.0, "left": 0.0, "right": 180.0}


def on_wall(
    wall: str,
    size_m: tuple[float, float, float],
    count: int,
    *,
    columns: int | None = None,
    low_m: float = 0.0,
    high_m: float | None = None,
) -> list[Place]:
    """Spread places over an upright face, facing into the space.

    Parameters
    ----------
    wall : "back", "front", "left" or "right"
    size_m : width, depth, height of the space [m]
    count : how many
    columns : how many side by side; as square as it comes when None
    low_m : lower edge of the stretch used [m]
    high_m : its upper edge; the ceiling when None [m]

    Returns
    -------
    list of Place : row by row from below
    """
    width, depth, height = size_m
    across = width if wall in ("back", "front") else depth
    top = height if high_m is None else high_m
    flat = grid(Rect(width_m=across, depth_m=max(0.05, top - low_m)), count, columns=columns)
    facing, made = _WALLS[wall], []
    for place in flat:
        x, y = (place.x_m, depth if wall == "back" else 0.0)
        if wall in ("left", "right"):
            x, y = (0.0 if wall == "left" else width), place.x_m
        # A hair off the wall, so that the pot lies inside.
        x, y = x + 0.01 * cos(radians(facing)), y + 0.01 * sin(radians(facing))
        made.append(Place(x_m=round(x, 4), y_m=round(y, 4), base_m=round(low_m + place.y_m, 4), facing_deg=facing))
    return made


def aligned(values: Sequence[float], how: str) -> list[float]:
    """Bring coordinates into line.

    Parameters
    ----------
    values : one coordinate of each part [m]
    how : "low", "middle" or "high" to stand in one line; "spread" for even distances between the outermost

    Returns
    -------
    list of float : in the same order [m]
    """
    if how == "spread":
        order = sorted(range(len(values)), key=lambda k: values[k])
        low, high = min(values), max(values)
        step = (high - low) / max(1, len(values) - 1)
        out = [0.0] * len(values)
        for place, k in enumerate(order):
            out[k] = round(low + place * step, 4)
        return out
    line = {"low": min(values), "high": max(values), "middle": (min(values) + max(values)) / 2}[how]
    return [round(line, 4)] * len(values)
