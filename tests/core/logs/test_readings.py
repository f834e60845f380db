"""Quantities, moist air of series against the library, days by a local clock, and what entries say."""

import datetime as dt
from zoneinfo import ZoneInfo

import numpy as np
import psychrolib
import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import PlanError, QuantityError
from canopy.logs.daily import by_day, offsets_s
from canopy.logs.entries import Entry, read_data, water_given_l
from canopy.logs.measured import MEASURED, SHOWN, kept, measured
from canopy.logs.moist import dew_c, saturation_pa, vpd_kpa


@pytest.mark.parametrize(
    ("quantity", "value", "unit", "found"),
    [
        ("air_c", 71.6, "°F", 22.0),
        ("air_c", 295.15, "K", 22.0),
        ("rh_pct", 0.55, "0 to 1", 55.0),
        ("ec_ms_cm", 1000, "ppm (500)", 2.0),
        ("ec_ms_cm", 1400, "ppm (700)", 2.0),
        ("ec_ms_cm", 1850, "µS/cm", 1.85),
        ("co2_ppm", 0.1, "%", 1000.0),
        ("level_l", 1, "gal", 3.785411784),
        ("power_w", 1.2, "kW", 1200.0),
        ("energy_kwh", 500, "Wh", 0.5),
    ],
)
def test_readings_are_kept_in_one_unit(quantity, value, unit, found):
    assert kept(quantity, value, unit) == pytest.approx(found)


@pytest.mark.parametrize(
    ("quantity", "value", "unit"),
    [
        ("air_c", 200, "°C"),
        ("rh_pct", 140, "%"),
        ("ph", 15, ""),
        ("air_c", float("nan"), ""),
        ("air_c", 20, "bar"),
        ("joy", 1, ""),
    ],
)
def test_what_cannot_be_is_refused(quantity, value, unit):
    with pytest.raises(QuantityError):
        kept(quantity, value, unit)


def test_every_quantity_is_shown_and_knows_its_unit():
    assert set(SHOWN) == set(MEASURED)
    for key in SHOWN:
        item = measured(key)
        assert item.low < item.high
        assert any(factor == (1.0, 0.0) for factor in item.units.values())


def test_moist_air_of_series_is_the_library_s():
    psychrolib.SetUnitSystem(psychrolib.SI)
    air = np.linspace(-20, 45, 40)
    assert saturation_pa(air) == pytest.approx([psychrolib.GetSatVapPres(t) for t in air], rel=1e-6)
    damp = np.linspace(20, 99, 40)
    dew = [psychrolib.GetTDewPointFromRelHum(t, rh / 100) for t, rh in zip(air, damp, strict=True)]
    assert dew_c(air, damp) == pytest.approx(dew, abs=0.01)


def test_vpd_by_hand_and_gaps_stay_gaps():
    # 25 °C: 3,169 Pa saturated; at 60 % two fifths of it are missing.
    assert vpd_kpa(np.array([25.0]), np.array([60.0]))[0] == pytest.approx(3.169 * 0.4, abs=0.002)
    assert vpd_kpa(np.array([25.0]), np.array([103.0]))[0] == 0
    assert np.isnan(vpd_kpa(np.array([np.nan]), np.array([60.0])))[0]
    assert np.isnan(dew_c(np.array([20.0, 20.0]), np.array([0.0, np.nan]))).all()


@given(st.integers(0, 2**31), st.sampled_from(["Europe/Berlin", "America/St_Johns", "Asia/Kolkata", "UTC"]))
def test_the_local_clock_is_the_zone_s_at_every_moment(begin, name):
    zone = ZoneInfo(name)
    at = np.arange(begin, begin + 3 * 86400, 5000, dtype=np.int64)
    expected = [dt.datetime.fromtimestamp(int(second), zone).utcoffset().total_seconds() for second in at]
    # St John's once changed its clock a minute after midnight: hours are looked up whole.
    apart = np.abs(offsets_s(at, zone) - expected) > 0
    assert apart.sum() <= (1 if name == "America/St_Johns" else 0)


def test_a_day_of_25_hours_is_one_day():
    zone = ZoneInfo("Europe/Berlin")
    begin = int(dt.datetime(2026, 10, 25, tzinfo=zone).timestamp())
    at = np.arange(begin, begin + 25 * 3600, 600, dtype=np.int64)
    values = np.linspace(10, 20, at.size)
    (day,) = by_day(at, values - 1, values, values + 1, zone)
    assert day.day == dt.date(2026, 10, 25)
    assert (day.low, day.high) == (9.0, 21.0)
    assert day.mean == pytest.approx(15.0)
    assert by_day(at[:0], values[:0], values[:0], values[:0], zone) == ()


def _entry(kind, plants=(), struck=False, **data):
    at = dt.datetime(2026, 11, 20, tzinfo=dt.UTC)
    return Entry(key="0" * 12, space_id="tent", kind=kind, at=at, data=data, plants=plants, struck=struck)


def test_water_counts_once_for_each_plant_less_what_ran_out():
    entries = [
        _entry("water", ("plant-1", "plant-2", "plant-3"), litres=0.4, drained_l=0.2),
        _entry("water", litres=2.0),
        _entry("water", struck=True, litres=50.0),
        _entry("note"),
    ]
    assert water_given_l(entries) == pytest.approx(3 * 0.4 - 0.2 + 2.0)


@pytest.mark.parametrize(
    ("kind", "data"),
    [
        ("water", {}),
        ("water", {"litres": -1}),
        ("reservoir", {}),
        ("reservoir", {"ph": 15}),
        ("harvest", {}),
        ("harvest", {"quality": 9}),
        ("pests", {"count": 3}),
        ("note", {"joy": 1}),
    ],
)
def test_an_entry_that_says_nothing_or_cannot_be_is_refused(kind, data):
    with pytest.raises(PlanError):
        read_data(kind, data)


def test_a_count_of_no_pests_is_worth_keeping():
    assert read_data("pests", {"what": "thrips", "count": 0}).count == 0
    assert read_data("harvest", {"weight_kg": 0.25, "last": True}).last
