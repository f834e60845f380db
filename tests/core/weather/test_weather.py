"""Outdoor air: invented years, files of one's own, and rooms that follow."""

import datetime as dt
import math

import numpy as np
import pytest

from canopy.errors import LibraryError, QuantityError
from canopy.plan.rooms import Room, around_on
from canopy.plan.site import Site
from canopy.psychrometrics import humidity_ratio
from canopy.weather import DayAir, in_short, places, short_of, year_of
from canopy.weather.reading import read_hours
from canopy.weather.rooms import ground_c, mean_of, outdoors_by_hour, room_by_hour, room_over


def test_six_places_in_different_climates_each_with_a_whole_year():
    assert len(places()) == 6
    means = []
    for key, place in places().items():
        year = year_of(key)
        assert year.temperature_c.shape == year.rh_pct.shape == (8760,)
        assert year.rh_pct.min() >= 5
        assert year.rh_pct.max() <= 100
        means.append(year.temperature_c.mean())
        assert means[-1] == pytest.approx(place.mean_c, abs=1.0)
        # The year's end meets its beginning: no step larger than weather makes within an hour.
        assert abs(year.temperature_c[0] - year.temperature_c[-1]) < 12
    assert max(means) - min(means) > 12
    with pytest.raises(LibraryError, match="no place"):
        year_of("atlantis")


def test_a_place_is_the_same_each_time_and_the_south_has_its_winter_in_july():
    first = year_of("ostervale").temperature_c.copy()
    year_of.cache_clear()
    assert np.array_equal(first, year_of("ostervale").temperature_c)
    south, north = short_of("lantana-flats").months, short_of("ostervale").months
    assert south[0].day_c > south[6].day_c
    assert north[0].day_c < north[6].day_c


def test_in_short_the_coldest_three_days_are_the_years_coldest():
    year = year_of("norrfell")
    short = in_short(year)
    daily = year.temperature_c.reshape(365, 24).mean(axis=1)
    runs = [daily[k : k + 3].mean() for k in range(363)]
    assert mean_of(short.coldest) == pytest.approx(min(runs), abs=0.6)
    assert mean_of(short.hottest) == pytest.approx(max(runs), abs=0.6)


def test_a_day_laid_out_has_the_means_it_was_made_from():
    day = DayAir(day_c=12.0, night_c=4.0, day_rh_pct=55.0, night_rh_pct=85.0)
    again = outdoors_by_hour(day).day
    # Full hours stand for the means over them: half an hour apart.
    assert again.day_c == pytest.approx(12.0, abs=0.4)
    assert again.night_c == pytest.approx(4.0, abs=0.6)
    assert max(outdoors_by_hour(day).temperature_c) == outdoors_by_hour(day).temperature_c[15]


def test_the_ground_lags_and_swings_less():
    months = short_of("ostervale").months
    means = [mean_of(item) for item in months]
    ground = [ground_c(months, m) for m in range(12)]
    assert np.mean(ground) == pytest.approx(np.mean(means), abs=0.1)
    assert np.ptp(ground) == pytest.approx(0.5 * np.ptp(means), rel=0.15)
    assert np.argmax(ground) == (np.argmax(means) + 1) % 12 or np.argmax(ground) == (np.argmax(means) + 2) % 12


def test_rooms_follow_by_their_kind():
    cold = short_of("ostervale").coldest
    months = short_of("ostervale").months
    ground = ground_c(months, 0.0)
    found = {
        kind: room_by_hour(kind, cold, ground, (20.0, 17.0), 240.0) for kind in ("heated", "garage", "cellar", "shed")
    }
    means = {kind: np.mean(item.temperature_c) for kind, item in found.items()}
    assert means["shed"] < means["garage"] < means["cellar"] < means["heated"]
    assert min(found["heated"].temperature_c) == 17.0
    assert np.ptp(found["cellar"].temperature_c) < 0.3 < np.ptp(found["shed"].temperature_c)
    for item in found.values():
        assert all(1 <= rh <= 95 for rh in item.rh_pct)
    # The heated room holds the water of outdoors and what people add, no more.
    outside = outdoors_by_hour(cold)
    water = np.mean([humidity_ratio(t, r, 240) for t, r in zip(outside.temperature_c, outside.rh_pct, strict=True)])
    inside = np.mean(
        [humidity_ratio(t, r, 240) for t, r in zip(found["heated"].temperature_c, found["heated"].rh_pct, strict=True)]
    )
    assert inside - water == pytest.approx(0.0033, rel=0.05)


def test_the_lag_through_hours_is_the_closed_form_of_a_steady_swing():
    hours = np.arange(24 * 30)
    swing = 6 * np.cos(2 * np.pi * (hours - 15) / 24)
    day = DayAir(day_c=10 + 6 * 0.527, night_c=10 - 6 * 0.738, day_rh_pct=60, night_rh_pct=60)
    inside, _ = room_over("garage", 10 + swing, np.full(len(hours), 60.0), 9.0, (0, 0), 0.0)
    closed = np.array(room_by_hour("garage", day, 9.0, (0, 0), 0.0).temperature_c)
    assert np.abs(inside[-24:] - closed).max() < 0.05
    assert math.isclose(inside[-24:].mean(), closed.mean(), abs_tol=0.02)


