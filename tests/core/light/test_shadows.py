"""Shadows: joined, never multiplied; columns with ends; thin bars; narrow beams close by."""

from dataclasses import replace

import numpy as np
import pytest

from canopy.light.emitters import Emitter
from canopy.light.field import LightField
from canopy.light.glass import diffuse, transmittance
from canopy.light.parts import Scene
from canopy.light.passing import irradiance
from canopy.light.pillars import Pillar
from canopy.light.plates import Plate
from canopy.light.room import RoomGrid
from canopy.light.scene import lid_panes
from canopy.plan.furnishing import Lid
from tests.core.light.conftest import level, panel
from tests.core.light.path_trace import World, trace

SIZE, BLACK, WHITE = (1.2, 1.0, 1.6), (0.0,) * 6, (0.8,) * 6
LAMP = panel(0.6, 0.5, 1.4, 0.4, 0.4, 400)
COLUMN = Pillar(x_m=0.6, y_m=0.5, low_m=0.25, high_m=1.1, radius_m=0.08, room_m=1.6, reflectance=0.7)
SIDE_LAMP = panel(0.25, 0.5, 1.3, 0.3, 0.3, 300)


def _field(rho, lamps, bodies=(), levels=()):
    room = RoomGrid.of(SIZE, 800, levels)
    reflectance = np.empty(room.count)
    for face, value in zip(room.faces, rho, strict=True):
        reflectance[face.patches] = value
    return LightField(Scene(room=room, reflectance=reflectance, emitters=tuple(lamps), bodies=tuple(bodies)))


def _world(rho, lamps, plates=(), pillars=()):
    round_ones = [(p.x_m, p.y_m, p.low_m, p.high_m, p.radius_m, p.reflectance) for p in pillars]
    return World(SIZE, rho, lamps, plates=plates, pillars=round_ones)


def _up(points):
    return np.tile([0.0, 0.0, 1.0], (len(points), 1))


def _shelf(low, high, z=0.8):
    return Plate(
        centre=np.array([(low + high) / 2, 0.5, z]),
        along=np.array([1.0, 0, 0]),
        across=np.array([0, 1.0, 0]),
        beam=np.array([0, 0, -1.0]),
        length_m=high - low,
        width_m=1.0,
        partition=True,
        screen=True,
    )


def test_two_plates_that_each_hide_another_half_leave_nothing():
    left, right = (
        replace(_shelf(low, high, 1.0), partition=False, screen=False) for low, high in ((0.0, 0.6), (0.6, 1.2))
    )
    point = np.array([[0.6, 0.5, 0.4]])
    whole = irradiance(LAMP, point, _up(point))[0]
    assert irradiance(LAMP, point, _up(point), [left])[0] == pytest.approx(whole / 2, rel=0.02)
    assert irradiance(LAMP, point, _up(point), [right])[0] == pytest.approx(whole / 2, rel=0.02)
    assert irradiance(LAMP, point, _up(point), [left, right])[0] < 0.002 * whole
    # Two that hide the same half hide no more than one of them.
    lower = replace(left, centre=left.centre - [0, 0, 1e-3])
    assert irradiance(LAMP, point, _up(point), [left, lower])[0] == pytest.approx(whole / 2, rel=0.02)


def test_two_shelves_side_by_side_let_nothing_through():
    field = _field(BLACK, [LAMP], [_shelf(0, 0.6), _shelf(0.6, 1.2)], (0.8,))
    points = level(SIZE, 0.2, 6)
    free = _field(BLACK, [LAMP]).at(points, _up(points)).total.max()
    assert field.at(points, _up(points)).total.max() < 1e-3 * free
    white = _field(WHITE, [LAMP], [_shelf(0, 0.6), _shelf(0.6, 1.2)], (0.8,)).at(points, _up(points)).total.max()
    assert white < 0.01 * free


