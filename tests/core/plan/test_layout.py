"""Grids, lines, columns and walls."""

from math import hypot

import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import GeometryError
from canopy.plan import Column, Shelf
from canopy.plan.layout import Rect, aligned, grid, on_wall, round_column
from canopy.plan.levels import covers, roof_m, shelf_under, shines_down


@given(st.integers(1, 120), st.floats(0.1, 3), st.floats(0.1, 3), st.none() | st.integers(1, 20))
def test_a_grid_lies_inside_its_ground_and_nobody_stands_twice(count, width, depth, columns):
    places = grid(Rect(x_m=1, y_m=2, width_m=width, depth_m=depth), count, columns=columns)
    assert len(places) == len({(p.x_m, p.y_m) for p in places}) == count
    assert all(1 <= p.x_m <= 1 + width + 1e-4 and 2 <= p.y_m <= 2 + depth + 1e-4 for p in places)


def test_a_grid_at_a_spacing_stands_in_the_middle_or_does_not_fit():
    places = grid(Rect(width_m=1.0, depth_m=0.6), 6, columns=3, spacing_m=0.2)
    assert [(p.x_m, p.y_m) for p in places] == [(0.3, 0.2), (0.5, 0.2), (0.7, 0.2), (0.3, 0.4), (0.5, 0.4), (0.7, 0.4)]
    with pytest.raises(GeometryError, match="6 × 1 places 25 cm apart need 125 × 0 cm; there are 100 × 60 cm"):
        grid(Rect(width_m=1.0, depth_m=0.6), 6, columns=6, spacing_m=0.25)
    assert grid(Rect(width_m=1, depth_m=1), 0) == []


def test_round_a_column_plants_face_outward_in_rings():
    column = Column(id="c", name="C", x_m=0.5, y_m=0.4, z_m=0.1, height_m=1.0, diameter_m=0.2)
    places = round_column(column, 10, 2)
    assert all(hypot(p.x_m - 0.5, p.y_m - 0.4) == pytest.approx(0.1, abs=1e-3) for p in places)
    assert {p.base_m for p in places} == {0.35, 0.85}
    assert places[0].facing_deg == 0
    assert places[5].facing_deg == 36


@pytest.mark.parametrize(
    ("wall", "facing", "x", "y"), [("back", 270, None, 0.59), ("left", 0, 0.01, None), ("right", 180, 0.99, None)]
)
def test_on_a_wall_plants_face_into_the_space(wall, facing, x, y):
    places = on_wall(wall, (1.0, 0.6, 1.5), 6, columns=3, low_m=0.3)
    assert {p.facing_deg for p in places} == {facing}
    assert all(0.3 < p.base_m < 1.5 for p in places)
    assert x is None or {p.x_m for p in places} == {x}
    assert y is None or {p.y_m for p in places} == {y}


@pytest.mark.parametrize(
    ("how", "want"), [("low", [1, 1, 1]), ("high", [4, 4, 4]), ("middle", [2.5, 2.5, 2.5]), ("spread", [4, 1, 2.5])]
)
def test_lining_up(how, want):
    assert aligned([4, 1, 2], how) == want


def test_levels(small_plan):
    low, high = (
        Shelf(id=k, name=k, z_m=z, width_m=0.4, depth_m=0.6, thickness_m=0.02) for k, z in (("a", 0.5), ("b", 1.0))
    )
    space = small_plan.spaces[0].model_copy(update={"shelves": (low, high)})
    assert shelf_under(space, 0.2, 0.3, 0.5).id == "a"
    assert shelf_under(space, 0.2, 0.3, 1.2).id == "b"
    assert shelf_under(space, 0.7, 0.3, 1.2) is None
    assert (roof_m(space, 0.2, 0.3, 0.0), roof_m(space, 0.2, 0.3, 0.5), roof_m(space, 0.7, 0.3, 0.5)) == (
        0.48,
        0.98,
        1.6,
    )
    assert covers(low, 0.41, 0.61)
    assert not covers(low, 0.43, 0.3)
    lamp = space.fixtures[0]
    assert shines_down(lamp)
    assert not shines_down(lamp.model_copy(update={"tilt_deg": 90.0}))
