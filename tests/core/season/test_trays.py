"""Trays: a footprint with a plant in each cell, placed side by side, judged and lit over all of it."""

import datetime as dt

import numpy as np
import pytest

from canopy.design.crops.placing import spread_out
from canopy.errors import PlanError
from canopy.evaluate import evaluate_space
from canopy.evaluate.light.lighting import crown_of
from canopy.library import containers, crops
from canopy.light.crowns import leaf_points
from canopy.plan import Plant, Shelf, Size, Space, from_data
from canopy.plan.plants import cell_pitch_m
from canopy.season import Sowing, cast_of, copy_planting, sow, standing_of
from tests.core.air.worked import household, tent

DAY = dt.date(2026, 3, 1)
CELLS = containers()["cell-24"]


def with_plants(space, parts):
    data = household(space).model_dump(mode="json")
    numbered = [part | {"id": f"plant-{n}"} for n, part in enumerate(parts)]
    data["spaces"][0]["plants"] = numbered
    return from_data(data)


def trays(count, crop="basil-sweet", **more):
    space = tent(**more)
    return with_plants(space, spread_out(space, crops()[crop], "seedling", count, container=CELLS))


@pytest.mark.parametrize(("count", "cells"), [(24, [24]), (30, [24, 6]), (1, [1]), (48, [24, 24])])
def test_a_tray_carries_a_plant_in_each_cell(count, cells):
    plan = trays(count)
    assert [plant.cells for plant in plan.spaces[0].plants] == cells
    here = standing_of(plan.spaces[0], DAY)
    assert sum(plant.count for plant in here.plants) == count


def test_trays_stand_side_by_side_within_the_walls_or_say_how_many_would():
    plan = trays(24 * 6)
    size = plan.spaces[0].size
    for plant in plan.spaces[0].plants:
        assert plant.pot_width_m / 2 <= plant.x_m + 1e-6 <= size.width_m - plant.pot_width_m / 2 + 2e-6
        assert plant.pot_depth_m / 2 <= plant.y_m + 1e-6 <= size.depth_m - plant.pot_depth_m / 2 + 2e-6
    report = evaluate_space(plan, plan.spaces[0], with_map=False)
    assert report.margin("crops.overlap") is None
    with pytest.raises(PlanError, match="at most 6 fit"):
        trays(24 * 7)
    narrow = Space(
        id="s", name="S", kind="cabinet", size=Size(width_m=0.3, depth_m=0.6, height_m=1), faces=tent().faces
    )
    turned = spread_out(narrow, crops()["basil-sweet"], "seedling", 24, container=CELLS)[0]
    assert (turned["pot_width_m"], turned["pot_depth_m"]) == (0.28, 0.54)


def test_cells_lie_in_the_raster_nearest_to_squares():
    assert cell_pitch_m(0.54, 0.28, 24) == pytest.approx((0.09, 0.07), abs=0.03)
    wide, deep = cell_pitch_m(0.54, 0.28, 24)
    assert round(0.54 / wide) * round(0.28 / deep) == 24
    assert cell_pitch_m(0.3, 0.3, 1) == (0.3, 0.3)


def test_its_leaves_are_those_of_its_plants_over_its_ground():
    plant = standing_of(trays(24).spaces[0], DAY).plants[0]
    one = 3.14159265 * plant.form.spread_m**2 / 4
    assert plant.ground_m2 * plant.lai == pytest.approx(24 * one * plant.form.lai, rel=1e-6)
    assert plant.ground_m2 <= 4 * plant.half_m[0] * plant.half_m[1] + 1e-9
    few = standing_of(trays(6).spaces[0], DAY).plants[0]
    assert few.ground_m2 * few.lai == pytest.approx(6 * one * few.form.lai, rel=1e-6)


def test_light_is_read_over_the_whole_tray():
    plant = standing_of(trays(24).spaces[0], DAY).plants[0]
    points = leaf_points(crown_of(plant), (2, 2, 2))
    assert points.shape == (7, 3)
    assert np.ptp(points[:, 0]) > 0.8 * 0.54
    assert np.ptp(points[:, 1]) > 0.5 * 0.28
    assert np.abs(points[:, 0] - plant.x_m).max() <= plant.half_m[0]


