import numpy as np
import pytest

from canopy.light.gather import gather_factors
from canopy.light.polygons import parallel_corner, polygon_factors, upright_corner
from canopy.light.room import RoomGrid

UP = np.array([[0.0, 0, 1]])


def test_faces_of_a_cube_see_each_other_as_the_handbook_says():
    room = RoomGrid.of((1.0, 1.0, 1.0), 600)
    left, right, front = room.faces[:3]
    assert room.exchange_m2[left.patches, right.patches].sum() == pytest.approx(0.199825, abs=2e-5)
    assert room.exchange_m2[left.patches, front.patches].sum() == pytest.approx(0.200044, abs=2e-5)


@pytest.mark.parametrize("size", [(1.2, 0.97, 1.86), (0.3, 0.3, 2.2), (3.0, 0.4, 0.5)])
def test_nothing_is_lost_between_the_faces_of_an_empty_box(size):
    room = RoomGrid.of(size, 700)
    exchange = room.exchange_m2
    assert exchange.sum(axis=1) / room.areas == pytest.approx(np.ones(room.count), abs=2e-5)
    assert np.abs(exchange - exchange.T).max() == 0
    assert exchange.min() >= 0


def test_a_square_overhead_has_its_closed_form():
    # Element under the middle of a square of half side a at height c: 4 corner rectangles.
    a, c = 0.5, 1.0
    quad = np.array([[[-a, -a, c], [a, -a, c], [a, a, c], [-a, a, c]]])
    by_polygon = polygon_factors(np.zeros((1, 3)), UP, quad)[0, 0]
    r = np.sqrt(a * a + c * c)
    by_hand = 4 / (2 * np.pi) * 2 * (a / r) * np.arctan(a / r)
    assert by_polygon == pytest.approx(by_hand, rel=1e-12)
    assert 4 * parallel_corner(np.array(a), np.array(a), np.array(c)) == pytest.approx(by_hand, rel=1e-12)


def test_a_wall_cut_by_the_horizon_counts_only_above_it():
    wall = np.array([[[-0.4, 0.6, -0.5], [0.7, 0.6, -0.5], [0.7, 0.6, 0.8], [-0.4, 0.6, 0.8]]])
    got = polygon_factors(np.zeros((1, 3)), UP, wall)[0, 0]
    z, c = np.array(0.8), np.array(0.6)
    want = upright_corner(np.array(0.7), z, c) - upright_corner(np.array(-0.4), z, c)
    assert got == pytest.approx(float(want), rel=1e-10)


def test_a_polygon_below_the_horizon_does_not_count():
    floor = np.array([[[0.0, 0, -1], [1, 0, -1], [1, 1, -1], [0, 1, -1]]])
    assert polygon_factors(np.zeros((1, 3)), UP, floor)[0, 0] == 0


def test_gathering_along_axes_and_by_polygons_agree():
    room, rng = RoomGrid.of((0.8, 0.6, 1.1), 200), np.random.default_rng(1)
    points = rng.random((12, 3)) * room.size_m
    for axis in range(3):
        for sign in (1, -1):
            normals = np.zeros((12, 3))
            normals[:, axis] = sign
            straight = gather_factors(room, 2, points, normals)
            tipped = normals + 1e-5 * np.roll(normals, 1, axis=1)
            tipped /= np.linalg.norm(tipped, axis=1, keepdims=True)
            assert np.abs(straight - gather_factors(room, 2, points, tipped)).max() < 2e-5
            assert straight.sum(axis=1) == pytest.approx(np.ones(12), abs=1e-5)
