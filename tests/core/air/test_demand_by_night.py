"""Demands for air: the night as night, air that comes in hot or damp, walls, and joined spaces."""

import pytest

from canopy.air.demand import AirNeeds, demands, governing
from canopy.evaluate.kept import report_of
from canopy.psychrometrics import HEAT_CAPACITY_J_KGK, HEAT_OF_EVAPORATION_J_KG, dry_air_density_kg_m3, humidity_ratio


def needs(**more):
    usual = {
        "volume_m3": 2.0,
        "exchange_minutes": 3.0,
        "filter_allowance": 0.25,
        "heat_w": 200.0,
        "envelope_w_k": 10.0,
        "rise_k": 4.0,
        "vapour_kg_s": 2e-5,
        "co2_mol_s": 1e-6,
        "room_c": 20.0,
        "room_rh_pct": 50.0,
        "max_rh_pct": 70.0,
        "co2_drop_ppm": 60.0,
    }
    return AirNeeds(**{**usual, **more})


def asked(found, criterion):
    return next(item for item in found if item.criterion == criterion)


def test_heat_is_carried_from_how_it_comes_in_up_to_what_is_allowed_over_the_room():
    cold = asked(demands(needs(room_c=10.0, around_c=20.0)), "heat").flow_m3_h
    ratio = humidity_ratio(10.0, 50.0)
    density = dry_air_density_kg_m3(24.0, ratio)
    left = 200 - 10 * 4 - HEAT_OF_EVAPORATION_J_KG * 2e-5
    assert cold == pytest.approx(left / (density * HEAT_CAPACITY_J_KGK * 14) * 3600)
    assert asked(demands(needs()), "heat").flow_m3_h == pytest.approx(cold * 14 / 4, rel=0.02)


def test_air_that_leaves_no_warmer_than_it_gets_carries_less_water():
    by_day, by_night = demands(needs()), demands(needs(leaves_c=20.5))
    assert asked(by_night, "moisture").flow_m3_h > 1.5 * asked(by_day, "moisture").flow_m3_h
    assert asked(by_night, "heat").flow_m3_h == asked(by_day, "heat").flow_m3_h


@pytest.mark.parametrize(
    ("more", "criterion", "words"),
    [
        ({"most_c": 18.0}, "heat", "warmer than the crops here want"),
        ({"room_c": 26.0, "around_c": 20.0}, "heat", "as warm as is allowed"),
        ({"room_rh_pct": 95.0, "leaves_c": 20.0}, "moisture", "dehumidifier"),
    ],
)
def test_what_no_flow_can_meet_has_no_flow_and_says_what_would_help(more, criterion, words):
    found = asked(demands(needs(**more)), criterion)
    assert found.flow_m3_h is None
    assert words in found.reason
    assert governing(demands(needs(**more)), "largest", lit=False).flow_m3_h is None


def test_without_heat_left_nothing_is_asked_of_warm_air_and_crops_that_bear_it_let_it_pass():
    assert asked(demands(needs(room_c=26.0, around_c=20.0, heat_w=10.0)), "heat").flow_m3_h == 0
    assert asked(demands(needs(room_c=24.5, around_c=20.0, most_c=30.0)), "heat").flow_m3_h > 0


def test_a_hot_room_is_short_by_night_and_never_asks_for_nothing(demo_plan):
    key = demo_plan.space("hall-closet").room_id
    rooms = tuple(r.model_copy(update={"day_c": 31.0, "night_c": 29.0}) if r.id == key else r for r in demo_plan.rooms)
    plan = demo_plan.model_copy(update={"rooms": rooms})
    report = report_of(plan, plan.space("hall-closet"))
    night = report.margin("air.flow-night")
    assert night.verdict == "short"
    assert not night.mendable
    assert "cool the room" in night.why.say()
    assert "nothing asks for more" not in " ".join(margin.why.say() for margin in report.margins if "flow" in margin.id)
    assert report.margin("air.flow-heat").verdict == "short"


def test_by_night_a_part_of_the_days_warmth_is_kept_not_the_lamps_rise(demo_plan):
    space = demo_plan.space("sideboard")
    report = report_of(demo_plan, space, follow=True)
    dark = report.breathing.dark
    day_rise = report.breathing.day.temperature_c - report.breathing.lit.around.temperature_c
    assert dark.needs.leaves_c == pytest.approx(dark.around.temperature_c + 0.25 * day_rise)
    # What is simulated keeps as much of it, by half or double.
    simulated = report.climate.mean("air_c", day=False) - report.here.around.air.night_c
    assert 0.5 < simulated / (0.25 * day_rise) < 2.5
