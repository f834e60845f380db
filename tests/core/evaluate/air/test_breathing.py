"""What comes in, what the room becomes, how a space without fans settles, and what asks by day and by night."""

import pytest

from canopy.air import breath, governing
from canopy.air.stirring import whole_air_m_s
from canopy.climate import Stand
from canopy.evaluate import evaluate_space
from canopy.evaluate.air.steady import inside_heat_w
from canopy.plan import Air, Airway, Ambient, Device, FanPart, Measured, Opening, Site, Stirrer, Surface
from canopy.power import appliance_loads
from canopy.psychrometrics import humidity_ratio
from canopy.schedule import Cycle
from tests.core.air.test_network import joined
from tests.core.air.test_what_air_does import USB
from tests.core.air.worked import FAN, SMALL, a_room, exhaust, household, tent
from tests.core.evaluate.air.test_verdicts import PORT, planted, report_of, with_port

ROOM = a_room(day_c=21, day_rh_pct=50, night_c=18, night_rh_pct=55)
COLD = Ambient(day_c=1, day_rh_pct=80, night_c=-5, night_rh_pct=85)


def half(space, *others, lit=True):
    found = report_of(space, *others).breathing
    return found.lit if lit else found.dark


def blown(ends="outdoors", away=COLD, flow=100.0, **more):
    return Airway(
        id="in",
        name="In",
        way="in",
        ends=ends,
        away=away,
        parts=(FanPart(id="f", spec=SMALL),),
        measured=Measured(flow_m3_h=flow),
        **more,
    )


def test_air_from_outdoors_comes_as_it_is_by_day_and_by_night():
    space = planted(blown(), room=ROOM, openings=(PORT,), air=Air(leak_cm2=0))
    assert half(space).intake.temperature_c == pytest.approx(1, abs=0.3)
    assert half(space, lit=False).intake.temperature_c == pytest.approx(-5, abs=0.3)
    assert half(space).intake.rh_pct == pytest.approx(80, abs=3)


def test_a_mixture_is_mixed_by_its_flows():
    # 100 m³/h from outdoors blown in, 200 drawn out: the other hundred comes from the room through the flap.
    out = Airway(id="out", name="Out", parts=(FanPart(id="g", spec=FAN),), measured=Measured(flow_m3_h=200))
    found = half(planted(blown(), out, room=ROOM))
    assert found.intake.temperature_c == pytest.approx((1 + 21) / 2, abs=0.3)
    ratio = (humidity_ratio(1, 80) + humidity_ratio(21, 50)) / 2
    assert humidity_ratio(found.intake.temperature_c, found.intake.rh_pct) == pytest.approx(ratio, rel=0.03)


@pytest.mark.parametrize("on", [30, 6])
def test_a_cycle_counts_by_its_share_of_the_air_that_comes_in(on):
    steady = Airway(id="out", name="Out", parts=(FanPart(id="g", spec=FAN),), measured=Measured(flow_m3_h=200))
    found = half(planted(blown(schedule=Cycle(on_min=on, every_min=60)), steady, room=ROOM))
    running, idle = found.air.phases
    assert (running.share, idle.share) == (pytest.approx(on / 60), pytest.approx(1 - on / 60))
    # A fan that stands lets a little through all the same.
    outdoors = running.share * 100 + idle.share * idle.air.way("in").flow_m3_h
    assert running.air.way("in").flow_m3_h == 100 > idle.air.way("in").flow_m3_h > 0
    want = 21 - 20 * outdoors / found.air.total_m3_h
    assert found.intake.temperature_c == pytest.approx(want, abs=0.05)


def test_a_purge_outdoors_takes_its_share_of_the_heat_from_the_room():
    small = a_room(floor_m2=8, exchange_per_h=0.5)

    def rise(**cycle):
        way = Airway(id="out", name="Out", ends="outdoors", parts=(FanPart(id="g", spec=FAN),), **cycle)
        return half(planted(way, room=small)).room.rise_k

    always, half_the_time, seldom = (
        rise(),
        rise(schedule=Cycle(on_min=30, every_min=60)),
        rise(schedule=Cycle(on_min=3, every_min=60)),
    )
    assert always < half_the_time < seldom
    assert seldom < half(planted(with_port(exhaust()), room=small)).room.rise_k


