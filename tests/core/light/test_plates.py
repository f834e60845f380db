"""Bodies: what they hide, how they are cut, and what the walls make of them."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from canopy.errors import ConvergenceError
from canopy.light.emitters import distance_to, shaders
from canopy.light.plates import Plate, quad_samples
from canopy.light.polygons import polygon_factors
from canopy.light.radiosity import body_tiles, exchange, hidden_pairs, solve
from canopy.light.room import RoomGrid
from tests.core.light.conftest import panel

COORDINATE = st.floats(-2, 2, allow_nan=False)
POINT = st.tuples(COORDINATE, COORDINATE, COORDINATE)


def _hidden(plate, a, b):
    return bool(plate.hides(np.array([a], dtype=float), np.array([b], dtype=float))[0, 0])


@pytest.mark.parametrize(
    ("a", "b", "hidden"),
    [
        ((0.5, 0.5, 0.0), (0.5, 0.5, 2.0), True),  # straight through the middle
        ((0.5, 0.5, 2.0), (0.5, 0.5, 0.0), True),  # and back
        ((0.5, 0.5, 0.0), (0.5, 0.5, 0.9), False),  # stops short
        ((0.0, 0.5, 0.0), (0.0, 0.5, 2.0), False),  # passes beside
        ((0.0, 0.5, 0.0), (1.0, 0.5, 2.0), True),  # slanting through
        ((0.0, 0.5, 0.0), (0.2, 0.5, 2.0), False),  # slanting past the rim
        ((0.5, 0.5, 1.0), (0.5, 0.5, 2.0), False),  # starts on the plate itself
    ],
)
def test_a_plate_hides_what_passes_through_it(a, b, hidden):
    assert _hidden(panel(0.5, 0.5, 1.0, 0.6, 0.4, 1).plate, a, b) is hidden


def test_a_disc_hides_by_its_radius_and_bars_let_light_through_their_gaps():
    disc = panel(0.5, 0.5, 1.0, 0.4, 0.4, 1, disc=True).plate
    assert _hidden(disc, (0.5, 0.68, 0), (0.5, 0.68, 2))
    assert not _hidden(disc, (0.65, 0.65, 0), (0.65, 0.65, 2))
    bars = panel(0.5, 0.5, 1.0, 0.6, 0.1, 1, offsets=(-0.2, 0.2)).plate
    assert not _hidden(bars, (0.5, 0.5, 0), (0.5, 0.5, 2))
    assert _hidden(bars, (0.5, 0.32, 0), (0.5, 0.32, 2))


@given(POINT, POINT, st.floats(-80, 80))
def test_hiding_is_the_same_both_ways(a, b, tilt):
    plate = panel(0.1, 0.2, 0.3, 0.9, 0.7, 1, tilt=tilt).plate
    assert _hidden(plate, a, b) == _hidden(plate, b, a)


@given(st.floats(0.05, 1.5), st.floats(0.02, 0.8), st.floats(0.03, 0.5), st.integers(1, 6))
def test_tiles_cover_the_plate(length, width, pitch, bars):
    offsets = tuple(0.9 * k for k in range(bars))
    plate = panel(0, 0, 0, length, width, 1, offsets=offsets).plate
    corners, areas = plate.tiles(pitch)
    assert areas.sum() == pytest.approx(plate.area_m2)
    assert len(corners) == len(areas)
    assert np.abs(plate.local(corners)[..., 2]).max() < 1e-12
    assert np.abs(plate.local(corners)[..., 0]).max() == pytest.approx(length / 2)


def test_a_disc_is_cut_as_the_square_of_its_area():
    disc = panel(0, 0, 0, 0.4, 0.4, 1, disc=True).plate
    assert disc.tiles(0.1)[1].sum() == pytest.approx(np.pi * 0.04)
    assert disc.area_m2 == pytest.approx(np.pi * 0.04)


def test_samples_lie_inside_their_tile():
    quad = np.array([[[0, 0, 0], [2, 0, 0], [2, 1, 0], [0, 1, 0]]], dtype=float)
    assert quad_samples(quad, 2)[0].tolist() == [[0.5, 0.25, 0], [0.5, 0.75, 0], [1.5, 0.25, 0], [1.5, 0.75, 0]]


def test_distance_is_to_the_nearest_part():
    plate = panel(0.5, 0.5, 1.0, 0.6, 0.4, 1).plate
    got = distance_to(plate, np.array([[0.5, 0.5, 0.4], [1.2, 0.5, 1.0], [1.1, 1.1, 1.0]]))
    assert got == pytest.approx([0.6, 0.4, 0.5])


def test_only_bodies_ahead_of_a_lamp_can_shade_it():
    lamp = panel(0.5, 0.5, 1.0, 0.2, 0.2, 1).plate
    level, above, below = (panel(0.9, 0.5, z, 0.2, 0.2, 1).plate for z in (1.0, 1.4, 0.6))
    assert shaders(lamp, [level, above, below]) == [below]


def test_a_plate_s_key_tells_it_from_others():
    base = panel(0.5, 0.5, 1.0, 0.2, 0.2, 1).plate
    assert base.key == panel(0.5, 0.5, 1.0, 0.2, 0.2, 99).plate.key
    moved, paler = panel(0.51, 0.5, 1.0, 0.2, 0.2, 1), panel(0.5, 0.5, 1.0, 0.2, 0.2, 1, rho=0.4)
    others = [moved, paler, panel(0.5, 0.5, 1.0, 0.2, 0.2, 1, tilt=3)]
    assert len({base.key, *(other.plate.key for other in others)}) == 4


def test_a_plate_across_the_whole_box_parts_it():
    room = RoomGrid.of((1.0, 1.0, 1.0), 150)
    plate = panel(0.5, 0.5, 0.5, 1.0, 1.0, 1).plate
    hidden = hidden_pairs(room, plate)
    floor, ceiling = room.faces[4], room.faces[5]
    assert set(range(floor.patches.start, floor.patches.stop)) <= set(hidden.cols.tolist() + hidden.rows.tolist())
    net = exchange(room, [plate])
    assert np.abs(net.k_m2[floor.patches, ceiling.patches]).max() < 1e-6


APART = [panel(0.3, 0.4, 0.7, 0.3, 0.3, 1).plate, panel(0.7, 0.4, 0.4, 0.3, 0.1, 1, tilt=30).plate]


@pytest.mark.parametrize("plates", [[], [panel(0.5, 0.4, 0.7, 0.4, 0.3, 1).plate], APART])
def test_with_bodies_every_row_still_sums_to_its_area(plates):
    room = RoomGrid.of((1.0, 0.8, 1.0), 300)
    net = exchange(room, plates)
    assert net.k_m2.sum(axis=1) / net.areas_m2 == pytest.approx(np.ones(len(net.areas_m2)), abs=0.012)
    assert np.abs(net.k_m2 - net.k_m2.T).max() < 1e-6
    assert net.k_m2.min() >= 0


def test_tiles_see_the_whole_half_space_of_an_empty_box():
    room = RoomGrid.of((1.0, 0.8, 1.2), 300)
    for tilt in (0, 40):
        tiles = body_tiles(room, panel(0.5, 0.4, 0.6, 0.3, 0.2, 1, tilt=tilt).plate)
        for side in tiles.walls_m2:
            areas = tiles.surface.areas
            assert side.sum(axis=1) / areas == pytest.approx(np.ones(len(areas)), abs=1e-4)


def test_conjugate_gradients_agree_with_a_dense_solution():
    room, rng = RoomGrid.of((1.0, 0.8, 1.2), 120), np.random.default_rng(4)
    net = exchange(room, [panel(0.5, 0.4, 0.6, 0.3, 0.2, 1).plate])
    rho, direct = rng.random(len(net.areas_m2)) * 0.9, rng.random((len(net.areas_m2), 3)) * 100
    rho[:10] = 0.0
    got = solve(net.k_m2, net.areas_m2, rho, direct)
    dense = np.linalg.solve(np.eye(len(rho)) - rho[:, None] * net.k_m2 / net.areas_m2[:, None], rho[:, None] * direct)
    assert got == pytest.approx(dense, rel=2e-3, abs=1e-2)


def test_an_unreachable_tolerance_is_said_not_hidden():
    net = exchange(RoomGrid.of((1.0, 1.0, 1.0), 60), [])
    with pytest.raises(ConvergenceError, match="did not settle"):
        solve(net.k_m2, net.areas_m2, np.full(len(net.areas_m2), 0.9), np.ones((len(net.areas_m2), 1)), tolerance=-1.0)


@settings(deadline=None)
@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(0.05, 2), st.integers(2, 5))
def test_a_polygon_s_factor_is_the_sum_of_its_parts(x, y, z, parts):
    edges = np.linspace(-0.5, 0.5, parts + 1)
    whole = np.array([[[-0.5, -0.5, z], [0.5, -0.5, z], [0.5, 0.5, z], [-0.5, 0.5, z]]])
    cut = np.array([[[a, -0.5, z], [b, -0.5, z], [b, 0.5, z], [a, 0.5, z]] for a, b in pairwise(edges)])
    point, tipped = np.array([[x, y, 0.0]]), np.array([[0.3, -0.2, np.sqrt(1 - 0.13)]])
    assert polygon_factors(point, tipped, cut).sum() == pytest.approx(
        polygon_factors(point, tipped, whole).sum(), abs=1e-9
    )


@settings(deadline=None)
@given(POINT.filter(lambda p: sum(v * v for v in p) > 0.01))
def test_the_faces_round_a_point_fill_its_hemisphere(direction):
    normal = np.array([direction]) / np.linalg.norm(direction)
    room = RoomGrid.of((1.0, 1.0, 1.0), 54)
    from canopy.light.gather import gather_factors

    assert gather_factors(room, 1, np.array([[0.4, 0.55, 0.3]]), normal).sum() == pytest.approx(1.0, abs=1e-4)


def test_plates_are_compared_by_identity():
    one = panel(0.5, 0.5, 1.0, 0.2, 0.2, 1).plate
    assert one != Plate(
        **{field: getattr(one, field) for field in ("centre", "along", "across", "beam", "length_m", "width_m")}
    )


def test_many_panes_weaken_walls_by_the_product_of_what_each_lets_through():
    # Panes of six kinds between the rows of patches, crossed by lines in any order; known up to the balance's scale.
    room = RoomGrid.of((0.6, 0.5, 0.9), 150)
    panes = [
        replace(panel(0.3, 0.25, k * room.pitch_m[2], 0.5, 0.4 - 0.03 * k, 1).plate, passes=0.95 - 0.05 * k)
        for k in range(1, room.divisions[2])
    ]
    assert len(panes) == 6
    k = exchange(room, panes).k_m2[: room.count, : room.count].astype(np.float64)
    wanted = room.exchange_m2.astype(np.float64)
    for pane in panes:
        cut, hidden = np.zeros((room.count, room.count)), hidden_pairs(room, pane)
        cut[hidden.rows, hidden.cols] = cut[hidden.cols, hidden.rows] = np.bitwise_count(hidden.lines) / 4
        wanted *= 1 - cut * (1 - pane.passes)
    i, j = np.nonzero(np.triu(wanted) > 1e-9)
    of = np.zeros((len(i), room.count))
    of[np.arange(len(i)), i] = of[np.arange(len(i)), j] = 1
    ratio = np.log(k[i, j] / wanted[i, j])
    scale = np.linalg.lstsq(of, ratio, rcond=None)[0]
    assert ratio == pytest.approx(of @ scale, abs=1e-4)
    assert len(np.unique((wanted / np.maximum(room.exchange_m2, 1e-12)).round(4))) > 50
