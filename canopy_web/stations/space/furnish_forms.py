"""Forms of what stands, hangs and shines in a space, and of its feed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django import forms

from canopy.light.outdoors import FACINGS, SKIES
from canopy.plan import Daylight
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
    load_limit_kg = QuantityField(WEIGHT, 0.1, 1000, optional=True, label="load limit")

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


class TrellisForm(PartForm):
    """A trellis that plants climb."""

    name = forms.CharField(max_length=120, label="name")
    x_m = QuantityField(LENGTH, 0, 10, label="middle from left")
    y_m = QuantityField(LENGTH, 0, 10, label="middle from front")
    z_m = QuantityField(LENGTH, 0, 6, label="foot")
    width_m = QuantityField(LENGTH, 0.05, 10, label="length")
    height_m = QuantityField(LENGTH, 0.05, 6, label="height")
    along = forms.ChoiceField(choices=[("width", "the width"), ("depth", "the depth")], label="along")


class HungForm(PartForm):
    """Something else that hangs from the frame."""

    name = forms.CharField(max_length=120, label="what")
    weight_kg = QuantityField(WEIGHT, 0, 200, label="weight")


def month_field(name: str) -> NumberField:
    """One month's light of a window, which may be left open."""
    return NumberField(min_value=0, max_value=70, required=False, label=name)


class DaylightForm(PartForm):
    """A window: where, how large, how much light comes in."""

    face = forms.ChoiceField(choices=FACE_CHOICES, label="face")
    u_m = QuantityField(LENGTH, 0, 10, label="along")
    v_m = QuantityField(LENGTH, 0, 10, label="up")
    width_m = QuantityField(LENGTH, 0.02, 10, label="width")
    height_m = QuantityField(LENGTH, 0.02, 6, label="height")
    hours = NumberField(min_value=0.5, max_value=24, label="hours")
    dli_mol_m2_d = NumberField(min_value=0, max_value=70, label="DLI inside the pane")
    month_1 = month_field("Jan")
    month_2 = month_field("Feb")
    month_3 = month_field("Mar")
    month_4 = month_field("Apr")
    month_5 = month_field("May")
    month_6 = month_field("Jun")
    month_7 = month_field("Jul")
    month_8 = month_field("Aug")
    month_9 = month_field("Sep")
    month_10 = month_field("Oct")
    month_11 = month_field("Nov")
    month_12 = month_field("Dec")

    together = (("dli_mol_m2_d", *(f"month_{n}" for n in range(1, 13))),)

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        shown = {f"month_{n}": value for n, value in enumerate(record.get("by_month") or (), 1)}
        super().__init__(record, data, shown=shown, **more)

    def year(self) -> list[Any]:
        """The twelve cells, January first."""
        return [self[f"month_{n}"] for n in range(1, 13)]

    def main(self) -> list[Any]:
        """All others."""
        return [self[name] for name in self.fields if not name.startswith("month_")]

    def changes(self) -> dict[str, Any]:
        """Months that are left open take the figure for the year; all open: the year's figure alone."""
        out = super().changes()
        if not any(name.startswith("month_") for name in out):
            return out
        out = {name: value for name, value in out.items() if not name.startswith("month_")}
        cells = [self.cleaned_data.get(f"month_{n}") for n in range(1, 13)]
        year = self.cleaned_data["dli_mol_m2_d"]
        filled = [year if cell is None else cell for cell in cells]
        return out | {"by_month": filled if any(cell is not None for cell in cells) else []}

    def sources(self) -> Mapping[str, str]:
        """Months make one figure of the record."""
        return {"by_month": "month_1"}


class EstimateForm(forms.Form):
    """What a window's light through the year is guessed from."""

    window = forms.ChoiceField(label="window")
    facing = forms.ChoiceField(choices=[(key, key) for key in FACINGS], initial="S", label="looks")
    sky = forms.ChoiceField(choices=[(key, key) for key in SKIES], initial="mixed", label="skies")
    panes = forms.ChoiceField(choices=[("1", "one"), ("2", "two"), ("3", "three")], initial="2", label="panes")
    open_share = QuantityField(PERCENT, 0.02, 1, per=100, initial="100 %", label="sky before it is free")

    def __init__(self, windows: Sequence[Daylight], data: Any = None) -> None:
        super().__init__(data, auto_id="estimate-%s")
        offer(self, window=[(w.id, f"{n}, {w.face}") for n, w in enumerate(windows, 1)])


class GroundForm(PartForm):
    """What lies under the plants, and what hangs above them."""

    stands_on = forms.ChoiceField(choices=[("floor", "the room's floor"), ("shelf", "a shelf")], label="stands on")
    below_c = QuantityField(TEMPERATURE, -10, 40, optional=True, label="floor temperature")
    insulation_m = QuantityField(LENGTH, 0, 0.5, label="foam under it")
    stand_off_m = QuantityField(LENGTH, 0, 1, label="stand-off")
    lip_m = QuantityField(LENGTH, 0, 0.5, label="raised edge of floor or tray")


class BearingForm(PartForm):
    """What frame or ceiling bears, and a net."""

    load_limit_kg = QuantityField(WEIGHT, 0.1, 1000, optional=True, label="load limit of frame or ceiling")
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
