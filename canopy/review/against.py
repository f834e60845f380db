"""Plan against log: each day as it was computed beside what was measured, and what explains the difference."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from canopy.plan import Space
from canopy.plan.correction import Subject
from canopy.plan.learnt import counts
from canopy.review.finding import Finding
from canopy.review.living import Asked
from canopy.review.playback import EVERY_S, WINDOW_H, Window, believed, lagged, played, stretches_off, window_of
from canopy.review.series import Grid

Floats = NDArray[np.float64]
_STEPS = WINDOW_H * 3600 // EVERY_S
_DAY = 86400 // EVERY_S
# What is told of, and from how large a difference on it asks for an explanation: what a probe may be off by.
QUANTITIES: Mapping[str, float] = {"air_c": 0.7, "rh_pct": 4.0, "co2_ppm": 60.0}
# A half of a day with fewer readings than so long says nothing [h].
_LEAST_H = 1.0
# What is laid at the door of each thing, one after the other.
_ORDER: tuple[Subject, ...] = ("airflow", "leak", "leaves", "walls", "lamp-heat", "device")
_PARTS = ("air_c", "rh_pct", "co2_ppm")


@dataclass(frozen=True, kw_only=True)
class Half:
    """A quantity's mean by day (lamps on) or by night: computed and measured, over the moments that were measured."""

    computed: float
    measured: float

    @property
    def off(self) -> float:
        """By how much more was measured."""
        return self.measured - self.computed


@dataclass(frozen=True, kw_only=True)
class DayAgainst:
    """A day: for each quantity its means with lamps on and off; None where too little was measured; and for how long
    its fans stood by their plug [h].
    """

    day: dt.date
    lit: Mapping[str, Half | None]
    dark: Mapping[str, Half | None]
    stood_h: float = 0.0

    def half(self, quantity: str, *, lit: bool) -> Half | None:
        """Give a quantity's mean by day or by night."""
        return (self.lit if lit else self.dark).get(quantity)


@dataclass(frozen=True, kw_only=True)
class Share:
    """What one thing explains of a difference: what it is about, and by how much it moves the computed mean."""

    finding: Finding
    moves: float


@dataclass(frozen=True, kw_only=True)
class Explained:
    """The difference of one quantity by day or by night over some days: what was computed and measured, what each thing
    that was found explains of it, and what is left.
    """

    quantity: str
    lit: bool
    computed: float
    measured: float
    shares: tuple[Share, ...]
    left: float

    @property
    def off(self) -> float:
        """By how much more was measured."""
        return self.measured - self.computed


@dataclass(frozen=True, kw_only=True, eq=False)
class Against:
    """Days held against the plan, the newest last; traces of the last one (computed, measured) by quantity, in steps of
    five minutes; or why nothing can be told.
    """

    days: tuple[DayAgainst, ...]
    traces: Mapping[str, tuple[Floats, Floats]]
    why_not: str = ""
    room_measured: bool = True


def against(asked: Asked, most_days: int = 14) -> Against:
    """Hold what was measured against the simulation of the same days as planned.

    Parameters
    ----------
    asked : what was measured
    most_days : so many days at most, the newest

    Returns
    -------
    Against : simulated with the plan's corrections that are in force, in the room's measured air where somebody
        measures it, else in the planned one
    """
    if "air_c" not in asked.grid.inside and "rh_pct" not in asked.grid.inside:
        return Against(days=(), traces={}, why_not="neither temperature nor humidity inside is measured here")
    windows = windows_of_days(asked, most_days)
    if not windows:
        return Against(days=(), traces={}, why_not="no whole day was measured yet")
    found: list[DayAgainst] = []
    traces: dict[str, tuple[Floats, Floats]] = {}
    for window, halves in windows:
        told = told_by_probes(window, window.here.space)
        for half in halves:
            span = slice(half * _DAY, (half + 1) * _DAY)
            day = window.day - dt.timedelta(days=1 - half)
            found.append(_day(day, window, told, span))
            traces = {
                key: (told[key][span], window.grid.inside[key][span]) for key in _PARTS if key in window.grid.inside
            }
    return Against(days=tuple(found), traces=traces, room_measured="air_c" in asked.grid.room)


