"""Anything else on a plug."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from canopy.model import Name, Record, Share


class DeviceSpec(Record):
    """Any other thing on a plug."""

    name: Name
    kind: Literal["heater", "mat", "humidifier", "dehumidifier", "pump", "circulation", "other"] = "other"
    power_w: Annotated[float, Field(ge=0, le=20_000)]
    heats_space: Share = 1.0

    @property
    def on_demand(self) -> bool:
        """Whether it runs only as far as the climate asks for it, by a thermostat or humidistat."""
        return self.kind in ("heater", "mat", "humidifier", "dehumidifier")
