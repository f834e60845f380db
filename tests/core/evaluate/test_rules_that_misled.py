"""Verdicts that a horticulturist, a lighting engineer or an electrician would not have let pass."""

import pytest

from canopy.air.demand import Demand, governing
from canopy.evaluate import evaluate_space
from canopy.evaluate.air.room import wall_bears_rh_pct
from canopy.evaluate.light.day_length import hangs_on_hours
from canopy.evaluate.power.loads import circuit_load, running, space_loads
from canopy.evaluate.power.margins import circuit_margins, circuit_verdict
from canopy.library import crops, rule_sets
from canopy.plan import Circuit, Device
from canopy.plan.changes import Change
from canopy.plan.edit import apply
from canopy.plan.rooms import USUAL_ROOM, Around
from canopy.schedule import Daily
from canopy.season import cast_of, standing_of
from canopy.weather.rooms import Hourly
from tests.conftest import DAY


def _report(plan, **values):
    changed = apply(plan, "box", [Change(values=values)]) if values else plan
    return evaluate_space(changed, changed.spaces[0], day=DAY, with_map=False)


def _heater(hours, watts=2000.0, kind="heater"):
    spec = {"name": "Heater", "kind": kind, "power_w": watts}
    return Device.model_validate({"id": "h", "spec": spec, "schedule": Daily(start="18:00", hours=hours)})


def _on(plan, rule_set_id, *devices):
    rules = rule_sets()[rule_set_id]
    circuit = Circuit(id="c", name="C", rule_set_id=rule_set_id, breaker_a=rules.breaker_a, mains_v=rules.mains_v)
    space = plan.spaces[0].model_copy(update={"circuit_id": "c", "devices": devices})
    changed = plan.model_copy(update={"circuits": (circuit,), "spaces": (space,)})
    found = circuit_margins(space, running(changed, space), [circuit_load(changed, circuit)])
    return changed, {margin.id: margin for margin in found}


def test_a_heater_for_two_and_a_half_hours_beside_lamps_is_judged_all_at_once(small_plan):
    _, margins = _on(small_plan, "na-15", _heater(2.5))
    outlet = margins["power.outlet"]
    assert outlet.verdict == "over"
    assert "at once" in outlet.need.say() or "for hours" in outlet.need.say()
    # A pump of the same watts for as long is no continuous load, but all at once it is too much all the same.
    _, pumped = _on(small_plan, "na-15", _heater(2.5, kind="other"))
    assert pumped["power.outlet"].verdict == "over"
    assert pumped["power.outlet"].need.say().endswith("at once")


def test_a_heater_that_stays_put_is_continuous_however_short_its_hours(small_plan):
    plan, _ = _on(small_plan, "na-15", _heater(0.5))
    assert {load.name: load.continuous for load in space_loads(plan.spaces[0])}["Heater"]


@pytest.mark.parametrize(
    ("rule_set_id", "watts"), [("na-20", 12 * 120), ("na-20-t", 16 * 120), ("uk-20", 10 * 230), ("jp-15", 12 * 100)]
)
def test_what_an_outlet_carries_for_hours(small_plan, rule_set_id, watts):
    _, margins = _on(small_plan, rule_set_id, _heater(6.0, watts=3500.0))
    assert (
        dict(margins["power.outlet"].working.steps[0].__dict__)["amount"].value * rule_sets()[rule_set_id].mains_v
        == watts
    )


def test_a_ring_carries_twenty_ampere_for_long(small_plan):
    plan, _ = _on(small_plan, "uk-13")
    assert circuit_load(plan, plan.circuits[0]).limit_w == 20 * 230
    assert "hour to trip" in _overloaded(small_plan)


def _overloaded(small_plan):
    plan, margins = _on(small_plan, "na-15", _heater(0.5, watts=4000.0))
    assert circuit_verdict(circuit_load(plan, plan.circuits[0])) == "over"
    return margins["power.circuit"].why.say()


def test_an_exchange_decides_only_where_somebody_chose_it(small_plan):
    asked = [
        Demand(criterion=k, flow_m3_h=v)
        for k, v in (("exchange", 44.0), ("heat", 17.0), ("moisture", 9.0), ("co2", 3.0))
    ]
    assert governing(tuple(asked), "largest").criterion == "heat"
    assert governing(tuple(asked), "exchange").criterion == "exchange"
    assert _report(small_plan).margin("air.flow-exchange") is None


def _growing(small_plan, crop_id, stage):
    crop = crops()[crop_id]
    size = {"height_m": crop.stage(stage).height_m, "spread_m": crop.stage(stage).spread_m}
    plant = small_plan.spaces[0].plants[0].model_copy(update={"crop_id": crop_id, "stage": stage, **size})
    return small_plan.model_copy(
        update={"spaces": (small_plan.spaces[0].model_copy(update={"plants": (plant,)}),)}
    ), plant


@pytest.mark.parametrize(
    ("crop_id", "stage", "fewer", "more"),
    [
        ("spinach", "vegetative", False, True),
        ("passionflower", "flower", True, False),
        ("photoperiod-herb", "vegetative", True, False),
        ("photoperiod-herb", "flower", False, True),
        ("basil-sweet", "vegetative", False, False),
        ("tomato-dwarf", "fruit", False, False),
    ],
)
def test_hours_count_where_flowering_or_bolting_hangs_on_them(small_plan, crop_id, stage, fewer, more):
    plan, _ = _growing(small_plan, crop_id, stage)
    found = hangs_on_hours(standing_of(plan.spaces[0], DAY, cast_of(plan)).plants[0])
    assert (bool(found.fewer), bool(found.more)) == (fewer, more)


