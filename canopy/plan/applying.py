"""Apply small changes to a plan's data, one after another, on whatever state it is in."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Any

from canopy.errors import PlanConflictError, PlanError, PlanProblem
from canopy.plan.changes import HOUSEHOLD, Act, Add, Change, Place, Remove
from canopy.plan.unplugging import unplug

# What a change confirms: a figure that a person has typed is no longer assumed.
_CONFIRMS = {
    "room_id": "room",
    "faces": "faces",
    "circuit_id": "circuit",
    "air": "air",
    "fixtures": "lamp",
    "plants": "stage",
    "openings": "openings",
    "airways": "air",
}
# Which keys name a part of a list.
_REFERENCES = {
    "openings": ("opening_id",),
    "plantings": ("planting_id",),
    "fixtures": ("fixture_id",),
    "outlets": ("plug", "into"),
    "carriers": ("plug", "into"),
}
_LAST_NUMBER = re.compile(r"(\d+)$")
_GONE = PlanProblem(path="", message="this is no longer in the plan: somebody has taken it out meanwhile")


def number_of(key: str) -> int:
    """Give the number that an id ends in.

    Parameters
    ----------
    key : the id

    Returns
    -------
    int : 0 when it ends in none
    """
    found = _LAST_NUMBER.search(key)
    return int(found[1]) if found and len(found[1]) < 9 else 0


def next_id(data: dict[str, Any], prefix: str, taken: Iterable[str]) -> str:
    """Take the plan's next number into an id.

    Parameters
    ----------
    data : the plan's data; its ``serial`` goes on
    prefix : such as "lamp"
    taken : ids of the list it is for

    Returns
    -------
    str : such as "lamp-14", never used before in this plan
    """
    number = max(data.get("serial", 1), 1 + max((number_of(key) for key in taken), default=0))
    data["serial"] = number + 1
    return f"{prefix}-{number}"


def merged(data: Mapping[str, Any], values: Mapping[str, Any]) -> dict[str, Any]:
    """Lay values over a record's data.

    Parameters
    ----------
    data : the record
    values : new values; dotted keys reach into parts of it

    Returns
    -------
    dict : a new record
    """
    out = dict(data)
    for key, value in values.items():
        head, _, rest = key.partition(".")
        out[head] = merged(out.get(head) or {}, {rest: value}) if rest else value
    return out


class Editor:
    """A plan's data under change: remembers which provisional ids became which."""

    def __init__(self, data: dict[str, Any], space_id: str | None) -> None:
        self.data = data
        self.space: dict[str, Any] | None = None
        if space_id is not None:
            self.space = next((space for space in data["spaces"] if space["id"] == space_id), None)
            if self.space is None:
                raise PlanError([PlanProblem(path="spaces", message="this space is no longer in the plan")])
        self._renamed: dict[str, dict[str, str]] = {}

    def apply(self, act: Act) -> None:
        """Apply one change; PlanError where what it names is gone, PlanConflictError where it is another by now."""
        owner = self._owner(act)
        self._settle(act)
        if isinstance(act, Change):
            self._change(owner, act)
        elif isinstance(act, Add):
            self._add(owner, act)
        elif isinstance(act, Remove):
            self._remove(owner, act)
        else:
            self._place(owner, act)

    def _owner(self, act: Act) -> dict[str, Any]:
        first = act.at[0] if act.at else act.collection
        found: Any = self.data if first in HOUSEHOLD or self.space is None else self.space
        steps = list(act.at)
        while steps:
            found = found.get(steps.pop(0))
            if isinstance(found, list) and steps:
                key = steps.pop(0)
                found = next((part for part in found if part["id"] == key), None)
            if not isinstance(found, dict):
                raise PlanError([_GONE])
        return found  # type: ignore[no-any-return]

    def _settle(self, act: Act) -> None:
        # A part that comes or goes says nothing of the others.
        if self.space is None or not (act.at or isinstance(act, Change)):
            return
        if act.at or not isinstance(act, Change):
            touched = {act.at[0]}
        elif act.collection:
            touched = {str(act.collection)}
        else:
            touched = {key.partition(".")[0] for key in act.values}
        settled = {_CONFIRMS.get(key) for key in touched}
        if "rooms" in touched:
            settled.add("room")
        self.space["assumed"] = [key for key in self.space["assumed"] if key not in settled]

    def _change(self, owner: dict[str, Any], act: Change) -> None:
        if act.collection is None:
            _refuse_conflict(owner, act)
            owner.update(self._referred(merged(owner, act.values)))
            return
        parts = owner[act.collection]
        for number, part in enumerate(parts):
            if part["id"] == act.part_id:
                _refuse_conflict(part, act)
                parts[number] = merged(part, self._referred(dict(act.values)))
                return
        raise PlanError([PlanProblem(path=act.collection, message="this part is no longer in the plan")])

    def _add(self, owner: dict[str, Any], act: Add) -> None:
        parts: list[dict[str, Any]] = owner[act.collection]
        made: list[dict[str, Any]] = []
        renamed = self._renamed.setdefault(act.collection, {})
        for given in act.parts:
            key = next_id(self.data, act.prefix, [part["id"] for part in (*parts, *made)])
            if given.get("id"):
                renamed[str(given["id"])] = key
            made.append({**self._referred(dict(given)), "id": key})
        place = len(parts)
        if act.after == "":
            place = 0
        elif act.after is not None:
            behind = renamed.get(act.after, act.after)
            place = next((n + 1 for n, part in enumerate(parts) if part["id"] == behind), len(parts))
        parts[place:place] = made

    def _referred(self, value: Any) -> Any:
        """References to what was added with it, under the ids that it got."""
        if isinstance(value, list | tuple):
            return [self._referred(item) for item in value]
        if not isinstance(value, dict):
            return value
        out = {key: self._referred(item) for key, item in value.items()}
        for collection, keys in _REFERENCES.items():
            for key in keys:
                if isinstance(out.get(key), str):
                    out[key] = self._renamed.get(collection, {}).get(out[key], out[key])
        return out

    def _remove(self, owner: dict[str, Any], act: Remove) -> None:
        gone = set(act.part_ids)
        parts = owner[act.collection]
        before = {item["id"]: item["into"] for item in self.data.get("carriers", [])}
        self.data["serial"] = max(self.data.get("serial", 1), 1 + max(map(number_of, gone), default=0))
        owner[act.collection] = [part for part in parts if part["id"] not in gone]
        if act.collection in ("circuits", "outlets", "carriers"):
            unplug(self.data, before)
        if act.collection == "openings" and self.space is not None:
            _unport(self.data, self.space, gone)
        if act.collection == "fixtures" and self.space is not None:
            for airway in self.space["airways"]:
                airway["parts"] = [part for part in airway["parts"] if part.get("fixture_id") not in gone]

    def _place(self, owner: dict[str, Any], act: Place) -> None:
        parts = owner[act.collection]
        here = next((n for n, part in enumerate(parts) if part["id"] == act.part_id), None)
        there = next((n for n, part in enumerate(parts) if part["id"] == act.onto), None)
        if here is None or (act.onto and there is None):
            raise PlanError([_GONE])
        part = parts.pop(here)
        parts.insert(max(0, here + act.by) if there is None else there, part)


def _refuse_conflict(record: Mapping[str, Any], act: Change) -> None:
    found, theirs = [], {}
    for key, seen in act.was.items():
        now = _at(record, key)
        if not _same(now, seen) and not _same(now, act.values.get(key)):
            theirs[key] = now
            found.append(PlanProblem(path=key, message="this was changed meanwhile, in another window or by a remedy"))
    if found:
        raise PlanConflictError(found, theirs)


def _at(record: Any, path: str) -> Any:
    for step in path.split("."):
        record = record.get(step) if isinstance(record, Mapping) else None
    return record


def _same(one: Any, two: Any) -> bool:
    if isinstance(one, int | float) and isinstance(two, int | float):
        return abs(one - two) < 1e-9
    return bool(one == two)


def _unport(data: dict[str, Any], space: dict[str, Any], gone: set[str]) -> None:
    """A way of air through an opening that goes keeps its other parts."""
    for airway in space["airways"]:
        airway["parts"] = [part for part in airway["parts"] if part.get("opening_id") not in gone]
    for other in data["spaces"]:
        for airway in other["airways"]:
            if airway["space_id"] == space["id"] and airway["far_opening_id"] in gone:
                airway["far_opening_id"] = None
