"""The day of a space or a household as one band of 24 hours: a lane for each thing, with edges that can be moved."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from canopy.evaluate.day.clock import Lane
from canopy.schedule import DAY_MIN, Span, minute_of
from canopy.words import clock

WIDTH, LANE, _TOP, _GAP = 960.0, 30.0, 22.0, 18.0
_BAR = 18.0


@dataclass(frozen=True, kw_only=True)
class Bar:
    """A run of a lane: its outline (px), and in words."""

    path: str
    title: str


@dataclass(frozen=True, kw_only=True)
class Row:
    """A lane as drawn: where it lies (px), its bars, and where its two edges stand when its hours can be moved."""

    lane: Lane
    y: float
    middle: float
    bars: tuple[Bar, ...]
    start_x: float | None
    end_x: float | None
    start_min: int
    end_min: int

    @property
    def hours_text(self) -> str:
        """Its hours, as they are typed."""
        return f"{self.lane.hours:g}"

    @property
    def starts(self) -> str:
        """When it begins."""
        return clock(self.start_min)

    @property
    def ends(self) -> str:
        """When it ends."""
        return clock(self.end_min)


@dataclass(frozen=True, kw_only=True)
class Block:
    """The lanes of one space, with its nights behind them."""

    name: str
    space_id: str
    y: float
    height: float
    rows: tuple[Row, ...]
    nights: tuple[tuple[float, float], ...]


@dataclass(frozen=True, kw_only=True)
class DayBand:
    """The scene (px): blocks of lanes, ticks of the hours."""

    blocks: tuple[Block, ...]
    hours: tuple[tuple[float, str], ...]
    width: float
    height: float
    bar: float


def day_band(spaces: Iterable[tuple[str, str, tuple[Lane, ...], tuple[Span, ...]]], *, headed: bool) -> DayBand:
    """Draw blocks of lanes: each a name, a space's id, its lanes, and when it is night there."""
    y, blocks = _TOP, []
    for name, space_id, lanes, nights in spaces:
        if headed:
            y += _GAP
        rows = tuple(_row(lane, y + LANE * number) for number, lane in enumerate(lanes))
        height = LANE * len(rows)
        shades = tuple((_x(span.start_min), _x(span.end_min) - _x(span.start_min)) for span in nights)
        blocks.append(Block(name=name, space_id=space_id, y=y, height=height, rows=rows, nights=shades))
        y += height
    return DayBand(
        blocks=tuple(blocks),
        hours=tuple((_x(60 * hour), f"{hour:02d}") for hour in range(0, 25, 3)),
        width=WIDTH,
        height=y + 6,
        bar=_BAR,
    )


def _x(minute: float) -> float:
    return WIDTH * minute / DAY_MIN


def _row(lane: Lane, y: float) -> Row:
    start = round(minute_of(lane.start)) if lane.start is not None else 0
    end = round(start + 60 * lane.hours) % round(DAY_MIN)
    movable = lane.movable and lane.id != "watering"
    return Row(
        lane=lane,
        y=y,
        middle=y + LANE / 2,
        bars=tuple(_bar(lane, span, y) for span in lane.spans),
        start_x=_x(start) if lane.movable else None,
        end_x=_x(end) if movable else None,
        start_min=start,
        end_min=end,
    )


def _bar(lane: Lane, span: Span, y: float) -> Bar:
    """A bar as high as its level at either end; nothing lower than a hair."""
    foot = y + (LANE + _BAR) / 2
    left, right = _x(span.start_min), _x(span.end_min)
    rise, fall = (max(2.0, _BAR * min(1.0, level)) for level in (span.first, span.last))
    path = f"M{left:.1f} {foot:.1f}V{foot - rise:.1f}L{right:.1f} {foot - fall:.1f}V{foot:.1f}Z"
    level = "" if span.first == span.last == 1.0 else f", {100 * span.first:.0f} % to {100 * span.last:.0f} %"
    if span.first == span.last != 1.0:
        level = f" at {100 * span.first:.0f} %"
    ends = "24:00" if span.end_min >= DAY_MIN else clock(span.end_min)
    return Bar(path=path, title=f"{lane.name}: {clock(span.start_min)} to {ends}{level}")
