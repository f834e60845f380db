"""Spectra, readings of meters, and daylight outdoors."""

import datetime as dt

import numpy as np
import pytest

from canopy.equipment import FixtureSpec
from canopy.errors import GeometryError, PhotometricError
from canopy.light.glass import diffuse, transmittance
from canopy.light.outdoors import (
    FACINGS,
    extraterrestrial_mj_m2_d,
    hardening_off,
    like_outdoors,
    outdoor_dli_mol_m2_d,
    window_dli_mol_m2_d,
)
from canopy.light.spectra import Spectrum, band_shares, mixed, read_spectrum, reading_to_ppfd, spectrum_of, typical


def _line(nm, width=2.0):
    wave = np.arange(380.0, 780.0)
    return Spectrum(wavelength_nm=wave, power=np.exp(-(((wave - nm) / width) ** 2)))


@pytest.mark.parametrize(("nm", "band"), [(450, "blue"), (550, "green"), (660, "red")])
def test_a_line_falls_into_its_band(nm, band):
    shares = band_shares(_line(nm))
    assert shares[band] == pytest.approx(1.0, abs=1e-3)
    assert sum(shares[name] for name in ("blue", "green", "red")) == pytest.approx(1)


def test_bands_count_photons_not_watts():
    # The same watts at 450 and 660 nm: photons go as the wavelength.
    wave = np.array([400.0, 449, 450, 451, 659, 660, 661, 749])
    both = Spectrum(wavelength_nm=wave, power=np.array([0.0, 0, 1, 0, 0, 1, 0, 0]))
    shares = band_shares(both)
    assert shares["red"] / shares["blue"] == pytest.approx(660 / 450, rel=1e-3)


def test_far_red_stands_beside_the_rest():
    shares = band_shares(Spectrum(wavelength_nm=np.array([380.0, 780.0]), power=np.array([1.0, 1.0])))
    # Flat power: photons as λ; 400-700 holds (700² - 400²)/2, 700-750 holds (750² - 700²)/2.
    assert shares["far red"] == pytest.approx((750**2 - 700**2) / (700**2 - 400**2), rel=1e-3)


def test_no_light_is_refused():
    with pytest.raises(PhotometricError, match="no light between"):
        band_shares(Spectrum(wavelength_nm=np.array([800.0, 900.0]), power=np.array([1.0, 1.0])))


def test_warm_light_is_redder_than_cool():
    warm, cool = band_shares(typical("white-led-3000")), band_shares(typical("white-led-6500"))
    assert warm["red"] > cool["red"]
    assert warm["blue"] < cool["blue"]
    hps = band_shares(typical("hps"))
    assert hps["blue"] < 0.1


def _lamp(**more):
    data = {
        "name": "L",
        "technology": "led",
        "power_w": 40,
        "output": {"kind": "ppf", "ppf_umol_s": 80},
        "length_m": 0.5,
        "width_m": 0.1,
    }
    return FixtureSpec.model_validate({**data, **more})


def test_lamps_mix_by_their_photons():
    blue = _lamp(spectrum=((430.0, 0.0), (450.0, 1.0), (470.0, 0.0)))
    red = _lamp(spectrum=((640.0, 0.0), (660.0, 1.0), (680.0, 0.0)))
    found = mixed([(blue, 100.0), (red, 300.0)])
    assert found["blue"] == pytest.approx(0.25, abs=0.01)
    assert found["red"] == pytest.approx(0.75, abs=0.01)
    assert mixed([(blue, 0.0)]) == {}


def test_a_lamp_s_own_spectrum_goes_before_its_kind():
    assert band_shares(spectrum_of(_lamp(spectrum=((640.0, 0.0), (660.0, 1.0), (680.0, 0.0)))))["red"] > 0.99
    assert band_shares(spectrum_of(_lamp(technology="hps")))["blue"] < 0.1


