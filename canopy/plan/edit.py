"""Change a plan: every function gives a new, checked plan and leaves the old one as it was."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from canopy.errors import PlanError, PlanProblem
from canopy.library import Crop
from canopy.plan.document import Plan, Space
from canopy.plan.files import from_data

Collection = Literal[
    "fixtures",
    "plants",
    "openings",
    "devices",
    "shelves",
    "columns",
    "hung",
    "daylight",
    "airways",
    "stirrers",
    "plantings",
]
COLLECTIONS: tuple[Collection, ...] = (
    "fixtures",
    "plants",
    "openings",
    "devices",
    "shelves",
    "columns",
    "hung",
    "daylight",
    "airways",
    "stirrers",
    "plantings",
)
# What a change confirms: a figure that a person has typed is no longer assumed.
_CONFIRMS = {
    "room": "room",
    "faces": "faces",
    "circuit_id": "circuit",
    "air": "air",
    "fixtures": "lamp",
    "plants": "stage",
    "openings": "openings",
    "airways": "air",
}


@dataclass(frozen=True, kw_only=True)
class Change:
    """New values for one part of a space, for the space itself when ``collection`` is None, or for a planting."""

    values: Mapping[str, Any] = field(default_factory=dict)
    collection: Collection | None = None
    part_id: str = ""


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


def _merge(data: dict[str, Any], values: Mapping[str, Any]) -> dict[str, Any]:
    """Lay values over a record's data; dotted keys reach into parts of it."""
    out = dict(data)
    for key, value in values.items():
        head, _, rest = key.partition(".")
        out[head] = _merge(out.get(head) or {}, {rest: value}) if rest else value
    return out


def _with_space(plan: Plan, space_id: str, make: Any) -> Plan:
    data = plan.model_dump(mode="json")
    for number, space in enumerate(data["spaces"]):
        if space["id"] == space_id:
            data["spaces"][number] = make(space)
            return from_data(data)
    raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])


def apply(plan: Plan, space_id: str, changes: Iterable[Change]) -> Plan:
    """Apply changes to a space, all or none.

    Parameters
    ----------
    plan : the plan
    space_id : the space
    changes : what to change

    Returns
    -------
    Plan : the changed plan

    Raises
    ------
    PlanError : the result would break a rule, or a part is no longer there
    """
    wanted = list(changes)
    data = plan.model_dump(mode="json")
    places = [number for number, space in enumerate(data["spaces"]) if space["id"] == space_id]
    if not places:
        raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])
    for change in wanted:
        if change.collection == "plantings":
            _change_part(data, "plantings", change)
        else:
            _change_space(data["spaces"][places[0]], change)
    return from_data(data)


def _change_space(space: dict[str, Any], change: Change) -> None:
    touched = {change.collection} if change.collection else {key.partition(".")[0] for key in change.values}
    settled = {_CONFIRMS.get(str(key)) for key in touched}
    space["assumed"] = [key for key in space["assumed"] if key not in settled]
    if change.collection is None:
        space.update(_merge(space, change.values))
    else:
        _change_part(space, change.collection, change)


def _change_part(owner: dict[str, Any], collection: str, change: Change) -> None:
    for number, part in enumerate(owner[collection]):
        if part["id"] == change.part_id:
            owner[collection][number] = _merge(part, change.values)
            return
    raise PlanError([PlanProblem(path=collection, message="this part is no longer in the plan")])


def add_parts(plan: Plan, space_id: str, collection: Collection, parts: list[dict[str, Any]]) -> Plan:
    """Add parts to a space.

    Parameters
    ----------
    plan : the plan
    space_id : the space
    collection : which kind of part of a space
    parts : their data, ids included

    Returns
    -------
    Plan : the plan with the new parts at the end

    Raises
    ------
    PlanError : a part breaks a rule
    """
    return _with_space(plan, space_id, lambda space: {**space, collection: [*space[collection], *parts]})


