"""The iCalendar: read by another library than wrote it, by the rules of RFC 5545, over both changes of the clock."""

import datetime as dt
import re
import subprocess
import sys
import warnings
from io import StringIO
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
import vobject
from dateutil import tz

from canopy.care import care_of, due
from canopy.care.ics import Stamp, calendar_name, written
from canopy.care.job import job
from canopy.cli import main
from canopy.evaluate import evaluate_space
from canopy.logs.facts import CareMark
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from tests.conftest import DEMO

ZONE = "Europe/Lisbon"
MADE = dt.datetime(2026, 3, 14, 12, 0, tzinfo=dt.UTC)


@pytest.fixture(scope="module")
def work(demo_plan):
    reports = [
        evaluate_space(demo_plan, space, day=demo_plan.date, with_map=False, follow=True) for space in demo_plan.spaces
    ]
    return care_of(reports, demo_plan.date)


def _written(plan, jobs, days=365, made=MADE, begins=None, **more):
    return written(plan, jobs, begins or plan.date, days, Stamp(made=made, zone=more.pop("zone", ZONE)), **more)


def _read(text):
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        book = vobject.readOne(text.decode())
        book.validate(raiseException=True)
        return {event.uid.value: event for event in book.vevent_list}


def test_another_library_reads_the_same_days(demo_plan, work):
    events = _read(_written(demo_plan, work))
    for item in work:
        mine = [d.day for d in due([item], [], demo_plan.date, demo_plan.date + dt.timedelta(days=364))]
        if not mine:
            continue
        event = events[f"{item.key}@larkspur-lane.mild-canopy"]
        starts = list(event.rruleset) if event.rruleset else [event.dtstart.value]
        assert [start.date() for start in starts] == mine, item.key
        assert {start.strftime("%H:%M") for start in starts} == {item.at}
        assert event.valarm.trigger.value == dt.timedelta(0)


def test_it_keeps_the_rules_of_the_format(demo_plan, work):
    text = _written(demo_plan, work)
    assert text.endswith(b"END:VCALENDAR\r\n")
    lines = text.split(b"\r\n")
    assert max(map(len, lines)) <= 75
    assert b"\n" not in text.replace(b"\r\n", b"")
    events = text.decode().split("BEGIN:VEVENT")[1:]
    for event in events:
        for name in ("UID", "DTSTAMP", "DTSTART", "SUMMARY", "SEQUENCE", "LAST-MODIFIED"):
            assert len(re.findall(rf"^{name}[;:]", event, re.M)) == 1
        assert re.search(r"^DTSTAMP:\d{8}T\d{6}Z", event, re.M)
        assert re.search(rf"^DTSTART;TZID={ZONE}:", event, re.M)
    uids = re.findall(r"^UID:(.*)\r", text.decode(), re.M)
    assert len(set(uids)) == len(uids) == len(events)
    assert text.count(b"BEGIN:VTIMEZONE") == 1


def test_a_later_state_changes_the_same_events(demo_plan, work):
    lamp = "berry-tent.lamps.lamp-1@larkspur-lane.mild-canopy"
    before = _read(_written(demo_plan, work))
    acts = [
        Change(collection="fixtures", part_id=key, values={"schedule.start": "09:00"}) for key in ("lamp-1", "lamp-2")
    ]
    after = _read(_written(apply(demo_plan, "berry-tent", acts), work, made=MADE + dt.timedelta(hours=2)))
    assert set(after) == set(before)
    assert (before[lamp].dtstart.value.hour, after[lamp].dtstart.value.hour) == (6, 9)
    assert int(after[lamp].sequence.value) == int(before[lamp].sequence.value) + 120


@pytest.mark.parametrize("zone", [ZONE, "America/New_York", "Australia/Sydney", "Asia/Tokyo", "America/Sao_Paulo"])
def test_the_clock_it_carries_is_that_of_the_zone(demo_plan, work, zone):
    text = _written(demo_plan, work, zone=zone).decode()
    carried, known = tz.tzical(StringIO(text)).get(zone), ZoneInfo(zone)
    instant = dt.datetime(2026, 3, 1, 0, 30, tzinfo=dt.UTC)
    for _ in range(24 * 360):
        instant += dt.timedelta(hours=1)
        assert instant.astimezone(carried).utcoffset() == instant.astimezone(known).utcoffset(), instant


@pytest.mark.parametrize("begins", [dt.date(2026, 3, 27), dt.date(2026, 10, 23)], ids=["23 h", "25 h"])
def test_the_hour_on_the_wall_stays_when_the_clock_changes(demo_plan, begins):
    item = job(demo_plan.spaces[0], "water", begins, every_days=1)
    text = _written(demo_plan, [item], 6, begins=begins, lamps=False)
    event = _read(text)[f"{item.key}@larkspur-lane.mild-canopy"]
    starts = [start.replace(tzinfo=None) for start in event.rruleset]
    assert starts == [dt.datetime.combine(begins, dt.time(9)) + dt.timedelta(days=n) for n in range(6)]
    carried = tz.tzical(StringIO(text.decode())).get(ZONE)
    apart = {
        (two.replace(tzinfo=carried).astimezone(dt.UTC) - one.replace(tzinfo=carried).astimezone(dt.UTC))
        for one, two in pairwise(starts)
    }
    assert len(apart) == 2
    assert apart < {dt.timedelta(hours=hours) for hours in (23, 24, 25)}


def test_a_time_that_the_spring_leaves_out_still_has_its_day(demo_plan):
    begins = dt.date(2026, 3, 28)
    item = job(demo_plan.spaces[0], "water", begins, every_days=1)
    odd = type(item)(**{**item.__dict__, "at": "01:30"})
    event = _read(_written(demo_plan, [odd], 3, begins=begins, lamps=False))[f"{item.key}@larkspur-lane.mild-canopy"]
    assert len(list(event.rruleset)) == 3


def test_without_a_zone_times_hold_wherever_one_is(demo_plan, work):
    text = _written(demo_plan, work, zone="")
    assert b"TZID" not in text
    assert b"VTIMEZONE" not in text
    assert re.search(rb"DTSTART:\d{8}T\d{6}\r", text)


def test_what_was_put_off_stands_beside_its_row(demo_plan):
    item = job(demo_plan.spaces[0], "scout", demo_plan.date)
    first = demo_plan.date
    moved = CareMark(family=item.family, due=first, what="postponed", on=first + dt.timedelta(days=2))
    events = _read(_written(demo_plan, [item], 30, lamps=False, marks=[moved]))
    days = sorted(s.date() for e in events.values() for s in (list(e.rruleset) if e.rruleset else [e.dtstart.value]))
    assert [(day - first).days for day in days] == [2, 9, 16, 23]


def test_a_plan_without_a_key_goes_by_its_name(demo_plan):
    unnamed = demo_plan.model_copy(update={"key": "", "name": "Überm Hof, 3!"})
    assert calendar_name(unnamed) == "berm-hof-3"
    assert calendar_name(demo_plan) == "larkspur-lane"


def test_the_command_prints_what_the_pages_write():
    out = subprocess.run(
        [sys.executable, "-m", "canopy.cli", "calendar", str(DEMO), "--from", "2026-03-14", "--days", "30"],
        capture_output=True,
        check=True,
    )
    assert len(_read(out.stdout)) > 10


@pytest.mark.parametrize("wrong", ["0", "5000", "x"])
def test_the_command_refuses_days_that_cannot_be(wrong, capsys):
    with pytest.raises(SystemExit) as ended:
        main(["calendar", str(DEMO), "--days", wrong])
    assert ended.value.code == 2
    assert "--days" in capsys.readouterr().err
