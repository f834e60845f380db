"""Lamps hung side by side, or linked end to end."""

from __future__ import annotations

from math import ceil, log

from canopy.design.light.moving import nearest_free
from canopy.equipment import FixtureSpec
from canopy.evaluate.light.lamp_care import free_m
from canopy.plan.document import Fixture, Space
from canopy.plan.shell import Size
from canopy.schedule import Daily
from canopy.season import Standing

_WALL_M = 0.02
# So many times its least distance a lamp keeps off the plants even where there is little room.
_CLOSEST = 1.02


def hang(
    size: Size, spec: FixtureSpec, count: int, top_m: float, hours: float, *, lift: float = 0.32, spread: bool = False
) -> list[Fixture]:
    """Hang so many lamps side by side over the plants.

    Parameters
    ----------
    size : the space
    spec : the lamp
    count : how many
    top_m : height of the tallest plant's top [m]
    hours : hours a day [h]
    lift : distance over the tops as a share of the longer side, if that is more than the lamp's least distance
    spread : as far apart along the width as along the depth, instead of in as few columns as have room

    Returns
    -------
    list of Fixture : empty when they do not fit
    """
    w, d, h = size.width_m - _WALL_M, size.depth_m - _WALL_M, size.height_m
    across = spec.overall_width_m if spec.shape == "rectangle" else spec.length_m
    turned = spec.length_m > w or (d > w and spec.length_m <= d and across <= w)
    along, over = (across, spec.length_m) if turned else (spec.length_m, across)
    able = [c for c in range(1, count + 1) if ceil(count / c) * over <= d and c * along <= w]
    if spread:
        able.sort(key=lambda c: abs(log((size.width_m / c) / (size.depth_m / ceil(count / c)))))
    columns = next(iter(able), 0)
    if not columns or spec.thickness_m + spec.hanger_m >= h:
        return []
    rows = ceil(count / columns)
    ceiling = h - spec.thickness_m - min(spec.hanger_m, 0.2 * h)
    # What gets hot keeps off the ceiling, as far as the plants leave it room.
    hot = max(h - spec.thickness_m - free_m(spec.technology), top_m + _CLOSEST * spec.min_distance_m)
    ceiling = min(ceiling, hot)
    wanted = top_m + max(1.3 * spec.min_distance_m, lift * max(size.width_m, size.depth_m))
    z = round(max(min(wanted, ceiling), 0.05), 3)
    made = []
    for number in range(count):
        row, column = divmod(number, columns)
        in_row = min(columns, count - row * columns)
        made.append(
            Fixture(
                id=f"lamp-{number + 1}",
                spec=spec,
                x_m=round(size.width_m * (column + 0.5) / in_row, 4),
                y_m=round(size.depth_m * (row + 0.5) / rows, 4),
                z_m=z,
                yaw_deg=90.0 if turned else 0.0,
                schedule=Daily(start="06:00", hours=hours),
            )
        )
    return made


_USUAL_HOURS = 14.0
# Without plants, how much of the height is kept free for them.
_FREE_SHARE = 0.2


def hours_here(space: Space) -> float:
    """Give the hours that a new lamp takes over from those that hang already.

    Returns
    -------
    float : the first lamp's hours; the usual ones without a lamp [h]
    """
    return next((lamp.hours for lamp in space.fixtures), _USUAL_HOURS)


def hours_wanted(here: Standing) -> float:
    """Give the hours that a new lamp should run: those of the lamps that hang already, else what the crops want.

    Parameters
    ----------
    here : the space on a day

    Returns
    -------
    float : the middle of what suits all crops; where nothing does, what the most of them bear; the usual hours without
        plants [h]
    """
    if here.space.fixtures or not here.plants:
        return hours_here(here.space)
    low = max(plant.want.photoperiod_h.low for plant in here.plants)
    high = min(plant.want.photoperiod_h.high for plant in here.plants)
    return round((low + high) / 2 if low <= high else high, 1)


def hang_over(here: Standing, spec: FixtureSpec, count: int) -> list[Fixture]:
    """Hang lamps side by side over the plants that stand in a space.

    Parameters
    ----------
    here : the space on a day
    spec : the lamp
    count : how many, 1 or more

    Returns
    -------
    list of Fixture : with the hours of the lamps that hang already, clear of them and of shelves and columns as far as
        there is room; empty where they do not fit
    """
    space = here.space
    top = max((plant.top_m for plant in here.plants), default=_FREE_SHARE * space.size.height_m)
    made = hang(space.size, spec, count, top, hours_wanted(here))
    clear: list[Fixture] = []
    for lamp in made:
        clear.append(nearest_free(here, lamp, (*space.fixtures, *clear)) or lamp)
    return clear


def line_up(
    space: Space, spec: FixtureSpec, *, along: str, gap_m: float, z_m: float, count: int = 0, length_m: float = 0.0
) -> list[Fixture]:
    """Link bars end to end along the width or the depth, as many as fit, in the middle of the space.

    Parameters
    ----------
    spec : the bar
    along : "width" or "depth"
    gap_m : gap between two bars, for the link [m]
    z_m : height of their faces [m]
    count : how many; as many as fit when 0
    length_m : the length they must fit in, in the middle of the space; all of it when 0 [m]

    Returns
    -------
    list of Fixture : one chain; empty when not even one fits
    """
    size = space.size
    reach, across = (size.width_m, size.depth_m) if along == "width" else (size.depth_m, size.width_m)
    wide = spec.overall_width_m if spec.shape == "rectangle" else spec.length_m
    most = int((reach - _WALL_M + gap_m + 1e-9) / (spec.length_m + gap_m))
    if length_m:
        most = min(most, int((length_m + gap_m + 1e-9) / (spec.length_m + gap_m)))
    many = min(count or most, most)
    if many < 1 or wide > across or z_m + spec.thickness_m > size.height_m:
        return []
    step = spec.length_m + gap_m
    used = {lamp.chain for lamp in space.fixtures}
    name = next(f"chain {number}" for number in range(1, 100) if f"chain {number}" not in used)
    hours = hours_here(space)
    made = []
    for number in range(many):
        at = round(reach / 2 + (number - (many - 1) / 2) * step, 4)
        x, y = (at, size.depth_m / 2) if along == "width" else (size.width_m / 2, at)
        made.append(
            Fixture(
                id=f"lamp-{number + 1}",
                spec=spec,
                x_m=x,
                y_m=y,
                z_m=z_m,
                yaw_deg=0.0 if along == "width" else 90.0,
                schedule=Daily(start="06:00", hours=hours),
                chain=name if many > 1 else "",
            )
        )
    return made
