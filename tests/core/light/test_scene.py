import numpy as np
import pytest

from canopy.equipment import FixtureSpec
from canopy.errors import GeometryError, LibraryError, QuantityError
from canopy.light.photometry import drawn_power, luminous_factor, lux_per_umol, ppf
from canopy.light.points import light_at_points, read_points
from canopy.light.scene import DEFAULT, FINE, PREVIEW, field_of, inside, surface_reflectance, weights
from canopy.plan import Fixture, Surface
from canopy.plan.pose import axes, corners


def _spec(**more):
    data = {
        "name": "Lamp",
        "power_w": 100,
        "output": {"kind": "efficacy", "efficacy_umol_per_j": 2.5},
        "length_m": 0.4,
        "width_m": 0.2,
    }
    return FixtureSpec.model_validate({**data, **more})


def _lamp(**more):
    return Fixture(id="a", spec=_spec(), x_m=0.5, y_m=0.5, z_m=1.0, **more)


def test_output_from_each_statement():
    assert ppf(_spec()) == 250
    assert ppf(_spec(output={"kind": "ppf", "ppf_umol_s": 240})) == 240
    lumens = _spec(output={"kind": "lumens", "flux_lm": 8200, "source_id": "hps"})
    assert ppf(lumens) == pytest.approx(100)
    with pytest.raises(LibraryError, match="no light source “candle”"):
        ppf(_spec(output={"kind": "lumens", "flux_lm": 100, "source_id": "candle"}))


def test_daylight_has_the_published_factor():
    # A black body at 5500 K stands for sunlight: 54 lux per µmol/m²/s (HortScience 18(6), 1983), within 3 %.
    nm = np.arange(380.0, 781.0)
    planck = nm**-5 / (np.exp(1.4388e7 / nm / 5500) - 1)
    assert luminous_factor(nm, planck) == pytest.approx(54, rel=0.03)
    assert luminous_factor(nm, np.exp(-(((nm - 555) / 2) ** 2))) == pytest.approx(147.2, rel=0.01)
    assert 60 < lux_per_umol("white-led", 6500) < lux_per_umol("white-led", 3500) < 76
    with pytest.raises(QuantityError, match="no light between 400 and 700 nm"):
        luminous_factor(np.array([800.0, 900.0]), np.array([1.0, 1.0]))


def test_a_dimmed_lamp_keeps_a_standby_floor():
    assert [drawn_power(_spec(), dim) for dim in (0, 0.001, 0.5, 1)] == [0, 2, 50, 100]


@pytest.mark.parametrize(
    ("angles", "beam", "along"),
    [
        ({}, (0, 0, -1), (1, 0, 0)),
        ({"yaw_deg": 90}, (0, 0, -1), (0, 1, 0)),
        ({"tilt_deg": 90}, (0, 1, 0), (1, 0, 0)),
        ({"pitch_deg": 90}, (1, 0, 0), (0, 0, 1)),
        ({"pitch_deg": 90, "yaw_deg": 180}, (-1, 0, 0), (0, 0, 1)),
    ],
)
def test_angles_turn_a_lamp_as_described(angles, beam, along):
    frame = axes(_lamp(**angles))
    assert frame.beam == pytest.approx(beam, abs=1e-12)
    assert frame.length == pytest.approx(along, abs=1e-12)
    assert corners(_lamp(**angles)).shape == (8, 3)


def test_finer_cutting_hardly_moves_the_light(small_plan):
    space = small_plan.spaces[0]
    points = np.array([[0.4, 0.3, 0.3], [0.05, 0.05, 0.2], [0.7, 0.5, 0.6]])
    got = [field_of(space, quality).at(points).total @ weights(space) for quality in (PREVIEW, DEFAULT, FINE)]
    assert got[0] == pytest.approx(got[2], rel=0.03)
    assert got[1] == pytest.approx(got[2], rel=0.012)


def test_own_reflectance_goes_before_the_material_s(small_plan):
    space = small_plan.spaces[0]
    assert surface_reflectance(space, "left") == 0.70
    faces = space.faces.model_copy(update={"left": Surface(material_id="painted-wall", reflectance=0.6)})
    assert surface_reflectance(space.model_copy(update={"faces": faces}), "left") == 0.6


def test_points_outside_are_named(small_plan):
    with pytest.raises(GeometryError, match=r"point 2 \(0.900, 0.000, 0.000 m\) lies outside “Box”"):
        inside(small_plan.spaces[0], np.array([[0.1, 0.1, 0.1], [0.9, 0, 0]]))


def test_a_vertical_receiver_sees_its_own_side(small_plan):
    space = small_plan.spaces[0]
    points = np.array([[0.4, 0.3, 0.3]] * 2)
    up, down = light_at_points(space, points, np.array([[0.0, 0, 1], [0, 0, -1]]))
    assert up > 2 * down > 0


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("x_m,y_m\n1,2", "lacks the column z_m"),
        ("x_m,y_m,z_m\n1,2,three", "line 2: these are not numbers"),
        ("x_m,y_m,z_m\n", "no point in it"),
        ("x_m,y_m,z_m,nx\n1,1,1,1", "give all of nx, ny and nz"),
        ("x_m,y_m,z_m,nx,ny,nz\n1,1,1,0,0,2", "must be a unit normal"),
        ("x_m,y_m,z_m\n1,2", "not numbers"),
    ],
)
def test_bad_point_files_are_named_by_line(tmp_path, text, words):
    path = tmp_path / "points.csv"
    path.write_text(text)
    with pytest.raises(GeometryError, match=words):
        read_points(path)
