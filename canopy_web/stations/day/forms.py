"""Forms of the Day station: how a space is watered, and how often and when work comes."""

from __future__ import annotations

from typing import Any

from django import forms

from canopy.plan.care import WATERING
from canopy.quantities import VOLUME
from canopy_web.forms.fields import NumberField, QuantityField, date_field
from canopy_web.forms.part import PartForm

CLOCK = r"^([01]\d|2[0-3]):[0-5]\d$"


def clock_field(label: str, *, required: bool = False) -> forms.RegexField:
    """A time of the day, typed as 08:30."""
    return forms.RegexField(
        CLOCK,
        required=required,
        label=label,
        error_messages={"invalid": "type a time as 08:30", "required": "type a time as 08:30"},
        widget=forms.TextInput(attrs={"size": 5, "placeholder": "08:30"}),
    )


class WateringForm(PartForm):
    """How water comes to the pots."""

    way = forms.ChoiceField(choices=list(WATERING.items()), label="watered")
    tank_l = QuantityField(VOLUME, 0.01, 2000, optional=True, label="its tank holds")
    flow_l_h = NumberField(min_value=0.01, max_value=2000, required=False, label="all emitters give (L/h)")
    runs = forms.IntegerField(min_value=1, max_value=24, label="runs a day")
    first_at = clock_field("first at", required=True)


class CareRuleForm(PartForm):
    """How often some work comes, from when and at what time; work of one's own has a name and a note."""

    name = forms.CharField(max_length=120, label="work")
    every_days = forms.IntegerField(min_value=1, max_value=730, required=False, label="every … days")
    at = clock_field("at")
    starts_on = date_field(required=False, label="from")
    note = forms.CharField(max_length=300, required=False, label="note")

    def __init__(
        self,
        record: dict[str, Any],
        data: Any = None,
        *,
        usual: int | None,
        usual_at: str,
        named: bool = False,
        **more: Any,
    ) -> None:
        super().__init__(record, data, **more)
        if not named:
            del self.fields["name"]
            del self.fields["starts_on"]
            if usual is None:
                del self.fields["every_days"]
        for name, text in (("every_days", str(usual or "once")), ("at", usual_at)):
            if name in self.fields:
                self.fields[name].widget.attrs["placeholder"] = text

    def changes(self) -> dict[str, Any]:
        """What was emptied follows the plan again."""
        out = super().changes()
        for key in ("every_days", "at", "starts_on"):
            if key in out:
                value = out[key]
                out[key] = value.isoformat() if hasattr(value, "isoformat") else value or None
        return out


class LaneForm(PartForm):
    """Hours of a lane of the clock, typed: the same as dragging its edges."""

    start = clock_field("from", required=True)
    hours = NumberField(min_value=0.02, max_value=23.99, label="hours")

    def __init__(self, record: dict[str, Any], data: Any = None, *, fixed: bool = False, **more: Any) -> None:
        super().__init__(record, data, **more)
        if fixed:
            del self.fields["hours"]


class QuietForm(PartForm):
    """Hours in which people want quiet; both empty for none."""

    start = clock_field("quiet from")
    hours = NumberField(min_value=0.1, max_value=24, required=False, label="for hours")

    def clean(self) -> dict[str, Any]:
        """From when goes together with for how long."""
        got: dict[str, Any] = super().clean() or {}
        if not self.errors and bool(got.get("start")) != bool(got.get("hours")):
            missing = "hours" if got.get("start") else "start"
            self.add_error(missing, "say both: from when, and for how many hours; or neither")
        return got
