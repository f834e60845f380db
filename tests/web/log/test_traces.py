"""Traces: what ran when, and a year at a glance."""

from __future__ import annotations

import datetime as dt

import numpy as np
import pytest

from canopy.logs.daily import by_hour
from canopy_web.logbook.readings import keep_readings, sensor_for

pytestmark = pytest.mark.django_db


def test_what_ran_is_told_by_the_plan_and_by_what_plugs_drew(mine, house, log):
    sensor = sensor_for(house, "berry-tent", "power_w", "Fan's plug")
    begin = int(dt.datetime(2026, 11, 20, tzinfo=dt.UTC).timestamp())
    at = np.arange(begin, begin + 86400, 300)
    hours = (at - begin) / 3600
    on = ((hours >= 2) & (hours < 5)) | (hours >= 20)
    # Nothing was read from six to nine: what it did then is not known.
    rows = [(sensor.pk, int(s), 14.0 if o else 0.2) for s, o, h in zip(at, on, hours, strict=True) if not 6 <= h < 9]
    keep_readings(rows)
    runs = mine.get(f"{log}series.json", {"span": "day", "until": begin + 86400}).json()["runs"]
    found = {run["name"]: run["spans"] for run in runs}
    measured = [((a - begin) / 3600, (b - begin) / 3600) for a, b in found["Fan's plug, measured"]]
    assert measured == [(2, 5), (20, 24)]
    planned = [((a - begin) / 3600, (b - begin) / 3600) for a, b in found["Lamps, by plan"]]
    assert planned == [(6, 20.5)]


def test_what_always_draws_always_runs_and_what_is_silent_is_not_told(mine, house, log):
    sensor = sensor_for(house, "berry-tent", "power_w", "Fan's plug")
    begin = int(dt.datetime(2026, 11, 20, tzinfo=dt.UTC).timestamp())
    parts = [*range(begin, begin + 7200, 300), *range(begin + 36000, begin + 43200, 300)]
    keep_readings([(sensor.pk, at, 14.0) for at in parts])
    runs = mine.get(f"{log}series.json", {"span": "day", "until": begin + 86400}).json()["runs"]
    spans = next(run["spans"] for run in runs if run["name"].startswith("Fan"))
    assert spans == [[begin, begin + 7200], [begin + 36000, begin + 43200]]


def test_a_year_at_a_glance_has_a_row_a_day_and_an_hour_a_column(mine, house, log, week):
    grids = {grid["name"]: grid for grid in mine.get(f"{log}glance.json").json()["grids"]}
    assert set(grids) == {"air_c", "rh_pct", "VPD, from air and humidity"}
    air = grids["air_c"]
    assert air["first"] == "2026-11-20"
    assert len(air["rows"]) == 7
    begin = week // 3600
    assert air["rows"][0] == [21.0 + (begin + hour) % 5 for hour in range(24)]
    # Saturation at 21 °C is 2.49 kPa, of which 45 % is missing (ASHRAE).
    cold = air["rows"][0].index(21.0)
    assert grids["VPD, from air and humidity"]["rows"][0][cold] == pytest.approx(1.12, abs=0.01)


def test_nothing_was_read_leaves_a_glance_bare(mine, house, log):
    assert mine.get(f"{log}glance.json").json() == {"grids": []}


def test_hours_are_told_by_the_households_clock_and_a_leap_leaves_a_hole():
    from zoneinfo import ZoneInfo

    zone = ZoneInfo("Europe/Lisbon")
    begin = int(dt.datetime(2026, 3, 29, tzinfo=dt.UTC).timestamp())
    at = np.arange(begin, begin + 23 * 3600, 600)
    first, grid = by_hour(at, np.arange(at.size, dtype=float), zone)
    assert first == dt.date(2026, 3, 29)
    assert grid.shape == (1, 24)
    assert np.isnan(grid[0]).tolist() == [hour == 1 for hour in range(24)]
    none, empty = by_hour(np.zeros(0, dtype=np.int64), np.zeros(0), zone)
    assert none is None
    assert empty.shape == (0, 24)
