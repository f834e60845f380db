"""The timer sheet: what one sets by it is what the plan says, and what is still open is said."""

import datetime as dt

import pytest

from canopy.cli import main
from canopy.evaluate.power.timers import timer_sheet
from canopy.plan import Carrier, Circuit, Device, Outlet, dumps, loads
from canopy.plan.airways import Airway
from canopy.schedule import Always, Cycle, Daily, WithLamps

DAY = dt.date(2026, 3, 14)
OUTLET = Outlet(id="wall", name="Wall", circuit_id="c")
TIMER = Carrier(id="timer", name="Timer", kind="timer", into="wall")


def _plan(small_plan, carriers=(), **changes):
    circuit = Circuit(id="c", name="C", rule_set_id="eu-16", mains_v=230, breaker_a=16)
    space = small_plan.spaces[0].model_copy(update={"circuit_id": "c", "devices": (), **changes})
    values = {"circuits": (circuit,), "outlets": (OUTLET,), "carriers": tuple(carriers), "spaces": (space,)}
    return loads(dumps(small_plan.model_copy(update=values)))


def _lamp(small_plan, schedule, **more):
    return small_plan.spaces[0].fixtures[0].model_copy(update={"schedule": schedule, **more})


def _entry(plan, part_id):
    found = [(place, e) for place in timer_sheet(plan, day=DAY) for e in place.lines if e.part_id == part_id]
    assert len(found) == 1
    place, entry = found[0]
    return place, [_plain(item.say()) for item in entry.settings], entry.notes


def _plain(text):
    """With usual spaces before units."""
    return text.replace("\N{NO-BREAK SPACE}", " ")


def test_a_lamp_s_hours_over_midnight_with_its_dimmer(small_plan):
    lamp = _lamp(small_plan, Daily(start="20:00", hours=14.5, ramp_up_min=30, ramp_down_min=15), dim=0.62)
    _, said, notes = _entry(_plan(small_plan, fixtures=(lamp,)), lamp.id)
    assert said == [
        "timer: on 20:00, off 10:30",
        "rising over 30 min, falling over 15 min, within these hours",
        "dimmer at 62 %",
    ]
    assert "No timer stands before it" in notes[0]


def test_behind_a_timer_nothing_is_missing_and_the_way_is_told(small_plan):
    lamp = _lamp(small_plan, Daily(start="06:00", hours=16), plug="timer")
    place, said, notes = _entry(_plan(small_plan, [TIMER], fixtures=(lamp,)), lamp.id)
    assert said[0] == "timer: on 06:00, off 22:00"
    assert notes == ()
    assert (place.name, place.kind, place.way) == ("Timer", "timer", ("C", "Wall"))


def test_without_a_start_it_asks_for_one(small_plan):
    lamp = _lamp(small_plan, Daily(hours=12))
    _, said, notes = _entry(_plan(small_plan, fixtures=(lamp,)), lamp.id)
    assert said[0] == "12 h a day"
    assert "choose a start" in notes[0]


def test_one_timer_cannot_keep_two_sets_of_hours(small_plan):
    one = _lamp(small_plan, Daily(start="06:00", hours=16), plug="timer")
    two = _lamp(small_plan, Daily(start="08:00", hours=12), plug="timer", id="second")
    plan = _plan(small_plan, [TIMER], fixtures=(one, two))
    (place,) = [place for place in timer_sheet(plan, day=DAY) if place.id == "timer"]
    assert "different hours" in place.notes[0]
    same = two.model_copy(update={"schedule": one.schedule})
    (place,) = [p for p in timer_sheet(_plan(small_plan, [TIMER], fixtures=(one, same)), day=DAY) if p.id == "timer"]
    assert place.notes == ()


@pytest.mark.parametrize(
    ("schedule", "said"),
    [
        (Always(), ["always on: no timer"]),
        (WithLamps(when="lit"), ["timer: on 06:00, off 22:00"]),
        (WithLamps(when="dark"), ["timer: on 22:00, off 06:00"]),
        (Cycle(on_min=15, every_min=60), ["cycle timer: 15 min every 1 h", "15 min on, 45 min off"]),
    ],
)
def test_what_follows_the_lamps_is_written_as_clock_times(small_plan, schedule, said):
    lamp = _lamp(small_plan, Daily(start="06:00", hours=16))
    pump = Device.model_validate({"id": "p", "spec": {"name": "Pump", "kind": "pump", "power_w": 20.0}})
    pump = pump.model_copy(update={"schedule": schedule})
    assert _entry(_plan(small_plan, fixtures=(lamp,), devices=(pump,)), "p")[1] == said


def test_a_thermostat_s_two_points_lie_half_its_band_to_either_side(small_plan):
    spec = {"name": "Heater", "kind": "heater", "power_w": 500.0}
    control = {"kind": "thermostat", "day_c": 20, "night_c": 17, "band_k": 2}
    heater = Device.model_validate({"id": "h", "spec": spec, "control": control})
    _, said, notes = _entry(_plan(small_plan, devices=(heater,)), "h")
    assert said == [
        "thermostat, probe in the air: on below 19 °C, off at 21 °C by day",
        "on below 16 °C, off at 18 °C by night",
    ]
    assert notes == ()
    cooler = Device.model_validate({"id": "h", "spec": spec | {"kind": "cooler", "cools_w": 800}, "control": control})
    assert _entry(_plan(small_plan, devices=(cooler,)), "h")[1][0] == (
        "thermostat, probe in the air: on above 21 °C, off at 19 °C by day"
    )
    nobody = Device.model_validate({"id": "h", "spec": spec})
    assert "No controller is chosen" in _entry(_plan(small_plan, devices=(nobody,)), "h")[2][0]


def test_every_part_with_a_plug_stands_on_the_sheet_once(demo_plan):
    entries = [entry for place in timer_sheet(demo_plan) for entry in place.lines]
    parts = [
        (space.name, part.id)
        for space in demo_plan.spaces
        for part in (
            *space.fixtures,
            *(s for s in space.stirrers if s.enabled),
            *space.devices,
            *(fan for way in space.airways for fan in way.fans),
        )
    ]
    assert sorted((entry.where, entry.part_id) for entry in entries) == sorted(parts)
    assert all(entry.settings for entry in entries)
    # One space's sheet is that part of the whole one.
    tent = demo_plan.space("berry-tent")
    own = [entry for place in timer_sheet(demo_plan, tent) for entry in place.lines]
    assert own == [entry for entry in entries if entry.where == tent.name]


def test_a_fan_controller_s_triggers_in_words(small_plan):
    way = next((way for way in small_plan.spaces[0].airways if way.fans), None)
    assert isinstance(way, Airway)
    control = {"hot_day_c": 26, "hot_night_c": 22, "ramp_k": 2, "most": 1.0, "purge_min": 10}
    way = Airway.model_validate(way.model_dump() | {"control": control})
    _, said, _ = _entry(_plan(small_plan, airways=(way,)), way.lead.id)
    assert "rising from 26 °C by day (22 °C by night), 100 % at 2 K above that" in said
    assert any("10 min after the lamps go out" in text for text in said)


def test_the_command_prints_the_same(demo_plan, tmp_path, capsys):
    file = tmp_path / "plan.json"
    file.write_text(dumps(demo_plan))
    assert main(["timers", str(file)]) == 0
    out = capsys.readouterr().out
    for place in timer_sheet(demo_plan):
        assert place.name in out
        for entry in place.lines:
            assert f"{entry.where}: {entry.name}" in out
            assert all(item.say() in out for item in entry.settings)
