"""Leaves in the balance: photons booked, and light at tops, among and below crowns against traced paths."""

import numpy as np
import pytest

from canopy.light.crowns import Crown
from canopy.light.depths import depth, depths
from canopy.light.field import LightField
from canopy.light.leaves import LEAF_ALBEDO, joined, shared_patches
from canopy.light.parts import Scene
from canopy.light.plates import Plate
from canopy.light.room import RoomGrid
from tests.core.light.conftest import panel
from tests.core.light.path_trace import World, trace

SIZE, WHITE, BLACK, TENT = (1.0, 1.0, 1.8), (0.85,) * 6, (0.0,) * 6, (0.88, 0.88, 0.88, 0.88, 0.3, 0.85)
LAMP = panel(0.5, 0.5, 1.5, 0.6, 0.6, 600)


def _rows(across, tall, bottom=0.1, lai=3.0):
    pitch = SIZE[0] / across
    return tuple(
        Crown(
            x_m=(i + 0.5) * pitch,
            y_m=(j + 0.5) * pitch,
            bottom_m=bottom,
            top_m=bottom + tall,
            radius_m=0.475 * pitch,
            lai=lai,
        )
        for i in range(across)
        for j in range(across)
    )


def _field(rho, crowns, lamps=(LAMP,), bodies=(), mirrors=(), patches=800):
    room = RoomGrid.of(SIZE, patches)
    reflectance = np.empty(room.count)
    for face, value in zip(room.faces, rho, strict=True):
        reflectance[face.patches] = value
    scene = Scene(
        room=room, reflectance=reflectance, emitters=tuple(lamps), bodies=bodies, crowns=tuple(crowns), mirrors=mirrors
    )
    return LightField(scene)


def _up(points):
    return np.tile([0.0, 0.0, 1.0], (len(points), 1))


# name: walls, crowns, lamp's height; 20 to 100 cm tall, 4 to 49 of them.
PLANTED = {
    "16 of 20 cm": (TENT, _rows(4, 0.2), 1.5),
    "16 of 40 cm": (TENT, _rows(4, 0.4), 1.5),
    "16 of 1 m": (WHITE, _rows(4, 1.0), 1.5),
    "4 of 30 cm": (TENT, _rows(2, 0.3), 1.5),
    "49 of 30 cm": (WHITE, _rows(7, 0.3), 1.5),
    "the lamp 12 cm over them": (WHITE, _rows(4, 0.5), 0.72),
    "in a black box": (BLACK, _rows(4, 0.4), 1.5),
}


