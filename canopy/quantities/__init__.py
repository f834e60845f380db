"""Parse and format what people type; SI inside, units at the edge."""

from canopy.quantities.kinds import (
    ANGLE,
    DIAMETER,
    DURATION,
    EC,
    FLOW,
    KINDS,
    LENGTH,
    PERCENT,
    POWER,
    TEMPERATURE,
    TEMPERATURE_RISE,
    VOLUME,
    WEIGHT,
    Kind,
)
from canopy.quantities.parse import parse, parse_between
from canopy.quantities.show import magnitude, number, show, significant
from canopy.quantities.units import convert

__all__ = [
    "ANGLE", "DIAMETER", "DURATION", "EC", "FLOW", "KINDS", "LENGTH", "PERCENT", "POWER", "TEMPERATURE",
    "TEMPERATURE_RISE", "VOLUME", "WEIGHT", "Kind", "convert", "magnitude", "number", "parse", "parse_between", "show",
    "significant",
]  # fmt: skip