def test_the_full_shadow_of_a_column_is_dark():
    lamp = panel(0.2, 0.5, 1.0, 0.05, 0.05, 100, tilt=0)
    aside = replace(lamp.plate, beam=np.array([1.0, 0, 0]), along=np.array([0, 0, 1.0]), across=np.array([0, 1.0, 0]))
    lamp = Emitter(plate=aside, ppf_umol_s=100.0)
    behind = np.array([[0.9, 0.5, 0.9], [0.9, 0.8, 0.9]])
    to_lamp = np.tile([-1.0, 0, 0], (2, 1))
    free, cast = (irradiance(lamp, behind, to_lamp, bodies) for bodies in ([], [COLUMN]))
    assert cast[0] == 0
    assert cast[1] == pytest.approx(free[1])


def test_a_column_has_ends():
    point = np.array([[0.6, 0.5, 0.05]])
    above, under = panel(0.6, 0.5, 1.5, 0.05, 0.05, 100), np.array([[0.6, 0.5, 0.1]])
    assert irradiance(above, point, _up(point), [COLUMN])[0] == 0
    # Its top gives light back upward, its foot on the floor takes none.
    field = _field(BLACK, [above], [COLUMN])
    down = np.array([[0.6, 0.5, 1.25]])
    assert field.at(down, np.array([[0.0, 0, -1.0]])).reflected.sum() > 1
    assert field.at(under, _up(under)).direct.sum() == 0
    standing = replace(COLUMN, low_m=0.0)
    assert standing.buries(np.array([[0.6, 0.5, 0.0], [0.75, 0.5, 0.0]])).tolist() == [True, False]
    book = _field(WHITE, [SIDE_LAMP], [standing]).energy()
    assert book.absorbed == pytest.approx(book.emitted, rel=0.01)


def _bars(z):
    return [panel(0.6, 0.5 + 0.12 * k, z, 1.0, 0.03, 0.0, rho=0.3) for k in (-1.5, -0.5, 0.5, 1.5)]


def _brute(lamp, bodies, points, cells=220):
    """Direct light by as many cells a side, each seen or not past all bodies."""
    steps = (np.arange(cells) + 0.5) / cells - 0.5
    u, v = (part.ravel() for part in np.meshgrid(steps * lamp.plate.length_m, steps * lamp.plate.width_m))
    spots = lamp.plate.centre + u[:, None] * lamp.plate.along + v[:, None] * lamp.plate.across
    out = []
    for point in points:
        way = spots - point
        r2 = (way**2).sum(1)
        hidden = np.zeros(len(spots), bool)
        for body in bodies:
            t = (body.centre[2] - point[2]) / way[:, 2]
            at = point + t[:, None] * way - body.centre
            hidden |= (np.abs(at[:, 0]) <= body.length_m / 2) & (np.abs(at[:, 1]) <= body.width_m / 2)
        out.append((np.where(hidden, 0, way[:, 2] ** 2 / r2**2) * lamp.ppf_umol_s / np.pi).mean())
    return np.array(out)


def test_four_thin_bars_under_a_panel_do_not_alias():
    bars, points = _bars(1.0), level(SIZE, 0.3, 9)
    got = irradiance(LAMP, points, _up(points), [bar.plate for bar in bars])
    want = _brute(LAMP, [bar.plate for bar in bars], points)
    assert got.mean() == pytest.approx(want.mean(), rel=0.03)
    assert np.abs(got / want - 1).max() < 0.10


def test_the_half_shadow_of_a_bar_has_no_steps():
    bar = panel(0.6, 0.5, 1.0, 1.0, 0.1, 0.0).plate
    y = np.linspace(0.3, 0.7, 161)
    points = np.column_stack([np.full(161, 0.6), y, np.full(161, 0.6)])
    got, want = irradiance(LAMP, points, _up(points), [bar]), _brute(LAMP, [bar], points)
    # From point to point it moves as the truth does, to 1 % of the whole.
    assert np.abs(np.diff(got) - np.diff(want)).max() < 0.01 * want.max()


