"""What a lamp is: what it draws, gives off, and how it is built."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.model import Name, Record

# A round spigot opens into the hood and narrows again behind it: a sudden widening and a sudden narrowing.
HOOD_LOSS = 1.5


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


class NoOutput(Record):
    """A lamp that is not there for its photons: ultraviolet tubes and heat lamps."""

    kind: Literal["none"] = "none"


class Photometry(Record):
    """Where a lamp's light goes, relative: intensity [any unit] by horizontal and vertical angle.

    ``vertical_deg`` runs from the way the lamp shines (0) to straight behind it (180); ``horizontal_deg`` turns about
    that way from the lamp's length (0) towards its width (90). Horizontal angles that end at 0, 90 or 180 stand for
    a lamp alike all round, in four quarters, or on both sides of its length; else they run to 360.
    """

    name: Name = "photometric file"
    horizontal_deg: tuple[Annotated[float, Field(ge=0, le=360)], ...] = Field(min_length=1, max_length=181)
    vertical_deg: tuple[Annotated[float, Field(ge=0, le=180)], ...] = Field(min_length=2, max_length=361)
    intensity: tuple[tuple[Annotated[float, Field(ge=0, le=1e9)], ...], ...] = Field(min_length=1, max_length=181)

    @model_validator(mode="after")
    def _whole(self) -> Photometry:
        if len(self.intensity) != len(self.horizontal_deg):
            raise ValueError("one row of intensities for each horizontal angle")
        if any(len(row) != len(self.vertical_deg) for row in self.intensity):
            raise ValueError("one intensity for each vertical angle")
        for angles in (self.horizontal_deg, self.vertical_deg):
            if list(angles) != sorted(set(angles)):
                raise ValueError("angles must rise")
        if self.horizontal_deg[0] != 0 or self.horizontal_deg[-1] not in (0, 90, 180, 360):
            raise ValueError("horizontal angles run from 0 to 0, 90, 180 or 360")
        if not any(value > 0 for row in self.intensity for value in row):
            raise ValueError("no light anywhere")
        return self


Output = Annotated[PpfOutput | EfficacyOutput | LumenOutput | NoOutput, Field(discriminator="kind")]


class FixtureSpec(Record):
    """A grow light: what it draws, gives off, and how it is built.

    The emitting face is a rectangle ``length_m`` x ``width_m`` or a disc of
    diameter ``length_m``; a frame of bars is ``bars`` such rectangles side by
    side at ``bar_pitch_m``. The body is an opaque plate behind that face. A bare ``tube`` or ``bulb`` shines all round
    and has no body. ``hood_share`` is the part of its heat that air led through its hood takes up, ``hood_m`` the
    diameter of that hood's spigots, ``hood_loss`` what it costs on the velocity in them: without a way of air through
    it the heat stays in the space;
    ``link_limit_w`` what a chain of such lamps may draw through its first plug. One that is not ``dimmable`` runs at
    full or not at all as it is sold; nothing proposes otherwise.
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
    emission: Literal["lambertian", "beam", "photometric", "tube", "bulb"] = "lambertian"
    beam_angle_deg: Annotated[float, Field(ge=4, le=170)] = 120
    body_reflectance: Annotated[float, Field(ge=0, le=0.98)] = 0.5
    min_distance_m: Annotated[float, Field(ge=0, le=2)] = 0.15
    hanger_m: Annotated[float, Field(ge=0, le=1)] = 0.05
    weight_kg: Annotated[float, Field(ge=0, le=100)] | None = None
    photometry: Photometry | None = None
    spectrum_id: str = ""
    spectrum: tuple[tuple[float, float], ...] = Field(default=(), max_length=500)
    hood_share: Annotated[float, Field(ge=0, le=0.9)] = 0.0
    hood_m: Annotated[float, Field(ge=0.05, le=0.4)] = 0.15
    hood_loss: Annotated[float, Field(ge=0, le=50)] = HOOD_LOSS
    link_limit_w: Annotated[float, Field(gt=0, le=5000)] | None = None
    purpose: Literal["grow", "uv", "heat"] = "grow"
    dimmable: bool = True

    @model_validator(mode="after")
    def _shone(self) -> FixtureSpec:
        if self.emission == "photometric" and self.photometry is None:
            raise ValueError("a lamp by photometric file needs its photometry")
        waves = [wave for wave, _ in self.spectrum]
        if waves != sorted(set(waves)) or any(not (200 <= w <= 3000 and 0 <= p < 1e9) for w, p in self.spectrum):
            raise ValueError("a spectrum is rising wavelengths from 200 to 3000 nm, each with its power, zero or more")
        return self

    @property
    def overall_width_m(self) -> float:
        """Width over all bars [m]."""
        return self.width_m + (self.bars - 1) * self.bar_pitch_m