def test_another_room_s_air_is_lived_in_where_nothing_was_typed():
    space = planted(blown(ends="other-room", away=None), room=a_room(day_c=26), openings=(PORT,), air=Air(leak_cm2=0))
    assert half(space).intake.temperature_c == pytest.approx(20, abs=0.2)
    assert half(space, lit=False).intake.temperature_c == pytest.approx(17, abs=0.2)


def test_a_loop_brings_back_what_was_typed_of_the_other_space():
    _, space, far = joined()
    dry = Ambient(day_c=24, day_rh_pct=30, night_c=22, night_rh_pct=35)
    ways = tuple(way.model_copy(update={"away": dry}) if way.id == "back" else way for way in space.airways)
    space = space.model_copy(update={"airways": ways, "plants": planted().plants, "fixtures": planted().fixtures})
    found = half(space, far)
    assert 22.5 < found.intake.temperature_c < 24.2
    assert 28 < found.intake.rh_pct < 38
    assert (
        found.demand("moisture").flow_m3_h
        < half(space.model_copy(update={"airways": joined()[1].airways}), far).demand("moisture").flow_m3_h
    )


def test_without_fans_warmth_and_flow_settle_together():
    holes = (
        Opening(id="low", face="left", shape="slit", u_m=0.4, v_m=0.15, width_m=0.5, height_m=0.1),
        Opening(id="high", face="right", shape="slit", u_m=0.4, v_m=1.75, width_m=0.5, height_m=0.1, use="exhaust"),
    )
    space = planted(openings=holes, room=ROOM)
    found = half(space)
    rise = found.steady.temperature_c - ROOM.day_c
    assert rise > 0.5
    now = breath(household(space), space, lit=True, rise_k=rise)
    assert found.steady.flow_m3_h == pytest.approx(now.total_m3_h, rel=0.06)
    # Twice the openings, more air, less warmth.
    wide = tuple(hole.model_copy(update={"height_m": 0.2}) for hole in holes)
    other = half(planted(openings=wide, room=ROOM)).steady
    assert other.flow_m3_h > found.steady.flow_m3_h
    assert other.temperature_c < found.steady.temperature_c


def test_an_open_front_holds_the_room_s_air():
    space = planted(room=ROOM)
    open_front = space.model_copy(
        update={"faces": space.faces.model_copy(update={"front": Surface(material_id="open")})}
    )
    assert half(open_front).steady.temperature_c == pytest.approx(ROOM.day_c, abs=1.5)
    assert half(open_front).air.total_m3_h > 5 * half(space).air.total_m3_h


def test_the_balance_of_heat_closes_by_day_and_by_night():
    found = report_of(planted(with_port(exhaust()), room=ROOM)).breathing
    for part in (found.lit, found.dark):
        steady, room_c = part.steady, part.around.temperature_c
        carried = steady.flow_m3_h / 3600 * 1.18 * 1020
        gained = (part.needs.envelope_w_k + carried) * (steady.temperature_c - room_c)
        assert gained == pytest.approx(steady.heat_w - 2.45e6 * steady.vapour_kg_s, abs=6)


def test_the_balance_of_water_closes():
    steady = half(planted(with_port(exhaust()), room=ROOM)).steady
    gained = humidity_ratio(steady.temperature_c, steady.rh_pct) - humidity_ratio(ROOM.day_c, ROOM.day_rh_pct)
    assert gained * steady.flow_m3_h / 3600 * 1.18 == pytest.approx(steady.vapour_kg_s, rel=0.04)


def test_by_night_only_heat_and_moisture_ask():
    found = report_of(planted(with_port(exhaust()), room=ROOM, air=Air(leak_cm2=18, rule="exchange"))).breathing
    assert found.governing.criterion == "exchange"
    assert found.dark.governing.criterion in ("heat", "moisture")
    assert found.dark.needs.co2_mol_s == 0
    assert governing(found.dark.demands, "co2", lit=False).criterion in ("heat", "moisture")
    assert found.dark.needs.heat_w < found.lit.needs.heat_w