def told_by_probes(window: Window, space: Space) -> dict[str, Floats]:
    """Play a window back and give what probes would show of it.

    Parameters
    ----------
    window : which
    space : as it is believed to be

    Returns
    -------
    dict : air [°C], humidity [%], CO2 [ppm] and the share of the time with lamps on, each shape (steps,)
    """
    run = played(window, space)
    return {key: lagged(getattr(run, key)) for key in _PARTS} | {"lit": run.lit}


def windows_of_days(asked: Asked, most: int) -> list[tuple[Window, tuple[int, ...]]]:
    """Lay the measured days into windows of two.

    Parameters
    ----------
    asked : what was measured
    most : so many days at most, the newest

    Returns
    -------
    list of (Window, tuple of int) : each with which of its days count: both, or the second alone
    """
    grid, stood = _roomed(asked), stretches_off(asked.grid)
    whole = [day for day in sorted(asked.midnights) if _measured(grid, asked.midnights[day])][-most:]
    found: list[tuple[Window, tuple[int, ...]]] = []
    at = len(whole) - 1
    while at >= 0:
        day = whole[at]
        first = asked.midnights[day] - 86400
        both = at > 0 and whole[at - 1] == day - dt.timedelta(days=1)
        part = _part(grid, first)
        spans = tuple(
            (max(0.0, (begin - first) / 3600), min(float(WINDOW_H), (end - first) / 3600))
            for begin, end in stood
            if end > first and begin < first + WINDOW_H * 3600
        )
        # The first hours of a run only let it settle: a day alone counts as the second of its window.
        found.append((window_of(asked.plan, asked.space, day, part, spans), (0, 1) if both and at > 1 else (1,)))
        at -= 2 if both and at > 1 else 1
    return found[::-1]


def _measured(grid: Grid, first: int) -> bool:
    place = grid.place(first)
    if place < 0 or place + _DAY > grid.steps:
        return False
    rows = [grid.inside[key][place : place + _DAY] for key in ("air_c", "rh_pct") if key in grid.inside]
    return max(float(np.isfinite(row).mean()) for row in rows) > 0.5


def _part(grid: Grid, first: int) -> Grid:
    """Two days from a midnight on, the first of which may lie before anything was measured."""
    place = grid.place(first)
    if place >= 0:
        return grid.part(place, _STEPS)
    gap = -place

    def late(row: Floats) -> Floats:
        return np.concatenate([np.full(gap, np.nan), row[: _STEPS - gap]])

    return Grid(
        begins=first,
        every_s=grid.every_s,
        steps=_STEPS,
        inside={key: late(row) for key, row in grid.inside.items()},
        room={key: late(row) for key, row in grid.room.items()},
        watts={key: late(row) for key, row in grid.watts.items()},
    )


def _roomed(asked: Asked) -> Grid:
    """With the planned air of the room where nobody measures it."""
    grid = asked.grid
    if all(key in grid.room and np.isfinite(grid.room[key]).mean() > 0.2 for key in ("air_c", "rh_pct")):
        return grid
    from canopy.evaluate.climate.around import dayness

    around = asked.plan.around(asked.space, max(asked.midnights)).air
    first = min(asked.midnights.values())
    hours = (grid.begins + (np.arange(grid.steps) + 0.5) * grid.every_s - first) / 3600 % 24
    share = np.interp(hours, np.arange(len(dayness(24))) / 6, dayness(24))
    room = {
        "air_c": around.night_c + share * (around.day_c - around.night_c),
        "rh_pct": around.night_rh_pct + share * (around.day_rh_pct - around.night_rh_pct),
    }
    return replace(grid, room=room)


