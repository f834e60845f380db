"""Stand-ins for sensors: weather, probes, and a household that is not quite as planned."""

import datetime as dt
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from canopy.standins.house import House, history
from canopy.standins.probes import Probe, shown
from canopy.standins.truth import FAN, LAMPS, Truth
from canopy.standins.weather import in_room, outdoors

DAY = dt.date(2026, 3, 14)


def house(plan, **more):
    return House(plan=plan, zone=ZoneInfo("UTC"), since=DAY, rich=frozenset({"berry-tent"}), **more)


@pytest.fixture(scope="module")
def planned(demo_plan):
    made = house(demo_plan)
    return made, made.lived(demo_plan.space("berry-tent"), DAY)


@pytest.fixture(scope="module")
def really(demo_plan):
    made = house(demo_plan, truths={"berry-tent": Truth(moves=0.6, leaks=1.0, shines=0.9)})
    return made, made.lived(demo_plan.space("berry-tent"), DAY)


# Weather


def test_a_stretch_of_weather_is_the_same_however_it_is_asked_for():
    week = outdoors(7, 50.0, DAY, 7 * 24)
    later = outdoors(7, 50.0, DAY + dt.timedelta(days=2), 24)
    assert np.allclose(week.temperature_c[48:72], later.temperature_c)
    assert np.allclose(week.rh_pct[48:72], later.rh_pct)
    assert not np.allclose(outdoors(8, 50.0, DAY, 24).temperature_c, week.temperature_c[:24])


def test_a_year_of_it_has_seasons_and_days_and_passes_no_bound():
    year = outdoors(7, 50.0, dt.date(2026, 1, 1), 365 * 24)
    july, january = year.temperature_c[4344:5088].mean(), year.temperature_c[:744].mean()
    assert 11 < july - january < 22
    south = outdoors(7, -50.0, dt.date(2026, 1, 1), 365 * 24).temperature_c
    assert south[4344:5088].mean() < south[:744].mean()
    by_hour = year.temperature_c.reshape(365, 24).mean(axis=0)
    assert 13 <= by_hour.argmax() <= 17
    assert year.rh_pct.min() >= 15
    assert year.rh_pct.max() <= 100
    # Days hang together: the step from one hour to the next is small beside the year's spread.
    assert np.abs(np.diff(year.temperature_c)).max() < 2.0


def test_a_heated_room_feels_a_little_of_it(demo_plan):
    room = demo_plan.rooms[0]
    out = outdoors(7, 50.0, DAY, 30 * 24)
    inside = in_room(room, out, 7, 50.0, 0.0)
    assert abs(inside.temperature_c.mean() - (14 * room.day_c + 10 * room.night_c) / 24) < 1.2
    assert inside.temperature_c.std() < out.temperature_c.std()


# Probes


def test_a_probe_shows_the_same_whenever_it_is_asked():
    probe = Probe(name="air", quantity="air_c", noise=0.2, step=0.1)
    true = np.full(1440, 21.0)
    assert np.array_equal(shown(probe, true, 5, 0, 7), shown(probe, true, 5, 0, 7), equal_nan=True)
    assert not np.array_equal(shown(probe, true, 6, 0, 7), shown(probe, true, 5, 0, 7), equal_nan=True)


def test_its_offset_drift_noise_and_steps_are_what_they_are_said_to_be():
    days = np.concatenate(
        [shown(Probe(name="p", quantity="air_c", noise=0.3), np.full(1440, 20.0), day, 0, 7) for day in range(40)]
    )
    assert np.nanmean(days) == pytest.approx(20.0, abs=0.02)
    assert np.nanstd(days) == pytest.approx(0.3, rel=0.05)
    off = Probe(name="p", quantity="air_c", offset=0.5, drift_a_day=0.1, step=0.25)
    assert set(np.unique(shown(off, np.full(1440, 20.0), 10, 0, 7))) - {np.nan} >= {21.5}


def test_a_slow_probe_follows_by_its_own_time():
    step = np.where(np.arange(1440) < 100, 20.0, 30.0)
    slow = Probe(name="slow", quantity="air_c", lag_min=10, silent_a_day=0)
    seen = shown(slow, step, 1, 0, 7)
    # After one of its times it has 1 − 1/e of the way behind it.
    assert seen[109] == pytest.approx(20 + 10 * (1 - np.exp(-1)), abs=0.05)


