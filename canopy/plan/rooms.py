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
    are its air on the coldest and hottest day of the year; without them every day is typical.
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

    @property
    def follows_season(self) -> bool:
        """Whether its air depends on the day."""
        return self.coldest is not None or self.hottest is not None


# The room of a plan that names none.
USUAL_ROOM = Room(id="room", name="Room")


@dataclass(frozen=True, kw_only=True)
class Around:
    """What stands around a space on a day: the room's air then [°C, %], the room itself, height above sea level [m]."""

    room: Room = USUAL_ROOM
    air: RoomAir = USUAL_ROOM
    altitude_m: float = 0.0

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


def around_on(room: Room, site: Site, day: dt.date) -> Around:
    """Give what stands around a space on a day.

    Parameters
    ----------
    room : the room it stands in
    site : where the household lies

    Returns
    -------
    Around : between typical and the year's extreme by the cosine of the season; the southern half of the earth has
        its coldest day in July
    """
    shift = _COLDEST_DAY + (_YEAR_DAYS / 2 if (site.latitude_deg or 0.0) < 0 else 0.0)
    cold = cos(2 * pi * (day.timetuple().tm_yday - shift) / _YEAR_DAYS)
    extreme = room.coldest if cold > 0 else room.hottest
    air: RoomAir = room
    if extreme is not None:
        share = abs(cold)
        air = RoomAir(
            **{
                key: round(getattr(room, key) + share * (getattr(extreme, key) - getattr(room, key)), 3)
                for key in RoomAir.model_fields
            }
        )
    return Around(room=room, air=air, altitude_m=site.altitude_m)
