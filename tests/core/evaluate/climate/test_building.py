"""A plan's spaces as a system: power goes somewhere once, air and rooms are joined, controls do what they say."""

import numpy as np
import pytest

from canopy.climate.canopy_gas import Stand
from canopy.climate.columns import PELTIER
from canopy.climate.simulate import simulate
from canopy.equipment import DeviceSpec
from canopy.evaluate.climate.around import dayness
from canopy.evaluate.climate.building import system_of
from canopy.evaluate.climate.contents import after_lights, faces_of, pots_of
from canopy.evaluate.climate.days import simulated
from canopy.evaluate.climate.devices import gives, setting_of
from canopy.evaluate.climate.lamps import lamp_gives
from canopy.evaluate.light.lighting import lighting
from canopy.light.photometry import fixture_load
from canopy.plan.airways import Airway
from canopy.plan.controls import FanControl, Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.season import cast_of, standing_of


def stands(plan, place=0):
    space = plan.spaces[place] if isinstance(place, int) else place
    here = standing_of(space, plan.date, cast_of(plan))
    return here, lighting(here, with_map=False)


def with_space(plan, space):
    return plan.model_copy(update={"spaces": tuple(space if s.id == space.id else s for s in plan.spaces)})


def test_all_of_a_lamps_power_ends_somewhere(demo_plan):
    lamp = demo_plan.spaces[0].fixtures[0]
    for ppfd in (0.0, 300.0, 1500.0):
        for covered in (0.0, 0.4, 0.95):
            found = lamp_gives(lamp, ppfd, Stand(area_m2=0.9, lai=2.0, ppfd_umol_m2_s=ppfd), 0.0, covered)
            total = found.leaf_w + found.sheet_w + found.pot_w + found.lamp_w
            assert total == pytest.approx(fixture_load(lamp))
    hooded = lamp_gives(lamp, 300.0, Stand(area_m2=0.9, lai=2.0, ppfd_umol_m2_s=300.0), 30.0, 0.4)
    assert hooded.leaf_w + hooded.sheet_w + hooded.pot_w + hooded.lamp_w == pytest.approx(fixture_load(lamp) - 30)


def test_a_space_is_simulated_with_those_that_share_its_room_or_its_air(demo_plan):
    here, light = stands(demo_plan)
    alone = system_of(demo_plan, here, light).system
    ids = {item.id for item in alone.enclosures}
    assert here.space.id in ids
    sized = tuple(room.model_copy(update={"floor_m2": 12.0}) for room in demo_plan.rooms)
    shared = demo_plan.model_copy(update={"rooms": sized})
    here, light = stands(shared)
    found = system_of(shared, here, light).system
    same = {space.id for space in shared.spaces if space.room_id == here.space.room_id}
    assert {item.id for item in found.enclosures} >= same
    assert len(found.rooms) >= 1
    days = simulate(found)
    assert max(days.closure.heat, days.closure.water, days.closure.co2) < 1e-9


def test_what_comes_in_is_what_the_network_moves(demo_plan):
    here, light = stands(demo_plan)
    found = simulated(demo_plan, here, light)
    from canopy.evaluate.air.breathing import breathing

    air = breathing(demo_plan, here, light)
    moved = found.mean("flow_m3_h", day=True)
    # At the warmth that comes about, not the one that is allowed: near, not equal.
    assert moved == pytest.approx(air.lit.air.total_m3_h, rel=0.15)


def test_the_sheet_conducts_as_the_walls_do(demo_plan):
    from canopy.air import envelope_w_k
    from canopy.climate.simulate import sheet_of

    here, _ = stands(demo_plan)
    walls = faces_of(here)[:-1]
    inside, outside = sheet_of(walls)[:2]
    assert 1 / (1 / inside + 1 / outside) == pytest.approx(envelope_w_k(here.space), rel=1e-6)


def test_pots_stand_on_no_more_than_the_floor(demo_plan):
    for place in range(len(demo_plan.spaces)):
        here, _ = stands(demo_plan, place)
        floor = here.space.size.width_m * here.space.size.depth_m
        pots = pots_of(here)
        assert 0 < pots.wet <= 1
        assert faces_of(here)[-1].area_m2 >= 0.05 * floor - 1e-9
        assert pots.holds_j_k > 0


def test_a_home_is_warm_by_day():
    clock = dayness(24)
    assert (clock[6 * 3], clock[6 * 7], clock[6 * 12], clock[6 * 23]) == (0.0, 0.5, 1.0, 0.5)


