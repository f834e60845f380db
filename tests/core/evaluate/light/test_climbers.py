"""Climbers: held by what they climb, lit by height; lower leaves stripped; a net's canopy as one."""

from dataclasses import replace

import numpy as np
import pytest

from canopy.evaluate import evaluate_space
from canopy.evaluate.light.leaf_levels import leaf_levels, strip_to_m
from canopy.evaluate.light.lighting import judged_points, leaf_light
from canopy.light.crowns import Crown, leaf_normals, leaf_points
from canopy.light.scene import field_of
from canopy.plan import Fixture, LightGoal, Net, Plant, Trellis, dumps, loads
from canopy.plan.changes import Change
from canopy.plan.climbing import held
from canopy.plan.edit import apply
from canopy.season import standing_of
from tests.conftest import DAY

LAMP = {"name": "L", "power_w": 150, "output": {"kind": "ppf", "ppf_umol_s": 380}, "length_m": 0.5, "width_m": 0.4}


def _climber(key="vine", **more):
    data = {
        "id": key,
        "crop_id": "cucumber-compact",
        "stage": "fruit",
        "x_m": 0.4,
        "y_m": 0.4,
        "height_m": 1.2,
        "spread_m": 0.5,
        "pot_height_m": 0.2,
        "habit": "wall",
    }
    return Plant.model_validate({**data, **more})


def _with(plan, *plants, lamp_at=(0.4, 0.2, 1.3), **more):
    x, y, z = lamp_at
    lamp = Fixture.model_validate({"id": "a", "spec": LAMP, "x_m": x, "y_m": y, "z_m": z})
    update = {"plants": plants, "fixtures": (lamp,), "airways": (), "stirrers": (), **more}
    space = plan.spaces[0].model_copy(update=update)
    return plan.model_copy(update={"spaces": (space,)})


@pytest.mark.parametrize(
    ("at", "stands", "faces"),
    [((0.4, 0.5), (0.4, 0.49), 270), ((0.1, 0.3), (0.11, 0.3), 0), ((0.75, 0.3), (0.69, 0.3), 180)],
)
def test_a_climber_stands_at_the_nearest_wall(small_plan, at, stands, faces):
    plant = held(small_plan.spaces[0], _climber(x_m=at[0], y_m=at[1]))
    # Half its pot, 11 cm, off the wall.
    assert (plant.x_m, plant.y_m) == pytest.approx(stands)
    assert plant.facing_deg == faces
    assert held(small_plan.spaces[0], plant) == plant
    other = _climber(habit="pole", x_m=at[0], y_m=at[1])
    assert held(small_plan.spaces[0], other) == other


def test_a_trellis_holds_before_a_wall_that_is_farther(small_plan):
    trellis = Trellis(id="t", name="T", x_m=0.4, y_m=0.35, width_m=0.6, height_m=1.4)
    space = small_plan.spaces[0].model_copy(update={"trellises": (trellis,)})
    plant = held(space, _climber(x_m=0.3, y_m=0.3))
    assert (plant.x_m, plant.y_m, plant.facing_deg) == (0.3, 0.24, 270)


def test_every_plan_that_is_read_holds_its_climbers(small_plan):
    plan = _with(small_plan, _climber(x_m=0.5, y_m=0.4))
    read = loads(dumps(plan))
    assert read.spaces[0].plants[0].y_m == pytest.approx(0.49)
    assert loads(dumps(read)) == read
    moved = apply(read, "box", [Change(collection="plants", part_id="vine", values={"x_m": 0.05, "y_m": 0.2})])
    assert (moved.spaces[0].plants[0].x_m, moved.spaces[0].plants[0].facing_deg) == (0.11, 0)


def test_its_light_is_judged_by_height_not_by_its_tip(small_plan):
    """A lamp that hangs below the tip leaves the tip dark: the leaves beside it carry the plant."""
    plan = loads(dumps(_with(small_plan, _climber(), lamp_at=(0.4, 0.2, 1.1))))
    report = evaluate_space(plan, plan.spaces[0])
    light = report.lighting.plants[0]
    levels = leaf_levels(report.here)[0].levels
    assert levels[0] < 0.3 * max(levels)
    assert light.ppfd_umol_m2_s > 2 * levels[0]
    field = field_of(plan.spaces[0], crowns=(_crown(report),))
    read = leaf_light(field, (_crown(report),), (0.8, 0.6, 1.6), np.ones(1))
    best = np.sort(read.light.total[:, 0])[::-1][:4]
    assert light.ppfd_umol_m2_s == pytest.approx(best.mean() * report.space.fixtures[0].dim, rel=0.02)
    assert "a climber: mean over the 4 best lit" in report.margin("light.dli.cucumber-compact.fruit").working.formula


def _crown(report):
    from canopy.evaluate.light.lighting import crown_of

    return crown_of(report.here.plants[0])