def test_a_mat_of_shoots_is_as_large_as_its_tray():
    space = tent()
    parts = spread_out(space, crops()["garden-cress"], "", 2)
    assert {part["pot_kind"] for part in parts} == {"tray"}
    plant = standing_of(with_plants(space, parts).spaces[0], DAY).plants[0]
    assert plant.ground_m2 == pytest.approx(0.28 * 0.26)
    assert (plant.count, plant.lai) == (1, plant.form.lai)


def test_sown_trays_share_out_their_plants_on_a_shelf():
    board = Shelf(id="board", name="Board", z_m=0.8, width_m=1.15, depth_m=0.85)
    space = tent(shelves=(board,))
    sowing = Sowing(crop=crops()["basil-sweet"], name="Basil", starts_on=DAY, count=30, container=CELLS)
    sown = sow(household(space), space, sowing, "board")
    assert [plant["cells"] for plant in sown.plants] == [24, 6]
    assert {plant["base_m"] for plant in sown.plants} == {0.8}


def test_crowded_cells_are_said():
    plan = trays(24)
    wide = plan.spaces[0].plants[0].model_copy(update={"spread_m": 0.25})
    crowded = plan.model_copy(update={"spaces": (plan.spaces[0].model_copy(update={"plants": (wide,)}),)})
    margin = evaluate_space(crowded, crowded.spaces[0], with_map=False).margin(f"crops.cells.{wide.id}")
    assert margin.verdict == "over"
    assert "Pot them on" in margin.why.say()


def test_trays_that_overlap_are_found_by_their_edges():
    plan = trays(48)
    one, two = plan.spaces[0].plants
    beside = two.model_copy(update={"x_m": one.x_m, "y_m": one.y_m + 0.29})
    into = two.model_copy(update={"x_m": one.x_m, "y_m": one.y_m + 0.2})
    for other, found in ((beside, False), (into, True)):
        space = plan.spaces[0].model_copy(update={"plants": (one, other)})
        report = evaluate_space(plan.model_copy(update={"spaces": (space,)}), space, with_map=False)
        assert (report.margin("crops.overlap") is not None) is found


def test_only_a_tray_has_cells():
    with pytest.raises(ValueError, match="cells are a tray's"):
        Plant(id="p", crop_id="basil-sweet", stage="seedling", x_m=0, y_m=0, height_m=0.1, spread_m=0.1, cells=4)


def test_a_planting_is_copied_with_its_containers_and_its_training():
    space = tent()
    plan = household(space)
    sowing = Sowing(crop=crops()["basil-sweet"], name="Basil", starts_on=DAY, count=30, container=CELLS)
    sown = sow(plan, space, sowing)
    data = plan.model_dump(mode="json")
    note = {"id": "training-1", "on": "2026-03-20", "height_m": 0.2, "how": "cut"}
    data["plantings"] = [sown.plantings[0] | {"trainings": [note], "cleared_on": "2026-04-10"}]
    data["spaces"][0]["plants"] = list(sown.plants)
    far = space.model_copy(update={"id": "far", "name": "Far"}).model_dump(mode="json")
    plan = from_data({**data, "spaces": [data["spaces"][0], far]})
    first = plan.plantings[0]
    later = dt.date(2026, 5, 1)
    again = copy_planting(plan, "tent", first.id, "tent", later, cast_of(plan))
    fresh = again.plantings[-1]
    assert (fresh.name, fresh.starts_on, fresh.crop_id) == ("Basil 2", later, "basil-sweet")
    assert fresh.trainings[0].on - later == first.trainings[0].on - first.starts_on
    assert fresh.cleared_on - later == first.cleared_on - first.starts_on
    old, new = ([plant for plant in again.spaces[0].plants if plant.planting_id == key] for key in (first.id, fresh.id))
    # The first ones are gone by then: the copies take their places.
    assert [(p.x_m, p.y_m, p.cells) for p in new] == [(p.x_m, p.y_m, p.cells) for p in old]
    assert not {p.id for p in new} & {p.id for p in old}
    beside = copy_planting(plan, "tent", first.id, "tent", DAY, cast_of(plan)).spaces[0].plants
    assert beside[-1].x_m > beside[1].x_m
    there = copy_planting(plan, "tent", first.id, "far", DAY, cast_of(plan))
    assert [plant.cells for plant in there.space("far").plants] == [24, 6]
    with pytest.raises(PlanError, match="no longer in the plan"):
        copy_planting(plan, "tent", "gone", "tent", later, cast_of(plan))
    with pytest.raises(PlanError, match="none of its plants"):
        copy_planting(plan, "far", first.id, "tent", later, cast_of(plan))
