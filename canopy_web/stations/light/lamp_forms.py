"""Forms of lamps: in their place, all at once, from the library, from a data sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django import forms

from canopy.design.light.poses import POSES, SHARED
from canopy.plan import Fixture
from canopy.quantities import (
    ANGLE,
    DURATION,
    LENGTH,
    PERCENT,
)
from canopy_web.forms.choices import lamp_choices
from canopy_web.forms.clock import hours_changed, hours_of
from canopy_web.forms.fields import QuantityField, date_field
from canopy_web.forms.part import PartForm, offer

COVERED = [
    ("start", "its left end"),
    ("end", "its right end"),
    ("evenly", "all over (film, net)"),
]


class LampForm(PartForm):
    """A lamp in its place."""

    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, label="height")
    dim = QuantityField(PERCENT, 0, 1, per=100, label="dimmer")
    hours = QuantityField(DURATION, 0, 24, label="hours")
    yaw_deg = QuantityField(ANGLE, -360, 360, label="rotation")
    tilt_deg = QuantityField(ANGLE, -180, 180, label="tilt")
    pitch_deg = QuantityField(ANGLE, -90, 90, label="pitch")
    enabled = forms.BooleanField(required=False, label="on")
    covered = QuantityField(PERCENT, 0, 0.95, per=100, optional=True, label="covered")
    covered_where = forms.ChoiceField(choices=COVERED, label="where", required=False)

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        cover = record.get("cover") or {}
        shown = {
            "hours": hours_of(record),
            "covered": cover.get("share", 0.0),
            "covered_where": cover.get("where", "start"),
        }
        super().__init__(record, data, shown=shown, **more)
        if record.get("spec", {}).get("shape") == "disc":
            # A round lamp has no ends.
            offer(self, covered_where=[row for row in COVERED if row[0] == "evenly"])

    together = (("covered", "covered_where"),)

    def changes(self) -> dict[str, Any]:
        """Hours become the lamp's schedule, and what is covered its cover."""
        found = hours_changed(self.record, super().changes(), "hours")
        typed = {found.pop(name, None) for name in ("covered", "covered_where")}
        if typed != {None}:
            share = self.cleaned_data.get("covered") or 0.0
            round_one = self.record.get("spec", {}).get("shape") == "disc"
            where = self.cleaned_data.get("covered_where") or ("evenly" if round_one else "start")
            cover = {"share": share, "where": where} if share > 0 else None
            if cover != self.record.get("cover"):
                found["cover"] = cover
        return found

    def sources(self) -> Mapping[str, str]:
        """The hours stand for the schedule, what is covered for the cover."""
        return {"schedule": "hours", "cover": "covered"}


class AgeForm(PartForm):
    """How old a lamp is, and what it still gives."""

    in_use_since = date_field(label="in use since", required=False)
    ageing = QuantityField(PERCENT, 0.3, 1, per=100, label="gives still")


class AllLampsForm(PartForm):
    """One height, dimmer or day for all lamps of a space; what is left open stays as it is."""

    z_m = QuantityField(LENGTH, 0, 6, optional=True, label="height")
    dim = QuantityField(PERCENT, 0, 1, per=100, optional=True, label="dimmer")
    hours = QuantityField(DURATION, 0, 24, optional=True, label="hours")

    def values(self) -> dict[str, float]:
        """What was typed."""
        return {name: value for name, value in self.cleaned_data.items() if value is not None}


class AddLampForm(PartForm):
    """A lamp from the library to hang."""

    class_id = forms.ChoiceField(label="lamp")
    count = forms.IntegerField(min_value=1, max_value=12, initial=1, label="how many")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, class_id=lamp_choices())


class PoseForm(forms.Form):
    """One lamp, or all, into one of their usual places."""

    lamp = forms.ChoiceField(label="put lamp")
    pose = forms.ChoiceField(
        label="to stand",
        choices=[(key, words) for key, (words, *_) in (POSES | SHARED).items()],
    )

    def __init__(self, lamps: Sequence[Fixture], data: Any = None) -> None:
        super().__init__(data, auto_id="pose-%s")
        every = [("all", "all lamps")] if len(lamps) > 1 else []
        offer(self, lamp=every + [(lamp.id, f"{number} {lamp.spec.name}") for number, lamp in enumerate(lamps, 1)])
