"""Moist air in the loop of the simulation: the few formulas it needs, compiled.

Saturation as in ASHRAE Fundamentals 2017 ch. 1 eqs. 5 and 6 (Hyland & Wexler 1983), the same as everywhere else here;
the enhancement factor of real air (about 1.0045) is left out as there: it cancels in humidity and dew point.
"""

from __future__ import annotations

from math import exp, log
from typing import Any

import numpy as np
from numpy.typing import NDArray

from canopy.climate.compiled import part

# From here on saturation goes on in a straight line: towards boiling the ratio would have no end [°C].
STRAIGHT_C = 80.0
RATIO = 0.621945
_KELVIN, _ICE_C = 273.15, 0.01
Array = NDArray[np.float64]


# Of a number or of many: written once, compiled for numbers.
def _over_water(k: Any, log_k: Any) -> Any:
    c = -5.8002206e3 / k + 1.3914993 + k * (-4.8640239e-2 + k * (4.1764768e-5 - k * 1.4452093e-8))
    return c + 6.5459673 * log_k


def _over_ice(k: Any, log_k: Any) -> Any:
    c = 6.2215701e-7 + k * (2.0747825e-9 - k * 9.484024e-13)
    return -5.6745359e3 / k + 6.3925247 + k * (-9.677843e-3 + k * c) + 4.1635019 * log_k


def _slope_over_water(k: Any) -> Any:
    return (5.8002206e3 / k + 6.5459673) / k - 4.8640239e-2 + k * (8.3529536e-5 - k * 4.3356279e-8)


def _slope_over_ice(k: Any) -> Any:
    c = 1.24431402e-6 + k * (6.2243475e-9 - k * 3.7936096e-12)
    return (5.6745359e3 / k + 4.1635019) / k - 9.677843e-3 + k * c


_water, _ice = part(_over_water), part(_over_ice)
_water_slope, _ice_slope = part(_slope_over_water), part(_slope_over_ice)


@part
def _log_saturation(t: float) -> float:
    k = t + _KELVIN
    log_pa: float = _water(k, log(k)) if t > _ICE_C else _ice(k, log(k))
    return log_pa


@part
def _log_slope(t: float) -> float:
    k = t + _KELVIN
    slope: float = _water_slope(k) if t > _ICE_C else _ice_slope(k)
    return slope


@part
def saturation_pa(temperature_c: float) -> float:
    """Give the vapour pressure of saturated air.

    Parameters
    ----------
    temperature_c : air temperature [°C]; over ice below 0

    Returns
    -------
    float : saturation vapour pressure [Pa]
    """
    return exp(_log_saturation(temperature_c))


@part
def saturated(temperature_c: float, pressure_pa: float) -> tuple[float, float]:
    """Give the humidity ratio of saturated air, and how it rises with warmth.

    Parameters
    ----------
    temperature_c : air temperature; beyond 80 °C both go on in a straight line [°C]
    pressure_pa : air pressure [Pa]

    Returns
    -------
    (float, float) : kg water per kg dry air; dW_s/dT [1/K]
    """
    t = min(temperature_c, STRAIGHT_C)
    p = saturation_pa(t)
    dry = pressure_pa - p
    slope = RATIO * pressure_pa / (dry * dry) * p * _log_slope(t)
    return RATIO * p / dry + slope * (temperature_c - t), slope


@part
def saturated_ratio(temperature_c: float, pressure_pa: float) -> float:
    """Give the humidity ratio of saturated air.

    Parameters
    ----------
    temperature_c : air temperature; beyond 80 °C it goes on in a straight line [°C]
    pressure_pa : air pressure [Pa]

    Returns
    -------
    float : kg water per kg dry air
    """
    return saturated(temperature_c, pressure_pa)[0]


@part
def vapour_pa(ratio: float, pressure_pa: float) -> float:
    """Give the vapour pressure of air.

    Parameters
    ----------
    ratio : humidity ratio [kg/kg]
    pressure_pa : air pressure [Pa]

    Returns
    -------
    float : vapour pressure [Pa]
    """
    return pressure_pa * ratio / (RATIO + ratio)


@part
def dew_point_c(ratio: float, pressure_pa: float) -> float:
    """Give the temperature at which air would begin to fog.

    Parameters
    ----------
    ratio : humidity ratio, above 0 [kg/kg]
    pressure_pa : air pressure [Pa]

    Returns
    -------
    float : dew point, frost point below 0 [°C]; the inverse of `saturation_pa` to 1e-9 K
    """
    wanted = log(max(vapour_pa(ratio, pressure_pa), 1e-3))
    g = wanted - log(611.2)
    # Magnus gives the first guess (Sonntag 1990), Newton's method the rest: nearly straight in the logarithm.
    t = 243.12 * g / (17.62 - g)
    for _ in range(4):
        t -= (_log_saturation(t) - wanted) / _log_slope(t)
    return t


def _logs(t: Array) -> Array:
    k = t + _KELVIN
    return np.asarray(np.where(t > _ICE_C, _over_water(k, np.log(k)), _over_ice(k, np.log(k))))


def saturations_pa(temperatures_c: Array) -> Array:
    """Give the vapour pressures of saturated airs.

    Parameters
    ----------
    temperatures_c : shape (n,) [°C]

    Returns
    -------
    ndarray : as `saturation_pa` gives for each, shape (n,) [Pa]
    """
    return np.exp(_logs(temperatures_c))


def dew_points_c(ratios: Array, pressure_pa: float) -> Array:
    """Give the temperatures at which airs would begin to fog.

    Parameters
    ----------
    ratios : humidity ratios, shape (n,) [kg/kg]
    pressure_pa : air pressure [Pa]

    Returns
    -------
    ndarray : as `dew_point_c` gives for each, shape (n,) [°C]
    """
    wanted = np.log(np.maximum(pressure_pa * ratios / (RATIO + ratios), 1e-3))
    g = wanted - log(611.2)
    t = 243.12 * g / (17.62 - g)
    for _ in range(4):
        k = t + _KELVIN
        t = t - (_logs(t) - wanted) / np.where(t > _ICE_C, _slope_over_water(k), _slope_over_ice(k))
    return np.asarray(t)
