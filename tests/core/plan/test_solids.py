"""What stands in what: convex bodies, openings cut into each other, free places."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.design.remedies import remedy_for
from canopy.evaluate import evaluate_space
from canopy.library import fixtures
from canopy.plan import Column, Fixture, Opening, Shelf
from canopy.plan.edit import apply
from canopy.plan.solids import clashes, column_solid, free_place, holes_overlap, lamp_solid, overlap_m, shelf_solid

BAR = fixtures()["strip-18"].spec


def _lamp(key="a", x=0.4, y=0.3, z=1.0, **more):
    return Fixture.model_validate({"id": key, "spec": BAR, "x_m": x, "y_m": y, "z_m": z, **more})


def _with(plan, **update):
    space = plan.spaces[0].model_copy(update={"plants": (), "airways": (), **update})
    return plan.model_copy(update={"spaces": (space,)})


@pytest.mark.parametrize(
    ("shift", "depth"),
    [((0, 0, 0), BAR.thickness_m), ((0, BAR.width_m - 0.01, 0), 0.01), ((0, BAR.width_m + 0.01, 0), -0.01)],
)
def test_boxes_stand_as_deep_in_each_other_as_they_overlap(shift, depth):
    one, two = lamp_solid(1, _lamp()), lamp_solid(2, _lamp("b", 0.4 + shift[0], 0.3 + shift[1], 1.0 + shift[2]))
    assert overlap_m(one, two) == pytest.approx(min(depth, BAR.thickness_m, BAR.width_m), abs=1e-9)


@given(st.floats(0, 360), st.floats(0.05, 0.5), st.floats(-80, 80))
def test_bodies_apart_by_a_gap_never_clash_however_they_are_turned(yaw, gap, tilt):
    """A ball round each body bounds it: middles farther apart than both radii mean nothing overlaps."""
    one = lamp_solid(1, _lamp(yaw_deg=yaw, tilt_deg=tilt))
    reach = np.linalg.norm(one.points - one.points.mean(axis=0), axis=1).max()
    other = _lamp("b", x=0.4 + 2 * reach + gap, yaw_deg=-yaw, tilt_deg=-tilt)
    assert overlap_m(one, lamp_solid(2, other)) <= 1e-9


def test_a_turned_lamp_reaches_over_the_corner_of_another():
    """Crossed at 45 degrees over each other's middles they overlap, one bar's width beside they do not."""
    straight = lamp_solid(1, _lamp())
    assert overlap_m(straight, lamp_solid(2, _lamp("b", yaw_deg=45))) > 0.01
    assert overlap_m(straight, lamp_solid(2, _lamp("b", z=1.0 + BAR.thickness_m + 0.01, yaw_deg=45))) < 0


def test_a_column_is_as_wide_as_it_is_round():
    column = column_solid(Column(id="c", name="C", x_m=0.4, y_m=0.3, height_m=1.5, diameter_m=0.2))
    beside = 0.1 + BAR.width_m / 2
    assert overlap_m(column, lamp_solid(1, _lamp(y=0.3 + beside + 0.003))) <= 0
    assert overlap_m(column, lamp_solid(1, _lamp(y=0.3 + beside - 0.01))) == pytest.approx(0.01, abs=0.003)


def test_each_pair_is_named_and_one_click_mends_it(small_plan):
    shelf = Shelf(id="s", name="Upper shelf", z_m=1.01, width_m=0.8, depth_m=0.6)
    plan = _with(small_plan, fixtures=(_lamp(), _lamp("b", y=0.31)), shelves=(shelf,))
    found = list(clashes(plan.spaces[0]))
    assert {(item.one_id, item.two_id) for item in found} == {("a", "b"), ("s", "a"), ("s", "b")}
    margin = evaluate_space(plan, plan.spaces[0]).margin("space.clash")
    assert margin.verdict == "over"
    assert margin.there.say() == "3 pairs"
    remedy = remedy_for(evaluate_space(plan, plan.spaces[0]), "space.clash")
    after = apply(plan, "box", remedy.changes)
    assert not list(clashes(after.spaces[0]))
    assert evaluate_space(after, after.spaces[0]).margin("space.clash") is None


def test_lamps_side_by_side_may_touch(small_plan):
    plan = _with(small_plan, fixtures=(_lamp(), _lamp("b", y=0.3 + BAR.width_m)))
    assert not list(clashes(plan.spaces[0]))
    assert shelf_solid(Shelf(id="s", name="S", z_m=0.5, width_m=0.8, depth_m=0.6)).points[:, 2].max() == 0.5


def _hole(key, u, v, **more):
    return Opening.model_validate({"id": key, "face": "right", "u_m": u, "v_m": v, **more})


ROUND, MESH = {"diameter_m": 0.12}, {"shape": "mesh", "width_m": 0.3, "height_m": 0.2}


@pytest.mark.parametrize(
    ("one", "two", "overlap"),
    [
        (_hole("a", 0.2, 0.3, **ROUND), _hole("b", 0.3, 0.3, **ROUND), True),
        (_hole("a", 0.2, 0.3, **ROUND), _hole("b", 0.32, 0.3, **ROUND), False),
        (_hole("a", 0.2, 0.3, **ROUND), _hole("b", 0.3, 0.3, **MESH), True),
        # Beside the corner: nearer than either half along each axis, yet clear of it.
        (_hole("a", 0.105, 0.155, **ROUND), _hole("b", 0.3, 0.3, **MESH), False),
        (_hole("a", 0.2, 0.3, **MESH), _hole("b", 0.45, 0.4, **MESH), True),
        (_hole("a", 0.2, 0.3, **MESH), _hole("b", 0.45, 0.55, **MESH), False),
        (_hole("a", 0.2, 0.3, **MESH), _hole("b", 0.2, 0.3, shape="seam", width_m=0.5, height_m=0.01), False),
    ],
)
def test_openings_cut_into_each_other(one, two, overlap):
    assert holes_overlap(one, two) is overlap
    assert holes_overlap(two, one) is overlap
    assert not holes_overlap(one, two.model_copy(update={"face": "left"}))


def test_a_port_in_a_mesh_is_said_and_moved(small_plan):
    holes = (_hole("mesh", 0.3, 0.3, **MESH), _hole("port", 0.3, 0.32, **ROUND))
    plan = _with(small_plan, openings=holes)
    report = evaluate_space(plan, plan.spaces[0])
    assert "port on the right face reaches into the mesh window" in report.margin("space.holes").why.say()
    after = apply(plan, "box", remedy_for(report, "space.holes").changes)
    assert evaluate_space(after, after.spaces[0]).margin("space.holes") is None
    moved = after.spaces[0].openings[1]
    assert np.hypot(moved.u_m - 0.3, moved.v_m - 0.32) < 0.25


def test_a_face_without_room_has_no_free_place(small_plan):
    wall = _hole("mesh", 0.3, 0.8, shape="mesh", width_m=0.6, height_m=1.6)
    space = small_plan.spaces[0].model_copy(update={"openings": (wall,)})
    assert free_place(space, _hole("port", 0.3, 0.3, **ROUND)) is None
    assert free_place(small_plan.spaces[0].model_copy(update={"openings": ()}), wall) == wall


def test_what_is_added_stands_clear_of_what_is_there(small_plan):
    from canopy.design.light.hanging import hang_over
    from canopy.design.shell.fresh import fresh_column, fresh_opening
    from canopy.season import standing_of
    from tests.conftest import DAY

    space = small_plan.spaces[0]
    first = hang_over(standing_of(space.model_copy(update={"fixtures": ()}), DAY), BAR, 1)
    lit = space.model_copy(update={"fixtures": tuple(first)})
    second = hang_over(standing_of(lit, DAY), BAR, 1)
    both = lit.model_copy(update={"fixtures": (*first, second[0].model_copy(update={"id": "lamp-2"}))})
    assert not list(clashes(both))
    hole = Opening.model_validate({**fresh_opening(space.model_copy(update={"openings": ()})), "id": "one"})
    again = Opening.model_validate(fresh_opening(space.model_copy(update={"openings": (hole,)})))
    assert not holes_overlap(hole, again)
    column = Column.model_validate(fresh_column(both))
    assert not list(clashes(both.model_copy(update={"columns": (column,)})))
    nearest = min(np.hypot(plant.x_m - column.x_m, plant.y_m - column.y_m) for plant in space.plants)
    assert nearest > column.diameter_m / 2
