"""Tariffs without gaps, prices at the hours of drawing, days of 23 and 25 hours, runs and payback by hand."""

import datetime as dt
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from canopy.errors import QuantityError
from canopy.evaluate import evaluate_space
from canopy.evaluate.power.costs import by_load, by_month, by_run, by_space
from canopy.evaluate.power.options import side_by_side
from canopy.plan import dumps, loads
from canopy.plan.tariff import DAYS, Rate, Tariff, read_rates, say_rates
from canopy.power import Load, monthly_cost
from canopy.power.cost import cost_on, minutes_on, price_of
from canopy.schedule import Always, Daily, Never

ZONE = "Europe/Lisbon"
DAY_NIGHT = "0.40 07:00-22:00\n0.20 22:00-07:00"


def _tariff(text, **more):
    return Tariff(rates=read_rates(text), **more)


def _load(schedule, watts=1000.0, hours=None):
    return Load(part_id="x", name="X", power_w=watts, hours_per_day=hours or 24.0, schedule=schedule)


def test_a_flat_price_is_energy_times_it():
    load = _load(Daily(start="06:00", hours=10), hours=10)
    assert monthly_cost([load], Tariff(price_per_kwh=0.3)) == pytest.approx(10 * 30.4 * 0.3)


def test_each_is_priced_at_the_hours_at_which_it_runs():
    tariff = _tariff(DAY_NIGHT)
    assert price_of(_load(Daily(start="08:00", hours=4)), tariff) == pytest.approx(0.40)
    assert price_of(_load(Daily(start="23:00", hours=4)), tariff) == pytest.approx(0.20)
    # Three hours by day, one by night.
    assert price_of(_load(Daily(start="19:00", hours=4)), tariff) == pytest.approx(0.35)
    assert price_of(_load(Always()), tariff) == pytest.approx((15 * 0.40 + 9 * 0.20) / 24)
    assert price_of(_load(Never()), tariff) == pytest.approx(tariff.mean_price)


def test_weekdays_and_seasons_count_by_their_share():
    tariff = _tariff("0.30 weekdays Oct-Mar\n0.20 weekend Oct-Mar\n0.10 Apr-Sep")
    assert tariff.prices(0, 12)[0] == 0.30
    assert tariff.prices(6, 1)[0] == 0.20
    assert tariff.prices(6, 7)[0] == 0.10
    load = _load(Always())
    assert price_of(load, tariff, 1) == pytest.approx((5 * 0.30 + 2 * 0.20) / 7)
    assert price_of(load, tariff) == pytest.approx(((5 * 0.30 + 2 * 0.20) / 7 + 0.10) / 2)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("0.3 07:00-22:00", "no price on Mon from 00:00 to 07:00 in Jan"),
        ("0.3 weekdays", "no price on Sat from 00:00 to 24:00 in Jan"),
        ("0.3\n0.2 22:00-07:00", "2 prices on Mon from 00:00 to 07:00"),
        ("0.3 Oct-Mar", "no price on Mon from 00:00 to 24:00 in Apr"),
        ("0.3 07:00-22:00\n0.2 22:00-06:59", "no price on Mon from 06:59 to 07:00"),
    ],
)
def test_gaps_and_overlaps_are_refused_and_named(text, words):
    with pytest.raises(ValidationError, match=words):
        _tariff(text)


@pytest.mark.parametrize("text", ["cheap at night", "0.3 Funday", "0.3 7-22", "0.3 25:00-26:00", "-0.3"])
def test_what_is_not_understood_is_said(text):
    with pytest.raises((QuantityError, ValidationError)):
        read_rates(text)


RATE = st.builds(
    Rate,
    price_per_kwh=st.floats(0.01, 9).map(lambda x: round(x, 3)),
    weekdays=st.sets(st.integers(0, 6), min_size=1).map(lambda found: tuple(sorted(found))),
    start=st.integers(0, 1439).map(lambda m: f"{m // 60:02d}:{m % 60:02d}"),
    end=st.integers(0, 1439).map(lambda m: f"{m // 60:02d}:{m % 60:02d}"),
    first_month=st.integers(1, 12),
    last_month=st.integers(1, 12),
)


@given(st.lists(RATE, max_size=5))
def test_rates_are_written_as_they_are_read(rates):
    back = read_rates(say_rates(rates))
    assert len(back) == len(rates)
    for one, two in zip(rates, back, strict=True):
        assert (one.price_per_kwh, one.weekdays) == (two.price_per_kwh, two.weekdays)
        assert np.array_equal(one.minutes(), two.minutes())
        assert [one.holds_in(m) for m in range(1, 13)] == [two.holds_in(m) for m in range(1, 13)]


def test_ranges_of_days_go_over_the_weekend():
    (rate,) = read_rates("0.3 Sat-Mon")
    assert [DAYS[day] for day in rate.weekdays] == ["Mon", "Sat", "Sun"]


SPRING, AUTUMN = dt.date(2026, 3, 29), dt.date(2026, 10, 25)


def test_days_of_23_and_25_hours_have_their_minutes():
    assert len(minutes_on(SPRING, ZONE)) == 23 * 60
    assert 90 not in minutes_on(SPRING, ZONE)
    assert len(minutes_on(AUTUMN, ZONE)) == 25 * 60
    assert (minutes_on(AUTUMN, ZONE) == 90).sum() == 2
    assert len(minutes_on(SPRING)) == len(minutes_on(dt.date(2026, 5, 1), ZONE)) == 24 * 60


@pytest.mark.parametrize(("day", "hours"), [(SPRING, 23), (AUTUMN, 25), (dt.date(2026, 6, 1), 24)])
def test_what_runs_always_draws_as_long_as_the_day_is(day, hours):
    kwh, cost = cost_on(_load(Always()), _tariff(DAY_NIGHT), day, ZONE)
    assert kwh == pytest.approx(hours)
    # The hour that is lost or won is one of the night's.
    assert cost == pytest.approx(15 * 0.40 + (hours - 15) * 0.20)


