"""The form of a lamp by its data sheet."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from canopy.library import lamp_spectra, light_sources
from canopy.quantities import ANGLE, DIAMETER, LENGTH, PERCENT, POWER
from canopy_web.forms.fields import NumberField, QuantityField
from canopy_web.forms.part import PartForm, offer

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
