"""The facts that stand beside a plan, as they cross a file's boundary."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import Field

from canopy.logs.entries import Entry
from canopy.model import Id, Record

MOST_READINGS = 400
# A plan file carries so many entries of the log, the newest; an archive carries all.
MOST_ENTRIES = 10_000
MeterUnit = Literal["ppfd", "lux", "fc"]


class LightReading(Record):
    """One reading of a light meter held level at a point [m]; ``number`` is its own within its survey for good.

    A reading that was ``struck`` counts for nothing and is kept.
    """

    number: Annotated[int, Field(ge=1)]
    x_m: Annotated[float, Field(ge=0, le=10)]
    y_m: Annotated[float, Field(ge=0, le=10)]
    z_m: Annotated[float, Field(ge=0, le=6)]
    value: Annotated[float, Field(ge=0, le=1e6)]
    struck: bool = False


class LightSurvey(Record):
    """Readings taken in a space on a day, and what the meter shows: its unit, and for lux or foot-candles what light.

    A space's newest survey is the one that is worked with; earlier ones are kept.
    """

    space_id: Id
    taken_on: dt.date
    unit: MeterUnit = "ppfd"
    source_id: Id = "white-led"
    cct_k: Annotated[float, Field(ge=1800, le=10_000)] = 4000
    readings: tuple[LightReading, ...] = Field(default=(), max_length=MOST_READINGS)

    @property
    def counting(self) -> tuple[LightReading, ...]:
        """The readings that were not struck."""
        return tuple(reading for reading in self.readings if not reading.struck)


class CareMark(Record):
    """What became of work that was due on a day: done or skipped ``on`` a day, or put off to it; ``family`` names the
    work. One that was ``struck`` counts for nothing and is kept.
    """

    family: Annotated[str, Field(min_length=1, max_length=160)]
    due: dt.date
    what: Literal["done", "skipped", "postponed"]
    on: dt.date
    struck: bool = False


class TickMark(Record):
    """A line of the kit that one has, or a step of the build that is done, with what was paid or noted; ``stamp`` is
    what of the plan it was made from. One that was taken back is not ``on``.
    """

    what: Literal["have", "done"]
    key: Annotated[str, Field(min_length=1, max_length=200)]
    on: bool = True
    stamp: Annotated[str, Field(max_length=12)] = ""
    price: Annotated[float, Field(ge=0, le=1_000_000)] | None = None
    note: Annotated[str, Field(max_length=300)] = ""
    written: dt.datetime


class Facts(Record):
    """All that stands beside a plan."""

    surveys: tuple[LightSurvey, ...] = Field(default=(), max_length=2000)
    care: tuple[CareMark, ...] = Field(default=(), max_length=20_000)
    ticks: tuple[TickMark, ...] = Field(default=(), max_length=20_000)
    entries: tuple[Entry, ...] = Field(default=(), max_length=MOST_ENTRIES)
