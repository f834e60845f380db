"""Forms of devices on plugs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.quantities import (
    DURATION,
    POWER,
)
from canopy_web.forms.clock import hours_changed, hours_of
from canopy_web.forms.fields import QuantityField
from canopy_web.forms.part import PartForm


class DeviceForm(PartForm):
    """Another device on a plug."""

    KINDS = [
        ("heater", "Heater"),
        ("mat", "Heat mat"),
        ("humidifier", "Humidifier"),
        ("dehumidifier", "Dehumidifier"),
        ("pump", "Pump"),
        ("circulation", "Circulation fan"),
        ("other", "Other"),
    ]
    name = forms.CharField(max_length=120, label="device")
    kind = forms.ChoiceField(choices=KINDS, label="kind")
    power_w = QuantityField(POWER, 0, 20_000, label="power drawn")
    hours_per_day = QuantityField(DURATION, 0, 24, label="hours a day")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, shown={**record["spec"], "hours_per_day": hours_of(record)}, **more)

    def changes(self) -> dict[str, Any]:
        """Figures of the data sheet lie in it; hours become the schedule."""
        out = hours_changed(self.record, super().changes(), "hours_per_day")
        return {key if key.startswith("schedule") else f"spec.{key}": value for key, value in out.items()}

    def sources(self) -> Mapping[str, str]:
        """The hours stand for the schedule."""
        return {"schedule": "hours_per_day", "hours": "hours_per_day"}