def test_mirror_images_get_the_same_light(small_plan):
    two = (_climber("a", x_m=0.2, y_m=0.55), _climber("b", x_m=0.6, y_m=0.55))
    poles = tuple(plant.model_copy(update={"habit": "pole", "y_m": 0.4}) for plant in two)
    for plants in (two, poles):
        plan = _with(small_plan, *plants)
        left, right = evaluate_space(plan, plan.spaces[0]).lighting.plants
        assert left.ppfd_umol_m2_s == pytest.approx(right.ppfd_umol_m2_s, rel=0.02)


def test_points_lie_down_its_flank_and_turn_to_the_light():
    crown = Crown(x_m=0.4, y_m=0.4, bottom_m=0.2, top_m=1.6, radius_m=0.15, climbs=True, away=(0.0, -1.0))
    points = leaf_points(crown, (1.0, 1.0, 2.0))
    assert np.allclose(np.diff(points[:, 2]), -0.2)
    assert (points[:, 1] < 0.4).all()
    assert [tuple(way[0]) for way in leaf_normals(crown)] == [(0, 0, 1), (0, -1, 0)]
    assert len(leaf_normals(replace(crown, away=(0.0, 0.0)))) == 5
    assert len(leaf_normals(replace(crown, climbs=False))) == 1


def test_four_heights_of_a_climber_count_and_all_points_of_others(small_plan):
    plan = _with(small_plan, _climber(), _climber("bush", habit="stand", height_m=0.3))
    climber, bush = standing_of(plan.spaces[0], DAY).plants
    at = np.array([5.0, 1, 9, 7, 3, 8, 2])
    assert judged_points(climber, at).tolist() == [0, 2, 3, 5]
    assert judged_points(bush, at).tolist() == list(range(7))


def test_leaves_that_do_not_pay_are_offered_to_be_stripped(small_plan):
    """Far below a dim lamp the lowest leaves live under their compensation light."""
    lamp = (0.4, 0.3, 1.55)
    plan = _with(small_plan, _climber(habit="stand", stage="vegetative", x_m=0.4, y_m=0.3), lamp_at=lamp)
    dim = plan.spaces[0].fixtures[0].model_copy(update={"dim": 0.12})
    starved = plan.spaces[0].model_copy(update={"fixtures": (dim,)})
    # By the library's target the whole plant starves: light is what it needs.
    assert strip_to_m(leaf_levels(standing_of(starved, DAY))[0]) == 0
    goal = LightGoal(id="g", crop_id="cucumber-compact", low_umol_m2_s=20, high_umol_m2_s=300)
    plan = plan.model_copy(update={"spaces": (starved.model_copy(update={"light_goals": (goal,)}),)})
    here = standing_of(plan.spaces[0], DAY)
    found = leaf_levels(here)[0]
    up_to = strip_to_m(found)
    assert 0.03 < up_to <= 0.6 * 1.2 + 1e-9
    stripped = apply(plan, "box", [Change(collection="plants", part_id="vine", values={"stripped_m": up_to})])
    after = leaf_levels(standing_of(stripped.spaces[0], DAY))[0]
    assert after.plant.bottom_m == pytest.approx(found.plant.rim_m + up_to)
    assert after.plant.lai < found.plant.lai
    assert after.idle_share < found.idle_share
    # Once it flowers, up to the first node that bears.
    fruiting = plan.spaces[0].plants[0].model_copy(update={"stage": "fruit"})
    space = plan.spaces[0].model_copy(update={"plants": (fruiting,)})
    assert strip_to_m(leaf_levels(standing_of(space, DAY))[0]) == fruiting_node(space)
    # What hangs or grows outward is left alone.
    hanging = replace(found.plant, plant=found.plant.plant.model_copy(update={"habit": "hang"}))
    assert strip_to_m(replace(found, plant=hanging)) == 0


def fruiting_node(space):
    return standing_of(space, DAY).plants[0].crop.first_fruit_m


def test_a_net_makes_one_canopy_that_is_judged_as_one(small_plan):
    plants = tuple(
        _climber(f"p{n}", crop_id=crop, stage="vegetative", habit="stand", x_m=x, y_m=0.3, height_m=0.6)
        for n, (crop, x) in enumerate((("pepper", 0.2), ("tomato-dwarf", 0.4), ("pepper", 0.6)))
    )
    plan = _with(small_plan, *plants, net=Net(z_m=0.5), lamp_at=(0.15, 0.3, 0.9))
    report = evaluate_space(plan, plan.spaces[0])
    margin = report.margin("light.net")
    lights = report.lighting.plants
    least = min(light.least_ppfd_umol_m2_s for light in lights)
    mean = sum(light.ppfd_umol_m2_s for light in lights) / 3
    assert margin.verdict == ("good" if least / mean >= 0.7 else "tight" if least / mean >= 0.5 else "short")
    assert margin.verdict == "short"
    assert "3 plants make one canopy at 50" in margin.why.say()
    bare = plan.spaces[0].model_copy(update={"net": None})
    assert evaluate_space(plan, bare).margin("light.net") is None
