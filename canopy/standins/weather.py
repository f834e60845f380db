"""Made weather: the year's course, days that follow from those before, and rooms that feel some of it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from canopy.evaluate.climate.around import dayness
from canopy.plan.rooms import Room
from canopy.psychrometrics import humidity_ratio, relative_humidity_pct
from canopy.weather.reading import Hours

Array = NDArray[np.float64]
_BEFORE_D, _KEEPS = 14, 0.72
# The year's mean and swing at 50° [°C]; colder and more of a swing further from the equator (rough).
_MEAN_C, _SWING_K, _DAILY_K = 10.0, 8.5, 3.2
_WARMEST_DAY = 201
# How much of weather outdoors a heated room feels.
_FELT_T, _FELT_W = 0.10, 0.45


def _of_day(seed: int, what: int, day: int) -> float:
    """A normal number that belongs to a day."""
    return float(np.random.Generator(np.random.Philox(key=[seed, what], counter=[day, 0, 0, 0])).standard_normal())


def _course(seed: int, what: int, day: int) -> float:
    """A day's departure from what is usual: that of the day before fades, and new weather comes; about 1 in size."""
    fresh = sum(_KEEPS**k * _of_day(seed, what, day - k) for k in range(_BEFORE_D))
    return fresh * float(np.sqrt(1 - _KEEPS**2))


def _through(daily: Callable[[int], float], first: int, hours: int) -> Array:
    """Daily figures as they pass from one noon to the next, hour by hour, shape (hours,)."""
    days = hours // 24 + 2
    noons = np.arange(-1, days) * 24 + 12
    return np.asarray(np.interp(np.arange(hours), noons, [daily(first + k) for k in range(-1, days)]))


def outdoors(seed: int, latitude_deg: float, begins: dt.date, hours: int) -> Hours:
    """Make the weather outdoors.

    Parameters
    ----------
    seed : 0 or more; the same for the same weather
    latitude_deg : south of the equator below 0 [°]
    begins : the first day, from midnight on
    hours : how many

    Returns
    -------
    Hours : any stretch of it is the same, whatever it is asked with
    """
    first = begins.toordinal()
    clock = np.arange(hours)
    normal = _normal_c(latitude_deg, begins, hours)
    warm = normal + 3.4 * _through(lambda day: _course(seed, 1, day), first, hours)
    bright = np.clip(1 + 0.5 * _through(lambda day: _course(seed, 2, day), first, hours), 0.2, 1.8)
    warm = warm + _DAILY_K * bright * np.cos(2 * np.pi * (clock - 15) / 24)
    # The dew point lies below the day's lowest, lower under clear skies.
    dew = normal + 3.0 * _through(lambda day: _course(seed, 1, day), first, hours) - 2.5 - 2.2 * bright
    rh = 100 * np.exp(17.62 * dew / (243.12 + dew) - 17.62 * warm / (243.12 + warm))
    return Hours(
        begins=dt.datetime.combine(begins, dt.time(), dt.UTC), temperature_c=warm, rh_pct=np.clip(rh, 15.0, 100.0)
    )


def _normal_c(latitude_deg: float, begins: dt.date, hours: int) -> Array:
    far = abs(latitude_deg) / 50
    days = begins.timetuple().tm_yday + np.arange(hours) / 24
    season = np.cos(2 * np.pi * (days - _WARMEST_DAY) / 365.25) * (1 if latitude_deg >= 0 else -1)
    return np.asarray(_MEAN_C + 16 * (1 - far) + _SWING_K * far * season)


def in_room(room: Room, out: Hours, seed: int, latitude_deg: float, altitude_m: float) -> Hours:
    """Give a room's own air while it is so outdoors: as it was typed, moved a little by the weather and its people.

    Parameters
    ----------
    room : with its typed day and night
    out : the weather outdoors
    seed : 0 or more
    latitude_deg : of the household [°]
    altitude_m : of the household [m]

    Returns
    -------
    Hours : as long as the weather
    """
    hours = len(out.temperature_c)
    day = dayness(hours)[::6][:hours]
    first = out.begins.toordinal()
    off = out.temperature_c - _normal_c(latitude_deg, out.begins.date(), hours)
    own = sum(room.id.encode()) % 997
    warm = room.night_c + day * (room.day_c - room.night_c) + _FELT_T * off
    warm = warm + 0.35 * _through(lambda number: _course(seed, 100 + own, number), first, hours)
    typed = room.night_rh_pct + day * (room.day_rh_pct - room.night_rh_pct)
    usual = _normal_c(latitude_deg, out.begins.date(), hours)
    wet = []
    for t, rh, t_out, rh_out, t_usual in zip(warm, typed, out.temperature_c, out.rh_pct, usual, strict=True):
        more = humidity_ratio(float(t_out), float(rh_out), altitude_m) - humidity_ratio(
            float(t_usual), 78.0, altitude_m
        )
        ratio = max(0.002, humidity_ratio(float(t), float(rh), altitude_m) + _FELT_W * more)
        wet.append(min(95.0, relative_humidity_pct(float(t), ratio, altitude_m)))
    return Hours(begins=out.begins, temperature_c=np.asarray(warm), rh_pct=np.array(wet))
