"""Who belongs together over a household's spaces."""

import pytest

from canopy.design.crops.groups import APART, Kind, growing_area_m2, light_there_mol_m2_d, propose, pulls, strife
from canopy.library import crops
from canopy.plan import Plant, Shelf
from tests.conftest import DAY


def _kind(crop_id, stage="", space_id="a"):
    crop = crops()[crop_id]
    want = crop.stage(stage) or crop.stage("vegetative") or crop.stages[-1]
    return Kind(crop=crop, want=want, space_id=space_id, count=1, area_m2=0.05, height_m=0.3)


ALIKE = [("tatsoi", "mizuna"), ("pepper", "tomato-dwarf"), ("haworthia", "echeveria"), ("lettuce-butterhead", "chard")]
UNLIKE = [
    ("chervil", "pepper"),
    ("tatsoi", "filmy-fern"),
    ("tomato-dwarf", "filmy-fern"),
    ("chervil", "african-violet"),
    ("living-stones", "sundew"),
    ("spinach", "okra"),
    ("saffron", "ginger"),
]


@pytest.mark.parametrize(("one", "two"), ALIKE)
def test_crops_that_get_on(one, two):
    assert strife(_kind(one), _kind(two)) < APART


@pytest.mark.parametrize(("one", "two"), UNLIKE)
def test_crops_that_do_not(one, two):
    a, b = _kind(one), _kind(two)
    assert strife(a, b) >= APART
    assert strife(a, b) == pytest.approx(strife(b, a))
    assert {pull.quantity.key for pull in pulls(a, b)}


def test_a_long_night_plant_in_flower_parts_from_long_days():
    keys = {pull.quantity.key for pull in pulls(_kind("photoperiod-herb", "flower"), _kind("tomato-dwarf", "seedling"))}
    assert "hours" in keys
    assert strife(_kind("tatsoi"), _kind("tatsoi")) == 0


def _moved_about(demo_plan, *kinds):
    """The demo's spaces, planted anew: (space, crop) with four plants each."""
    spaces = []
    for space in demo_plan.spaces:
        plants = []
        for key in (crop_id for space_id, crop_id in kinds if space_id == space.id):
            crop = crops()[key]
            stage = crop.stage("vegetative") or crop.stages[-1]
            plants += [
                Plant(
                    id=f"{key}-{n}",
                    crop_id=key,
                    stage=stage.kind,
                    x_m=0.1 + 0.05 * n,
                    y_m=0.1,
                    height_m=0.1,
                    spread_m=0.1,
                )
                for n in range(4)
            ]
        spaces.append(space.model_copy(update={"plants": tuple(plants)}))
    return demo_plan.model_copy(update={"spaces": tuple(spaces)})


def test_a_fern_among_salad_is_sent_to_the_case(demo_plan):
    plan = _moved_about(
        demo_plan, ("hall-closet", "tatsoi"), ("hall-closet", "filmy-fern"), ("fern-case", "cushion-moss")
    )
    found = propose(plan, DAY)
    assert [(move.kind.crop.id, move.to_space_id) for move in found.moves] == [("filmy-fern", "fern-case")]
    assert found.strife_after < found.strife_before
    assert found.left == ()
    assert len(found.groups) == 2


def test_leaf_fruit_and_foliage_make_three_groups(demo_plan):
    plan = _moved_about(
        demo_plan,
        ("berry-tent", "pepper"),
        ("berry-tent", "chervil"),
        ("berry-tent", "filmy-fern"),
        ("berry-tent", "tomato-dwarf"),
        ("berry-tent", "tatsoi"),
    )
    groups = [{kind.crop.id for kind in group} for group in propose(plan, DAY).groups]
    assert {"pepper", "tomato-dwarf"} in groups
    assert {"filmy-fern"} in groups
    assert {"chervil", "tatsoi"} in groups


def test_good_company_is_left_alone_and_nothing_needs_no_groups(demo_plan):
    plan = _moved_about(demo_plan, ("hall-closet", "tatsoi"), ("hall-closet", "mizuna"))
    found = propose(plan, DAY)
    assert found.moves == ()
    assert len(found.groups) == 1
    assert propose(_moved_about(demo_plan), DAY).groups == ()


def test_ground_and_light_are_minded(demo_plan):
    space = demo_plan.spaces[1]
    shelves = tuple(Shelf(id=f"s{n}", name="S", z_m=0.3 * n, width_m=0.83, depth_m=0.52) for n in (1, 2, 3))
    assert growing_area_m2(space) == pytest.approx(0.83 * 0.52)
    assert growing_area_m2(space.model_copy(update={"shelves": shelves})) == pytest.approx(3 * 0.83 * 0.52)
    # Two bars of 72 µmol/s for 13 h, half of it on 0.43 m².
    assert light_there_mol_m2_d(space) == pytest.approx(2 * 72 * 13 * 0.0036 * 0.5 / (0.83 * 0.52))
