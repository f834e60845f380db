"""The plan document: typed, validated, versioned; the open file format."""

from canopy.plan.airways import (
    AdapterPart,
    AirPart,
    Airway,
    Ambient,
    BendPart,
    DuctPart,
    FanPart,
    FilterPart,
    FittingPart,
    Measured,
    PortPart,
    Stirrer,
)
from canopy.plan.checks import problems
from canopy.plan.document import (
    FORMAT,
    VERSION,
    Air,
    Circuit,
    Device,
    Fixture,
    HouseholdLoad,
    Plan,
    Space,
    Tariff,
)
from canopy.plan.files import MAX_BYTES, dumps, from_data, load, loads, schema
from canopy.plan.furnishing import Column, Daylight, Feed, FeedPart, Ground, HungItem, Net, Shelf, Survey, SurveyReading
from canopy.plan.plants import Plant, Planting, Training
from canopy.plan.shell import FACES, Face, Faces, Opening, Room, Size, Surface

__all__ = [
    "FACES", "FORMAT", "MAX_BYTES", "VERSION", "AdapterPart", "Air", "AirPart", "Airway", "Ambient", "BendPart", "Circuit",
    "Column", "Daylight", "Device", "DuctPart", "Face", "Faces", "FanPart", "Feed", "FeedPart", "FilterPart", "FittingPart",
    "Fixture", "Ground", "HouseholdLoad", "HungItem", "Measured", "Net", "Opening", "Plan", "Plant", "Planting", "PortPart",
    "Room", "Shelf", "Size", "Space", "Stirrer", "Surface", "Survey", "SurveyReading", "Tariff", "Training", "dumps",
    "from_data", "load", "loads", "problems", "schema",
]  # fmt: skip
