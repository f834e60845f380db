"""What a device is, whether it comes from the library or from a data sheet."""

from canopy.equipment.air import (
    Diameter,
    DuctSpec,
    FanSpec,
    FilterSpec,
    FittingSpec,
    Speed,
    StirSpec,
    rough_pressure_pa,
)
from canopy.equipment.devices import DeviceSpec
from canopy.equipment.lamps import (
    HOOD_LOSS,
    EfficacyOutput,
    FixtureSpec,
    LumenOutput,
    NoOutput,
    Output,
    Photometry,
    PpfOutput,
)

__all__ = [
    "HOOD_LOSS",
    "DeviceSpec",
    "Diameter",
    "DuctSpec",
    "EfficacyOutput",
    "FanSpec",
    "FilterSpec",
    "FittingSpec",
    "FixtureSpec",
    "LumenOutput",
    "NoOutput",
    "Output",
    "Photometry",
    "PpfOutput",
    "Speed",
    "StirSpec",
    "rough_pressure_pa",
]
