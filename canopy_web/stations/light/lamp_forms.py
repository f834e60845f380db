"""Forms of lamps: in their place, all at once, from the library, from a data sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django import forms

from canopy.design.light.poses import POSES, SHARED
from canopy.library import lamp_spectra, light_sources
from canopy.plan import Fixture
from canopy.quantities import (
    ANGLE,
    DIAMETER,
    DURATION,
    LENGTH,
    PERCENT,
    POWER,
)
from canopy_web.forms.choices import lamp_choices
from canopy_web.forms.clock import hours_changed, hours_of
from canopy_web.forms.fields import NumberField, QuantityField, date_field
from canopy_web.forms.part import PartForm, offer

COVERED = [
    ("start", "its left end"),
    ("end", "its right end"),
    ("evenly", "all over (film, net)"),
]


class LampForm(PartForm):
    """A lamp in its place."""

    x_m = QuantityField(LENGTH, 0, 10, label="from left")
    y_m = QuantityField(LENGTH, 0, 10, label="from front")
    z_m = QuantityField(LENGTH, 0, 6, label="height")
    dim = QuantityField(PERCENT, 0, 1, per=100, label="dimmer")
    hours = QuantityField(DURATION, 0, 24, label="hours")
    yaw_deg = QuantityField(ANGLE, -360, 360, label="rotation")
    tilt_deg = QuantityField(ANGLE, -180, 180, label="tilt")
    pitch_deg = QuantityField(ANGLE, -90, 90, label="pitch")
    enabled = forms.BooleanField(required=False, label="on")
    covered = QuantityField(PERCENT, 0, 0.95, per=100, optional=True, label="covered")
    covered_where = forms.ChoiceField(choices=COVERED, label="where", required=False)

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        cover = record.get("cover") or {}
        shown = {
            "hours": hours_of(record),
            "covered": cover.get("share", 0.0),
            "covered_where": cover.get("where", "start"),
        }
        super().__init__(record, data, shown=shown, **more)
        if record.get("spec", {}).get("shape") == "disc":
            # A round lamp has no ends.
            offer(self, covered_where=[row for row in COVERED if row[0] == "evenly"])

    together = (("covered", "covered_where"),)

    def changes(self) -> dict[str, Any]:
        """Hours become the lamp's schedule, and what is covered its cover."""
        found = hours_changed(self.record, super().changes(), "hours")
        typed = {found.pop(name, None) for name in ("covered", "covered_where")}
        if typed != {None}:
            share = self.cleaned_data.get("covered") or 0.0
            round_one = self.record.get("spec", {}).get("shape") == "disc"
            where = self.cleaned_data.get("covered_where") or ("evenly" if round_one else "start")
            cover = {"share": share, "where": where} if share > 0 else None
            if cover != self.record.get("cover"):
                found["cover"] = cover
        return found

    def sources(self) -> Mapping[str, str]:
        """The hours stand for the schedule, what is covered for the cover."""
        return {"schedule": "hours", "cover": "covered"}


class AgeForm(PartForm):
    """How old a lamp is, and what it still gives."""

    in_use_since = date_field(label="in use since", required=False)
    ageing = QuantityField(PERCENT, 0.3, 1, per=100, label="gives still")


class AllLampsForm(PartForm):
    """One height, dimmer or day for all lamps of a space; what is left open stays as it is."""

    z_m = QuantityField(LENGTH, 0, 6, optional=True, label="height")
    dim = QuantityField(PERCENT, 0, 1, per=100, optional=True, label="dimmer")
    hours = QuantityField(DURATION, 0, 24, optional=True, label="hours")

    def values(self) -> dict[str, float]:
        """What was typed."""
        return {name: value for name, value in self.cleaned_data.items() if value is not None}


class AddLampForm(PartForm):
    """A lamp from the library to hang."""

    class_id = forms.ChoiceField(label="lamp")
    count = forms.IntegerField(min_value=1, max_value=12, initial=1, label="how many")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, class_id=lamp_choices())


# Spectra of lamps that lumens say little about.
COLOURED = ("red-blue", "red-heavy-white")


def kinds_of_light() -> list[tuple[str, str]]:
    """What a lamp's light may be called: kinds of lamps, then coloured LED."""
    kinds = [(row.id, row.name) for row in light_sources().values() if row.id != "daylight"]
    return kinds + [(key, lamp_spectra()[key].name) for key in COLOURED if key not in light_sources()]


def kind_of_light(source_id: str, cct_k: float) -> dict[str, str]:
    """Give a lamp's technology and spectrum for a kind of light, however its output is stated."""
    technology = "fluorescent" if source_id.endswith("fluorescent") else source_id
    if technology not in ("fluorescent", "hps", "metal-halide", "incandescent"):
        technology = "led"
    spectrum = f"white-led-{cct_k:.0f}" if source_id == "white-led" else source_id
    return {"technology": technology, "spectrum_id": spectrum}


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
    min_distance_m = QuantityField(LENGTH, 0, 2, optional=True, label="minimum distance")
    hood_share = QuantityField(PERCENT, 0, 0.9, per=100, optional=True, label="air-cooled hood takes up")
    hood_m = QuantityField(DIAMETER, 0.05, 0.4, optional=True, label="its spigots")

    def __init__(self, record: Mapping[str, Any], data: Any = None, **more: Any) -> None:
        super().__init__(record, data, **more)
        offer(self, source_id=kinds_of_light())

    def clean(self) -> dict[str, Any]:
        """Lumens of coloured light say next to nothing of its photons."""
        got: dict[str, Any] = super().clean() or {}
        if got.get("output") == "lumens" and got.get("source_id") in COLOURED:
            self.add_error("source_id", "lumens say little of red and blue light: give its PPF or efficacy")
        return got

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
        kind = kind_of_light(got["source_id"] or "white-led", got["cct_k"] or 4000)
        beam = got["beam_angle_deg"]
        out = {
            "name": got["name"],
            "power_w": got["power_w"],
            "output": output,
            **kind,
            "length_m": got["length_m"],
            "width_m": got["width_m"],
            "emission": "beam" if beam and abs(beam - 120) > 0.5 else "lambertian",
            "beam_angle_deg": beam or 120,
        }
        more = ("min_distance_m", "hood_share", "hood_m")
        return out | {key: got[key] for key in more if got[key] is not None}


class PoseForm(forms.Form):
    """One lamp, or all, into one of their usual places."""

    lamp = forms.ChoiceField(label="put lamp")
    pose = forms.ChoiceField(
        label="to stand",
        choices=[(key, words) for key, (words, *_) in (POSES | SHARED).items()],
    )

    def __init__(self, lamps: Sequence[Fixture], data: Any = None) -> None:
        super().__init__(data, auto_id="pose-%s")
        every = [("all", "all lamps")] if len(lamps) > 1 else []
        offer(self, lamp=every + [(lamp.id, f"{number} {lamp.spec.name}") for number, lamp in enumerate(lamps, 1)])
