"""Spread and leaf area of single plants, and the colour of leaves."""

from __future__ import annotations

from math import log, pi

import numpy as np
import pytest

from canopy.errors import PictureError
from canopy.pictures.colour import grey_at, leaf_colour
from canopy.pictures.ground import to_linear
from canopy.pictures.spread import Stem, plants_seen

SIZE, PX = (1.2, 0.6), 0.002


def disc(x, y, spread, share=1.0, rng=None):
    rows, columns = np.mgrid[0:300, 0:600]
    inside = np.hypot((columns + 0.5) * PX - x, 0.6 - (rows + 0.5) * PX - y) < spread / 2
    return inside if share >= 1 else inside & (rng.random(inside.shape) < share)


def stem(name, x, y, spread=0.2):
    return Stem(id=name, x_m=x, y_m=y, spread_m=spread)


@pytest.mark.parametrize("spread", [0.06, 0.15, 0.3])
def test_a_disc_is_as_wide_as_it_is(spread):
    (found,) = plants_seen(disc(0.5, 0.3, spread), SIZE, [stem("a", 0.51, 0.29)])
    assert found.spread_m == pytest.approx(spread, abs=0.004)
    assert found.leaf_m2 == pytest.approx(pi * spread**2 / 4, rel=0.03)
    assert not found.touching
    # Leaves that hide all ground hide how many there are.
    assert found.lai is None


@pytest.mark.parametrize("cover", [0.2, 0.5, 0.8])
def test_ground_seen_through_a_crown_tells_its_layers(cover):
    rng = np.random.default_rng(1)
    mask = disc(0.5, 0.3, 0.3, cover, rng)
    (found,) = plants_seen(mask, SIZE, [stem("a", 0.5, 0.3)])
    assert found.lai == pytest.approx(-log(1 - cover) / 0.6, rel=0.05)
    assert 0.15 * found.lai < found.lai_error < 0.5 * found.lai


def test_plants_that_touch_are_at_least_so_wide():
    mask = disc(0.4, 0.3, 0.3) | disc(0.6, 0.3, 0.3)
    found = plants_seen(mask, SIZE, [stem("a", 0.4, 0.3), stem("b", 0.6, 0.3)])
    assert [plant.touching for plant in found] == [True, True]
    assert found[0].leaf_m2 == pytest.approx(found[1].leaf_m2, rel=0.02)


def test_at_the_edge_of_the_floor_as_well():
    (found,) = plants_seen(disc(0.02, 0.3, 0.2), SIZE, [stem("a", 0.05, 0.3)])
    assert found.touching


def test_leaves_far_from_any_stem_belong_to_none():
    mask = disc(0.2, 0.3, 0.15) | disc(1.0, 0.3, 0.15)
    found = plants_seen(mask, SIZE, [stem("a", 0.2, 0.3), stem("b", 0.6, 0.3)])
    assert [plant.id for plant in found] == ["a"]
    assert found[0].spread_m == pytest.approx(0.15, abs=0.004)


def test_a_patch_of_one_plant_is_not_cut_by_a_small_neighbour():
    mask = disc(0.5, 0.3, 0.3)
    found = plants_seen(mask, SIZE, [stem("a", 0.5, 0.3, 0.25), stem("b", 0.7, 0.3, 0.08)])
    assert [plant.id for plant in found] == ["a"]
    assert found[0].spread_m == pytest.approx(0.3, abs=0.005)


def test_nothing_planned_nothing_told():
    assert plants_seen(disc(0.5, 0.3, 0.3), SIZE, []) == ()


# Greens by their published CIELAB values (D65): hue of sRGB (0, 128, 0) is 136°, of (128, 128, 0) 99.6°, rounded.
@pytest.mark.parametrize(("shown", "hue"), [((0, 128, 0), 136.0), ((128, 128, 0), 102.9), ((154, 205, 50), 119.0)])
def test_hue_of_known_colours(shown, hue):
    linear = to_linear(np.full((40, 40, 3), shown, np.uint8)).astype(float)
    found = leaf_colour(linear, np.ones((40, 40), bool))
    assert found.hue_deg == pytest.approx(hue, abs=1.5)
    assert not found.balanced


@pytest.mark.parametrize(
    ("shown", "index"),
    # ((hue − 60)/60 + 1 − saturation + 1 − brightness)/3, worked by hand.
    [((0, 128, 0), (1 + 0 + 1 - 128 / 255) / 3), ((64, 128, 64), (1 + 0.5 + 1 - 128 / 255) / 3)],
)
def test_dark_green_index_by_hand(shown, index):
    linear = to_linear(np.full((40, 40, 3), shown, np.uint8)).astype(float)
    assert leaf_colour(linear, np.ones((40, 40), bool)).dark_green == pytest.approx(index, abs=0.005)


@pytest.mark.parametrize("lamp", [(1, 1, 1), (1, 0.6, 0.2), (0.7, 0.3, 0.9)])
def test_a_card_takes_the_lamp_out(lamp):
    leaf = np.array([0.05, 0.13, 0.04]) * lamp
    found = leaf_colour(np.tile(leaf, (40, 40, 1)), np.ones((40, 40), bool), grey=0.18 * np.array(lamp))
    plain = leaf_colour(np.tile([0.05, 0.13, 0.04], (40, 40, 1)), np.ones((40, 40), bool))
    assert found.balanced
    assert found.hue_deg == pytest.approx(plain.hue_deg, abs=0.5)


def test_hardly_any_leaf_has_no_colour():
    assert leaf_colour(np.full((40, 40, 3), 0.2), np.zeros((40, 40), bool)) is None


def test_cards_are_read_or_refused():
    linear = np.full((60, 60, 3), 0.3)
    assert grey_at(linear, (30, 30)) == pytest.approx([0.3] * 3)
    assert grey_at(linear, (30, 30), white=True) == pytest.approx([0.3 * 0.18 / 0.85] * 3)
    mixed = linear.copy()
    mixed[:, 30:] = 0.02
    for bad, spot, words in (
        (np.ones((60, 60, 3)), (30, 30), "burnt out"),
        (np.zeros((60, 60, 3)), (30, 30), "in the dark"),
        (mixed, (30, 30), "several colours"),
        (linear, (300, 300), "outside"),
    ):
        with pytest.raises(PictureError, match=words):
            grey_at(bad, spot)


@pytest.mark.parametrize("k", [0.4, 0.9])
def test_each_plant_counts_by_its_own_extinction(k):
    mask = disc(0.3, 0.3, 0.3, 0.5, np.random.default_rng(1)) | disc(0.9, 0.3, 0.3, 0.5, np.random.default_rng(2))
    other = Stem(id="b", x_m=0.9, y_m=0.3, spread_m=0.2, extinction=k)
    one, two = plants_seen(mask, SIZE, [stem("a", 0.3, 0.3), other])
    assert two.lai / one.lai == pytest.approx(0.6 / k, rel=0.03)
