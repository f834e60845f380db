"""The worked tent at every setting, mass in balance, series and parallel, joined spaces, cycles, doors."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from canopy.air.chain import adapter_class, chain_of
from canopy.air.network import Moment, neighbours, network, pressures_pa
from canopy.air.operating import fan_curves, operating_points, speeds_of, system_curve
from canopy.air.ventilation import breath, ventilation
from canopy.library import filters, fittings
from canopy.plan import (
    AdapterPart,
    Air,
    Airway,
    DuctPart,
    FanPart,
    FilterPart,
    FittingPart,
    Measured,
    Opening,
    OtherSpeed,
    PortPart,
    Size,
)
from canopy.roots import falling_root
from canopy.schedule import Cycle, by_hand
from tests.core.air.worked import FAN, FLEX, SMALL, duct, exhaust, household, tent


def air_of(*ways, flaps=True, **more):
    space = tent(*ways, flaps=flaps)
    return ventilation(household(space), space, **more)


@pytest.mark.parametrize(
    ("way", "flaps", "pressure", "flow"),
    [
        ({}, True, -14.9, 184),
        ({"speed": 0.7}, True, -6.9, 125),
        ({"speed": 0.45}, True, -2.6, 76),
        ({"slack": 0.3}, True, -12.3, 167),
        ({"slack": 0.0}, True, -17.4, 199),
        ({"loading": 2.0}, True, -12.0, 165),
        ({"filtered": False}, True, -18.4, 204),
        ({}, False, -183, 71),
    ],
)
def test_the_worked_tent(way, flaps, pressure, flow):
    air = air_of(exhaust(**way), flaps=flaps)
    assert air.pressure_pa == pytest.approx(pressure, rel=0.01, abs=0.06)
    # The page was reckoned with another friction formula: up to 0.7 m³/h apart.
    assert air.ways[0].flow_m3_h == pytest.approx(flow, abs=0.8)


def test_each_element_takes_its_share_and_they_add_up_to_the_fan():
    air = air_of(exhaust())
    way, chain = air.ways[0], air.ways[0].way.chain
    drops = {item.part_id or item.kind: item.drop_pa(way.flow_m3_s) for item in chain.elements}
    want = {"filter": 43, "duct-1": 6, "duct-2": 28, "bend-1": 7.2, "bend-2": 5.6, "exit": 10}
    assert drops == pytest.approx(want, abs=0.4)
    assert sum(drops.values()) - air.pressure_pa == pytest.approx(way.lift_pa, abs=1e-4)
    assert chain.loss_pa(way.flow_m3_s) == pytest.approx(sum(drops.values()))


def test_a_narrower_duct_behind_the_fan_throttles_and_asks_for_adapters():
    way = exhaust(behind_m=0.1)
    air = air_of(way)
    assert air.ways[0].flow_m3_h == pytest.approx(150, abs=6)
    (needed,) = chain_of(way).needed
    assert (needed.class_id, needed.after_id, needed.before_id) == ("cone-125-100", "fan", "duct-2")
    assert adapter_class(0.1, 0.2) == ("", "")


def test_two_small_fans_in_a_row_do_not_double_the_flow():
    def flow(*speeds):
        fans = tuple(FanPart(id=f"fan-{n}", spec=SMALL, speed=speed) for n, speed in enumerate(speeds))
        head = exhaust(spec=SMALL).parts
        parts = (*head[:2], *fans, *head[3:])
        return air_of(Airway(id="a", name="A", parts=parts)).ways[0].flow_m3_h

    one, two, stopped = flow(1.0), flow(1.0, 1.0), flow(1.0, 0.0)
    # The physics page has 84, 108 (+28 %) and 79 (−6 %) in a path of its own.
    assert 1.2 < two / one < 1.45
    assert 0.9 < stopped / one < 0.98


def test_fans_side_by_side_help_where_the_path_is_easy():
    def flow(count, spec=SMALL, steep=False):
        tail = (duct(9, 12.0, 0.3, 0.1),) if steep else ()
        way = Airway(id="a", name="A", parts=(FanPart(id="f", spec=spec, count=count), *tail))
        return air_of(way).ways[0].flow_m3_h

    assert flow(2) / flow(1) > 1.3
    assert flow(2, steep=True) / flow(1, steep=True) < 1.1


@pytest.mark.parametrize(("speed", "negative"), [(0.4, True), (0.55, True), (1.0, False)])
def test_an_intake_that_is_too_strong_turns_the_pressure(speed, negative):
    intake = Airway(id="in", name="In", way="in", parts=(FanPart(id="f", spec=SMALL, speed=speed),))
    air = air_of(exhaust(speed=0.55), intake, flaps=False)
    assert (air.pressure_pa < 0) is negative
    assert (air.unfiltered_m3_h > 1) is not negative
    assert air.fan_in_m3_h + 3600 * sum(hole.flow_m3_s for hole in air.holes) == pytest.approx(
        air.fan_out_m3_h, abs=1e-3
    )


@settings(max_examples=40, deadline=None)
@given(st.floats(0.1, 1), st.floats(0, 0.3), st.floats(1, 2.5), st.floats(0, 200), st.floats(0, 1))
def test_mass_is_in_balance_whatever_the_path(speed, slack, loading, leak, inwards):
    intake = Airway(id="in", name="In", way="in", parts=(FanPart(id="f", spec=SMALL, speed=inwards),))
    space = tent(exhaust(speed=speed, slack=slack, loading=loading), intake, air=Air(leak_cm2=leak))
    air = ventilation(household(space), space, Moment(rise_k=4))
    holes = 3600 * sum(hole.flow_m3_s for hole in air.holes)
    assert air.ways[1].flow_m3_h + holes == pytest.approx(air.ways[0].flow_m3_h, abs=1e-3)


def test_every_step_and_the_chart_s_curves_agree():
    space = tent(exhaust())
    plan = household(space)
    points = operating_points(plan, space, space.airways[0])
    assert [point.speed for point in points] == list(speeds_of(space.airways[0]))
    flows = [point.flow_m3_h for point in points]
    assert flows == sorted(flows)
    assert points[-1].power_w == pytest.approx(28)
    assert points[0].power_w == pytest.approx(28 * 0.3**2)
    assert not points[-1].stalls
    curve = system_curve(plan, space, space.airways[0], flows[-1], count=5)
    assert curve.points[-1][1] == pytest.approx(points[-1].lift_pa, rel=0.001)
    full = fan_curves(space.airways[0])[-1]
    assert full.points[0][1] == pytest.approx(238)
    assert full.points[-1] == (pytest.approx(286), pytest.approx(0, abs=1e-6))
    assert operating_points(plan, space, Airway(id="x", name="X")) == ()


def test_a_fan_before_a_wall_of_duct_stalls():
    way = Airway(
        id="a", name="A", parts=(FanPart(id="f", spec=SMALL), DuctPart(id="d", spec=FLEX, diameter_m=0.05, length_m=30))
    )
    space = tent(way)
    assert operating_points(household(space), space, way)[-1].stalls


def test_a_flap_lets_nothing_back_and_wants_to_be_lifted():
    flap = FittingPart(id="flap", spec=fittings()["damper-125"].spec)
    weak = Airway(id="weak", name="Weak", parts=(FanPart(id="f", spec=FAN, speed=0.0), flap))
    open_end = weak.model_copy(update={"parts": weak.parts[:1]})
    strong = exhaust()
    with_flap, without = air_of(strong, weak, flaps=False), air_of(strong, open_end, flaps=False)
    assert without.ways[1].flow_m3_h < -50
    assert -3 < with_flap.ways[1].flow_m3_h <= 0
    chain = chain_of(Airway(id="x", name="X", parts=(flap,)))
    assert chain.elements[0].drop_pa(0.005) == pytest.approx(4 * 0.005 / 0.0051)
    assert chain.elements[0].drop_pa(0.1) > 30


def test_a_shut_port_moves_nothing_and_a_narrow_one_throttles():
    def flow(**hole):
        port = Opening(
            **{"id": "p", "face": "left", "u_m": 0.4, "v_m": 1.7, "diameter_m": 0.125, "use": "exhaust", **hole}
        )
        way = exhaust()
        way = way.model_copy(update={"parts": (*way.parts[:4], PortPart(id="port", opening_id="p"), *way.parts[4:])})
        space = tent(way)
        space = space.model_copy(update={"openings": (*space.openings, port)})
        return ventilation(household(space), space).ways[0].flow_m3_h

    assert flow() == flow(diameter_m=0.2) == pytest.approx(184, abs=0.8)
    assert flow(diameter_m=0.08) < 172 < 184
    assert flow(open=False) == flow(use="closed") == 0


def test_an_adapter_typed_between_is_not_asked_for_again():
    cone = AdapterPart(id="cone", from_m=0.125, to_m=0.1)
    fan = FanPart(id="fan", spec=FAN)
    whole = chain_of(Airway(id="a", name="A", parts=(fan, cone, duct(1, 1.0, 0.12, 0.1))))
    bare = chain_of(Airway(id="a", name="A", parts=(fan, duct(1, 1.0, 0.12, 0.1))))
    assert (len(whole.needed), len(bare.needed)) == (0, 1)
    assert whole.loss_pa(0.03) == pytest.approx(bare.loss_pa(0.03))


def test_a_measured_flow_goes_before_the_computed_one():
    air = air_of(exhaust(speed=0.5, measured=Measured(flow_m3_h=150, speed=1.0)))
    assert air.ways[0].flow_m3_h == pytest.approx(75)


def joined(back_fan=False, flaps=False):
    """A tent in a closed loop through a cupboard, with a purge."""
    cupboard = tent(kind="cabinet", openings=(), air=Air(leak_cm2=4)).model_copy(
        update={"id": "far", "name": "Far", "size": Size(width_m=0.6, depth_m=0.6, height_m=1.2)}
    )
    out = Airway(
        id="out", name="Out", ends="space", space_id="far", parts=(FanPart(id="f", spec=SMALL), duct(1, 1.0, 0.1, 0.1))
    )
    fans = (FanPart(id="g", spec=SMALL),) if back_fan else ()
    back = Airway(id="back", name="Back", way="in", ends="space", space_id="far", parts=(*fans, duct(2, 1.0, 0.1, 0.1)))
    purge = Airway(
        id="purge",
        name="Purge",
        parts=(FanPart(id="p", spec=SMALL, speed=0.4),),
        schedule=Cycle(on_min=6, every_min=60),
    )
    space = tent(out, back, purge, flaps=flaps, air=Air(leak_cm2=4))
    return household(space, cupboard), space, cupboard


def test_a_loop_goes_round_and_its_halves_match_but_for_the_seams():
    plan, space, cupboard = joined()
    assert [item.id for item in neighbours(plan, cupboard)] == ["far", "tent"]
    quiet = ventilation(plan, space, Moment(still=("purge",)))
    out, back = quiet.ways[0].flow_m3_h, quiet.ways[1].flow_m3_h
    assert out > 40
    assert back == pytest.approx(out, rel=0.12)
    assert quiet.looped_m3_h == pytest.approx(back)
    there = ventilation(plan, cupboard, Moment(still=("purge",)))
    assert there.pressure_pa > 0 > quiet.pressure_pa
    assert there.ways[0].flow_m3_h == pytest.approx(out, rel=1e-3)
    helped = ventilation(*joined(back_fan=True)[:2], Moment(still=("purge",)))
    assert helped.looped_m3_h > 1.2 * quiet.looped_m3_h


def test_a_loop_s_network_is_in_balance_everywhere():
    plan, space, _ = joined()
    found = network(plan, space, Moment(lit=True, rise_k=0.0))
    held = pressures_pa(found)
    for node in found.nodes:
        flows = [
            way.flow_m3_s(held) * (1 if way.to_id == node.space_id else -1)
            for way in found.ways
            if node.space_id in (way.from_id, way.to_id)
        ]
        assert sum(flows) + node.seep_m3_s(held[node.space_id]) == pytest.approx(0, abs=2e-6)


def test_a_sealed_loop_starves_its_purge():
    plan, space, _ = joined()
    running = ventilation(plan, space)
    assert running.ways[2].flow_m3_h < 8
    assert running.pressure_pa < -10


def test_a_cycle_counts_by_its_share():
    plan, space, _ = joined(flaps=True)
    mean = breath(plan, space, lit=True, rise_k=0.0)
    assert [phase.share for phase in mean.phases] == pytest.approx([0.1, 0.9])
    running, idle = mean.phases[0].air, mean.idle
    assert running.fresh_m3_h > idle.fresh_m3_h + 20
    assert mean.fresh_m3_h == pytest.approx(0.1 * running.fresh_m3_h + 0.9 * idle.fresh_m3_h)
    assert mean.total_m3_h > mean.fresh_m3_h


def test_fans_of_the_night_and_a_door_opened_by_hand():
    way = exhaust()
    parts = tuple(p.model_copy(update={"other": OtherSpeed(speed=0.4)}) if p.kind == "fan" else p for p in way.parts)
    space = tent(way.model_copy(update={"parts": parts}))
    day, night = (breath(household(space), space, lit=lit, rise_k=0.0).total_m3_h for lit in (True, False))
    assert night == pytest.approx(
        breath(household(space), tent(exhaust(speed=0.4)), lit=True, rise_k=0).total_m3_h, rel=0.001
    )
    assert night < 0.45 * day
    opened = tent(air=Air(leak_cm2=18, door=by_hand(4, 15)))
    # 1.15 × 1.9 m for an hour a day: 0.6/3 · A √(g H ΔT/T) / 24.
    want = 0.2 * 1.15 * 1.9 * (9.81 * 1.9 * 4 / 295) ** 0.5 * 3600 / 24
    assert breath(household(opened), opened, lit=True, rise_k=4).door_m3_h == pytest.approx(want)


def test_a_way_with_nothing_in_it_is_no_way():
    air = air_of(exhaust(), Airway(id="empty", name="Empty"))
    assert (air.ways[1].flow_m3_h, air.ways[0].flow_m3_h) == (0, pytest.approx(184, abs=0.8))
    hole = chain_of(Airway(id="hole", name="Hole", parts=(PortPart(id="p", opening_id="x"),)), 0.1)
    # Entry and exit of a bare hole: 1.5 dynamic pressures.
    assert hole.loss_pa(0.02) == pytest.approx(1.5 * 0.5 * 1.19 * (0.02 / 0.00785398) ** 2)


def test_the_worked_cabinet():
    """A cabinet of 0.4 m³ with 80 mm fans and light traps of K 6: 27.9 m³/h at −3.4 Pa drawn, 31.2 pushed and
    pulled.
    """
    # The case counts the outlet of the bare fan beside its pressure, as a sheet of total pressure has it.
    sheet = {"free_flow_m3_h": 55.0, "max_pressure_pa": 21.0, "diameter_m": 0.08, "pressure": "total"}
    usb = FAN.model_copy(update=sheet)

    def trap(key, diameter=0.08):
        return FittingPart(id=key, spec=fittings()["light-trap-80"].spec.model_copy(update={"diameter_m": diameter}))

    def pair(*intake, strained=False, fans=1):
        head = (
            (FilterPart(id="pad", spec=filters()["pad-120"].spec.model_copy(update={"diameter_m": 0.08})),)
            if strained
            else ()
        )
        drawn = tuple(FanPart(id=f"f{n}", spec=usb) for n in range(fans))
        out = Airway(id="o", name="O", parts=(*head, trap("t"), *drawn))
        back = Airway(id="i", name="I", way="in", parts=intake)
        box = tent(out, back, kind="cabinet", openings=(), air=Air(leak_cm2=3))
        air = ventilation(household(box), box)
        return air.ways[0].flow_m3_h, air.pressure_pa

    assert pair(trap("u", 0.1)) == (pytest.approx(27.9, rel=0.03), pytest.approx(-3.4, abs=0.3))
    assert pair(trap("u"), FanPart(id="g", spec=usb)) == (pytest.approx(31.2, rel=0.03), pytest.approx(0, abs=1e-3))
    assert pair(trap("u", 0.1), strained=True)[0] == pytest.approx(14.1, rel=0.03)
    assert pair(trap("u", 0.1), strained=True, fans=2)[0] == pytest.approx(20.8, rel=0.04)


def test_falling_roots_are_found_on_either_side():
    assert falling_root(lambda x: 3 - x, 0.1, 1e-9) == pytest.approx(3)
    assert falling_root(lambda x: -3 - x**3, 0.1, 1e-9) == pytest.approx(-(3 ** (1 / 3)))
    assert falling_root(lambda x: -x, 0.1, 1e-9) == 0


@pytest.mark.parametrize("head", [5e-324, -5e-324, 1e-300, -1e-200, 1e-20])
def test_what_is_as_good_as_nothing_passes_zero_at_once(head):
    """Products of such values are nothing to a computer: the bracketing would end anywhere."""
    assert falling_root(lambda x: head - 60 * x * abs(x) / 0.05**2, 0.05, 1e-9) == pytest.approx(0, abs=1e-9)
    # A value that small right where the root is, too.
    assert falling_root(lambda x: (0.25 - x if x != 0.25 else 0.0) + head, 0.05, 1e-9) == pytest.approx(0.25)
