"""The plan document: typed, validated, versioned; the open file format."""

from canopy.plan.checks import problems
from canopy.plan.document import (
    FACES,
    FORMAT,
    VERSION,
    Air,
    Circuit,
    Device,
    Face,
    Faces,
    Fixture,
    HouseholdLoad,
    Opening,
    Plan,
    Plant,
    Room,
    Size,
    Space,
    Surface,
    Tariff,
)
from canopy.plan.files import MAX_BYTES, dumps, from_data, load, loads, schema

__all__ = [
    "FACES", "FORMAT", "MAX_BYTES", "VERSION", "Air", "Circuit", "Device", "Face", "Faces", "Fixture",
    "HouseholdLoad", "Opening", "Plan", "Plant", "Room", "Size", "Space", "Surface", "Tariff", "dumps", "from_data",
    "load", "loads", "problems", "schema",
]  # fmt: skip
