"""Amounts of air as every margin writes them, and names of what air is asked for."""

from __future__ import annotations

from canopy.air.demand import Demand
from canopy.air.operating import OperatingPoint
from canopy.evaluate.air.breathing import filtered
from canopy.margin import Amount
from canopy.plan.airways import Airway
from canopy.plan.document import Space

NAMES = {"exchange": "air exchange", "heat": "heat", "moisture": "moisture", "co2": "CO₂"}


# A fifth to spare: dust, leaks and what data sheets promise.
SPARE = 1.2


def spare_of(space: Space, governing: Demand) -> float:
    """Give how many times what is asked is enough, so that nothing is counted twice.

    Parameters
    ----------
    space : the space, with its ways of air
    governing : the demand that sizes the flow

    Returns
    -------
    float : 1 where a filter is computed in its path (its ageing is judged by itself) or the flat allowance is in the
        demand already, else a fifth more
    """
    padded = governing.criterion == "exchange" and space.air.count_allowance
    return 1.0 if filtered(space) or padded else SPARE


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
