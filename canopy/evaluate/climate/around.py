"""The airs that a simulation is given: rooms by clock, what ways of air end in, and the floor."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from canopy.climate.system import Weather
from canopy.plan.airways import Ambient
from canopy.plan.rooms import Around, RoomAir
from canopy.psychrometrics import humidity_ratio

Array = NDArray[np.float64]
EVERY_S = 600.0
# A home is at its day's warmth from eight to ten in the evening, at its night's from midnight to six (assumed) [h].
_CLOCK_H, _DAYNESS = (0.0, 6.0, 8.0, 22.0, 24.0), (0.0, 0.0, 1.0, 1.0, 0.0)
# CO2 of the air outdoors [ppm].
_OUTDOORS_PPM = 425.0


def dayness(hours: int) -> Array:
    """Give how far it is day in a home, every ten minutes from midnight on.

    Parameters
    ----------
    hours : how long [h]

    Returns
    -------
    ndarray : 0 by night to 1 by day, shape (6 × hours + 1,)
    """
    clock = np.arange(6 * hours + 1) / 6 % 24
    return np.interp(clock, _CLOCK_H, _DAYNESS)


def _between(key: str, air: RoomAir | Ambient, co2_ppm: float, hours: int, altitude_m: float) -> Weather:
    day = dayness(hours)
    warm = air.night_c + day * (air.day_c - air.night_c)
    damp = air.night_rh_pct + day * (air.day_rh_pct - air.night_rh_pct)
    known = {pair: humidity_ratio(*pair, altitude_m) for pair in set(zip(warm.tolist(), damp.tolist(), strict=True))}
    ratio = np.array([known[pair] for pair in zip(warm.tolist(), damp.tolist(), strict=True)])
    return Weather(id=key, temperature_c=warm, ratio=ratio, co2_ppm=np.full(len(day), co2_ppm), every_s=EVERY_S)


def room_weather(key: str, around: Around, hours: int) -> Weather:
    """Give a room's air through the day, as it is without the spaces in it.

    Parameters
    ----------
    key : what it is called
    around : the room on the day
    hours : how long [h]

    Returns
    -------
    Weather : its day's air from eight to ten in the evening, its night's from midnight to six, straight in between
    """
    return _between(key, around.air, around.room.co2_ppm, hours, around.altitude_m)


def away_weather(key: str, away: Ambient, hours: int, altitude_m: float) -> Weather:
    """Give the air at a way's other end.

    Parameters
    ----------
    key : what it is called
    away : as typed
    hours : how long [h]
    altitude_m : height above sea level [m]

    Returns
    -------
    Weather : by the same clock
    """
    return _between(key, away, _OUTDOORS_PPM, hours, altitude_m)


def floor_weather(key: str, around: Around, hours: int) -> Weather:
    """Give what lies under a concrete floor.

    Parameters
    ----------
    key : what it is called
    around : the room on the day
    hours : how long [h]

    Returns
    -------
    Weather : the mean of the room's air over the day; the ground below it follows the year, not the hours
    """
    air = around.air
    mean = (14 * air.day_c + 6 * air.night_c + 4 * (air.day_c + air.night_c) / 2) / 24
    count = 6 * hours + 1
    return Weather(
        id=key,
        temperature_c=np.full(count, mean),
        ratio=np.full(count, humidity_ratio(mean, 50.0, around.altitude_m)),
        co2_ppm=np.full(count, around.room.co2_ppm),
        every_s=EVERY_S,
    )
