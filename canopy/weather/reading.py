"""Read a year of hourly weather from a grower's own CSV file."""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.errors import QuantityError
from canopy.psychrometrics import saturation_pa
from canopy.weather.year import HOURS, Year

Array = NDArray[np.float64]
MOST_BYTES = 10_000_000
# Gaps up to so long are bridged straight; a year may miss so many hours at its end [h].
_BRIDGED_H, _MISSING_H = 3, 24
_COLDEST_C, _HOTTEST_C = -60.0, 60.0
_TIME = ("time", "date", "datetime", "timestamp", "hour")
_WARM = ("temperature", "temp", "air", "t")
_DAMP = ("humidity", "rh", "relative")
_DEW = ("dew",)


@dataclass(frozen=True, kw_only=True, eq=False)
class Hours:
    """Weather hour by hour from ``begins`` on, shapes (hours,): temperature [°C], humidity [%]."""

    begins: dt.datetime
    temperature_c: Array
    rh_pct: Array

    def year(self) -> Year:
        """Give a calendar year of it.

        Returns
        -------
        Year : from the first of January, the days before the file begins taken from its end

        Raises
        ------
        QuantityError : it is shorter than a year, less a day
        """
        if len(self.temperature_c) < HOURS - _MISSING_H:
            days = len(self.temperature_c) // 24
            raise QuantityError(f"these are {days} days: a year of hours is asked for, 365 days")
        clock = self.begins.replace(tzinfo=None)
        skipped = int((clock - dt.datetime(clock.year, 1, 1)).total_seconds() // 3600) % HOURS
        rows = (np.arange(HOURS) - skipped) % HOURS % len(self.temperature_c)
        return Year(temperature_c=self.temperature_c[rows], rh_pct=self.rh_pct[rows])

    def part(self, begins: dt.date, hours: int) -> Hours:
        """Give some days of it.

        Parameters
        ----------
        begins : the day, from midnight on
        hours : how many

        Returns
        -------
        Hours : that long

        Raises
        ------
        QuantityError : it does not cover them
        """
        clock = self.begins.replace(tzinfo=None)
        first = int((dt.datetime.combine(begins, dt.time()) - clock).total_seconds() // 3600)
        if first < 0 or first + hours > len(self.temperature_c):
            ends = clock + dt.timedelta(hours=len(self.temperature_c))
            raise QuantityError(
                f"the weather runs from {clock:%Y-%m-%d %H:%M} to {ends:%Y-%m-%d %H:%M}: {hours} h from {begins} on do "
                "not lie in it"
            )
        return Hours(
            begins=dt.datetime.combine(begins, dt.time()),
            temperature_c=self.temperature_c[first : first + hours],
            rh_pct=self.rh_pct[first : first + hours],
        )


def read_hours(text: str) -> Hours:
    """Read hourly weather.

    Parameters
    ----------
    text : CSV with a header: a time (such as 2025-01-31 14:00), a temperature (°C, or °F where its column says F), and
        relative humidity or dew point; separated by commas, semicolons or tabs

    Returns
    -------
    Hours : every hour, short gaps bridged

    Raises
    ------
    QuantityError : what is wrong, with the line
    """
    if len(text.encode()) > MOST_BYTES:
        raise QuantityError("the file is larger than 10 MB: a year of hours takes less than half a megabyte")
    lines = text.splitlines()
    if not lines or not lines[0].strip():
        raise QuantityError("line 1: the file needs a header, such as “time,temperature_c,humidity_pct”")
    mark = max(",;\t", key=lines[0].count)
    names = [name.strip().strip('"').lower() for name in lines[0].split(mark)]
    columns = _columns(names)
    times: list[dt.datetime] = []
    warm: list[float] = []
    damp: list[float] = []
    for number, row in _rows(text, mark):
        when = _time(row, columns.time, number)
        if times:
            _follows(times[-1], when, number)
        for _ in range(_gap(times, when, number) - 1):
            times.append(times[-1] + dt.timedelta(hours=1))
            warm.append(np.nan)
            damp.append(np.nan)
        t = _number(row, columns.warm, number, "temperature")
        t = (t - 32) / 1.8 if columns.fahrenheit else t
        if not _COLDEST_C <= t <= _HOTTEST_C:
            hint = "" if columns.fahrenheit else "; if it is °F, say so in the header, such as “temperature_F”"
            raise QuantityError(f"line {number}: {t:.0f} °C is no air temperature on earth{hint}")
        times.append(when)
        warm.append(t)
        damp.append(_damp(row, columns, number, t))
    if len(times) < 24:
        raise QuantityError(f"these are {len(times)} hours: at least a day is asked for")
    return Hours(begins=times[0], temperature_c=_bridged(warm), rh_pct=_bridged(damp))


@dataclass(frozen=True, kw_only=True)
class _Columns:
    time: int
    warm: int
    damp: int
    dew: bool
    fahrenheit: bool
    dew_fahrenheit: bool


def _columns(names: list[str]) -> _Columns:
    def place(words: tuple[str, ...], but: tuple[str, ...] = ()) -> int | None:
        for word in words:
            for number, name in enumerate(names):
                parts = re.split(r"[^a-z]+", name)
                if (name.startswith(word) if len(word) > 2 else word in parts) and not any(b in name for b in but):
                    return number
        return None

    time, warm, damp, dew = place(_TIME), place(_WARM, _DEW), place(_DAMP), place(_DEW)
    for what, found in (("time", time), ("temperature", warm)):
        if found is None:
            raise QuantityError(f"line 1: no column for the {what}; the header says {', '.join(names)}")
    if damp is None and dew is None:
        raise QuantityError(
            f"line 1: no column for humidity or dew point; the header says {', '.join(names)}: add one called "
            "“humidity_pct” or “dew_point_c”"
        )
    assert time is not None
    assert warm is not None
    if damp is not None:
        return _Columns(time=time, warm=warm, damp=damp, dew=False, fahrenheit=_is_f(names[warm]), dew_fahrenheit=False)
    assert dew is not None
    return _Columns(
        time=time, warm=warm, damp=dew, dew=True, fahrenheit=_is_f(names[warm]), dew_fahrenheit=_is_f(names[dew])
    )


def _is_f(name: str) -> bool:
    return bool(re.search(r"(°|_|\(|\[|\s|deg)f\b|fahrenheit", name))


def _rows(text: str, mark: str) -> Iterator[tuple[int, list[str]]]:
    reader = csv.reader(io.StringIO(text), delimiter=mark)
    for row in reader:
        if reader.line_num > 1 and any(cell.strip() for cell in row):
            yield reader.line_num, row


def _time(row: list[str], place: int, number: int) -> dt.datetime:
    cell = row[place].strip() if place < len(row) else ""
    try:
        return dt.datetime.fromisoformat(cell).replace(tzinfo=None)
    except ValueError:
        raise QuantityError(f"line {number}: “{cell[:40]}” is no time: write it as 2025-01-31 14:00") from None


def _follows(before: dt.datetime, when: dt.datetime, number: int) -> None:
    if when == before:
        raise QuantityError(f"line {number}: {when:%Y-%m-%d %H:%M} stands there twice")
    if when < before:
        raise QuantityError(
            f"line {number}: {when:%Y-%m-%d %H:%M} comes after {before:%Y-%m-%d %H:%M}: sort it by time"
        )
    if when - before < dt.timedelta(hours=1):
        minutes = (when - before).total_seconds() / 60
        raise QuantityError(f"line {number}: only {minutes:g} minutes after the line before: give one line an hour")


def _gap(times: list[dt.datetime], when: dt.datetime, number: int) -> int:
    """Hours since the line before; 1 where nothing is missing."""
    if not times:
        return 1
    hours = (when - times[-1]).total_seconds() / 3600
    if hours != int(hours):
        raise QuantityError(f"line {number}: {hours:g} hours after the line before: give full hours")
    if hours > _BRIDGED_H + 1:
        raise QuantityError(
            f"line {number}: {hours - 1:.0f} hours are missing before {when:%Y-%m-%d %H:%M}; up to {_BRIDGED_H} are "
            "bridged"
        )
    return int(hours)


def _number(row: list[str], place: int, number: int, what: str) -> float:
    cell = row[place].strip().replace(",", ".") if place < len(row) else ""
    try:
        value = float(cell)
    except ValueError:
        value = float("nan")
    if not np.isfinite(value):
        raise QuantityError(f"line {number}: “{cell[:40]}” is no {what}")
    return value


def _damp(row: list[str], columns: _Columns, number: int, temperature_c: float) -> float:
    value = _number(row, columns.damp, number, "dew point" if columns.dew else "humidity")
    if not columns.dew:
        if not 0 <= value <= 100.5:
            raise QuantityError(f"line {number}: {value:g} % is no relative humidity: give 0 to 100")
        return min(100.0, max(1.0, value))
    dew = (value - 32) / 1.8 if columns.dew_fahrenheit else value
    if not _COLDEST_C - 20 <= dew <= temperature_c + 0.5:
        raise QuantityError(f"line {number}: a dew point of {dew:.1f} °C lies above the air's {temperature_c:.1f} °C")
    return min(100.0, 100 * saturation_pa(dew) / saturation_pa(temperature_c))


def _bridged(values: list[float]) -> Array:
    """Straight over what is missing."""
    found = np.array(values)
    there = np.isfinite(found)
    return np.asarray(np.interp(np.arange(len(found)), np.flatnonzero(there), found[there]))
