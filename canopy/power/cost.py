"""What loads cost: by the minute of the day at which they run, on any date, over a month of days."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from canopy.plan.tariff import MINUTES, Tariff
from canopy.power.hours import minutes_of
from canopy.power.load import MONTH_DAYS, Load

_W_MIN_PER_KWH = 60_000.0
Minutes = NDArray[np.int64]


def priced(load: Load, tariff: Tariff, month: int | None = None) -> float:
    """Give what a load costs on a day.

    Parameters
    ----------
    load : with its schedule and its energy a day
    tariff : by the minute
    month : 1 to 12; over all months alike when None

    Returns
    -------
    float : its energy at the mean price of the minutes in which it runs [currency/d]
    """
    return load.energy_kwh_d * price_of(load, tariff, month)


def price_of(load: Load, tariff: Tariff, month: int | None = None) -> float:
    """Give the mean price that a load pays.

    Parameters
    ----------
    load : with its schedule
    tariff : by the minute
    month : 1 to 12; over all months alike when None

    Returns
    -------
    float : weighted by what it draws in each minute; of what nobody timed, over the day [currency/kWh]
    """
    if not tariff.rates:
        return tariff.price_per_kwh
    prices, drawn = tariff.mean_prices(month), minutes_of(load)
    total = float(drawn.sum())
    return float(prices @ drawn) / total if total > 0 else float(prices.mean())


def monthly_cost(loads: Iterable[Load], tariff: Tariff, month: int | None = None) -> float:
    """Give what loads cost in a month.

    Parameters
    ----------
    loads : all that runs, each with its hours a day
    tariff : by the minute
    month : 1 to 12; over all months alike when None

    Returns
    -------
    float : cost of 30.4 days, without the standing charge [currency]
    """
    return MONTH_DAYS * sum(priced(load, tariff, month) for load in loads)


def minutes_on(day: dt.date, zone: str = "") -> Minutes:
    """Give the minutes of a date as the clock on the wall shows them.

    Parameters
    ----------
    day : the date
    zone : name of a time zone; without one every day has 24 hours

    Returns
    -------
    ndarray of int : minutes of the day in order, shape (1440,); 60 fewer where the clock is put forward, 60 more, an
        hour twice, where it is put back
    """
    if not zone:
        return np.arange(MINUTES)
    there = ZoneInfo(zone)
    begins = dt.datetime.combine(day, dt.time(), tzinfo=there).astimezone(dt.UTC)
    ends = dt.datetime.combine(day + dt.timedelta(days=1), dt.time(), tzinfo=there).astimezone(dt.UTC)
    whole = round((ends - begins).total_seconds() / 60)
    if whole == MINUTES:
        return np.arange(MINUTES)
    shown = [(begins + dt.timedelta(minutes=n)).astimezone(there) for n in range(whole)]
    return np.array([60 * at.hour + at.minute for at in shown])


def cost_on(load: Load, tariff: Tariff, day: dt.date, zone: str = "") -> tuple[float, float]:
    """Give what a load draws and costs on a date.

    Parameters
    ----------
    load : with its schedule and its energy a day of 24 hours
    tariff : by the minute
    day : the date
    zone : name of a time zone, for days of 23 and 25 hours

    Returns
    -------
    float : energy [kWh]
    float : cost [currency]
    """
    at = minutes_on(day, zone)
    drawn = minutes_of(load).astype(np.float64)
    total = float(drawn.sum()) / _W_MIN_PER_KWH
    # What the climate switches runs for less than its hours: in proportion in each of them.
    share = load.energy_kwh_d / total if total > 0 else 0.0
    watts = drawn[at] * share
    energy = float(watts.sum()) / _W_MIN_PER_KWH
    return energy, float(watts @ tariff.prices(day.weekday(), day.month)[at]) / _W_MIN_PER_KWH
