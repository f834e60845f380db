"""Bring plan files of older versions up to the present one, before they are read."""

from __future__ import annotations

import copy
from typing import Any

from canopy.plan.migrate_three import to_three

# The recipes of version 1 for the way from fan to room, as chains: duct between fan and port and duct and bends
# behind it.
_FLEX = {
    "name": "Flexible duct, aluminium",
    "class_id": "flex-alu",
    "roughness_m": 0.001,
    "flexible": True,
    "weight_kg_m": 0.2,
    "noise_cut_db_m": 0.3,
}
_RECIPES: dict[str, tuple[bool, float, float, tuple[float, ...]]] = {
    "free": (False, 0.0, 0.0, ()),
    "duct": (False, 1.0, 0.0, ()),
    "filter-duct": (True, 0.4, 1.9, (90.0, 60.0)),
    "filter-long-duct": (True, 0.4, 4.5, (90.0, 90.0, 90.0)),
}
# The filters those recipes stood for, by the fan's spigot: name, rated flow, its pressure, weight.
_FILTERS = {
    0.075: ("Carbon filter 75 mm", 90.0, 55.0, 1.6),
    0.1: ("Carbon filter 100 mm", 170.0, 60.0, 3.3),
    0.125: ("Carbon filter 125 mm", 248.0, 64.0, 5.0),
    0.15: ("Carbon filter 150 mm", 400.0, 70.0, 8.4),
    0.2: ("Carbon filter 200 mm", 780.0, 75.0, 19.5),
    0.25: ("Carbon filter 250 mm", 1100.0, 80.0, 27.0),
}
_OLD_AIR = ("fan", "path_id", "delivered_share", "duct_diameter_m", "fan_hours", "fan_speed")


def migrated(data: dict[str, Any]) -> dict[str, Any]:
    """Give a plan's data in the present version.

    Parameters
    ----------
    data : what the JSON decoder gave, of this version or an older one

    Returns
    -------
    dict : the same when it is of this version; else a copy brought up to date, one version at a time. What is
        malformed stays as it is, for the check that follows to name
    """
    if data.get("version") not in (1, 2):
        return _stages_as_called(_without_readings(data))
    out = copy.deepcopy(data)
    if out["version"] == 1:
        out["version"] = 2
        for space in _records(out.get("spaces")):
            if isinstance(space.get("air"), dict):
                _to_two(space)
    return _stages_as_called(_without_readings(to_three(out)))


# What swells in the soil had the name of a fruit once.
_SWELLS = {"radish": "root", "beetroot": "root", "potato": "tuber", "ginger": "rhizome"}


def _stages_as_called(data: dict[str, Any]) -> dict[str, Any]:
    """Root and tuber crops of the library have a stage of their own for what swells."""
    if not any(_has_fruit(part) for part in _staged(data)):
        return data
    out = copy.deepcopy(data)
    for part in filter(_has_fruit, _staged(out)):
        new = _SWELLS[part["crop_id"]]
        for key in ("stage", "first_stage"):
            if part.get(key) == "fruit":
                part[key] = new
        days = part.get("stage_days")
        if isinstance(days, dict) and "fruit" in days:
            part["stage_days"] = {new if key == "fruit" else key: value for key, value in days.items()}
    return out


def _staged(data: dict[str, Any]) -> list[dict[str, Any]]:
    """All that names a stage of a crop: plantings, plants, goals of light."""
    found = _records(data.get("plantings"))
    for space in _records(data.get("spaces")):
        found += _records(space.get("plants")) + _records(space.get("light_goals"))
    return found


def _has_fruit(part: dict[str, Any]) -> bool:
    days = part.get("stage_days")
    names = [part.get("stage"), part.get("first_stage"), *(days if isinstance(days, dict) else ())]
    crop = part.get("crop_id")
    return isinstance(crop, str) and crop in _SWELLS and "fruit" in names


_SURVEY_FACTS = ("unit", "source_id", "cct_k", "readings")


def _without_readings(data: dict[str, Any]) -> dict[str, Any]:
    """Readings of a light survey lay in the plan once; they are facts and stand beside it. What was fitted stays."""
    spaces = data.get("spaces")
    if not any(isinstance(space.get("survey"), dict) for space in _records(spaces)):
        return data
    return data | {"spaces": [_bare(space) for space in spaces] if isinstance(spaces, list) else spaces}


