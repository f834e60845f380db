"""Fans of one way that run at different speeds, bare outlets, and where kinds of fan stall."""

from itertools import pairwise

import pytest

from canopy.air import ventilation
from canopy.air.chain import chain_of
from canopy.air.fan_curve import fan_curve, stall_share
from canopy.air.losses import dynamic_pa
from canopy.air.network import Moment, network
from canopy.air.operating import at_speed, operating_point, operating_points
from canopy.equipment import FanSpec
from canopy.library import fan_wheels, fans
from canopy.plan import AdapterPart, Airway, DuctPart, FanPart
from canopy.power import appliance_loads
from tests.core.air.worked import FAN, FLEX, SMALL, household, tent


def two(first, second, **more):
    """Two small fans one behind the other."""
    parts = (FanPart(id="a", spec=SMALL, speed=first), FanPart(id="b", spec=SMALL, speed=second))
    duct = DuctPart(id="d", spec=FLEX, diameter_m=SMALL.diameter_m, length_m=1.5)
    space = tent(Airway(id="way", name="Way", parts=(*parts, duct), **more))
    return household(space), space


@pytest.mark.parametrize(("first", "second"), [(1.0, 0.0), (0.0, 1.0), (1.0, 0.5), (0.6, 0.6)])
def test_each_fan_keeps_its_own_speed_in_every_figure(first, second):
    plan, space = two(first, second)
    flow = ventilation(plan, space).ways[0]
    point = operating_point(network(plan, space, Moment()), "tent", "way")
    assert point.speeds == flow.way.speeds == (first, second)
    assert point.flow_m3_h == pytest.approx(flow.flow_m3_h, abs=1e-4)
    assert point.lift_pa == pytest.approx(flow.lift_pa, abs=1e-4)
    assert point.power_w == pytest.approx(SMALL.power_w * (first**2 + second**2))
    assert point.power_w == pytest.approx(sum(load.power_w for load in appliance_loads(space)))
    assert point.free_m3_h == pytest.approx(SMALL.free_flow_m3_h * min(s for s in (first, second) if s > 0))
    assert point.max_pa == pytest.approx(fan_curve(SMALL).max_pa * (first**2 + second**2))
    assert not point.stalls


def test_the_step_of_the_lead_fan_leaves_a_standing_one_standing():
    plan, space = two(0.5, 0.0)
    for point in operating_points(plan, space, space.airways[0]):
        assert point.speeds == (point.speed, 0.0)
    assert [fan.speed for fan in at_speed(space, space.airways[0], 0.8).airways[0].fans] == [0.8, 0.0]
    # On one control both go along.
    plan, space = two(0.5, 0.5)
    assert {point.speeds for point in operating_points(plan, space, space.airways[0])} >= {(1.0, 1.0)}
    assert [fan.speed for fan in at_speed(space, space.airways[0], 0.8).airways[0].fans] == [0.8, 0.8]


def test_a_standing_fan_costs_flow_and_a_running_one_adds():
    flows = [ventilation(*two(1.0, second)).ways[0].flow_m3_h for second in (0.0, 0.5, 1.0)]
    assert flows[0] < flows[1] < flows[2]


def test_a_speed_between_the_steps_is_listed():
    plan, space = two(0.55, 0.55)
    speeds = [point.speed for point in operating_points(plan, space, space.airways[0])]
    assert 0.55 in speeds
    assert speeds == sorted(speeds)


def bare(*behind, pressure="static"):
    spec = FAN.model_copy(update={"pressure": pressure})
    return chain_of(Airway(id="w", name="W", parts=(FanPart(id="f", spec=spec), *behind)))


def test_a_bare_outlet_is_paid_once():
    assert bare().loss_pa(0.05) == 0
    assert bare(pressure="total").loss_pa(0.05) == pytest.approx(dynamic_pa(0.05, FAN.diameter_m))
    assert bare().elements[-1].name == "exit, in the fan's static pressure"
    duct = DuctPart(id="d", spec=FLEX, diameter_m=FAN.diameter_m, length_m=0.01)
    assert bare(duct).loss_pa(0.05) > dynamic_pa(0.05, FAN.diameter_m)


@pytest.mark.parametrize("wide", [0.13, 0.15, 0.2, 0.25, 0.4])
@pytest.mark.parametrize("make", ["cone", "step"])
@pytest.mark.parametrize("pressure", ["static", "total"])
def test_a_widening_behind_a_bare_fan_never_lowers_the_flow(wide, make, pressure):
    cone = AdapterPart(id="c", from_m=FAN.diameter_m, to_m=wide, make=make)
    with_it, without = bare(cone, pressure=pressure), bare(pressure=pressure)
    assert with_it.loss_pa(0.05) <= without.loss_pa(0.05) + 1e-9
    assert with_it.loss_pa(0.05) >= 0


def test_kinds_of_fan_stall_where_their_wheel_does():
    order = [fan_wheels()[key] for key in ("radial", "mixed", "axial")]
    for one, other in pairwise(order):
        assert one.stall_share < other.stall_share
    for row in fan_wheels().values():
        assert row.range_share.holds(row.stall_share)
    kinds = {row.spec.kind: stall_share(row.spec) for row in fans().values()}
    assert kinds["case"] == kinds["axial"] > kinds["inline"]


def test_a_peak_in_a_typed_curve_goes_before_its_kind():
    # 25 Pa at its peak, half way along.
    points = ((0, 24.0), (30, 23.5), (60, 25.0), (90, 14.0), (120, 0.0))
    spec = FanSpec(name="F", kind="axial", free_flow_m3_h=120, diameter_m=0.1, power_w=5, curve=points)
    assert stall_share(spec) == pytest.approx(0.5)
