"""From version 2 to version 3: rooms of the household, one site, one kind of schedule, numbers that never go back."""

from __future__ import annotations

import re
from typing import Any

from canopy.schedule import DAY_MIN

_LAST_NUMBER = re.compile(r"(\d+)$")
_ROOM_KEYS = ("day_c", "night_c", "day_rh_pct", "night_rh_pct", "co2_ppm", "floor_m2", "exchange_per_h", "loss_w_k")


def to_three(data: dict[str, Any]) -> dict[str, Any]:
    """Bring a plan's data from version 2 to version 3.

    Parameters
    ----------
    data : of version 2; changed in place. What is malformed is carried along for the check to name

    Returns
    -------
    dict : the same data

    Notes
    -----
    Spaces in rooms that say the same and have no size share one room, which changes nothing; a room with a floor area
    stays one space's own, since nobody said that two of them are the same.
    """
    data["version"] = 3
    site: dict[str, Any] = {}
    tariff = data.get("tariff")
    if isinstance(tariff, dict) and "currency" in tariff:
        site["currency"] = tariff.pop("currency")
    for circuit in _records(data.get("circuits")):
        for load in _records(circuit.get("other_loads")):
            load["schedule"] = _by_the_day(load.pop("hours_per_day", 24.0))
    for planting in _records(data.get("plantings")):
        for number, training in enumerate(_records(planting.get("trainings")), 1):
            training.setdefault("id", f"training-{number}")
    rooms: list[dict[str, Any]] = []
    for space in _records(data.get("spaces")):
        _space(space)
        _room(space, rooms, site)
    if len(rooms) == 1 and "floor_m2" not in rooms[0]:
        rooms[0]["name"] = "Room"
    if rooms:
        data["rooms"] = rooms
    if site:
        data["site"] = site
    data["serial"] = 1 + max(_numbers(data), default=0)
    return data


def _records(value: Any) -> list[dict[str, Any]]:
    return [item for item in value if isinstance(item, dict)] if isinstance(value, list) else []


def _by_the_day(hours: Any) -> dict[str, Any]:
    return {"kind": "always"} if hours == 24 else {"kind": "daily", "hours": hours}


def _cycled(part: dict[str, Any]) -> None:
    on, every = part.pop("on_min", None), part.pop("every_min", None)
    if on is not None or every is not None:
        part["schedule"] = {
            "kind": "cycle",
            **({} if on is None else {"on_min": on}),
            **({} if every is None else {"every_min": every}),
        }


def _space(space: dict[str, Any]) -> None:
    for lamp in _records(space.get("fixtures")):
        lamp["schedule"] = {"kind": "daily", "start": lamp.pop("on_at", "06:00"), "hours": lamp.pop("hours", 14.0)}
    for airway in _records(space.get("airways")):
        _cycled(airway)
        for part in _records(airway.get("parts")):
            night = part.pop("night_speed", None) if part.get("kind") == "fan" else None
            if night is not None:
                part["other"] = {"speed": night}
    for stirrer in _records(space.get("stirrers")):
        _cycled(stirrer)
    for device in _records(space.get("devices")):
        spec = device.get("spec")
        if isinstance(spec, dict) and "hours_per_day" in spec:
            device["schedule"] = _by_the_day(spec.pop("hours_per_day"))
    air = space.get("air")
    if isinstance(air, dict):
        _door(air)


def _door(air: dict[str, Any]) -> None:
    times, minutes = air.pop("door_times", 0), air.pop("door_minutes", 10.0)
    if isinstance(times, int) and 0 < times <= 48 and isinstance(minutes, int | float):
        longest = min(DAY_MIN / times, 720.0)
        air["door"] = {"kind": "by-hand", "times": [{"minutes": min(minutes, longest)} for _ in range(times)]}
    elif times:
        air["door"] = {"kind": "by-hand", "times": times}


def _room(space: dict[str, Any], rooms: list[dict[str, Any]], site: dict[str, Any]) -> None:
    old, ground = space.pop("room", {}), space.get("ground")
    if not isinstance(old, dict):
        space["room"] = old
        return
    altitude = old.pop("altitude_m", 0.0)
    if altitude and "altitude_m" not in site:
        site["altitude_m"] = altitude
    stands_on = ground.get("stands_on", "wood") if isinstance(ground, dict) else "wood"
    if isinstance(ground, dict) and stands_on in ("wood", "concrete"):
        ground["stands_on"] = "floor"
    fresh = {key: old.pop(key) for key in _ROOM_KEYS if key in old}
    if "ceiling_m" in old:
        fresh["height_m"] = old.pop("ceiling_m")
    fresh |= {"floor": "concrete" if stands_on == "concrete" else "wood", **old}
    if fresh.get("floor_m2") is None:
        fresh.pop("floor_m2", None)
        same = next((room for room in rooms if _what(room) == fresh), None)
        if same is not None:
            space["room_id"] = same["id"]
            return
    key = "room" if not rooms else f"room-{len(rooms) + 1}"
    name = space.get("name")
    rooms.append({"id": key, "name": f"Room of {name}"[:120] if isinstance(name, str) else "Room", **fresh})
    space["room_id"] = key


def _what(room: dict[str, Any]) -> dict[str, Any]:
    return {key: value for key, value in room.items() if key not in ("id", "name")}


def _numbers(data: Any) -> list[int]:
    """The numbers that ids anywhere in the data end in."""
    if isinstance(data, dict):
        found = [number for value in data.values() for number in _numbers(value)]
        end = _LAST_NUMBER.search(data["id"]) if isinstance(data.get("id"), str) else None
        return [*found, *([int(end[1])] if end and len(end[1]) < 9 else [])]
    return [number for value in data for number in _numbers(value)] if isinstance(data, list) else []
