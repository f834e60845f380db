"""Amounts of air as every margin writes them, and names of what air is asked for."""

from __future__ import annotations

from canopy.margin import Amount

NAMES = {"exchange": "air exchange", "heat": "heat", "moisture": "moisture", "co2": "CO₂"}


# A filter ages: a fifth to spare.
SPARE = 1.2


def flow(value: float) -> Amount:
    """Give an amount of air.

    Parameters
    ----------
    value : flow [m³/h]

    Returns
    -------
    Amount : in each person's unit
    """
    return Amount(value=value, unit="airflow")


AIR_SOURCE = "ASHRAE Handbook: duct design, fans; physics of small enclosures compiled for this project (2026)"


def pascal(value: float) -> Amount:
    """Give an amount of pressure.

    Parameters
    ----------
    value : pressure [Pa]

    Returns
    -------
    Amount : in each person's unit
    """
    return Amount(value=value, unit="pressure")


def air_speed(value: float) -> Amount:
    """Give an amount of air speed.

    Parameters
    ----------
    value : speed [m/s]

    Returns
    -------
    Amount : in each person's unit
    """
    return Amount(value=value, unit="air speed")