def test_the_minutes_after_the_lamps_go_out():
    lit = np.array([0, 1, 1, 0, 0, 0, 1, 0], dtype=np.float32)
    assert after_lights(lit, 2).tolist() == [0, 0, 0, 1, 1, 0, 0, 1]


@pytest.mark.parametrize(
    ("spec", "figure", "wanted"),
    [
        ({"kind": "heater", "power_w": 100}, "air_w", 100),
        ({"kind": "mat", "power_w": 40}, "pot_w", 40),
        ({"kind": "humidifier", "power_w": 20, "water_g_h": 360}, "vapour_kg_s", 1e-4),
        ({"kind": "humidifier", "power_w": 20, "water_g_h": 360}, "air_w", 20 - 245),
        ({"kind": "humidifier", "power_w": 260, "water_g_h": 360, "mist": "steam"}, "air_w", 15),
        ({"kind": "dehumidifier", "power_w": 200, "dries_l_d": 8.64}, "rated_kg_s", 1e-4),
        ({"kind": "dehumidifier", "power_w": 30, "drying": "peltier"}, "dryer", PELTIER),
        ({"kind": "cooler", "power_w": 200, "cools_w": 600, "heats_space": 0}, "air_w", -600),
        ({"kind": "co2", "power_w": 0, "co2_g_h": 44.01 * 3.6}, "co2_mol_s", 1e-3),
        ({"kind": "pump", "power_w": 12}, "air_w", 12),
    ],
)
def test_what_devices_give(spec, figure, wanted):
    found = gives(Device(id="d", spec=DeviceSpec(name="Thing", **spec)))
    assert getattr(found, figure) == pytest.approx(wanted)


def test_what_nobody_set_holds_what_the_crops_ask_for(demo_plan):
    here, _ = stands(demo_plan)
    heater = Device(id="d", spec=DeviceSpec(name="Heater", kind="heater", power_w=100))
    found = setting_of(heater, here.plants)
    assert found.assumed
    assert found.control.day_c == max(p.want.air_day_c.low for p in here.plants) + 1
    own = heater.model_copy(update={"control": Thermostat(day_c=23, night_c=15)})
    assert (setting_of(own, here.plants).control, setting_of(own, here.plants).assumed) == (own.control, False)
    assert setting_of(Device(id="p", spec=DeviceSpec(name="Pump", kind="pump", power_w=5)), ()).control is None


def test_a_control_must_fit_what_it_switches():
    humidifier = DeviceSpec(name="Fogger", kind="humidifier", power_w=20)
    with pytest.raises(ValueError, match="a thermostat does not switch a humidifier"):
        Device(id="d", spec=humidifier, control=Thermostat(day_c=20, night_c=20))
    assert Device(id="d", spec=humidifier, control=Hygrostat(day_rh_pct=60, night_rh_pct=60)).control


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"hot_day_c": 26}, "for the day and for the night"),
        ({"hot_day_c": 24, "hot_night_c": 24, "cold_day_c": 25, "cold_night_c": 18}, "must lie below the upper one"),
        ({"least": 0.8, "most": 0.5}, "least speed lies above its most"),
    ],
)
def test_a_fan_controller_that_cannot_be_is_refused(fields, words):
    with pytest.raises(ValueError, match=words):
        FanControl(**fields)


def test_a_fan_controller_turns_up_where_it_gets_warm(demo_plan):
    space = demo_plan.spaces[0]
    way = next(way for way in space.airways if way.fans)
    hot = FanControl(most=1.0, hot_day_c=22.0, hot_night_c=22.0, ramp_k=1.0)
    slow = way.model_copy(
        update={
            "parts": tuple(part.model_copy(update={"speed": 0.3}) if part.kind == "fan" else part for part in way.parts)
        }
    )

    def warm(one: Airway) -> tuple[float, float]:
        changed = space.model_copy(
            update={"airways": tuple(one if item.id == way.id else item for item in space.airways)}
        )
        plan = with_space(demo_plan, changed)
        here, light = stands(plan, changed)
        found = simulated(plan, here, light)
        return found.mean("air_c", day=True), found.mean("flow_m3_h", day=True)

    idle, turned = warm(slow), warm(slow.model_copy(update={"control": hot}))
    assert turned[1] > 1.3 * idle[1]
    assert turned[0] < idle[0] - 0.3
    purging = warm(slow.model_copy(update={"control": FanControl(most=1.0, purge_min=30)}))
    assert purging[0] == pytest.approx(idle[0], abs=0.2)
