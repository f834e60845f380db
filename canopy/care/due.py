"""What is due on which day, by what was done, skipped and put off."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from canopy.care.job import Job
from canopy.logs.facts import CareMark as Mark

# What nobody did is asked for so long, if it does not float [d].
_ASKED_D = 14
_DAY = dt.timedelta(days=1)


@dataclass(frozen=True, kw_only=True)
class Due:
    """A job on a day; ``due`` is the day it was first meant for, ``late`` that this day has passed."""

    job: Job
    day: dt.date
    due: dt.date
    late: bool = False


def due(
    jobs: Iterable[Job], marks: Iterable[Mark], today: dt.date, to: dt.date, begins: dt.date | None = None
) -> tuple[Due, ...]:
    """Lay jobs out on the days to come.

    Parameters
    ----------
    jobs : of one household
    marks : what became of those that were due, the later ones last
    today : what is due before it and not done stands on it, late
    to : last day
    begins : first day to tell; today when None

    Returns
    -------
    tuple of Due : by day, then by time of the day and place; a floating job stands late at most once
    """
    known: dict[str, list[Mark]] = {}
    for mark in marks:
        if mark.struck:
            continue
        known.setdefault(mark.family, []).append(mark)
    begins = begins or today
    found: list[Due] = []
    for item in jobs:
        mine = known.get(item.family, [])
        found += _floating(item, mine, today, to) if item.floats else _fixed(item, mine, today, to)
    found = [item for item in found if begins <= item.day <= to]
    return tuple(sorted(found, key=lambda item: (item.day, not item.late, item.job.at, item.job.where, item.job.key)))


def next_day(item: Job, marks: Iterable[Mark]) -> dt.date | None:
    """Give the day on which a floating job is due next, whatever day it is today.

    Parameters
    ----------
    marks : of its family, what was struck among them

    Returns
    -------
    date : None where it was done and comes only once, or its time is over
    """
    mine = [mark for mark in marks if mark.family == item.family and not mark.struck]
    settled = [mark for mark in mine if mark.what != "postponed"]
    day = item.first
    if settled:
        last = max(mark.on if mark.what == "done" else mark.due for mark in settled)
        if item.every_days is None:
            if last >= item.first - dt.timedelta(days=_ASKED_D):
                return None
        else:
            # What was done before this job began (another month's interval) still counts.
            day = max(item.first, last + dt.timedelta(days=item.every_days))
            if last < item.first and item.key != item.family:
                day = max(item.first, min(day, item.first + dt.timedelta(days=item.every_days - 1)))
    return None if item.until is not None and day > item.until else day


def _put_off(marks: Iterable[Mark], day: dt.date) -> dt.date:
    """Where a day's work was put off to, step by step; the day itself if it was not."""
    to = {mark.due: mark.on for mark in marks if mark.what == "postponed"}
    return to.get(day, day)


def _floating(item: Job, marks: list[Mark], today: dt.date, to: dt.date) -> list[Due]:
    day = next_day(item, marks)
    if day is None:
        return []
    moved = _put_off(marks, day)
    over = item.until is not None and item.until < today
    if over and moved < today:
        return []
    late = moved < today
    found = [Due(job=item, day=max(moved, today), due=day, late=late)]
    if item.every_days is None:
        return found
    later = found[0].day + dt.timedelta(days=item.every_days)
    last = min(to, item.until) if item.until else to
    while later <= last:
        found.append(Due(job=item, day=later, due=later))
        later += dt.timedelta(days=item.every_days)
    return found


def _fixed(item: Job, marks: list[Mark], today: dt.date, to: dt.date) -> list[Due]:
    settled = {mark.due for mark in marks if mark.what != "postponed"}
    found = []
    for day in item.on(today - _ASKED_D * _DAY, to):
        if day in settled:
            continue
        moved = _put_off(marks, day)
        found.append(Due(job=item, day=max(moved, today), due=day, late=moved < today))
    return found


def by_day(found: Iterable[Due]) -> Mapping[dt.date, tuple[Due, ...]]:
    """Gather what is due by its day.

    Parameters
    ----------
    found : in order

    Returns
    -------
    dict : the days on which something is due, in order
    """
    out: dict[dt.date, list[Due]] = {}
    for item in found:
        out.setdefault(item.day, []).append(item)
    return {day: tuple(items) for day, items in out.items()}
