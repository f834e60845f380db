"""Alerts over readings: when one would have rung, how noisy the readings are, and which limits are worth proposing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.plan.controls import Alert

Floats = NDArray[np.float64]
Seconds = NDArray[np.int64]
Flags = NDArray[np.bool_]
# A pause of readings longer than this ends what was going on [s].
_PAUSE_S = 6 * 3600
# An ordinary week rings less than once.
_WEEK_S = 7 * 86400
_WAITS_MIN = (10.0, 20.0, 30.0, 60.0, 120.0)
_STEPS_OUT = 12


@dataclass(frozen=True, kw_only=True)
class Episode:
    """A time for which something was wrong: from when [s of UTC], when it rang, until when (None while it lasts), and
    the worst that was read then.
    """

    begin: int
    rang: int
    end: int | None
    worst: float


def episodes(at: Seconds, value: Floats, rule: Alert, lit: Flags | None = None) -> tuple[Episode, ...]:
    """Find when a limit would have rung.

    Parameters
    ----------
    at : seconds of UTC, rising, shape (n)
    value : what was read then, shape (n)
    rule : not one for silent sensors
    lit : whether lamps were on then, shape (n); every reading counts by night and by day without it

    Returns
    -------
    tuple of Episode : the oldest first; one that is broken by a long pause of readings ends there
    """
    if at.size == 0:
        return ()
    sign = 1.0 if rule.most else -1.0
    beyond = sign * (value - rule.value)
    counts = np.ones(at.size, dtype=bool)
    if lit is not None and rule.when != "always":
        counts = lit if rule.when == "day" else ~lit
    out = counts & (beyond > 0)
    back = ~counts | (beyond <= -rule.back)
    # Between limit and return it stays as it was.
    marks = np.where(out, 1, np.where(back, 0, -1))
    pauses = np.flatnonzero(np.diff(at) > _PAUSE_S) + 1
    known = np.where(marks >= 0, np.arange(at.size), -1)
    known[pauses] = pauses
    last = np.maximum.accumulate(known)
    state = np.where(last >= 0, marks[np.maximum(last, 0)], 0) == 1
    edges = np.diff(state.astype(np.int8), prepend=0, append=0)
    begins, ends = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
    found = []
    for first, after in zip(begins, ends, strict=True):
        lasts = after == at.size
        until = int(at[-1]) if lasts else int(at[min(after, at.size - 1)])
        if not lasts and until - int(at[after - 1]) > _PAUSE_S:
            until = int(at[after - 1])
        if until - int(at[first]) < 60 * rule.for_min:
            continue
        stretch = value[first:after]
        worst = float(stretch.max() if rule.most else stretch.min())
        rang = int(at[first]) + int(60 * rule.for_min)
        found.append(Episode(begin=int(at[first]), rang=rang, end=None if lasts else until, worst=worst))
    return tuple(found)


def silences(at: Seconds, begin: int, now: int, minutes: float) -> tuple[Episode, ...]:
    """Find when nothing was read for too long.

    Parameters
    ----------
    at : seconds of UTC, rising, shape (n)
    begin : from when on it is watched [s of UTC]
    now : until when [s of UTC]
    minutes : how long is too long, over 0 [min]

    Returns
    -------
    tuple of Episode : the oldest first; the last has no end where it still lasts; its worst is how long it was [min]
    """
    most = 60 * minutes
    marks = np.concatenate([[begin], at[(at >= begin) & (at <= now)], [now]])
    found = []
    for number in np.flatnonzero(np.diff(marks) > most):
        first, after = int(marks[number]), int(marks[number + 1])
        lasts = number == marks.size - 2
        found.append(
            Episode(begin=first, rang=first + int(most), end=None if lasts else after, worst=(after - first) / 60)
        )
    return tuple(found)


def noise_of(value: Floats) -> float:
    """Estimate how far readings scatter from one to the next.

    Parameters
    ----------
    value : readings in their order, shape (n)

    Returns
    -------
    float : standard deviation of a single reading, by the median of steps, so that jumps and drift do not count; 0 for
        fewer than three
    """
    if value.size < 3:
        return 0.0
    steps = np.diff(value)
    return float(1.4826 * np.median(np.abs(steps - np.median(steps))) / np.sqrt(2))


@dataclass(frozen=True, kw_only=True)
class Proposed:
    """A limit worth watching, and how often it would have rung in the readings that there are."""

    rule: Alert
    rung: int
    days: float


def proposed(rule: Alert, at: Seconds, value: Floats, step: float, lit: Flags | None = None) -> Proposed | None:
    """Set a limit so that an ordinary week would have rung less than once.

    Parameters
    ----------
    rule : the limit to start from, such as where a crop's window ends
    at : seconds of UTC, rising, shape (n)
    value : what was read then, shape (n)
    step : how far the limit is moved out at a time, over 0, in its own unit
    lit : whether lamps were on then, shape (n)

    Returns
    -------
    Proposed : the nearest limit and the shortest wait that do, over when back by twice the noise of the readings, in
        whole steps; None where it would ring every week however far it is moved: something is wrong that no alert mends
    """
    if at.size < 2:
        return None
    long = int(at[-1] - at[0])
    most = long / _WEEK_S
    sign = 1.0 if rule.most else -1.0
    back = max(1, round(2 * noise_of(value) / step + 0.5)) * step
    for out in range(_STEPS_OUT):
        for wait in _WAITS_MIN:
            tried = rule.model_copy(
                update={"value": round(rule.value + sign * out * step, 3), "for_min": wait, "back": round(back, 3)}
            )
            rung = len(episodes(at, value, tried, lit))
            if rung == 0 or rung < most:
                return Proposed(rule=tried, rung=rung, days=long / 86400)
    return None


def rung_in(found: Sequence[Episode], begin: int, end: int) -> int:
    """Count how often something rang.

    Parameters
    ----------
    found : episodes
    begin : from when on [s of UTC]
    end : until when [s of UTC]

    Returns
    -------
    int : those that rang within
    """
    return sum(1 for item in found if begin <= item.rang < end)
