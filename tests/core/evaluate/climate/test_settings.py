"""Settings out of reach say what it would take; devices that fight are named with what they cost."""

import pytest

from canopy.equipment import DeviceSpec
from canopy.evaluate.climate.devices import setting_of
from canopy.evaluate.kept import report_of
from canopy.plan.airways import Airway
from canopy.plan.controls import FanControl, Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.schedule import Cycle
from tests.core.evaluate.climate.test_building import with_space


def report(plan, *devices, way=None, space_id="berry-tent"):
    space = plan.space(space_id)
    airways = space.airways
    if way is not None:
        data = airways[0].model_dump()
        for part in data["parts"]:
            if part["kind"] == "fan":
                part["speed"] = 0.5
        airways = (Airway.model_validate({**data, "control": way.model_dump()}), *airways[1:])
    changed = with_space(plan, space.model_copy(update={"devices": devices, "airways": airways}))
    return report_of(changed, changed.space(space_id), follow=True)


def heater(power_w, day, night, key="heater", band=1.0):
    spec = DeviceSpec(name="Heater", kind="heater", power_w=power_w)
    return Device(id=key, spec=spec, control=Thermostat(day_c=day, night_c=night, band_k=band))


def mist(grams, rh, key="mist"):
    spec = DeviceSpec(name="Mist", kind="humidifier", power_w=20, water_g_h=grams)
    return Device(id=key, spec=spec, control=Hygrostat(day_rh_pct=rh, night_rh_pct=rh))


def test_a_heater_too_small_says_how_much_more_and_that_reaches(demo_plan):
    small = report(demo_plan, heater(40, 30, 30))
    margin = small.margin("climate.setting.heater")
    assert margin.verdict == "short"
    more = dict(margin.why.amounts)["more"].value
    large = report(demo_plan, heater(40 + more, 30, 30))
    assert large.margin("climate.setting.heater") is None
    # What is asked for is no multiple of what it takes: three quarters of it do not reach.
    between = report(demo_plan, heater(40 + 0.6 * more, 30, 30))
    assert between.margin("climate.setting.heater") is not None


def test_a_humidifier_too_small_says_how_many_grams(demo_plan):
    small = report(demo_plan, mist(20, 90))
    margin = small.margin("climate.setting.mist")
    assert margin.verdict == "short"
    assert "g/h" in margin.why.say()


def test_what_reaches_its_setting_says_nothing(demo_plan):
    assert report(demo_plan, heater(500, 22, 20)).margin("climate.setting.heater") is None


def test_heating_against_cooling_is_named_with_its_cost(demo_plan):
    spec = DeviceSpec(name="Cooler", kind="cooler", power_w=200, cools_w=600, heats_space=0)
    cooler = Device(id="cooler", spec=spec, control=Thermostat(day_c=22, night_c=20, band_k=1))
    found = report(demo_plan, heater(400, 24, 22), cooler)
    fight = found.margin("climate.fight.heater.cooler")
    assert fight.verdict == "tight"
    amounts = dict(fight.why.amounts)
    assert amounts["cost"].value == pytest.approx(amounts["kwh"].value * 30.4 * demo_plan.tariff.price_per_kwh)
    apart = report(
        demo_plan, heater(400, 17, 16), cooler.model_copy(update={"control": Thermostat(day_c=27, night_c=27)})
    )
    assert apart.margin("climate.fight.heater.cooler") is None


def test_a_humidifier_against_the_fans_controller_costs_water(demo_plan):
    way = FanControl(damp_day_pct=55, damp_night_pct=55, most=1.0)
    fight = report(demo_plan, mist(200, 75), way=way).margin("climate.fight.mist.fan")
    assert fight is not None
    assert dict(fight.why.amounts)["litres"].value > 0.5


def test_by_the_clock_alone_it_runs_whatever_the_air_is_like(demo_plan):
    spec = DeviceSpec(name="Fogger", kind="humidifier", power_w=20, water_g_h=60)
    device = Device(id="fog", spec=spec, schedule=Cycle(on_min=5, every_min=60), by_clock=True)
    found = report(demo_plan, device)
    assert setting_of(device, found.here.plants).control is None
    assert found.climate.share_of("fog") == pytest.approx(5 / 60, rel=1e-3)
    with pytest.raises(ValueError, match="not both"):
        Device(id="fog", spec=spec, by_clock=True, control=Hygrostat(day_rh_pct=60, night_rh_pct=60))


def test_a_cooler_takes_what_it_is_rated_for_and_never_cools_below_its_coil(demo_plan):
    space = demo_plan.space("fern-case")
    means = []
    for watts in (30.0, 4000.0):
        spec = DeviceSpec(name="Cool", kind="cooler", power_w=watts / 2.6, cools_w=watts, heats_space=0)
        cooler = Device(id="cool", spec=spec, by_clock=True)
        plan = with_space(demo_plan, space.model_copy(update={"devices": (cooler,)}))
        found = report_of(plan, plan.space("fern-case"), follow=True).climate
        means.append(found.mean("air_c", day=True))
        assert found.traces.air_c.min() > 6.9
        assert found.days.closure.heat < 1e-9
    bare = with_space(demo_plan, space.model_copy(update={"devices": ()}))
    usual = report_of(bare, bare.space("fern-case"), follow=True).climate.mean("air_c", day=True)
    assert means[1] < means[0] < usual - 0.5
