"""Forms of the workspace: each edits one part of a space and hands over only what was changed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.errors import PlanError
from canopy.library import GROUPS, Crop, crops, fixtures, light_sources, materials
from canopy.plan import FACES
from canopy.quantities import (
    ANGLE,
    DIAMETER,
    DURATION,
    LENGTH,
    PERCENT,
    POWER,
    TEMPERATURE,
    number,
)
from canopy_web.workspace.fields import NumberField, QuantityField

Choices = list[tuple[str, Any]]
SIDES: Choices = [(side, side.capitalize()) for side in ("left", "right", "front", "back")]
KINDS: Choices = [
    ("tent", "Tent"),
    ("closet", "Closet"),
    ("cabinet", "Cabinet"),
    ("shelf", "Shelf or rack"),
    ("glass-case", "Glass case"),
]
GROUP_NAMES = {
    "microgreen": "Shoots and microgreens",
    "seedling": "Seedlings",
    "leaf": "Leaf",
    "herb": "Herbs",
    "fruiting": "Fruiting",
    "root": "Roots and tubers",
    "houseplant": "Houseplants",
    "orchid": "Orchids",
    "fern-moss": "Ferns and mosses",
    "carnivore": "Carnivores",
    "succulent": "Succulents",
    "bulb": "Bulbs",
}


def crop_choices(known: Mapping[str, Crop] | None = None) -> Choices:
    """Crops by group, a person's own first."""
    rows = list((known or crops()).values())
    own = [(crop.id, crop.name) for crop in rows if crop.id not in crops()]
    found: Choices = [("Your own", own)] if own else []
    for group in GROUPS:
        members = [(crop.id, crop.name) for crop in rows if crop.group == group and crop.id in crops()]
        if members:
            found.append((GROUP_NAMES[group], members))
    return found


def lamp_choices() -> Choices:
    """Lamp classes by technology."""
    names = {"led": "LED", "fluorescent": "Fluorescent", "hps": "Discharge", "metal-halide": "Discharge"}
    found: dict[str, Choices] = {}
    for row in fixtures().values():
        found.setdefault(names.get(row.spec.technology, "Other"), []).append((row.id, row.spec.name))
    return list(found.items())


def stage_choices(crop: Crop | None) -> Choices:
    """Stages of a crop."""
    return [(stage.kind, stage.kind.replace("-", " ")) for stage in crop.stages] if crop else []


def offer(form: forms.Form, **choices: Any) -> None:
    """Give a form's choosers what the library holds at this moment."""
    for name, rows in choices.items():
        field = form.fields[name]
        assert isinstance(field, forms.ChoiceField)
        field.choices = rows


class PartForm(forms.Form):
    """A form over a record: ``paths`` name where each field lies; shows the record, gives back the changes."""

    def __init__(
        self, record: Mapping[str, Any], data: Any = None, *, system: str = "metric", prefix: str = ""
    ) -> None:
        super().__init__(data, prefix=prefix or None, auto_id=f"{prefix}-%s" if prefix else "f-%s")
        self.record = record
        for name, field in self.fields.items():
            value = self._value(name)
            if isinstance(field, QuantityField):
                field.system = system
                self.initial[name] = field.write(value)
            elif isinstance(field, NumberField):
                self.initial[name] = "" if value is None else number(float(value), 3).replace("−", "-")
            else:
                self.initial[name] = field.initial if value is None else value

    def _value(self, name: str) -> Any:
        found: Any = self.record
        for step in name.split("."):
            if not isinstance(found, Mapping):
                return None
            found = found.get(step)
        return found

    def changes(self) -> dict[str, Any]:
        """Give the fields whose text was changed, by path."""
        out = {}
        for name, field in self.fields.items():
            raw = field.widget.value_from_datadict(self.data, self.files, self.add_prefix(name))
            if isinstance(field, forms.BooleanField):
                changed = bool(raw) != bool(self.initial.get(name))
            else:
                changed = raw is not None and str(raw).strip() != str(self.initial.get(name) or "").strip()
            if changed:
                out[name] = self.cleaned_data[name]
        return out

    def take(self, error: PlanError) -> None:
        """Show what the plan refuses, at the field it concerns."""
        for problem in error.problems:
            last = problem.path.rpartition(".")[2]
            names = [name for name in self.fields if name.rpartition(".")[2] == last]
            message = problem.message[0].upper() + problem.message[1:]
            self.add_error(names[0] if names else None, message)


