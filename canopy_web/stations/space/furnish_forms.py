"""Forms of what stands, hangs and shines in a space, and of its feed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.quantities import LENGTH, PERCENT, TEMPERATURE, WEIGHT
from canopy_web.forms.choices import FACE_CHOICES, material_choices
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer

SHELF_KINDS = [("solid", "Solid"), ("wire", "Wire"), ("perforated", "Perforated"), ("glass", "Clear glass")]


class ShelfForm(PartForm):
    """A level to stand plants on."""

    name = forms.CharField(max_length=120, label="name")
    z_m = QuantityField(LENGTH, 0.01, 6, label="height")
    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    width_m = QuantityField(LENGTH, 0.02, 10, label="width")
    depth_m = QuantityField(LENGTH, 0.02, 10, label="depth")
    kind = forms.ChoiceField(choices=SHELF_KINDS, label="kind")
    open_share = QuantityField(PERCENT, 0.01, 0.95, per=100, optional=True, label="open, if perforated")
    top = forms.ChoiceField(label="top")
    under = forms.ChoiceField(label="underside")
    load_limit_kg = QuantityField(WEIGHT, 0.1, 1000, optional=True, label="bears")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        shown = {key: (record.get(key) or {}).get("material_id") for key in ("top", "under")}
        super().__init__(record, data, shown=shown, **more)
        offer(self, top=material_choices(), under=material_choices())

    def changes(self) -> dict[str, Any]:
        """Faces are kept as surfaces."""
        out = super().changes()
        if out.get("open_share", 1) is None:
            del out["open_share"]
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
        super().__init__(record, data, shown={"by_month": months}, **more)

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

    stands_on = forms.ChoiceField(choices=[("floor", "the room's floor"), ("shelf", "a shelf")], label="stands on")
    below_c = QuantityField(TEMPERATURE, -10, 40, optional=True, label="floor temperature")
    insulation_m = QuantityField(LENGTH, 0, 0.5, label="foam under it")
    stand_off_m = QuantityField(LENGTH, 0, 1, label="stand-off")
    lip_m = QuantityField(LENGTH, 0, 0.5, label="raised edge of floor or tray")


class BearingForm(PartForm):
    """What frame or ceiling bears, and a net."""

    load_limit_kg = QuantityField(WEIGHT, 0.1, 1000, optional=True, label="frame or ceiling bears")
    net_m = QuantityField(LENGTH, 0.02, 6, optional=True, label="net at")
    fan_hung = forms.BooleanField(required=False, label="fan and filter hang inside")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        net = record["net"] or {}
        super().__init__(record, data, shown={"net_m": net.get("z_m"), "fan_hung": record["air"]["hung"]}, **more)

    def changes(self) -> dict[str, Any]:
        """The net and the hanging lie in records of their own."""
        out = super().changes()
        if "fan_hung" in out:
            out["air.hung"] = out.pop("fan_hung")
        if "net_m" in out:
            height = out.pop("net_m")
            out["net"] = None if height is None else {**(self.record["net"] or {}), "z_m": height}
        return out

    def sources(self) -> Mapping[str, str]:
        """Fields that stand for keys of other names."""
        return {"net": "net_m", "hung": "fan_hung"}
