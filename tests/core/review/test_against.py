"""Plan against log, slow changes, probes against what is known, pots that were weighed."""

import datetime as dt

import numpy as np
import pytest

from canopy.errors import QuantityError
from canopy.evaluate.space import evaluate_space
from canopy.logs.entries import Entry
from canopy.review.against import against, explain
from canopy.review.pots import as_stomata, losses, weighed
from canopy.review.series import Series
from canopy.review.shining import shining
from canopy.review.slowly import flow_by_day
from canopy.review.trends import ICE_C, compared, salt_rh_pct, trend
from canopy.standins.neighbours import neighbour
from tests.core.review.conftest import asked_of

DAY = dt.date(2026, 3, 14)


def test_days_are_held_against_the_plan_by_day_and_by_night(pulsed):
    found = against(asked_of(pulsed))
    assert [day.day for day in found.days] == list(pulsed.days)
    half = found.days[2].half("air_c", lit=True)
    assert 10 < half.computed < 40
    assert abs(half.off) < 8
    assert found.days[2].stood_h == pytest.approx(2.6, abs=0.8)
    assert set(found.traces) >= {"air_c", "rh_pct"}


def test_what_was_found_explains_the_difference(demo_plan):
    """A fan that moves half as much makes it damper: laid at its door, little is left."""
    made = neighbour(demo_plan, "berry-tent", 510, "pulses")
    asked = asked_of(made)
    from canopy.review.living import identify

    fitted = identify(asked)
    for told in explain(asked, fitted.findings, made.days[-2]):
        assert abs(told.left) < max(abs(told.off), 0.7)
        assert told.left == pytest.approx(told.off - sum(share.moves for share in told.shares), abs=0.6)


def test_without_a_measured_room_its_planned_air_is_taken_and_said(demo_plan):
    found = against(asked_of(neighbour(demo_plan, "berry-tent", 511, "no room", days=3)))
    assert found.days
    assert not found.room_measured


def test_a_fan_that_stays_the_same_has_no_trend(pulsed, fitted):
    found = flow_by_day(asked_of(pulsed), fitted)
    assert len(found.days) == 6
    assert np.ptp(found.factors) < 0.1 * np.mean(found.factors)
    assert "too few days" in found.trend.why_not


def test_lamps_light_is_found_roughly_by_a_meter_at_the_leaves(pulsed):
    series = (
        *pulsed.series,
        Series(name="l", quantity="ppfd", at=np.arange(3) + pulsed.begins, value=np.array([1.0, 2, 3])),
    )
    report = evaluate_space(pulsed.plan, pulsed.space, day=DAY)
    asked = asked_of(pulsed)
    assert "no light meter" in shining(asked.grid, report).limits
    grid = asked_of(type(pulsed)(**{**vars(pulsed), "series": series})).grid
    assert shining(grid, report).grade in ("unknown", "rough")


# Trends


def test_a_line_is_laid_through_days_in_spite_of_single_ones():
    days = [DAY + dt.timedelta(days=k) for k in range(30)]
    values = [100 - 0.5 * k for k in range(30)]
    values[7], values[20] = 10.0, 400.0
    found = trend(days, values, 70.0)
    assert found.a_day == pytest.approx(-0.5, abs=0.02)
    assert found.sure
    assert found.reaches == DAY + dt.timedelta(days=60)
    assert found.earliest <= found.reaches


def test_no_change_and_too_few_days_are_said():
    chance = np.random.default_rng(5)
    days = [DAY + dt.timedelta(days=k) for k in range(20)]
    flat = trend(days, list(50 + chance.standard_normal(20)), 40.0)
    assert not flat.sure
    assert flat.reaches is None
    assert "too few days" in trend(days[:5], [1.0] * 5).why_not


def test_two_probes_are_held_against_each_other_and_one_drifts():
    at = np.arange(0, 30 * 86400, 600) + 1_700_000_000
    true = 20 + 3 * np.sin(at / 86400 * 2 * np.pi)
    one = Series(name="one", quantity="air_c", at=at, value=true + 0.4 + 0.02 * (at - at[0]) / 86400)
    two = Series(name="two", quantity="air_c", at=at + 60, value=true)
    found = compared(one, two)
    assert found.by == pytest.approx(0.7, abs=0.05)
    assert found.drift.sure
    assert found.drift.a_day == pytest.approx(0.02, abs=0.002)
    assert compared(one, Series(name="x", quantity="air_c", at=at[:0], value=at[:0] * 1.0)).why_not
    far = Series(name="far", quantity="air_c", at=at + 300_000_000, value=true)
    assert "same time" in compared(one, far).why_not


@pytest.mark.parametrize(("warm", "rh"), [(20.0, 75.47), (25.0, 75.29), (22.5, 75.38)])
def test_salt(warm, rh):
    """Greenspan 1977."""
    assert salt_rh_pct(warm) == pytest.approx(rh, abs=0.02)


def test_salt_is_known_where_it_was_measured():
    with pytest.raises(QuantityError, match=r"50 °C: the salt test is known from 5 to 35 °C"):
        salt_rh_pct(50.0)
    assert ICE_C < 0.02


# Pots


def entry(kind, hour, plants=("a",), **data):
    at = dt.datetime(2026, 3, 14, tzinfo=dt.UTC) + dt.timedelta(hours=hour)
    return Entry(key=f"{kind}-{hour:08.2f}".replace(".", "-"), space_id="s", kind=kind, at=at, data=data, plants=plants)


def test_pots_lose_what_they_lost_with_the_water_they_were_given():
    rows = [
        entry("weigh", 0, weight_kg=5.0),
        entry("water", 10, litres=0.5),
        entry("weigh", 24, weight_kg=4.9),
        entry("weigh", 26, weight_kg=4.88),
    ]
    (found,) = losses(rows)
    assert found.kg_d == pytest.approx(0.6)
    assert found.hours == 24


@pytest.mark.parametrize(
    "between",
    [
        [entry("water", 10, plants=(), litres=2.0)],
        [entry("weigh", 20, weight_kg=5.4)],
    ],
)
def test_pots_of_which_nobody_knows_say_nothing(between):
    rows = [entry("weigh", 0, weight_kg=5.0), *between, entry("weigh", 24, weight_kg=4.9)]
    assert all(item.hours < 24 for item in losses(rows))


def test_leaves_open_as_far_as_pots_say(small_plan):
    space = small_plan.spaces[0]
    report = evaluate_space(small_plan, space, follow=True)
    traces, last = report.climate.traces, report.climate.last
    kg_d = float(traces.given_g_h[last].sum() * report.climate.days.every_s / 3600) / 1000
    rows = [entry("weigh", 0, plants=(), weight_kg=20.0), entry("weigh", 24, plants=(), weight_kg=20.0 - 1.3 * kg_d)]
    found = as_stomata(weighed(losses(rows), kg_d, {}), small_plan, report)
    assert found.factor > 1.3
    assert found.basis == "pots"
    assert "no pots" in weighed((), kg_d, {}).limits