@pytest.mark.parametrize("distance", [0.02, 0.05, 0.3, 1.0])
@pytest.mark.parametrize("exponent", [3.0, 20.0, 60.0])
def test_narrow_beams_close_by(distance, exponent):
    bar = panel(0.6, 0.5, 1.2, 1.1, 0.03, 100, n=exponent)
    x = np.linspace(0.1, 1.1, 9)
    points = np.column_stack([x, np.full(9, 0.505), np.full(9, 1.2 - distance)])
    got = irradiance(bar, points, _up(points))
    u, v = (np.arange(9000) + 0.5) / 9000 * 1.1 - 0.55, (np.arange(60) + 0.5) / 60 * 0.03 - 0.015
    want = []
    for point in points:
        r2 = (point[0] - 0.6 - u[:, None]) ** 2 + (point[1] - 0.5 - v[None, :]) ** 2 + distance**2
        want.append((100 * (exponent + 1) / (2 * np.pi) * (distance / np.sqrt(r2)) ** (exponent + 1) / r2).mean())
    assert got == pytest.approx(np.array(want), rel=0.005)


def test_a_disc_s_narrow_beam_close_by():
    disc = panel(0.6, 0.5, 1.0, 0.2, 0.2, 100, n=12.0, disc=True)
    points = np.array([[0.6, 0.5, 0.97], [0.65, 0.52, 0.97], [0.69, 0.5, 0.9], [0.8, 0.5, 0.8]])
    g = (np.arange(1500) + 0.5) / 1500 * 0.2 - 0.1
    u, v = np.meshgrid(g, g)
    face = u * u + v * v < 0.01
    want = []
    for x, y, z in points:
        d = 1.0 - z
        r2 = (x - 0.6 - u[face]) ** 2 + (y - 0.5 - v[face]) ** 2 + d * d
        want.append((100 * 13 / (2 * np.pi) * (d / np.sqrt(r2)) ** 13 / r2).mean())
    assert irradiance(disc, points, _up(points)) == pytest.approx(np.array(want), rel=0.01)


TRACED = {
    "four bars, white": (WHITE, [LAMP, *_bars(1.0)], (), level(SIZE, 0.3, 4)),
    "column, white": (WHITE, [SIDE_LAMP], (COLUMN,), level(SIZE, 0.2, 4)),
    "standing column, white": (WHITE, [SIDE_LAMP], (replace(COLUMN, low_m=0.0),), level(SIZE, 0.3, 4)),
}


@pytest.mark.parametrize("name", TRACED)
def test_shadows_in_a_white_box_agree_with_traced_paths(name):
    rho, lamps, pillars, points = TRACED[name]
    got = _field(rho, lamps, pillars).at(points, _up(points)).total.sum(axis=1)
    want, error = trace(_world(rho, lamps, pillars=pillars), points, _up(points), 900)
    assert got.mean() == pytest.approx(want.mean(), rel=0.012 + 2 * np.sqrt((error**2).sum()) / want.sum())
    assert np.abs((got - want) / (0.05 * want + 3.5 * error)).max() < 1


def test_leaves_on_a_column_get_what_paths_say():
    turn = np.arange(8) / 8 * 2 * np.pi
    normals = np.column_stack([np.cos(turn), np.sin(turn), np.zeros(8)])
    points = np.array([0.6, 0.5, 0.6]) + 0.085 * normals
    got = _field(WHITE, [SIDE_LAMP], [COLUMN]).at(points, normals).total.sum(axis=1)
    want, error = trace(_world(WHITE, [SIDE_LAMP], pillars=[COLUMN]), points, normals, 1500)
    assert got == pytest.approx(want, rel=0.06)
    assert got.mean() == pytest.approx(want.mean(), rel=0.012 + 2 * np.sqrt((error**2).sum()) / want.sum())


def test_a_pane_passes_by_its_angle_as_glass_does():
    # 4 mm of clear float: 0.90 head on, a little over 0.8 of light from all round, next to nothing at a grazing angle.
    assert transmittance(np.array([1.0]))[0] == pytest.approx(0.90, abs=0.005)
    passed, back = diffuse()
    assert passed == pytest.approx(0.82, abs=0.015)
    assert passed + back < 1
    assert transmittance(np.cos(np.radians([0, 30, 60, 80]))) == pytest.approx(
        [_sum_of_reflections(angle) for angle in (0, 30, 60, 80)], abs=1e-3
    )


