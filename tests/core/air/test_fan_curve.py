"""Fan curves: affinity laws exactly, falling everywhere, through the points of a data sheet."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from canopy.air.fan_curve import fan_curve, power_w, steps_of
from canopy.equipment import FanSpec
from canopy.library import fans
from tests.core.air.worked import FAN

POINTS = ((0, 262), (60, 251), (120, 229), (180, 192), (240, 134), (290, 66), (330, 0))
SHEET = FAN.model_copy(update={"curve": POINTS, "free_flow_m3_h": 330.0})


@pytest.mark.parametrize(
    ("flow", "want"),
    [(0, 238), (286, 0), (143, 238 * (1 - 0.225 - 0.1375)), (300, 238 * -1.55 * (300 / 286 - 1)), (-28.6, 238 * 1.03)],
)
def test_the_curve_of_free_flow_and_greatest_pressure(flow, want):
    assert fan_curve(FAN).pressure_pa(flow / 3600, 1.0) == pytest.approx(want, abs=1e-9)


@pytest.mark.parametrize("point", POINTS)
def test_a_curve_of_points_passes_through_them(point):
    assert fan_curve(SHEET).pressure_pa(point[0] / 3600, 1.0) == pytest.approx(point[1], abs=1e-9)


@pytest.mark.parametrize("spec", [FAN, SHEET, *(row.spec for row in fans().values())])
@given(share=st.floats(-0.3, 1.4), speed=st.floats(0.1, 1))
def test_affinity_laws_hold_exactly(spec, share, speed):
    curve = fan_curve(spec)
    flow = share * spec.free_flow_m3_h / 3600
    assert curve.pressure_pa(flow * speed, speed) == pytest.approx(
        speed**2 * curve.pressure_pa(flow, 1.0), rel=1e-9, abs=1e-9
    )
    # The cube is an electronic motor's; one on chopped mains draws by about the square.
    assert power_w(spec, speed) == pytest.approx(spec.power_w * speed ** (3 if spec.electronic else 2))


@pytest.mark.parametrize(
    ("more", "electronic"),
    [
        ({}, False),
        ({"class_id": "inline-100-ec"}, True),
        ({"kind": "case"}, True),
        ({"motor": "electronic"}, True),
        ({"kind": "case", "motor": "mains"}, False),
    ],
)
def test_a_motor_is_as_said_or_as_its_class(more, electronic):
    spec = FanSpec(name="F", free_flow_m3_h=200, diameter_m=0.1, power_w=20, **more)
    assert spec.electronic is electronic
    assert power_w(spec, 0.5) == (2.5 if electronic else 5.0)


@pytest.mark.parametrize("spec", [FAN, SHEET, *(row.spec for row in fans().values())])
def test_curves_fall_everywhere(spec):
    curve = fan_curve(spec)
    flows = [share / 50 * curve.free_m3_s for share in range(-20, 80)]
    pressures = [curve.pressure_pa(flow, 1.0) for flow in flows]
    assert all(before >= after for before, after in pairwise(pressures))
    assert curve.pressure_pa(curve.free_m3_s, 1.0) == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("spec", [FAN, SHEET, *(row.spec for row in fans().values())])
@given(share=st.floats(-0.3, 6), slow=st.floats(0.1, 1), more=st.floats(0, 0.9))
def test_a_faster_fan_never_hinders_more(spec, share, slow, more):
    curve = fan_curve(spec)
    flow = share * curve.free_m3_s
    fast = min(1.0, slow + more)
    assert curve.pressure_pa(flow, fast) >= curve.pressure_pa(flow, slow) - 1e-9


def test_a_stall_dip_is_levelled_and_an_unfinished_curve_carried_on():
    dip = FAN.model_copy(update={"curve": ((20, 200), (60, 190), (100, 198), (200, 120), (250, 60))})
    curve = fan_curve(dip)
    assert curve.pressure_pa(80 / 3600, 1) == pytest.approx(190)
    assert curve.pressure_pa(0, 1) == 200
    assert curve.free_m3_s * 3600 == pytest.approx(300)


def test_a_fan_that_stands_takes_two_dynamic_pressures():
    # 100 m³/h in 125 mm: 2.26 m/s, 3.05 Pa.
    assert fan_curve(FAN).pressure_pa(100 / 3600, 0.0) == pytest.approx(-2 * 3.05, rel=0.01)
    assert fan_curve(FAN).pressure_pa(-100 / 3600, 0.0) == pytest.approx(2 * 3.05, rel=0.01)
    assert power_w(FAN, 0.0) == 0


def test_a_fan_without_a_pressure_gets_one_by_its_velocity():
    bare = FAN.model_copy(update={"max_pressure_pa": None})
    assert 150 < fan_curve(bare).max_pa < 260


def test_steps_are_the_control_s_or_tenths():
    assert steps_of(FAN)[0] == 0.3
    assert steps_of(fans()["axial-100"].spec) == (0.7, 1.0)


@pytest.mark.parametrize(
    ("given_", "words"),
    [
        ({"curve": ((0, 100), (50, 60), (80, 140), (120, 0))}, "climbs from 60 to 140 Pa at 80 m³/h"),
        ({"curve": ((0, 100), (50, 0))}, "at least three points"),
        ({"curve": ((0, 100), (50, 98), (60, 95))}, "hardly falls"),
        ({"curve": ((0, 100), (0, 50), (60, 0))}, "each once"),
        ({"curve": ((0, 4000), (50, 90), (60, 0))}, "0 to 3000 Pa"),
        ({"diameter_m": 0}, "greater than or equal to 0.02"),
        ({"steps": (0.5, 0.4, 1.0)}, "rise from slow"),
        ({"steps": (0.5, 0.9)}, "the last is 100 %"),
    ],
)
def test_a_data_sheet_that_cannot_be_is_refused(given_, words):
    with pytest.raises(ValidationError, match=words):
        FanSpec(**{**FAN.model_dump(), **given_})
