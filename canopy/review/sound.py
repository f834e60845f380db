"""What is wrong with a log itself: clocks set back, probes swapped, lamps changed in mid-run. Noticed, never mended."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from canopy.review.playback import LAMPS, on_share
from canopy.review.series import Grid, Series

Floats = NDArray[np.float64]
What = Literal["clock", "swapped", "lamp", "stuck", "leaps"]
_BIN_S = 900
_PER_DAY = 86400 // _BIN_S
# A clock is told to be off from so far on [min].
_LEAST_SHIFT_MIN = 25.0
# What follows the lamps is so much alike to their turning at least, as a correlation.
_ALIKE = 0.45
# So far warmth may lie behind lamps by nature [min].
_WARMS_MIN = 30.0
# Lamps that draw so much more or less than on the days before were changed, or something on their plug.
_OTHER_LAMP = 0.08
# Readings that differ so many times more from the one before than from the one before that, among so many of them and
# for so long, were written over each other [s].
_ZIGZAG, _AMONG, _ZIGZAG_S = 2.5, 12, 1800
_STUCK_H, _LEAPS = 3.0, 5


@dataclass(frozen=True, kw_only=True)
class Doubt:
    """Something about the log that does not add up: since when, with which probes, in words; days from ``since`` on, or
    before, are better left out where ``leave`` says so.
    """

    what: What
    probes: tuple[str, ...]
    since: dt.date
    words: str
    leave: Literal["", "before", "day"] = ""


def doubts(series: Sequence[Series], grid: Grid, midnights: dict[dt.date, int], lit: Floats) -> tuple[Doubt, ...]:
    """Look a log over.

    Parameters
    ----------
    series : of the space and, for swaps, of others with the same quantities
    grid : of the space
    midnights : of its days
    lit : for how much of each of the grid's steps lamps are on by the plan

    Returns
    -------
    tuple of Doubt : what does not add up, the newest first
    """
    found: list[Doubt] = []
    here = [item for item in series if item.place == "space"]
    for item in here:
        found += _overlaps(item)
    found += _shifted(grid, midnights, lit)
    found += _lamps(grid, midnights)
    for one, two in combinations(here, 2):
        if one.quantity == two.quantity and one.space_id != two.space_id:
            found += _swapped(one, two)
    for quantity, hours in grid.stuck.items():
        if hours >= _STUCK_H:
            found.append(
                Doubt(
                    what="stuck",
                    probes=(quantity,),
                    since=min(midnights),
                    words=f"it showed the very same for {hours:.0f} h in all; those stretches are left out",
                )
            )
    return tuple(sorted(found, key=lambda item: item.since, reverse=True))


def _overlaps(item: Series) -> list[Doubt]:
    """Where a logger's clock was set back its readings lie between each other: up and down from one to the next."""
    if item.quantity == "power_w" or len(item.value) < 60:
        return []
    # Two records laid over each other: what follows the one before it closely is the reading after the next.
    one, two = np.abs(np.diff(item.value))[:-1], np.abs(item.value[2:] - item.value[:-2])
    window = np.ones(_AMONG) / _AMONG
    near, next_but_one = np.convolve(one, window, mode="same"), np.convolve(two, window, mode="same")
    noise = float(np.median(one)) + 1e-9
    both = np.flatnonzero((near > _ZIGZAG * next_but_one) & (near > _ZIGZAG * noise))
    if not both.size or len(both) < _AMONG or item.at[both[-1]] - item.at[both[0]] < _ZIGZAG_S:
        return []
    since = _day(int(item.at[min(both[0] + _AMONG // 2, len(item.at) - 1)]))
    return [
        Doubt(
            what="clock",
            probes=(item.name,),
            since=since,
            words=(
                f"from {since} on two records lie over each other: the clock that wrote them was set back, or two "
                "loggers write under one name"
            ),
            leave="day",
        )
    ]


def _shifted(grid: Grid, midnights: dict[dt.date, int], lit: Floats) -> list[Doubt]:
    """Days on which warmth or light follow the lamps only when they are moved by half an hour or more."""
    rows = [grid.inside[key] for key in ("ppfd", "air_c") if key in grid.inside]
    if not rows:
        return []
    per = 86400 // grid.every_s
    off: dict[dt.date, float] = {}
    for day, first in sorted(midnights.items()):
        place = grid.place(first)
        if place < 0 or place + per > grid.steps:
            continue
        by = LAMPS in grid.watts and np.isfinite(grid.watts[LAMPS][place : place + per]).mean() > 0.8
        lamps = on_share(grid.watts[LAMPS][place : place + per])[0] if by else lit[place : place + per]
        shift = _shift(rows[0][place : place + per], np.nan_to_num(lamps), grid.every_s)
        if shift is not None:
            off[day] = shift
    usual = 0.0 if "ppfd" in grid.inside else _WARMS_MIN
    found = _turned(sorted(off), off, usual)
    if found is None:
        return []
    since, late = found
    way = "behind" if late > 0 else "ahead of"
    return [
        Doubt(
            what="clock",
            probes=("ppfd" if "ppfd" in grid.inside else "air_c",),
            since=since,
            words=(
                f"since {since} the readings lie about {abs(late):.0f} min {way} the lamps: a clock was set back, "
                "stands in another time zone, or the lamps' hours are others than planned"
            ),
            leave="day",
        )
    ]


def _turned(days: list[dt.date], off: dict[dt.date, float], usual: float) -> tuple[dt.date, float] | None:
    """From which day on readings lie otherwise to the lamps than before, and by how much [min]; from the first day on
    where all lie further off than warmth lags behind lamps; None where neither is so.
    """
    if len(days) < 2:
        return None
    best: tuple[float, dt.date, float] | None = None
    for cut in range(1, len(days) - 1):
        before, after = (np.array([off[day] for day in part]) for part in (days[:cut], days[cut:]))
        change = float(np.median(after) - np.median(before))
        apart = float(np.abs(before - np.median(before)).sum() + np.abs(after - np.median(after)).sum())
        if abs(change) >= _LEAST_SHIFT_MIN and (best is None or apart < best[0]):
            best = (apart, days[cut], change)
    if best is not None and best[0] < 0.3 * abs(best[2]) * len(days):
        return best[1], best[2]
    middle = float(np.median(list(off.values())))
    return (days[0], middle) if abs(middle) >= usual + _LEAST_SHIFT_MIN else None


def _shift(row: Floats, lamps: Floats, every_s: int) -> float | None:
    """By how much a day's course lies behind the lamps [min]; None where it cannot be told."""
    if np.isfinite(row).mean() < 0.7 or not 0.05 < lamps.mean() < 0.95:
        return None
    fine = np.flatnonzero(np.isfinite(row))
    whole = np.interp(np.arange(len(row)), fine, row[fine])
    # The moments at which it rises or falls fast, against those at which lamps turn.
    rises, turns = np.gradient(whole), np.gradient(lamps)
    wide = max(1, 900 // every_s)
    kernel = np.ones(wide) / wide
    rises, turns = np.convolve(rises, kernel, mode="same"), np.convolve(turns, kernel, mode="same")
    reach = 7200 // every_s
    best = {k: float(np.dot(np.roll(turns, k), rises)) for k in range(-reach, reach + 1)}
    at = max(best, key=lambda k: best[k])
    # What else warms and cools it, such as its room, would only seem to follow the lamps.
    likeness = best[at] / max(float(np.linalg.norm(turns) * np.linalg.norm(rises)), 1e-9)
    return at * every_s / 60 if likeness > _ALIKE else None


def _lamps(grid: Grid, midnights: dict[dt.date, int]) -> list[Doubt]:
    if LAMPS not in grid.watts:
        return []
    per, draws = 86400 // grid.every_s, {}
    for day, first in sorted(midnights.items()):
        place = grid.place(first)
        if place >= 0 and place + per <= grid.steps:
            _, usual = on_share(grid.watts[LAMPS][place : place + per])
            if usual > 1:
                draws[day] = usual
    days = sorted(draws)
    found = []
    for number in range(2, len(days) - 1):
        before = float(np.median([draws[day] for day in days[max(0, number - 5) : number]]))
        after = float(np.median([draws[day] for day in days[number : number + 5]]))
        last = draws[days[number - 1]]
        if abs(after / before - 1) > _OTHER_LAMP and abs(draws[days[number]] / last - 1) > _OTHER_LAMP:
            found.append(
                Doubt(
                    what="lamp",
                    probes=(LAMPS,),
                    since=days[number],
                    words=(
                        f"since {days[number]} the lamps draw {after:.0f} W instead of {before:.0f} W: another lamp, "
                        "another dimmer, or something else on their plug. Days before are not mixed with those after"
                    ),
                    leave="before",
                )
            )
    return found[-1:]


def _swapped(one: Series, two: Series) -> list[Doubt]:
    """Two probes that from a day on show each other's course."""
    tables = [_profiles(item) for item in (one, two)]
    days = sorted(set(tables[0]) & set(tables[1]))
    if len(days) < 6:
        return []
    rows = [np.array([table[day] for day in days]) for table in tables]
    best: tuple[float, int] | None = None
    for cut in range(3, len(days) - 2):
        own = [np.nanmedian(row[:cut], axis=0) for row in rows]
        swapped = sum(
            _apart(row[k], own[j if k < cut else 1 - j]) for j, row in enumerate(rows) for k in range(len(days))
        )
        if best is None or swapped < best[0]:
            best = (swapped, cut)
    if best is None:
        return []
    own = [np.nanmedian(row[: best[1]], axis=0) for row in rows]
    kept = sum(_apart(row[k], own[j]) for j, row in enumerate(rows) for k in range(len(days)))
    if best[0] > 0.5 * kept or _apart(own[0], own[1]) < 3 * best[0] / (2 * len(days)):
        return []
    since = dt.date(1970, 1, 1) + dt.timedelta(days=days[best[1]])
    return [
        Doubt(
            what="swapped",
            probes=(one.name, two.name),
            since=since,
            words=(
                f"since {since} “{one.name}” shows what “{two.name}” showed before, and the other way round: were they "
                "swapped between the spaces?"
            ),
            leave="day",
        )
    ]


def _profiles(item: Series) -> dict[int, Floats]:
    """Each day's course in hours."""
    found: dict[int, Floats] = {}
    days = item.at // 86400
    for day in np.unique(days):
        part = days == day
        hours = (item.at[part] % 86400) // 3600
        total = np.bincount(hours, weights=item.value[part], minlength=24)
        count = np.bincount(hours, minlength=24)
        if (count > 0).sum() >= 18:
            found[int(day)] = np.where(count > 0, total / np.maximum(count, 1), np.nan)
    return found


def _apart(one: Floats, two: Floats) -> float:
    return float(np.sqrt(np.nanmean((one - two) ** 2)))


def _day(at: int) -> dt.date:
    return dt.datetime.fromtimestamp(at, dt.UTC).date()
