"""Forms for fans, filters, fittings and circulation fans: from a data sheet, or in their place."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.errors import QuantityError
from canopy.library import stirrers
from canopy.quantities import ANGLE, DIAMETER, FLOW, LENGTH, PERCENT, POWER, PRESSURE, WEIGHT, parse_between, show
from canopy_web.forms.clock import RUNS, CycledForm
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer

_STEPS = re.compile(r"[;/]\s*|,\s+|\s+")


class CurveField(forms.CharField):
    """A fan's curve as points of flow and pressure, such as "0 m3/h 180 Pa; 120 m3/h 90 Pa; 200 m3/h 0 Pa"."""

    system = "metric"

    def clean(self, value: Any) -> list[tuple[float, float]]:
        """Read the points."""
        text = super().clean(value)
        found = []
        for line in re.split(r"[;\n]+", text or ""):
            if not line.strip():
                continue
            numbers = re.findall(r"(\d+(?:[.,]\d+)?)\s*([^\d\s,;.]*(?:[³3]?/\w+)?(?:\s*w\.?\s*[gc]\.?)?)", line)
            if len(numbers) != 2:
                raise forms.ValidationError(
                    f"“{line.strip()}” is not a point: give flow and pressure, such as 120 m³/h 90 Pa, one point a line"
                )
            flow, pressure = (f"{figure} {unit}".strip() for figure, unit in numbers)
            us = self.system == "us"
            try:
                found.append(
                    (
                        parse_between(
                            flow, FLOW, 0, 6000, default_unit=(FLOW.us if us else FLOW.metric).unit, what="flow"
                        ),
                        parse_between(
                            pressure,
                            PRESSURE,
                            0,
                            3000,
                            default_unit=(PRESSURE.us if us else PRESSURE.metric).unit,
                            what="pressure",
                        ),
                    )
                )
            except QuantityError as error:
                raise forms.ValidationError(str(error)) from error
        return found


class OwnFanForm(PartForm):
    """A fan from its data sheet: free flow and greatest pressure, or points of its curve."""

    name = forms.CharField(max_length=120, label="name")
    free_flow_m3_h = QuantityField(FLOW, 1, 5000, label="free-air flow")
    diameter_m = QuantityField(DIAMETER, 0.02, 0.6, label="spigot")
    power_w = QuantityField(POWER, 0, 1000, label="power drawn")
    max_pressure_pa = QuantityField(PRESSURE, 1, 3000, optional=True, label="maximum static pressure")
    pressure = forms.ChoiceField(
        choices=[("static", "static, as usual"), ("total", "total")], required=False, label="which pressure"
    )
    noise_dba_1m = NumberField(min_value=0, max_value=100, required=False, label="noise at 1 m (dB(A))")
    weight_kg = QuantityField(WEIGHT, 0, 100, optional=True, label="weight")
    steps = forms.CharField(required=False, max_length=120, label="speed steps (%)")
    curve = CurveField(required=False, max_length=2000, label="curve, points")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        self.fields["curve"].system = more.get("system", "metric")  # type: ignore[attr-defined]

    def clean_steps(self) -> list[float]:
        """Speeds in percent, slowest first."""
        text = self.cleaned_data["steps"].replace("%", " ").strip()
        try:
            steps = sorted({round(float(item.replace(",", ".")) / 100, 4) for item in _STEPS.split(text) if item})
        except ValueError:
            raise forms.ValidationError("give percentages, such as 40, 60, 80, 100") from None
        if steps and (steps[0] < 0.1 or steps[-1] != 1):
            raise forms.ValidationError("steps run from 10 % or more up to 100 %, such as 40, 60, 80, 100")
        return steps

    def spec(self) -> dict[str, Any]:
        """The fan as the plan keeps it."""
        return {key: value for key, value in self.cleaned_data.items() if value not in (None, "", [])}


