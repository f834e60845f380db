"""Forms of what switches devices and fans."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar

from django import forms

from canopy.plan.controls import FanControl
from canopy.plan.document import Device
from canopy.quantities import AREA, LENGTH, PERCENT, TEMPERATURE, TEMPERATURE_RISE
from canopy_web.forms.fields import NumberField, QuantityField, ScheduleField
from canopy_web.forms.part import PartForm

_CLOCK = ("clock", "clock alone")


class SwitchForm(PartForm):
    """When a device may run, and whether anything but the clock switches it."""

    schedule = ScheduleField(label="when it may run")
    switched = forms.ChoiceField(label="switched by")
    name: ClassVar[str] = "switch"

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        self.fields["switched"].choices = [("control", self.name), _CLOCK]  # type: ignore[attr-defined]


class ThermostatForm(SwitchForm):
    """A thermostat, by day and by night."""

    day_c = QuantityField(TEMPERATURE, -30, 60, label="by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, label="by night")
    band_k = QuantityField(TEMPERATURE_RISE, 0.1, 10, label="band")
    senses = forms.ChoiceField(
        choices=[("air", "in the air"), ("root", "among the roots"), ("leaf", "at a leaf")], label="probe"
    )
    name = "thermostat"
    planted = True

    def clean_senses(self) -> str:
        """A probe stands in something."""
        senses: str = self.cleaned_data["senses"]
        if senses == "leaf" and not self.planted:
            raise forms.ValidationError("nothing grows here: there is no leaf to hold it to")
        return senses


class HygrostatForm(SwitchForm):
    """A hygrostat, by day and by night."""

    day_rh_pct = QuantityField(PERCENT, 1, 100, label="by day")
    night_rh_pct = QuantityField(PERCENT, 1, 100, label="by night")
    band_pct = QuantityField(PERCENT, 0.5, 30, label="band")
    name = "hygrostat"


class GasForm(SwitchForm):
    """A CO2 regulator."""

    ppm = NumberField(min_value=400, max_value=2000, label="up to (ppm)")
    band_ppm = NumberField(min_value=5, max_value=500, label="band (ppm)")
    name = "sensor"


class ClockForm(SwitchForm):
    """What the clock alone switches."""


FORMS: Mapping[str, type[SwitchForm]] = {"thermostat": ThermostatForm, "hygrostat": HygrostatForm, "co2": GasForm}
_NAMES = {"humidifier": HygrostatForm.name, "dehumidifier": HygrostatForm.name, "co2": GasForm.name}


def control_form(device: Device, control: Any, system: str, *, planted: bool, data: Any = None) -> SwitchForm:
    """Make the form over what switches a device; ``control`` is None for one that the clock alone switches."""
    record = {
        **(control.model_dump(mode="json") if control else {}),
        "schedule": device.schedule.model_dump(mode="json"),
        "switched": "control" if control else "clock",
    }
    kind = FORMS[control.kind] if control else ClockForm
    form = kind(record, data, system=system, prefix=f"control-{device.id}")
    if isinstance(form, ThermostatForm):
        form.planted = planted
    if control is None:
        name = _NAMES.get(device.spec.kind, ThermostatForm.name)
        form.fields["switched"].choices = [("control", name), _CLOCK]  # type: ignore[attr-defined]
    return form


class FanControlForm(PartForm):
    """What turns a fan up and down."""

    hot_day_c = QuantityField(TEMPERATURE, -30, 60, optional=True, label="up above, by day")
    hot_night_c = QuantityField(TEMPERATURE, -30, 60, optional=True, label="up above, by night")
    damp_day_pct = QuantityField(PERCENT, 1, 100, optional=True, label="up above, by day")
    damp_night_pct = QuantityField(PERCENT, 1, 100, optional=True, label="up above, by night")
    cold_day_c = QuantityField(TEMPERATURE, -30, 60, optional=True, label="down below, by day")
    cold_night_c = QuantityField(TEMPERATURE, -30, 60, optional=True, label="down below, by night")
    least = QuantityField(PERCENT, 0, 1, per=100, label="least speed")
    most = QuantityField(PERCENT, 0.05, 1, per=100, label="most speed")
    ramp_k = QuantityField(TEMPERATURE_RISE, 0.2, 10, label="over so many degrees")
    ramp_pct = QuantityField(PERCENT, 1, 40, label="over so many points")
    purge_min = NumberField(min_value=0, max_value=60, label="purge at lights-out (min)")
    PAIRS: ClassVar[Sequence[tuple[str, str, str]]] = (
        ("hot_day_c", "hot_night_c", "too warm"),
        ("damp_day_pct", "damp_night_pct", "too damp"),
        ("cold_day_c", "cold_night_c", "too cold"),
    )

    def __init__(self, record: Mapping[str, Any] | None, data: Any = None, **more: Any) -> None:
        super().__init__(record or FanControl().model_dump(mode="json"), data, **more)

    def changes(self) -> dict[str, Any]:
        """A whole controller: a trigger that is given for one half of the day holds for the other, too."""
        out = super().changes()
        if not out:
            return out
        values = {**self.record, **out}
        for day, night, _ in self.PAIRS:
            for one, other in ((day, night), (night, day)):
                if one in out and values.get(other) is None:
                    values[other] = values[one]
                if one in out and out[one] is None:
                    values[one] = values[other] = None
        asks = any(values.get(day) is not None for day, _, _ in self.PAIRS) or values.get("purge_min")
        return {"control": values if asks else None}

    def seen(self) -> dict[str, Any]:
        """What is changed is the whole controller: nothing beside it is compared."""
        return {}


class DevicePlaceForm(PartForm):
    """Where a device stands."""

    x_m = QuantityField(LENGTH, 0, 10, optional=True, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, optional=True, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, optional=True, label="foot at")


class CutOffForm(PartForm):
    """Where a safety cut-off puts out lamps and heaters."""

    cut_off_c = QuantityField(TEMPERATURE, 20, 60, optional=True, label="cut-off at")


class LidForm(PartForm):
    """A lid, cloche or jar with an air of its own."""

    name = forms.CharField(max_length=120, label="name")
    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, label="stands at")
    width_m = QuantityField(LENGTH, 0.02, 10, label="width")
    depth_m = QuantityField(LENGTH, 0.02, 10, label="depth")
    height_m = QuantityField(LENGTH, 0.02, 3, label="height")
    material_id = forms.ChoiceField(choices=[("white-plastic", "clear plastic"), ("glass", "glass")], label="of")
    open_share = QuantityField(PERCENT, 0, 1, per=100, label="top open")


class WetForm(PartForm):
    """Open water, or a wall of wet moss."""

    name = forms.CharField(max_length=120, label="name")
    kind = forms.ChoiceField(choices=[("water", "open water"), ("moss", "wet moss")], label="what")
    area_m2 = QuantityField(AREA, 0.001, 40, label="area to the air")
