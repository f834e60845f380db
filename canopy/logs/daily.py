"""Readings by day: lowest, mean and highest of each day as the household's clock has it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Seconds = NDArray[np.int64]


@dataclass(frozen=True, kw_only=True)
class DayInShort:
    """A day of a sensor: how low, on the mean, how high."""

    day: dt.date
    low: float
    mean: float
    high: float


def offsets_s(at: Seconds, zone: dt.tzinfo) -> Seconds:
    """Give how far the local clock is from UTC at each of some moments.

    Parameters
    ----------
    at : seconds of UTC, rising, shape (n)

    Returns
    -------
    array : seconds to add for the local clock, shape (n); looked up once a day and again where it changes within one
    """
    if at.size == 0:
        return np.zeros(0, dtype=np.int64)
    days = at // 86400
    first, last = int(days[0]), int(days[-1])
    edges = np.array([_offset(day * 86400, zone) for day in range(first, last + 2)], dtype=np.int64)
    found = edges[days - first]
    # A day on which the clock is changed: hour by hour.
    for day in np.flatnonzero(np.diff(edges)):
        here = np.flatnonzero(days == first + day)
        hours = {hour: _offset(int(hour) * 3600, zone) for hour in np.unique(at[here] // 3600)}
        found[here] = [hours[hour] for hour in at[here] // 3600]
    return found


def _offset(second: int, zone: dt.tzinfo) -> int:
    delta = dt.datetime.fromtimestamp(second, zone).utcoffset()
    return int(delta.total_seconds()) if delta else 0


def by_day(at: Seconds, low: Floats, mean: Floats, high: Floats, zone: dt.tzinfo) -> tuple[DayInShort, ...]:
    """Draw a series together by days.

    Parameters
    ----------
    at : seconds of UTC, rising, shape (n)
    low : lowest of each, shape (n)
    mean : mean of each, shape (n)
    high : highest of each, shape (n)
    zone : by whose clock a day begins

    Returns
    -------
    tuple of DayInShort : the oldest first; days without readings are not among them
    """
    if at.size == 0:
        return ()
    days = (at + offsets_s(at, zone)) // 86400
    begins = np.flatnonzero(np.diff(days, prepend=days[0] - 1))
    counts = np.diff(np.append(begins, at.size))
    lows, highs = np.minimum.reduceat(low, begins), np.maximum.reduceat(high, begins)
    means = np.add.reduceat(mean, begins) / counts
    epoch = dt.date(1970, 1, 1)
    return tuple(
        DayInShort(day=epoch + dt.timedelta(days=int(day)), low=float(a), mean=float(b), high=float(c))
        for day, a, b, c in zip(days[begins], lows, means, highs, strict=True)
    )


def by_hour(at: Seconds, mean: Floats, zone: dt.tzinfo) -> tuple[dt.date | None, Floats]:
    """Lay a series out as a row a day, an hour a column.

    Parameters
    ----------
    at : seconds of UTC, rising, shape (n)
    mean : of each, shape (n)
    zone : by whose clock days and hours are told

    Returns
    -------
    date : of the first row; None without readings
    array : means, shape (days, 24); NaN where nothing was read, and where the clock leaps an hour
    """
    if at.size == 0:
        return None, np.zeros((0, 24))
    hours = (at + offsets_s(at, zone)) // 3600
    first = int(hours[0]) // 24
    places = hours - 24 * first
    count = int(places[-1]) // 24 + 1
    total = np.bincount(places, weights=mean, minlength=24 * count)
    number = np.bincount(places, minlength=24 * count)
    with np.errstate(invalid="ignore"):
        grid = np.where(number > 0, total / np.maximum(number, 1), np.nan)
    return dt.date(1970, 1, 1) + dt.timedelta(days=first), grid[: 24 * count].reshape(count, 24)
