"""The whole box: conservation, adding up, mirroring, and an independent photon count."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from canopy.light.emitters import Emitter
from tests.core.light.conftest import level, panel, solve
from tests.core.light.photon_trace import count_photons

SIZE, RHO = (1.2, 0.97, 1.8), [0.88, 0.88, 0.88, 0.88, 0.3, 0.85]


def _lamps():
    return [
        panel(0.4, 0.4, 1.4, 0.4, 0.3, 200),
        panel(0.8, 0.6, 1.1, 0.6, 0.05, 100, tilt=25),
        panel(0.6, 0.3, 1.3, 0.2, 0.2, 80, n=6.0),
    ]


def test_light_adds_over_lamps_and_doubles_with_their_output():
    points, lamps = level(SIZE, 0.4, 6), _lamps()
    together = solve(SIZE, RHO, lamps).at(points).total
    lamps[1] = panel(0.8, 0.6, 1.1, 0.6, 0.05, 200, tilt=25)
    doubled = solve(SIZE, RHO, lamps).at(points).total
    assert doubled[:, 1] == pytest.approx(2 * together[:, 1], rel=1e-4)
    assert doubled[:, 0] == pytest.approx(together[:, 0], rel=1e-4)


@settings(max_examples=12, deadline=None)
@given(st.floats(0.25, 0.95), st.floats(0.25, 0.72), st.floats(0.5, 1.7), st.floats(-60, 60), st.floats(0.02, 0.95))
def test_in_a_closed_box_every_photon_ends_somewhere(x, y, z, tilt, rho):
    lamps = [panel(x, y, z, 0.3, 0.12, 100, tilt=tilt), panel(0.6, 0.5, 0.9, 0.5, 0.04, 50)]
    field = solve(SIZE, [rho] * 6, lamps, patches=500)
    book = field.energy()
    assert (book.absorbed_walls + book.absorbed_bodies) / book.emitted == pytest.approx([1, 1], abs=0.01)
    # What the direct samples missed is small, so the books are not balanced by force. Lamps that touch are left out.
    assume(abs(z - 0.9) > 0.08)
    assert np.abs(field.sampling_error).max() < 0.06


def test_a_lamp_right_under_another_loses_no_photon():
    lamps = [panel(0.5, 0.5, 0.875, 0.3, 0.12, 100), panel(0.6, 0.5, 0.9, 0.5, 0.04, 50)]
    field = solve(SIZE, [0.5] * 6, lamps)
    book = field.energy()
    assert (book.absorbed_walls + book.absorbed_bodies) / book.emitted == pytest.approx([1, 1], abs=2e-3)
    assert np.abs(field.sampling_error).max() < 0.02


def test_an_even_box_has_the_sphere_s_answer():
    # All walls alike and the lamp small: mean irradiance on walls is PPF / (A (1 - ρ)).
    rho, field = 0.8, solve((1.0, 1.0, 1.0), [0.8] * 6, [panel(0.5, 0.5, 0.5, 0.01, 0.01, 100)])
    walls = field.scene.room
    mean = (field._arriving[: walls.count, 0] * walls.areas).sum() / walls.areas.sum()
    assert mean == pytest.approx(100 / (6 * (1 - rho)), rel=2e-3)


def test_a_mirrored_scene_gives_the_mirrored_light():
    points = level(SIZE, 0.4, 6)
    mirrored = points * [-1, 1, 1] + [SIZE[0], 0, 0]
    one = solve(SIZE, RHO, [panel(0.4, 0.4, 1.4, 0.4, 0.3, 200)]).at(points).total
    two = solve(SIZE, RHO, [panel(0.8, 0.4, 1.4, 0.4, 0.3, 200)]).at(mirrored).total
    assert one == pytest.approx(two, rel=0.01)


def test_brighter_walls_and_bodies_give_more_light():
    points = level(SIZE, 0.4, 5)
    means = [
        solve(SIZE, [rho] * 6, [panel(0.6, 0.5, 1.4, 0.6, 0.5, 300, rho=body)]).at(points).total.mean()
        for rho, body in ((0.0, 0.5), (0.5, 0.5), (0.88, 0.0), (0.88, 0.5), (0.88, 0.9))
    ]
    assert means == sorted(means)
    black = solve(SIZE, [0.0] * 6, [panel(0.6, 0.5, 1.4, 0.6, 0.5, 300)]).at(points)
    assert np.abs(black.reflected).max() < 1e-6


SCENES = {
    "panel, grey body": (SIZE, [panel(0.6, 0.48, 1.4, 0.6, 0.6, 600)], RHO, 0.4),
    "panel, black body": (SIZE, [panel(0.6, 0.48, 1.4, 0.6, 0.6, 600, rho=0.0)], RHO, 0.4),
    "bars close by": (SIZE, [panel(0.6, 0.48, 0.62, 1.0, 0.05, 600, offsets=(-0.3, -0.1, 0.1, 0.3))], RHO, 0.4),
    "tilted bars, glass": (
        (0.55, 0.4, 0.41),
        [panel(0.27, 0.07, 0.35, 0.5, 0.03, 20, tilt=35), panel(0.27, 0.33, 0.35, 0.5, 0.03, 20, tilt=-35)],
        [0.08] * 4 + [0.1, 0.08],
        0.1,
    ),
    "open rack": ((0.9, 0.45, 0.5), [panel(0.45, 0.22, 0.46, 0.85, 0.035, 60)], [0, 0, 0, 0.7, 0.3, 0.5], 0.12),
    "narrow beam": (SIZE, [panel(0.6, 0.5, 1.5, 0.1, 0.1, 300, n=12.0)], [0.5] * 6, 0.4),
    "one lamp over another": (
        SIZE,
        [panel(0.6, 0.4, 1.5, 0.8, 0.05, 100), panel(0.6, 0.5, 1.0, 0.8, 0.2, 100)],
        RHO,
        0.3,
    ),
}


def _upright_bar(x, y, z, length, ppf):
    """A bar that stands upright and shines towards +x."""
    lying = panel(x, y, z, length, 0.04, ppf).plate
    plate = replace(lying, along=np.array([0.0, 0, 1]), across=np.array([0, 1.0, 0]), beam=np.array([1.0, 0, 0]))
    return Emitter(plate=plate, ppf_umol_s=float(ppf))


def test_a_wall_lit_from_the_side_agrees_with_photons():
    # Two upright bars light a plane across the box; the receivers face the bars.
    size, rho, x = (0.7, 0.6, 1.2), [0.6, 0.4, 0.7, 0.7, 0.3, 0.7], 0.5
    lamps = [_upright_bar(0.08, 0.2, 0.6, 0.9, 60), _upright_bar(0.08, 0.42, 0.6, 0.9, 60)]
    counted = count_photons(size, rho, lamps, x, 5, 80_000, axis=0, sign=1)
    g = (np.arange(15) + 0.5) / 15
    gy, gz = np.meshgrid(g * size[1], g * size[2], indexing="ij")
    points = np.stack([np.full(gy.size, x), gy.ravel(), gz.ravel()], axis=1)
    got = solve(size, rho, lamps).at(points, np.tile([-1.0, 0, 0], (len(points), 1))).total.sum(axis=1)
    got = got.reshape(5, 3, 5, 3).mean(axis=(1, 3))
    assert got.mean() == pytest.approx(counted.mean(), rel=0.012)
    assert np.sqrt(((got / counted - 1) ** 2).mean()) < 0.04


def test_light_from_below_agrees_with_photons():
    # Receivers that face down get only what floor and walls give back.
    size, lamps = (0.9, 0.8, 1.3), [panel(0.45, 0.4, 1.0, 0.4, 0.3, 300)]
    counted = count_photons(size, RHO, lamps, 0.5, 4, 120_000, axis=2, sign=1)
    points = level(size, 0.5, 4, 3)
    field = solve(size, RHO, lamps).at(points, np.tile([0, 0, -1.0], (len(points), 1)))
    got = field.total.sum(axis=1).reshape(4, 3, 4, 3).mean(axis=(1, 3))
    assert np.abs(field.direct).max() == 0
    assert got.mean() == pytest.approx(counted.mean(), rel=0.015)
    assert np.sqrt(((got / counted - 1) ** 2).mean()) < 0.05


@pytest.mark.parametrize("name", SCENES)
def test_agrees_with_photons_thrown_one_by_one(name):
    size, lamps, rho, z = SCENES[name]
    cells, photons = 6, 160_000 // len(lamps)
    counted = count_photons(size, rho, lamps, z, cells, photons)
    got = solve(size, rho, lamps).at(level(size, z, cells, 3)).total.sum(axis=1)
    got = got.reshape(cells, 3, cells, 3).mean(axis=(1, 3))
    assert got.mean() == pytest.approx(counted.mean(), rel=0.012)
    # The rest is the count's own noise: about 1.5 % a cell at this number of photons, more where few arrive.
    assert np.sqrt(((got / counted - 1) ** 2).mean()) < 0.045
