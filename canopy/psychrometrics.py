"""Moist air, through PsychroLib (ASHRAE Fundamentals 2017, ch. 1), in the units the plan uses."""

from __future__ import annotations

import sys
from functools import cache
from typing import Any

from canopy.errors import QuantityError

HEAT_OF_EVAPORATION_J_KG = 2.45e6
HEAT_CAPACITY_J_KGK = 1020.0


@cache
def _library() -> Any:
    # Where numba is at hand the library would compile itself with it, for half a minute at the first question.
    held = sys.modules.get("numba")
    sys.modules["numba"] = None  # type: ignore[assignment]
    try:
        import psychrolib
    finally:
        if held is None:
            del sys.modules["numba"]
        else:
            sys.modules["numba"] = held
    psychrolib.SetUnitSystem(psychrolib.SI)
    return psychrolib


# Vapour takes at most this share of the pressure before the mixture is no longer air.
_BOILS_SHARE = 0.9
_COLDEST_C, _HOTTEST_C = -100.0, 200.0
# Below this water boils nowhere on land (saturation 19.9 kPa; the air of 11 km holds 22 kPa).
_NEVER_BOILS_C = 60.0


def _bounded(temperature_c: float) -> None:
    if not _COLDEST_C <= temperature_c <= _HOTTEST_C:
        raise QuantityError(f"the air is {temperature_c:.0f} °C: moist air is followed from -100 to 200 °C")


@cache
def pressure_pa(altitude_m: float) -> float:
    """Give the standard air pressure at an altitude.

    Parameters
    ----------
    altitude_m : height above sea level [m]

    Returns
    -------
    float : pressure [Pa]
    """
    return float(_library().GetStandardAtmPressure(float(altitude_m)))


def density_share(altitude_m: float) -> float:
    """Give the density of air at an altitude against the same air at sea level.

    Parameters
    ----------
    altitude_m : height above sea level [m]

    Returns
    -------
    float : share, 1 at sea level, 0.89 at 1,000 m (standard atmosphere, same temperature)
    """
    return pressure_pa(altitude_m) / pressure_pa(0.0)


def saturation_pa(temperature_c: float) -> float:
    """Give the vapour pressure of saturated air.

    Parameters
    ----------
    temperature_c : temperature, -100 to 200 [°C]

    Returns
    -------
    float : saturation vapour pressure [Pa]

    Raises
    ------
    QuantityError : temperature outside -100..200 °C
    """
    _bounded(temperature_c)
    return float(_library().GetSatVapPres(float(temperature_c)))


def humidity_ratio(temperature_c: float, rh_pct: float, altitude_m: float = 0.0) -> float:
    """Give the water in air per kilogram of dry air.

    Parameters
    ----------
    temperature_c : air temperature [°C]
    rh_pct : relative humidity, 0 to 100 [%]
    altitude_m : height above sea level [m]

    Returns
    -------
    float : humidity ratio [kg/kg]

    Raises
    ------
    QuantityError : relative humidity outside 0..100 %, temperature outside -100..200 °C, or so warm that water boils
    """
    _bounded(temperature_c)
    if not 0 <= rh_pct <= 100:
        raise QuantityError(f"relative humidity is {rh_pct:.0f} %: give 0 to 100 %")
    if temperature_c > _NEVER_BOILS_C and _boils(temperature_c, rh_pct, altitude_m):
        raise QuantityError(
            f"at {temperature_c:.0f} °C and {altitude_m:.0f} m above the sea the water in it would boil"
        )
    ratio = _library().GetHumRatioFromRelHum(float(temperature_c), rh_pct / 100, pressure_pa(altitude_m))
    return float(ratio)


def _boils(temperature_c: float, rh_pct: float, altitude_m: float) -> bool:
    return saturation_pa(temperature_c) * rh_pct / 100 > _BOILS_SHARE * pressure_pa(altitude_m)


def relative_humidity_pct(temperature_c: float, ratio: float, altitude_m: float = 0.0) -> float:
    """Give the relative humidity of air with so much water; more than 100 where it would fog.

    Parameters
    ----------
    temperature_c : air temperature [°C]
    ratio : humidity ratio [kg/kg]
    altitude_m : height above sea level [m]

    Returns
    -------
    float : relative humidity [%]
    """
    vapour = pressure_pa(altitude_m) * ratio / (0.621945 + ratio)
    return 100 * vapour / saturation_pa(temperature_c)


def dry_air_density_kg_m3(temperature_c: float, ratio: float, altitude_m: float = 0.0) -> float:
    """Give the kilograms of dry air in a cubic metre.

    Parameters
    ----------
    temperature_c : air temperature [°C]
    ratio : humidity ratio [kg/kg]
    altitude_m : height above sea level [m]

    Returns
    -------
    float : dry air per volume of moist air [kg/m³]

    Raises
    ------
    QuantityError : temperature outside -100..200 °C
    """
    _bounded(temperature_c)
    volume = _library().GetMoistAirVolume(float(temperature_c), float(ratio), pressure_pa(altitude_m))
    return 1 / float(volume)


def vpd_kpa(temperature_c: float, rh_pct: float) -> float:
    """Give the vapour pressure deficit of the air itself.

    Parameters
    ----------
    temperature_c : air temperature [°C]
    rh_pct : relative humidity [%]

    Returns
    -------
    float : VPD of the air [kPa]
    """
    return saturation_pa(temperature_c) * (1 - rh_pct / 100) / 1000
