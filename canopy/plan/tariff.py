"""What a kilowatt-hour costs: flat, or by hours, weekdays and seasons; with a standing charge."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import cached_property, lru_cache
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from canopy.errors import QuantityError
from canopy.model import Record
from canopy.schedule import Clock, minute_of
from canopy.words import clock

Prices = NDArray[np.float64]
MINUTES = 1440
DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_GROUPS = {"weekdays": (0, 1, 2, 3, 4), "weekend": (5, 6), "weekends": (5, 6), "daily": (0, 1, 2, 3, 4, 5, 6)}
ACCEPTED = "one line each, such as “0.34 weekdays 07:00-22:00”, “0.22 weekend” or “0.19 22:00-07:00 Oct-Mar”"


class Rate(Record):
    """A price that holds on some weekdays (0 is Monday) between two times, over midnight of the same day where the end
    lies before the start, all day where they are equal; and in the months from ``first_month`` to ``last_month``, over
    the turn of the year too.
    """

    price_per_kwh: Annotated[float, Field(ge=0, le=100)]
    weekdays: tuple[Annotated[int, Field(ge=0, le=6)], ...] = Field(default=(0, 1, 2, 3, 4, 5, 6), min_length=1)
    start: Clock = "00:00"
    end: Clock = "00:00"
    first_month: Annotated[int, Field(ge=1, le=12)] = 1
    last_month: Annotated[int, Field(ge=1, le=12)] = 12

    def holds_in(self, month: int) -> bool:
        """Say whether it holds in a month.

        Parameters
        ----------
        month : 1 to 12

        Returns
        -------
        bool : over the turn of the year where the last month lies before the first
        """
        if self.first_month <= self.last_month:
            return self.first_month <= month <= self.last_month
        return month >= self.first_month or month <= self.last_month

    def minutes(self) -> NDArray[np.bool_]:
        """Mark the minutes of its days.

        Returns
        -------
        ndarray of bool : shape (1440,)
        """
        at, start, end = np.arange(MINUTES), minute_of(self.start), minute_of(self.end)
        if start == end:
            return np.ones(MINUTES, dtype=bool)
        inside: NDArray[np.bool_] = (start <= at) & (at < end) if start < end else (at >= start) | (at < end)
        return inside


class Tariff(Record):
    """Price of electricity: ``price_per_kwh`` all the time, or ``rates`` that together say a price for every minute of
    every weekday in every month, once; and what is paid a day whatever is drawn.
    """

    price_per_kwh: Annotated[float, Field(ge=0, le=100)] = 0.30
    rates: tuple[Rate, ...] = Field(default=(), max_length=24)
    standing_per_day: Annotated[float, Field(ge=0, le=100)] = 0.0

    @model_validator(mode="after")
    def _whole(self) -> Tariff:
        if self.rates and (wrong := next(_holes(self.rates), "")):
            raise ValueError(wrong)
        return self

    def prices(self, weekday: int, month: int) -> Prices:
        """Give the price in each minute of a day.

        Parameters
        ----------
        weekday : 0 is Monday
        month : 1 to 12

        Returns
        -------
        ndarray : shape (1440,) [currency/kWh]
        """
        return _prices(self, weekday, month)

    def mean_prices(self, month: int | None = None) -> Prices:
        """Give the price in each minute, over all weekdays alike.

        Parameters
        ----------
        month : 1 to 12; over all months alike when None

        Returns
        -------
        ndarray : shape (1440,) [currency/kWh]
        """
        return _mean_prices(self, month)

    @cached_property
    def mean_price(self) -> float:
        """The price over all minutes of a year alike [currency/kWh]."""
        return float(self.mean_prices().mean())


@lru_cache(maxsize=512)
def _prices(tariff: Tariff, weekday: int, month: int) -> Prices:
    out = np.full(MINUTES, tariff.price_per_kwh)
    for rate in tariff.rates:
        if weekday in rate.weekdays and rate.holds_in(month):
            out[rate.minutes()] = rate.price_per_kwh
    out.setflags(write=False)
    return out


@lru_cache(maxsize=128)
def _mean_prices(tariff: Tariff, month: int | None) -> Prices:
    if not tariff.rates:
        return _prices(tariff, 0, 1)
    months = range(1, 13) if month is None else (month,)
    out = np.mean([_prices(tariff, weekday, m) for m in months for weekday in range(7)], axis=0)
    out.setflags(write=False)
    return np.asarray(out)


def _holes(rates: Iterable[Rate]) -> Iterator[str]:
    """Say where no price holds, or two do."""
    rates = tuple(rates)
    for month in range(1, 13):
        for weekday in range(7):
            count = np.zeros(MINUTES, dtype=int)
            for rate in rates:
                if weekday in rate.weekdays and rate.holds_in(month):
                    count[rate.minutes()] += 1
            wrong = np.flatnonzero(count != 1)
            if len(wrong) == 0:
                continue
            first = int(wrong[0])
            later = np.flatnonzero(count[first:] != count[first])
            last = first + int(later[0]) if len(later) else MINUTES
            until = "24:00" if last == MINUTES else clock(last)
            when = f"on {DAYS[weekday]} from {clock(first)} to {until} in {MONTHS[month - 1]}"
            if count[first] == 0:
                yield f"there is no price {when}: say one for all hours of all days"
            else:
                yield f"there are {count[first]} prices {when}: say one only"


def say_rates(rates: Iterable[Rate]) -> str:
    """Write rates as they are typed, one a line.

    Parameters
    ----------
    rates : of a tariff

    Returns
    -------
    str : what `read_rates` reads back
    """
    return "\n".join(" ".join(filter(None, _words(rate))) for rate in rates)


def _words(rate: Rate) -> Iterator[str]:
    yield f"{rate.price_per_kwh:g}"
    if rate.weekdays != _GROUPS["daily"]:
        named = next((name for name, days in _GROUPS.items() if days == rate.weekdays), "")
        yield named or ",".join(DAYS[day] for day in rate.weekdays)
    if rate.start != rate.end:
        yield f"{rate.start}-{rate.end}"
    if (rate.first_month, rate.last_month) != (1, 12):
        yield f"{MONTHS[rate.first_month - 1]}-{MONTHS[rate.last_month - 1]}"


_HOURS = re.compile(r"^([01]?\d|2[0-4]):([0-5]\d)[-–]([01]?\d|2[0-4]):([0-5]\d)$")
_NAMES = re.compile(r"^([a-z]{3,9})[-–]([a-z]{3,9})$")


def read_rates(text: str) -> tuple[Rate, ...]:
    """Read rates that were typed, one a line: a price, then days, hours and months where they matter.

    Parameters
    ----------
    text : such as "0.34 weekdays 07:00-22:00"

    Returns
    -------
    tuple of Rate : none for no lines

    Raises
    ------
    QuantityError : a line is not understood; the words say which
    """
    return tuple(_rate(line.strip()) for line in text.splitlines() if line.strip())


def _rate(line: str) -> Rate:
    first, *rest = line.replace("·", " ").split()
    try:
        found: dict[str, object] = {"price_per_kwh": float(first.replace(",", "."))}
    except ValueError:
        raise QuantityError(f"“{line}” does not begin with a price: write {ACCEPTED}") from None
    for word in rest:
        known = _hours(word) or _days(word.lower()) or _months(word.lower())
        if known is None:
            raise QuantityError(f"“{word}” in “{line}” is no day, hour or month: write {ACCEPTED}")
        found |= known
    return Rate.model_validate(found)


def _hours(word: str) -> dict[str, object] | None:
    match = _HOURS.match(word)
    if match is None:
        return None
    start, end = f"{match[1].zfill(2)}:{match[2]}", f"{match[3].zfill(2)}:{match[4]}"
    return {"start": start.replace("24:", "00:"), "end": end.replace("24:", "00:")}


def _place(name: str, names: tuple[str, ...]) -> int | None:
    return next((n for n, known in enumerate(names) if known.lower() == name[:3]), None)


def _days(word: str) -> dict[str, object] | None:
    if word in _GROUPS:
        return {"weekdays": _GROUPS[word]}
    match = _NAMES.match(word)
    if match and (ends := (_place(match[1], DAYS), _place(match[2], DAYS))) and None not in ends:
        first, last = int(ends[0] or 0), int(ends[1] or 0)
        return {"weekdays": tuple(sorted((first + n) % 7 for n in range((last - first) % 7 + 1)))}
    places = [_place(name, DAYS) for name in word.split(",")]
    if None in places:
        return None
    return {"weekdays": tuple(sorted({int(place or 0) for place in places}))}


def _months(word: str) -> dict[str, object] | None:
    match = _NAMES.match(word)
    names = (match[1], match[2]) if match else (word, word)
    first, last = (_place(name, MONTHS) for name in names)
    if first is None or last is None:
        return None
    return {"first_month": first + 1, "last_month": last + 1}
