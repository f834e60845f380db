"""Devices of the usual sort, to be added with a click."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from canopy.equipment import DeviceSpec
from canopy.plan import Device


@dataclass(frozen=True, kw_only=True)
class Offer:
    """A device that is offered: its key, its name, and its data sheet."""

    key: str
    name: str
    spec: DeviceSpec

    def part(self) -> dict[str, Any]:
        """It as a part of a space; its id stands for none yet."""
        return Device(id="new", spec=self.spec).model_dump(mode="json")


OFFERS = (
    Offer(key="heater", name="Heater", spec=DeviceSpec(name="Tube heater, 120 W", kind="heater", power_w=120)),
    Offer(key="mat", name="Heat mat", spec=DeviceSpec(name="Heat mat, 40 W", kind="mat", power_w=40)),
    Offer(
        key="humidifier",
        name="Humidifier",
        spec=DeviceSpec(name="Ultrasonic humidifier, 150 mL/h", kind="humidifier", power_w=22, water_g_h=150, tank_l=3),
    ),
    Offer(
        key="dehumidifier",
        name="Dehumidifier",
        spec=DeviceSpec(name="Dehumidifier, 6 L a day", kind="dehumidifier", power_w=170, dries_l_d=6),
    ),
    Offer(
        key="cooler",
        name="Small air conditioner",
        spec=DeviceSpec(name="Small air conditioner, 700 W", kind="cooler", power_w=250, cools_w=700, heats_space=0),
    ),
)
