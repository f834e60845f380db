"""Work and lamps' hours as an iCalendar (RFC 5545): the same event for the same work, whenever it is written anew."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

from icalendar import Alarm, Calendar, Event, Timezone, vDuration, vRecur

from canopy.care.due import Due, due
from canopy.care.job import Job
from canopy.logs.facts import CareMark as Mark
from canopy.plan.document import Fixture, Plan, Space
from canopy.quantities import Reader
from canopy.schedule import Daily

PRODUCT = "-//Mild Canopy//Care and hours//EN"
# Changes are numbered by the minutes since then: a later state of a plan has the higher number.
_EPOCH = dt.datetime(2026, 1, 1, tzinfo=dt.UTC)
_UNNAMED = "household"


@dataclass(frozen=True, kw_only=True)
class Stamp:
    """When a plan's state was made (in UTC) and the household's time zone; without one, times hold wherever one is."""

    made: dt.datetime
    zone: str = ""

    @property
    def sequence(self) -> int:
        """The number of the change."""
        return max(0, int((self.made - _EPOCH).total_seconds() // 60))

    def at(self, day: dt.date, clock: str) -> dt.datetime:
        """Give a time of a day on the household's clock.

        Parameters
        ----------
        day : the day
        clock : such as "06:30"

        Returns
        -------
        datetime : in its time zone, or in none
        """
        hour, minute = (int(part) for part in clock.split(":"))
        zone = ZoneInfo(self.zone) if self.zone else None
        return dt.datetime(day.year, day.month, day.day, hour, minute, tzinfo=zone)


@dataclass(frozen=True, kw_only=True)
class Rang:
    """An alert that rang: its own key, where, what, when it rang and was over (in UTC; None while it lasts), and
    whether the calendar tells it loudly.
    """

    key: str
    where: str
    words: str
    rang: dt.datetime
    over: dt.datetime | None = None
    loud: bool = True


def calendar_name(plan: Plan) -> str:
    """Name a plan to calendars.

    Returns
    -------
    str : its key; its name in plain letters where it has none yet
    """
    return plan.key or re.sub(r"[^a-z0-9]+", "-", plan.name.lower()).strip("-")[:40] or _UNNAMED


def written(
    plan: Plan,
    jobs: Iterable[Job],
    begins: dt.date,
    days: int,
    stamp: Stamp,
    *,
    marks: Iterable[Mark] = (),
    reader: str | Reader = "metric",
    lamps: bool = True,
    rang: Iterable[Rang] = (),
) -> bytes:
    """Write a household's work and its lamps' hours as an iCalendar.

    Parameters
    ----------
    plan : the household
    jobs : its work
    begins : first day
    days : how many, 1 or more [d]
    stamp : when the plan's state was made, and the clock
    marks : what was done, skipped and put off
    reader : whose units the words are in
    lamps : with an event for each space's lamps
    rang : alerts that rang

    Returns
    -------
    bytes : UTF-8; events that recur are one event with a rule, and those put off stand by themselves
    """
    to = begins + dt.timedelta(days=days - 1)
    book = Calendar()
    book.add("prodid", PRODUCT)
    book.add("version", "2.0")
    book.add("calscale", "GREGORIAN")
    book.add("method", "PUBLISH")
    book.add("x-wr-calname", plan.name)
    book.add("name", plan.name)
    book.add("refresh-interval", vDuration(dt.timedelta(hours=12)), parameters={"VALUE": "DURATION"})
    if stamp.zone:
        book.add("x-wr-timezone", stamp.zone)
        book.add_component(_clock_of(stamp.zone, begins, to))
    for event in _work(plan, jobs, begins, to, stamp, tuple(marks), reader):
        book.add_component(event)
    if lamps:
        for space in plan.spaces:
            for event in _lamps(plan, space, begins, to, stamp):
                book.add_component(event)
    for alert in rang:
        book.add_component(_alert(plan, alert, stamp))
    found: bytes = book.to_ical()
    return found


def _clock_of(zone: str, begins: dt.date, to: dt.date) -> Timezone:
    """The zone's changes of the clock from the year before to the year after, each on the wall as it was before."""
    first, last = dt.date(begins.year - 1, 1, 1), dt.date(to.year + 2, 1, 1)
    found = Timezone.from_tzid(zone, first_date=first, last_date=last)
    parts: list[Any] = list(found.subcomponents)
    for part in parts:
        forward = part["tzoffsetto"].td - part["tzoffsetfrom"].td
        if forward > dt.timedelta(0):
            # The library writes the hour after the change; RFC 5545, 3.6.5 asks for the one before.
            part["dtstart"].dt -= forward
            for day in part["rdate"].dts if "rdate" in part else ():
                day.dt -= forward
    return found