def _bare(space: Any) -> Any:
    survey = space.get("survey") if isinstance(space, dict) else None
    if not isinstance(survey, dict) or not any(key in survey for key in _SURVEY_FACTS):
        return space
    fitted = {key: value for key, value in survey.items() if key not in _SURVEY_FACTS}
    return space | {"survey": fitted if fitted.get("factors") and fitted.get("fitted_on") else None}


def _records(value: Any) -> list[dict[str, Any]]:
    return [item for item in value if isinstance(item, dict)] if isinstance(value, list) else []


def _to_two(space: dict[str, Any]) -> None:
    """One fan with a recipe becomes a chain; the filter now counts by its curve, so its flat allowance no longer
    does.
    """
    old = dict(space["air"])
    fan = old.get("fan")
    air = {key: value for key, value in old.items() if key not in _OLD_AIR}
    space["air"] = air
    if not isinstance(fan, dict):
        return
    diameter = old.get("duct_diameter_m") or fan.get("diameter_m")
    if not isinstance(diameter, int | float) or diameter < 0.02:
        # Narrower than any fan: the check names it.
        diameter = fan.get("diameter_m")
    speed, hours = old.get("fan_speed", 1.0), old.get("fan_hours", 24.0)
    airway: dict[str, Any] = {
        "id": "exhaust",
        "name": "Exhaust",
        "parts": _parts(space, old, fan, diameter, speed, hours),
    }
    if isinstance(hours, int | float) and 0 < hours < 24 and hours <= 20 and not _by_day_only(space, hours):
        airway |= {"on_min": round(60 * hours / 24, 1), "every_min": 60.0}
    share = old.get("delivered_share")
    if (
        isinstance(share, int | float)
        and isinstance(fan.get("free_flow_m3_h"), int | float)
        and isinstance(speed, int | float)
    ):
        airway["measured"] = {"flow_m3_h": round(fan["free_flow_m3_h"] * share * speed, 1), "speed": speed}
    space["airways"] = [airway, *space.get("airways", [])]


def _by_day_only(space: dict[str, Any], hours: float) -> bool:
    """A fan that ran about as long as the lamps is taken to have run with them."""
    lamps = [lamp.get("hours") for lamp in space.get("fixtures", []) if isinstance(lamp, dict)]
    lit = max((value for value in lamps if isinstance(value, int | float)), default=0.0)
    return lit > 0 and abs(lit - hours) <= 2


def _parts(
    space: dict[str, Any], old: dict[str, Any], fan: dict[str, Any], diameter: Any, speed: Any, hours: Any
) -> list[dict[str, Any]]:
    path = old.get("path_id", "duct")
    filtered, before, after, bends = _RECIPES.get(path if isinstance(path, str) else "duct", _RECIPES["duct"])
    parts: list[dict[str, Any]] = []
    if filtered and isinstance(fan.get("diameter_m"), int | float):
        size = min(_FILTERS, key=lambda each: abs(each - fan["diameter_m"]))
        name, flow, pressure, weight = _FILTERS[size]
        parts.append(
            {
                "kind": "filter",
                "id": "filter",
                "spec": {
                    "name": name,
                    "class_id": f"filter-{size * 1000:.0f}",
                    "diameter_m": size,
                    "rated_flow_m3_h": flow,
                    "rated_pressure_pa": pressure,
                    "weight_kg": weight,
                },
            }
        )
    moved: dict[str, Any] = {"kind": "fan", "id": "fan", "spec": fan, "speed": speed}
    if isinstance(hours, int | float) and _by_day_only(space, hours):
        moved["night_speed"] = 0.0
    parts.append(moved)
    if before:
        parts.append(_duct(1, diameter, before))
    port = _port(space)
    if port:
        parts.append({"kind": "port", "id": "port", "opening_id": port})
    parts += [
        {"kind": "bend", "id": f"bend-{n}", "diameter_m": diameter, "angle_deg": angle}
        for n, angle in enumerate(bends, 1)
    ]
    if after:
        parts.append(_duct(2, diameter, after))
    return parts


def _duct(number: int, diameter: Any, length: float) -> dict[str, Any]:
    return {"kind": "duct", "id": f"duct-{number}", "spec": dict(_FLEX), "diameter_m": diameter, "length_m": length}


def _port(space: dict[str, Any]) -> str | None:
    holes = [
        hole
        for hole in space.get("openings", [])
        if isinstance(hole, dict)
        and hole.get("use") == "exhaust"
        and hole.get("shape", "round") == "round"
        and hole.get("open", True)
        and isinstance(hole.get("id"), str)
    ]
    found = max(holes, key=lambda hole: hole.get("diameter_m") or 0.0, default=None)
    return found["id"] if found else None
