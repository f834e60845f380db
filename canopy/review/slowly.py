"""What a way of air moves from day to day: how a filter loads up, and when it is to be replaced."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from canopy.plan.correction import Subject
from canopy.review.against import told_by_probes, windows_of_days
from canopy.review.living import Asked, Fitted
from canopy.review.playback import EVERY_S, Window, believed
from canopy.review.trends import Trend, trend

Floats = NDArray[np.float64]
_DAY = 86400 // EVERY_S
# A filter is to be replaced when so much of what the way moved at first is left.
SPENT = 0.7
# By so much the flow is tried more and less; and what a day's flow may be told to be at most off the whole's.
_TRIED, _MOST = 0.12, 1.6
_SCATTER = {"air_c": 0.3, "rh_pct": 2.5}


@dataclass(frozen=True, kw_only=True)
class FlowByDay:
    """What the ways of air moved on each day, as factors on what is computed."""

    days: tuple[dt.date, ...]
    factors: tuple[float, ...]
    trend: Trend


def flow_by_day(asked: Asked, fitted: Fitted, most_days: int = 30) -> FlowByDay:
    """Follow what the fans move from day to day.

    Parameters
    ----------
    asked : what was measured
    fitted : what all of it says together
    most_days : so many days at most, the newest

    Returns
    -------
    FlowByDay : with its trend and the day on which seven tenths of the first days' flow are reached

    Notes
    -----
    All else as it was fitted, each day's factor is what a straight line through runs at more and less flow makes of
    that day's air and humidity. What is common to all days, such as a probe's error, falls out of the trend.
    """
    ways = [way.id for way in asked.space.airways if way.fans]
    first = next((fitted.factors[key] for key in fitted.factors if key[0] == "airflow"), None)
    if not ways or first is None:
        return FlowByDay(days=(), factors=(), trend=Trend(why_not="what the fan moves is not known here yet"))
    days: list[dt.date] = []
    factors: list[float] = []
    for window, halves in windows_of_days(asked, most_days):
        runs = [_run(window, fitted.factors, ways, first * np.exp(step)) for step in (-_TRIED, 0.0, _TRIED)]
        for half in halves:
            span = slice(half * _DAY, (half + 1) * _DAY)
            step = _step(window, runs, span, fitted.offsets)
            if step is not None and abs(step) < np.log(_MOST):
                days.append(window.day - dt.timedelta(days=1 - half))
                factors.append(float(first * np.exp(step)))
    bound = SPENT * float(np.median(factors[:5])) if factors else None
    return FlowByDay(days=tuple(days), factors=tuple(factors), trend=trend(days, factors, bound))


def _run(
    window: Window, known: Mapping[tuple[Subject, str | None], float], ways: Sequence[str], factor: float
) -> Mapping[str, Floats]:
    factors: dict[tuple[Subject, str | None], float] = dict(known) | {("airflow", way): factor for way in ways}
    return told_by_probes(window, believed(window.here.space, factors, window.day - dt.timedelta(days=3)))


def _step(
    window: Window, runs: Sequence[Mapping[str, Floats]], span: slice, offsets: Mapping[str, float]
) -> float | None:
    """The change of the flow's logarithm that a day's readings ask for; None where they say nothing."""
    above = below = 0.0
    for key, scatter in _SCATTER.items():
        if key not in window.grid.inside:
            continue
        less, here, more = (run[key][span] for run in runs)
        slope = (more - less) / (2 * _TRIED) / scatter
        left = (window.grid.inside[key][span] - offsets.get(key, 0.0) - here) / scatter
        use = np.isfinite(slope) & np.isfinite(left) & (np.abs(left) < 6)
        above += float((slope[use] * left[use]).sum())
        below += float((slope[use] ** 2).sum())
    return above / below if below > 4.0 else None
