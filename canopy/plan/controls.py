"""What switches devices and fans by what a sensor reads: thermostats, hygrostats, CO2 regulators, fan controllers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from canopy.equipment import Speed
from canopy.model import Id, Record
from canopy.plan.shell import Humidity, Temperature

Minutes = Annotated[float, Field(ge=0, le=60)]


class Thermostat(Record):
    """Switches by a temperature, by day (lamps on) and by night: heater, mat, heat lamp on below it, a cooler above.

    ``senses`` is where its probe is: in the air, among the roots or at a leaf. ``band_k`` lies between on and off.
    """

    kind: Literal["thermostat"] = "thermostat"
    senses: Literal["air", "root", "leaf"] = "air"
    day_c: Temperature
    night_c: Temperature
    band_k: Annotated[float, Field(ge=0.1, le=10)] = 1.0
    least_on_min: Minutes = 0.0
    least_off_min: Minutes = 0.0


class Hygrostat(Record):
    """Switches by the air's humidity: a humidifier on below it, a dehumidifier above."""

    kind: Literal["hygrostat"] = "hygrostat"
    day_rh_pct: Humidity
    night_rh_pct: Humidity
    band_pct: Annotated[float, Field(ge=0.5, le=30)] = 4.0
    least_on_min: Minutes = 0.0
    least_off_min: Minutes = 0.0


class GasRegulator(Record):
    """Doses CO2 up to a level while the lamps are on."""

    kind: Literal["co2"] = "co2"
    ppm: Annotated[float, Field(ge=400, le=2000)] = 900.0
    band_ppm: Annotated[float, Field(ge=5, le=500)] = 50.0


DeviceControl = Annotated[Thermostat | Hygrostat | GasRegulator, Field(discriminator="kind")]
# Which controls fit which kinds of device.
FITS: dict[str, tuple[str, ...]] = {
    "heater": ("thermostat",),
    "mat": ("thermostat",),
    "heat-lamp": ("thermostat",),
    "cooler": ("thermostat",),
    "humidifier": ("hygrostat",),
    "dehumidifier": ("hygrostat",),
    "co2": ("co2",),
}


class FanControl(Record):
    """Turns a way's lead fan by what the air is like: from the speed it is set to up to ``most`` where it gets too warm
    or too damp, over ``ramp_k`` and ``ramp_pct``; down to ``least`` where it gets colder than ``cold``. For
    ``purge_min`` after the lamps go out it runs at ``most``.
    """

    least: Annotated[float, Field(ge=0, le=1)] = 0.0
    most: Speed = 1.0
    hot_day_c: Temperature | None = None
    hot_night_c: Temperature | None = None
    damp_day_pct: Humidity | None = None
    damp_night_pct: Humidity | None = None
    cold_day_c: Temperature | None = None
    cold_night_c: Temperature | None = None
    ramp_k: Annotated[float, Field(ge=0.2, le=10)] = 2.0
    ramp_pct: Annotated[float, Field(ge=1, le=40)] = 8.0
    purge_min: Minutes = 0.0

    @model_validator(mode="after")
    def _pairs(self) -> FanControl:
        for what in ("hot_{}_c", "damp_{}_pct", "cold_{}_c"):
            if (getattr(self, what.format("day")) is None) != (getattr(self, what.format("night")) is None):
                raise ValueError(
                    "a trigger needs its setting for the day and for the night: give both, or leave both out"
                )
        for when in ("day", "night"):
            hot, cold = getattr(self, f"hot_{when}_c"), getattr(self, f"cold_{when}_c")
            if hot is not None and cold is not None and cold >= hot:
                raise ValueError(
                    f"by {when} it would slow down below {cold:g} °C and speed up above {hot:g} °C at once: the lower "
                    "trigger must lie below the upper one"
                )
        if self.least > self.most:
            raise ValueError("its least speed lies above its most")
        return self


AlertFigure = Literal[
    "air_c",
    "rh_pct",
    "leaf_c",
    "root_c",
    "co2_ppm",
    "vpd_kpa",
    "ppfd",
    "soil_pct",
    "water_c",
    "ph",
    "ec_ms_cm",
    "level_l",
    "power_w",
    "battery_pct",
    "trap_rise",
]


class Alert(Record):
    """A value at which somebody wants to be told: ``most`` for above it and otherwise below, once it has been so for
    ``for_min``; over again where it is back by ``back``. ``when`` says whether it counts by day (lamps on) or by night
    only; in the household's quiet hours it rings only if ``in_quiet``. One for ``silent`` sensors has no value: it
    rings where nothing of the figure was read for ``for_min``. ``trap_rise`` is by how many more a trap held than at
    the count before.
    """

    id: Id
    figure: AlertFigure
    most: bool
    value: Annotated[float, Field(ge=-100, le=100_000)]
    why: Annotated[str, Field(max_length=120)] = ""
    for_min: Annotated[float, Field(ge=0, le=10_080)] = 10.0
    back: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    when: Literal["always", "day", "night"] = "always"
    in_quiet: bool = False
    silent: bool = False
