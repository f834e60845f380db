"""Forms of what switches devices and fans."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.quantities import PERCENT, TEMPERATURE, TEMPERATURE_RISE
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm


class ThermostatForm(PartForm):
    """A thermostat, by day and by night."""

    day_c = QuantityField(TEMPERATURE, -30, 60, label="by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, label="by night")
    band_k = QuantityField(TEMPERATURE_RISE, 0.1, 10, label="band")
    senses = forms.ChoiceField(
        choices=[("air", "in the air"), ("root", "among the roots"), ("leaf", "at a leaf")], label="probe"
    )


class HygrostatForm(PartForm):
    """A hygrostat, by day and by night."""

    day_rh_pct = QuantityField(PERCENT, 1, 100, label="by day")
    night_rh_pct = QuantityField(PERCENT, 1, 100, label="by night")
    band_pct = QuantityField(PERCENT, 0.5, 30, label="band")


class GasForm(PartForm):
    """A CO2 regulator."""

    ppm = NumberField(min_value=400, max_value=2000, label="up to (ppm)")
    band_ppm = NumberField(min_value=5, max_value=500, label="band (ppm)")


FORMS: Mapping[str, type[PartForm]] = {"thermostat": ThermostatForm, "hygrostat": HygrostatForm, "co2": GasForm}


def control_form(control: Any, device_id: str, system: str, data: Any = None) -> PartForm:
    """Make the form over what switches a device."""
    record = control.model_dump(mode="json")
    return FORMS[control.kind](record, data, system=system, prefix=f"control-{device_id}")
