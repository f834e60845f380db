"""Where plants go and what they become: added, duplicated, set in a grid, changed many at once."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from canopy.design.crops.arranging import arrange, main_stage
from canopy.errors import PlanError, PlanProblem
from canopy.library import ContainerClass, Crop, containers
from canopy.plan import Plant, Size, Space
from canopy.plan.changes import Act, Change
from canopy.plan.layout import Place, Rect, grid, on_wall, round_column
from canopy.plan.plants import standing_room_m
from canopy.season import Growing, container_values, ground_of

# A copy stands this share of its pot beside the first, and not nearer than a hand [m].
_BESIDE_SHARE, _NEAREST_M = 0.5, 0.06
_USUAL_POT_M = 0.1
_PLACES_A_RING = 5


def spread_out(
    space: Space, crop: Crop, stage: str, count: int, shelf_id: str = "", container: ContainerClass | None = None
) -> list[dict[str, Any]]:
    """Spread new plants of one crop evenly over the floor or a shelf.

    Parameters
    ----------
    stage : the stage they are in; the crop's main one when "" or unknown
    count : how many, 1 or more
    shelf_id : the level; "" for the floor

    Returns
    -------
    list of dict : the plants' data, at the full size of their stage
    """
    ground, base = ground_of(space, shelf_id)
    flat = Size.model_construct(width_m=ground.width_m, depth_m=ground.depth_m, height_m=space.size.height_m - base)
    taken = tuple(p.id for p in space.plants)
    made = arrange(flat, crop, crop.stage(stage) or main_stage(crop), count, taken, container)
    made = _clear(made, flat, [p for p in space.plants if abs(p.base_m - base) < _LEVEL_M], ground)
    return [
        plant.model_dump(mode="json")
        | {"x_m": round(plant.x_m + ground.x_m, 4), "y_m": round(plant.y_m + ground.y_m, 4), "base_m": base}
        for plant in made
    ]


# What stands within this of a level stands on it, and places are tried on a raster of this [m].
_LEVEL_M, _RASTER_M = 0.05, 0.02
# Crowns may overlap by so much where plants are added, as a share of their spread.
_CROWN_SHARE = 0.8


def _clear(made: list[Plant], flat: Size, there: Sequence[Plant], ground: Rect) -> list[Plant]:
    """Move what is added off what stands there, row by row from the front; left spread out where there is no room."""
    blocks = [(p.x_m - ground.x_m, p.y_m - ground.y_m, *_room(p)) for p in there]
    if not blocks or not any(_meets((p.x_m, p.y_m, *_room(p)), block) for p in made for block in blocks):
        return made
    found: list[Plant] = []
    for plant in made:
        wide, deep = _room(plant)
        xs = np.arange(wide / 2, flat.width_m - wide / 2 + 1e-9, _RASTER_M)
        ys = np.arange(deep / 2, flat.depth_m - deep / 2 + 1e-9, _RASTER_M)
        spot = next(
            (
                (float(x), float(y))
                for y in ys
                for x in xs
                if not any(_meets((float(x), float(y), wide, deep), block) for block in blocks)
            ),
            None,
        )
        if spot is None:
            return made
        blocks.append((*spot, wide, deep))
        found.append(plant.model_copy(update={"x_m": round(spot[0], 4), "y_m": round(spot[1], 4)}))
    return found


def _room(plant: Plant) -> tuple[float, float]:
    """The ground a plant takes to itself: its pot or tray, and most of its crown."""
    wide, deep = standing_room_m(plant)
    if plant.pot_kind == "tray":
        return wide, deep
    crown = _CROWN_SHARE * (plant.spread_m or 0.0)
    return max(wide, crown), max(deep, crown)


def _meets(one: tuple[float, float, float, float], two: tuple[float, float, float, float]) -> bool:
    """Whether two pieces of ground (middle x, y, width, depth) overlap."""
    (x1, y1, w1, d1), (x2, y2, w2, d2) = one, two
    return abs(x1 - x2) < (w1 + w2) / 2 - 1e-6 and abs(y1 - y2) < (d1 + d2) / 2 - 1e-6


def copied(space: Space, plant_ids: Sequence[str]) -> list[dict[str, Any]]:
    """Set a copy beside each of some plants.

    Parameters
    ----------
    plant_ids : which plants of the space

    Returns
    -------
    list of dict : the copies' data, inside the walls
    """
    size, found = space.size, []
    for plant in space.plants:
        if plant.id in plant_ids:
            step = max(_NEAREST_M, (plant.pot_width_m or plant.spread_m or _USUAL_POT_M) * _BESIDE_SHARE)
            moved = {
                "x_m": round(min(size.width_m, plant.x_m + step), 4),
                "y_m": round(min(size.depth_m, plant.y_m + step / 2), 4),
            }
            found.append(plant.model_dump(mode="json") | moved)
    return found


def places_at(space: Space, spot: str, count: int, columns: int | None, spacing_m: float | None) -> list[Place]:
    """Give even places on a floor, shelf, wall or column.

    Parameters
    ----------
    spot : a shelf's id, "wall-back", "wall-left", "wall-right" (pockets on it), "climb-back" and so on (at its foot),
        "column-" or "trellis-" and its id, or "" for the floor
    count : how many places
    columns : how many side by side; as many as fit evenly when None
    spacing_m : distance between them; even when None [m]

    Returns
    -------
    list of Place : in rows from the front left

    Raises
    ------
    GeometryError : they do not fit at this distance
    """
    size = space.size
    kind, _, name = spot.partition("-")
    if kind == "wall" and name in ("back", "left", "right"):
        return on_wall(name, (size.width_m, size.depth_m, size.height_m), count, columns=columns)
    if kind in ("climb", "trellis"):
        return _along(space, spot, count)
    column = next((item for item in space.columns if f"column-{item.id}" == spot), None)
    if column is not None:
        return round_column(column, count, max(1, -(-count // (columns or _PLACES_A_RING))))
    ground, base = ground_of(space, spot)
    return [
        Place(x_m=place.x_m, y_m=place.y_m, base_m=base)
        for place in grid(ground, count, columns=columns, spacing_m=spacing_m)
    ]


def _along(space: Space, spot: str, count: int) -> list[Place]:
    """Even places along the foot of a wall or trellis, for climbers; they face away from it."""
    size, (kind, _, name) = space.size, spot.partition("-")
    trellis = next((item for item in space.trellises if item.id == name), None) if kind == "trellis" else None
    if trellis is not None:
        wide, length = trellis.along == "width", trellis.width_m
        start, line = (trellis.x_m if wide else trellis.y_m) - length / 2, trellis.y_m if wide else trellis.x_m
        # On the side of it that has more room.
        line += -_FOOT_M if line > (size.depth_m if wide else size.width_m) / 2 else _FOOT_M
    else:
        wide, start = name in ("back", "front"), 0.0
        length, across = (size.width_m, size.depth_m) if wide else (size.depth_m, size.width_m)
        line = across - _FOOT_M if name in ("back", "right") else _FOOT_M
    ahead = (270.0 if line > size.depth_m / 2 else 90.0) if wide else (180.0 if line > size.width_m / 2 else 0.0)
    spots = [round(start + length * (number + 0.5) / count, 4) for number in range(count)]
    return [
        Place(x_m=a, y_m=line, facing_deg=ahead) if wide else Place(x_m=line, y_m=a, facing_deg=ahead) for a in spots
    ]


# A climber's stem stands so far off what it climbs until the plan settles it there [m].
_FOOT_M = 0.02


def arranged(plants: Sequence[Plant], places: Sequence[Place], spot: str) -> list[Act]:
    """Set plants into places.

    Parameters
    ----------
    plants : as many as there are places
    places : where they go, in the same order
    spot : as ``places_at`` takes it; in pockets of walls and round columns plants grow outward, along walls
        and trellises they climb, elsewhere they stand

    Returns
    -------
    list of Change : one a plant
    """
    outward, climbing = spot.startswith(("wall-", "column-")), spot.startswith(("climb-", "trellis-"))
    found: list[Act] = []
    for plant, place in zip(plants, places, strict=True):
        values: dict[str, Any] = {"x_m": place.x_m, "y_m": place.y_m, "base_m": place.base_m}
        if outward:
            values |= {"habit": "outward", "facing_deg": place.facing_deg}
        elif climbing:
            values |= {"habit": "wall", "facing_deg": place.facing_deg}
        elif plant.habit in ("outward", "wall"):
            values |= {"habit": "stand"}
        found.append(Change(collection="plants", part_id=plant.id, values=values))
    return found


def changed(
    space: Space,
    plant: Plant,
    crop: Crop,
    now: Growing | None,
    got: Mapping[str, Any],
    day: dt.date,
    fresh_crop: Crop | None = None,
) -> dict[str, Any]:
    """Give what one plant takes of a change for many.

    Parameters
    ----------
    now : how it stands on the day; None when it is not there then
    got : what was typed, by the plant's keys; ``container`` and ``level`` (a shelf's id, or "floor") besides
    fresh_crop : the crop that ``got`` names, if it names one

    Returns
    -------
    dict : values for a ``Change``

    Raises
    ------
    PlanError : a dated plant cannot become another crop; the crop has no such stage
    """
    out: dict[str, Any] = {}
    if fresh_crop is not None:
        if plant.planting_id is not None:
            words = "a planting is of one crop: begin another, or leave these out"
            raise PlanError([PlanProblem(path="crop_id", message=words)])
        crop = fresh_crop
        stage = crop.stage(got.get("stage") or plant.stage or "") or main_stage(crop)
        out = {"crop_id": crop.id, "stage": stage.kind, "height_m": stage.height_m, "spread_m": stage.spread_m}
    elif "stage" in got and plant.planting_id is None:
        found = crop.stage(got["stage"])
        if found is None:
            words = f"{crop.name} has no stage “{got['stage']}”: use {', '.join(item.kind for item in crop.stages)}"
            raise PlanError([PlanProblem(path="stage", message=words)])
        out = {"stage": found.kind, "height_m": found.height_m, "spread_m": found.spread_m}
    size: dict[str, Any] = {name: got[name] for name in ("height_m", "spread_m") if name in got}
    if size and plant.planting_id is not None:
        if now is None:
            return out
        # A size typed for a dated plant is what was seen on the day.
        size = {"height_m": now.form.height_m, "spread_m": now.form.spread_m, **size, "seen_on": day.isoformat()}
    out |= size
    if got.get("container"):
        out |= container_values(containers()[got["container"]], crop)
    if got.get("level"):
        out["base_m"] = ground_of(space, "" if got["level"] == "floor" else got["level"])[1]
    kept = ("base_m", "pot_volume_l", "cells", "habit", "facing_deg")
    return out | {name: got[name] for name in kept if name in got}
