"""The schedule under the drawing: what each station's tables and forms hold."""

from __future__ import annotations

from typing import Any

from canopy.evaluate import SpaceReport
from canopy.plan import FACES
from canopy_web.photos.querysets import photos_of
from canopy_web.workspace import forms, furnish_forms
from canopy_web.workspace.air_leaves import air_schedule
from canopy_web.workspace.crop_leaves import crop_schedule
from canopy_web.workspace.light_leaves import light_schedule
from canopy_web.workspace.page import Where
from canopy_web.workspace.rows import rows_of


def schedule_of(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    """Fill the schedule of the station that is shown; ``bad`` holds forms that were refused, by key."""
    return _SCHEDULES[where.station](where, report, bad)


def _space_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    space, system = where.space, where.system
    data = space.model_dump(mode="json")
    bearing = {
        "load_limit_kg": data["load_limit_kg"],
        "net_m": (data["net"] or {}).get("z_m"),
        "fan_hung": space.air.hung,
    }
    return {
        "space_form": bad.get("space") or forms.SpaceForm({**data, **data["size"]}, system=system, prefix="space"),
        "room_form": bad.get("room") or forms.RoomForm(data["room"], system=system, prefix="room"),
        "ground_form": bad.get("ground") or furnish_forms.GroundForm(data["ground"], system=system, prefix="ground"),
        "bearing_form": bad.get("bearing") or furnish_forms.BearingForm(bearing, system=system, prefix="bearing"),
        "faces": [
            (face, bad.get(f"face/{face}") or forms.FaceForm(data["faces"][face], system=system, prefix=f"face-{face}"))
            for face in FACES
        ],
        "rows": rows_of(where, "openings", bad),
        "shelves": rows_of(where, "shelves", bad),
        "columns": rows_of(where, "columns", bad),
        "hung": rows_of(where, "hung", bad),
        "windows": rows_of(where, "daylight", bad),
        "photos": photos_of(where.row, space.id),
        "photo_wrong": bad.get("photo", ""),
    }


def _power_schedule(where: Where, report: SpaceReport, bad: dict[str, Any]) -> dict[str, Any]:
    return {"rows": rows_of(where, "devices", bad), "circuit": report.circuit, "running": report.running}


_SCHEDULES = {
    "space": _space_schedule,
    "crops": crop_schedule,
    "light": light_schedule,
    "air": air_schedule,
    "power": _power_schedule,
}
