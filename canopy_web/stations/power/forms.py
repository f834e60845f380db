"""Forms of devices on plugs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.quantities import DURATION, LENGTH, POWER
from canopy_web.forms.clock import hours_changed, hours_of
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer


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


KNOWN = [("", "not known"), ("True", "yes"), ("False", "no")]


def _yes_or_no(**more: Any) -> forms.TypedChoiceField:
    """Yes, no, or nobody looked."""
    return forms.TypedChoiceField(
        choices=KNOWN, required=False, coerce=lambda text: text == "True", empty_value=None, **more
    )


class _KnownForm(PartForm):
    """A form in which some things are yes, no, or not known."""

    def _written(self, name: str, record: Mapping[str, Any]) -> Any:
        if isinstance(self.fields[name], forms.TypedChoiceField):
            value = record.get(name)
            return "" if value is None else str(value)
        return super()._written(name, record)


class OutletForm(_KnownForm):
    """An outlet on a circuit."""

    name = forms.CharField(max_length=120, label="outlet")
    rcd = _yes_or_no(label="RCD or GFCI before it")
    height_m = QuantityField(LENGTH, 0, 3, optional=True, label="above the floor")
    rated_a = NumberField(min_value=1, max_value=63, required=False, label="rated, A")
    reach_m = QuantityField(LENGTH, 0, 50, optional=True, label="away along the wall")
    drip_loops = _yes_or_no(label="cords loop below it")


class CarrierForm(_KnownForm):
    """A strip, timer, smart plug or cord."""

    name = forms.CharField(max_length=120, label="name")
    into = forms.ChoiceField(label="plugged into")
    limit_w = QuantityField(POWER, 1, 20_000, optional=True, label="carries")
    motor_w = QuantityField(POWER, 1, 20_000, optional=True, label="of lamps and motors")
    heaters = _yes_or_no(label="made for heaters")
    length_m = QuantityField(LENGTH, 0.1, 100, optional=True, label="length")
    area_mm2 = NumberField(min_value=0.3, max_value=10, required=False, label="conductor, mm²")
    coiled = forms.BooleanField(required=False, label="coiled")

    def __init__(self, record: Mapping[str, Any], data: Any = None, *, into: Any = (), **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, into=into)


class VariantForm(PartForm):
    """A name for the space as it stands, and what it would cost to buy."""

    name = forms.CharField(max_length=120, label="keep it as")
    price = NumberField(min_value=0, max_value=1_000_000, required=False, label="to buy, if you know")


class YieldForm(PartForm):
    """What is expected of a planting in all."""

    yield_amount = NumberField(min_value=0.001, max_value=100_000, required=False, label="expected")
    yield_unit = forms.CharField(max_length=20, label="of")
