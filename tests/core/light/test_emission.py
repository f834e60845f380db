"""Tubes, bulbs, mirrors and leaves in the way, against closed forms."""

from dataclasses import replace

import numpy as np
import pytest

from canopy.light.crowns import Crown
from canopy.light.depths import depth
from canopy.light.emitters import Emitter
from canopy.light.field import LightField
from canopy.light.parts import Scene
from canopy.light.passing import passing_share
from canopy.light.plates import Plate
from canopy.light.room import RoomGrid
from tests.core.light.conftest import X, level, panel, solve

UP = np.array([0.0, 0.0, 1.0])
BLACK = (0.0,) * 6


def _around(kind, middle, length, ppf):
    plate = Plate(
        centre=np.array(middle),
        along=X,
        across=np.array([0, 1.0, 0]),
        beam=np.array([0, 0, -1.0]),
        length_m=length,
        width_m=0.02,
        reflectance=0.5,
    )
    return Emitter(plate=plate, ppf_umol_s=ppf, exponent=1.0, around=kind, body=False)


def _direct(field, points):
    return field.at(points, np.tile(UP, (len(points), 1))).direct


def test_a_bulb_falls_off_with_the_square_of_the_distance():
    field = solve((2, 2, 2), BLACK, [_around("bulb", (1, 1, 1.5), 0.02, 100.0)])
    points = np.array([[1, 1, 1.0], [1, 1, 0.5], [1.5, 1, 1.0]])
    want = [100 / (4 * np.pi * 0.25), 100 / (4 * np.pi * 1.0), 100 / (4 * np.pi * 0.5) * np.cos(np.pi / 4)]
    assert _direct(field, points)[:, 0] == pytest.approx(want, rel=0.01)


def test_a_long_bare_tube_falls_off_with_the_distance():
    # An infinite line that gives q photons a metre into I = q/π² sinθ: E = q / (2 π h) right below it.
    length, ppf, h = 20.0, 2000.0, 0.5
    field = solve((20.2, 2, 2), BLACK, [_around("tube", (10.1, 1, 1.5), length, ppf)])
    got = _direct(field, np.array([[10.1, 1.0, 1.0], [10.1, 1.0, 0.5]]))[:, 0]
    q = ppf / length
    assert got == pytest.approx([q / (2 * np.pi * h), q / (2 * np.pi * 2 * h)], rel=0.01)


@pytest.mark.parametrize("kind", ["bulb", "tube"])
def test_all_photons_of_a_bare_lamp_end_somewhere(kind):
    book = solve((1.2, 0.9, 1.4), (0.6,) * 6, [_around(kind, (0.6, 0.45, 1.0), 0.3, 50.0)]).energy()
    assert (book.absorbed_walls + book.absorbed_bodies) / book.emitted == pytest.approx([1.0], abs=0.01)


def _with_mirrors(field, *faces, rho=1.0):
    scene = field.scene
    reflectance = scene.reflectance.copy()
    for face in scene.room.faces:
        if face.name in faces:
            reflectance[face.patches] = rho
    return LightField(replace(scene, mirrors=faces, reflectance=reflectance))


def test_a_perfect_mirror_is_a_second_lamp_behind_it():
    lamp = panel(0.6, 0.5, 1.2, 0.3, 0.2, 100)
    mirrored = _with_mirrors(solve((1.0, 1.0, 1.5), BLACK, [lamp]), "right")
    both = solve((2.0, 1.0, 1.5), BLACK, [lamp, panel(1.4, 0.5, 1.2, 0.3, 0.2, 100)])
    points = level((1.0, 1.0), 0.3, 6)
    normals = np.tile(UP, (len(points), 1))
    assert mirrored.at(points, normals).total.sum(axis=1) == pytest.approx(
        both.at(points, normals).total.sum(axis=1), rel=0.02
    )


def test_a_poor_mirror_gives_its_share():
    lamp = panel(0.6, 0.5, 1.2, 0.3, 0.2, 100)
    bare = solve((1.0, 1.0, 1.5), BLACK, [lamp])
    points = level((1.0, 1.0), 0.3, 4)
    normals = np.tile(UP, (len(points), 1))

    def gain(rho):
        return (_with_mirrors(bare, "right", rho=rho).at(points, normals).total - bare.at(points, normals).total).sum()

    assert gain(0.5) == pytest.approx(gain(1.0) / 2, rel=0.02)


def test_photons_in_a_room_of_mirrors_all_end_somewhere():
    field = _with_mirrors(
        solve((1.0, 0.8, 1.4), (0.5,) * 6, [panel(0.5, 0.4, 1.2, 0.3, 0.2, 80)]), "left", "back", rho=0.9
    )
    book = field.energy()
    assert (book.absorbed_walls + book.absorbed_bodies) / book.emitted == pytest.approx([1.0], abs=0.02)


BALL = Crown(x_m=0, y_m=0, bottom_m=0.5, top_m=1.5, radius_m=0.5, lai=3.0, extinction=0.6)


@pytest.mark.parametrize(
    ("start", "end", "length"),
    [
        ((0, 0, 0), (0, 0, 3), 1.0),
        ((-2, 0, 1), (2, 0, 1), 1.0),
        ((0.3, 0, 0), (0.3, 0, 3), 0.8),
        ((0.6, 0, 0), (0.6, 0, 3), 0.0),
        ((0, 0, 1), (0, 0, 3), 0.5),
        ((0, 0, 0.9), (0, 0, 1.1), 0.2),
    ],
)
def test_the_way_through_a_ball_is_its_chord(start, end, length):
    found = depth([BALL], np.array([start], dtype=float), np.array([end], dtype=float))
    assert found[0, 0] / BALL.weakening_per_m == pytest.approx(length, abs=1e-4)


def test_light_through_a_crown_follows_beer_s_law():
    # Leaf area 3 × π r² spread evenly through 4/3 π r² c: 4.5 m²/m³ of a ball of half a metre; straight down 1 m of it.
    density = 3.0 * np.pi * 0.25 / (4 / 3 * np.pi * 0.125)
    assert pytest.approx(0.6 * density) == BALL.weakening_per_m
    tiny = panel(0.0, 0.0, 40.0, 0.01, 0.01, 100)
    got = passing_share(tiny, [BALL], np.array([[0.0, 0, 0.4], [0, 0, 1.0], [0, 0, 1.6]]), np.tile(UP, (3, 1)))
    assert got == pytest.approx([np.exp(-0.6 * density), np.exp(-0.3 * density), 1.0], rel=1e-3)


def test_a_plant_shades_the_one_behind_it_and_not_the_one_above():
    lamp = panel(0.2, 0.4, 1.3, 0.2, 0.2, 100)
    room = RoomGrid.of((1.0, 0.8, 1.5), 300)
    tall = Crown(x_m=0.45, y_m=0.4, bottom_m=0.3, top_m=0.9, radius_m=0.15, lai=4, extinction=0.6)
    field = LightField(Scene(room=room, reflectance=np.zeros(room.count), emitters=(lamp,), crowns=(tall,)))
    points = np.array([[0.75, 0.4, 0.3], [0.2, 0.4, 0.3], [0.45, 0.4, 0.91]])
    normals = np.tile(UP, (3, 1))
    with_it, without = field.at(points, normals).total[:, 0], field.at(points, normals, shaded=False).total[:, 0]
    assert with_it[0] < 0.35 * without[0]
    # Beside and above it no light is lost; its leaves throw a little back.
    assert (with_it[1:] >= without[1:] * 0.9999).all()
    assert with_it[1:] == pytest.approx(without[1:], rel=0.01)
