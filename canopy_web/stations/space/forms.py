"""Forms of a space: its size, the room it stands in, its faces and openings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django import forms

from canopy.design.shell.fresh import usual_clear
from canopy.plan import FACES
from canopy.plan.rooms import Room
from canopy.quantities import (
    DIAMETER,
    LENGTH,
    PERCENT,
    TEMPERATURE,
)
from canopy_web.forms.choices import KINDS, SIDES, material_choices
from canopy_web.forms.fields import QuantityField
from canopy_web.forms.part import PartForm, offer


class OpeningForm(PartForm):
    """A hole: round, slit, mesh window or seam; open or shut."""

    USES = [("exhaust", "Exhaust"), ("intake", "Intake"), ("cable", "Cable"), ("closed", "Sealed")]
    SHAPES = [("round", "Round"), ("slit", "Slit"), ("mesh", "Mesh window"), ("seam", "Door seam")]
    use = forms.ChoiceField(label="use", choices=USES)
    shape = forms.ChoiceField(label="shape", choices=SHAPES)
    face = forms.ChoiceField(label="face", choices=[(face, face.capitalize()) for face in FACES])
    u_m = QuantityField(LENGTH, 0, 10, label="along")
    v_m = QuantityField(LENGTH, 0, 10, label="up")
    diameter_m = QuantityField(DIAMETER, 0.005, 1, optional=True, label="diameter")
    width_m = QuantityField(LENGTH, 0.001, 10, optional=True, label="width")
    height_m = QuantityField(LENGTH, 0.001, 6, optional=True, label="height")
    clear_share = QuantityField(PERCENT, 0.01, 1, per=100, label="clear")
    open = forms.BooleanField(required=False, label="open")

    def changes(self) -> dict[str, Any]:
        """A new shape brings the measures it needs, from the old ones, and what a mesh leaves free."""
        out = super().changes()
        if "shape" not in out:
            return out
        across = self.record.get("diameter_m") or self.record.get("width_m") or 0.1
        if out["shape"] == "round":
            out.setdefault("diameter_m", min(across, self.record.get("height_m") or across, 1.0))
        else:
            out.setdefault("width_m", across)
            out.setdefault("height_m", self.record.get("height_m") or across)
        if "clear_share" not in out:
            out["clear_share"] = usual_clear(out["shape"])
        return out


class SpaceForm(PartForm):
    """A space's name and size."""

    name = forms.CharField(max_length=120, label="name")
    kind = forms.ChoiceField(choices=KINDS, label="kind")
    width_m = QuantityField(LENGTH, 0.1, 10, label="inner width")
    depth_m = QuantityField(LENGTH, 0.1, 10, label="inner depth")
    height_m = QuantityField(LENGTH, 0.1, 6, label="inner height")
    door_side = forms.ChoiceField(choices=[("", "none"), *SIDES], required=False, label="door")
    door_open = forms.BooleanField(required=False, label="door stands open")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, shown=record["size"], **more)

    def changes(self) -> dict[str, Any]:
        """Measures lie in the size; a space without a door has none."""
        got = super().changes()
        values = {f"size.{key}" if key.endswith("_m") else key: value for key, value in got.items()}
        if "door_side" in values:
            values["door_side"] = values["door_side"] or None
        return values


class WhichRoomForm(PartForm):
    """Which of the household's rooms a space stands in."""

    room_id = forms.ChoiceField(label="stands in")

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, rooms: Sequence[Room], **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, room_id=[(room.id, room.name) for room in rooms])


class RoomForm(PartForm):
    """The room that a space stands in, as it is without the space."""

    day_c = QuantityField(TEMPERATURE, -30, 60, label="by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, label="by night")
    day_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by day")
    night_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by night")
    floor = forms.ChoiceField(choices=[("wood", "wood"), ("concrete", "concrete or stone")], label="floor of")


class FaceForm(PartForm):
    """One face's lining."""

    material_id = forms.ChoiceField(label="material")
    reflectance = QuantityField(PERCENT, 0, 0.98, per=100, optional=True, label="reflectance")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, material_id=material_choices())

    def changes(self) -> dict[str, Any]:
        """A new material brings its own reflectance."""
        out = super().changes()
        if "material_id" in out and "reflectance" not in out:
            out["reflectance"] = None
        return out