def test_a_room_that_follows_is_cold_in_january_and_keeps_its_own_otherwise():
    site = Site(place_id="ostervale")
    garage, typed = Room(id="a", name="A", follows="garage"), Room(id="b", name="B")
    winter, summer = (around_on(garage, site, dt.date(2026, month, 15)) for month in (1, 7))
    assert winter.air.night_c < 6 < 15 < summer.air.night_c
    assert len(winter.hourly.temperature_c) == 24
    assert winter.ground_c < summer.ground_c
    assert around_on(typed, site, dt.date(2026, 1, 15)).hourly is None
    assert around_on(garage, Site(), dt.date(2026, 1, 15)).air == garage
    coldest = around_on(garage, site, dt.date(2026, 7, 1), "coldest")
    assert coldest.air.night_c < winter.air.night_c


def lines(rows, header="time,temperature_c,humidity_pct"):
    return "\n".join([header, *rows])


def hourly(count, begins=dt.datetime(2025, 3, 1), value="10,60"):
    return [f"{begins + dt.timedelta(hours=k):%Y-%m-%d %H:%M},{value}" for k in range(count)]


def test_a_file_in_fahrenheit_with_dew_points_and_semicolons_is_read():
    rows = [row.replace(",", ";") for row in hourly(30, value="50,41")]
    found = read_hours(lines(rows, "Timestamp;Temp (°F);Dew point (°F)"))
    assert found.temperature_c[0] == pytest.approx(10.0)
    # 5 °C of dew point in air of 10 °C.
    assert found.rh_pct[0] == pytest.approx(71.0, abs=0.5)


def test_short_gaps_are_bridged():
    rows = hourly(40)
    rows[5] = rows[5].replace("10,60", "14,60")
    del rows[3:5]
    found = read_hours(lines(rows))
    assert len(found.temperature_c) == 40
    assert found.temperature_c[3] == pytest.approx(10 + 4 / 3)


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda rows: [*rows[:9], *rows[14:]], "line 11: 5 hours are missing before"),
        (lambda rows: [*rows[:4], rows[6], rows[5], *rows[7:]], "line 7: .* comes after .*: sort it by time"),
        (lambda rows: [*rows[:4], rows[3], *rows[4:]], "line 6: .* stands there twice"),
        (lambda rows: [*rows[:4], "2025-03-01 04:30,10,60", *rows[5:]], "line 6: 1.5 hours|line 7: only 30 minutes"),
        (lambda rows: [*rows[:4], "yesterday,10,60", *rows[5:]], "line 6: “yesterday” is no time"),
        (lambda rows: [*rows[:4], "2025-03-01 04:00,warm,60", *rows[5:]], "line 6: “warm” is no temperature"),
        (lambda rows: [*rows[:4], "2025-03-01 04:00,nan,60", *rows[5:]], "line 6: “nan” is no temperature"),
        (lambda rows: [*rows[:4], "2025-03-01 04:00,10,160", *rows[5:]], "line 6: 160 % is no relative humidity"),
        (lambda rows: [*rows[:4], "2025-03-01 04:00,75,60", *rows[5:]], "line 6: 75 °C .* if it is °F"),
        (lambda rows: rows[:9], "these are 9 hours"),
    ],
)
def test_what_is_wrong_is_said_with_its_line(spoil, words):
    with pytest.raises(QuantityError, match=words):
        read_hours(lines(spoil(hourly(60))))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "line 1: the file needs a header"),
        ("time,humidity\n", "no column for the temperature"),
        ("time,temperature\n", "no column for humidity or dew point"),
        ("time,t,rh\n" + "x" * 10_000_001, "larger than 10 MB"),
    ],
)
def test_a_file_without_what_is_needed(text, words):
    with pytest.raises(QuantityError, match=words):
        read_hours(text)


def test_a_year_needs_365_days_and_begins_in_january():
    with pytest.raises(QuantityError, match="a year of hours is asked for"):
        read_hours(lines(hourly(900))).year()
    rows = [
        f"{dt.datetime(2025, 3, 1) + dt.timedelta(hours=k):%Y-%m-%d %H:%M},{10 if k < 24 else 2},60"
        for k in range(8760)
    ]
    year = read_hours(lines(rows)).year()
    first_of_march = (31 + 28) * 24
    assert np.all(year.temperature_c[first_of_march : first_of_march + 24] == 10)
    assert year.temperature_c[0] == 2
    with pytest.raises(QuantityError, match="do not lie in it"):
        read_hours(lines(rows)).part(dt.date(2024, 1, 1), 72)
