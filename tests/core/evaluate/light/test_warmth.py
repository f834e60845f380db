"""Leaves near lamps: their warmth, and their distance to lamps beside them."""

import datetime as dt

import pytest

from canopy.climate.canopy_gas import Surroundings
from canopy.climate.leaf import Irradiated, leaf_c
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.headroom import nearest_point
from canopy.evaluate.light.lighting import crowns_of, lighting
from canopy.evaluate.light.warmth import LIMIT_C, nearest_leaves
from canopy.library import fixtures
from canopy.light.scene import POINTS, field_of, weights
from canopy.plan.changes import Add, Change
from canopy.plan.edit import apply
from canopy.season import standing_of

DAY = dt.date(2026, 3, 1)
AIR = Surroundings(temperature_c=24, rh_pct=60, air_speed_m_s=0.3)


def test_a_leaf_in_the_dark_that_gives_off_nothing_is_as_warm_as_the_air():
    damp = Surroundings(temperature_c=24, rh_pct=100, air_speed_m_s=0.3)
    assert leaf_c(Irradiated(ppfd_umol_m2_s=0), damp) == pytest.approx(24, abs=0.01)


def test_a_dry_leaf_s_warmth_is_what_a_plate_s_heat_balance_gives():
    # 100 W/m² absorbed, no transpiration to speak of: ΔT = Q / (2 (h_c + h_r)), both sides; h_c = ρ c_p / r_b.
    on = Irradiated(ppfd_umol_m2_s=0, thermal_w_m2=100 / 0.96)
    damp = Surroundings(temperature_c=24, rh_pct=99.9, air_speed_m_s=0.5)
    found = leaf_c(on, damp, shut=True) - 24
    boundary = 1174 * 0.06**0.5 / (0.06 * found + 207 * 0.25) ** 0.25
    dry = 100 / (2 * (1.17 * 1006 / boundary + 0.96 * 4 * 5.67e-8 * (297.15 + found / 2) ** 3))
    assert found == pytest.approx(dry, rel=0.1)


def test_a_leaf_far_too_hot_high_up_is_still_computed():
    high = Surroundings(temperature_c=54, rh_pct=5, air_speed_m_s=0.02, altitude_m=4000)
    assert leaf_c(Irradiated(ppfd_umol_m2_s=2000, infrared_w_m2=1500), high, shut=True) > 60


def test_leaves_warm_with_light_and_cool_with_wind_and_open_stomata():
    def at(ppfd, wind=0.3, **more):
        air = Surroundings(temperature_c=24, rh_pct=60, air_speed_m_s=wind)
        return leaf_c(Irradiated(ppfd_umol_m2_s=ppfd), air, **more)

    assert at(200) < at(800) < at(2000)
    assert at(1200, 0.1) > at(1200, 1.0)
    assert at(800, shut=True) > at(800) + 1


def _with_lamp(plan, class_id, **place):
    lamp = {"spec": fixtures()[class_id].spec.model_dump(mode="json"), "x_m": 0.4, "y_m": 0.3, "z_m": 0.6} | place
    old = [Change(collection="fixtures", part_id=f.id, values={"enabled": False}) for f in plan.spaces[0].fixtures]
    return apply(plan, "box", [*old, Add(collection="fixtures", parts=(lamp,), prefix="lamp")])


def _nearest(plan):
    here = standing_of(plan.spaces[0], DAY)
    return list(nearest_leaves(here, lighting(here, with_map=False), AIR, {}))


def test_the_light_on_the_nearest_leaf_is_about_what_the_field_gives_there(small_plan):
    for leaf in _nearest(small_plan):
        here = standing_of(small_plan.spaces[0], DAY)
        at, facing, _ = nearest_point(leaf.fixture, leaf.plant)
        field = field_of(here.space, POINTS, crowns_of(here)).at(at[None], facing[None]).total
        assert leaf.on.ppfd_umol_m2_s == pytest.approx(float((field @ weights(here.space, DAY))[0]), rel=0.2)


