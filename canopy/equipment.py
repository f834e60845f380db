"""What a device is, whether it comes from the library or from a data sheet."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from canopy.model import Name, Positive, Record, Share


class PpfOutput(Record):
    """Photon output stated as PPF [µmol/s] at full power."""

    kind: Literal["ppf"] = "ppf"
    ppf_umol_s: Annotated[float, Field(gt=0, le=20_000)]


class EfficacyOutput(Record):
    """Photon output stated as efficacy [µmol/J] of the drawn power."""

    kind: Literal["efficacy"] = "efficacy"
    efficacy_umol_per_j: Annotated[float, Field(gt=0, le=5)]


class LumenOutput(Record):
    """Photon output stated as lumens with the kind of lamp and, for white LED, its colour temperature."""

    kind: Literal["lumens"] = "lumens"
    flux_lm: Annotated[float, Field(gt=0, le=500_000)]
    source_id: str = "white-led"
    cct_k: Annotated[float, Field(ge=1800, le=10_000)] = 4000


Output = Annotated[PpfOutput | EfficacyOutput | LumenOutput, Field(discriminator="kind")]


class FixtureSpec(Record):
    """A grow light: what it draws, gives off, and how it is built.

    The emitting face is a rectangle ``length_m`` x ``width_m`` or a disc of
    diameter ``length_m``; a frame of bars is ``bars`` such rectangles side by
    side at ``bar_pitch_m``. The body is an opaque plate behind that face.
    """

    name: Name
    class_id: str = ""
    technology: Literal["led", "fluorescent", "hps", "metal-halide", "incandescent"] = "led"
    power_w: Annotated[float, Field(gt=0, le=5000)]
    label_power_w: Annotated[float, Field(gt=0, le=10_000)] | None = None
    output: Output
    shape: Literal["rectangle", "disc"] = "rectangle"
    length_m: Annotated[float, Field(gt=0, le=10)]
    width_m: Annotated[float, Field(gt=0, le=10)]
    thickness_m: Annotated[float, Field(ge=0, le=1)] = 0.05
    bars: Annotated[int, Field(ge=1, le=40)] = 1
    bar_pitch_m: Annotated[float, Field(ge=0, le=2)] = 0
    emission: Literal["lambertian", "beam"] = "lambertian"
    beam_angle_deg: Annotated[float, Field(ge=4, le=170)] = 120
    body_reflectance: Annotated[float, Field(ge=0, le=0.98)] = 0.5
    min_distance_m: Annotated[float, Field(ge=0, le=2)] = 0.15
    hanger_m: Annotated[float, Field(ge=0, le=1)] = 0.05
    weight_kg: Annotated[float, Field(ge=0, le=100)] | None = None

    @property
    def overall_width_m(self) -> float:
        """Width over all bars [m]."""
        return self.width_m + (self.bars - 1) * self.bar_pitch_m


class FanSpec(Record):
    """A fan by its free-air flow and spigot."""

    name: Name
    class_id: str = ""
    free_flow_m3_h: Annotated[float, Field(gt=0, le=5000)]
    diameter_m: Annotated[float, Field(gt=0, le=0.6)]
    power_w: Annotated[float, Field(ge=0, le=1000)]
    max_pressure_pa: Positive | None = None
    noise_dba_1m: Annotated[float, Field(ge=0, le=100)] | None = None
    weight_kg: Annotated[float, Field(ge=0, le=100)] | None = None


class DeviceSpec(Record):
    """Any other thing on a plug."""

    name: Name
    kind: Literal["heater", "mat", "humidifier", "dehumidifier", "pump", "circulation", "other"] = "other"
    power_w: Annotated[float, Field(ge=0, le=20_000)]
    hours_per_day: Annotated[float, Field(ge=0, le=24)]
    heats_space: Share = 1.0