def test_a_fan_inside_heats_and_one_outside_does_not():
    def heat(way):
        space = tent(way, openings=(PORT,))
        return inside_heat_w(space, appliance_loads(space), lit=False)

    inside, outside = with_port(exhaust()), with_port(exhaust(), 0)
    assert (heat(inside), heat(outside)) == (28, 0)
    assert heat(Airway(id="i", name="I", way="in", parts=(FanPart(id="f", spec=SMALL, speed=0.5),))) == pytest.approx(
        14 / 4
    )


def test_stirred_air_lets_leaves_give_off_more():
    calm = planted(with_port(exhaust()), room=ROOM)
    fan = Stirrer(id="s", spec=USB, x_m=0.1, y_m=0.4, z_m=1.2)
    windy = calm.model_copy(update={"stirrers": (fan, fan.model_copy(update={"id": "t"}))})
    assert half(windy).needs.vapour_kg_s > 1.05 * half(calm).needs.vapour_kg_s
    assert whole_air_m_s(calm, 2.0) == pytest.approx(0.05)
    switched_off = windy.model_copy(update={"stirrers": (fan.model_copy(update={"enabled": False}),)})
    assert whole_air_m_s(switched_off, 2.0) == pytest.approx(0.05)
    assert whole_air_m_s(windy, 2.0) > whole_air_m_s(windy, 6.0) > 0.1


def test_an_empty_space_breathes_and_asks_for_little():
    found = half(tent(exhaust(), room=ROOM))
    assert found.needs.vapour_kg_s == 0
    assert found.demand("moisture").flow_m3_h == 0
    assert found.demand("co2").flow_m3_h == 0
    assert Stand(area_m2=0.0, lai=0.0, ppfd_umol_m2_s=0.0).area_m2 == 0


@pytest.mark.parametrize(
    ("floor", "exchange", "loss"), [(6, 0.3, None), (20, 0.5, None), (60, 1.0, None), (20, 0.5, 200.0)]
)
def test_larger_leakier_rooms_take_more(floor, exchange, loss):
    room = a_room(floor_m2=floor, exchange_per_h=exchange, loss_w_k=loss)
    load = half(planted(with_port(exhaust()), room=room)).room
    heat = half(planted(with_port(exhaust()), room=room)).needs.heat_w
    conduct = (loss or 3.0 * floor) + floor * 2.4 * exchange / 3600 * 1.19 * 1020
    assert load.rise_k == pytest.approx(heat / conduct, rel=0.03)
    assert load.temperature_c == pytest.approx(21 + load.rise_k)


def at_height(space, altitude_m):
    plan = household(space, site=Site(altitude_m=altitude_m))
    return evaluate_space(plan, space, with_map=False)


def test_high_up_the_same_flow_carries_less():
    low, high = (at_height(planted(with_port(exhaust())), z).breathing.lit for z in (0, 2500))
    assert high.demand("exchange").flow_m3_h == low.demand("exchange").flow_m3_h
    assert high.demand("heat").plain_m3_h > 1.2 * low.demand("heat").plain_m3_h


def test_what_runs_by_a_thermostat_is_in_no_steady_balance(small_plan):
    def with_device(kind, power):
        spec = {"name": "Thing", "kind": kind, "power_w": power}
        device = Device.model_validate({"id": "d", "spec": spec})
        space = small_plan.spaces[0].model_copy(update={"devices": (device,)})
        plan = small_plan.model_copy(update={"spaces": (space,)})
        return evaluate_space(plan, space, with_map=False)

    bare = evaluate_space(small_plan, small_plan.spaces[0], with_map=False)
    for kind in ("heater", "mat", "humidifier", "dehumidifier"):
        report = with_device(kind, 400)
        changed = {
            margin.id
            for margin in report.margins
            if margin.station in ("air", "light", "crops", "space")
            and (old := bare.margin(margin.id)) is not None
            and (old.verdict, old.there.say()) != (margin.verdict, margin.there.say())
        }
        assert not changed
        # At the plug it counts in full.
        assert report.running.power_w == pytest.approx(bare.running.power_w + 400)
    pump = with_device("pump", 40)
    assert pump.breathing.lit.needs.heat_w == pytest.approx(bare.breathing.lit.needs.heat_w + 40)
