"""Which settings: what is offered holds the windows better than what is set, when simulated anew."""

import pytest

from canopy.design.climate.settings import MOST, best_of, choices_for, try_choice
from canopy.equipment import DeviceSpec
from canopy.evaluate.kept import report_of
from canopy.evaluate.power.loads import running
from canopy.plan.airways import Airway
from canopy.plan.controls import FanControl, Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.plan.edit import apply
from tests.core.evaluate.climate.test_building import with_space


def badly_set(plan):
    """The tent with a humidifier that drenches, a heater that hardly comes on."""
    space = plan.space("berry-tent")
    mist = Device(
        id="mist",
        spec=DeviceSpec(name="Mist", kind="humidifier", power_w=25, water_g_h=250),
        control=Hygrostat(day_rh_pct=95, night_rh_pct=95),
    )
    heat = Device(
        id="heat",
        spec=DeviceSpec(name="Heat", kind="heater", power_w=150),
        control=Thermostat(day_c=8, night_c=8),
    )
    changed = with_space(plan, space.model_copy(update={"devices": (mist, heat)}))
    return report_of(changed, changed.space("berry-tent"))


def test_the_best_settings_hold_better_and_do_so_once_they_are_set(demo_plan):
    report = badly_set(demo_plan)
    row = choices_for(report)
    assert 4 < len(row) <= MOST
    assert len({choice.key for choice in row}) == len(row)
    tried = [try_choice(report, choice) for choice in row]
    best = best_of(tried)[0]
    now = tried[0]
    assert now.choice.key == "now"
    assert best.weight_h < now.weight_h - 5
    assert best.outside_h["humidity"] < now.outside_h["humidity"]
    plan = apply(report.plan, "berry-tent", best.choice.changes)
    again = report_of(plan, plan.space("berry-tent"), follow=True)
    assert again.margin("climate.rh").verdict in ("good", "tight")
    assert again.running.cost_per_month == pytest.approx(best.cost_per_month, rel=1e-6)


def test_cheaper_ones_cost_less_and_none_is_dominated(demo_plan):
    report = badly_set(demo_plan)
    found = best_of([try_choice(report, choice) for choice in choices_for(report)])
    costs = [item.cost_per_month for item in found]
    assert costs == sorted(costs, reverse=True)
    assert len(found) <= 3


def test_nothing_to_set_is_said_by_an_empty_row(demo_plan):
    bare = with_space(demo_plan, demo_plan.space("berry-tent").model_copy(update={"plants": ()}))
    assert choices_for(report_of(bare, bare.space("berry-tent"))) == ()
    assert choices_for(report_of(demo_plan, demo_plan.space("sideboard"))) == ()


def test_a_controlled_fan_costs_by_its_speed_squared(demo_plan):
    space = demo_plan.space("berry-tent")
    data = space.airways[0].model_dump()
    for part in data["parts"]:
        if part["kind"] == "fan":
            part["speed"] = 0.5
    costs = []
    for control in (None, FanControl(hot_day_c=5, hot_night_c=5, most=1.0)):
        way = Airway.model_validate({**data, "control": control.model_dump() if control else None})
        plan = with_space(demo_plan, space.model_copy(update={"airways": (way, *space.airways[1:])}))
        costs.append(report_of(plan, plan.space("berry-tent"), follow=True).running.energy_kwh_d)
        fan = next(load for load in running(plan, plan.space("berry-tent")).loads if load.part_id == way.lead.id)
    # Always too warm for it: at full speed all day, four times what half speed draws of its mains motor.
    assert costs[1] - costs[0] == pytest.approx(3 * fan.energy_kwh_d, rel=0.02)
