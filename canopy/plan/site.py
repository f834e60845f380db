"""Where the household lies: latitude, height above sea level, clock, climate outdoors, and its money."""

from __future__ import annotations

from functools import cache
from typing import Annotated
from zoneinfo import available_timezones

from pydantic import Field, field_validator

from canopy.model import Id, Record
from canopy.plan.shell import Humidity, Temperature
from canopy.weather import DayAir, YearInShort, places, short_of


@cache
def known_zones() -> frozenset[str]:
    """Give the names of all time zones (IANA), such as "Europe/Lisbon".

    Returns
    -------
    frozenset of str : the names
    """
    return frozenset(name for name in available_timezones() if name != "localtime" and not name.startswith("posix"))


# Currencies in which the library's spans of prices hold as they are.
_AS_PRICED = ("EUR", "USD", "€", "$")
# Until a household says where it lies.
_USUAL_LATITUDE_DEG = 50.0


class OutdoorMonth(Record):
    """The air outdoors in a month: mean of the days' warm and cold hours [°C], humidity then [%]."""

    day_c: Temperature
    night_c: Temperature
    day_rh_pct: Humidity = 60.0
    night_rh_pct: Humidity = 80.0


def _day_air(item: OutdoorMonth) -> DayAir:
    return DayAir(**item.model_dump())


class Site(Record):
    """Where the household lies. ``outdoors`` holds twelve months, January first, or none, ``coldest`` and ``hottest``
    the year's extremes, ``outdoors_from`` whence they are; ``place_id`` names one of the invented places instead.
    ``time_zone`` is a name such as "Europe/Lisbon"; empty: the person's own. ``euro_rate`` is what a euro is in the
    household's ``currency``, where that is neither euro nor dollar.
    """

    latitude_deg: Annotated[float, Field(ge=-66, le=66)] | None = None
    altitude_m: Annotated[float, Field(ge=-400, le=5000)] = 0.0
    time_zone: Annotated[str, Field(max_length=64)] = ""
    currency: Annotated[str, Field(min_length=1, max_length=8)] = "EUR"
    euro_rate: Annotated[float, Field(gt=0, le=1e7)] | None = None
    outdoors: tuple[OutdoorMonth, ...] = Field(default=(), max_length=12)
    coldest: OutdoorMonth | None = None
    hottest: OutdoorMonth | None = None
    outdoors_from: Annotated[str, Field(max_length=120)] = ""
    place_id: Id | None = None

    @property
    def price_rate(self) -> float | None:
        """What prices of the library, which are in euro or dollar, are multiplied by; None where nobody said it."""
        return 1.0 if self.currency.upper() in _AS_PRICED else self.euro_rate

    @property
    def year(self) -> YearInShort | None:
        """The air outdoors through the year: what was typed or read from a file, else the place's; None without."""
        if len(self.outdoors) == 12:
            months = tuple(_day_air(item) for item in self.outdoors)
            by_warmth = sorted(months, key=lambda item: item.day_c + item.night_c)
            return YearInShort(
                months=months,
                coldest=_day_air(self.coldest) if self.coldest else by_warmth[0],
                hottest=_day_air(self.hottest) if self.hottest else by_warmth[-1],
            )
        return short_of(self.place_id) if self.place_id else None

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

    @field_validator("place_id")
    @classmethod
    def _there(cls, value: str | None) -> str | None:
        if value is not None and value not in places():
            raise ValueError(f"there is no place called “{value}”")
        return value

    @field_validator("time_zone")
    @classmethod
    def _known(cls, value: str) -> str:
        if value and value not in known_zones():
            raise ValueError(f"“{value}” is no time zone: give one such as “Europe/Lisbon”, or leave it empty")
        return value
