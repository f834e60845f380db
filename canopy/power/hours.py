"""What loads draw minute by minute of a day, and what of it coincides."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from canopy.power.load import CONTINUOUS_H, Load
from canopy.schedule import ByHand, Daily, Schedule, Span, shares_of

Watts = NDArray[np.float32]
MINUTES = 1440
_WITH = 1e-6


def is_timed(load: Load) -> bool:
    """Say whether it is known when a load runs.

    Parameters
    ----------
    load : with its schedule

    Returns
    -------
    bool : False where nobody said from when on, or where it may start at any time
    """
    item = load.schedule
    if load.any_time or (isinstance(item, Daily) and item.start is None and 0 < item.hours < 24):
        return False
    return not (isinstance(item, ByHand) and any(time.at is None for time in item.times))


def minutes_of(load: Load) -> Watts:
    """Give what a load draws in each minute of a day.

    Parameters
    ----------
    load : with its schedule

    Returns
    -------
    ndarray : shape (1440,), mean over the minute; spread over the day where nobody said when [W]
    """
    return np.float32(load.power_w) * _shares(load.schedule, load.lit, load.lit_share, load.dark_share)


@lru_cache(maxsize=2048)
def _shares(item: Schedule, lit: tuple[Span, ...], lit_share: float, dark_share: float) -> Watts:
    shares = shares_of(item, MINUTES, 1.0, lit)
    if lit_share != 1.0 or dark_share != 1.0:
        shares = shares * np.where(_lit(lit), np.float32(lit_share), np.float32(dark_share))
    shares.setflags(write=False)
    return shares


@lru_cache(maxsize=512)
def _lit(lit: tuple[Span, ...]) -> NDArray[np.bool_]:
    at = np.arange(MINUTES) + 0.5
    return (
        np.any([(span.start_min <= at) & (at < span.end_min) for span in lit], axis=0)
        if lit
        else np.zeros(MINUTES, bool)
    )


def runs_for_hours(load: Load) -> NDArray[np.bool_]:
    """Mark the minutes of a day that belong to a stretch of three hours or more.

    Parameters
    ----------
    load : with its schedule

    Returns
    -------
    ndarray of bool : shape (1440,); over midnight too; all its minutes where it counts as continuous by its kind
    """
    on = minutes_of(load) > _WITH * max(load.power_w, 1e-9)
    if load.fixed or on.all() or not on.any():
        return np.asarray(on)
    least = int(CONTINUOUS_H * 60)
    # From an off minute on, so that a stretch over midnight is one.
    start = int(np.flatnonzero(~on)[0])
    turned = np.roll(on, -start)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], turned.astype(np.int8), [0]])))
    out = np.zeros(MINUTES, dtype=bool)
    for low, high in zip(edges[::2], edges[1::2], strict=True):
        if high - low >= least:
            out[low:high] = True
    return np.asarray(np.roll(out, start))


def coinciding_w(loads: Iterable[Load], *, for_hours: bool = False, apparent: bool = False) -> Watts:
    """Give what loads may draw together in each minute of a day.

    Parameters
    ----------
    loads : on one circuit, outlet or strip
    for_hours : only what runs for three hours or more at a stretch
    apparent : in volt-amperes, by each one's power factor: what wires and breakers carry

    Returns
    -------
    ndarray : shape (1440,); what may run at any time counts in every minute, at full; what runs counts at full in each
        minute in which it does, as a cycle's switch does not spread it [W, or VA where apparent]
    """
    total = np.zeros(MINUTES, dtype=np.float32)
    for load in loads:
        if load.hours_per_day <= 0 or (for_hours and not load.continuous):
            continue
        times = 1 / load.kind.power_factor if apparent else 1.0
        if not is_timed(load):
            total += np.float32(load.power_w * times)
            continue
        drawn = minutes_of(load)
        # A cycle shorter than a minute's mean draws all of its power while it does.
        full = np.where(drawn > _WITH, np.maximum(drawn, _peak(load, drawn)), 0.0)
        total += (np.where(runs_for_hours(load), full, 0.0) if for_hours else full).astype(np.float32) * np.float32(
            times
        )
    return total


def _peak(load: Load, drawn: Watts) -> Watts:
    """What it draws while it runs: all its power, or by lamps on and off where it has two speeds; ramps as they are."""
    if load.ramps:
        return drawn
    by_light = np.where(_lit(load.lit), np.float32(load.lit_share), np.float32(load.dark_share))
    return np.asarray(np.float32(load.power_w) * by_light, dtype=np.float32)
