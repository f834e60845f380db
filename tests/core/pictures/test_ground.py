"""A floor in a picture: corners, the camera, planes above it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from canopy.errors import PictureError
from canopy.pictures.ground import FULL_FRAME_MM, flat, marked, to_bytes, to_linear

SIZE, PICTURE = (1.2, 0.6), (1600, 1200)


def seen(points: np.ndarray, place: tuple[float, float, float], aim: tuple[float, float, float], lens_mm: float = 28):
    """A pinhole camera of the test's own: right, down and ahead from where it looks."""
    ahead = np.array(aim) - place
    ahead = ahead / np.linalg.norm(ahead)
    right = np.cross(ahead, (0, 1, 0))
    right = right / np.linalg.norm(right)
    down = np.cross(ahead, right)
    rel = np.atleast_2d(points) - np.array(place)
    focal = lens_mm / FULL_FRAME_MM * np.hypot(*PICTURE)
    x, y, z = rel @ right, rel @ down, rel @ ahead
    return np.column_stack([focal * x / z + PICTURE[0] / 2, focal * y / z + PICTURE[1] / 2])


CORNERS = np.array([(0, 0.6, 0), (1.2, 0.6, 0), (1.2, 0, 0), (0, 0, 0)])
PLACES = [(0.6, 0.3, 1.5), (0.5, 0.1, 1.6), (0.7, -0.1, 1.5), (0.3, 0.35, 1.7)]


def shot(place, lens_mm=28.0, aim=(0.6, 0.3, 0.0)):
    return [tuple(point) for point in seen(CORNERS, place, aim, lens_mm)]


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("lens", [24.0, 35.0])
def test_camera_is_found_by_its_lens(place, lens):
    camera = marked(*SIZE, PICTURE, shot(place, lens), lens_mm=lens).camera
    assert camera.place_m == pytest.approx(place, abs=0.01)
    tilt = np.degrees(np.arctan2(np.hypot(place[0] - 0.6, place[1] - 0.3), place[2]))
    assert camera.tilt_deg == pytest.approx(tilt, abs=0.5)


@pytest.mark.parametrize("place", PLACES)
def test_lens_is_found_by_the_height(place):
    camera = marked(*SIZE, PICTURE, shot(place), height_m=place[2]).camera
    assert camera.lens_mm == pytest.approx(28, rel=0.02)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("z", [0.0, 0.2, 0.6])
def test_what_stands_higher_is_placed_where_it_stands(place, z):
    ground = marked(*SIZE, PICTURE, shot(place), lens_mm=28)
    points = np.array([(0.3, 0.2), (0.9, 0.5), (0.6, 0.3)])
    there = seen(np.column_stack([points, np.full(3, z)]), place, (0.6, 0.3, 0.0))
    assert ground.at_height(z)(points) == pytest.approx(there, abs=1.5)


@given(
    x=st.floats(0.3, 0.9),
    y=st.floats(0.0, 0.6),
    z=st.floats(1.3, 2.0),
    lens=st.floats(20, 32),
    u=st.floats(0, 1.2),
    v=st.floats(0, 0.6),
)
def test_the_floor_lies_where_it_lies_from_anywhere(x, y, z, lens, u, v):
    corners = shot((x, y, z), lens)
    if any(not (0 <= a <= PICTURE[0] and 0 <= b <= PICTURE[1]) for a, b in corners):
        return
    ground = marked(*SIZE, PICTURE, corners, lens_mm=lens)
    assert ground.plan((u, v))[0] == pytest.approx(
        seen(np.array([(u, v, 0)]), (x, y, z), (0.6, 0.3, 0.0), lens)[0], abs=0.01
    )


GOOD = [(200, 250), (1400, 250), (1400, 850), (200, 850)]


@pytest.mark.parametrize(
    ("corners", "words"),
    [
        ([(-5, 250), *GOOD[1:]], "outside the picture"),
        (GOOD[::-1], "wrong way"),
        ([GOOD[0], GOOD[2], GOOD[1], GOOD[3]], "cross"),
        ([(700, 500), (900, 500), (900, 600), (700, 600)], "too little to measure"),
        ([(500, 250), (1100, 250), (1550, 900), (50, 900)], "from the side"),
        ([(300, 100), (1300, 100), (1300, 1100), (300, 1100)], "no floor of 120 × 60 cm"),
        ([(700, 50), (1300, 50), (1300, 1150), (700, 1150)], "no floor of 120 × 60 cm"),
        ([(200, 250), (1400, 250), (1400, 850), (700, 300)], "cross"),
    ],
)
def test_corners_that_cannot_be_are_refused(corners, words):
    with pytest.raises(PictureError, match=words):
        marked(*SIZE, PICTURE, corners)


def test_planes_above_need_a_camera_higher_than_them():
    bare = marked(*SIZE, PICTURE, shot(PLACES[0]))
    with pytest.raises(PictureError, match="lens or height"):
        bare.at_height(0.3)
    assert bare.at_height(0.0) is bare.plan
    with pytest.raises(PictureError, match="hold it higher"):
        marked(*SIZE, PICTURE, shot(PLACES[0]), lens_mm=28).at_height(1.3)
    with pytest.raises(PictureError, match="no usual lens"):
        marked(*SIZE, PICTURE, shot(PLACES[0]), height_m=0.2).at_height(0.1)


def test_a_flat_floor_is_drawn_as_it_is():
    picture = np.zeros((1200, 1600, 3), np.uint8)
    ground = marked(*SIZE, PICTURE, GOOD)
    # A patch of 20 × 10 cm at the back on the left, brighter on its right.
    picture[250:350, 200:300], picture[250:350, 300:400] = 90, 180
    drawn = flat(picture, ground, longest_px=240)
    assert drawn.shape == (120, 240, 3)
    assert to_bytes(drawn[5:15, 3:17, 0]).mean() == pytest.approx(90, abs=1)
    assert to_bytes(drawn[5:15, 23:37, 1]).mean() == pytest.approx(180, abs=1)
    assert drawn[25:, :].max() == 0
    assert drawn[:, 45:].max() == 0


def test_bytes_and_linear_light_go_round():
    every = np.arange(256, dtype=np.uint8)
    assert np.array_equal(to_bytes(to_linear(every)), every)
    assert to_linear(np.array([128], np.uint8))[0] == pytest.approx(0.2159, abs=1e-4)
