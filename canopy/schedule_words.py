"""Schedules as people say them: “7 min every 3 h”, “with the lamps”, “22:00 for 6 h”."""

from __future__ import annotations

import re

from canopy.errors import QuantityError
from canopy.quantities import number
from canopy.schedule import DAY_MIN, Always, ByHand, Cycle, Daily, Never, Schedule, When, WithLamps, minute_of

ACCEPTED = "“always”, “with the lamps”, “by night”, “6 h a day”, “22:00 for 6 h”, “7 min every 3 h” or “never”"
_WHEN: tuple[tuple[str, When], ...] = (
    (r"(with|while)?\s*(the\s+)?(lamps|lights)(\s+(are\s+)?on)?|by day|days only|daytime", "lit"),
    (r"(with|while)?\s*(the\s+)?(lamps|lights)\s+(are\s+)?off|(by|at) night|nights?( only)?", "dark"),
)
_SPAN = r"(\d+(?:[.,]\d+)?)\s*(h|hours?|hrs?|min|minutes?|s|sec|seconds?)"
_CLOCK = r"([01]?\d|2[0-3])[:.]([0-5]\d)"
_MINUTES = {"h": 60.0, "m": 1.0, "s": 1 / 60}


def say_schedule(item: Schedule) -> str:
    """Say when something runs.

    Parameters
    ----------
    item : as the plan keeps it

    Returns
    -------
    str : what `read_schedule` reads again, but for ramps and for times by hand, which have no such words
    """
    if isinstance(item, Always):
        return "always"
    if isinstance(item, Never):
        return "never"
    if isinstance(item, WithLamps):
        return _when(item.when)
    if isinstance(item, Daily):
        hours = f"{number(item.hours, 2)} h"
        return f"{item.start} for {hours}" if item.start else f"{hours} a day"
    if isinstance(item, ByHand):
        minutes = sum(time.minutes for time in item.times)
        return f"by hand, {len(item.times)} times, {number(minutes, 1)} min a day"
    if item.every_min >= DAY_MIN and item.when == "dark":
        return f"{_time(item.on_min)} at lights-out"
    words = f"{_time(item.on_min)} every {_time(item.every_min)}"
    if item.start is not None and item.hours is not None:
        words += f" from {item.start} for {number(item.hours, 2)} h"
    return f"{words} {_when(item.when)}" if item.when else words


def _when(when: When) -> str:
    return "with the lamps" if when == "lit" else "by night"


def _time(minutes: float) -> str:
    if minutes >= 60 and minutes % 60 == 0:
        return f"{number(minutes / 60, 0)} h"
    return f"{number(minutes, 1)} min" if minutes >= 1 else f"{number(60 * minutes, 0)} s"


def read_schedule(text: str) -> Schedule:
    """Read when something runs.

    Parameters
    ----------
    text : such as “2 min every hour with the lamps”

    Returns
    -------
    Schedule : what was said

    Raises
    ------
    QuantityError : it is not understood, or a cycle is longer than a day or runs longer than it lasts
    """
    said = re.sub(r"\s+", " ", text.strip().lower().replace("–", "-").replace("an hour", "1 h"))
    said = re.sub(r"every (hour|h)\b", "every 1 h", said)
    said = re.sub(r"every (minute|min)\b", "every 1 min", said)
    if said in ("always", "all day", "all the time", "on", "24 h", "24 h a day"):
        return Always()
    if said in ("never", "off", ""):
        return Never()
    for words, when in _WHEN:
        if re.fullmatch(words, said):
            return WithLamps(when=when)
    found = re.fullmatch(rf"{_SPAN} at lights?[- ]?out", said)
    if found:
        return Cycle(on_min=_minutes(found[1], found[2]), every_min=DAY_MIN, when="dark")
    found = re.fullmatch(rf"{_SPAN} (?:every|of every|in every) {_SPAN}(.*)", said)
    if found:
        return _cycle(_minutes(found[1], found[2]), _minutes(found[3], found[4]), found[5].strip(" ,"))
    return _daily(said, text)


def _cycle(on_min: float, every_min: float, rest: str) -> Cycle:
    if every_min > DAY_MIN:
        raise QuantityError(f"a cycle of {_time(every_min)} is longer than its day: give 24 h or less")
    if on_min > every_min:
        raise QuantityError(f"it cannot run {_time(on_min)} of every {_time(every_min)}")
    if on_min <= 0:
        raise QuantityError("it would not run at all: give a time above 0, or “never”")
    when: When | None = None
    for words, which in _WHEN:
        found = re.search(rf"\b(?:{words})$", rest)
        if found and found[0]:
            when, rest = which, rest[: found.start()].strip(" ,")
    if not rest:
        return Cycle(on_min=on_min, every_min=every_min, when=when)
    start, hours = _hours(rest) or (None, None)
    if start is None:
        raise QuantityError(
            f"“{rest}” is not understood: such as “from 08:00 for 12 h”, “with the lamps” or “by night”"
        )
    return Cycle(on_min=on_min, every_min=every_min, start=start, hours=hours, when=when)


def _daily(said: str, text: str) -> Daily:
    found = re.fullmatch(rf"{_SPAN}(?: (?:a|per) day)?", said)
    if found:
        hours = _minutes(found[1], found[2]) / 60
        if hours > 24:
            raise QuantityError(f"a day has 24 hours, not {number(hours, 1)}")
        return Daily(hours=hours)
    within = _hours(said)
    if within is None:
        raise QuantityError(f"“{text.strip()[:60]}” is not understood: type {ACCEPTED}")
    return Daily(start=within[0], hours=within[1])


def _hours(said: str) -> tuple[str, float] | None:
    """A start and for how long [h]; None for anything else."""
    found = re.fullmatch(rf"(?:from |at )?{_CLOCK} (?:for )?{_SPAN}", said)
    if found:
        hours = _minutes(found[3], found[4]) / 60
        if not 0 < hours <= 24:
            raise QuantityError(f"a day has 24 hours, not {number(hours, 1)}")
        return _clock(found[1], found[2]), hours
    found = re.fullmatch(rf"(?:from )?{_CLOCK} ?(?:-|to|until) ?{_CLOCK}", said)
    if found:
        start, end = _clock(found[1], found[2]), _clock(found[3], found[4])
        return start, ((minute_of(end) - minute_of(start)) % DAY_MIN or DAY_MIN) / 60
    return None


def _clock(hour: str, minute: str) -> str:
    return f"{int(hour):02d}:{minute}"


def _minutes(amount: str, unit: str) -> float:
    return float(amount.replace(",", ".")) * _MINUTES[unit[0]]
