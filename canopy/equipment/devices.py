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
