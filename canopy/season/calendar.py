"""When a planting enters and leaves each stage, and when there is something to harvest."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Literal

from canopy.errors import LibraryError
from canopy.library import BEARING, YOUNG, Crop, FirstHarvest, StageTargets
from canopy.plan.plants import Planting

HORIZON_DAYS = 1100


@dataclass(frozen=True, kw_only=True)
class StageSpan:
    """A stage of a planting: from ``starts`` up to, not including, ``ends``; its end may fall ``earliest`` to
    ``latest``.
    """

    stage: StageTargets
    starts: dt.date
    ends: dt.date
    earliest: dt.date
    latest: dt.date
    open_ended: bool = False

    def holds(self, day: dt.date) -> bool:
        """Say whether a day lies in this stage.

        Returns
        -------
        bool : True from its first day on, and after its last when the stage is open-ended
        """
        return self.starts <= day and (self.open_ended or day < self.ends)


@dataclass(frozen=True, kw_only=True)
class Harvest:
    """When there is something to take: one day within a range, or all days of a stretch that begins within a range.

    ``what`` says as what (green), ``riper`` from when it may be had as something else (ripe), and as what.
    """

    kind: Literal["once", "cut-again", "picking", "transplant"]
    earliest: dt.date
    likely: dt.date
    latest: dt.date
    until: dt.date | None = None
    what: str = ""
    riper: tuple[dt.date, str] | None = None


def _stages(planting: Planting, crop: Crop) -> list[StageTargets]:
    first = planting.first_stage or crop.stages[0].kind
    kinds: list[str] = [stage.kind for stage in crop.stages]
    if first not in kinds:
        raise LibraryError(f"{crop.name} has no stage “{first}”: use {', '.join(kinds)}")
    return list(crop.stages[kinds.index(first) :])


def spans(planting: Planting, crop: Crop) -> tuple[StageSpan, ...]:
    """Lay a planting's stages out on dates.

    Parameters
    ----------
    planting : its first day, first stage, and stage lengths of the person's own
    crop : the crop's stages with their ranges of days

    Returns
    -------
    tuple of StageSpan : in order; the last is open-ended for plants that are kept, and plants with a rest go round

    Raises
    ------
    LibraryError : the crop has no such first stage

    Notes
    -----
    Without a length of one's own a stage lasts the middle of its range; earliest and latest ends add up all lows and
    all highs (the ranges are taken to go together: a slow crop is slow throughout).
    """
    row, found = _stages(planting, crop), []
    goes_round = crop.stages[-1].kind == "rest" and crop.harvest in ("keep", "picking") and len(crop.stages) > 1
    day, early, late, number = planting.starts_on, planting.starts_on, planting.starts_on, 0
    while row:
        stage = row.pop(0)
        own = planting.stage_days.get(stage.kind)
        days = own or round((stage.days.low + stage.days.high) / 2)
        early += dt.timedelta(days=own or round(stage.days.low))
        late += dt.timedelta(days=own or round(stage.days.high))
        ends = day + dt.timedelta(days=days)
        last = not row and not goes_round
        found.append(
            StageSpan(
                stage=stage,
                starts=day,
                ends=ends,
                earliest=early,
                latest=late,
                open_ended=last and crop.harvest in ("keep", "picking", "cut-again"),
            )
        )
        day, number = ends, number + 1
        if not row and goes_round and (day - planting.starts_on).days < HORIZON_DAYS and number < 40:
            grown = [s for s in crop.stages if s.kind in ("vegetative", "flower", "fruit", "rest")]
            row = grown or list(crop.stages)
    return tuple(found)


def span_on(found: tuple[StageSpan, ...], day: dt.date) -> StageSpan | None:
    """Give the stage a planting is in on a day.

    Parameters
    ----------
    found : its stages

    Returns
    -------
    StageSpan : the last one when all are over; None before the first day
    """
    if day < found[0].starts:
        return None
    return next((span for span in found if span.holds(day)), found[-1])


def harvest(found: tuple[StageSpan, ...], crop: Crop) -> Harvest | None:
    """Give when a planting bears or is ready.

    Parameters
    ----------
    found : its stages

    Returns
    -------
    Harvest : with its range; None for plants that are kept for their looks

    Notes
    -----
    By the crop's own days to first harvest, from sowing or from planting out, less the stages that were skipped, and
    moved by lengths of stages of the person's own. Without such days (a crop of one's own) a crop taken once is ready
    at the end of its last growing stage, one that is cut or picked a third into it.
    """
    if crop.harvest == "keep":
        return None
    growing = [span for span in found if span.stage.kind != "rest"]
    if not growing:
        return None
    last = growing[-1] if crop.harvest in ("once", "transplant") else _first_bearing(growing)
    rows = _days_from(found[0], crop)
    if rows:
        return _by_days(rows, found, last, crop)
    slack_early, slack_late = last.ends - last.earliest, last.latest - last.ends
    if crop.harvest in ("once", "transplant"):
        return Harvest(
            kind=crop.harvest, earliest=last.ends - slack_early, likely=last.ends, latest=last.ends + slack_late
        )
    likely = last.starts + (last.ends - last.starts) / 3
    third = dt.timedelta(days=round((last.latest - last.earliest).days / 3))
    return Harvest(
        kind=crop.harvest,
        earliest=likely - min(slack_early, third),
        likely=likely,
        latest=likely + min(slack_late, third),
        until=last.ends,
    )


def _usual_days(stage: StageTargets) -> int:
    return round((stage.days.low + stage.days.high) / 2)


def _days_from(first: StageSpan, crop: Crop) -> list[tuple[FirstHarvest, int]]:
    """The crop's days to first harvest that hold for how this planting began, and the days it had behind it then."""
    kinds = [stage.kind for stage in crop.stages]
    begun = kinds.index(first.stage.kind)
    grown = next((n for n, kind in enumerate(kinds) if kind not in YOUNG), 0)
    sown = [row for row in crop.first_harvest if row.since == "sown"]
    planted = [row for row in crop.first_harvest if row.since == "planted"]
    rows, from_stage = (planted, grown if sown else 0) if planted and (begun >= grown or not sown) else (sown, 0)
    behind = sum(_usual_days(stage) for stage in crop.stages[from_stage:begun])
    return [(row, behind) for row in rows]


