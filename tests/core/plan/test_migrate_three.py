"""Plans of versions 1 and 2 become version 3, and say the same as before."""

import copy
import json
from dataclasses import replace
from pathlib import Path

import pytest

from canopy.errors import PlanError
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lighting import lighting
from canopy.plan import dumps, from_data, loads
from canopy.schedule import Always, ByHand, Cycle, Daily, Never, day_hours

DATA = Path(__file__).parent.parent / "data"
OLD = json.loads((DATA / "plan-version-2.json").read_text())


def old(**space):
    """The old household with one space changed."""
    data = copy.deepcopy(OLD)
    data["spaces"][0] |= space
    return data


def test_lamps_keep_their_clock():
    plan = from_data(copy.deepcopy(OLD))
    for before, after in zip(OLD["spaces"], plan.spaces, strict=True):
        for was, lamp in zip(before["fixtures"], after.fixtures, strict=True):
            assert lamp.schedule == Daily(start=was["on_at"], hours=was["hours"])


def test_devices_and_loads_keep_their_hours():
    plan = from_data(copy.deepcopy(OLD))
    fern = plan.space("fern-case")
    assert day_hours(fern.devices[0].schedule) == pytest.approx(0.6)
    assert [day_hours(load.schedule) for load in plan.circuits[0].other_loads] == pytest.approx([10, 3])


def test_doors_become_times_by_hand():
    plan = from_data(copy.deepcopy(OLD))
    assert isinstance(plan.space("sideboard").air.door, ByHand)
    assert day_hours(plan.space("sideboard").air.door) == pytest.approx(0.5)
    assert plan.space("berry-tent").air.door == Never()


def test_cycles_and_speeds_by_night_are_kept():
    data = old()
    tent = data["spaces"][0]
    tent["airways"][0] |= {"on_min": 15.0, "every_min": 30.0}
    fan = next(part for part in tent["airways"][0]["parts"] if part["kind"] == "fan")
    fan["night_speed"] = 0.4
    plan = from_data(data)
    way = plan.spaces[0].airways[0]
    assert way.schedule == Cycle(on_min=15, every_min=30)
    assert (way.fans[0].other.speed, way.fans[0].speed_at(lit=False)) == (0.4, 0.4)
    assert plan.space("sideboard").stirrers[0].schedule.kind == "cycle"
    assert plan.spaces[0].stirrers[0].schedule == Always()


def test_rooms_that_say_the_same_become_one_and_a_sized_room_stays_its_own():
    plan = from_data(copy.deepcopy(OLD))
    assert len({space.room_id for space in plan.spaces}) == len(plan.spaces)
    data = copy.deepcopy(OLD)
    for space in data["spaces"][1:]:
        space["room"] = dict(data["spaces"][1]["room"])
    plan = from_data(data)
    assert len({space.room_id for space in plan.spaces[1:]}) == 1
    assert plan.room(plan.spaces[0].room_id).floor_m2 == 19
    assert plan.room(plan.spaces[0].room_id).height_m == 2.4


def test_height_above_the_sea_goes_to_the_site_and_the_floor_to_the_room():
    data = old(room={**OLD["spaces"][0]["room"], "altitude_m": 1250.0})
    data["spaces"][0]["ground"]["stands_on"] = "concrete"
    plan = from_data(data)
    assert plan.site.altitude_m == 1250
    assert plan.room(plan.spaces[0].room_id).floor == "concrete"
    assert plan.spaces[0].ground.stands_on == "floor"
    assert plan.site.currency == "EUR"


def test_numbers_begin_behind_all_that_were_ever_given():
    data = old()
    data["spaces"][0]["fixtures"][0]["id"] = "lamp-41"
    assert from_data(data).serial >= 42


def test_a_plan_read_from_an_old_file_is_written_as_version_three_and_stays_so():
    plan = from_data(copy.deepcopy(OLD))
    text = dumps(plan)
    assert json.loads(text)["version"] == 3
    assert loads(text) == plan
    assert dumps(loads(text)) == text


@pytest.mark.parametrize(
    ("where", "value"),
    [
        (("circuits", 0, "other_loads", 0, "hours_per_day"), "many"),
        (("spaces", 0, "fixtures", 0, "on_at"), "at dawn"),
        (("spaces", 0, "fixtures", 0, "hours"), 30),
        (("spaces", 0, "air", "door_times"), -3),
        (("spaces", 0, "room"), "warm"),
        (("spaces", 0, "room", "day_c"), None),
        (("spaces", 0, "room", "colour"), "green"),
        (("spaces", 0, "airways", 0, "on_min"), 5),
    ],
)
def test_what_is_malformed_is_refused_not_dropped(where, value):
    data = copy.deepcopy(OLD)
    at = data
    for key in where[:-1]:
        at = at[key]
    at[where[-1]] = value
    with pytest.raises(PlanError):
        from_data(data)


def test_what_an_old_space_said_is_what_it_says_now():
    """Figures of the household as the version before this one computed them.

    Its light, 20.58 mol/m²/d, has changed since: leaves take part in the balance. Without them it is the same as ever.
    """
    plan = from_data(copy.deepcopy(OLD))
    report = evaluate_space(plan, plan.space("berry-tent"), with_map=False)
    assert report.running.power_w == pytest.approx(210.0)
    assert report.circuit.share == pytest.approx(0.86126, abs=1e-5)
    assert report.breathing.lit.air.running.total_m3_h == pytest.approx(40.5873, abs=1e-3)
    bare = replace(report.here, plants=())
    assert lighting(bare, height_m=0.5).dli_mol_m2_d == pytest.approx(21.5033, rel=1e-4)
