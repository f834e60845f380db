"""One clock: lanes as they run, hours that are moved, and what fights found minute by minute."""

import datetime as dt

import numpy as np
import pytest
import vobject
from hypothesis import given
from hypothesis import strategies as st

from canopy.care import care_of
from canopy.care.ics import Stamp, written
from canopy.evaluate import evaluate_space
from canopy.evaluate.day.clock import lanes_of, moved, quiet_lane
from canopy.evaluate.day.conflicts import overlap_min
from canopy.library import BEARING, crops
from canopy.plan import Device, dumps, load, loads
from canopy.plan.care import Watering
from canopy.plan.controls import FanControl
from canopy.plan.document import Quiet
from canopy.plan.edit import apply
from canopy.schedule import Cycle, Daily, Span, WithLamps, spans_of
from canopy.words import clock
from tests.conftest import ROOT

EXAMPLES = sorted(path for path in (ROOT / "examples").rglob("*.json") if path.parent.name != "requests")


def _with(plan, space_id="box", **values):
    space = plan.space(space_id).model_copy(update=values)
    spaces = tuple(space if each.id == space_id else each for each in plan.spaces)
    return loads(dumps(plan.model_copy(update={"spaces": spaces})))


def _device(key, kind, schedule, **more):
    spec = {"name": key.title(), "kind": kind, "power_w": 100.0, **more.pop("spec", {})}
    return Device.model_validate({"id": key, "spec": spec, "schedule": schedule.model_dump(mode="json"), **more})


def _report(plan, space_id="box"):
    return evaluate_space(plan, plan.space(space_id), day=plan.date, with_map=False)


def _fights(plan, space_id="box"):
    return {m.id: m for m in _report(plan, space_id).margins if m.station == "day"}


def test_lanes_run_as_their_schedules_do(small_plan):
    device = _device("fogger", "humidifier", Cycle(on_min=5, every_min=60, when="lit"), by_clock=True)
    plan = _with(small_plan, devices=(device,), watering=Watering(way="drip", flow_l_h=4, runs=4, first_at="23:00"))
    space = plan.spaces[0]
    lanes = {lane.id: lane for lane in lanes_of(plan, space, 12.0)}
    lamp = space.fixtures[0]
    assert lanes[f"fixtures.{lamp.id}"].spans == spans_of(lamp.schedule)
    assert lanes[f"fixtures.{lamp.id}"].start == lamp.schedule.start
    assert lanes["devices.fogger"].runs_min == pytest.approx(
        5 * np.ceil(sum(s.end_min - s.start_min for s in space.lit) / 60)
    )
    assert not lanes["devices.fogger"].movable
    water = lanes["watering"]
    assert [clock(span.start_min) for span in water.spans] == ["05:00", "11:00", "17:00", "23:00"]
    assert water.runs_min == pytest.approx(48)
    fan = next(lane for key, lane in lanes.items() if key.startswith("airways."))
    assert fan.runs_min == pytest.approx(1440)


@given(start=st.integers(0, 1439), length=st.integers(5, 1430))
def test_moved_hours_are_the_hours_that_were_asked_for(small_plan, start, length):
    lamp = small_plan.spaces[0].fixtures[0]
    after = apply(small_plan, None, moved(small_plan, "box", f"fixtures.{lamp.id}", start, length / 60))
    found = after.spaces[0].fixtures[0].schedule
    assert found.start == clock(start)
    assert found.hours == pytest.approx(length / 60)
    lit = sum(span.end_min - span.start_min for span in spans_of(found))
    assert lit == pytest.approx(length)


def test_what_has_no_hours_of_its_own_is_not_moved(small_plan):
    way = small_plan.spaces[0].airways[0]
    assert moved(small_plan, "box", f"airways.{way.id}", 60, 3) == ()
    assert moved(small_plan, "box", "fixtures.gone", 60, 3) == ()
    assert moved(small_plan, "elsewhere", "fixtures.lamp-1", 60, 3) == ()
    assert moved(small_plan, "", "quiet", 60, 3) == ()


def test_quiet_hours_are_a_lane_of_the_household(small_plan):
    assert quiet_lane(small_plan) is None
    plan = small_plan.model_copy(update={"quiet": Quiet(start="22:00", hours=9)})
    after = apply(plan, None, moved(plan, "", "quiet", 23 * 60, 8))
    assert (after.quiet.start, after.quiet.hours) == ("23:00", 8)
    assert loads(dumps(after)).quiet == after.quiet
    margin = _fights(plan)["day.quiet"]
    assert margin.verdict in ("good", "over")
    silent = _with(plan, airways=(), stirrers=(), devices=())
    assert "day.quiet" not in _fights(silent)


SPANS = st.lists(st.tuples(st.integers(0, 1439), st.integers(1, 600)), min_size=1, max_size=4)


