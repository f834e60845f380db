"""What changes slowly: filters that load up, lamps that fade, probes that drift; and when it will be too much."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from canopy.review.series import Seconds, Series

Floats = NDArray[np.float64]
# A trend is told from so many days on, over so long a time, and only where it is so many times its standard error.
_LEAST_DAYS, _LEAST_SPAN_D, _SURE = 8, 10, 2.5
# Readings of two probes within so long of each other are compared [s].
_SAME_S = 420
# No further ahead than so [d].
_AHEAD_D = 5 * 365


@dataclass(frozen=True, kw_only=True)
class Trend:
    """A straight line through days: its value today, how much it changes in a day with the standard error, the day on
    which it reaches a bound, None where it does not; ``why_not`` where nothing can be told.
    """

    now: float = 0.0
    a_day: float = 0.0
    off_a_day: float = 0.0
    reaches: dt.date | None = None
    earliest: dt.date | None = None
    days: int = 0
    why_not: str = ""

    @property
    def sure(self) -> bool:
        """Whether it changes by more than chance."""
        return not self.why_not and abs(self.a_day) > _SURE * self.off_a_day


def trend(
    days: Sequence[dt.date], values: Sequence[float], bound: float | None = None, least: int = _LEAST_DAYS
) -> Trend:
    """Lay a line through days that is not led astray by single ones.

    Parameters
    ----------
    days : which
    values : of each
    bound : what it should not pass
    least : from so many days on something is told, 3 or more

    Returns
    -------
    Trend : with the day on which it reaches the bound if it goes on so, and the earliest within its error

    Notes
    -----
    Theil and Sen's slope: the median of the slopes between all pairs (Sen 1968); its standard error from the middle
    68 % of Kendall's interval.
    """
    from scipy.stats import theilslopes

    if len(days) < least or (max(days) - min(days)).days < _LEAST_SPAN_D:
        return Trend(days=len(days), why_not=f"too few days yet: {least} over at least {_LEAST_SPAN_D} are needed")
    x = np.array([day.toordinal() for day in days], dtype=np.float64)
    y = np.array(values, dtype=np.float64)
    last = float(x.max())
    found = theilslopes(y, x, alpha=0.68)
    slope = float(found.slope)
    off = max(1e-9, float(found.high_slope - found.low_slope) / 2)
    now = float(np.median(y - slope * (x - last)))
    reaches = earliest = None
    if bound is not None and abs(slope) > _SURE * off:
        reaches = _when(now, slope, bound, last)
        faster = slope + np.sign(slope) * off
        earliest = _when(now, float(faster), bound, last)
    return Trend(now=now, a_day=slope, off_a_day=off, reaches=reaches, earliest=earliest, days=len(days))


def _when(now: float, slope: float, bound: float, last: float) -> dt.date | None:
    if slope == 0 or (bound - now) / slope > _AHEAD_D:
        return None
    return dt.date.fromordinal(int(last + max(0.0, (bound - now) / slope)))


@dataclass(frozen=True, kw_only=True)
class Apart:
    """Two probes of one quantity in one place: their names, by how much the first shows more (median), how much that
    grows in a day, how long they were compared [d]; ``why_not`` where they cannot be.
    """

    one: str
    two: str
    quantity: str
    by: float = 0.0
    scatter: float = 0.0
    drift: Trend | None = None
    days: int = 0
    why_not: str = ""


def compared(one: Series, two: Series) -> Apart:
    """Hold two probes against each other that should show the same.

    Parameters
    ----------
    one : a probe
    two : another one of the same quantity

    Returns
    -------
    Apart : by medians of each day, so that what passes by one of them for an hour does not count
    """
    known = Apart(one=one.name, two=two.name, quantity=one.quantity)
    if not len(one.at) or not len(two.at):
        return replace(known, why_not="one of them has shown nothing")
    after = np.clip(np.searchsorted(two.at, one.at), 1, max(1, len(two.at) - 1))
    near = np.where(
        np.abs(two.at[after - 1] - one.at) <= np.abs(two.at[np.minimum(after, len(two.at) - 1)] - one.at),
        after - 1,
        np.minimum(after, len(two.at) - 1),
    )
    same = np.abs(two.at[near] - one.at) <= _SAME_S
    if same.sum() < 12:
        return replace(known, why_not="they were never read at the same time")
    gap = one.value[same] - two.value[near[same]]
    days = one.at[same] // 86400
    whole = [(int(day), float(np.median(gap[days == day]))) for day in np.unique(days) if (days == day).sum() >= 6]
    line = trend([dt.date(1970, 1, 1) + dt.timedelta(days=day) for day, _ in whole], [value for _, value in whole])
    middle = float(np.median(gap))
    spread = float(np.median(np.abs(gap - middle))) * 1.4826
    return replace(known, by=middle, scatter=spread, drift=line, days=len(whole))


# Over a paste of table salt and water in a closed jar, by temperature [°C]: relative humidity (Greenspan 1977, J. Res.
# NBS 81A, sodium chloride); in water with melting crushed ice it is 0.01 °C.
_SALT = ((5.0, 75.65), (10.0, 75.67), (15.0, 75.61), (20.0, 75.47), (25.0, 75.29), (30.0, 75.09), (35.0, 74.87))
ICE_C = 0.01
# By so much a household's own test may be off.
SALT_OFF, ICE_OFF = 1.0, 0.15


def salt_rh_pct(temperature_c: float) -> float:
    """Give the humidity in a closed jar over wet table salt.

    Parameters
    ----------
    temperature_c : of the jar, 5..35 [°C]

    Returns
    -------
    float : relative humidity [%]

    Raises
    ------
    QuantityError : colder or warmer than it was measured at
    """
    from canopy.errors import QuantityError

    low, high = _SALT[0][0], _SALT[-1][0]
    if not low <= temperature_c <= high:
        raise QuantityError(f"{temperature_c:g} °C: the salt test is known from {low:g} to {high:g} °C")
    return float(np.interp(temperature_c, [t for t, _ in _SALT], [rh for _, rh in _SALT]))


def daily(at: Seconds, value: Floats, use: NDArray[np.bool_], least: int = 6) -> tuple[list[dt.date], list[float]]:
    """Draw readings together by days of UTC: medians of those that count.

    Parameters
    ----------
    at : seconds, shape (n,)
    value : shape (n,)
    use : which of them count, shape (n,)
    least : so many at least make a day

    Returns
    -------
    (list of date, list of float) : rising
    """
    days, found = at[use] // 86400, value[use]
    told = [(int(day), float(np.median(found[days == day]))) for day in np.unique(days) if (days == day).sum() >= least]
    return [dt.date(1970, 1, 1) + dt.timedelta(days=day) for day, _ in told], [value for _, value in told]
