"""The picture of a trade: what plans cost against how even their light is, points that one can open."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import floor, log10

from canopy.designer.answers import Point
from canopy.quantities import number

WIDTH, HEIGHT = 620.0, 260.0
_LEFT, _RIGHT, _TOP, _FOOT = 52.0, 16.0, 14.0, 40.0
_TICKS = 5


@dataclass(frozen=True, kw_only=True)
class TradeMark:
    """A plan in the picture (px): ``letter`` where it is one of the answers, ``best`` where none beats it in both."""

    x: float
    y: float
    key: str
    letter: str
    works: bool
    best: bool
    title: str


@dataclass(frozen=True, kw_only=True)
class Trade:
    """The scene: marks, the line through those that none beats, ticks of both axes, and what the axes say."""

    marks: tuple[TradeMark, ...]
    front: str
    across: tuple[tuple[float, str], ...]
    up: tuple[tuple[float, str], ...]
    money: str
    width: float = WIDTH
    height: float = HEIGHT
    left: float = _LEFT
    top: float = _TOP
    right: float = WIDTH - _RIGHT
    foot: float = HEIGHT - _FOOT


def trade(points: Sequence[Point], letters: dict[str, str], money: str) -> Trade | None:
    """Draw the trade; None with fewer than two plans."""
    shown = [item for item in points if item.works] or list(points)
    if len(shown) < 2:
        return None
    prices, evens = [item.price for item in shown], [item.evenness for item in shown]
    across, up = _ticks(min(prices), max(prices)), _ticks(min(evens), max(evens))
    low_x, high_x = min(across[0], min(prices)), max(across[-1], max(prices))
    low_y, high_y = min(up[0], min(evens)), max(up[-1], max(evens))

    def at_x(value: float) -> float:
        return _LEFT + (WIDTH - _LEFT - _RIGHT) * (value - low_x) / max(high_x - low_x, 1e-9)

    def at_y(value: float) -> float:
        return HEIGHT - _FOOT - (HEIGHT - _TOP - _FOOT) * (value - low_y) / max(high_y - low_y, 1e-9)

    marks = [
        TradeMark(
            x=round(at_x(item.price), 1),
            y=round(at_y(item.evenness), 1),
            key=item.key,
            letter=letters.get(item.key, ""),
            works=item.works,
            best=item.best,
            title=f"{number(item.price, 0)} {money}, evenness {number(item.evenness, 2)}, "
            f"{number(item.noise_dba, 0)} dB(A)",
        )
        for item in shown
    ]
    # Letters are drawn last, over the points.
    marks.sort(key=lambda mark: (bool(mark.letter), mark.best))
    return Trade(
        marks=tuple(marks),
        front=_path((mark.x, mark.y) for mark in marks if mark.best),
        across=tuple((round(at_x(value), 1), number(value, 0)) for value in across),
        up=tuple((round(at_y(value), 1), number(value, 2)) for value in up),
        money=money,
    )


def _path(points: Iterable[tuple[float, float]]) -> str:
    row = sorted(points)
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in row) if len(row) > 1 else ""


def _ticks(low: float, high: float) -> list[float]:
    """Round figures that span a range."""
    span = max(high - low, 1e-3 * max(abs(high), 1e-9), 1e-6)
    step = 10 ** floor(log10(span / _TICKS))
    step *= next(times for times in (1, 2, 5, 10) if span / (step * times) <= _TICKS)
    first = floor(low / step) * step
    count = int((high - first) / step + 1e-9) + (0 if abs((high - first) / step % 1) < 1e-6 else 1)
    return [first + step * k for k in range(count + 1)]
