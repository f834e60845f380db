"""What moves, cleans and leads air: fans, filters, ducts, fittings and circulation fans, by what a data sheet says."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.model import Name, Record

Diameter = Annotated[float, Field(ge=0.02, le=0.6)]
Weight = Annotated[float, Field(ge=0, le=100)]
Noise = Annotated[float, Field(ge=0, le=100)]
Speed = Annotated[float, Field(ge=0.1, le=1)]
# How far a typed curve may climb again before it is refused, as a share of its greatest pressure.
STALL_DIP = 0.10


class FanSpec(Record):
    """A fan by its free-air flow, greatest pressure and spigot, or by points of its curve at full speed.

    ``curve`` holds (flow [m³/h], static pressure [Pa]); flows rise, pressures fall. A dip before the peak (a stall) of
    up to a tenth of the greatest pressure is levelled out. ``steps`` are the speeds of its control as shares of full
    speed, rising to 1; without them it is set to any speed. ``shape`` bends the curve between greatest pressure and
    free flow: 0.2 for backward-curved wheels, 0.8 for mixed flow. ``pressure`` says what the sheet's pressure is:
    static, with the dynamic pressure at the outlet left out as most sheets do, or total. ``motor`` says how it is
    turned down: an electronic one draws by the cube of its speed (affinity laws), a mains motor behind a dimmer or
    transformer only by about its square, as it slips and heats; by its class and kind where nobody said.
    """

    name: Name
    class_id: str = ""
    kind: Literal["inline", "axial", "case"] = "inline"
    free_flow_m3_h: Annotated[float, Field(gt=0, le=5000)]
    diameter_m: Diameter
    power_w: Annotated[float, Field(ge=0, le=1000)]
    max_pressure_pa: Annotated[float, Field(gt=0, le=3000)] | None = None
    pressure: Literal["static", "total"] = "static"
    shape: Annotated[float, Field(ge=0, le=1)] = 0.45
    curve: tuple[tuple[float, float], ...] = Field(default=(), max_length=40)
    steps: tuple[Speed, ...] = Field(default=(), max_length=20)
    noise_dba_1m: Noise | None = None
    weight_kg: Weight | None = None
    length_m: Annotated[float, Field(gt=0, le=2)] | None = None
    motor: Literal["electronic", "mains"] | None = None

    @property
    def electronic(self) -> bool:
        """Whether its motor is an electronic one: as said, else by its class; small fans of 5 to 24 V are."""
        if self.motor is not None:
            return self.motor == "electronic"
        return self.class_id.endswith("-ec") or self.kind == "case"

    def drawn_share(self, speed: float) -> float:
        """Give what share of its full power it draws at a speed.

        Parameters
        ----------
        speed : share of full speed, 0..1

        Returns
        -------
        float : cube of the speed for an electronic motor, square for one on chopped or lowered mains (rough)
        """
        return float(speed ** (3 if self.electronic else 2))

    @model_validator(mode="after")
    def _sound(self) -> FanSpec:
        if self.steps and (list(self.steps) != sorted(set(self.steps)) or self.steps[-1] != 1):
            raise ValueError("speed steps rise from slow to full speed, the last is 100 %")
        if not self.curve:
            return self
        flows, pressures = [q for q, _ in self.curve], [p for _, p in self.curve]
        if len(self.curve) < 3:
            raise ValueError("a curve needs at least three points of flow and pressure")
        if flows != sorted(set(flows)) or flows[0] < 0 or flows[-1] > 6000:
            raise ValueError("the flows of a curve rise from 0 to at most 6000 m³/h, each once")
        if min(pressures) < 0 or not 0 < max(pressures) <= 3000:
            raise ValueError("the pressures of a curve lie from 0 to 3000 Pa")
        lowest = pressures[0]
        for (flow, pressure), before in zip(self.curve[1:], self.curve, strict=False):
            if pressure - lowest > STALL_DIP * max(pressures):
                raise ValueError(
                    f"the curve climbs from {before[1]:g} to {pressure:g} Pa at {flow:g} m³/h: a fan's "
                    "pressure falls as "
                    "its flow grows; check the points"
                )
            lowest = min(lowest, pressure)
        if pressures[-1] > 0.9 * pressures[0]:
            raise ValueError("the curve hardly falls: go on until the pressure is near zero")
        return self


class FilterSpec(Record):
    """A carbon filter by its rated flow and pressure, with its bed where it is known.

    The bed is a hollow cylinder: inner diameter, thickness and length [m]. ``exponent`` is how its pressure grows with
    flow: 1 for fine pellets, towards 1.7 for coarse ones.
    """

    name: Name
    class_id: str = ""
    diameter_m: Diameter
    rated_flow_m3_h: Annotated[float, Field(gt=0, le=5000)]
    rated_pressure_pa: Annotated[float, Field(gt=0, le=1000)]
    exponent: Annotated[float, Field(ge=1, le=2)] = 1.35
    bed_inner_m: Annotated[float, Field(gt=0, le=1)] | None = None
    bed_thickness_m: Annotated[float, Field(gt=0, le=0.3)] | None = None
    bed_length_m: Annotated[float, Field(gt=0, le=2)] | None = None
    weight_kg: Weight | None = None
    noise_cut_db: Annotated[float, Field(ge=0, le=30)] = 4.0


class DuctSpec(Record):
    """A kind of duct: how rough it is, whether it is flexible, what a metre weighs and how much noise it takes."""

    name: Name
    class_id: str = ""
    roughness_m: Annotated[float, Field(gt=0, le=0.01)] = 0.001
    flexible: bool = True
    weight_kg_m: Annotated[float, Field(ge=0, le=20)] = 0.3
    noise_cut_db_m: Annotated[float, Field(ge=0, le=10)] = 0.3


class FittingSpec(Record):
    """A damper, muffler, grille, screen or light trap: its loss counts on the velocity in its own diameter.

    A flap that falls shut by itself opens only from ``opens_at_pa`` on.
    """

    name: Name
    class_id: str = ""
    sort: Literal["damper", "muffler", "grille", "screen", "light-trap", "other"] = "other"
    diameter_m: Diameter
    loss: Annotated[float, Field(ge=0, le=200)]
    opens_at_pa: Annotated[float, Field(ge=0, le=100)] = 0.0
    length_m: Annotated[float, Field(gt=0, le=3)] = 0.1
    weight_kg: Weight | None = None
    noise_cut_db: Annotated[float, Field(ge=0, le=40)] = 0.0


class StirSpec(Record):
    """A fan that stirs the air inside: what it moves, through how wide an outlet, and how far it swings to and fro."""

    name: Name
    class_id: str = ""
    kind: Literal["clip", "tower", "usb", "floor"] = "clip"
    flow_m3_h: Annotated[float, Field(gt=0, le=5000)]
    diameter_m: Diameter
    power_w: Annotated[float, Field(ge=0, le=500)]
    sweep_deg: Annotated[float, Field(ge=0, le=180)] = 0.0
    steps: tuple[Speed, ...] = Field(default=(), max_length=20)
    noise_dba_1m: Noise | None = None
    weight_kg: Weight | None = None


def rough_pressure_pa(spec: FanSpec) -> float:
    """Give a fan's greatest pressure: as stated, or about seven velocity pressures of its free flow.

    Parameters
    ----------
    spec : the fan

    Returns
    -------
    float : static pressure at no flow [Pa]

    Notes
    -----
    The classes of the library lie between 4 and 11 velocity pressures; a figure that is not stated is known to ±40 %.
    """
    if spec.curve:
        return max(pressure for _, pressure in spec.curve)
    if spec.max_pressure_pa is not None:
        return spec.max_pressure_pa
    velocity = spec.free_flow_m3_h / 3600 / (3.141592653589793 * spec.diameter_m**2 / 4)
    return 7.0 * 0.6 * velocity**2