@pytest.mark.parametrize("name", PLANTED)
def test_planted_spaces_agree_with_traced_paths(name):
    rho, crowns, z = PLANTED[name]
    lamp = panel(0.5, 0.5, z, 0.6, 0.6, 600)
    field = _field(rho, crowns, (lamp,))
    world = World(SIZE, rho, [lamp], crowns=crowns, omega=LEAF_ALBEDO)
    some = crowns if len(crowns) < 6 else [crowns[k] for k in range(0, len(crowns), len(crowns) // 5)]
    for height, within, paths in ((lambda c: c.top_m, 0.03, 400), (lambda c: max(c.bottom_m - 0.03, 0.01), 0.15, 600)):
        points = np.array([(c.x_m, c.y_m, height(c)) for c in some])
        got, (want, error) = field.at(points, _up(points)).total.sum(axis=1), trace(world, points, _up(points), paths)
        # The trace's own error, twice, comes on top.
        noise = np.sqrt((error**2).sum()) / want.sum()
        assert got.mean() == pytest.approx(want.mean(), rel=within + 2 * noise)


@pytest.mark.parametrize("name", PLANTED)
def test_every_photon_ends_in_a_wall_a_body_or_a_leaf(name):
    rho, crowns, z = PLANTED[name]
    book = _field(rho, crowns, (panel(0.5, 0.5, z, 0.6, 0.6, 600),)).energy()
    assert book.absorbed == pytest.approx(book.emitted, rel=0.01)
    assert book.absorbed_crowns[0] > 0.05 * book.emitted[0]


def test_leaves_far_too_thin_to_matter_change_nothing():
    points = np.array([[0.3, 0.4, 0.05], [0.5, 0.5, 0.6]])
    bare, thin = _field(TENT, ()), _field(TENT, _rows(4, 0.4, lai=1e-6))
    assert thin.at(points, _up(points)).total == pytest.approx(bare.at(points, _up(points)).total, rel=2e-3)


def test_in_a_white_furnace_leaves_see_what_the_walls_give():
    # Deep in a box of nearly perfect walls light is the same everywhere, leaves or not, but for what leaves take.
    crowns = _rows(2, 0.3, lai=0.02)
    field = _field((0.98,) * 6, crowns, (panel(0.5, 0.5, 1.7, 0.1, 0.1, 100, rho=0.98),))
    taken = field.energy().absorbed_crowns[0]
    # Taken: (1 - ω) of mean irradiance on leaf area, both sides of it: E · 4 k V for thin crowns.
    room = field.scene.room
    mean = float((field._arriving[: room.count, 0] * room.areas).sum() / room.areas.sum())
    area = sum(4 * crown.weakening_per_m * crown.volume_m3 for crown in crowns)
    assert taken == pytest.approx((1 - LEAF_ALBEDO) * area * mean, rel=0.05)


def test_depth_is_the_sum_of_its_parts_and_the_same_both_ways():
    rng, crowns = np.random.default_rng(3), _rows(3, 0.5)
    here, there = rng.random((40, 3)) * SIZE, rng.random((25, 3)) * SIZE
    found = depths(crowns, here, there)
    one_by_one = sum(depth([crown], here, there) for crown in crowns)
    assert found.total == pytest.approx(one_by_one, abs=1e-5)
    apart = np.array([np.bincount(found.where[found.owner == k], found.deep[found.owner == k], 1000) for k in range(9)])
    assert apart.sum(axis=0) == pytest.approx(found.total.ravel(), abs=1e-5)
    assert pytest.approx(found.total, abs=1e-4) == depth(crowns, there, here).T
    # Against a walk along each line.
    steps = (np.arange(4000) + 0.5) / 4000
    for i, j in ((0, 0), (7, 3), (20, 19), (39, 24)):
        at = here[i] + steps[:, None] * (there[j] - here[i])
        inside = sum(c.weakening_per_m * ((((at - c.middle) / c.semi_axes) ** 2).sum(1) < 1).mean() for c in crowns)
        assert found.total[i, j] == pytest.approx(inside * np.linalg.norm(there[j] - here[i]), abs=0.01)


def test_many_crowns_are_joined_for_the_balance_and_take_as_much():
    many = _rows(15, 0.2)
    few = joined(many)
    assert len(few) <= 100
    assert joined(few) == few
    ground = sum(crown.radius_m**2 for crown in many)
    assert sum(crown.radius_m**2 for crown in few) == pytest.approx(ground)
    field = _field(WHITE, many)
    book = field.energy()
    assert book.absorbed == pytest.approx(book.emitted, rel=0.01)
    points = np.array([(c.x_m, c.y_m, c.top_m) for c in many[::75]])
    world = World(SIZE, WHITE, [LAMP], crowns=many, omega=LEAF_ALBEDO)
    got, (want, error) = (
        field.at(points, _up(points)).total.sum(axis=1),
        trace(world, points, _up(points), 150),
    )
    assert got.mean() == pytest.approx(want.mean(), rel=0.03 + 2 * np.sqrt((error**2).sum()) / want.sum())


def test_patches_above_the_leaves_share_lines_of_sight_and_none_is_forgotten():
    room, crowns = RoomGrid.of((1.0, 1.0, 1.8), 1600), _rows(4, 0.4)
    shared = shared_patches(room, crowns)
    assert len(shared.middles) < 0.8 * room.count
    assert np.bincount(shared.of).max() == 4
    low = room.points(1)[:, 0, 2] < 0.5
    assert np.bincount(shared.of)[shared.of[low]].max() == 1
    values = np.random.default_rng(1).random((3, room.count))
    assert shared.sums(values).sum(axis=1) == pytest.approx(values.sum(axis=1))


def test_a_shelf_keeps_the_plants_below_it_apart_from_those_above():
    shelf = Plate(
        centre=np.array([0.5, 0.5, 0.9]),
        along=np.array([1.0, 0, 0]),
        across=np.array([0, 1.0, 0]),
        beam=np.array([0, 0, -1.0]),
        length_m=1.0,
        width_m=1.0,
        back_reflectance=0.8,
        partition=True,
        screen=True,
    )
    crowns = (*_rows(3, 0.3, bottom=0.95), *_rows(3, 0.3))
    field = _field(TENT, crowns, bodies=(shelf,), patches=600)
    points = np.array([[0.5, 0.5, 0.41], [0.5, 0.5, 1.26]])
    below, above = field.at(points, _up(points)).total[:, 0]
    assert below < 0.02 * above
    book = field.energy()
    assert book.absorbed == pytest.approx(book.emitted, rel=0.01)


def test_plants_before_a_mirror_are_seen_in_it():
    # A mirrored wall is as good as twice the box with twice the lamp and twice the plants, light from its direct beam.
    crown = Crown(x_m=0.25, y_m=0.5, bottom_m=0.3, top_m=0.9, radius_m=0.15, lai=3.0)
    lamp, twin = panel(0.6, 0.5, 1.4, 0.3, 0.3, 100), panel(-0.6, 0.5, 1.4, 0.3, 0.3, 100)
    image = Crown(x_m=-0.25, y_m=0.5, bottom_m=0.3, top_m=0.9, radius_m=0.15, lai=3.0)
    mirrored = _field((0.999, 0, 0, 0, 0, 0), (crown,), (lamp,), mirrors=("left",))
    points = np.array([[0.05, 0.5, 0.2], [0.4, 0.5, 0.3], [0.8, 0.3, 0.4]])
    double = LightField(
        Scene(
            room=RoomGrid(size_m=(1.0, 1.0, 1.8), divisions=(6, 6, 9)),
            reflectance=np.zeros(RoomGrid(size_m=(1.0, 1.0, 1.8), divisions=(6, 6, 9)).count),
            emitters=(lamp, twin),
            crowns=(crown, image),
        )
    )
    got, want = mirrored.at(points, _up(points)).direct.sum(axis=1), double.at(points, _up(points)).direct.sum(axis=1)
    assert got == pytest.approx(want, rel=0.02)
    book = mirrored.energy()
    assert book.absorbed == pytest.approx(book.emitted, rel=0.01)
