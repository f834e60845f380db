"""Anything else on a plug."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from canopy.model import Name, Record, Share


class DeviceSpec(Record):
    """Any other thing on a plug.

    A humidifier gives ``water_g_h`` at full: as drops (``ultrasonic``, cools as they dry), from a wet pad
    (``evaporative``, the less the damper it is) or as ``steam``; from a tank of ``tank_l``, where it has one (of a
    dehumidifier its bucket). A dehumidifier takes ``dries_l_d`` at 26.7 °C and 60 %. A cooler takes ``cools_w`` of heat
    out of the space, a CO2 source gives ``co2_g_h``.
    """

    name: Name
    class_id: str = ""
    kind: Literal[
        "heater",
        "mat",
        "heat-lamp",
        "cooler",
        "humidifier",
        "dehumidifier",
        "co2",
        "pump",
        "circulation",
        "other",
    ] = "other"
    power_w: Annotated[float, Field(ge=0, le=20_000)]
    heats_space: Share = 1.0
    water_g_h: Annotated[float, Field(ge=0, le=10_000)] | None = None
    mist: Literal["ultrasonic", "evaporative", "steam"] = "ultrasonic"
    tank_l: Annotated[float, Field(gt=0, le=200)] | None = None
    dries_l_d: Annotated[float, Field(ge=0, le=200)] | None = None
    drying: Literal["refrigerant", "peltier", "desiccant"] = "refrigerant"
    cools_w: Annotated[float, Field(ge=0, le=20_000)] | None = None
    co2_g_h: Annotated[float, Field(ge=0, le=2_000)] | None = None
    noise_dba_1m: Annotated[float, Field(ge=0, le=100)] | None = None
    weight_kg: Annotated[float, Field(ge=0, le=200)] | None = None

    @property
    def on_demand(self) -> bool:
        """Whether it runs only as far as the climate asks for it, by a thermostat or humidistat."""
        return self.kind in ("heater", "mat", "heat-lamp", "cooler", "humidifier", "dehumidifier", "co2")

    @property
    def gives_g_h(self) -> float:
        """Water a humidifier gives at full [g/h]; by its power where the sheet does not say it.

        Ultrasonic ones drive off about 10 g for each watt-hour, wet pads 15; boiling takes 0.68 Wh a gram and a tenth.
        """
        if self.kind != "humidifier":
            return 0.0
        if self.water_g_h is not None:
            return self.water_g_h
        return self.power_w * {"ultrasonic": 10.0, "evaporative": 15.0, "steam": 1.34}[self.mist]

    @property
    def takes_l_d(self) -> float:
        """Water a dehumidifier takes at 26.7 °C and 60 % [L/d]; by its power where the sheet does not say it.

        Refrigerant ones take about 1.6 L for each kilowatt-hour, desiccant ones 0.9, Peltier ones 0.3.
        """
        if self.kind != "dehumidifier":
            return 0.0
        if self.dries_l_d is not None:
            return self.dries_l_d
        return self.power_w * 0.024 * {"refrigerant": 1.6, "desiccant": 0.9, "peltier": 0.3}[self.drying]
