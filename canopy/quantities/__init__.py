"""Parse and format what people type; SI inside, units at the edge."""

from canopy.quantities.kinds import (
    AIR_SPEED,
    ANGLE,
    AREA,
    DIAMETER,
    DURATION,
    EC,
    FLOW,
    HEIGHT_ABOVE_SEA,
    KINDS,
    LENGTH,
    PERCENT,
    POWER,
    PRESSURE,
    TEMPERATURE,
    TEMPERATURE_RISE,
    VOLUME,
    WEIGHT,
    Kind,
)
from canopy.quantities.parse import parse, parse_between
from canopy.quantities.reader import LightUnit, Reader, reader_of
from canopy.quantities.show import magnitude, number, show, significant, spoken
from canopy.quantities.units import convert

__all__ = [
    "AIR_SPEED",
    "ANGLE",
    "AREA",
    "DIAMETER",
    "DURATION",
    "EC",
    "FLOW",
    "HEIGHT_ABOVE_SEA",
    "KINDS",
    "LENGTH",
    "PERCENT",
    "POWER",
    "PRESSURE",
    "TEMPERATURE",
    "TEMPERATURE_RISE",
    "VOLUME",
    "WEIGHT",
    "Kind",
    "LightUnit",
    "Reader",
    "convert",
    "magnitude",
    "number",
    "parse",
    "parse_between",
    "reader_of",
    "show",
    "significant",
    "spoken",
]