class LampForm(PartForm):
    """A lamp in its place."""

    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, label="height")
    dim = QuantityField(PERCENT, 0, 1, per=100, label="dimmer")
    hours = QuantityField(DURATION, 0, 24, label="hours")
    yaw_deg = QuantityField(ANGLE, -360, 360, label="turn")
    tilt_deg = QuantityField(ANGLE, -180, 180, label="tilt")
    pitch_deg = QuantityField(ANGLE, -90, 90, label="lift")
    enabled = forms.BooleanField(required=False, label="on")


class AllLampsForm(PartForm):
    """One height, dimmer or day for all lamps of a space; what is left open stays as it is."""

    z_m = QuantityField(LENGTH, 0, 6, optional=True, label="height")
    dim = QuantityField(PERCENT, 0, 1, per=100, optional=True, label="dimmer")
    hours = QuantityField(DURATION, 0, 24, optional=True, label="hours")

    def values(self) -> dict[str, float]:
        """What was typed."""
        return {name: value for name, value in self.cleaned_data.items() if value is not None}


class OpeningForm(PartForm):
    """A hole: round, slit, mesh window or seam; open or shut."""

    USES = [("exhaust", "Exhaust"), ("intake", "Intake"), ("cable", "Cable"), ("closed", "Sealed")]
    SHAPES = [("round", "Round"), ("slit", "Slit"), ("mesh", "Mesh window"), ("seam", "Door seam")]
    use = forms.ChoiceField(label="use", choices=USES)
    shape = forms.ChoiceField(label="shape", choices=SHAPES)
    face = forms.ChoiceField(label="face", choices=[(face, face.capitalize()) for face in FACES])
    u_m = QuantityField(LENGTH, 0, 10, label="along")
    v_m = QuantityField(LENGTH, 0, 10, label="up")
    diameter_m = QuantityField(DIAMETER, 0.005, 1, optional=True, label="diameter")
    width_m = QuantityField(LENGTH, 0.001, 10, optional=True, label="width")
    height_m = QuantityField(LENGTH, 0.001, 6, optional=True, label="height")
    clear_share = QuantityField(PERCENT, 0.01, 1, per=100, label="clear")
    open = forms.BooleanField(required=False, label="open")

    def changes(self) -> dict[str, Any]:
        """A new shape brings the measures it needs, from the old ones, and what a mesh leaves free."""
        out = super().changes()
        if "shape" not in out:
            return out
        across = self.record.get("diameter_m") or self.record.get("width_m") or 0.1
        if out["shape"] == "round":
            out.setdefault("diameter_m", min(across, self.record.get("height_m") or across, 1.0))
        else:
            out.setdefault("width_m", across)
            out.setdefault("height_m", self.record.get("height_m") or across)
        if "clear_share" not in out:
            out["clear_share"] = {"mesh": 0.6, "seam": 0.5}.get(out["shape"], 1.0)
        return out


class DeviceForm(PartForm):
    """Another device on a plug."""

    KINDS = [
        ("heater", "Heater"),
        ("mat", "Heat mat"),
        ("humidifier", "Humidifier"),
        ("dehumidifier", "Dehumidifier"),
        ("pump", "Pump"),
        ("circulation", "Stirring fan"),
        ("other", "Other"),
    ]
    name = forms.CharField(max_length=120, label="device")
    kind = forms.ChoiceField(choices=KINDS, label="kind")
    power_w = QuantityField(POWER, 0, 20_000, label="power drawn")
    hours_per_day = QuantityField(DURATION, 0, 24, label="hours a day")


