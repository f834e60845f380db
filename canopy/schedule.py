"""One clock rule for all that runs: lamps, fans, circulation fans, doors, devices and whatever else hangs on a circuit.

A day runs from minute 0 to minute 1440 and repeats. What a schedule gives is a share of full output: 0 off, 1 full,
in between while it ramps. ``lit`` everywhere below is the lamps' own light, as spans of the same day.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from math import floor
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from canopy.model import Record

DAY_MIN = 1440.0
Clock = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
Hours = Annotated[float, Field(ge=0, le=24)]
When = Literal["lit", "dark"]


class Always(Record):
    """Runs all the time."""

    kind: Literal["always"] = "always"


class Never(Record):
    """Does not run."""

    kind: Literal["never"] = "never"


class Daily(Record):
    """Runs so many hours a day from ``start``; without it nobody said when, and it counts as spread over the day.

    It rises over the first ``ramp_up_min`` of its hours and falls over the last ``ramp_down_min``.
    """

    kind: Literal["daily"] = "daily"
    start: Clock | None = None
    hours: Hours
    ramp_up_min: Annotated[float, Field(ge=0, le=240)] = 0.0
    ramp_down_min: Annotated[float, Field(ge=0, le=240)] = 0.0

    @model_validator(mode="after")
    def _whole(self) -> Daily:
        if self.ramp_up_min + self.ramp_down_min > 60 * self.hours + 1e-9:
            raise ValueError(
                f"its ramps last {self.ramp_up_min + self.ramp_down_min:g} minutes, longer than the {self.hours:g} h "
                "it runs"
            )
        return self


class Cycle(Record):
    """Runs ``on_min`` of every ``every_min`` minutes: all day, or within ``hours`` from ``start``, or with the lamps
    on or off only. Every stretch begins with a run; all day the first one is at midnight of the first day.
    """

    kind: Literal["cycle"] = "cycle"
    on_min: Annotated[float, Field(gt=0, le=1440)]
    every_min: Annotated[float, Field(gt=0, le=1440)]
    start: Clock | None = None
    hours: Annotated[float, Field(gt=0, le=24)] | None = None
    when: When | None = None

    @model_validator(mode="after")
    def _whole(self) -> Cycle:
        if self.on_min > self.every_min:
            raise ValueError(f"it cannot run {self.on_min:g} of every {self.every_min:g} minutes")
        if (self.start is None) != (self.hours is None):
            raise ValueError("a cycle within given hours needs both: from when, and for how many hours")
        return self


class WithLamps(Record):
    """Runs while the lamps are on (``lit``) or off (``dark``)."""

    kind: Literal["with-lamps"] = "with-lamps"
    when: When = "lit"


class HandTime(Record):
    """One time a day that somebody does it by hand; without ``at`` it is not said when."""

    at: Clock | None = None
    minutes: Annotated[float, Field(gt=0, le=720)]


class ByHand(Record):
    """Done by hand, so many times a day."""

    kind: Literal["by-hand"] = "by-hand"
    times: tuple[HandTime, ...] = Field(default=(), max_length=48)

    @model_validator(mode="after")
    def _in_a_day(self) -> ByHand:
        if sum(time.minutes for time in self.times) > DAY_MIN:
            raise ValueError("the times together are longer than a day")
        return self


def by_hand(times: int, minutes: float) -> ByHand | Never:
    """Make a schedule of what somebody does so many times a day, not said when.

    Parameters
    ----------
    times : times a day, 0 to 48
    minutes : how long each time [min]; shortened where all together would be longer than a day

    Returns
    -------
    ByHand : or Never for no times at all
    """
    if not times:
        return Never()
    return ByHand(times=tuple(HandTime(minutes=min(minutes, DAY_MIN / times, 720.0)) for _ in range(times)))


Schedule = Annotated[Always | Never | Daily | Cycle | WithLamps | ByHand, Field(discriminator="kind")]


@dataclass(frozen=True, kw_only=True)
class Span:
    """A stretch of a day with a level that runs straight from ``first`` to ``last`` (shares of full output).

    ``start_min`` < ``end_min``, both within 0..1440.
    """

    start_min: float
    end_min: float
    first: float = 1.0
    last: float = 1.0

    def part(self, from_min: float, to_min: float) -> float:
        """Give what of it falls into an interval.

        Parameters
        ----------
        from_min, to_min : the interval [min of the day]

        Returns
        -------
        float : level times minutes [min at full output]
        """
        low, high = max(self.start_min, from_min), min(self.end_min, to_min)
        if high <= low:
            return 0.0
        slope = (self.last - self.first) / (self.end_min - self.start_min)
        middle = self.first + slope * ((low + high) / 2 - self.start_min)
        return middle * (high - low)


def minute_of(clock: str) -> float:
    """Read a clock time.

    Parameters
    ----------
    clock : such as "06:30", 00:00 to 23:59

    Returns
    -------
    float : minute of the day, 0 to 1439 [min]
    """
    return 60.0 * int(clock[:2]) + int(clock[3:])


def _wrapped(start: float, end: float, first: float = 1.0, last: float = 1.0) -> list[Span]:
    """Lay a stretch that may pass midnight into the day; ``end`` is up to one day behind ``start``."""
    if end - start <= 1e-12:
        return []
    start, end = start - DAY_MIN * floor(start / DAY_MIN), end - DAY_MIN * floor(start / DAY_MIN)
    if end <= DAY_MIN + 1e-9:
        return [Span(start_min=start, end_min=min(end, DAY_MIN), first=first, last=last)]
    middle = first + (last - first) * (DAY_MIN - start) / (end - start)
    return [
        Span(start_min=start, end_min=DAY_MIN, first=first, last=middle),
        Span(start_min=0.0, end_min=end - DAY_MIN, first=middle, last=last),
    ]


def _daily(item: Daily) -> list[Span]:
    if item.start is None:
        level = item.hours / 24
        return [Span(start_min=0.0, end_min=DAY_MIN, first=level, last=level)] if level > 0 else []
    start, end = minute_of(item.start), minute_of(item.start) + 60 * item.hours
    up, down = start + item.ramp_up_min, end - item.ramp_down_min
    return [*_wrapped(start, up, 0.0, 1.0), *_wrapped(up, down), *_wrapped(down, end, 1.0, 0.0)]


def _merged(pieces: Iterable[Span]) -> list[tuple[float, float]]:
    """Join spans that touch or overlap, whatever their level; across midnight too (then the end lies past 1440)."""
    found: list[tuple[float, float]] = []
    for piece in sorted(pieces, key=lambda span: span.start_min):
        if found and piece.start_min <= found[-1][1] + 1e-9:
            found[-1] = (found[-1][0], max(found[-1][1], piece.end_min))
        else:
            found.append((piece.start_min, piece.end_min))
    if len(found) > 1 and found[0][0] <= 1e-9 and found[-1][1] >= DAY_MIN - 1e-9:
        first = found.pop(0)
        found[-1] = (found[-1][0], DAY_MIN + first[1])
    return found


def union(pieces: Iterable[Span]) -> tuple[Span, ...]:
    """Say when at least one of several spans runs.

    Parameters
    ----------
    pieces : spans of a day, in any order

    Returns
    -------
    tuple of Span : parted, in order, each at full level
    """
    laid = [span for start, end in _merged(pieces) for span in _wrapped(start, end)]
    return tuple(sorted(laid, key=lambda span: span.start_min))


@lru_cache(maxsize=1024)
def _while_any(items: tuple[Schedule, ...]) -> tuple[Span, ...]:
    return union(span for item in items for span in spans_of(item))


def while_any(items: Iterable[Schedule]) -> tuple[Span, ...]:
    """Say when at least one of several schedules runs, such as those of a space's lamps.

    Parameters
    ----------
    items : schedules that follow no lamps

    Returns
    -------
    tuple of Span : parted, in order, each at full level
    """
    return _while_any(tuple(items))


def dark(lit: Iterable[Span]) -> tuple[Span, ...]:
    """Say when the lamps are off.

    Parameters
    ----------
    lit : when they are on

    Returns
    -------
    tuple of Span : the rest of the day
    """
    found, past = [], 0.0
    for span in union(lit):
        if span.start_min > past + 1e-9:
            found.append(Span(start_min=past, end_min=span.start_min))
        past = span.end_min
    if past < DAY_MIN - 1e-9:
        found.append(Span(start_min=past, end_min=DAY_MIN))
    return tuple(found)


def _stretches(item: Cycle, lit: Iterable[Span]) -> list[tuple[float, float]]:
    """The stretches within which a cycle runs, as (start, end) with the end past 1440 where one passes midnight."""
    stretches = [(0.0, DAY_MIN)]
    if item.start is not None and item.hours is not None:
        stretches = [(minute_of(item.start), minute_of(item.start) + 60 * item.hours)]
    if item.when is None:
        return stretches
    lamps = _merged(lit if item.when == "lit" else dark(lit))
    found = []
    for start, end in stretches:
        for low, high in lamps:
            for shift in (-DAY_MIN, 0.0, DAY_MIN):
                a, b = max(start, low + shift), min(end, high + shift)
                if b - a > 1e-9:
                    found.append((a, b))
    if item.start is None and len(found) > 1:
        # Without given hours the lamps' own stretches decide: one that passes midnight is one stretch.
        return lamps
    # Lamps that are on, or off, all day do not part what passes midnight.
    joined: list[tuple[float, float]] = []
    for start, end in sorted(found):
        if joined and start <= joined[-1][1] + 1e-9:
            joined[-1] = (joined[-1][0], end)
        else:
            joined.append((start, end))
    return joined


def _cycle(item: Cycle, lit: Iterable[Span]) -> list[Span]:
    found: list[Span] = []
    for start, end in _stretches(item, lit):
        run = start
        while run < end - 1e-9:
            found += _wrapped(run, min(run + item.on_min, end))
            run += item.every_min
    return found


def spans_of(item: Schedule, lit: Iterable[Span] = ()) -> tuple[Span, ...]:
    """Lay a schedule out over one day.

    Parameters
    ----------
    item : when it runs
    lit : when the lamps are on

    Returns
    -------
    tuple of Span : in order; a cycle that runs all day is laid out from midnight
    """
    follows = isinstance(item, WithLamps | Cycle) and item.when is not None
    return _laid_out(item, tuple(lit) if follows else ())


@lru_cache(maxsize=4096)
def _laid_out(item: Schedule, lit: tuple[Span, ...]) -> tuple[Span, ...]:
    if isinstance(item, Never):
        return ()
    if isinstance(item, Always):
        return (Span(start_min=0.0, end_min=DAY_MIN),)
    if isinstance(item, WithLamps):
        return union(lit) if item.when == "lit" else dark(lit)
    if isinstance(item, Daily):
        found = _daily(item)
    elif isinstance(item, Cycle):
        found = _cycle(item, lit)
    else:
        found = _by_hand(item)
    return tuple(sorted(found, key=lambda span: span.start_min))


def _by_hand(item: ByHand) -> list[Span]:
    found: list[Span] = []
    for time in item.times:
        if time.at is None:
            level = time.minutes / DAY_MIN
            found.append(Span(start_min=0.0, end_min=DAY_MIN, first=level, last=level))
        else:
            found += _wrapped(minute_of(time.at), minute_of(time.at) + time.minutes)
    return found


def _free_running(item: Cycle, minutes: float) -> float:
    """Minutes that a cycle without hours or lamps has run since it began."""
    whole = floor(minutes / item.every_min)
    return whole * item.on_min + min(minutes - whole * item.every_min, item.on_min)


def share_of(item: Schedule, from_min: float, to_min: float, lit: Iterable[Span] = ()) -> float:
    """Give a schedule's mean output over any interval, exactly.

    Parameters
    ----------
    item : when it runs
    from_min : where the interval begins, counted from the first day's midnight, 0 or more [min]
    to_min : where it ends, any number of days later [min]
    lit : when the lamps are on

    Returns
    -------
    float : mean share of full output, 0..1 (times by hand that overlap may come to more)

    Raises
    ------
    ValueError : the interval is empty or begins before the first day

    Notes
    -----
    A cycle that runs all day goes on over midnight in its own step; every other schedule is the same each day.
    """
    if not 0 <= from_min < to_min:
        raise ValueError(f"the interval from {from_min:g} to {to_min:g} min is not one")
    if isinstance(item, Cycle) and item.start is None and item.when is None:
        return (_free_running(item, to_min) - _free_running(item, from_min)) / (to_min - from_min)
    laid = spans_of(item, lit)
    day_total = sum(span.part(0.0, DAY_MIN) for span in laid)

    def up_to(minutes: float) -> float:
        whole = floor(minutes / DAY_MIN)
        rest = minutes - whole * DAY_MIN
        return whole * day_total + sum(span.part(0.0, rest) for span in laid)

    return (up_to(to_min) - up_to(from_min)) / (to_min - from_min)


def share_while(item: Schedule, within: Iterable[Span], lit: Iterable[Span]) -> float:
    """Give a schedule's mean output while something else is so, such as the lamps being off.

    Parameters
    ----------
    item : when it runs
    within : the stretches of the day that count
    lit : when the lamps are on

    Returns
    -------
    float : mean share of full output over them; over the whole day when they are empty
    """
    return _share_while(item, tuple(within), tuple(lit))


@lru_cache(maxsize=4096)
def _share_while(item: Schedule, within: tuple[Span, ...], lit: tuple[Span, ...]) -> float:
    stretches = union(within)
    total = sum(span.end_min - span.start_min for span in stretches)
    if total <= 0:
        return day_share(item, lit)
    if isinstance(item, Cycle) and item.start is None and item.when is None:
        # It drifts through the day: in the long run every stretch sees the same share.
        return item.on_min / item.every_min
    run = sum(share_of(item, s.start_min, s.end_min, lit) * (s.end_min - s.start_min) for s in stretches)
    return run / total


def day_share(item: Schedule, lit: Iterable[Span] = ()) -> float:
    """Give a schedule's mean output over a day.

    Parameters
    ----------
    item : when it runs
    lit : when the lamps are on

    Returns
    -------
    float : mean share of full output; of a cycle that runs all day its mean over many days
    """
    return _day_share(item, tuple(lit))


@lru_cache(maxsize=4096)
def _day_share(item: Schedule, lit: tuple[Span, ...]) -> float:
    if isinstance(item, Cycle) and item.start is None and item.when is None:
        return item.on_min / item.every_min
    return share_of(item, 0.0, DAY_MIN, lit)


def day_hours(item: Schedule, lit: Iterable[Span] = ()) -> float:
    """Give how long something runs in a day, as hours at full output.

    Parameters
    ----------
    item : when it runs
    lit : when the lamps are on

    Returns
    -------
    float : hours at full output, 0 to 24 [h]
    """
    return 24.0 * day_share(item, lit)


def is_steady(item: Schedule) -> bool:
    """Say whether something runs without a break while it runs: by its nature it loads a circuit for hours.

    Parameters
    ----------
    item : when it runs

    Returns
    -------
    bool : False for cycles and for what is done by hand
    """
    return not isinstance(item, Cycle | ByHand)


def unbroken_h(item: Schedule, lit: Iterable[Span] = ()) -> float:
    """Give for how long something runs at a stretch, at most.

    Parameters
    ----------
    item : when it runs
    lit : when the lamps are on

    Returns
    -------
    float : its longest run without a break, over midnight too, 0 to 24 [h]
    """
    if isinstance(item, ByHand):
        return min(24.0, max((time.minutes for time in item.times), default=0.0) / 60)
    if isinstance(item, Daily):
        return item.hours
    runs = _merged(spans_of(item, lit))
    if not runs:
        return 0.0
    lengths = [end - start for start, end in runs]
    if len(runs) > 1 and runs[0][0] <= 0 and runs[-1][1] >= DAY_MIN:
        # What runs up to midnight goes on after it.
        lengths.append(lengths[0] + lengths[-1])
    return min(24.0, max(lengths) / 60)


def shares_of(item: Schedule, steps: int, step_min: float, lit: Iterable[Span] = ()) -> NDArray[np.float32]:
    """Give a schedule's mean output in each step of a run that begins at a midnight.

    Parameters
    ----------
    item : when it runs
    steps : how many
    step_min : how long each is [min]
    lit : when the lamps are on

    Returns
    -------
    ndarray : shape (steps,), 0..1; what `share_of` gives for each
    """
    edges = np.arange(steps + 1) * step_min
    if isinstance(item, Cycle) and item.start is None and item.when is None:
        whole = np.floor(edges / item.every_min + 1e-9)
        ran = whole * item.on_min + np.clip(edges - whole * item.every_min, 0, item.on_min)
    else:
        ran = np.zeros(steps + 1)
        of_day, days = edges % DAY_MIN, np.floor(edges / DAY_MIN + 1e-9)
        of_day = np.where(of_day > DAY_MIN - 1e-9, 0.0, of_day)
        for span in spans_of(item, lit):
            into = np.clip(of_day, span.start_min, span.end_min) - span.start_min
            slope = (span.last - span.first) / (span.end_min - span.start_min)
            ran += into * (span.first + slope * into / 2) + days * span.part(0.0, DAY_MIN)
    return np.asarray(np.clip(np.diff(ran) / step_min, 0, 1), dtype=np.float32)
