"""What fills the Space station: forms of the space, tables of its parts, its photographs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from canopy.evaluate import SpaceReport
from canopy.plan import FACES
from canopy_web.photos.querysets import photos_of
from canopy_web.stations.space import forms, furnish_forms
from canopy_web.workspace.parts import rows_of
from canopy_web.workspace.where import Where


def space_tab(where: Where, report: SpaceReport, bad: Mapping[str, Any]) -> dict[str, Any]:
    """Fill the only tab."""
    space, system, rooms = where.space, where.system, where.plan.rooms
    data = space.model_dump(mode="json")
    room = where.room.model_dump(mode="json")
    return {
        "space_form": bad.get("space") or forms.SpaceForm(data, system=system, prefix="space"),
        "which_form": bad.get("which-room") or forms.WhichRoomForm(data, rooms=rooms, prefix="which-room"),
        "several_rooms": len(rooms) > 1,
        "shared_with": [
            other.name for other in where.plan.spaces if other.room_id == space.room_id and other.id != space.id
        ],
        "room": where.room,
        "room_form": bad.get("room") or forms.RoomForm(room, system=system, prefix="room"),
        "ground_form": bad.get("ground") or furnish_forms.GroundForm(data["ground"], system=system, prefix="ground"),
        "bearing_form": bad.get("bearing") or furnish_forms.BearingForm(data, system=system, prefix="bearing"),
        "faces": [
            (face, bad.get(f"face/{face}") or forms.FaceForm(data["faces"][face], system=system, prefix=f"face-{face}"))
            for face in FACES
        ],
        "rows": rows_of(where, "openings", bad),
        "shelves": rows_of(where, "shelves", bad),
        "columns": rows_of(where, "columns", bad),
        "trellises": rows_of(where, "trellises", bad),
        "hung": rows_of(where, "hung", bad),
        "windows": rows_of(where, "daylight", bad),
        "estimate_form": bad.get("estimate") or furnish_forms.EstimateForm(space.daylight),
        "latitude": where.plan.site.shown_latitude_deg,
        "latitude_known": where.plan.site.latitude_deg is not None,
        "photos": photos_of(where.row, space.id),
        "photo_wrong": bad.get("photo", ""),
    }