@pytest.mark.parametrize(
    ("crop_id", "hours", "verdict", "information"),
    [("basil-sweet", 11, "good", True), ("basil-sweet", 22, "tight", False), ("spinach", 16, "over", False)],
)
def test_hours_outside_a_window(small_plan, crop_id, hours, verdict, information):
    plan, _ = _growing(small_plan, crop_id, "vegetative")
    lamps = [
        Change(
            collection="fixtures", part_id=lamp.id, values={"schedule": Daily(start="00:00", hours=hours).model_dump()}
        )
        for lamp in plan.spaces[0].fixtures
    ]
    margin = evaluate_space(apply(plan, "box", lamps), apply(plan, "box", lamps).spaces[0], day=DAY).margin(
        f"light.hours.{crop_id}.vegetative"
    )
    assert (margin.verdict, margin.information) == (verdict, information)


@pytest.mark.parametrize(
    ("crop_id", "times", "verdict"),
    [
        ("coriander", 1.0, "good"),
        ("beetroot", 1.0, "good"),
        ("coriander", 1.3, "good"),
        ("african-violet", 1.9, "over"),
    ],
)
def test_a_closed_canopy_at_a_crop_s_own_spacing_is_usual(small_plan, crop_id, times, verdict):
    crop = crops()[crop_id]
    stage = crop.stages[-1]
    space = small_plan.spaces[0]
    ground = space.size.width_m * space.size.depth_m
    count = round(times * 0.9 * ground / crop.spacing_m**2)
    size = {"height_m": stage.height_m, "spread_m": stage.spread_m, "crop_id": crop_id, "stage": stage.kind}
    plants = tuple(space.plants[0].model_copy(update={**size, "id": f"p{n}"}) for n in range(count))
    margin = evaluate_space(
        small_plan, space.model_copy(update={"plants": plants, "fixtures": ()}), day=DAY, with_map=False
    ).margin("crops.crowding.floor")
    assert margin.verdict in ((verdict, "tight") if verdict == "good" else (verdict,))
    assert "nobody's measurement" in margin.working.certainty


def test_a_net_pot_in_solution_is_not_short_of_litres(small_plan):
    pots = [
        p.model_dump(mode="json") | {"pot_volume_l": 0.2, "pot_kind": "basket"} for p in small_plan.spaces[0].plants
    ]
    dry = _report(small_plan, plants=pots)
    assert dry.margin("crops.roots.lettuce-butterhead").verdict == "short"
    wet = _report(small_plan, plants=pots, **{"feed.way": "solution"})
    assert wet.margin("crops.roots.lettuce-butterhead") is None


def test_a_plant_that_wants_dry_does_not_dry_out_within_a_day(small_plan):
    plan, plant = _growing(small_plan, "aloe", "vegetative")
    small = plan.spaces[0].model_copy(update={"plants": (plant.model_copy(update={"pot_volume_l": 0.5}),)})
    why = evaluate_space(plan, small, day=DAY, with_map=False).margin("crops.roots.aloe").why.say()
    assert "dries out" not in why


def test_a_spill_is_reservoir_and_buckets_together(small_plan):
    pots = [
        p.model_dump(mode="json") | {"pot_volume_l": 10.0, "pot_kind": "bucket"} for p in small_plan.spaces[0].plants
    ]
    report = _report(small_plan, plants=pots, **{"feed.way": "solution", "feed.reservoir_l": 30.0})
    assert dict(report.margin("space.spill").need.amounts)["need"].value == 70.0


def test_hung_load_without_a_limit_is_not_known(small_plan):
    hung = [{"id": "r", "name": "Rail", "weight_kg": 9.0}]
    assert _report(small_plan, hung=hung).margin("space.load").verdict == "unknown"


def test_a_room_s_walls_bear_less_damp_when_it_is_cold_outside():
    def at(outdoors_c):
        air = Hourly(temperature_c=(outdoors_c,) * 24, rh_pct=(80.0,) * 24)
        return wall_bears_rh_pct(Around(room=USUAL_ROOM, air=USUAL_ROOM, outdoors=air), 20.0)

    # 0 °C outside: the wall is at 14 °C, where 80 % are 1279 Pa; at 20 °C that is 54.7 %.
    assert at(0.0) == pytest.approx(54.7, abs=0.2)
    assert at(25.0) == 70.0
    assert wall_bears_rh_pct(Around(room=USUAL_ROOM, air=USUAL_ROOM), 20.0) == 70.0


def test_a_dimmed_lamp_may_hang_nearer_and_what_is_computed_goes_before_its_class(small_plan):
    lamp = small_plan.spaces[0].fixtures[0]
    dimmed = lamp.model_copy(update={"dim": 0.25})
    assert dimmed.least_distance_m == pytest.approx(lamp.spec.min_distance_m / 2, abs=0.03)
    hot = lamp.model_copy(update={"dim": 0.25, "spec": lamp.spec.model_copy(update={"technology": "hps"})})
    assert hot.least_distance_m == lamp.spec.min_distance_m
