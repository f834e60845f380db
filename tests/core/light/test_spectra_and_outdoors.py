"""Spectra, readings of meters, and daylight outdoors."""

import datetime as dt

import numpy as np
import pytest

from canopy.equipment import FixtureSpec
from canopy.errors import GeometryError, PhotometricError
from canopy.light.outdoors import extraterrestrial_mj_m2_d, hardening_off, like_outdoors, outdoor_dli_mol_m2_d
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