def remove_parts(plan: Plan, space_id: str, collection: Collection, part_ids: Iterable[str]) -> Plan:
    """Take parts out of a space.

    Parameters
    ----------
    plan : the plan
    space_id : the space
    collection : which kind of part
    part_ids : the ids; one that is not there is passed over

    Returns
    -------
    Plan : the plan without them; a way of air through an opening that goes keeps its other parts
    """
    gone = set(part_ids)
    data = plan.model_dump(mode="json")
    for space in data["spaces"]:
        if space["id"] == space_id:
            space[collection] = [part for part in space[collection] if part["id"] not in gone]
            if collection == "openings":
                _unport(data, space, gone)
            return from_data(data)
    raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])


def _unport(data: dict[str, Any], space: dict[str, Any], gone: set[str]) -> None:
    """A way of air through an opening that goes keeps its other parts."""
    for airway in space["airways"]:
        airway["parts"] = [part for part in airway["parts"] if part.get("opening_id") not in gone]
    for other in data["spaces"]:
        for airway in other["airways"]:
            if airway["space_id"] == space["id"] and airway["far_opening_id"] in gone:
                airway["far_opening_id"] = None


def confirm(plan: Plan, space_id: str, what: str) -> Plan:
    """Take an assumed figure as settled.

    Parameters
    ----------
    plan : the plan
    space_id : the space
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
    plan : the plan
    values : new values; dotted keys reach into parts

    Returns
    -------
    Plan : the changed plan

    Raises
    ------
    PlanError : the result would break a rule
    """
    return from_data(_merge(plan.model_dump(mode="json"), values))


def add_planting(plan: Plan, space_id: str, plantings: list[dict[str, Any]], plants: list[dict[str, Any]]) -> Plan:
    """Begin plantings with their plants in a space.

    Parameters
    ----------
    plan : the plan
    space_id : the space
    plantings : the plantings' data, ids included
    plants : the plants' data, ids included, each naming its planting

    Returns
    -------
    Plan : the plan with both at the end

    Raises
    ------
    PlanError : one of them breaks a rule
    """
    data = plan.model_dump(mode="json")
    data["plantings"] += plantings
    for space in data["spaces"]:
        if space["id"] == space_id:
            space["plants"] += plants
            return from_data(data)
    raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])


def remove_planting(plan: Plan, planting_id: str) -> Plan:
    """Take a planting out, with its plants in every space.

    Parameters
    ----------
    plan : the plan
    planting_id : the planting

    Returns
    -------
    Plan : the plan without it
    """
    data = plan.model_dump(mode="json")
    data["plantings"] = [item for item in data["plantings"] if item["id"] != planting_id]
    for space in data["spaces"]:
        space["plants"] = [plant for plant in space["plants"] if plant["planting_id"] != planting_id]
    return from_data(data)


def with_crop(plan: Plan, crop: Crop) -> Plan:
    """Bring a crop of the person's own into a plan, or up to date there.

    Parameters
    ----------
    plan : the plan
    crop : the crop

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
    plan : the plan
    space : the new space

    Returns
    -------
    Plan : the plan with the space at the end

    Raises
    ------
    PlanError : the space breaks a rule
    """
    return from_data(plan.model_copy(update={"spaces": (*plan.spaces, space)}).model_dump(mode="json"))


def remove_space(plan: Plan, space_id: str) -> Plan:
    """Take a space out.

    Parameters
    ----------
    plan : the plan
    space_id : the space

    Returns
    -------
    Plan : the plan without it; ways of air that led there now end in the room
    """

    def freed(space: Space) -> Space:
        ways = tuple(
            way.model_copy(update={"ends": "room", "space_id": None, "far_opening_id": None})
            if way.space_id == space_id
            else way
            for way in space.airways
        )
        return space.model_copy(update={"airways": ways})

    return plan.model_copy(update={"spaces": tuple(freed(space) for space in plan.spaces if space.id != space_id)})


def shifted(plan: Plan, by: dt.timedelta) -> Plan:
    """Move all days of a plan, so that an example begins today.

    Parameters
    ----------
    plan : the plan
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