def _sum_of_reflections(angle_deg):
    """Both polarisations, reflection after reflection, with Snell's angle."""
    outside = np.radians(angle_deg)
    inside = np.arcsin(np.sin(outside) / 1.52)
    left, out = np.exp(-0.0202 / np.cos(inside)), 0.0
    for sign in (1, -1):
        if angle_deg == 0:
            face = (0.52 / 2.52) ** 2
        elif sign > 0:
            face = (np.sin(outside - inside) / np.sin(outside + inside)) ** 2
        else:
            face = (np.tan(outside - inside) / np.tan(outside + inside)) ** 2
        light, going = (1 - face) * left, 0.0
        for _ in range(40):
            going += light * (1 - face)
            light *= (face * left) ** 2
        out += going / 2
    return out


@pytest.mark.parametrize("kind", ["glass", "perforated"])
@pytest.mark.parametrize("rho", [BLACK, WHITE])
def test_light_through_glass_and_holed_shelves_agrees_with_traced_paths(kind, rho):
    passes, back = diffuse() if kind == "glass" else (0.4, 0.3)
    shelf = replace(_shelf(0.0, 0.9), passes=passes, reflectance=back, back_reflectance=back, glass=kind == "glass")
    field = _field(rho, [LAMP], [shelf], (0.8,))
    points = np.vstack([level(SIZE, 0.3, 4), level(SIZE, 1.0, 2)])
    got = field.at(points, _up(points)).total.sum(axis=1)
    want, error = trace(_world(rho, [LAMP], plates=[shelf]), points, _up(points), 2500)
    assert got.mean() == pytest.approx(want.mean(), rel=0.015 + 2 * np.sqrt((error**2).sum()) / want.sum())
    assert np.abs((got - want) / (0.06 * want + 3.5 * error)).max() < 1
    book = field.energy()
    assert book.absorbed == pytest.approx(book.emitted, rel=0.01)


@pytest.mark.parametrize("rho", [BLACK, WHITE])
def test_light_under_a_lid_agrees_with_traced_paths(rho):
    lid = Lid(id="l", name="Lid", x_m=0.25, y_m=0.2, width_m=0.5, depth_m=0.4, height_m=0.3, open_share=0.0)
    panes = list(lid_panes(lid))
    points = np.array([[0.5, 0.4, 0.05], [0.3, 0.3, 0.1], [0.7, 0.5, 0.02], [0.9, 0.7, 0.1]])
    got = _field(rho, [LAMP], panes).at(points, _up(points)).total.sum(axis=1)
    want, error = trace(_world(rho, [LAMP], plates=panes), points, _up(points), 4000)
    assert np.abs((got - want) / (0.03 * want + 3.5 * error)).max() < 1
    free = _field(rho, [LAMP], []).at(points, _up(points)).total.sum(axis=1)
    # Head on a pane passes 0.90; the more comes back from walls and floor, the less is missed.
    assert 0.84 < (got[:3] / free[:3]).mean() < 0.97


def test_what_stands_open_of_a_lid_s_top_holds_nothing_back():
    lid = Lid(id="l", name="Lid", x_m=0.25, y_m=0.2, width_m=0.5, depth_m=0.4, height_m=0.3, open_share=0.5)
    half, closed = lid_panes(lid)[0], lid_panes(lid.model_copy(update={"open_share": 0.0}))[0]
    above, below = np.array([[0.5, 0.4, 1.0]]), np.array([[0.5, 0.4, 0.1], [0.1, 0.4, 0.1]])
    assert half.through(above, below) == pytest.approx((1 + closed.through(above, below)) / 2, abs=1e-6)
    assert len(lid_panes(lid.model_copy(update={"open_share": 1.0}))) == 4
