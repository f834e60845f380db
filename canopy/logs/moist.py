"""Vapour pressure deficit and dew point of whole series of readings: ASHRAE's saturation pressure for arrays."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# ASHRAE Fundamentals 2017, chapter 1, eqs. 5 (over ice) and 6 (over water); temperatures in kelvin.
_ICE = (-5.6745359e3, 6.3925247, -9.677843e-3, 6.2215701e-7, 2.0747825e-9, -9.484024e-13, 4.1635019)
_WATER = (-5.8002206e3, 1.3914993, -4.8640239e-2, 4.1764768e-5, -1.4452093e-8, 6.5459673)
_TRIPLE_C = 0.01
# The dew point is read off a table as fine as this [K].
_COLDEST_C, _HOTTEST_C, _STEP_K = -80.0, 110.0, 0.02
_DRY_PA = 0.1


def saturation_pa(air_c: Floats) -> Floats:
    """Give the vapour pressure of saturated air.

    Parameters
    ----------
    air_c : temperatures, -100 to 200, any shape [°C]

    Returns
    -------
    array : pressures, of the same shape [Pa]; over ice below the triple point
    """
    celsius = np.asarray(air_c, dtype=float)
    kelvin = celsius + 273.15
    a, b, c, d, e, f, g = _ICE
    ice = a / kelvin + b + c * kelvin + d * kelvin**2 + e * kelvin**3 + f * kelvin**4 + g * np.log(kelvin)
    a, b, c, d, e, f = _WATER
    water = a / kelvin + b + c * kelvin + d * kelvin**2 + e * kelvin**3 + f * np.log(kelvin)
    found: Floats = np.exp(np.where(celsius <= _TRIPLE_C, ice, water))
    return found


def vpd_kpa(air_c: Floats, rh_pct: Floats) -> Floats:
    """Give the vapour pressure deficit of air.

    Parameters
    ----------
    air_c : temperatures, shape (n) [°C]
    rh_pct : relative humidities, shape (n) [%]

    Returns
    -------
    array : deficits, shape (n), no less than 0 [kPa]; nan where either is
    """
    return np.maximum(0.0, saturation_pa(air_c) * (1 - np.asarray(rh_pct, dtype=float) / 100) / 1000)


def dew_c(air_c: Floats, rh_pct: Floats) -> Floats:
    """Give the dew point of air.

    Parameters
    ----------
    air_c : temperatures, shape (n) [°C]
    rh_pct : relative humidities, shape (n) [%]

    Returns
    -------
    array : dew points, shape (n) [°C]; nan where either is, or where the air is bone dry
    """
    temperatures, logs = _table()
    pressure = saturation_pa(air_c) * np.asarray(rh_pct, dtype=float) / 100
    found = np.full(np.shape(pressure), np.nan)
    there = np.isfinite(pressure) & (pressure > _DRY_PA)
    found[there] = np.interp(np.log(pressure[there]), logs, temperatures)
    return found


@cache
def _table() -> tuple[Floats, Floats]:
    temperatures: Floats = np.arange(_COLDEST_C, _HOTTEST_C, _STEP_K, dtype=np.float64)
    logs: Floats = np.log(saturation_pa(temperatures))
    return temperatures, logs
