"""A year of hourly air, and the same in short: twelve months, the coldest and the hottest three days."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
HOURS = 8760
_MONTH_DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
# A day's warm hours, from eight to ten in the evening.
WARM_FROM_H, WARM_TO_H = 8, 22
_EXTREME_DAYS = 3


@dataclass(frozen=True, kw_only=True)
class DayAir:
    """The air of a day: mean of its warm hours and of the rest [°C], humidity then [%]."""

    day_c: float
    night_c: float
    day_rh_pct: float
    night_rh_pct: float


@dataclass(frozen=True, kw_only=True, eq=False)
class Year:
    """Outdoor air hour by hour from the first of January on, shapes (8760,): temperature [°C], humidity [%]."""

    temperature_c: Array
    rh_pct: Array

    @cached_property
    def by_day(self) -> tuple[Array, Array]:
        """The same as (365, 24)."""
        return self.temperature_c.reshape(365, 24), self.rh_pct.reshape(365, 24)

    def days(self, first: int, count: int) -> DayAir:
        """Give the mean air of some days.

        Parameters
        ----------
        first : number of the first one, 0 for the first of January
        count : how many, over the end of the year, too

        Returns
        -------
        DayAir : means of warm hours and of the rest
        """
        rows = np.arange(first, first + count) % 365
        warm, damp = (part[rows] for part in self.by_day)
        lit = np.zeros(24, dtype=bool)
        lit[WARM_FROM_H:WARM_TO_H] = True
        return DayAir(
            day_c=round(float(warm[:, lit].mean()), 2),
            night_c=round(float(warm[:, ~lit].mean()), 2),
            day_rh_pct=round(float(damp[:, lit].mean()), 1),
            night_rh_pct=round(float(damp[:, ~lit].mean()), 1),
        )


@dataclass(frozen=True, kw_only=True)
class YearInShort:
    """Twelve months, January first, and the coldest and hottest three days."""

    months: tuple[DayAir, ...]
    coldest: DayAir
    hottest: DayAir


def in_short(year: Year) -> YearInShort:
    """Put a year in short.

    Parameters
    ----------
    year : hour by hour

    Returns
    -------
    YearInShort : means of months; of all runs of three days that with the lowest mean, and with the highest
    """
    firsts = np.concatenate([[0], np.cumsum(_MONTH_DAYS)[:-1]])
    months = tuple(year.days(int(first), days) for first, days in zip(firsts, _MONTH_DAYS, strict=True))
    means = year.by_day[0].mean(axis=1)
    runs = np.array([means[np.arange(k, k + _EXTREME_DAYS) % 365].mean() for k in range(365)])
    return YearInShort(
        months=months,
        coldest=year.days(int(runs.argmin()), _EXTREME_DAYS),
        hottest=year.days(int(runs.argmax()), _EXTREME_DAYS),
    )