def _by_days(
    rows: list[tuple[FirstHarvest, int]], found: tuple[StageSpan, ...], last: StageSpan, crop: Crop
) -> Harvest:
    """Lay days to first harvest out on dates."""
    assert crop.harvest != "keep"
    once = crop.harvest in ("once", "transplant")
    passed = [span for span in found if span.starts < last.starts or (once and span is last)]
    moved = sum((span.ends - span.starts).days - _usual_days(span.stage) for span in passed)

    def on(days: float, behind: int) -> dt.date:
        return found[0].starts + dt.timedelta(days=max(0, round(days - behind + moved)))

    (first, behind), *later = rows
    likely = on((first.days.low + first.days.high) / 2, behind)
    return Harvest(
        kind=crop.harvest,
        earliest=on(first.days.low, behind),
        likely=likely,
        latest=on(first.days.high, behind),
        until=None if once else max(last.ends, likely + dt.timedelta(days=1)),
        what=first.what,
        riper=(on(later[0][0].days.low, later[0][1]), later[0][0].what) if later else None,
    )


def _first_bearing(growing: list[StageSpan]) -> StageSpan:
    """The first span of the stage that bears: fruit, or else the last kind of growth there is."""
    kinds = [span.stage.kind for span in growing]
    bearing = next((kind for kind in BEARING if kind in kinds), kinds[-1])
    return next(span for span in growing if span.stage.kind == bearing)


def reach(all_spans: list[tuple[StageSpan, ...]]) -> tuple[dt.date, dt.date] | None:
    """Give the first and the last day of several plantings.

    Parameters
    ----------
    all_spans : each planting's stages

    Returns
    -------
    (date, date) : None when there are none
    """
    if not all_spans:
        return None
    return min(found[0].starts for found in all_spans), max(found[-1].ends for found in all_spans)
