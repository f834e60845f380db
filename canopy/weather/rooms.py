"""How a room follows the air outdoors: heated, garage, cellar or shed."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan, cos, pi, sin, sqrt
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.psychrometrics import humidity_ratio, relative_humidity_pct
from canopy.weather.year import WARM_FROM_H, WARM_TO_H, DayAir

Array = NDArray[np.float64]
RoomKind = Literal["heated", "garage", "cellar", "shed"]
_WARMEST_HOUR = 15.0
# A cosine's mean over the fourteen hours about its top, and over the ten about its foot.
_TOP = sin(7 * pi / 12) / (7 * pi / 12)
_FOOT = -sin(5 * pi / 12) / (5 * pi / 12)
_HOME_C = 20.0
# Damp that people bring into a dwelling, and what little comes from a floor: at 0 °C and below outdoors; nothing from
# 20 °C on (ISO 13788, humidity classes 2 and 1, at about 1.2 kg/m³) [kg/kg].
_DWELLING, _STORE = 0.0033, 0.0012
_MOST_RH = 95.0


@dataclass(frozen=True, kw_only=True)
class _Kind:
    """Shares that a room takes of outdoors, of the home and of the ground; how slowly it follows [h]; what sun and
    people add [K]; damp that is added at 0 °C outdoors [kg/kg]. Rough: no two garages are alike.
    """

    outdoors: float
    home: float
    ground: float
    slow_h: float
    adds_k: float
    damp: float


_KINDS: dict[RoomKind, _Kind] = {
    "heated": _Kind(outdoors=0.85, home=0.0, ground=0.15, slow_h=20.0, adds_k=4.0, damp=_DWELLING),
    "garage": _Kind(outdoors=0.65, home=0.2, ground=0.15, slow_h=8.0, adds_k=0.5, damp=_STORE),
    "cellar": _Kind(outdoors=0.15, home=0.35, ground=0.5, slow_h=48.0, adds_k=0.0, damp=_STORE),
    "shed": _Kind(outdoors=1.0, home=0.0, ground=0.0, slow_h=2.0, adds_k=1.0, damp=0.0006),
}


@dataclass(frozen=True, kw_only=True)
class Hourly:
    """A day's air at every full hour, from midnight on: 24 temperatures [°C] and humidities [%]."""

    temperature_c: tuple[float, ...]
    rh_pct: tuple[float, ...]

    @property
    def day(self) -> DayAir:
        """In short: means of the warm hours and of the rest."""
        warm, damp = np.array(self.temperature_c), np.array(self.rh_pct)
        lit = np.zeros(24, dtype=bool)
        lit[WARM_FROM_H:WARM_TO_H] = True
        return DayAir(
            day_c=round(float(warm[lit].mean()), 2),
            night_c=round(float(warm[~lit].mean()), 2),
            day_rh_pct=round(float(damp[lit].mean()), 1),
            night_rh_pct=round(float(damp[~lit].mean()), 1),
        )


def mean_of(day: DayAir) -> float:
    """Give a day's mean temperature.

    Parameters
    ----------
    day : in short

    Returns
    -------
    float : [°C]
    """
    return day.day_c - _TOP * _swing(day)


def _swing(day: DayAir) -> float:
    return (day.day_c - day.night_c) / (_TOP - _FOOT)


def outdoors_by_hour(day: DayAir) -> Hourly:
    """Lay a day outdoors out over its hours.

    Parameters
    ----------
    day : in short

    Returns
    -------
    Hourly : a cosine that is warmest at three in the afternoon and has the same means; humidity likewise
    """
    mean, swing = mean_of(day), _swing(day)
    damp_swing = (day.day_rh_pct - day.night_rh_pct) / (_TOP - _FOOT)
    damp_mean = day.day_rh_pct - _TOP * damp_swing
    shape = [cos(2 * pi * (hour - _WARMEST_HOUR) / 24) for hour in range(24)]
    return Hourly(
        temperature_c=tuple(mean + swing * part for part in shape),
        rh_pct=tuple(min(100.0, max(1.0, damp_mean + damp_swing * part)) for part in shape),
    )