def test_a_hot_lamp_burns_what_an_equally_bright_cool_one_does_not(small_plan):
    top = max(plant.top_m for plant in standing_of(small_plan.spaces[0], DAY).plants)
    hot = _with_lamp(small_plan, "hps-400", z_m=top + 0.2, y_m=0.3)
    far = _with_lamp(small_plan, "hps-400", z_m=1.2, y_m=0.3)
    warm = {}
    for name, plan in (("near", hot), ("far", far)):
        (leaf,) = _nearest(plan)
        warm[name] = leaf
    assert warm["near"].open_c > warm["far"].open_c + 3
    assert warm["near"].on.infrared_w_m2 > 100
    (cool,) = _nearest(_with_lamp(small_plan, "board-65", z_m=top + 0.3))
    assert cool.on.infrared_w_m2 == 0
    assert cool.open_c < 27


def test_the_margin_says_limit_and_what_a_dry_plant_would_come_to(small_plan):
    report = evaluate_space(small_plan, small_plan.spaces[0], day=DAY, with_map=False)
    margin = report.margin("light.leaf-warmth")
    assert margin.verdict == "good"
    assert "dry plant" in margin.why.say()
    assert [step.symbol for step in margin.working.steps] == ["a", "E", "IR", "Q", "T air", "T leaf", "T dry"]
    hot = _with_lamp(small_plan, "hps-400", z_m=0.35)
    burnt = evaluate_space(hot, hot.spaces[0], day=DAY, with_map=False).margin("light.leaf-warmth")
    assert burnt.verdict == "over"
    assert burnt.there.amounts[0][1].value > LIMIT_C


def test_the_nearest_leaf_lies_on_the_crown_towards_the_lamp(small_plan):
    here = standing_of(small_plan.spaces[0], DAY)
    lamp, plant = here.space.fixtures[0], here.plants[0]
    leaf, facing, gap = nearest_point(lamp, plant)
    assert gap > 0
    assert facing @ facing == pytest.approx(1)
    assert leaf[2] <= plant.top_m + 1e-6
    assert leaf[2] > (plant.top_m + plant.bottom_m) / 2


@pytest.mark.parametrize(("gap", "verdict"), [(0.30, "good"), (0.11, "tight"), (0.04, "tight"), (0.02, "short")])
def test_lamps_on_walls_are_held_against_the_leaves_before_them(small_plan, gap, verdict):
    here = standing_of(small_plan.spaces[0], DAY)
    plant = here.plants[0]
    # Tilted to shine towards +y from the front wall; one plant stands before it, the others far behind.
    place = {"x_m": 0.4, "y_m": 0.05, "z_m": (plant.top_m + plant.bottom_m) / 2, "tilt_deg": 90}
    spec = fixtures()["strip-10"].spec.model_dump(mode="json") | {"min_distance_m": 0.1}
    before = {"x_m": 0.4, "y_m": 0.05 + gap + plant.spread_m / 2}
    moved = [
        Change(collection="plants", part_id=p.id, values=before if p is plant else {"y_m": 0.5}) for p in here.plants
    ]
    hung = Add(collection="fixtures", parts=(place | {"spec": spec},), prefix="lamp")
    plan = apply(small_plan, "box", [*moved, hung])
    margin = evaluate_space(plan, plan.spaces[0], day=DAY, with_map=False).margin("light.clearance-side")
    assert margin.verdict == verdict


def test_a_leaf_in_a_beam_that_would_burn_it_still_has_a_figure():
    """A typed lamp of a kilowatt on a hand's breadth, room air at 0 °C: hotter than moist air is followed, and said."""
    air = Surroundings(temperature_c=0.0, rh_pct=1.0)
    found = [leaf_c(Irradiated(ppfd_umol_m2_s=ppfd, infrared_w_m2=ppfd), air) for ppfd in (2e4, 5e4, 2e5)]
    assert found == sorted(found)
    assert found[-1] > 200
