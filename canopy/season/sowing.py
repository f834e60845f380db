"""Begin plantings, once or in succession, and move them on from one space to another."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from dataclasses import dataclass
from math import ceil
from typing import Any

from canopy.errors import GeometryError, PlanError, PlanProblem
from canopy.library import ContainerClass, Crop, containers
from canopy.library.loader import find
from canopy.plan.applying import next_id
from canopy.plan.document import Plan, Space
from canopy.plan.edit import fresh_id
from canopy.plan.files import from_data
from canopy.plan.layout import Place, Rect, grid, most_side_by_side, side_by_side
from canopy.plan.plants import Plant, Planting
from canopy.season.calendar import harvest, spans
from canopy.season.standing import Cast
from canopy.words import short_name

_MOST = 60


@dataclass(frozen=True, kw_only=True)
class Sowing:
    """What is begun: so many plants of a crop on a day, and again every ``every_days`` days, ``times`` in all."""

    crop: Crop
    name: str
    starts_on: dt.date
    count: int
    first_stage: str = ""
    times: int = 1
    every_days: int = 10
    container: ContainerClass | None = None


@dataclass(frozen=True, kw_only=True)
class Sown:
    """New plantings and their plants, as data to add to a plan."""

    plantings: tuple[dict[str, Any], ...]
    plants: tuple[dict[str, Any], ...]


def ground_of(space: Space, shelf_id: str = "") -> tuple[Rect, float]:
    """Give a level's ground and its height.

    Parameters
    ----------
    shelf_id : a shelf's id; "" for the floor

    Returns
    -------
    (Rect, float) : the ground, and how high it lies [m]
    """
    shelf = next((shelf for shelf in space.shelves if shelf.id == shelf_id), None)
    if shelf is None:
        return Rect(width_m=space.size.width_m, depth_m=space.size.depth_m), 0.0
    return Rect(x_m=shelf.x_m, y_m=shelf.y_m, width_m=shelf.width_m, depth_m=shelf.depth_m), shelf.z_m


def usual_container(crop: Crop) -> ContainerClass | None:
    """Give what a crop is grown in where nobody said it.

    Returns
    -------
    ContainerClass : a tray of the library for shoots; None for a pot of the crop's usual height
    """
    return containers()[_SHOOTS_IN] if crop.group == "microgreen" else None


_SHOOTS_IN = "half-tray"


def container_values(container: ContainerClass | None, crop: Crop) -> dict[str, Any]:
    """Give a plant's pot fields for a container.

    Parameters
    ----------
    container : from the library; None for what the crop is usually grown in

    Returns
    -------
    dict : fields of a plant
    """
    container = container or usual_container(crop)
    if container is None:
        return {"pot_height_m": crop.pot_height_m}
    return {
        "pot_kind": container.kind,
        "pot_height_m": container.height_m,
        "pot_volume_l": container.volume_l,
        "pot_width_m": container.width_m,
        "pot_depth_m": container.depth_m,
        "cells": container.cells,
    }


def stands_for(
    ground: Rect, crop: Crop, container: ContainerClass | None, count: int, times: int = 1
) -> list[list[tuple[Place, dict[str, Any]]]]:
    """Give places for plants of a crop, in pots evenly spread or in trays side by side.

    Parameters
    ----------
    ground : where
    crop : what they are
    container : from the library; None for what the crop is usually grown in
    count : how many plants; of a tray without cells (a mat of shoots) how many trays
    times : how many such lots stand there together

    Returns
    -------
    list of list of (Place, dict) : for each lot each place with its pot fields; a tray with cells carries as many
        plants as it has cells, the last one what is left

    Raises
    ------
    PlanError : so many trays do not fit
    """
    held = container or usual_container(crop)
    if container is None and held and not most_side_by_side(ground, held.width_m, held.depth_m or held.width_m):
        # Too narrow for a usual tray: sown by the spot.
        held = None
    values = {"pot_height_m": crop.pot_height_m} if held is None else container_values(held, crop)
    if held is None or held.kind != "tray" or held.depth_m is None:
        places = grid(ground, count * times)
        return [[(place, values) for place in places[lot * count : (lot + 1) * count]] for lot in range(times)]
    each = held.cells or 1
    trays = ceil(count / each)
    try:
        places, turned = side_by_side(ground, trays * times, held.width_m, held.depth_m)
    except GeometryError as error:
        raise PlanError([PlanProblem(path="count", message=str(error))]) from error
    if turned:
        values = values | {"pot_width_m": held.depth_m, "pot_depth_m": held.width_m}
    lots = []
    for lot in range(times):
        filled = [min(each, count - number * each) for number in range(trays)]
        here = places[lot * trays : (lot + 1) * trays]
        lots.append(
            [
                (place, values | ({"cells": cells} if held.cells else {}))
                for place, cells in zip(here, filled, strict=True)
            ]
        )
    return lots


def sow(plan: Plan, space: Space, sowing: Sowing, shelf_id: str = "") -> Sown:
    """Begin plantings in a space.

    Parameters
    ----------
    plan : the plan, for ids that are not taken
    space : where they stand
    sowing : what is begun
    shelf_id : the level; "" for the floor

    Returns
    -------
    Sown : one planting a time; a later one takes the place of an earlier one that is done by then

    Raises
    ------
    PlanError : nothing or too much is begun at once
    """
    if not 1 <= sowing.times <= _MOST or not 1 <= sowing.every_days <= 400:
        raise PlanError([PlanProblem(path="times", message=f"begin 1 to {_MOST} plantings, 1 to 400 days apart")])
    ground, base = ground_of(space, shelf_id)
    first = Planting(
        id="first", name=sowing.name, crop_id=sowing.crop.id, starts_on=sowing.starts_on, first_stage=sowing.first_stage
    )
    done = harvest(spans(first, sowing.crop), sowing.crop)
    takes = max(1, (done.latest - sowing.starts_on).days) if done and done.kind in ("once", "transplant") else 10_000
    at_once = min(sowing.times, ceil(takes / sowing.every_days))
    lots = stands_for(ground, sowing.crop, sowing.container, sowing.count, at_once)
    taken = [item.id for item in plan.plantings]
    used = [plant.id for plant in space.plants]
    plantings, plants = [], []
    for turn in range(sowing.times):
        key = fresh_id("planting", taken)
        taken.append(key)
        begins = sowing.starts_on + dt.timedelta(days=turn * sowing.every_days)
        followed = turn + at_once < sowing.times
        until = begins + dt.timedelta(days=at_once * sowing.every_days) if followed else None
        name = sowing.name if sowing.times == 1 else f"{sowing.name} {turn + 1}"
        plantings.append(
            Planting(
                id=key,
                name=name[:120],
                crop_id=sowing.crop.id,
                starts_on=begins,
                first_stage=sowing.first_stage,
                cleared_on=until,
            )
        )
        for place, values in lots[turn % at_once]:
            used.append(fresh_id("plant", used))
            plants.append(_plant(used[-1], key, sowing, place, base, values))
    return Sown(
        plantings=tuple(item.model_dump(mode="json") for item in plantings),
        plants=tuple(item.model_dump(mode="json") for item in plants),
    )


def _plant(key: str, planting_id: str, sowing: Sowing, place: Place, base: float, values: dict[str, Any]) -> Plant:
    habit = "outward" if sowing.container and sowing.container.kind == "pocket" else sowing.crop.habit
    return Plant(
        id=key,
        crop_id=sowing.crop.id,
        planting_id=planting_id,
        x_m=place.x_m,
        y_m=place.y_m,
        base_m=base + place.base_m,
        habit=habit,
        facing_deg=place.facing_deg,
        **values,
    )


def copy_planting(plan: Plan, space_id: str, planting_id: str, to_id: str, starts_on: dt.date, cast: Cast) -> Plan:
    """Begin a planting again with as many plants in the same containers, on another day and maybe in another space.

    Parameters
    ----------
    space_id : the space whose plants are copied
    planting_id : the planting
    to_id : the space the copies stand in; the same one too
    starts_on : their first day; what is done to train them keeps its distance to that day
    cast : crops, for names

    Returns
    -------
    Plan : with the planting and its plants: in the same places where those are free by then or in another space, else
        beside the first ones

    Raises
    ------
    PlanError : the planting, a space or its plants are gone, or they would not be sound there
    """
    old, source, target = plan.planting(planting_id), plan.space(space_id), plan.space(to_id)
    if old is None or source is None or target is None:
        raise PlanError([PlanProblem(path="to", message="this planting or space is no longer in the plan")])
    plants = [plant for plant in source.plants if plant.planting_id == planting_id]
    if not plants:
        raise PlanError([PlanProblem(path="to", message="none of its plants stands in this space")])
    later = starts_on - old.starts_on
    data = plan.model_dump(mode="json")
    key = next_id(data, "planting", [item.id for item in plan.plantings])
    trainings = [note.model_dump(mode="json") | {"on": (note.on + later).isoformat()} for note in old.trainings]
    names = {item.name for item in plan.plantings}
    name = next(f"{old.name} {n}" for n in range(2, 999) if f"{old.name} {n}" not in names)
    data["plantings"].append(
        old.model_dump(mode="json")
        | {
            "id": key,
            "name": name[:120],
            "starts_on": starts_on.isoformat(),
            "trainings": trainings,
            "cleared_on": (old.cleared_on + later).isoformat() if old.cleared_on else None,
        }
    )
    taken = to_id == space_id and (old.cleared_on is None or old.cleared_on > starts_on)
    there = next(space for space in data["spaces"] if space["id"] == to_id)
    used = [plant["id"] for plant in there["plants"]]
    size = target.size
    for plant in plants:
        step = max(_COPY_M, (plant.pot_width_m or _COPY_M) / 2) if taken else 0.0
        used.append(next_id(data, "plant", used))
        there["plants"].append(
            plant.model_dump(mode="json")
            | {
                "id": used[-1],
                "planting_id": key,
                "x_m": round(min(plant.x_m + step, size.width_m), 4),
                "y_m": round(min(plant.y_m + step / 2, size.depth_m), 4),
                "base_m": plant.base_m if to_id == space_id or plant.base_m < size.height_m / 2 else 0.0,
                "from_day": None,
                "until_day": None,
                "height_m": None,
                "spread_m": None,
                "seen_on": None,
            }
        )
    return from_data(data)


# A copy stands at least so far beside the first [m].
_COPY_M = 0.06


def move_on(
    plan: Plan,
    from_id: str,
    to_id: str,
    plant_ids: list[str],
    day: dt.date,
    *,
    container: ContainerClass | None = None,
    crop: Crop | None = None,
    shelf_id: str = "",
) -> Plan:
    """Move plants to another space on a day.

    Parameters
    ----------
    from_id : the space they stand in
    to_id : the space they go to
    plant_ids : which plants
    day : dated plants stand here until that day and there from it; plants without days are simply moved
    container : a new container, if they are potted on
    crop : their crop, needed for a new container
    shelf_id : the level there; "" for the floor

    Returns
    -------
    Plan : the changed plan

    Raises
    ------
    PlanError : a space or plant is gone, or the plants would not be sound there
    """
    source, target = plan.space(from_id), plan.space(to_id)
    if source is None or target is None or from_id == to_id:
        raise PlanError([PlanProblem(path="to", message="choose another space that is in the plan")])
    moved = [plant for plant in source.plants if plant.id in set(plant_ids)]
    if not moved:
        raise PlanError([PlanProblem(path="plants", message="these plants are no longer here")])
    ground, base = ground_of(target, shelf_id)
    data = plan.model_dump(mode="json")
    here, there = (next(s for s in data["spaces"] if s["id"] == key) for key in (from_id, to_id))
    used = [plant["id"] for plant in there["plants"]]
    for plant, place in zip(moved, grid(ground, len(moved)), strict=True):
        used.append(next_id(data, "plant", used))
        fresh = plant.model_dump(mode="json") | {
            "id": used[-1],
            "x_m": place.x_m,
            "y_m": place.y_m,
            "base_m": base,
            "from_day": None,
        }
        if container is not None and crop is not None:
            fresh |= container_values(container, crop)
        if plant.planting_id is not None:
            fresh["from_day"] = day.isoformat()
        there["plants"].append(fresh)
    gone = {plant.id for plant in moved if plant.planting_id is None}
    here["plants"] = [plant for plant in here["plants"] if plant["id"] not in gone]
    for plant in here["plants"]:
        if plant["id"] in {item.id for item in moved}:
            plant["until_day"] = day.isoformat()
    return from_data(data)


def begin_with(plan: Plan, space_id: str, plant_ids: list[str], planting: Planting) -> Plan:
    """Give plants that stand without days a planting of their own.

    Parameters
    ----------
    space_id : their space
    plant_ids : plants of the planting's crop
    planting : the new planting

    Returns
    -------
    Plan : with the planting; the plants' days decide stage and size from now on

    Raises
    ------
    PlanError : the plants are of another crop
    """
    data = plan.model_dump(mode="json")
    data["plantings"].append(planting.model_dump(mode="json"))
    for space in data["spaces"]:
        for plant in space["plants"] if space["id"] == space_id else ():
            if plant["id"] in set(plant_ids):
                plant |= {
                    "planting_id": planting.id,
                    "stage": None,
                    "height_m": None,
                    "spread_m": None,
                    "seen_on": None,
                }
    return from_data(data)


def undated_kinds(space: Space, plant_ids: Iterable[str]) -> list[tuple[str, str]]:
    """List the crops and stages among some plants that follow no days yet.

    Parameters
    ----------
    plant_ids : plants of the space

    Returns
    -------
    list of (str, str) : crop and stage, each once, in the order of the plants
    """
    wanted = set(plant_ids)
    here = [plant for plant in space.plants if plant.id in wanted and plant.planting_id is None]
    return list(dict.fromkeys((plant.crop_id, plant.stage or "") for plant in here))


def let_follow_days(plan: Plan, space_id: str, plant_ids: Iterable[str], day: dt.date, cast: Cast) -> Plan:
    """Give plants without days plantings that begin in their stage: one for each crop and stage.

    Parameters
    ----------
    space_id : their space
    plant_ids : its plants; those that follow days already are left as they are
    day : the first day
    cast : crops, for the plantings' names

    Returns
    -------
    Plan : with the plantings

    Raises
    ------
    PlanError : the space is gone
    """
    space = plan.space(space_id)
    if space is None:
        raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])
    wanted = set(plant_ids)
    for crop_id, stage in undated_kinds(space, wanted):
        data = {"serial": plan.serial}
        key = next_id(data, "planting", [item.id for item in plan.plantings])
        name = short_name(find(cast.crops, crop_id, "crop").name)
        planting = Planting(id=key, name=name, crop_id=crop_id, starts_on=day, first_stage=stage)
        members = [
            plant.id
            for plant in space.plants
            if plant.id in wanted and plant.planting_id is None and (plant.crop_id, plant.stage) == (crop_id, stage)
        ]
        numbered = plan.model_copy(update={"serial": data["serial"]})
        plan = begin_with(numbered, space_id, members, planting)
    return plan
