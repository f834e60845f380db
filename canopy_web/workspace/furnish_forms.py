"""Forms of what stands, hangs and shines in a space, and of its feed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.library import materials, mixes
from canopy.plan import FACES
from canopy.quantities import EC, LENGTH, PERCENT, TEMPERATURE, VOLUME, WEIGHT
from canopy_web.workspace.fields import NumberField, QuantityField
from canopy_web.workspace.forms import PartForm, offer

FACE_CHOICES = [(face, face.capitalize()) for face in FACES]


def material_choices() -> list[tuple[str, str]]:
    """Materials with their reflectance."""
    return [(row.id, row.name if row.open else f"{row.name}, {row.reflectance:.0%}") for row in materials().values()]


class ShelfForm(PartForm):
    """A level to stand plants on."""

    name = forms.CharField(max_length=120, label="name")
    z_m = QuantityField(LENGTH, 0.01, 6, label="height")
    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    width_m = QuantityField(LENGTH, 0.02, 10, label="width")
    depth_m = QuantityField(LENGTH, 0.02, 10, label="depth")
    kind = forms.ChoiceField(choices=[("solid", "Solid"), ("wire", "Wire")], label="kind")
    top = forms.ChoiceField(label="top")
    under = forms.ChoiceField(label="underside")
    load_limit_kg = QuantityField(WEIGHT, 0.1, 1000, optional=True, label="bears")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        shown = {key: (record.get(key) or {}).get("material_id") for key in ("top", "under")}
        super().__init__({**record, **shown}, data, **more)
        offer(self, top=material_choices(), under=material_choices())

    def changes(self) -> dict[str, Any]:
        """Faces are kept as surfaces."""
        out = super().changes()
        for key in ("top", "under"):
            if key in out:
                out[key] = {"material_id": out[key], "reflectance": None}
        return out


class ColumnForm(PartForm):
    """A column that plants grow outward from."""

    name = forms.CharField(max_length=120, label="name")
    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, label="foot")
    height_m = QuantityField(LENGTH, 0.05, 6, label="height")
    diameter_m = QuantityField(LENGTH, 0.02, 1, label="diameter")
    reflectance = QuantityField(PERCENT, 0, 0.98, per=100, label="reflectance")


class HungForm(PartForm):
    """Something else that hangs from the frame."""

    name = forms.CharField(max_length=120, label="what")
    weight_kg = QuantityField(WEIGHT, 0, 200, label="weight")


class DaylightForm(PartForm):
    """A window: where, how large, how much light comes in."""

    face = forms.ChoiceField(choices=FACE_CHOICES, label="face")
    u_m = QuantityField(LENGTH, 0, 10, label="along")
    v_m = QuantityField(LENGTH, 0, 10, label="up")
    width_m = QuantityField(LENGTH, 0.02, 10, label="width")
    height_m = QuantityField(LENGTH, 0.02, 6, label="height")
    hours = NumberField(min_value=0.5, max_value=24, label="hours")
    dli_mol_m2_d = NumberField(min_value=0, max_value=70, label="DLI inside the pane")
    by_month = forms.CharField(max_length=120, required=False, label="or by month, January first")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        months = " ".join(f"{value:g}" for value in record.get("by_month", ()))
        super().__init__({**record, "by_month": months}, data, **more)

    def clean_by_month(self) -> list[float]:
        """Twelve numbers, parted by spaces, or none."""
        text = self.cleaned_data["by_month"].replace(";", " ").strip()
        if not text:
            return []
        try:
            found = [float(word.replace(",", ".")) for word in text.split()]
        except ValueError:
            raise forms.ValidationError("twelve numbers parted by spaces, such as 1 2 4 6 8 9 9 8 5 3 2 1") from None
        if len(found) != 12:
            raise forms.ValidationError(f"twelve numbers, one a month; these are {len(found)}")
        if not all(0 <= value <= 70 for value in found):
            raise forms.ValidationError("a DLI lies between 0 and 70 mol/m²/d")
        return found


class GroundForm(PartForm):
    """What lies under the plants, and what hangs above them."""

    stands_on = forms.ChoiceField(
        choices=[("wood", "wood"), ("concrete", "concrete or stone"), ("shelf", "a shelf")], label="stands on"
    )
    below_c = QuantityField(TEMPERATURE, -10, 40, optional=True, label="floor temperature")
    insulation_m = QuantityField(LENGTH, 0, 0.5, label="foam under it")
    stand_off_m = QuantityField(LENGTH, 0, 1, label="stand-off")
    lip_m = QuantityField(LENGTH, 0, 0.5, label="raised edge of floor or tray")


class BearingForm(PartForm):
    """What frame or ceiling bears, and a net."""

    load_limit_kg = QuantityField(WEIGHT, 0.1, 1000, optional=True, label="frame or ceiling bears")
    net_m = QuantityField(LENGTH, 0.02, 6, optional=True, label="net at")
    fan_hung = forms.BooleanField(required=False, label="fan and filter hang inside")


class FeedForm(PartForm):
    """How plants are fed."""

    way = forms.ChoiceField(choices=[("soil", "in soil or mix"), ("solution", "in solution")], label="grown")
    mix_id = forms.ChoiceField(label="mix")
    water_ec_ms_cm = QuantityField(EC, 0, 5, label="the water's own EC")
    target_ec_ms_cm = QuantityField(EC, 0.05, 6, optional=True, label="target EC")
    reservoir_l = QuantityField(VOLUME, 0.1, 2000, optional=True, label="reservoir")
    change_days = forms.IntegerField(min_value=1, max_value=90, label="changed every, days")
    top_up_share = QuantityField(PERCENT, 0, 1, per=100, label="top-up strength")
    uptake_l_d = QuantityField(VOLUME, 0.01, 200, optional=True, label="drawn in a day")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        if self.is_bound:
            # Only the fields of the way that is chosen stand on the page; the others stay as they are.
            shown = {self.add_prefix(name): value for name, value in self.initial.items()}
            self.data = {**shown, **{key: self.data[key] for key in self.data}}
        offer(self, mix_id=[(row.id, row.name) for row in mixes().values()])


class FeedPartForm(PartForm):
    """One part of the feed."""

    name = forms.CharField(max_length=120, label="part")
    ec_ms_cm_per_ml_l = NumberField(min_value=0.01, max_value=5, label="EC that 1 mL/L adds")
    share = NumberField(min_value=0.01, max_value=100, label="share")