def ground_c(months: tuple[DayAir, ...], month: float) -> float:
    """Give the ground under a concrete floor.

    Parameters
    ----------
    months : the year in short
    month : time of the year, 0 for the middle of January, below 12

    Returns
    -------
    float : the year's mean, with half of its swing, six weeks behind it (about a metre deep; ISO 13370's order of
        size; rough) [°C]
    """
    means = np.array([mean_of(item) for item in months])
    turn = np.exp(-2j * pi * np.arange(12) / 12)
    wave = 2 * (means * turn).sum() / 12
    return float(means.mean() + 0.5 * (wave * np.exp(2j * pi * (month - 1.5) / 12)).real)


def room_by_hour(kind: RoomKind, day: DayAir, ground: float, warm: tuple[float, float], altitude_m: float) -> Hourly:
    """Give a room's air on a day.

    Parameters
    ----------
    kind : what it is
    day : the air outdoors
    ground : under its floor [°C]
    warm : what a heated room is kept at by day and by night [°C]
    altitude_m : height above sea level [m]

    Returns
    -------
    Hourly : outdoors, home and ground by its kind's shares; its swing as much smaller and later as a first-order lag
        makes it (1/√(1 + (ωτ)²)); what water it holds is outdoors' and what is added, at most 95 %
    """
    what, mean, swing = _KINDS[kind], mean_of(day), _swing(day)
    turn = 2 * pi / 24 * what.slow_h
    size, late = what.outdoors * swing / sqrt(1 + turn * turn), atan(turn) * 24 / (2 * pi)
    level = what.outdoors * mean + what.home * _HOME_C + what.ground * ground + what.adds_k
    outdoors = outdoors_by_hour(day)
    water = float(
        np.mean(
            [humidity_ratio(t, rh, altitude_m) for t, rh in zip(outdoors.temperature_c, outdoors.rh_pct, strict=True)]
        )
    )
    water += what.damp * min(1.0, max(0.0, 1 - mean / 20))
    found, damp = [], []
    for hour in range(24):
        free = level + size * cos(2 * pi * (hour - _WARMEST_HOUR - late) / 24)
        if kind == "heated":
            free = max(free, warm[0] if WARM_FROM_H <= hour < WARM_TO_H else warm[1])
        found.append(round(free, 3))
        damp.append(round(min(_MOST_RH, max(1.0, relative_humidity_pct(free, water, altitude_m))), 2))
    return Hourly(temperature_c=tuple(found), rh_pct=tuple(damp))


def room_over(
    kind: RoomKind, temperature_c: Array, rh_pct: Array, ground: float, warm: tuple[float, float], altitude_m: float
) -> tuple[Array, Array]:
    """Give a room's air through weather hour by hour.

    Parameters
    ----------
    kind : what it is
    temperature_c : the air outdoors from a midnight on, shape (hours,) [°C]
    rh_pct : its humidity, shape (hours,) [%]
    ground : under its floor [°C]
    warm : what a heated room is kept at by day and by night [°C]
    altitude_m : height above sea level [m]

    Returns
    -------
    (ndarray, ndarray) : its temperature [°C] and humidity [%], shapes (hours,); it follows as a first-order lag that
        begins at the first day's mean
    """
    what = _KINDS[kind]
    keep = float(np.exp(-1 / what.slow_h))
    lagged, value = np.empty(len(temperature_c)), float(temperature_c[:24].mean())
    before = temperature_c[0]
    for hour, outdoors in enumerate(temperature_c):
        value = keep * value + (1 - keep) * float(before + outdoors) / 2
        lagged[hour], before = value, outdoors
    found = what.outdoors * lagged + what.home * _HOME_C + what.ground * ground + what.adds_k
    if kind == "heated":
        clock = np.arange(len(found)) % 24
        found = np.maximum(found, np.where((clock >= WARM_FROM_H) & (clock < WARM_TO_H), *warm))
    damp = []
    for t, rh, inside in zip(temperature_c, rh_pct, found, strict=True):
        water = humidity_ratio(float(t), float(rh), altitude_m) + what.damp * min(1.0, max(0.0, 1 - float(t) / 20))
        damp.append(min(_MOST_RH, max(1.0, relative_humidity_pct(float(inside), water, altitude_m))))
    return np.asarray(found), np.array(damp)
