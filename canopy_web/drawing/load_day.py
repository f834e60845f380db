"""A circuit's load through a day: loads stacked against what it should carry, and what is on at a minute."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from canopy.evaluate.power.profile import CircuitDay, Line
from canopy.power.hours import Watts
from canopy.quantities import number
from canopy.words import counted

WIDTH, HEIGHT = 720.0, 210.0
_LEFT, _BOTTOM, _TOP, _RIGHT = 58.0, 24.0, 14.0, 10.0
# A point every five minutes draws the same picture as one a minute.
_EVERY = 5
_MOST_BANDS = 9
_NEAR = 0.4
_SMALL_KWH = 0.1


@dataclass(frozen=True, kw_only=True)
class Band:
    """A load's band: its outline, its name and where it hangs, its pattern's number, what it draws and uses."""

    path: str
    name: str
    pattern: int
    most_w: float
    energy: str
    runs: str
    watts: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class LoadDay:
    """The scene: bands from below upward, what may coincide, the lines of its limits, ticks of the axes (px).

    ``loose`` are those of which nobody knows when they run: no band shows them, the line of what may coincide does.
    """

    id: str
    name: str
    bands: tuple[Band, ...]
    loose: tuple[Band, ...]
    may: str
    may_w: tuple[int, ...]
    limit_y: float | None
    breaker_y: float | None
    limit_w: float
    breaker_w: float
    hours: tuple[tuple[float, str], ...]
    levels: tuple[tuple[float, str], ...]
    left: float
    tick: float
    foot: float
    width: float
    height: float
    peak_w: float
    most_w: float


def load_day(day: CircuitDay) -> LoadDay:
    """Draw a circuit's day; the largest loads are told apart, the rest is one band."""
    running = sorted((line for line in day.lines if line.watts.max() > 0), key=lambda line: -line.kwh)
    timed = _together([line for line in running if line.timed])
    may = _sampled(day.may_coincide)
    most = max(float(may.max()), 1.0)
    # The limits are drawn where what may be on comes near them; the words above tell them always.
    top = _nice(max(1.1 * most, 1.02 * day.limit_w if most > _NEAR * day.limit_w else 0.0))
    x = np.linspace(_LEFT, WIDTH - _RIGHT, 1440 // _EVERY + 1)

    def y(watts: float) -> float:
        return HEIGHT - _BOTTOM - (HEIGHT - _BOTTOM - _TOP) * watts / top

    below = np.zeros(len(x))
    bands = []
    shown, rest = timed[:_MOST_BANDS], timed[_MOST_BANDS:]
    pieces = [(members, _name(members)) for members in shown]
    if rest:
        smaller = [line for members in rest for line in members]
        pieces.append((smaller, counted(len(smaller), "smaller one")))
    for place, (members, name) in enumerate(pieces):
        watts = _sampled(np.sum([line.watts for line in members], axis=0))
        above = below + np.append(watts, watts[-1])
        outline = _steps(x, below, above, y)
        bands.append(_band(members, name, watts, outline, place % 5))
        below = above
    loose = [_band([line], _name([line]), _sampled(line.watts), "", 0) for line in running if not line.timed]
    return LoadDay(
        id=day.circuit.id,
        name=day.circuit.name,
        bands=tuple(bands),
        loose=tuple(loose),
        may=_line(x, np.append(may, may[-1]), y),
        may_w=tuple(round(float(value)) for value in may),
        limit_y=y(day.limit_w) if day.limit_w <= top else None,
        breaker_y=y(day.breaker_w) if day.breaker_w <= top else None,
        limit_w=day.limit_w,
        breaker_w=day.breaker_w,
        hours=tuple((_LEFT + (WIDTH - _RIGHT - _LEFT) * hour / 24, f"{hour:02d}") for hour in range(0, 25, 3)),
        levels=tuple((y(top * part / 4), f"{top * part / 4:,.0f}") for part in range(5)),
        left=_LEFT,
        tick=_LEFT - 4,
        foot=HEIGHT - _BOTTOM,
        width=WIDTH,
        height=HEIGHT,
        peak_w=float(day.total.max()),
        most_w=float(may.max()),
    )


def _together(lines: list[Line]) -> list[list[Line]]:
    """Put lines of one name in one place into one band."""
    found: dict[tuple[str, str, bool], list[Line]] = {}
    for line in lines:
        found.setdefault((line.hung.where, line.hung.load.name, line.followed), []).append(line)
    return sorted(found.values(), key=lambda members: -sum(line.kwh for line in members))


def _name(members: list[Line]) -> str:
    hung = members[0].hung
    count = f"{len(members)} × " if len(members) > 1 else ""
    return f"{hung.where}: {count}{hung.load.name}"


def _sampled(watts: Watts) -> Watts:
    """The most within every step of the picture."""
    return np.asarray(watts.reshape(-1, _EVERY).max(axis=1))


def _band(members: list[Line], name: str, watts: Watts, path: str, pattern: int) -> Band:
    followed = any(line.followed for line in members)
    timed = all(line.timed for line in members)
    kwh = sum(line.kwh for line in members)
    return Band(
        path=path,
        name=name,
        pattern=pattern,
        most_w=sum(line.hung.load.power_w for line in members),
        energy=f"{number(kwh, 2 if kwh >= _SMALL_KWH else 3)} kWh",
        runs="as its control switches it" if followed else "by its hours" if timed else "at any time",
        watts=tuple(round(float(value)) for value in watts),
    )


def _nice(value: float) -> float:
    """A round number at or above a value."""
    step = 10.0 ** np.floor(np.log10(max(value, 1.0)))
    return float(next(step * part for part in (1, 1.5, 2, 3, 4, 5, 6, 8, 10) if step * part >= value))


def _line(x: np.ndarray, watts: np.ndarray, y: Callable[[float], float]) -> str:
    """A line of steps from left to right."""
    return "M" + "L".join(f"{x[k]:.1f} {y(watts[k]):.1f}H{x[k + 1]:.1f}" for k in range(len(x) - 1))


def _steps(x: np.ndarray, below: np.ndarray, above: np.ndarray, y: Callable[[float], float]) -> str:
    """Outline of a band as steps, from left to right above and back below."""
    forth, back = [], []
    for k in range(len(x) - 1):
        forth.append(f"{x[k]:.1f} {y(above[k]):.1f}H{x[k + 1]:.1f}")
        back.append(f"{x[k + 1]:.1f} {y(below[k]):.1f}H{x[k]:.1f}")
    return "M" + "L".join(forth) + "L" + "L".join(reversed(back)) + "Z"