class OwnFilterForm(PartForm):
    """A carbon filter from its data sheet."""

    name = forms.CharField(max_length=120, label="name")
    diameter_m = QuantityField(DIAMETER, 0.02, 0.6, label="spigot")
    rated_flow_m3_h = QuantityField(FLOW, 1, 5000, label="rated flow")
    rated_pressure_pa = QuantityField(PRESSURE, 1, 1000, label="pressure drop at rated flow")
    bed_thickness_m = QuantityField(DIAMETER, 0.005, 0.3, optional=True, label="bed")
    bed_length_m = QuantityField(LENGTH, 0.02, 2, optional=True, label="bed's length")
    bed_inner_m = QuantityField(DIAMETER, 0.02, 1, optional=True, label="bed's inner diameter")
    weight_kg = QuantityField(WEIGHT, 0, 100, optional=True, label="weight")

    def spec(self) -> dict[str, Any]:
        """The filter as the plan keeps it; a bed without an inner diameter is as wide inside as its spigot."""
        got = {key: value for key, value in self.cleaned_data.items() if value is not None}
        if "bed_thickness_m" in got and "bed_length_m" in got:
            got.setdefault("bed_inner_m", got["diameter_m"])
        return got


class OwnFittingForm(PartForm):
    """A damper, muffler, grille, screen or light trap by its loss coefficient."""

    SORTS = [
        ("damper", "Back-draught flap"),
        ("muffler", "Muffler"),
        ("grille", "Grille"),
        ("screen", "Insect screen"),
        ("light-trap", "Light trap"),
        ("other", "Something else"),
    ]
    name = forms.CharField(max_length=120, label="name")
    sort = forms.ChoiceField(choices=SORTS, label="sort")
    diameter_m = QuantityField(DIAMETER, 0.02, 0.6, label="diameter")
    loss = NumberField(min_value=0, max_value=200, label="loss, K")
    noise_cut_db = NumberField(min_value=0, max_value=40, required=False, label="takes noise (dB)")
    weight_kg = QuantityField(WEIGHT, 0, 100, optional=True, label="weight")

    def spec(self) -> dict[str, Any]:
        """The fitting as the plan keeps it."""
        return {key: value for key, value in self.cleaned_data.items() if value is not None}


class StirForm(CycledForm):
    """A circulation fan in its place."""

    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, label="height")
    yaw_deg = QuantityField(ANGLE, -360, 360, label="rotation")
    pitch_deg = QuantityField(ANGLE, -90, 90, label="pitch")
    speed = QuantityField(PERCENT, 0.1, 1, per=100, label="speed")
    runs = forms.ChoiceField(choices=RUNS, required=False, label="runs")
    on_min = NumberField(min_value=0.1, max_value=1440, required=False, label="for (min)")
    every_min = NumberField(min_value=0.2, max_value=1440, required=False, label="of every (min)")
    swings = forms.BooleanField(required=False, label="swings")
    enabled = forms.BooleanField(required=False, label="on")


class AddStirForm(PartForm):
    """A circulation fan from the library."""

    class_id = forms.ChoiceField(label="circulation fan")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        system = more.get("system", "metric")
        rows = [(row.id, f"{row.spec.name}, {show(row.spec.flow_m3_h, FLOW, system)}") for row in stirrers().values()]
        offer(self, class_id=rows)


class OwnStirForm(PartForm):
    """A circulation fan from its data sheet."""

    name = forms.CharField(max_length=120, label="name")
    flow_m3_h = QuantityField(FLOW, 1, 5000, label="flow")
    diameter_m = QuantityField(DIAMETER, 0.02, 0.6, label="outlet")
    power_w = QuantityField(POWER, 0, 500, label="power drawn")
    sweep_deg = QuantityField(ANGLE, 0, 180, optional=True, label="swings over")
    noise_dba_1m = NumberField(min_value=0, max_value=100, required=False, label="noise at 1 m (dB(A))")

    def spec(self) -> dict[str, Any]:
        """The fan as the plan keeps it."""
        return {key: value for key, value in self.cleaned_data.items() if value is not None}