class SpaceForm(PartForm):
    """A space's name and size."""

    name = forms.CharField(max_length=120, label="name")
    kind = forms.ChoiceField(choices=KINDS, label="kind")
    width_m = QuantityField(LENGTH, 0.1, 10, label="inner width")
    depth_m = QuantityField(LENGTH, 0.1, 10, label="inner depth")
    height_m = QuantityField(LENGTH, 0.1, 6, label="inner height")
    door_side = forms.ChoiceField(choices=[("", "none"), *SIDES], required=False, label="door")
    door_open = forms.BooleanField(required=False, label="door stands open")


class RoomForm(PartForm):
    """The room around a space."""

    day_c = QuantityField(TEMPERATURE, -30, 60, label="by day")
    night_c = QuantityField(TEMPERATURE, -30, 60, label="by night")
    day_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by day")
    night_rh_pct = QuantityField(PERCENT, 1, 100, label="humidity by night")


class FaceForm(PartForm):
    """One face's lining."""

    material_id = forms.ChoiceField(label="material")
    reflectance = QuantityField(PERCENT, 0, 0.98, per=100, optional=True, label="reflectance")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(
            self,
            material_id=[
                (row.id, f"{row.name}, {row.reflectance:.0%}" if not row.open else row.name)
                for row in materials().values()
            ],
        )

    def changes(self) -> dict[str, Any]:
        """A new material brings its own reflectance."""
        out = super().changes()
        if "material_id" in out and "reflectance" not in out:
            out["reflectance"] = None
        return out


class AddLampForm(PartForm):
    """A lamp from the library to hang."""

    class_id = forms.ChoiceField(label="lamp")
    count = forms.IntegerField(min_value=1, max_value=12, initial=1, label="how many")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, class_id=lamp_choices())


class OwnLampForm(PartForm):
    """A lamp from its data sheet."""

    OUTPUTS = [("ppf", "PPF, µmol/s"), ("efficacy", "Efficacy, µmol/J"), ("lumens", "Lumens")]
    name = forms.CharField(max_length=120, label="name")
    power_w = QuantityField(POWER, 0.5, 5000, label="power drawn")
    output = forms.ChoiceField(choices=OUTPUTS, label="light stated as")
    amount = NumberField(min_value=0.01, max_value=500_000, label="how much")
    source_id = forms.ChoiceField(label="kind of light", required=False)
    cct_k = NumberField(min_value=1800, max_value=10_000, required=False, label="colour, K")
    length_m = QuantityField(LENGTH, 0.01, 10, label="length of light")
    width_m = QuantityField(LENGTH, 0.005, 10, label="width of light")
    beam_angle_deg = QuantityField(ANGLE, 4, 170, optional=True, label="beam angle")
    min_distance_m = QuantityField(LENGTH, 0, 2, optional=True, label="keep away")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, source_id=[(row.id, row.name) for row in light_sources().values() if row.id != "daylight"])

    def spec(self) -> dict[str, Any]:
        """The lamp as the plan keeps it."""
        got, amount = self.cleaned_data, self.cleaned_data["amount"]
        output = {
            "ppf": {"kind": "ppf", "ppf_umol_s": amount},
            "efficacy": {"kind": "efficacy", "efficacy_umol_per_j": amount},
            "lumens": {
                "kind": "lumens",
                "flux_lm": amount,
                "source_id": got["source_id"] or "white-led",
                "cct_k": got["cct_k"] or 4000,
            },
        }[got["output"]]
        beam = got["beam_angle_deg"]
        out = {
            "name": got["name"],
            "power_w": got["power_w"],
            "output": output,
            "length_m": got["length_m"],
            "width_m": got["width_m"],
            "emission": "beam" if beam and abs(beam - 120) > 0.5 else "lambertian",
            "beam_angle_deg": beam or 120,
        }
        return out if got["min_distance_m"] is None else {**out, "min_distance_m": got["min_distance_m"]}
