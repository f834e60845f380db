"""Where the household lies: latitude, height above sea level, clock, climate outdoors, and its money."""

from __future__ import annotations

from functools import cache
from typing import Annotated
from zoneinfo import available_timezones

from pydantic import Field, field_validator

from canopy.model import Id, Record
from canopy.plan.shell import Humidity, Temperature


@cache
def known_zones() -> frozenset[str]:
    """Give the names of all time zones (IANA), such as "Europe/Lisbon".

    Returns
    -------
    frozenset of str : the names
    """
    return frozenset(name for name in available_timezones() if name != "localtime" and not name.startswith("posix"))


# Until a household says where it lies.
_USUAL_LATITUDE_DEG = 50.0


class OutdoorMonth(Record):
    """The air outdoors in a month: mean of the days' warm and cold hours [°C], humidity then [%]."""

    day_c: Temperature
    night_c: Temperature
    day_rh_pct: Humidity = 60.0
    night_rh_pct: Humidity = 80.0


class Site(Record):
    """Where the household lies. ``outdoors`` holds twelve months, January first, or none; ``place_id`` names one of
    the library's invented places instead. ``time_zone`` is a name such as "Europe/Lisbon"; empty: the person's own.
    """

    latitude_deg: Annotated[float, Field(ge=-66, le=66)] | None = None
    altitude_m: Annotated[float, Field(ge=-400, le=5000)] = 0.0
    time_zone: Annotated[str, Field(max_length=64)] = ""
    currency: Annotated[str, Field(min_length=1, max_length=8)] = "EUR"
    outdoors: tuple[OutdoorMonth, ...] = Field(default=(), max_length=12)
    place_id: Id | None = None

    @property
    def shown_latitude_deg(self) -> float:
        """The latitude; a usual one, 50° north, until somebody says it [°]."""
        return _USUAL_LATITUDE_DEG if self.latitude_deg is None else self.latitude_deg

    @field_validator("outdoors")
    @classmethod
    def _whole_year(cls, value: tuple[OutdoorMonth, ...]) -> tuple[OutdoorMonth, ...]:
        if len(value) not in (0, 12):
            raise ValueError(f"the climate outdoors needs twelve months, January first; these are {len(value)}")
        return value

    @field_validator("time_zone")
    @classmethod
    def _known(cls, value: str) -> str:
        if value and value not in known_zones():
            raise ValueError(f"“{value}” is no time zone: give one such as “Europe/Lisbon”, or leave it empty")
        return value
