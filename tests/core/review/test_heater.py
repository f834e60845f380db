"""The test with an empty space, held against a stiff solver of another model: a sheet, air, and pots left in."""

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from canopy.errors import QuantityError
from canopy.review.decay import decay, falls
from canopy.review.heater import HeaterTest, heater_test, stage

RHO_C, AREA, FILM, SEAMS = 1.19 * 1006, 8.8, 7.5, 0.4


def measured(flow=76.5, power=300.0, walls=27.6, seed=0, pots=0.0, off_h=3.0, on_h=2.0, step=30.0):
    """Air, a sheet between two films, pots; probes that scatter by 0.08 K and show whole tenths."""
    chance = np.random.default_rng(seed)
    beyond = 1 / (AREA / walls - 1 / FILM)

    def room(t):
        return 20 + 0.5 * np.sin(t / 3600 * 1.1 + seed)

    def slope(t, x):
        air, sheet, pot = x
        moved = RHO_C * flow / 3600 * (t > off_h * 3600)
        heat = power - FILM * AREA * (air - sheet) - (moved + SEAMS) * (air - room(t)) - 8 * pots * (air - pot)
        passes = FILM * AREA * (air - sheet) - beyond * AREA * (sheet - room(t))
        return [heat / 4140, passes / (AREA * 450), 8 * pots * (air - pot) / max(pots * 1.7e5, 100)]

    end = (off_h + on_h) * 3600
    at = np.arange(0, end, step)
    solved = solve_ivp(slope, (0, end), [20, 20, 20], method="LSODA", t_eval=at, rtol=1e-8, atol=1e-8, max_step=60)

    def shown(value):
        return np.round((value + 0.08 * chance.standard_normal(len(at))) / 0.1) * 0.1

    return HeaterTest(
        step_s=step,
        air_c=shown(solved.y[0]),
        room_c=shown(np.array([room(t) for t in at])),
        power_w=np.full(len(at), power),
        fan=(at > off_h * 3600).astype(float),
        emptied=pots == 0,
    )


@pytest.mark.parametrize("flow", [30.0, 76.5, 200.0])
def test_what_the_fan_moves_and_walls_pass_is_found_in_an_empty_space(flow):
    found = heater_test(measured(flow))
    assert found.flow_m3_h == pytest.approx(flow, rel=0.03)
    assert found.loss_w_k == pytest.approx(27.6 + SEAMS, rel=0.02)
    assert abs(found.flow_m3_h - flow) < 2 * found.flow_off


def test_pots_that_were_left_in_widen_the_error_and_it_still_holds():
    empty, filled = heater_test(measured()), heater_test(measured(pots=0.5))
    assert filled.flow_off > 1.5 * empty.flow_off
    assert abs(filled.flow_m3_h - 76.5) < filled.flow_off


def test_gaps_and_steps_do_not_lead_it_astray():
    test = measured()
    test.air_c[100:140] = np.nan
    test.room_c[300:310] = np.nan
    assert heater_test(test).flow_m3_h == pytest.approx(76.5, rel=0.04)


@pytest.mark.parametrize(
    ("test", "words"),
    [
        (measured(power=3.0), "its power must be metered"),
        (measured(power=12.0), "use a stronger heater"),
        (measured(off_h=0.2), "the fan never stopped"),
        (measured(on_h=0.2), "never on"),
        (measured(off_h=0.2, on_h=0.2), "too little of it"),
    ],
)
def test_what_cannot_be_told_is_said(test, words):
    found = heater_test(test)
    assert words in found.why_not
    assert found.flow_m3_h is None


def test_without_the_power_the_ratio_alone_is_known():
    test = measured(power=300.0)
    unmetered = HeaterTest(**{**vars(test), "power_w": np.zeros(len(test.air_c))})
    found = heater_test(unmetered)
    assert found.flow_m3_h is None
    assert found.ratio == pytest.approx(RHO_C * 76.5 / 3600 / 28.0, rel=0.05)


def test_series_of_unlike_length_are_refused():
    test = measured()
    with pytest.raises(QuantityError, match="at the same moments"):
        heater_test(HeaterTest(**{**vars(test), "fan": test.fan[:-1]}))


def test_it_says_when_it_has_enough():
    test = measured()

    def so_far(count):
        return stage(HeaterTest(**{k: v[:count] if isinstance(v, np.ndarray) else v for k, v in vars(test).items()}))

    assert so_far(40)[0] == "warming"
    assert so_far(350) == ("off enough", 1.0)
    assert so_far(370)[0] == "on"
    assert so_far(590) == ("enough", 1.0)
    assert [so_far(n)[1] for n in (20, 60, 100)] == sorted(so_far(n)[1] for n in (20, 60, 100))


# CO2 that falls


def test_a_fall_of_co2_by_its_closed_form():
    """Q = V/t ln((C1 − Cr)/(C2 − Cr)): 1.857 m³ from 1500 to 517 ppm in 300 s over 450 ppm are 61.3 m³/h."""
    at = np.arange(0, 301, 30)
    rate = 61.3 / 1.857 / 3600
    ppm = 450 + 1050 * np.exp(-rate * at)
    assert ppm[-1] == pytest.approx(517, abs=1.5)
    found = decay(at, ppm, 450.0, 1.857)
    assert found.flow_m3_h == pytest.approx(61.3, rel=0.01)
    assert found.off_m3_h < 8


def test_noise_is_borne_and_told():
    chance = np.random.default_rng(3)
    at = np.arange(0, 5400, 60)
    ppm = 440 + 900 * np.exp(-2.0 * at / 3600) + 15 * chance.standard_normal(len(at))
    found = decay(at, ppm, None, 2.2)
    assert abs(found.flow_m3_h - 4.4) < 2 * found.off_m3_h


@pytest.mark.parametrize(
    ("ppm", "words"),
    [
        ([900, 880, 870], "at least 6 readings"),
        ([500, 495, 490, 488, 486, 485, 484], "over the room"),
        ([1500, 1490, 1480, 1475, 1470, 1465, 1460], "hardly fell"),
    ],
)
def test_a_fall_that_says_nothing_says_so(ppm, words):
    assert words in decay(np.arange(len(ppm)) * 60, np.array(ppm, dtype=float), 430.0, 2.0).why_not


def test_falls_are_found_where_nothing_gives_or_takes():
    at = np.arange(0, 7200, 60)
    ppm = np.where(at < 1800, 450.0, 450 + 900 * np.exp(-(at - 1800) / 1500))
    (found,) = falls(at, ppm, np.ones(len(at), dtype=bool))
    assert 28 <= found.start <= 31
    assert not falls(at, ppm, np.zeros(len(at), dtype=bool))
