"""Sizing: what is said to be needed holds when it is simulated; what is not needed is said so."""

import pytest

from canopy.design.climate.sizing import seasons_of, sizes_for
from canopy.design.remedies import remedy_for
from canopy.equipment import DeviceSpec
from canopy.evaluate.climate.days import simulated
from canopy.evaluate.climate.rehearsal.rehearsed import in_season
from canopy.evaluate.kept import report_of
from canopy.plan.airways import Airway
from canopy.plan.controls import Hygrostat, Thermostat
from canopy.plan.document import Device
from canopy.plan.edit import apply
from canopy.plan.rooms import RoomAir
from canopy.season import cast_of, standing_of
from tests.core.evaluate.climate.test_building import with_space


def in_room(plan, space_id="hall-closet", **update):
    """The demo with other figures for a space's room."""
    key = plan.space(space_id).room_id
    rooms = tuple(room.model_copy(update=update) if room.id == key else room for room in plan.rooms)
    changed = plan.model_copy(update={"rooms": rooms})
    return changed, report_of(changed, changed.space(space_id), follow=True)


def size_of(report, kind):
    return next(item for item in sizes_for(report) if item.kind == kind)


def night_with(plan, report, device, season):
    space = report.space.model_copy(update={"devices": (device,)})
    changed = with_space(plan, space)
    here = in_season(changed, standing_of(space, report.here.day, cast_of(changed)), season)
    return simulated(changed, here, report.lighting)


def test_without_extremes_the_day_shown_is_sized_for(demo_plan):
    report = report_of(demo_plan, demo_plan.space("hall-closet"))
    assert seasons_of(report) == ("day",)
    assert size_of(report, "heater").need is None
    assert "not needed" in size_of(report, "mat").said.say()


def test_the_heater_for_the_coldest_day_holds_it_and_a_part_of_it_does_not(demo_plan):
    plan, report = in_room(demo_plan, coldest=RoomAir(day_c=9, night_c=6))
    assert seasons_of(report) == ("coldest",)
    size = size_of(report, "heater")
    assert size.on == "the coldest day"
    low = max(plant.want.air_night_c.low for plant in report.here.plants)
    means = []
    for watts in (size.need.value, 0.15 * size.need.value):
        spec = DeviceSpec(name="Heat", kind="heater", power_w=watts)
        device = Device(id="heat", spec=spec, control=Thermostat(day_c=low + 6, night_c=low + 1))
        means.append(night_with(plan, report, device, "coldest").mean("air_c", day=False))
    assert means[0] >= low
    assert means[1] < low
    assert size.spec.power_w >= size.need.value


def test_the_dehumidifier_for_a_damp_hottest_day_dries_it(demo_plan):
    plan, report = in_room(demo_plan, hottest=RoomAir(day_c=24, night_c=22, day_rh_pct=78, night_rh_pct=84))
    size = size_of(report, "dehumidifier")
    assert size.need is not None
    high = min(plant.want.rh_pct.high for plant in report.here.plants)
    bare = simulated(plan, in_season(plan, report.here, "hottest"), report.lighting)
    spec = DeviceSpec(name="Dry", kind="dehumidifier", power_w=150, dries_l_d=size.need.value)
    device = Device(id="dry", spec=spec, control=Hygrostat(day_rh_pct=high - 3, night_rh_pct=high - 3))
    dried = night_with(plan, report, device, "hottest")
    assert bare.mean("rh_pct", day=False) > high + 5
    assert dried.mean("rh_pct", day=False) <= high + 1


def test_a_mend_is_sized_for_the_coldest_day_where_the_room_has_one(demo_plan):
    cold = {"day_c": 13.0, "night_c": 10.0}
    _, mild = in_room(demo_plan, **cold)
    _, hard = in_room(demo_plan, **cold, coldest=RoomAir(day_c=5, night_c=0))
    # The same day of the year for both: the coldest one draws it down, too.
    margins = [
        next(m for m in r.margins if m.id.startswith("climate.air") and m.verdict == "short") for r in (mild, hard)
    ]
    found = [remedy_for(report, margin.id) for report, margin in zip((mild, hard), margins, strict=True)]
    watts = [item.changes[0].parts[0]["spec"]["power_w"] for item in found]
    assert watts[1] > watts[0]
    assert "on the coldest day of the year too" in found[1].label.say()
    after = apply(hard.plan, "hall-closet", found[1].changes)
    held = report_of(after, after.space("hall-closet"), follow=True)
    assert held.margin(margins[1].id).verdict in ("good", "tight")


def test_nothing_is_sized_where_nothing_grows(demo_plan):
    bare = with_space(demo_plan, demo_plan.space("hall-closet").model_copy(update={"plants": ()}))
    assert sizes_for(report_of(bare, bare.space("hall-closet"))) == ()


def test_a_cold_tent_is_told_its_watts_and_to_slow_its_fan(demo_plan):
    _, report = in_room(demo_plan, day_c=9.0, night_c=6.0)
    margin = report.margin("climate.air-night")
    assert margin.verdict == "short"
    amounts = dict(margin.why.amounts)
    assert amounts["lacks"].value > amounts["half"].value > 0
    assert "slow the fan" in margin.why.say()
    # What is said to lack closes the gap when it is given steadily.
    spec = DeviceSpec(name="Steady", kind="other", power_w=amounts["lacks"].value)
    space = report.space.model_copy(update={"devices": (Device(id="steady", spec=spec),)})
    plan = with_space(report.plan, space)
    warmed = report_of(plan, space, follow=True).climate.mean("air_c", day=False)
    low = max(plant.want.air_night_c.low for plant in report.here.plants)
    assert warmed == pytest.approx(low, abs=1.2)


def drawn_at(plan, speed, space_id="berry-tent", **update):
    """The tent with its fan at a speed, in a room with other figures."""
    space = plan.space(space_id)
    data = space.airways[0].model_dump()
    for part in data["parts"]:
        if part["kind"] == "fan":
            part["speed"] = speed
    changed = with_space(plan, space.model_copy(update={"airways": (Airway.model_validate(data), *space.airways[1:])}))
    rooms = tuple(r.model_copy(update=update) if r.id == space.room_id else r for r in changed.rooms)
    changed = changed.model_copy(update={"rooms": rooms})
    return changed, report_of(changed, changed.space(space_id), follow=True)


def test_the_fan_is_turned_before_anything_is_bought(demo_plan):
    plan, report = drawn_at(demo_plan, 0.4, day_rh_pct=70, night_rh_pct=74)
    assert report.margin("climate.rh").verdict == "over"
    found = remedy_for(report, "climate.rh")
    assert found.label.say().startswith("Speed the fan up to")
    after = apply(plan, "berry-tent", found.changes)
    held = report_of(after, after.space("berry-tent"), follow=True)
    assert held.margin("climate.rh").verdict in ("good", "tight")