@pytest.mark.parametrize(
    ("source", "lux_per_umol"), [("daylight", 54), ("hps", 82), ("cool-white-fluorescent", 74), ("metal-halide", 71)]
)
def test_lux_become_ppfd_by_the_published_factors(source, lux_per_umol):
    # Thimijan & Heins (1983), table 3.
    found = reading_to_ppfd(lux_per_umol * 100, "lux", source)
    assert found.ppfd_umol_m2_s == pytest.approx(100, rel=0.03)
    assert reading_to_ppfd(lux_per_umol * 100 / 10.764, "fc", source).ppfd_umol_m2_s == pytest.approx(100, rel=0.03)
    assert found.uncertainty >= 0.08


def test_a_quantum_meter_is_taken_as_it_is():
    found = reading_to_ppfd(312, "ppfd", "white-led")
    assert (found.ppfd_umol_m2_s, found.uncertainty) == (312, 0.05)


@pytest.mark.parametrize(
    "raw",
    [
        b"nm,power\n400,1\n500,2\n600,1\n",
        b"400;1,0\n500;2,0\n600;1,0\n",
        b"400\t1\n500\t2\n600\t1",
        b"\xef\xbb\xbf400,1\n500,2\n600,1",
    ],
)
def test_a_spectrum_is_read_in_every_usual_dress(raw):
    assert read_spectrum(raw) == ((400.0, 1.0), (500.0, 2.0), (600.0, 1.0))


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (b"400,1\n500,x\n", "line 2: two numbers"),
        (b"400,1\n300,2\n", "line 2: wavelengths must rise"),
        (b"400,1\n5000,2\n", "line 2: wavelengths run"),
        (b"400,1\n450,2\n500,-1\n", "line 3"),
        (b"hello", "fewer than two"),
        (b"800,1\n900,1\n", "no light"),
        (b"\xff\xfe\x00", "UTF-8"),
        (b"4" * 600_000, "MB"),
    ],
)
def test_a_bad_spectrum_is_refused_by_line(raw, words):
    with pytest.raises(PhotometricError, match=words):
        read_spectrum(raw)


@pytest.mark.parametrize(
    ("latitude", "day", "mj"),
    [
        # FAO-56 example 8 (3 September at 20° south) and its annex 2, table 2.6 (15th of the month).
        (-20, (9, 3), 32.2),
        (0, (3, 15), 37.9),
        (40, (6, 15), 41.9),
        (50, (12, 15), 7.5),
        (-30, (12, 15), 44.1),
    ],
)
def test_the_sun_above_the_air(latitude, day, mj):
    assert extraterrestrial_mj_m2_d(latitude, dt.date(2026, *day)) == pytest.approx(mj, rel=0.02)


def test_beyond_the_polar_circle_is_refused():
    with pytest.raises(GeometryError, match="polar"):
        extraterrestrial_mj_m2_d(70, dt.date(2026, 6, 1))


def test_a_clear_summer_day_and_a_grey_winter_day():
    assert 55 < outdoor_dli_mol_m2_d(45, dt.date(2026, 6, 21), "clear") < 70
    assert outdoor_dli_mol_m2_d(50, dt.date(2026, 12, 21), "overcast") < 5


def test_indoor_light_is_like_some_month():
    found = like_outdoors(20.0, 50.0)
    assert {item.sky for item in found} == {"clear", "mixed", "overcast"}
    assert all(abs(item.dli_mol_m2_d - 20) <= 5 for item in found)
    assert like_outdoors(0.5, 0.0) == ()


def test_hardening_off_climbs_in_even_ratios_to_the_full_sun():
    steps = hardening_off(12.0, 45.0, dt.date(2026, 5, 10), days=8)
    dli = [step.dli_mol_m2_d for step in steps]
    assert dli == sorted(dli)
    assert dli[-1] == pytest.approx(outdoor_dli_mol_m2_d(45.0, dt.date(2026, 5, 17)))
    ratios = np.array(dli[1:]) / np.array(dli[:-1])
    assert np.ptp(ratios) < 0.05
    assert steps[-1].hours_out == 12
    with pytest.raises(GeometryError, match="two days"):
        hardening_off(12.0, 45.0, dt.date(2026, 5, 10), days=1)


