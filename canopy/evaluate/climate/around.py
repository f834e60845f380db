"""The airs that a simulation is given: rooms by clock, what ways of air end in, and the floor."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from canopy.climate.system import Weather
from canopy.plan.airways import Airway, Ambient, usual_away
from canopy.plan.rooms import Around, RoomAir
from canopy.psychrometrics import humidity_ratio
from canopy.weather.reading import Hours
from canopy.weather.rooms import Hourly, room_over

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


def _by_hour(key: str, air: Hourly, co2_ppm: float, hours: int, altitude_m: float) -> Weather:
    """The same day again and again, straight between full hours."""
    clock = np.arange(6 * hours + 1) / 6 % 24
    at = np.arange(25)
    warm = np.interp(clock, at, [*air.temperature_c, air.temperature_c[0]])
    water = [humidity_ratio(t, rh, altitude_m) for t, rh in zip(air.temperature_c, air.rh_pct, strict=True)]
    ratio = np.interp(clock, at, [*water, water[0]])
    return Weather(id=key, temperature_c=warm, ratio=ratio, co2_ppm=np.full(len(clock), co2_ppm), every_s=EVERY_S)


def room_weather(key: str, around: Around, hours: int) -> Weather:
    """Give a room's air through the day, as it is without the spaces in it.

    Parameters
    ----------
    key : what it is called
    around : the room on the day
    hours : how long [h]

    Returns
    -------
    Weather : its day's air from eight to ten in the evening, its night's from midnight to six, straight in between; of
        one that follows the air outdoors hour by hour
    """
    if around.hourly is not None:
        return _by_hour(key, around.hourly, around.room.co2_ppm, hours, around.altitude_m)
    return _between(key, around.air, around.room.co2_ppm, hours, around.altitude_m)


def weather_through(key: str, around: Around, found: Hours) -> Weather:
    """Give a room's air through hourly weather.

    Parameters
    ----------
    key : what it is called
    around : the room on the day
    found : the air outdoors for a room that follows it; the room's own for any other

    Returns
    -------
    Weather : hour by hour, straight in between
    """
    room, warm, damp = around.room, found.temperature_c, found.rh_pct
    if room.follows != "typed":
        ground = around.ground_c if around.ground_c is not None else float(warm.mean())
        warm, damp = room_over(room.follows, warm, damp, ground, (room.day_c, room.night_c), around.altitude_m)
    water = [humidity_ratio(float(t), float(rh), around.altitude_m) for t, rh in zip(warm, damp, strict=True)]
    ppm = np.full(len(warm), room.co2_ppm)
    return Weather(id=key, temperature_c=np.asarray(warm), ratio=np.array(water), co2_ppm=ppm, every_s=3600.0)


def away_weather(key: str, way: Airway, around: Around, hours: int) -> Weather:
    """Give the air at a way's other end.

    Parameters
    ----------
    key : what it is called
    way : one that ends outdoors or in another room
    around : the room on the day, with the air outdoors where it is known
    hours : how long [h]

    Returns
    -------
    Weather : as typed, by the same clock; outdoors by the household's climate where nobody typed it
    """
    if way.away is None and way.ends == "outdoors" and around.outdoors is not None:
        return _by_hour(key, around.outdoors, _OUTDOORS_PPM, hours, around.altitude_m)
    return _between(key, way.away or usual_away(way), _OUTDOORS_PPM, hours, around.altitude_m)


def floor_weather(key: str, around: Around, hours: int) -> Weather:
    """Give what lies under a concrete floor.

    Parameters
    ----------
    key : what it is called
    around : the room on the day
    hours : how long [h]

    Returns
    -------
    Weather : the mean of the room's air over the day, half drawn to the ground below where that is known: it follows
        the year, not the hours
    """
    air = around.air
    mean = (14 * air.day_c + 6 * air.night_c + 4 * (air.day_c + air.night_c) / 2) / 24
    if around.ground_c is not None:
        mean = (mean + around.ground_c) / 2
    count = 6 * hours + 1
    return Weather(
        id=key,
        temperature_c=np.full(count, mean),
        ratio=np.full(count, humidity_ratio(mean, 50.0, around.altitude_m)),
        co2_ppm=np.full(count, around.room.co2_ppm),
        every_s=EVERY_S,
    )
