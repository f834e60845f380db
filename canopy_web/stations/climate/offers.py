"""Devices of the usual sort, to be added with a click."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from canopy.equipment import DeviceSpec
from canopy.library import devices
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


_NAMES = {
    "heater": "Heaters",
    "mat": "Heat mats",
    "heat-lamp": "Heat lamps",
    "cooler": "Cooling",
    "humidifier": "Humidifiers",
    "dehumidifier": "Dehumidifiers",
    "co2": "CO₂",
}


def offers() -> dict[str, Offer]:
    """All classes of the library, by key."""
    return {key: Offer(key=key, name=row.spec.name, spec=row.spec) for key, row in devices().items()}


def offered() -> list[tuple[str, list[tuple[str, str]]]]:
    """The classes as groups of a choice: what they do, and (key, name with what it costs to buy) of each."""
    found: dict[str, list[tuple[str, str]]] = {}
    for key, row in devices().items():
        price = f"{row.price.low:g}–{row.price.high:g}"
        words = [row.spec.name, *(f"{row.spec.noise_dba_1m:g} dB" for _ in (1,) if row.spec.noise_dba_1m)]
        found.setdefault(_NAMES[row.spec.kind], []).append((key, f"{', '.join(words)}, about {price}"))
    return list(found.items())
