"""The season strip: each planting's stages along the dates, with its harvest and what was done to it."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from canopy.library import BEARING
from canopy.plan.document import Plan, Space
from canopy.season import Cast, harvest, spans

WIDTH, GUTTER = 820.0, 124.0
ROW = 17.0
_BEFORE, _AFTER, _LONGEST = 10, 30, 560
_ROOM_FOR_TEXT = 5.6
_NAME = 22


@dataclass(frozen=True, kw_only=True)
class Segment:
    """One stage of a planting (px), with its name where there is room."""

    x: float
    w: float
    step: int
    text: str
    title: str


@dataclass(frozen=True, kw_only=True)
class SeasonRow:
    """One planting on its line (px)."""

    planting_id: str
    name: str
    short: str
    y: float
    segments: tuple[Segment, ...]
    harvest: tuple[float, float] | None
    harvest_title: str
    marks: tuple[tuple[float, str], ...]
    says: str


@dataclass(frozen=True, kw_only=True)
class Tick:
    """The first of a month (px)."""

    x: float
    text: str


@dataclass(frozen=True, kw_only=True)
class Season:
    """A space's season: its rows, months, the day that is looked at, and the range one can move it over."""

    rows: tuple[SeasonRow, ...]
    ticks: tuple[Tick, ...]
    height: float
    first: dt.date
    days: int
    at: int
    x: float
    day: dt.date


_STEPS = {"germinate": 1, "root-cutting": 1, "seedling": 2, "vegetative": 3, "flower": 4, "rest": 0}
_STEPS |= dict.fromkeys(BEARING, 5)


def season_strip(plan: Plan, space: Space, cast: Cast, day: dt.date) -> Season | None:
    """Draw a space's season; None where nothing has days."""
    wanted = {plant.planting_id for plant in space.plants if plant.planting_id}
    plantings = [item for item in plan.plantings if item.id in wanted]
    if not plantings:
        return None
    laid = {item.id: spans(item, cast.crops[item.crop_id]) for item in plantings}
    first = min(*(found[0].starts for found in laid.values()), day) - dt.timedelta(days=_BEFORE)
    end = max(*(found[-1].ends for found in laid.values()), day) + dt.timedelta(days=_AFTER)
    days = min(_LONGEST, (end - first).days)
    if (day - first).days > days:
        first = day - dt.timedelta(days=days // 2)
    per = WIDTH / days

    def x(when: dt.date) -> float:
        return round(min(max((when - first).days, 0), days) * per, 1)

    rows = []
    for number, planting in enumerate(sorted(plantings, key=lambda item: (item.starts_on, item.name))):
        crop, found = cast.crops[planting.crop_id], laid[planting.id]
        gone = planting.cleared_on or dt.date.max
        segments = [
            Segment(
                x=x(span.starts),
                w=round(x(min(span.ends, gone)) - x(span.starts), 1),
                step=_STEPS[span.stage.kind],
                text=span.stage.kind.replace("-", " ")
                if (x(min(span.ends, gone)) - x(span.starts)) > _ROOM_FOR_TEXT * len(span.stage.kind)
                else "",
                title=f"{planting.name}: {span.stage.kind.replace('-', ' ')} {_say(span.starts)} to {_say(span.ends)}",
            )
            for span in found
            if span.starts < gone and x(min(span.ends, gone)) > x(span.starts)
        ]
        bears = harvest(found, crop)
        marks = [
            (
                x(item.on),
                f"{'held at' if item.how == 'hold' else 'cut to'} {item.height_m * 100:.0f} cm, {_say(item.on)}",
            )
            for item in planting.trainings
        ]
        for plant in space.plants:
            if plant.planting_id == planting.id and (plant.until_day or plant.from_day):
                when, word = (plant.until_day, "moves on") if plant.until_day else (plant.from_day, "moved in")
                marks.append((x(when), f"{word} {_say(when)}"))  # type: ignore[arg-type]
                break
        title = f"harvest {_say(bears.earliest)} to {_say(bears.latest)}" if bears else ""
        rows.append(
            SeasonRow(
                planting_id=planting.id,
                name=planting.name,
                short=_short(planting.name),
                y=number * ROW,
                segments=tuple(segments),
                harvest=(x(bears.earliest), max(x(bears.earliest) + 2, x(bears.latest))) if bears else None,
                harvest_title=title,
                marks=tuple(marks),
                says="; ".join([*(item.title.partition(": ")[2] for item in segments), *([title] if title else [])]),
            )
        )
    return Season(
        rows=tuple(rows),
        ticks=_ticks(first, days, per),
        height=len(rows) * ROW,
        first=first,
        days=days,
        at=(day - first).days,
        x=x(day),
        day=day,
    )


def _short(name: str) -> str:
    return name if len(name) <= _NAME else f"{name[: _NAME - 1]}…"


def _say(day: dt.date) -> str:
    return f"{day.day} {day:%b %Y}"


def _ticks(first: dt.date, days: int, per: float) -> tuple[Tick, ...]:
    found: list[Tick] = []
    every = 1 if days < 420 else 2
    month = first.replace(day=1)
    while True:
        month = (month + dt.timedelta(days=32)).replace(day=1)
        ahead = (month - first).days
        if ahead > days:
            return tuple(found)
        if (month.month - 1) % every == 0:
            text = f"{month:%b}" if month.month > 1 else f"{month:%b %Y}"
            found.append(Tick(x=round(ahead * per, 1), text=text))
