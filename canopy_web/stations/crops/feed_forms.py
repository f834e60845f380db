"""Forms of how plants are fed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.library import mixes
from canopy.quantities import EC, PERCENT, VOLUME
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer


class FeedForm(PartForm):
    """How plants are fed."""

    way = forms.ChoiceField(choices=[("soil", "in soil or mix"), ("solution", "in solution")], label="grown")
    mix_id = forms.ChoiceField(label="mix")
    water_ec_ms_cm = QuantityField(EC, 0, 5, label="the water's own EC")
    target_ec_ms_cm = QuantityField(EC, 0.05, 6, optional=True, label="target EC")
    above_water = forms.BooleanField(required=False, label="target counts above the water's")
    alkalinity_mg_l = NumberField(min_value=0, max_value=1000, required=False, label="alkalinity, mg/L CaCO₃")
    ph_dose_ml_l = NumberField(min_value=0.01, max_value=20, required=False, label="pH acid or base for 1 L, mL")
    reservoir_l = QuantityField(VOLUME, 0.1, 2000, optional=True, label="reservoir")
    change_days = forms.IntegerField(min_value=1, max_value=90, label="changed every, days")
    top_up_share = QuantityField(PERCENT, 0, 1, per=100, label="top-up strength")
    uptake_l_d = QuantityField(VOLUME, 0.01, 200, optional=True, label="water used a day")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        if self.is_bound:
            # Only the fields of the way that is chosen stand on the page; the others stay as they are.
            shown = {self.add_prefix(name): value for name, value in self.initial.items()}
            if self.add_prefix("reservoir_l") in self.data:
                # A box that stands there and is not ticked sends nothing.
                del shown[self.add_prefix("above_water")]
            self.data = {**shown, **{key: self.data[key] for key in self.data}}
        offer(self, mix_id=[(row.id, row.name) for row in mixes().values()])


class FeedPartForm(PartForm):
    """One part of the feed."""

    name = forms.CharField(max_length=120, label="part")
    kind = forms.ChoiceField(
        choices=[
            ("silicate", "silicate"),
            ("calcium", "calcium, magnesium"),
            ("base", "base feed"),
            ("other", "other"),
        ],
        label="kind",
    )
    powder = forms.BooleanField(required=False, label="powder")
    ec_ms_cm_per_ml_l = NumberField(min_value=0.01, max_value=5, label="EC that 1 mL/L adds")
    share = NumberField(min_value=0.01, max_value=100, label="share")
    dose_ml_l = NumberField(min_value=0.01, max_value=20, required=False, label="fixed dose, mL/L")
