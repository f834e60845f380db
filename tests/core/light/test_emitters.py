import numpy as np
import pytest

from canopy.errors import GeometryError
from canopy.light.emitters import beam_exponent
from canopy.light.passing import irradiance
from tests.core.light.conftest import panel


def _below(lamp, distance, aside=0.0):
    return irradiance(lamp, np.array([[0.5 + aside, 0.5, 2 - distance]]), np.array([[0.0, 0, 1]]), [])[0]


def test_far_away_light_falls_by_the_square_of_distance():
    for lamp in (panel(0.5, 0.5, 2, 0.02, 0.02, 100), panel(0.5, 0.5, 2, 0.02, 0.02, 100, n=8.0)):
        assert _below(lamp, 0.8) / _below(lamp, 1.6) == pytest.approx(4, rel=2e-3)


@pytest.mark.parametrize(("n", "want"), [(1.0, 100 / np.pi), (8.0, 100 * 9 / (2 * np.pi))])
def test_a_small_lamp_gives_its_candela_over_the_square(n, want):
    assert _below(panel(0.5, 0.5, 2, 0.01, 0.01, 100, n=n), 1.0) == pytest.approx(want, rel=1e-3)


def test_a_disc_has_its_closed_form_on_its_axis():
    # Lambertian disc of radius R at distance d: E = M R² / (R² + d²).
    lamp, radius = panel(0.5, 0.5, 2, 0.4, 0.4, 100, disc=True), 0.2
    exitance = 100 / (np.pi * radius**2)
    for d in (0.1, 0.3, 1.0):
        assert _below(lamp, d) == pytest.approx(exitance * radius**2 / (radius**2 + d**2), rel=0.01)


def test_a_long_bar_comes_near_the_infinite_line():
    # Lambertian strip of flux F per metre: E = F / (2 d) close under its middle (from ∫ F/π d²/(d²+x²)² dx).
    lamp = panel(0.5, 0.5, 2, 12.0, 0.004, 1200)
    assert _below(lamp, 0.1) == pytest.approx(100 / (2 * 0.1), rel=5e-3)


def test_cells_and_polygon_agree_for_the_same_lamp():
    exact, cells = panel(0.5, 0.5, 2, 0.6, 0.3, 100), panel(0.5, 0.5, 2, 0.6, 0.3, 100, n=1.0 + 1e-7)
    for d in (0.05, 0.2, 0.9):
        assert _below(cells, d, 0.1) == pytest.approx(_below(exact, d, 0.1), rel=0.015)


def test_behind_a_lamp_there_is_no_direct_light():
    assert _below(panel(0.5, 0.5, 2, 0.6, 0.3, 100), -0.3) == 0


def test_a_body_between_takes_away_its_share():
    lamp, shade = panel(0.5, 0.5, 2, 0.2, 0.2, 100), panel(0.5, 0.5, 1.5, 0.6, 0.6, 1).plate
    point, up = np.array([[0.5, 0.5, 1.0], [2.5, 0.5, 1.0]]), np.array([[0.0, 0, 1]] * 2)
    free, shaded = irradiance(lamp, point, up, []), irradiance(lamp, point, up, [shade])
    assert shaded[0] == 0
    assert shaded[1] == free[1]
    half = panel(0.8, 0.5, 1.5, 0.6, 0.6, 1).plate
    assert irradiance(lamp, point, up, [half])[0] == pytest.approx(free[0] / 2, rel=0.02)


def test_beam_angles():
    assert beam_exponent(120) == pytest.approx(1.0)
    assert np.cos(np.radians(20)) ** beam_exponent(40) == pytest.approx(0.5)
    with pytest.raises(GeometryError, match="beam angle of 179° cannot be computed: give 4° to 170°"):
        beam_exponent(179)
