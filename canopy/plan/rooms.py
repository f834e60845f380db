"""The rooms of the household that spaces stand in: how large, how airy, and what their air is like by season."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from math import cos, pi
from typing import Annotated, Literal

from pydantic import Field

from canopy.model import Id, Name, Record
from canopy.plan.shell import Humidity, Temperature
from canopy.plan.site import Site
from canopy.weather import DayAir, YearInShort
from canopy.weather.rooms import Hourly, ground_c, mean_of, outdoors_by_hour, room_by_hour

# The year's coldest and hottest days lie about a month behind the solstices (north; south half a year later).
_COLDEST_DAY = 20
_YEAR_DAYS = 365.25


class RoomAir(Record):
    """Air of a room as it is without the spaces in it, by day and by night."""

    day_c: Temperature = 21.0
    night_c: Temperature = 18.0
    day_rh_pct: Humidity = 50.0
    night_rh_pct: Humidity = 55.0


class Room(RoomAir):
    """A room of the household: its air on a typical day, and how much of a load it can take.

    A room without a floor area is taken as large. ``exchange_per_h`` is how often its own air changes, ``loss_w_k``
    the heat it gives to the rest of the home per kelvin (by its floor area when None). ``coldest`` and ``hottest``
    are its air on the coldest and hottest day of the year; without them every day is typical. One that ``follows`` the
    air outdoors takes its own from the household's climate instead; ``day_c`` and ``night_c`` are then what a heated
    one is kept at. ``heating_w`` warms the air at up to so much below ``heat_to_c``, a small air conditioner of
    ``cooling_w`` (what it takes of heat, water's included, at 27 °C) cools and dries it above ``cool_to_c``.
    """

    id: Id
    name: Name
    floor: Literal["wood", "concrete"] = "wood"
    co2_ppm: Annotated[float, Field(ge=300, le=5000)] = 450.0
    floor_m2: Annotated[float, Field(gt=0.5, le=400)] | None = None
    height_m: Annotated[float, Field(ge=1.5, le=8)] = 2.4
    exchange_per_h: Annotated[float, Field(ge=0, le=20)] = 0.5
    loss_w_k: Annotated[float, Field(gt=0, le=2000)] | None = None
    coldest: RoomAir | None = None
    hottest: RoomAir | None = None
    heating_w: Annotated[float, Field(gt=0, le=20_000)] | None = None
    heat_to_c: Temperature = 12.0
    cooling_w: Annotated[float, Field(gt=0, le=20_000)] | None = None
    cool_to_c: Temperature = 25.0
    follows: Literal["typed", "heated", "garage", "cellar", "shed"] = "typed"

    @property
    def follows_season(self) -> bool:
        """Whether its air depends on the day."""
        return self.coldest is not None or self.hottest is not None or self.follows != "typed"


# The room of a plan that names none.
USUAL_ROOM = Room(id="room", name="Room")


@dataclass(frozen=True, kw_only=True)
class Around:
    """What stands around a space on a day: the room's air then [°C, %], the room itself, height above sea level [m];
    hour by hour where it follows the air outdoors, and that; the ground under its floor where it is known [°C].
    """

    room: Room = USUAL_ROOM
    air: RoomAir = USUAL_ROOM
    altitude_m: float = 0.0
    hourly: Hourly | None = None
    outdoors: Hourly | None = None
    ground_c: float | None = None

    def temperature_c(self, *, lit: bool) -> float:
        """Give the room's temperature.

        Parameters
        ----------
        lit : by day, or by night

        Returns
        -------
        float : air temperature without the spaces in it [°C]
        """
        return self.air.day_c if lit else self.air.night_c

    def rh_pct(self, *, lit: bool) -> float:
        """Give the room's humidity.

        Parameters
        ----------
        lit : by day, or by night

        Returns
        -------
        float : relative humidity without the spaces in it [%]
        """
        return self.air.day_rh_pct if lit else self.air.night_rh_pct


Season = Literal["day", "coldest", "hottest"]


def around_on(room: Room, site: Site, day: dt.date, season: Season = "day") -> Around:
    """Give what stands around a space on a day.

    Parameters
    ----------
    room : the room it stands in
    site : where the household lies
    season : the day as it usually is, or the year's coldest or hottest day

    Returns
    -------
    Around : between typical and the year's extreme by the cosine of the season, the southern half of the earth with
        its coldest day in July; of a room that follows the air outdoors as that makes it. A room that nobody gave an
        extreme of has its typical day then
    """
    year = site.year
    outdoors = None if year is None else _outdoors_on(year, day, season)
    ground = None if year is None else ground_c(year.months, _month_of(day, year, season))
    if year is not None and outdoors is not None and ground is not None and room.follows != "typed":
        hourly = room_by_hour(room.follows, outdoors, ground, (room.day_c, room.night_c), site.altitude_m)
        mean = hourly.day
        air = RoomAir(
            day_c=_bounded(mean.day_c),
            night_c=_bounded(mean.night_c),
            day_rh_pct=mean.day_rh_pct,
            night_rh_pct=mean.night_rh_pct,
        )
        return Around(
            room=room,
            air=air,
            altitude_m=site.altitude_m,
            hourly=hourly,
            outdoors=outdoors_by_hour(outdoors),
            ground_c=ground,
        )
    return Around(
        room=room,
        air=_typed(room, site, day, season),
        altitude_m=site.altitude_m,
        outdoors=outdoors_by_hour(outdoors) if outdoors else None,
        ground_c=ground,
    )


def _bounded(value: float) -> float:
    return min(60.0, max(-30.0, value))


def _typed(room: Room, site: Site, day: dt.date, season: Season) -> RoomAir:
    if season != "day":
        return {"coldest": room.coldest, "hottest": room.hottest}[season] or room
    shift = _COLDEST_DAY + (_YEAR_DAYS / 2 if (site.latitude_deg or 0.0) < 0 else 0.0)
    cold = cos(2 * pi * (day.timetuple().tm_yday - shift) / _YEAR_DAYS)
    extreme = room.coldest if cold > 0 else room.hottest
    if extreme is None:
        return room
    share = abs(cold)
    return RoomAir(
        **{
            key: round(getattr(room, key) + share * (getattr(extreme, key) - getattr(room, key)), 3)
            for key in RoomAir.model_fields
        }
    )


def _month(day: dt.date) -> float:
    """Time of the year, 0 in the middle of January, below 12."""
    return (day.timetuple().tm_yday - 15.5) / _YEAR_DAYS * 12 % 12


def _month_of(day: dt.date, year: YearInShort, season: Season) -> float:
    """The time of the year, of an extreme that of the month that is coldest or hottest on average."""
    if season == "day":
        return _month(day)
    means = [mean_of(item) for item in year.months]
    return float(means.index(min(means) if season == "coldest" else max(means)))


def _outdoors_on(year: YearInShort, day: dt.date, season: Season) -> DayAir:
    """The air outdoors on a usual day of the time of the year: between the middles of months."""
    if season != "day":
        return year.coldest if season == "coldest" else year.hottest
    at = _month(day)
    one, two, share = year.months[int(at)], year.months[(int(at) + 1) % 12], at % 1
    return DayAir(
        **{
            key: getattr(one, key) + share * (getattr(two, key) - getattr(one, key))
            for key in ("day_c", "night_c", "day_rh_pct", "night_rh_pct")
        }
    )