def test_days_alike_are_one_step():
    # In November at 52° no day is brighter than indoors: nothing to climb, and no list of ten equal days.
    (step,) = hardening_off(14.0, 52.0, dt.date(2026, 11, 20), days=10)
    assert (step.day, step.last) == (dt.date(2026, 11, 20), dt.date(2026, 11, 29))
    steps = hardening_off(12.0, 45.0, dt.date(2026, 5, 10), days=30)
    hours = [step.hours_out for step in steps]
    assert len(set(hours)) == len(hours)
    assert steps[0].day == dt.date(2026, 5, 10)
    assert (steps[-1].last or steps[-1].day) == dt.date(2026, 6, 8)


# ---- an upright window ----------------------------------------------------------


def test_under_an_overcast_sky_a_window_gets_half_the_sky_and_what_the_ground_sends_back():
    """All diffuse: 0.5 of the level light and half of a fifth, through glass; the same whichever way it looks."""
    day = dt.date(2026, 6, 15)
    views = [window_dli_mol_m2_d(50, day, facing, "overcast", panes=1) for facing in FACINGS]
    level = outdoor_dli_mol_m2_d(50, day, "overcast")
    assert min(views) == pytest.approx(0.6 * level * diffuse()[0], rel=0.12)
    assert max(views) < 1.25 * min(views)


def test_east_and_west_mirror_each_other_and_north_and_south_change_with_the_hemisphere():
    for month in (1, 4, 6, 9):
        day = dt.date(2026, month, 15)
        east, west = (window_dli_mol_m2_d(48, day, facing) for facing in ("E", "W"))
        assert east == pytest.approx(west, rel=1e-6)
    day = dt.date(2026, 3, 21)
    assert window_dli_mol_m2_d(40, day, "S") == pytest.approx(window_dli_mol_m2_d(-40, day, "N"), rel=0.05)


def test_a_clear_winter_day_lights_a_south_window_more_than_a_summer_day_and_north_never():
    winter, summer = dt.date(2026, 12, 21), dt.date(2026, 6, 21)
    assert window_dli_mol_m2_d(45, winter, "S", "clear") > window_dli_mol_m2_d(45, summer, "S", "clear")
    assert window_dli_mol_m2_d(45, winter, "N", "clear") < 0.15 * window_dli_mol_m2_d(45, winter, "S", "clear")


def test_a_low_sun_onto_a_wall_agrees_with_the_angle_by_hand():
    """At the equator on an equinox the sun rises due east: a window looking east gets the cosine of its height."""
    day = dt.date(2026, 3, 21)
    hour = np.linspace(0, np.pi / 2, 20_001)
    up, onto = np.sin(hour), np.cos(hour)
    rate = 1098 * up * np.exp(-0.057 / np.maximum(up, 0.03))
    k = rate / (1361 * np.maximum(up, 0.03))
    scattered = 0.9511 - 0.1604 * k + 4.388 * k**2 - 16.638 * k**3 + 12.336 * k**4
    beam = np.where(up > 0.03, rate * (1 - scattered) / np.maximum(up, 0.03), 0) * onto
    seconds = 6 * 3600 / len(hour)
    by_hand = (beam * transmittance(onto)).sum() + 2 * (rate * (scattered / 2 + 0.1)).sum() * diffuse()[0]
    found = window_dli_mol_m2_d(0, day, "E", "clear", panes=1)
    assert found == pytest.approx(by_hand * seconds * 1e-6 * 2.04, rel=0.03)


@pytest.mark.parametrize(("panes", "share"), [(1, 1.0), (2, 1.0), (3, 1.0), (2, 0.4)])
def test_panes_and_houses_take_their_part(panes, share):
    day = dt.date(2026, 5, 1)
    bare = window_dli_mol_m2_d(50, day, "N", "overcast", panes=1)
    found = window_dli_mol_m2_d(50, day, "N", "overcast", panes=panes, open_share=share)
    assert found == pytest.approx(bare * share * diffuse()[0] ** (panes - 1), rel=0.06)


def test_beyond_the_polar_circles_no_window_is_estimated():
    with pytest.raises(GeometryError, match="polar circles"):
        window_dli_mol_m2_d(70, dt.date(2026, 6, 1), "S")
