"""Where one verdict on the air turns into the next: swept, and held against figures worked out apart from the
report.
"""

import math

import pytest

from canopy.plan import Air, Airway, FanPart, Measured, Opening
from tests.core.air.worked import FAN, duct, exhaust
from tests.core.evaluate.air.test_verdicts import margin, planted, report_of, with_port


def windowed(side_m, **more):
    """The worked tent without seams, its fan bare, and one square window of a side [m]."""
    window = Opening(
        id="window", face="right", shape="mesh", u_m=0.4, v_m=0.3, width_m=side_m, height_m=side_m, clear_share=1
    )
    port = Opening(id="port", face="left", u_m=0.4, v_m=1.75, diameter_m=0.125, use="exhaust")
    return planted(with_port(exhaust(filtered=False)), openings=(window, port), air=Air(leak_cm2=0), **more)


def amount(words, name):
    return dict(words.amounts)[name].value


@pytest.mark.parametrize("side_m", [0.06, 0.09, 0.12, 0.15, 0.18, 0.21, 0.24, 0.27])
def test_the_speed_in_a_window_is_flow_by_area_and_judges_it(side_m):
    found = margin(windowed(side_m), "air.intake")
    speed, flow = amount(found.why, "v"), amount(found.why, "q")
    assert speed == pytest.approx(flow / 3600 / side_m**2, rel=1e-6)
    assert found.verdict == ("good" if speed <= 1.5 else "tight" if speed <= 2.5 else "short")
    # What is asked for would slow the same air to 1.5 m/s.
    assert amount(found.need, "need") / 1e4 == pytest.approx(flow / 3600 / 1.5, rel=0.02)


def test_a_wider_window_is_never_judged_worse():
    ranks = [
        ("short", "tight", "good").index(margin(windowed(side / 100), "air.intake").verdict) for side in range(6, 30, 3)
    ]
    assert ranks == sorted(ranks)
    assert set(ranks) == {0, 1, 2}


@pytest.mark.parametrize("side_m", [0.06, 0.1, 0.16])
def test_suction_behind_a_window_is_that_of_an_orifice(side_m):
    found = report_of(windowed(side_m))
    flow, suction = amount(found.margin("air.intake").why, "q"), amount(found.margin("air.pressure").why, "p")
    # Sharp-edged, Cd 0.60 of the clear area: 1.2/2 · (Q/CdA)²; warm air adds a few tenths of a pascal along the height.
    assert suction == pytest.approx(-0.6 * (flow / 3600 / (0.60 * side_m**2)) ** 2, rel=0.03, abs=0.4)


@pytest.mark.parametrize("flow", [60, 120, 200, 240, 300, 380])
def test_speed_in_a_duct_is_flow_by_its_bore(flow):
    space = planted(with_port(exhaust(measured=Measured(flow_m3_h=flow))))
    found = margin(space, "air.duct.exhaust")
    speed = flow / 3600 / (math.pi / 4 * 0.125**2)
    if found is not None:
        assert amount(found.why, "v") == pytest.approx(speed, rel=1e-3)
        assert found.verdict == ("good" if speed <= 5 else "tight" if speed <= 8 else "over")
    else:
        assert speed <= 5


@pytest.mark.parametrize("flow", [60, 110, 160, 200, 240, 270, 320])
def test_a_filter_s_bed_by_hand(flow):
    found = margin(planted(with_port(exhaust(measured=Measured(flow_m3_h=flow)))), "air.filter.filter")
    # The bed lies from 125 to 201 mm, 0.4 m long: its middle face, and its volume.
    face, volume = math.pi * (0.125 + 0.038) * 0.4, math.pi / 4 * (0.201**2 - 0.125**2) * 0.4
    speed, contact = flow / 3600 / face, volume / (flow / 3600)
    assert amount(found.why, "q") == pytest.approx(flow, rel=1e-3)
    steps = {step.symbol: step.amount.value for step in found.working.steps}
    assert steps["v"] == pytest.approx(speed, rel=0.01)
    assert steps["t"] == pytest.approx(contact, rel=0.01)
    over = flow > 248 or contact < 0.06 or speed > 0.40
    assert found.verdict == ("over" if over else "tight" if contact < 0.10 or speed > 0.25 else "good")


@pytest.mark.parametrize("wish", [20, 30, 40, 50, 60, 70])
def test_noise_against_a_wish_turns_three_decibels_below_it(wish):
    found = margin(planted(with_port(exhaust()), air=Air(leak_cm2=18, noise_wish_dba=wish)), "air.noise")
    heard = amount(found.there, "there")
    assert found.verdict == ("over" if heard > wish else "tight" if heard > wish - 3 else "good")
    assert found.mendable is (found.verdict == "over")


def test_two_equal_fans_are_three_decibels_louder_and_twice_as_far_is_quieter():
    def heard(count=1, **air):
        fan = FanPart(id="fan", spec=FAN, count=count)
        way = with_port(Airway(id="a", name="A", parts=(duct(1, 0.4), fan)))
        return amount(margin(planted(way, air=Air(leak_cm2=18, **air)), "air.noise").there, "there")

    assert heard(2) - heard() == pytest.approx(10 * math.log10(2), abs=0.01)
    # Near by, distance tells; far off, the room's own echo holds the level.
    near, far = heard(listen_m=0.5) - heard(listen_m=1), heard(listen_m=5) - heard(listen_m=10)
    assert 6 > near > far > 0