def test_lamps_keep_their_hours_on_the_wall():
    load = _load(Daily(start="08:00", hours=12), hours=12)
    for day in (SPRING, AUTUMN):
        assert cost_on(load, Tariff(price_per_kwh=1.0), day, ZONE) == (pytest.approx(12), pytest.approx(12))


def test_months_are_the_sum_of_their_days(demo_plan):
    plan = demo_plan.model_copy(update={"site": demo_plan.site.model_copy(update={"time_zone": ZONE})})
    load = _load(Always(), watts=100.0)
    months = by_month(plan, [load], dt.date(2026, 3, 14))
    assert [month.days for month in months[:3]] == [31, 30, 31]
    assert months[0].kwh == pytest.approx(0.1 * (31 * 24 - 1))
    assert months[7].kwh == pytest.approx(0.1 * (31 * 24 + 1))
    assert sum(month.kwh for month in months) == pytest.approx(0.1 * 365 * 24)


@pytest.fixture(scope="module")
def report(demo_plan):
    return evaluate_space(demo_plan, demo_plan.space("berry-tent"), day=demo_plan.date, with_map=False)


def test_devices_spaces_and_the_title_block_add_up(demo_plan, report):
    lines = by_load(demo_plan, report.running.loads)
    assert sum(line.cost_month for line in lines) == pytest.approx(report.running.cost_per_month)
    assert sum(line.share for line in lines) == pytest.approx(1)
    standing = demo_plan.model_copy(update={"tariff": demo_plan.tariff.model_copy(update={"standing_per_day": 0.5})})
    rows = {line.name: line for line in by_space(standing, [report])}
    assert rows["Berry tent"].cost_month == pytest.approx(report.running.cost_per_month)
    assert rows["Standing charge"].cost_month == pytest.approx(15.2)
    assert rows["Other loads of the household"].kwh_d > 5


def test_a_night_rate_shows_in_the_running_cost_and_its_working(demo_plan):
    plan = loads(dumps(demo_plan.model_copy(update={"tariff": _tariff(DAY_NIGHT)})))
    found = evaluate_space(plan, plan.space("berry-tent"), day=plan.date, with_map=False)
    by_hand = sum(load.energy_kwh_d * price_of(load, plan.tariff) for load in found.running.loads) * 30.4
    assert found.running.cost_per_month == pytest.approx(by_hand)
    price = found.margin("power.cost").working.steps[-1].amount.value
    assert 0.20 < price < 0.40
    assert price * found.running.energy_kwh_d * 30.4 == pytest.approx(by_hand)


def test_runs_share_the_space_by_the_ground_they_cover(demo_plan, report):
    runs = by_run(report)
    assert {run.planting.name for run in runs} == {"Strawberries", "Beans"}
    assert sum(run.share for run in runs) == pytest.approx(1)
    for run in runs:
        days = (run.ends - run.begins).days
        assert run.cost == pytest.approx(run.share * days * report.running.cost_per_month / 30.4)
        assert run.per_unit is None
    typed = runs[0].planting.model_copy(update={"yield_amount": 2.5})
    assert replace(runs[0], planting=typed).per_unit == pytest.approx(runs[0].cost / 2.5)


def _half_as_strong(plan):
    space = plan.space("berry-tent")
    lamps = tuple(
        lamp.model_copy(
            update={"spec": lamp.spec.model_copy(update={"power_w": lamp.spec.power_w / 2, "name": "Thrifty"})}
        )
        for lamp in space.fixtures
    )
    spaces = tuple(
        space.model_copy(update={"fixtures": lamps}) if each.id == space.id else each for each in plan.spaces
    )
    return plan.model_copy(update={"spaces": spaces})


def test_the_dearer_option_is_paid_back_by_what_it_saves(demo_plan, report):
    other = _half_as_strong(demo_plan)
    theirs = evaluate_space(other, other.space("berry-tent"), day=other.date, with_map=False)
    found = side_by_side(report, theirs, ("Old", "New"), (0.0, 300.0))
    saves = report.running.cost_per_month - theirs.running.cost_per_month
    assert found.dearer.name == "New"
    assert found.payback_months.low == pytest.approx(300 / saves)
    assert side_by_side(theirs, report, ("New", "Old"), (300.0, 0.0)).payback_months.low == pytest.approx(300 / saves)
    assert side_by_side(report, theirs, ("Old", "New"), (300.0, 0.0)).payback_months is None
    # The board of the old one has a price; the thrifty one's class is the same.
    assert [name for name, _, _ in found.two.buys] == ["Thrifty"]
    same = side_by_side(report, report, ("A", "B"))
    assert same.one.buys == same.two.buys == ()
    assert same.payback_months is None


@pytest.mark.parametrize(("day", "lines"), [("2026-03-29", 1380), ("2026-10-25", 1500), ("2026-06-01", 1440)])
def test_the_load_is_told_for_the_hours_that_a_date_has(demo_plan, tmp_path, day, lines):
    site = demo_plan.site.model_copy(update={"time_zone": ZONE})
    path = tmp_path / "plan.json"
    path.write_text(dumps(demo_plan.model_copy(update={"site": site})), encoding="utf-8")
    command = [sys.executable, "-m", "canopy.cli", "power", str(path), "--date", day]
    out = subprocess.run(command, capture_output=True, check=True, text=True).stdout.splitlines()
    minutes = [int(line.split(",")[0]) for line in out[1:]]
    assert len(minutes) == lines
    assert minutes.count(90) == {1380: 0, 1500: 2, 1440: 1}[lines]
