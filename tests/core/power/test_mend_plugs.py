"""What is plugged in where it must not be gets another place, and is well there."""

import datetime as dt

import pytest

from canopy.design.remedies import options_for
from canopy.evaluate import evaluate_space
from canopy.plan import Carrier, Circuit, Device, Outlet, dumps, loads
from canopy.plan.edit import apply

DAY = dt.date(2026, 3, 14)
OUTLET = Outlet(id="wall", name="Wall", circuit_id="c", rcd=True, height_m=0.5)


def _plan(small_plan, carriers, devices=(), plug=None):
    circuit = Circuit(id="c", name="C", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    space = small_plan.spaces[0]
    lamps = tuple(lamp.model_copy(update={"plug": plug}) for lamp in space.fixtures)
    space = space.model_copy(update={"circuit_id": "c", "fixtures": lamps, "devices": tuple(devices)})
    values = {"circuits": (circuit,), "outlets": (OUTLET,), "carriers": tuple(carriers), "spaces": (space,)}
    return loads(dumps(small_plan.model_copy(update=values)))


def _heater(key, watts=500.0, **more):
    spec = {"name": f"Heater {key}", "kind": "heater", "power_w": watts}
    return Device.model_validate({"id": key, "spec": spec, **more})


def _report(plan):
    return evaluate_space(plan, plan.spaces[0], day=DAY, with_map=False)


def _mended(plan, margin_id):
    report = _report(plan)
    assert report.margin(margin_id).verdict in ("short", "over", "tight")
    (option, *_) = options_for(report, margin_id)
    assert option.mends
    after = apply(plan, plan.spaces[0].id, list(option.remedy.changes))
    margin = next((m for m in _report(after).margins if m.id == margin_id), None)
    assert margin is None or margin.verdict == "good"
    return after, option.remedy.label.say()


def test_a_chained_strip_goes_straight_into_the_outlet(small_plan):
    strips = [
        Carrier(id="one", name="One", into="wall", limit_w=2300),
        Carrier(id="two", name="Two", into="one", limit_w=2300),
    ]
    after, label = _mended(_plan(small_plan, strips, plug="two"), "power.plug.two")
    assert label == "Plug Two straight into Wall"
    assert {item.id: item.into for item in after.carriers} == {"one": "wall", "two": "wall"}


def test_a_heater_goes_past_a_timer_not_made_for_it(small_plan):
    timer = Carrier(id="t", name="T", kind="timer", into="wall", limit_w=2300, motor_w=800, heaters=False)
    plan = _plan(small_plan, [timer], [_heater("h", plug="t")], plug="t")
    after, _ = _mended(plan, "power.plug.t")
    assert after.spaces[0].devices[0].plug == "wall"
    assert {lamp.plug for lamp in after.spaces[0].fixtures} == {"t"}


def test_the_fewest_come_off_an_overloaded_strip_and_pinned_ones_stay(small_plan):
    strip = Carrier(id="s", name="S", into="wall", limit_w=1200)
    devices = [_heater("a", 1000, plug="s", pinned=True), _heater("b", 600, plug="s"), _heater("d", 100, plug="s")]
    after, _ = _mended(_plan(small_plan, [strip], devices), "power.plug.s")
    assert [device.plug for device in after.spaces[0].devices][:2] == ["s", "wall"]


def test_a_cord_too_thin_for_what_hangs_on_it_is_relieved(small_plan):
    # 0.75 mm² carries 6 A: 1,380 W of the 2,000 W there; nothing is printed on it.
    cord = Carrier(id="k", name="Cord", kind="cord", into="wall", length_m=2, area_mm2=0.75)
    after, _ = _mended(
        _plan(small_plan, [cord], [_heater("a", 1100, plug="k"), _heater("b", 900, plug="k")]), "power.plug.k"
    )
    assert [device.plug for device in after.spaces[0].devices] == ["wall", "k"]


def test_a_coiled_reel_is_wound_off(small_plan):
    reel = Carrier(id="r", name="Reel", kind="reel", into="wall", limit_w=3000, coiled=True)
    after, label = _mended(_plan(small_plan, [reel], [_heater("h", plug="r")]), "power.plug.r")
    assert label == "Wind Reel off to its end"
    assert not after.carriers[0].coiled


def test_where_only_another_cord_would_help_nothing_is_offered(small_plan):
    cord = Carrier(id="k", name="Cord", kind="cord", into="wall", limit_w=3000, length_m=60, area_mm2=0.75)
    plan = _plan(small_plan, [cord], [_heater("h", 900, plug="k")])
    assert _report(plan).margin("power.plug.k").verdict in ("short", "over")
    assert all(not option.mends for option in options_for(_report(plan), "power.plug.k"))


@pytest.mark.parametrize("gone", ["power.plug.no-such", "power.plug"])
def test_a_margin_that_is_not_there_has_no_way_out(small_plan, gone):
    assert options_for(_report(_plan(small_plan, [])), gone) == ()


def _fogger(plug):
    return Device.model_validate(
        {"id": "fog", "spec": {"name": "Fogger", "kind": "humidifier", "power_w": 20}, "plug": plug}
    )


def test_water_near_an_outlet_without_protection_gets_an_adapter(small_plan):
    plan = _plan(small_plan, [Carrier(id="s", name="S", into="wall", limit_w=2300)], [_fogger("wall")], plug="s")
    bare = plan.outlets[0].model_copy(update={"rcd": False, "drip_loops": True, "height_m": 1.0})
    after, label = _mended(plan.model_copy(update={"outlets": (bare,)}), "power.water")
    assert "adapter" in label
    adapter = next(item for item in after.carriers if item.kind == "rcd-adapter")
    assert adapter.into == "wall"
    assert after.spaces[0].devices[0].plug == adapter.id
    assert next(item for item in after.carriers if item.id == "s").into == adapter.id


def test_cords_are_hung_in_loops(small_plan):
    plan = _plan(small_plan, [], [_fogger("wall")], plug="wall")
    outlet = plan.outlets[0].model_copy(update={"drip_loops": False, "height_m": 1.0})
    after, _ = _mended(plan.model_copy(update={"outlets": (outlet,)}), "power.loops")
    assert after.outlets[0].drip_loops


def test_a_chain_that_carries_too_much_is_parted(small_plan):
    plan = _plan(small_plan, [], plug="wall")
    lamp = plan.spaces[0].fixtures[0]
    spec = lamp.spec.model_copy(update={"power_w": 40.0, "link_limit_w": 100.0})
    lamps = tuple(lamp.model_copy(update={"id": f"lamp-{n}", "spec": spec, "chain": "row"}) for n in (1, 2, 3))
    space = plan.spaces[0].model_copy(update={"fixtures": lamps})
    after, _ = _mended(plan.model_copy(update={"spaces": (space,)}), "power.chain.row")
    assert [item.chain for item in after.spaces[0].fixtures] == ["row", "row", ""]