def _event(plan: Plan, key: str, summary: str, where: str, stamp: Stamp) -> Event:
    event = Event()
    event.add("uid", f"{key}@{calendar_name(plan)}.mild-canopy")
    event.add("summary", summary)
    event.add("location", where)
    event.add("dtstamp", stamp.made)
    event.add("last-modified", stamp.made)
    event.add("sequence", stamp.sequence)
    return event


def _work(
    plan: Plan,
    jobs: Iterable[Job],
    begins: dt.date,
    to: dt.date,
    stamp: Stamp,
    marks: tuple[Mark, ...],
    reader: str | Reader,
) -> Iterator[Event]:
    for item in jobs:
        found = due([item], marks, begins, to)
        if not found:
            continue
        parted = _runs(found, item)
        for number, run in enumerate(parted):
            key = item.key if number == 0 else f"{item.key}.{run[0].due:%Y%m%d}"
            event = _event(plan, key, f"{item.where}: {item.title}", item.where, stamp)
            starts = stamp.at(run[0].day, item.at)
            event.add("dtstart", starts)
            event.add("duration", dt.timedelta(minutes=item.minutes))
            if len(run) > 1:
                # Counted, not ended by a time: the same in every time zone and on days that are an hour longer.
                event.add("rrule", vRecur(freq="daily", interval=item.every_days, count=len(run)))
            event.add("description", _told(item, reader))
            event.add("categories", [item.kind.name])
            event.add("transp", "TRANSPARENT")
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", f"{item.where}: {item.title}")
            alarm.add("trigger", dt.timedelta(0))
            event.add_component(alarm)
            yield event


def _runs(found: tuple[Due, ...], item: Job) -> list[list[Due]]:
    """Part days into runs at the job's own interval: what was put off breaks it."""
    runs: list[list[Due]] = []
    for one in found:
        apart = (one.day - runs[-1][-1].day).days if runs else None
        if apart is not None and apart == item.every_days:
            runs[-1].append(one)
        else:
            runs.append([one])
    return runs


def _told(item: Job, reader: str | Reader) -> str:
    parts = (item.what.say(reader), item.kind.text, item.why.say(reader))
    return "\n".join(part for part in parts if part)


def _alert(plan: Plan, alert: Rang, stamp: Stamp) -> Event:
    """An event from when it rang until it was over, half an hour at least."""
    event = _event(plan, f"alert.{alert.key}", f"{alert.where}: {alert.words}", alert.where, stamp)
    least = alert.rang + dt.timedelta(minutes=30)
    event.add("dtstart", alert.rang)
    event.add("dtend", max(least, alert.over or least))
    event.add("description", "Over." if alert.over is not None else "It lasts, as far as is known.")
    event.add("categories", ["Alerts"])
    event.add("transp", "TRANSPARENT")
    if alert.loud:
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", f"{alert.where}: {alert.words}")
        alarm.add("trigger", dt.timedelta(0))
        event.add_component(alarm)
    return event


def _lamps(plan: Plan, space: Space, begins: dt.date, to: dt.date, stamp: Stamp) -> Iterator[Event]:
    """One event for lamps that share their hours; it keeps its name while the first of them does."""
    together: dict[Daily, list[Fixture]] = {}
    for lamp in space.fixtures:
        item = lamp.schedule
        if lamp.enabled and isinstance(item, Daily) and item.start is not None and 0 < item.hours < 24:
            together.setdefault(item, []).append(lamp)
    for item, lamps in together.items():
        event = _event(plan, f"{space.id}.lamps.{lamps[0].id}", f"{space.name}: lamps on", space.name, stamp)
        event.add("dtstart", stamp.at(begins, str(item.start)))
        event.add("duration", dt.timedelta(hours=item.hours))
        event.add("rrule", vRecur(freq="daily", count=(to - begins).days + 1))
        names = ", ".join(dict.fromkeys(lamp.spec.name for lamp in lamps))
        event.add("description", f"{names}: {item.hours:g} h from {item.start}")
        event.add("categories", ["Lamps"])
        event.add("transp", "TRANSPARENT")
        yield event
