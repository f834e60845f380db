"""Facts beside the plans, one table a kind."""

from canopy_web.logbook.models.entries import LogEntry
from canopy_web.logbook.models.facts import CalendarFeed, CareMark, LightReading, LightSurvey, Tick
from canopy_web.logbook.models.sensing import (
    AlertEvent,
    CsvShape,
    ImportJob,
    Reading,
    Rollup,
    Sensor,
    Source,
    Switching,
)
from canopy_web.logbook.models.testing import GuidedTest, ProbeCheck

__all__ = [
    "AlertEvent",
    "CalendarFeed",
    "CareMark",
    "CsvShape",
    "GuidedTest",
    "ImportJob",
    "LightReading",
    "LightSurvey",
    "LogEntry",
    "ProbeCheck",
    "Reading",
    "Rollup",
    "Sensor",
    "Source",
    "Switching",
    "Tick",
]
