"""Shelves, columns and windows in the light, and leaves that face outward."""

import datetime as dt

import numpy as np
import pytest

from canopy.light.crowns import Crown, leaf_points
from canopy.light.points import light_at_points
from canopy.light.scene import column_body, field_of, scene_of, weights, window_emitter
from canopy.plan import Column, Daylight, Faces, Shelf, Size, Space, Surface

BLACK = Surface(material_id="black-fabric", reflectance=0.0)
UP = np.array([[0.0, 0.0, 1.0]])


def _space(rho=0.0, **parts):
    side = Surface(material_id="white-paint", reflectance=rho)
    faces = Faces(left=side, right=side, front=side, back=side, floor=side, ceiling=side)
    return Space(
        id="s", name="S", kind="closet", size=Size(width_m=1.0, depth_m=0.8, height_m=1.6), faces=faces, **parts
    )


def _window(**more):
    return Daylight(id="w", face="front", u_m=0.5, v_m=0.8, width_m=0.6, height_m=0.8, hours=8, **more)


def test_a_window_gives_what_was_typed_just_inside():
    space = _space(daylight=(_window(dli_mol_m2_d=5.0),))
    ppfd = 5.0 / (8 * 0.0036)
    got = light_at_points(space, np.array([[0.5, 0.004, 0.8]]), np.array([[0.0, -1.0, 0.0]]))
    assert got[0] == pytest.approx(ppfd, rel=0.01)
    assert weights(space)[0] == pytest.approx(ppfd)


def test_a_window_s_light_falls_off_as_a_rectangle_s_does():
    # An element facing the middle of a 0.6 × 0.8 m rectangle at 0.4 m: four corners of a × b = 0.3 × 0.4 at c = 0.4.
    a, b, c = 0.3, 0.4, 0.4
    x, y = a / c, b / c
    corner = x / np.sqrt(1 + x * x) * np.arctan(y / np.sqrt(1 + x * x)) + y / np.sqrt(1 + y * y) * np.arctan(
        x / np.sqrt(1 + y * y)
    )
    factor = 4 * corner / (2 * np.pi)
    space = _space(daylight=(_window(dli_mol_m2_d=5.0),))
    got = light_at_points(space, np.array([[0.5, 0.401, 0.8]]), np.array([[0.0, -1.0, 0.0]]))
    assert got[0] == pytest.approx(factor * 5.0 / (8 * 0.0036), rel=0.01)


def test_daylight_by_month_follows_the_day():
    window = _window(by_month=(1, 2, 3, 4, 5, 6, 6, 5, 4, 3, 2, 1))
    assert [window.dli_on(dt.date(2026, month, 9)) for month in (1, 6, 12)] == [1, 6, 1]
    space = _space(daylight=(window,))
    assert weights(space, dt.date(2026, 6, 1))[0] == pytest.approx(6 * weights(space, dt.date(2026, 1, 1))[0])


def test_photons_of_a_window_all_end_somewhere():
    book = field_of(_space(rho=0.6, daylight=(_window(),))).energy()
    assert (book.absorbed_walls + book.absorbed_bodies) / book.emitted == pytest.approx([1.0], abs=0.01)
    assert book.emitted[0] == pytest.approx(0.48)
    assert not window_emitter(_space(), _window()).body


def test_a_shelf_keeps_the_light_out_below_and_wire_lets_it_by(small_plan):
    base = small_plan.spaces[0]
    point = np.array([[0.4, 0.3, 0.2]])
    shelf = Shelf(id="s", name="S", z_m=0.4, width_m=0.8, depth_m=0.6)
    free, wire, solid = (
        light_at_points(base.model_copy(update={"shelves": shelves}), point, UP)[0]
        for shelves in ((), (shelf.model_copy(update={"kind": "wire"}),), (shelf,))
    )
    assert wire == pytest.approx(free)
    # A full shelf leaves only what leaks by at its rim.
    assert solid < 0.02 * free
    half = shelf.model_copy(update={"width_m": 0.3})
    beside = light_at_points(base.model_copy(update={"shelves": (half,)}), np.array([[0.65, 0.3, 0.2]]), UP)[0]
    assert 0.2 * free < beside < free


def test_a_shelf_s_faces_reflect_each_in_their_own_way():
    shelf = Shelf(
        id="s",
        name="S",
        z_m=0.8,
        width_m=1.0,
        depth_m=0.8,
        top=Surface(material_id="white-paint", reflectance=0.8),
        under=BLACK,
    )
    (plate,) = scene_of(_space(shelves=(shelf,))).bodies
    assert plate.sides == (0.0, 0.8)


def test_a_column_is_a_closed_body_that_casts_a_shadow():
    column = Column(id="c", name="C", x_m=0.4, y_m=0.3, height_m=1.2, diameter_m=0.2)
    for room_m, low, ends in ((1.6, 0.0, 1), (1.6, 0.2, 2), (1.2, 0.0, 0)):
        surface = column_body(column.model_copy(update={"z_m": low}), room_m).surface(0.1)
        assert surface.areas.sum() == pytest.approx(np.pi * 0.2 * 1.2 + ends * np.pi * 0.01)
        # As much of it faces one way as the other, but for an end that stands on the floor.
        toward = surface.areas @ surface.normals[0]
        assert toward == pytest.approx([0, 0, np.pi * 0.01 if ends == 1 else 0], abs=1e-12)
    space = _space(daylight=(_window(),), columns=(column.model_copy(update={"x_m": 0.5, "y_m": 0.4}),))
    lit, dark = light_at_points(space, np.array([[0.5, 0.25, 0.8], [0.5, 0.55, 0.8]]), np.array([[0.0, -1.0, 0.0]] * 2))
    bare = light_at_points(_space(daylight=(_window(),)), np.array([[0.5, 0.55, 0.8]]), np.array([[0.0, -1.0, 0.0]]))[0]
    assert dark < 0.8 * bare < lit


def test_leaves_that_face_outward_are_judged_outward():
    crown = Crown(x_m=0.5, y_m=0.2, bottom_m=0.7, top_m=0.9, radius_m=0.1, facing=(0.0, 1.0, 0.0), reach_m=0.05)
    points = leaf_points(crown, (1.0, 0.8, 1.6))
    assert points[:, 1] == pytest.approx(np.full(7, 0.25))
    assert points[0] == pytest.approx([0.5, 0.25, 0.8])
    assert np.linalg.norm(points[1:] - points[0], axis=1) == pytest.approx(np.full(6, 0.072))
    up = leaf_points(Crown(x_m=0.0, y_m=0.2, bottom_m=0.1, top_m=0.3, radius_m=0.1), (1.0, 0.8, 1.6))
    assert up[:, 0].min() == pytest.approx(1e-3)
    assert up[:, 2] == pytest.approx(np.full(7, 0.3))