def test_it_is_silent_at_times_and_sticks_now_and_then():
    probe = Probe(name="p", quantity="air_c", noise=0.5, silent_a_day=2)
    days = [shown(probe, np.full(1440, 20.0), day, 0, 7) for day in range(18)]
    assert 0.005 < np.mean([np.isnan(day).mean() for day in days]) < 0.05
    stuck = [np.any([np.all(day[k : k + 60] == day[k]) for k in range(0, 1380, 30)]) for day in days]
    assert sum(stuck) == 2


# A space as it really is


def test_a_weaker_fan_makes_it_damper_and_warmer_and_older_lamps_darker(planned, really):
    (_, plan), (_, true) = planned, really
    noon = slice(660, 780)
    assert true.measured["rh_pct"][noon].mean() > plan.measured["rh_pct"][noon].mean() + 1
    assert true.measured["ppfd"][noon].mean() == pytest.approx(0.9 * plan.measured["ppfd"][noon].mean(), rel=1e-6)
    # The lamps draw what they drew.
    assert np.array_equal(true.watts[LAMPS], plan.watts[LAMPS])
    assert plan.watts[LAMPS][720] == pytest.approx(186, abs=1)


def test_one_day_leads_into_the_next(planned, demo_plan):
    made, today = planned
    tomorrow = made.lived(demo_plan.space("berry-tent"), DAY + dt.timedelta(days=1))
    for key, most in (("air_c", 0.3), ("rh_pct", 1.5), ("root_c", 0.4)):
        assert abs(today.measured[key][-1] - tomorrow.measured[key][0]) < most


def test_a_fan_that_is_switched_off_lets_damp_gather_until_it_is_on_again(demo_plan):
    made = house(demo_plan)
    space = demo_plan.space("berry-tent")
    before = made.lived(space, DAY)
    noon = made.midnight(DAY) + 12 * 3600
    made.switch("berry-tent", FAN, noon, noon + 3 * 3600)
    assert made.is_off("berry-tent", FAN, noon)
    off = made.lived(space, DAY)
    assert np.allclose(off.measured["rh_pct"][:720], before.measured["rh_pct"][:720])
    assert off.measured["rh_pct"][800] > before.measured["rh_pct"][800] + 10
    assert off.watts[FAN][730] == 0
    assert off.watts[FAN][700] == before.watts[FAN][700] > 0
    made.cut_short("berry-tent", FAN, noon + 3600)
    assert not made.is_off("berry-tent", FAN, noon + 3700)
    again = made.lived(space, DAY)
    assert again.watts[FAN][790] > 0
    assert again.measured["rh_pct"][880] < off.measured["rh_pct"][880] - 5


def test_lamps_that_are_off_give_no_light_and_draw_nothing(demo_plan):
    made = house(demo_plan)
    begin = made.midnight(DAY) + 10 * 3600
    made.switch("berry-tent", LAMPS, begin, begin + 1800)
    there = made.lived(demo_plan.space("berry-tent"), DAY)
    assert there.measured["ppfd"][615] == 0
    assert there.watts[LAMPS][615] == 0
    assert there.measured["ppfd"][640] > 0


def test_all_that_is_shown_stands_in_its_history(planned, demo_plan):
    made, _ = planned
    begin = made.midnight(DAY)
    rows = history(made, demo_plan.spaces, begin, begin + 7200, 10)
    names = {(item.space_id, item.name) for item, _ in rows}
    assert {("berry-tent", "co2"), ("berry-tent", "fan socket"), ("hall-closet", "damp"), ("", "outdoor air")} <= names
    assert ("hall-closet", "co2") not in names
    assert all(begin <= at < begin + 7200 and (at - begin) % 600 == 0 for _, at in rows)
    at = begin + 3600
    now = {item.name: item.value for item in made.now(demo_plan.space("berry-tent"), at)}
    told = {item.name: item.value for item, second in rows if second == at and item.space_id == "berry-tent"}
    assert now == told