def _day(day: dt.date, window: Window, told: Mapping[str, Floats], span: slice) -> DayAgainst:
    grid = window.grid
    lit = told["lit"][span] > 0.5
    halves: dict[bool, dict[str, Half | None]] = {True: {}, False: {}}
    for key in _PARTS:
        for bright in (True, False):
            halves[bright][key] = _half(grid, told, key, span, lit if bright else ~lit)
    begin, end = span.start * EVERY_S / 3600, span.stop * EVERY_S / 3600
    stood = sum(max(0.0, min(end, last) - max(begin, first)) for first, last in window.stood)
    return DayAgainst(day=day, lit=halves[True], dark=halves[False], stood_h=stood)


def _half(grid: Grid, told: Mapping[str, Floats], key: str, span: slice, which: NDArray[np.bool_]) -> Half | None:
    if key not in grid.inside:
        return None
    measured, computed = grid.inside[key][span], told[key][span]
    use = which & np.isfinite(measured) & np.isfinite(computed)
    if use.sum() * EVERY_S / 3600 < _LEAST_H:
        return None
    return Half(computed=float(computed[use].mean()), measured=float(measured[use].mean()))


def explain(asked: Asked, findings: Sequence[Finding], day: dt.date) -> tuple[Explained, ...]:
    """Say what explains the differences of a day as far as what was found allows.

    Parameters
    ----------
    asked : what was measured
    findings : factors that were found of this space
    day : one of the measured days

    Returns
    -------
    tuple of Explained : for each quantity by day and by night whose difference is more than a probe's doubt, the
        largest first; each thing's share is by how much the computed mean moves once it counts, one after the other
    """
    windows = [item for item in windows_of_days(asked, 40) if item[0].day == day or day in _covered(item)]
    if not windows:
        return ()
    window, _ = windows[-1]
    half = 1 if window.day == day else 0
    span = slice(half * _DAY, (half + 1) * _DAY)
    here = window.here.space
    # Of two ways to the same thing the surer one; light says nothing of warmth and water here.
    told = [item for item in findings if item.grade != "unknown" and item.subject in _ORDER]
    told.sort(key=lambda item: (_ORDER.index(item.subject), (item.standard_error or 1) / (item.factor or 1)))
    known: list[Finding] = []
    for item in told:
        if not any((one.subject, one.target) == (item.subject, item.target) for one in known):
            known.append(item)
    runs = [told_by_probes(window, here)]
    in_force: dict[tuple[Subject, str | None], float] = {
        (item.subject, item.target): item.factor for item in here.learnt if counts(here, item)
    }
    for item in known:
        in_force[item.subject, item.target] = float(item.factor or 1.0)
        runs.append(told_by_probes(window, _with(here, in_force, day)))
    found = []
    lit = runs[0]["lit"][span] > 0.5
    for key, doubt in QUANTITIES.items():
        for bright in (True, False):
            which = lit if bright else ~lit
            halves = [_half(window.grid, run, key, span, which) for run in runs]
            if any(item is None for item in halves):
                continue
            means = [item.computed for item in halves if item is not None]
            first = halves[0]
            if first is None or abs(first.off) < doubt:
                continue
            shares = tuple(
                Share(finding=item, moves=after - before)
                for item, before, after in zip(known, means[:-1], means[1:], strict=True)
            )
            found.append(
                Explained(
                    quantity=key,
                    lit=bright,
                    computed=first.computed,
                    measured=first.measured,
                    shares=tuple(sorted(shares, key=lambda item: -abs(item.moves))),
                    left=first.measured - means[-1],
                )
            )
    return tuple(sorted(found, key=lambda item: -abs(item.off) / QUANTITIES[item.quantity]))


def _covered(item: tuple[Window, tuple[int, ...]]) -> tuple[dt.date, ...]:
    window, halves = item
    return tuple(window.day - dt.timedelta(days=1 - half) for half in halves)


def _with(space: Space, factors: Mapping[tuple[Subject, str | None], float], day: dt.date) -> Space:
    return believed(space, factors, day - dt.timedelta(days=3))
