"""Change a plan: every function gives a new, checked plan and leaves the old one as it was."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping
from typing import Any

from canopy.errors import PlanError, PlanProblem
from canopy.library import Crop
from canopy.plan.airways import Airway
from canopy.plan.applying import Editor, merged, next_id, number_of
from canopy.plan.changes import PREFIXES, Act, Add, Collection, Remove
from canopy.plan.document import Fixture, Plan, Space
from canopy.plan.files import from_data
from canopy.schedule import Daily


def lamp_hours(lamp: Fixture, hours: float) -> dict[str, Any]:
    """Write a lamp's hours as a change: its start and ramps stay as they are.

    Parameters
    ----------
    hours : hours a day, 0 to 24 [h]

    Returns
    -------
    dict : values for a ``Change``
    """
    if isinstance(lamp.schedule, Daily):
        return {"schedule.hours": hours}
    return {"schedule": Daily(start="06:00", hours=hours).model_dump(mode="json")}


def fresh_id(prefix: str, taken: Iterable[str]) -> str:
    """Make an id that is not taken.

    Parameters
    ----------
    prefix : such as "lamp"
    taken : the ids in use

    Returns
    -------
    str : such as "lamp-3"
    """
    used = set(taken)
    number = 1
    while f"{prefix}-{number}" in used:
        number += 1
    return f"{prefix}-{number}"


def _with_space(plan: Plan, space_id: str, make: Any) -> Plan:
    data = plan.model_dump(mode="json")
    for number, space in enumerate(data["spaces"]):
        if space["id"] == space_id:
            data["spaces"][number] = make(space)
            return from_data(data)
    raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])


def apply(plan: Plan, space_id: str | None, changes: Iterable[Act]) -> Plan:
    """Apply changes to a space or to the household, all or none.

    Parameters
    ----------
    space_id : the space; None for the household alone
    changes : what to change, in order

    Returns
    -------
    Plan : the changed plan

    Raises
    ------
    PlanError : the result would break a rule, or a part is no longer there
    PlanConflictError : a figure is not what the person saw when they typed another
    """
    editor = Editor(plan.model_dump(mode="json"), space_id)
    for change in changes:
        editor.apply(change)
    return from_data(editor.data)


def add_parts(plan: Plan, space_id: str, collection: Collection, parts: list[dict[str, Any]], prefix: str = "") -> Plan:
    """Add parts to a space.

    Parameters
    ----------
    collection : which kind of part of a space
    parts : their data; each gets an id of its own
    prefix : what their ids begin with; by the list when ""

    Returns
    -------
    Plan : the plan with the new parts at the end

    Raises
    ------
    PlanError : a part breaks a rule
    """
    name = prefix or PREFIXES.get(collection, "part")
    return apply(plan, space_id, [Add(collection=collection, parts=tuple(parts), prefix=name)])


def remove_parts(plan: Plan, space_id: str, collection: Collection, part_ids: Iterable[str]) -> Plan:
    """Take parts out of a space.

    Parameters
    ----------
    collection : which kind of part
    part_ids : the ids; one that is not there is passed over

    Returns
    -------
    Plan : the plan without them; a way of air through an opening that goes keeps its other parts
    """
    return apply(plan, space_id, [Remove(collection=collection, part_ids=tuple(part_ids))])


def confirm(plan: Plan, space_id: str, what: str) -> Plan:
    """Take an assumed figure as settled.

    Parameters
    ----------
    what : the assumed family, such as "room"

    Returns
    -------
    Plan : the plan with one assumption fewer
    """
    return _with_space(
        plan, space_id, lambda space: {**space, "assumed": [key for key in space["assumed"] if key != what]}
    )


def change_plan(plan: Plan, values: Mapping[str, Any]) -> Plan:
    """Change what belongs to the whole plan: name, date, tariff, circuits.

    Parameters
    ----------
    values : new values; dotted keys reach into parts

    Returns
    -------
    Plan : the changed plan

    Raises
    ------
    PlanError : the result would break a rule
    """
    return from_data(merged(plan.model_dump(mode="json"), values))


def add_planting(plan: Plan, space_id: str, plantings: list[dict[str, Any]], plants: list[dict[str, Any]]) -> Plan:
    """Begin plantings with their plants in a space.

    Parameters
    ----------
    plantings : the plantings' data; their ids stand for the plants' references only
    plants : the plants' data, each naming its planting

    Returns
    -------
    Plan : the plan with both at the end

    Raises
    ------
    PlanError : one of them breaks a rule
    """
    acts: list[Act] = [Add(collection="plantings", parts=tuple(plantings), prefix="planting")]
    return apply(plan, space_id, [*acts, Add(collection="plants", parts=tuple(plants), prefix="plant")])


def remove_planting(plan: Plan, planting_id: str) -> Plan:
    """Take a planting out, with its plants in every space.

    Returns
    -------
    Plan : the plan without it
    """
    data = plan.model_dump(mode="json")
    data["serial"] = max(data["serial"], 1 + number_of(planting_id))
    data["plantings"] = [item for item in data["plantings"] if item["id"] != planting_id]
    for space in data["spaces"]:
        space["plants"] = [plant for plant in space["plants"] if plant["planting_id"] != planting_id]
    return from_data(data)


def with_crop(plan: Plan, crop: Crop) -> Plan:
    """Bring a crop of the person's own into a plan, or up to date there.

    Returns
    -------
    Plan : the plan that holds it

    Raises
    ------
    PlanError : plants there stand in a stage that it no longer has
    """
    kept = tuple(item for item in plan.crops if item.id != crop.id)
    return from_data(plan.model_copy(update={"crops": (*kept, crop)}).model_dump(mode="json"))


def add_space(plan: Plan, space: Space) -> Plan:
    """Add a space.

    Parameters
    ----------
    space : the new space

    Returns
    -------
    Plan : the plan with the space at the end; it stands in the plan's first room where it names none of the plan

    Raises
    ------
    PlanError : the space breaks a rule
    """
    if plan.room(space.room_id) is None:
        space = space.model_copy(update={"room_id": plan.rooms[0].id})
    return from_data(plan.model_copy(update={"spaces": (*plan.spaces, space)}).model_dump(mode="json"))


def with_space(plan: Plan, theirs: Plan, space_id: str) -> Plan:
    """Put a space as another state of the plan has it in the place of what stands.

    Parameters
    ----------
    theirs : the other state
    space_id : which space

    Returns
    -------
    Plan : plantings and own crops that are gone come back with the space; it stands in its own room and on its own
        circuit, as they are today, or where it stands today if those are gone

    Raises
    ------
    PlanError : one of the two has no such space, or it breaks a rule of the plan
    """
    kept, now = theirs.space(space_id), plan.space(space_id)
    if kept is None or now is None:
        raise PlanError([PlanProblem(path="spaces", message=f"there is no space “{space_id}” any more")])
    room = kept.room_id if plan.room(kept.room_id) else now.room_id
    circuit = kept.circuit_id if plan.circuit(kept.circuit_id) else now.circuit_id
    kept = kept.model_copy(update={"room_id": room, "circuit_id": circuit})
    grown, grows = {plant.planting_id for plant in kept.plants}, {item.id for item in plan.plantings}
    back = [item for item in theirs.plantings if item.id in grown - grows]
    used = {plant.crop_id for plant in kept.plants} | {item.crop_id for item in back}
    crops = [item for item in theirs.crops if item.id in used - {own.id for own in plan.crops}]
    laid = {
        "serial": max(plan.serial, theirs.serial),
        "spaces": tuple(kept if space.id == space_id else space for space in plan.spaces),
        "plantings": (*plan.plantings, *back),
        "crops": (*plan.crops, *crops),
    }
    return from_data(plan.model_copy(update=laid).model_dump(mode="json"))


def space_id_for(plan: Plan, slug: str) -> tuple[Plan, str]:
    """Take the plan's next number into the id of a new space.

    Parameters
    ----------
    slug : what it begins with, such as "hall-closet"

    Returns
    -------
    (Plan, str) : the plan with its number gone on, and the id, never used before in this plan
    """
    data = {"serial": plan.serial}
    key = next_id(data, slug, [space.id for space in plan.spaces])
    return plan.model_copy(update={"serial": data["serial"]}), key


def duplicate_space(plan: Plan, space_id: str, *, plants: bool) -> Plan:
    """Copy a space, to try something in or to set up its twin.

    Parameters
    ----------
    space_id : which one
    plants : with what grows there; its plants then follow the same plantings

    Returns
    -------
    Plan : with the copy behind the original, in the same room and on the same circuit; its ways of air that led to
        another space end in the room, and it has no survey: nobody has read its light yet

    Raises
    ------
    PlanError : there is no such space
    """
    found = plan.space(space_id)
    if found is None:
        raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])
    plan, key = space_id_for(plan, space_id.rstrip("0123456789").rstrip("-") or "space")
    ways = tuple(_ending_here(way) if way.ends == "space" else way for way in found.airways)
    names = {space.name for space in plan.spaces}
    name = next(n for k in range(2, 1000) if (n := f"{found.name[:110]} {k}") not in names)
    update: dict[str, Any] = {"id": key, "name": name, "airways": ways, "survey": None}
    if not plants:
        update |= {"plants": (), "light_goals": ()}
    copy = found.model_copy(update=update)
    at = plan.spaces.index(found) + 1
    spaces = (*plan.spaces[:at], copy, *plan.spaces[at:])
    return from_data(plan.model_copy(update={"spaces": spaces}).model_dump(mode="json"))


def _ending_here(way: Airway) -> Airway:
    return way.model_copy(update={"ends": "room", "space_id": None, "far_opening_id": None})


def remove_space(plan: Plan, space_id: str) -> Plan:
    """Take a space out.

    Returns
    -------
    Plan : the plan without it; ways of air that led there now end in the room
    """

    def freed(space: Space) -> Space:
        ways = tuple(_ending_here(way) if way.space_id == space_id else way for way in space.airways)
        return space.model_copy(update={"airways": ways})

    return plan.model_copy(update={"spaces": tuple(freed(space) for space in plan.spaces if space.id != space_id)})


def shifted(plan: Plan, by: dt.timedelta) -> Plan:
    """Move all days of a plan, so that an example begins today.

    Parameters
    ----------
    by : how far

    Returns
    -------
    Plan : the same plan at another time; daylight by month stays with its months
    """

    def move(value: Any) -> Any:
        if isinstance(value, dict):
            return {key: _later(item, by) if key in _DAYS and item else move(item) for key, item in value.items()}
        return [move(item) for item in value] if isinstance(value, list) else value

    return from_data(move(plan.model_dump(mode="json")))


_DAYS = ("date", "starts_on", "cleared_on", "on", "seen_on", "from_day", "until_day")


def _later(day: str, by: dt.timedelta) -> str:
    return (dt.date.fromisoformat(day) + by).isoformat()
