"""Amounts of air as every margin writes them, and names of what air is asked for."""

from __future__ import annotations

from canopy.air.operating import OperatingPoint
from canopy.margin import Amount
from canopy.plan.airways import Airway
from canopy.plan.document import Space

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


def is_enough(space: Space, airway: Airway, point: OperatingPoint, need_m3_h: float | None) -> bool:
    """Say whether a way gives what is asked at an operating point, as a mean over its cycles with the lamps on.

    Parameters
    ----------
    point : where it works at one speed
    need_m3_h : flow that is asked for; None where no flow would do [m³/h]

    Returns
    -------
    bool : False where no flow would do
    """
    return need_m3_h is not None and point.flow_m3_h * airway.duty(space.lit, while_lit=True) >= need_m3_h