@given(one=SPANS, two=SPANS)
def test_overlap_is_what_counting_minutes_gives(one, two):
    def laid(pairs):
        on = np.zeros(1440, bool)
        for start, length in pairs:
            on[np.arange(start, start + length) % 1440] = True
        edges = np.flatnonzero(np.diff(np.concatenate([[0], on.astype(int), [0]])))
        return on, [Span(start_min=float(a), end_min=float(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]

    (first, spans), (second, others) = laid(one), laid(two)
    assert overlap_min(spans, others) == pytest.approx((first & second).sum())


def test_a_clock_without_fights_is_good_and_says_what_was_looked_at(small_plan):
    (margin,) = _fights(small_plan).values()
    assert (margin.id, margin.verdict) == ("day.clock", "good")
    assert "unbroken nights" in margin.why.say()


def test_gas_under_a_running_exhaust_and_in_the_dark_is_named(small_plan):
    bottle = _device("bottle", "co2", Daily(start="08:00", hours=2), spec={"co2_g_h": 20.0})
    margin = _fights(_with(small_plan, devices=(bottle,)))["day.co2.bottle"]
    assert margin.verdict == "tight"
    assert margin.there.say().startswith("2")
    dark = _device("bottle", "co2", WithLamps(when="dark"), spec={"co2_g_h": 20.0})
    shut = _with(small_plan, devices=(dark,), airways=())
    assert _fights(shut)["day.co2.bottle"].title == "CO₂ in the dark"
    lit = _device("bottle", "co2", WithLamps(when="lit"), spec={"co2_g_h": 20.0})
    assert "day.co2.bottle" not in _fights(_with(small_plan, devices=(lit,), airways=()))


def test_heaters_and_coolers_on_clocks_that_cross_are_named(small_plan):
    devices = (
        _device("warm", "heater", Daily(start="20:00", hours=6), by_clock=True),
        _device("cold", "cooler", Daily(start="23:00", hours=6), by_clock=True, spec={"cools_w": 200.0}),
    )
    margin = _fights(_with(small_plan, devices=devices))["day.heat.warm"]
    assert dict(margin.there.amounts)["both"].value == pytest.approx(3.0)


def _flowering(plan, starts):
    """Lamps that break or leave a night, over a plant of the short day in flower; with that crop and stage."""
    crop, stage = next(
        (crop, stage)
        for crop in crops().values()
        if crop.day_length == "short"
        for stage in crop.stages
        if stage.kind in ("flower", *BEARING) and stage.photoperiod_h.high <= 13
    )
    lamp = plan.spaces[0].fixtures[0]
    lamps = tuple(
        lamp.model_copy(update={"id": f"lamp-{n}", "schedule": Daily(start=start, hours=hours)})
        for n, (start, hours) in enumerate(starts, 1)
    )
    stands = {"planting_id": None, "stage": stage.kind, "height_m": 0.3, "spread_m": 0.3, "crop_id": crop.id}
    plant = plan.spaces[0].plants[0].model_copy(update=stands)
    return crop, stage, _with(plan, fixtures=lamps, plants=(plant,))


def test_a_night_that_is_broken_is_short_and_a_whole_one_good(small_plan):
    crop, stage, whole = _flowering(small_plan, [("08:00", 10)])
    margin = _fights(whole)[f"day.night.{crop.id}.{stage.kind}"]
    assert margin.verdict == "good"
    assert dict(margin.there.amounts)["both"].value == pytest.approx(14)
    crop, stage, broken = _flowering(small_plan, [("08:00", 9), ("00:00", 1)])
    margin = _fights(broken)[f"day.night.{crop.id}.{stage.kind}"]
    assert margin.verdict == "short"
    assert dict(margin.there.amounts)["both"].value == pytest.approx(7)


def test_light_from_an_open_rack_breaks_the_night_of_its_neighbour_only(small_plan):
    _crop, _stage, plan = _flowering(small_plan, [("08:00", 10)])
    late = small_plan.spaces[0].fixtures[0].model_copy(update={"schedule": Daily(start="14:00", hours=12)})
    rack = small_plan.spaces[0].model_copy(
        update={"id": "rack", "name": "Rack", "kind": "shelf", "fixtures": (late,), "plants": ()}
    )
    both = plan.model_copy(update={"spaces": (plan.spaces[0], rack)})
    assert "day.leak.rack" not in _fights(both)
    opened = both.spaces[0].model_copy(update={"door_open": True})
    both = both.model_copy(update={"spaces": (opened, rack)})
    margin = _fights(both)["day.leak.rack"]
    assert margin.verdict == "over"
    assert dict(margin.there.amounts)["both"].value == pytest.approx(8)
    apart = rack.model_copy(update={"room_id": "cellar"})
    room = small_plan.rooms[0].model_copy(update={"id": "cellar", "name": "Cellar"})
    parted = both.model_copy(update={"spaces": (opened, apart), "rooms": (*both.rooms, room)})
    assert "day.leak.rack" not in _fights(parted)


def test_a_purge_runs_as_the_lamps_go_out(small_plan):
    space = small_plan.spaces[0]
    way = space.airways[0].model_copy(update={"control": FanControl(purge_min=20)})
    plan = _with(small_plan, airways=(way,))
    lane = next(lane for lane in lanes_of(plan, plan.spaces[0]) if lane.id == f"purge.{way.id}")
    ends = max(span.end_min for span in plan.spaces[0].lit)
    assert lane.spans[0].start_min == ends % 1440
    assert lane.runs_min == pytest.approx(20)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_the_hours_of_every_example_live_in_one_clock(path):
    """Lanes for all that runs, no load of any of them without its lane, and a calendar of its work."""
    plan = load(path)
    reports = [evaluate_space(plan, space, day=plan.date, with_map=False) for space in plan.spaces]
    for report in reports:
        lanes = lanes_of(plan, report.space)
        parts = {part for lane in lanes for part in lane.parts}
        loads = {load.part_id for load in report.running.loads if load.hours_per_day > 0}
        assert loads <= parts | {part.id for way in report.space.airways for part in way.fans}
        assert any(margin.station == "day" for margin in report.margins) or not loads
        for lane in lanes:
            assert all(0 <= span.start_min < span.end_min <= 1440 for span in lane.spans)
    jobs = care_of(reports, plan.date)
    assert len({job.key for job in jobs}) == len(jobs)
    text = written(
        plan, jobs, plan.date, 365, Stamp(made=dt.datetime(2026, 3, 14, tzinfo=dt.UTC), zone="Europe/Lisbon")
    )
    vobject.readOne(text.decode()).validate(raiseException=True)
